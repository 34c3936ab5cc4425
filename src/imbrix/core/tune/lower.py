"""A tune lowered to what a processor runs: gain, whole samples of delay, second-order sections and FIR taps.

Prediction, the stand-in processor and the coefficient export all take their numbers from here, so that
they cannot disagree.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune import biquad
from imbrix.core.tune.biquad import Section
from imbrix.core.tune.crossover import sections
from imbrix.core.tune.fir import linear_taps
from imbrix.core.tune.routing import input_of
from imbrix.core.tune.tune import Band, Channel, Input, Tune

DESIGN = {
    "peaking": biquad.peaking,
    "low_shelf": biquad.low_shelf,
    "high_shelf": biquad.high_shelf,
}
LEVELLESS = {"all_pass": biquad.all_pass, "notch": biquad.notch}


@dataclass(frozen=True, slots=True)
class Lowered:
    """`factor` carries gain and polarity; `delay` is in samples at `rate`; `sos` is (n, 6), `taps` are (t,)."""

    factor: float
    delay: int
    sos: FloatArray
    rate: int
    taps: FloatArray


@lru_cache(maxsize=8192)
def band_section(band: Band, rate: int) -> Section:
    """The section of one band. Raises InvalidError where the band lies beyond half the rate."""
    if band.kind == "all_pass_1":
        return biquad.first_all_pass(band.frequency_hz, rate)
    if band.kind in LEVELLESS:
        return LEVELLESS[band.kind](band.frequency_hz, band.q, rate)
    return DESIGN[band.kind](band.frequency_hz, band.gain_db, band.q, rate)


def filters(channel: Channel, common: tuple[Band, ...], rate: int) -> list[Section]:
    """Sections in the order in which they run: high-pass, low-pass, own bands, common bands; none for what is off."""
    rows: list[Section] = []
    for end, crossover in (("high_pass", channel.high_pass), ("low_pass", channel.low_pass)):
        if crossover is not None and not crossover.taps:
            rows.extend(sections(crossover.shape, crossover.slope_db, crossover.corner_hz, end, rate))
    rows.extend(band_section(band, rate) for band in (*channel.bands, *common) if not band.off)
    return rows


def lower(channel: Channel, common: tuple[Band, ...], rate: int) -> Lowered:
    """Lower one channel to `rate`. A channel without filters gets an empty (0, 6) array, one without taps (0,).

    Muting is not part of it: a muted channel is still a channel with a response.
    """
    rows = filters(channel, common, rate)
    sos = np.array(rows, dtype=float).reshape(-1, 6)
    return Lowered(factor(channel), delay_samples(channel, rate), sos, rate, taps_of(channel, rate))


def taps_of(channel: Channel, rate: int) -> FloatArray:
    """All taps (t,) of a channel at `rate`: of its linear-phase ends and those that it keeps; (0,) without any."""
    kept = channel.taps.values if channel.taps is not None else None
    if not channel.linear_taps:
        return np.zeros(0) if kept is None else kept
    high, low = (one and (one.slope_db, one.corner_hz) for one in channel.linear_ends)
    linear = linear_taps(high, low, channel.linear_taps, rate)
    return linear if kept is None else np.asarray(scipy.signal.fftconvolve(linear, kept))


def fed(tune: Tune, driver_id: str) -> list[tuple[float, Input]]:
    """What a channel is fed: factors and what the inputs do, none where it hears the signal as it is.

    An input that straightens the source does nothing together with it. A tune whose inputs were never set has no need
    to say who hears which: all are alike then.
    """
    factors = tune.routing.get(driver_id)
    if factors is None:
        return []
    found = [(factor, input_of(tune, number).heard_straight) for number, factor in enumerate(factors, 1) if factor]
    return [] if found == [(1.0, Input())] else found or [(0.0, Input())]


def factor(channel: Channel) -> float:
    """Gain and polarity as one linear factor."""
    return (-1.0 if channel.inverted else 1.0) * 10.0 ** (channel.gain_db / 20.0)


def delay_samples(channel: Channel, rate: int) -> int:
    """The delay in whole samples, as processors keep it."""
    return round(channel.delay_s * rate)
