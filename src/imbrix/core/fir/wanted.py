"""What FIR taps have to do to a way: the phase and the magnitude that they add, on the common grid.

Of several places the mean is corrected, each referred to its own arrival; where they disagree, what there is belongs to
the place and not to the way: it is bridged, and said.
"""

from dataclasses import dataclass

import numpy as np

from imbrix.core.fir.wish import Phase, Wish
from imbrix.core.signal.minimum_phase import STEP, bode_phase
from imbrix.core.signal.response import time_shift
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth, smooth_power

SMOOTHING = 12
"""How finely a way is judged, whatever it is corrected by."""
STEADY = 0.6
"""Share of the energy that has to be common to all places for something to be corrected."""
FADE_OCTAVES = 0.5
WITHIN_S = 0.005
WEAK_DB = 30.0
"""What lies further below the loudest is not looked at for the arrival."""


@dataclass(frozen=True)
class Way:
    """A way about its arrival: `response` (n,) with `arrival_s` taken out, smoothed, its level about one; the phase
    `aim` (n,) that it is to have, of a pulse that comes at once or of the minimum that its level implies; whether its
    pulse points downwards; where (n,) all places agree about it; and whether it is `alone`, its aim its own."""

    response: ComplexArray
    aim: FloatArray
    arrival_s: float
    inverted: bool
    steady: np.ndarray
    alone: bool = True

    @property
    def strays(self) -> ComplexArray:
        """The response (n,) about its aim: real and positive where it is what it shall be."""
        turned = self.response * np.exp(-1j * self.aim)
        return -turned if self.inverted else turned


@dataclass(frozen=True)
class Wanted:
    """What the taps add on the grid: `phase` (n,) in radians beside their delay, `lift_db` (n,), and where (n,) what is
    there was left out."""

    phase: FloatArray
    lift_db: FloatArray
    left_out: np.ndarray


def way(
    responses: ComplexArray,
    frequencies: FloatArray,
    span_hz: tuple[float, float],
    kind: Phase,
    about_s: float = 0.0,
    points: int = 0,
    aim: FloatArray | None = None,
    smoothing: int = SMOOTHING,
) -> Way:
    """A way from its responses (p, n) at several places, in a span, each of which arrives within 5 ms of `about_s`.

    `points` is +1 or -1 where it is known which way its pulse points; what explains its phase better is taken where
    that is 0. `aim` (n,) is the phase that it shall have in company; that of its own where it is None. It is smoothed
    over one `smoothing`-th of an octave.
    """
    inside = (frequencies >= span_hz[0]) & (frequencies <= span_hz[1])
    here = np.exp(2j * np.pi * frequencies * about_s)
    turned, levels, arrivals = [], [], []
    for one in np.nan_to_num(responses) * here:
        size = np.abs(one)
        heard = inside & (size > size[inside].max() * 10 ** (-WEAK_DB / 20))
        bent = one * np.exp(-1j * (aim_of(one, frequencies, kind, smoothing) if aim is None else aim))
        late, sign = _comes(size[heard], bent[heard], frequencies[heard], points)
        points = points or sign  # as at the first place
        turned.append(one * np.exp(2j * np.pi * frequencies * late))
        levels.append(float(np.sqrt(np.mean(size[inside] ** 2))))
        arrivals.append(about_s + late)
    stack = np.array(turned) / np.array(levels)[:, None]
    mean = smooth(stack.mean(axis=0), frequencies, smoothing)
    alone = aim is None
    aim = aim_of(mean, frequencies, kind, smoothing) if aim is None else aim
    energy = np.mean([smooth_power(one, frequencies, 3) for one in stack], axis=0)
    common = smooth_power(stack.mean(axis=0), frequencies, 3) / np.maximum(energy, 1e-30)
    steady = common >= STEADY if len(stack) > 1 else np.ones(frequencies.size, bool)
    return Way(mean, aim, arrivals[0], points < 0, steady, alone)


def _comes(size: FloatArray, bent: ComplexArray, frequencies: FloatArray, points: int) -> tuple[float, int]:
    """When a response (n,) comes whose pulse points one way, or either, and which way that is."""
    found = []
    for sign in (points,) if points else (1, -1):
        late = time_shift(size.astype(complex), sign * bent, frequencies, WITHIN_S)
        agrees = np.real(np.sum(sign * bent * size * frequencies * np.exp(2j * np.pi * frequencies * late)))
        found.append((float(agrees), late, sign))
    return max(found)[1:]


