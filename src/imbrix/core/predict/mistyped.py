"""Which single setting of a channel stands otherwise than it should, by what was measured over what was predicted.

The driver cancels out of that ratio: what is left is the filter that is there over the filter that was meant. Each
setting is varied by itself, the rest stays; the one that leaves least is named.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
import scipy  # its optimisers load at first use: the start need not wait for them

from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.tune.changes import band_words, crossover_words
from imbrix.core.tune.crossover import SLOPES
from imbrix.core.tune.fir import LINEAR_SLOPES
from imbrix.core.tune.tune import Band, Channel, Crossover

FAR = 1.2
"""An error in nepers (10 dB, 70 degrees) beyond which a point counts no more: a dip is there or it is not."""
COARSE = 24
"""So many values of a setting are looked at before the best of them is refined."""
STRETCH_S = 1e-3
"""Delays are looked through in stretches: within the whole span the treble has many least places."""
FEWER = 0.004
"""Nepers rms by which a simpler explanation (a gain, a polarity) may be worse and still be the one named."""


@dataclass(frozen=True)
class Mistyped:
    """A setting that seems to stand otherwise: `what` it is, what it `should` say and what it seems to say (`stands`).

    `before` and `left` are the rms differences in dB without and with it; `channel` is as it seems to be set.
    """

    what: str
    should: str
    stands: str
    before: float
    left: float
    channel: Channel


@dataclass(frozen=True)
class _Try:
    """A way in which one setting may stand otherwise: by a value, within a span, or as it is.

    `channel` is the whole channel with it, `alone` a channel of nothing but that setting: what both do differs by the
    same from what was meant, and little is computed.
    """

    what: str
    should: str
    stands: Callable[[Channel], str]
    channel: Callable[[float], Channel]
    alone: Callable[[Channel], Channel]
    span: tuple[float, float] | None = None
    simple: bool = False


def mistyped(ratio: ComplexArray, weights: FloatArray, channel: Channel, predictor: Predictor) -> Mistyped | None:
    """The single setting of a channel that best explains a ratio (n,) of measured over predicted.

    Parameters
    ----------
    ratio : where its imaginary part is zero throughout, levels alone are compared (a take that keeps no time).
    weights : (n,), how much each point tells; 0 where the channel is not heard over the noise.
    channel : as it was meant.
    predictor : on the frequencies of the ratio, at the processor's rate.

    Returns None where nothing is heard. Whether what is found explains enough is for the caller to say.
    """
    told = (weights > 0) & np.isfinite(ratio) & (np.abs(ratio) > 1e-9)
    if not told.any():
        return None
    heard = np.log(ratio[told])
    timed = bool(np.any(ratio[told].imag != 0))
    share = weights[told] / weights[told].sum()
    only = Predictor(predictor.frequencies[told], predictor.rate)

    def left(changed: ComplexArray) -> FloatArray:
        """Mean square of what a change of the filter (..., n), as its logarithm, leaves unexplained."""
        stray = heard - changed
        turned = stray.imag - 2 * np.pi * np.round(stray.imag / (2 * np.pi)) if timed else 0.0
        return np.asarray(np.minimum(stray.real**2 + turned**2, FAR**2) @ share)

    before = np.sqrt(float(left(np.zeros(heard.size, complex))))
    found = [
        (np.sqrt(cost), one, value)
        for one in _tries(channel, timed)
        for cost, value in [_best(one, channel, left, only)]
    ]
    best = min(cost for cost, _one, _value in found)
    near = [each for each in found if each[0] <= best + FEWER]
    cost, one, value = min(near, key=lambda each: (not each[1].simple, each[0]))
    stands = one.channel(value)
    to_db = 20 / np.log(10)
    return Mistyped(one.what, one.should, one.stands(stands), before * to_db, cost * to_db, stands)


Left = Callable[[ComplexArray], FloatArray]


def _best(one: _Try, meant: Channel, left: Left, only: Predictor) -> tuple[float, float]:
    """Least cost of a way, and the value at which it is."""
    base = only.channel(one.alone(meant))

    def changed(values: FloatArray) -> ComplexArray:
        return np.log(only.channels([one.alone(one.channel(float(value))) for value in values]) / base)

    if one.span is None:
        return float(left(changed(np.zeros(1)))[0]), 0.0
    values = np.linspace(*one.span, COARSE)
    costs = left(changed(values))
    n = int(np.argmin(costs))
    around = values[max(n - 1, 0)], values[min(n + 1, COARSE - 1)]
    fine = scipy.optimize.minimize_scalar(
        lambda value: float(left(changed(np.array([value])))[0]),
        bounds=around,
        method="bounded",
        options={"maxiter": 16},
    )
    return (float(fine.fun), float(fine.x)) if fine.fun < costs[n] else (float(costs[n]), float(values[n]))


def _tries(channel: Channel, timed: bool) -> Iterator[_Try]:
    """All single settings that may stand otherwise, and how."""

    def put(**values: object) -> Channel:
        return channel.model_copy(update=values)

    def plain(one: Channel) -> Channel:
        return Channel(gain_db=one.gain_db, inverted=one.inverted, delay_s=one.delay_s)

    def gain(one: Channel) -> str:
        return f"{one.gain_db:+.1f} dB"

    yield _Try("gain", gain(channel), gain, lambda x: put(gain_db=x), plain, (-40.0, 12.0), simple=True)
    if timed:
        way = {True: "inverted", False: "normal"}
        should = way[channel.inverted]
        turned = put(inverted=not channel.inverted)
        yield _Try("polarity", should, lambda one: way[one.inverted], lambda _x: turned, plain, simple=True)
        for begin in np.arange(0.0, 20e-3, STRETCH_S):
            span = float(begin), float(begin) + STRETCH_S
            yield _Try("delay", _ms(channel), _ms, lambda x: put(delay_s=x), plain, span, simple=True)
    for end, name in (("high_pass", "high-pass"), ("low_pass", "low-pass")):
        yield from _ends(channel, end, name)
    for n, band in enumerate(channel.bands):
        if not band.off:
            yield from _bands(channel, n, band)


def _ms(channel: Channel) -> str:
    return f"{channel.delay_s * 1e3:.2f} ms"


def _ends(channel: Channel, end: str, name: str) -> Iterator[_Try]:
    now: Crossover | None = getattr(channel, end)
    if now is None:
        return
    should = crossover_words(now)

    def words(one: Channel) -> str:
        found: Crossover | None = getattr(one, end)
        return crossover_words(found and found.model_copy(update={"corner_hz": _rounded(found.corner_hz)}))

    def put(**values: object) -> Channel:
        return channel.model_copy(update={end: now.model_copy(update=values)})

    def alone(one: Channel) -> Channel:
        return Channel().model_copy(update={end: getattr(one, end)})

    middle = np.log(now.corner_hz)
    span = max(np.log(10.0), middle - np.log(20)), min(np.log(24_000.0), middle + np.log(20))
    yield _Try(name, should, words, lambda x: put(corner_hz=float(np.exp(x))), alone, span)
    yield _Try(name, should, words, lambda _x: channel.model_copy(update={end: None}), alone)
    for shape, slopes in {"linkwitz-riley": LINEAR_SLOPES}.items() if now.taps else SLOPES.items():
        for slope in slopes:
            if (shape, slope) != (now.shape, now.slope_db):
                yield _Try(name, should, words, lambda _x, s=shape, db=slope: put(shape=s, slope_db=db), alone)  # type: ignore[misc]


def _bands(channel: Channel, n: int, band: Band) -> Iterator[_Try]:
    name, should = f"band {n + 1}", band_words(band)

    def words(one: Channel) -> str:
        return band_words(one.bands[n])

    def put(**values: object) -> Channel:
        bands = (*channel.bands[:n], band.model_copy(update=values), *channel.bands[n + 1 :])
        return channel.model_copy(update={"bands": bands})

    def alone(one: Channel) -> Channel:
        return Channel(bands=one.bands[n : n + 1])

    middle = np.log(band.frequency_hz)
    span = max(np.log(10.0), middle - np.log(20)), min(np.log(22_000.0), middle + np.log(20))
    yield _Try(name, should, words, lambda x: put(frequency_hz=float(np.exp(x))), alone, span)
    yield _Try(name, should, words, lambda _x: put(off=True), alone)
    if band.has_gain:
        yield _Try(name, should, words, lambda x: put(gain_db=x), alone, (-24.0, 15.0))
    if band.kind != "all_pass_1":
        yield _Try(name, should, words, lambda x: put(q=float(np.exp(x))), alone, (np.log(0.2), np.log(20.0)))


def _rounded(hertz: float) -> float:
    """A corner as a person would have typed it: to three figures."""
    return float(f"{hertz:.3g}")
