"""A fit of gain and peaking bands as a problem of least squares, with its exact Jacobian.

The bell of the Audio EQ Cookbook is the bilinear transform of (s^2 + s A/Q + 1) / (s^2 + s/(A Q) + 1). On the
unit circle s = j W with W = tan(pi f / rate) / tan(pi f0 / rate), hence, with u = (W - 1/W)^2,
|H|^2 = (u + A^2/Q^2) / (u + 1/(A^2 Q^2)): the digital filter's own level in closed form.
"""

import numpy as np
from pydantic import Field

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import FloatArray
from imbrix.core.signal.smoothing import smooth
from imbrix.core.value import Value

_LN10_20 = np.log(10.0) / 20.0
_PER_DB = 10.0 / np.log(10.0)
OVER_WEIGHT = 4.0


class Weight(Value):
    """How much a span of a fit counts beside the rest, which counts 1; 0 leaves it out."""

    low_hz: float = Field(ge=1, le=200_000)
    high_hz: float = Field(ge=1, le=200_000)
    weight: float = Field(ge=0, le=100)


class FitLimits(Value):
    """What a fit may do. `low_hz` and `high_hz` bound the span that is judged and the bands' frequencies.

    Without a `count` there are as many bands as whoever asks finds right, here six. Over several places none stands
    more than `worst_db` over what is wanted. Where `weights` meet, the last one counts.
    """

    count: int | None = Field(default=None, ge=0, le=31)
    boost_db: float = Field(default=3.0, ge=0, le=200)
    cut_db: float = Field(default=12.0, ge=0, le=200)
    least_q: float = Field(default=0.5, ge=0.01, le=100)
    most_q: float = Field(default=6.0, ge=0.01, le=100)
    low_hz: float = Field(default=20.0, ge=1, le=200_000)
    high_hz: float = Field(default=20_000.0, ge=1, le=200_000)
    least_gain_db: float = -40.0
    most_gain_db: float = 6.0
    worst_db: float = Field(default=6.0, ge=0, le=60)
    weights: tuple[Weight, ...] = Field(default=(), max_length=8)