def aim_of(response: ComplexArray, frequencies: FloatArray, kind: Phase, smoothing: int = SMOOTHING) -> FloatArray:
    """The phase (n,) that a response is to have: none, or the minimum that its level implies."""
    if kind == "linear":
        return np.zeros(frequencies.size)
    size = np.sqrt(smooth_power(response, frequencies, smoothing))
    return _minimum(decibels(np.maximum(size, size.max() * 1e-4)))


def wanted(
    one: Way, frequencies: FloatArray, wish: Wish, target_db: FloatArray, dips_db: FloatArray | float = 0.0
) -> Wanted:
    """What taps have to do to a way. `target_db` (n,) is the shape that it shall have, at any level; `dips_db` (n,),
    zero or less, are those that belong to the place: they are not lifted."""
    inside = (frequencies >= wish.low_hz) & (frequencies <= wish.high_hz)
    use = inside & one.steady
    lift = np.zeros(frequencies.size)
    if wish.magnitude and use.any():
        lift = target_db - power_decibels(smooth_power(one.response, frequencies, wish.smoothing)) + dips_db
        lift -= np.median(lift[use])
        boost, cut, tolerance = wish.limits_at(frequencies)
        lift = _bridged(lift, use)
        lift = np.sign(lift) * np.maximum(np.abs(lift) - tolerance, 0.0)
        lift = np.clip(lift, -cut, boost)
        lift = lift * _fade(frequencies, wish)
    phase = np.zeros(frequencies.size)
    if wish.phase != "keep":
        phase = -_limited(_phase_of(one), frequencies, wish)
        phase = _faded(_bridged(phase, use), frequencies, wish)
    # The level that is lifted brings its minimum phase along, where that was not aimed at already.
    if wish.magnitude and (wish.phase == "keep" or (wish.phase == "excess" and one.alone)):
        phase = phase + _minimum(lift)
    return Wanted(phase, lift, inside & ~one.steady)


def _phase_of(one: Way) -> FloatArray:
    """The phase (n,) that is to go, about no turns where it is loudest."""
    phase = np.unwrap(np.angle(one.strays))
    weight = np.abs(one.response) ** 2
    turns = np.round(np.sum(weight * phase) / np.sum(weight) / (2 * np.pi))
    return np.asarray(phase - 2 * np.pi * turns)


def _minimum(level_db: FloatArray) -> FloatArray:
    """The minimum phase (n,) of a level on the common grid, which goes on beyond its ends as it ends."""
    nepers = level_db * np.log(10) / 20
    ends = [float(np.clip(np.polyfit(np.arange(24) * STEP, nepers[end], 1)[0], -8, 8)) for end in (_LOW, _HIGH)]
    return bode_phase(nepers, (float(nepers[0]), ends[0]), (float(nepers[-1]), ends[1]))


_LOW, _HIGH = slice(0, 24), slice(-24, None)


def _limited(phase: FloatArray, frequencies: FloatArray, wish: Wish) -> FloatArray:
    """The phase as far as it is no more delay, either way, than is to be corrected."""
    most = 2 * np.pi * frequencies * wish.group_delay_ms / 1e3
    return np.asarray(np.clip(phase, -most, most))


def _bridged(values: FloatArray, use: np.ndarray) -> FloatArray:
    """Values (n,) with those that are not to be used in a straight line from one that is to the next."""
    at = np.flatnonzero(use)
    return values if not at.size else np.interp(np.arange(values.size), at, values[at])


def _fade(frequencies: FloatArray, wish: Wish) -> FloatArray:
    """One in the span, zero half an octave beyond it."""
    below = np.log2(wish.low_hz / frequencies) / FADE_OCTAVES
    above = np.log2(frequencies / wish.high_hz) / FADE_OCTAVES
    return np.asarray(np.cos(0.5 * np.pi * np.clip(np.maximum(below, above), 0, 1)) ** 2)


def _faded(phase: FloatArray, frequencies: FloatArray, wish: Wish) -> FloatArray:
    """The phase that beyond the span goes to the nearest whole turn, where nothing is done."""
    share = _fade(frequencies, wish)
    first, last = (int(np.searchsorted(frequencies, at)) for at in (wish.low_hz, wish.high_hz))
    last = min(last, frequencies.size - 1)
    turns = np.empty(frequencies.size)
    middle = (first + last) // 2
    turns[:middle] = 2 * np.pi * np.round(phase[first] / (2 * np.pi))
    turns[middle:] = 2 * np.pi * np.round(phase[last] / (2 * np.pi))
    outside = (frequencies < wish.low_hz) | (frequencies > wish.high_hz)
    held = np.where(frequencies < wish.low_hz, phase[first], np.where(outside, phase[last], phase))
    return np.asarray(np.where(outside, turns + share * (held - turns), phase))
