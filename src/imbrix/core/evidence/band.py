"""The band that a driver plays of itself, read from its response in a place that adds modes, reflections and noise.

What a place does to a curve is narrow, or it is low: combs, modes, the gain of a small space. What the driver does is
broad: it rises with one slope and falls with another. So the smooth curve of a driver, in a small space if need be, is
fitted to the measured one so that what sticks out moves it little (P. J. Huber 1964), the less the rougher the curve
is; the ends are those of the fit, where it lies 6 dB under its passband. What is usual for the kind of driver is known
beforehand, and counts as much as an octave or two of rough curve; a resonance from the impedance counts more.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Kind

WITHIN_DB = 6.0
LEAST_OVER_DB = 8.0
_EVERY = 8
"""Every so many points of the grid are fitted: twelve to the octave, of which four say one thing (1/3 octave)."""
_ALIKE = 4.0
_HUBER = 0.5
_STRAY_DB = 1.0
_ROUGH = 2.0
"""A point counts by one over so many times the roughness about it, and at least the stray."""
_MODAL_HZ, _MODAL = 300.0, 2.0
"""Below so many hertz a place does more to a curve than its roughness tells: up to so many times more."""
_SMALL, _OPEN = (16.0, 4.0), (0.0, 1.0)
"""What a small space, or a room or a closed tube, adds at the low end, in decibels, with its spread."""
_AGAINST_DB, _AGAINST_HZ, _AGAINST_OCTAVES = 2.9, 340.0, 0.75
_BESIDE_DB, _BESIDE_HZ, _LOSES_HZ = 1.7, 500.0, 9000.0
"""What the early reflections of a small space do to a third of an octave in the middle of many: see `_reflected`."""
_SMOOTH_DB = 0.3
"""No small space leaves a curve so smooth, by the median of its roughness; a coupler, a gate, the open air do."""
_SHELF_HZ, _SHELF_OCTAVES, _SHELF_STEEP = 60.0, 0.4, 3.0
"""Half a wave fits into some 2.8 m there, the length of a vehicle's inside: below that it is one pressure (closed form
c / 2 l)."""
_RISE_SD, _FALL_SD, _LEVEL_SD = 0.25, 0.5, 20.0
_AGREE = 2.5
_PER_OCTAVE = 20 * np.log10(2.0)


@dataclass(frozen=True, slots=True)
class DriverBand:
    """The ends in hertz, and by how many octaves each may be off (one standard deviation).

    `misfit` says how badly the curve of such a driver fits the measured one: the lower, the likelier the kind.
    """

    low_hz: float
    high_hz: float
    low_octaves: float
    high_octaves: float
    misfit: float

    @property
    def ends_hz(self) -> tuple[float, float]:
        return self.low_hz, self.high_hz


@dataclass(frozen=True, slots=True)
class Usual:
    """What is usual for a kind: its ends in hertz, and the spread of each in octaves (common practice, no source)."""

    low_hz: float
    low_octaves: float
    high_hz: float
    high_octaves: float


USUAL: dict[Kind, Usual] = {
    Kind.SUB: Usual(25, 0.5, 600, 0.55),
    Kind.WOOFER: Usual(36, 0.5, 1500, 0.9),
    Kind.MIDBASS: Usual(52, 0.6, 3200, 0.8),
    Kind.MID: Usual(140, 0.8, 9000, 0.6),
    Kind.TWEETER: Usual(800, 0.7, 22_000, 0.5),
    Kind.FULL: Usual(85, 0.8, 14_000, 0.6),
}


@dataclass(frozen=True, slots=True)
class Points:
    """What is fitted: levels (n,) in dB at octaves (n,) re 1 Hz, each with a weight; `smooth` where no space shows."""

    levels: FloatArray
    octaves: FloatArray
    weights: FloatArray
    smooth: bool = False


def points(response: ComplexArray, frequencies: FloatArray, over_noise_db: FloatArray | None = None) -> Points | None:
    """What of a bare response (n,), NaN where nothing is known, the fit goes by; None where that is too little.

    `over_noise_db` (n,) leaves out what is nearly noise.
    """
    known = np.isfinite(response)
    if over_noise_db is not None:
        known &= over_noise_db >= LEAST_OVER_DB
    if known.sum() < 2 * 96:
        return None
    # Beside a stretch that is not known the smoothing takes silence in: what it took is taken off again.
    share = smooth_power(known.astype(complex), frequencies, 3)
    levels = power_decibels(smooth_power(np.where(known, response, 0.0), frequencies, 3) / np.maximum(share, 1e-3))
    taken = slice(_EVERY // 2, None, _EVERY)
    inside = (known & (share > 0.5))[taken]
    if not inside.any():  # known in shreds: more of each stretch is missing than is there
        return None
    levels, octaves = levels[taken][inside], np.log2(frequencies[taken][inside])
    low = 1 / (1 + (2.0**octaves / _MODAL_HZ) ** 2)
    rough = _roughness(levels, octaves)
    # Where a place shows itself by a rough curve it does broad things too, that no roughness tells.
    stray = (_STRAY_DB + _ROUGH * rough) * (1 + _MODAL * low * rough**2 / (rough**2 + 0.25))
    return Points(levels, octaves, 1 / stray / np.sqrt(_ALIKE), bool(np.median(rough) < _SMOOTH_DB))


def _roughness(levels: FloatArray, octaves: FloatArray) -> FloatArray:
    """How far a curve (n,) strays from a bow through the two octaves about each of its points, in dB rms."""
    first, last = np.searchsorted(octaves, np.stack((octaves - 1.001, octaves + 1.001)))
    places = first[:, None] + np.arange(int((last - first).max()))
    near = places < last[:, None]  # what is beyond a point's two octaves counts as nothing
    places = np.minimum(places, octaves.size - 1)
    terms = (octaves[places] - octaves[:, None])[..., None] ** np.arange(2, -1, -1) * near[..., None]
    about = (levels[places] * near)[..., None]
    across = np.linalg.qr(terms)[0]
    left = about - across @ (np.swapaxes(across, 1, 2) @ about)
    return np.asarray(np.sqrt(np.sum(left[..., 0] ** 2, axis=1) / near.sum(axis=1)))


def driver_band(
    shown: Points,
    kind: Kind,
    passive_to: Kind | None = None,
    resonance_hz: float | None = None,
    span_hz: tuple[float, float] = (20.0, 20_000.0),
) -> DriverBand:
    """The band of a driver of a kind, its ends kept within `span_hz`.

    `passive_to` is a higher way that plays with it, `resonance_hz` that found in its impedance.
    """
    own, above = USUAL[kind], USUAL[passive_to or kind]
    # An end is 3 dB down where the usual slope of 12 dB per octave is 6 dB down 0.4 octaves further out.
    low, low_sd = np.log2(own.low_hz) + 0.4, own.low_octaves
    if resonance_hz is not None:
        low, low_sd = np.log2(resonance_hz) + 0.15, 0.25  # in its place a driver resonates a little higher
    high, high_sd = np.log2(above.high_hz) - 0.4, above.high_octaves
    usual = (low, low_sd), (high, high_sd)
    tried = [_fitted(shown, *usual, _OPEN, span_hz)]
    if not shown.smooth:
        alone = replace(shown, levels=shown.levels - _reflected(shown.octaves))
        tried.insert(0, _fitted(alone, *usual, _SMALL, span_hz))
    return min(tried, key=lambda one: one.misfit)


def _reflected(octaves: FloatArray) -> FloatArray:
    """What the early reflections of a small space add to the level of a driver, in dB (n,), in the middle of many.

    Half a metre longer is the way of most: half a wave about 340 Hz, so that they take away there what they add as so
    much power higher up, until what they meet takes their highs. What they add in phase below is part of the space's
    gain. (The mean of 140 drivers in vehicles drawn from numbers, with reflections from 0.1 m of extra path on, 3 to
    15 dB under the direct sound; no other source.)
    """
    hertz = 2.0**octaves
    against = _AGAINST_DB * np.exp(-0.5 * ((octaves - np.log2(_AGAINST_HZ)) / _AGAINST_OCTAVES) ** 2)
    beside = _BESIDE_DB / (1 + (_BESIDE_HZ / hertz) ** 4)
    return np.asarray(beside - against - 10 * np.log10(1 + (hertz / _LOSES_HZ) ** 2))


def _fitted(
    shown: Points,
    low: tuple[float, float],
    high: tuple[float, float],
    shelf: tuple[float, float],
    span_hz: tuple[float, float],
) -> DriverBand:
    """The fit with low end, high end (octaves) and shelf (dB) usual so, each with its spread."""
    loud = float(np.percentile(shown.levels, 75))
    middle = np.array([loud, low[0], 2.0, high[0], 2.0, shelf[0], np.log2(_SHELF_HZ)])
    spread = np.array([_LEVEL_SD, low[1], _RISE_SD, high[1], _FALL_SD, shelf[1], _SHELF_OCTAVES])
    least = np.array([loud - 60, 2.0, 0.8, 5.5, 0.7, -6.0, 4.8])
    most = np.array([loud + 30, 13.5, 4.5, 15.5, 5.0, 20.0, 7.8])
    begin = np.clip(middle, least, most)  # an odd resonance may lie beyond what is looked through

    def residuals(values: FloatArray) -> FloatArray:
        stray = (shown.levels - _curve(values, shown.octaves)[0]) * shown.weights
        return np.concatenate((_huber(stray)[0], (values - middle) / spread))

    def slopes(values: FloatArray) -> FloatArray:
        level, by = _curve(values, shown.octaves)
        steep = _huber((shown.levels - level) * shown.weights)[1]
        return np.concatenate((-(steep * shown.weights)[:, None] * by, np.diag(1 / spread)))

    enough = {"ftol": 1e-4, "xtol": 1e-4, "max_nfev": 30}
    found = scipy.optimize.least_squares(residuals, begin, slopes, (least, most), x_scale=spread, **enough)
    sd = np.sqrt(np.diag(np.linalg.pinv(found.jac.T @ found.jac)))
    beyond = np.log2(10 ** (WITHIN_DB / 10) - 1) / 2
    ends = found.x[1] - beyond / found.x[2], found.x[3] + beyond / found.x[4]
    low_hz, high_hz = (float(np.clip(2.0**end, *span_hz)) for end in ends)
    return DriverBand(low_hz, max(high_hz, low_hz), float(sd[1]), float(sd[3]), float(2 * found.cost))


def together(own: DriverBand, others: Sequence[DriverBand]) -> DriverBand:
    """What several takes show of one driver, or of two that are alike: the mean of each end in octaves, each take by
    the inverse of its variance.

    An end that lies further from the own one than both spreads allow (`_AGREE` of them) is left out: it is another
    driver's, or one of the two is not as it should be. Ends of which nothing is known do not count.

    The spread falls as if takes erred independently of each other. They do so by a third only, but say more than they
    are off by: in 348 drawn pairs a take by itself was off by 0.64 of its spread (rms), both together by 0.85.
    """
    low, low_sd = _mean_end([(one.low_hz, one.low_octaves) for one in (own, *others)])
    high, high_sd = _mean_end([(one.high_hz, one.high_octaves) for one in (own, *others)])
    return replace(own, low_hz=low, high_hz=max(high, low), low_octaves=low_sd, high_octaves=high_sd)


def _mean_end(ends: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """Hertz and spread in octaves of the mean of ends, the own one first."""
    own_hz, own_sd = ends[0]
    if not np.isfinite(own_sd):
        return ends[0]
    agreeing = [
        (np.log2(hertz / own_hz), 1 / sd**2)
        for hertz, sd in ends
        if np.isfinite(sd) and abs(np.log2(hertz / own_hz)) <= _AGREE * np.hypot(own_sd, sd)
    ]
    weights = sum(weight for _, weight in agreeing)
    octaves = sum(apart * weight for apart, weight in agreeing) / weights
    return float(own_hz * 2.0**octaves), float(weights**-0.5)


def misfits(shown: Points, known: Mapping[Kind, DriverBand] | None = None) -> dict[Kind, float]:
    """By kind of driver, how badly its curve fits what is shown; `known` are those that were fitted already."""
    return {kind: ((known or {}).get(kind) or driver_band(shown, kind)).misfit for kind in Kind}


def _curve(values: FloatArray, octaves: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Level (n,) in dB of a driver in a small space, and what it changes by with each value (n, 7).

    The values are its passband's level, low end and rise, high end and fall (in octaves and 6 dB per octave), and the
    shelf that the space adds, with its corner.
    """
    level, low, rise, high, fall, shelf, corner = values
    up, down = 2.0 ** (2 * rise * (low - octaves)), 2.0 ** (2 * fall * (octaves - high))
    gain = 1 / (1 + 2.0 ** (_SHELF_STEEP * (octaves - corner)))
    shown = level - 10 * np.log10((1 + up) * (1 + down)) + shelf * gain
    under, over = _PER_OCTAVE * up / (1 + up), _PER_OCTAVE * down / (1 + down)
    by = np.empty((octaves.size, 7))
    by[:, 0] = 1
    by[:, 1], by[:, 2] = -rise * under, -(low - octaves) * under
    by[:, 3], by[:, 4] = fall * over, -(octaves - high) * over
    by[:, 5], by[:, 6] = gain, shelf * _SHELF_STEEP * np.log(2) * gain * (1 - gain)
    return shown, by


def _huber(stray: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Residuals (n,) whose squares are Huber's loss, and their slopes (n,): far off, one pulls no harder than near."""
    size = np.abs(stray)
    far = size > _HUBER
    root = np.sqrt(np.where(far, 2 * _HUBER * size - _HUBER**2, 1.0))
    return np.where(far, np.sign(stray) * root, stray), np.where(far, _HUBER / root, 1.0)