class FitProblem:
    """The wanted correction on a span, as residuals and Jacobian over x = [gain, gains, ln f, ln Q].

    `wanted_db` (n,) is what gain and bands together should do: over several places their mean, and `least_db` (n,) is
    what the place that wants least wants. Residuals are in dB, with a second set for a summed boost above the limit,
    and a third for that place where it is given. `steady` is what a decibel of gain off the mean costs. `lifted_db`
    (n,) is what others lift already: bells and they together keep the limit, those that lift more get nothing more.
    """

    def __init__(
        self,
        wanted_db: FloatArray,
        frequencies: FloatArray,
        limits: FitLimits,
        rate: int,
        least_db: FloatArray | None = None,
        steady: float = 0.0,
        lifted_db: FloatArray | None = None,
    ) -> None:
        inside = (frequencies >= limits.low_hz) & (frequencies <= limits.high_hz) & np.isfinite(wanted_db)
        if inside.sum() < 4:
            raise InvalidError(f"no curve to fit between {limits.low_hz:g} and {limits.high_hz:g} Hz")
        self.limits = limits
        self.rate = rate
        thin = max(1, inside.sum() // 160)
        self.frequencies = frequencies[inside][::thin]
        self.wanted = wanted_db[inside][::thin]
        self.highest = None if least_db is None else least_db[inside][::thin] + limits.worst_db
        self.shares = _shares(self.frequencies, limits.weights)
        self._scale = 1.0 / np.sqrt(self.frequencies.size)
        self._steady = steady
        lifted = 0.0 if lifted_db is None else np.maximum(lifted_db[inside][::thin], 0.0)
        self.ceiling = np.maximum(limits.boost_db - lifted, 0.0) * np.ones(self.frequencies.size)
        self.over_weight = OVER_WEIGHT
        self.middle = float(np.average(self.wanted, weights=self.shares))
        self._tan = np.tan(np.pi * self.frequencies / rate)

    def bounds(self, count: int) -> tuple[FloatArray, FloatArray]:
        """Lower and upper bounds (1 + 3 count,)."""
        lim = self.limits
        low, high = np.log(self.frequencies[[0, -1]])
        lower = [lim.least_gain_db, *[-lim.cut_db] * count, *[low] * count, *[np.log(lim.least_q)] * count]
        upper = [
            lim.most_gain_db,
            *[lim.boost_db + 1e-9] * count,
            *[high] * count,
            *[np.log(lim.most_q)] * count,
        ]
        return np.array(lower), np.array(upper)

    def _bells(self, x: FloatArray) -> tuple[FloatArray, ...]:
        count = x.size // 3
        gains, logs, qs = x[1 : 1 + count, None], x[1 + count : 1 + 2 * count, None], x[1 + 2 * count :, None]
        centre = np.exp(logs)
        turn = np.pi * centre / self.rate
        w = self._tan / np.tan(turn)
        u = (w - 1.0 / w) ** 2
        a2 = np.exp(gains * _LN10_20)
        iq2 = np.exp(-2.0 * qs)
        up, down = a2 * iq2, iq2 / a2
        top, bottom = u + up, u + down
        return w, turn, up, down, top, bottom

    def bands_db(self, x: FloatArray) -> FloatArray:
        """Sum of the bells (n,) in dB, without the gain."""
        *_, top, bottom = self._bells(x)
        return _PER_DB * np.log(top / bottom).sum(axis=0)

    def residuals(self, x: FloatArray) -> FloatArray:
        """Weighted residuals (2 n + 1,), or (3 n + 1,) where the worst of several places counts."""
        bells = self.bands_db(x)
        parts = [
            (x[0] + bells - self.wanted) * np.sqrt(self.shares),
            np.maximum(bells - self.ceiling, 0.0) * self.over_weight,
        ]
        if self.highest is not None:
            parts.append(np.fmax(x[0] + bells - self.highest, 0.0) * OVER_WEIGHT)
        return np.append(np.concatenate(parts) * self._scale, (x[0] - self.middle) * self._steady)

    def jacobian(self, x: FloatArray) -> FloatArray:
        """Derivatives of the residuals, each by the 1 + 3 count variables."""
        w, turn, up, down, top, bottom = self._bells(x)
        bells = _PER_DB * np.log(top / bottom).sum(axis=0)
        by_gain = _PER_DB * _LN10_20 * (up / top + down / bottom)
        by_q = -2.0 * _PER_DB * (up / top - down / bottom)
        by_log = _PER_DB * (1.0 / top - 1.0 / bottom) * 2.0 * (w * w - 1.0 / (w * w)) * (-2 * turn / np.sin(2 * turn))
        slopes = np.concatenate((np.ones((1, w.shape[1])), by_gain, by_log, by_q)).T
        held = slopes.copy()
        held[:, 0] = 0.0
        over = (bells > self.ceiling) * self.over_weight
        parts = [slopes * np.sqrt(self.shares)[:, None], held * over[:, None]]
        if self.highest is not None:
            parts.append(slopes * ((x[0] + bells > self.highest) * OVER_WEIGHT)[:, None])
        return np.vstack((*(part * self._scale for part in parts), self._steady * (np.arange(x.size) == 0)))

    def cost(self, x: FloatArray) -> float:
        """Root of the summed squared residuals, which is the rms in dB with the penalty."""
        return float(np.sqrt(np.sum(self.residuals(x) ** 2)))

    def best_gain(self, bells: FloatArray) -> float:
        """The gain that goes best with what the bells do (n,)."""
        least, most = self.limits.least_gain_db, self.limits.most_gain_db
        gain = np.clip(np.average(self.wanted - bells, weights=self.shares), least, most)
        if self.highest is None:
            return float(gain)
        # Where a place stands too high the gain comes down: the squares of what is over count beside the mean.
        for _ in range(20):
            over = gain + bells > self.highest
            weights = np.concatenate((self.shares, over * OVER_WEIGHT**2))
            wanted = np.concatenate((self.wanted - bells, np.where(over, self.highest - bells, 0.0)))
            gain = np.clip(np.average(wanted, weights=weights), least, most)
        return float(gain)

    def refine(self, x: FloatArray, steps: int, hold: bool = False) -> FloatArray:
        """At most `steps` bounded Levenberg-Marquardt steps from `x`; on `hold` the gain stays.

        D. W. Marquardt (1963), with the variables that a bound holds left out of each step (a projected method,
        as in C. T. Kelley, Iterative Methods for Optimization, 1999). scipy's least_squares finds the same
        minima, but at a cost for each call that leaves no time to refine after every bell.
        """
        lower, upper = self.bounds(x.size // 3)
        x = np.minimum(np.maximum(x, lower), upper)
        left = self.residuals(x)
        cost = float(left @ left)
        damping = 1e-3
        for _ in range(steps):
            slopes = self.jacobian(x)
            gradient = slopes.T @ left
            curvature = slopes.T @ slopes
            free = ~((x <= lower) & (gradient > 0) | (x >= upper) & (gradient < 0))
            free[0] &= not hold
            if not free.any():
                break
            part = curvature[np.ix_(free, free)]
            gained = 0.0
            for _ in range(8):
                step = np.zeros(x.size)
                scaled = part.copy()
                np.fill_diagonal(scaled, part.diagonal() * (1 + damping) + 1e-12)
                step[free] = -np.linalg.solve(scaled, gradient[free])
                tried = np.minimum(np.maximum(x + step, lower), upper)
                found = self.residuals(tried)
                tried_cost = float(found @ found)
                if tried_cost < cost:
                    gained = cost - tried_cost
                    x, left, cost = tried, found, tried_cost
                    damping = max(damping / 5, 1e-9)
                    break
                damping *= 4
            if gained <= 1e-6 * cost:
                break
        return x

    def staged(self, count: int, broad: float, top: bool = False) -> FloatArray:
        """Bells placed one after another where the most is left to do, all of them moved a little after each.

        `broad` is 1/n of the window in octaves through which the remainder is looked at. On `top` the gain is held
        where the bells need but cut, until all are placed.
        """
        lim = self.limits
        begin = smooth(self.wanted, self.frequencies, 4.0).max() if top else self.middle
        x = np.clip([begin], lim.least_gain_db, lim.most_gain_db)
        for _ in range(count):
            x = self.refine(self.with_bell(x, broad), 4, hold=top)
        return self.refine(x, 8) if top else x

    def thinned(self, x: FloatArray, count: int) -> FloatArray:
        """`x` with no more bells than `count`: those go whose work the others do best, tried in pairs."""
        while x.size // 3 > count:
            *_, top, bottom = self._bells(x)
            each = _PER_DB * np.log(top / bottom)
            left = x[0] + each.sum(axis=0) - each - self.wanted
            left -= np.average(left, axis=1, weights=self.shares)[:, None]
            least = np.argsort(np.mean(left**2 * self.shares, axis=1))[:2]
            without = [np.append(x[:1], np.delete(x[1:].reshape(3, -1), bell, axis=1)) for bell in least]
            x = min((self.refine(one, 3) for one in without), key=self.cost)
        return x

    def with_bell(self, x: FloatArray, broad: float) -> FloatArray:
        """`x` with one more bell where most is left to do."""
        lim = self.limits
        octaves = np.log2(self.frequencies)
        now = x[0] + self.bands_db(x)
        left = self.wanted - now
        if self.highest is not None:  # where a place stands too high that counts for more than the mean
            left = np.where(now > self.highest, np.fmin(left, (self.highest - now) * OVER_WEIGHT), left)
        level = smooth(left, self.frequencies, broad)
        # Where no more may be boosted, or cut, there is nothing to be done about what is left.
        most, least = np.maximum(self.ceiling, 0.1), -max(lim.cut_db, 0.1)
        worth = np.abs(np.clip(level, least, most)) * np.sqrt(self.shares)
        at = int(np.argmax(worth))
        gain = float(np.clip(level[at], least, most[at]))
        half = np.sign(level[at]) * level < abs(level[at]) / 2
        below, above = np.flatnonzero(half[:at]), np.flatnonzero(half[at:])
        start = octaves[below[-1]] if below.size else octaves[0] - 0.2
        end = octaves[at + above[0]] if above.size else octaves[-1] + 0.2
        q = np.clip(1.0 / max(float(end - start), 0.05), lim.least_q, lim.most_q)
        new = (gain, np.log(self.frequencies[at]), np.log(q))
        rows = [np.append(row, one) for row, one in zip(x[1:].reshape(3, -1), new, strict=True)]
        return np.concatenate((x[:1], *rows))


def _shares(frequencies: FloatArray, weights: tuple[Weight, ...]) -> FloatArray:
    """How much each frequency (n,) counts, 1 in the mean. Raises InvalidError where nothing does."""
    shares = np.ones(frequencies.size)
    for one in weights:
        shares[(frequencies >= one.low_hz) & (frequencies <= one.high_hz)] = one.weight
    if not shares.any():
        raise InvalidError("the weights of the fit leave nothing that counts")
    return shares / shares.mean()
