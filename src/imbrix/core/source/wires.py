"""What the wires of a source carry, read from a recording of them while the source plays the track.

The recorder starts when it likes, the player's clock is its own, and the track may go round: the marker on the first
wire says when what was played. All wires of a recording share one time axis.
"""

from dataclasses import dataclass

import numpy as np
import scipy.fft

from imbrix.core.errors import UnusableError
from imbrix.core.measure.marker import MOST_DRIFT, Marker, Timing, find
from imbrix.core.measure.reading import CLIPPING, EARLY_S
from imbrix.core.measure.recording import best_match, from_sample, stretched
from imbrix.core.measure.schedule import Schedule
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate, response
from imbrix.core.signal.signal import ComplexArray, FloatArray, Impulse, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.source.track import BOTH, schedule, track

GRID = log_grid()
GATE = Gate(before_s=0.02, after_s=0.35, fade=0.4)
LEAST_PEAK_DBFS = -70.0
LEAST_OVER_DB = 15.0
SIDE_APART_DB = 20.0
"""A wire that carries one side this far over the other carries that side; else it carries both."""
ODD_DB = -20.0
"""What both sides together do may differ from the sum of each alone by so much; more is something else."""
JUDGED_HZ = (40.0, 6000.0)
DISTORTED_DB = -26.0
"""5 %: a source that bends so much does not play what it was given (common practice, no source)."""


@dataclass(frozen=True)
class Wire:
    """What one wire carries of each side of the track: responses (n,) on the grid, NaN where nothing of them is known.

    `both` is what it does with both sides at once; `over_noise_db` (n,) is of that, `peak_dbfs` the wire's highest.
    """

    left: ComplexArray
    right: ComplexArray
    both: ComplexArray
    over_noise_db: FloatArray
    peak_dbfs: float

    @property
    def side(self) -> str:
        """`left`, `right`, or `both` sides mixed."""
        left, right = (_level(one) for one in (self.left, self.right))
        if abs(left - right) < SIDE_APART_DB:
            return "both"
        return "left" if left > right else "right"

    @property
    def response(self) -> ComplexArray:
        """What it does (n,) with a signal that is on all that it carries: its own side, or both at once."""
        return {"left": self.left, "right": self.right, "both": self.both}[self.side]


@dataclass(frozen=True)
class Wires:
    """The wires of a recording on one time axis, and how much faster the recorder's clock runs than the player's."""

    wires: tuple[Wire, ...]
    drift: float


def read_wires(recorded: FloatArray, rate: int) -> Wires:
    """What each column of a recording (n, wires) at `rate` carries.

    Raises UnusableError with what is wrong and what to do: silence, clipping, another track, one that was not played
    whole, something else in the middle of it.
    """
    for n, column in enumerate(recorded.T, 1):
        peak = float(np.abs(column).max()) if column.size else 0.0
        which = f"wire {n}" if recorded.shape[1] > 1 else "the wire"
        if 20 * np.log10(peak + 1e-12) < LEAST_PEAK_DBFS:
            raise UnusableError(f"{which} is silent: is the track playing, the volume up, the lead clipped on?")
        if peak >= CLIPPING:
            raise UnusableError(f"{which} clips: turn the source's volume or the input gain down")
    parts = schedule(rate)
    piece, timing = found_in(recorded, parts)
    return Wires(tuple(_wire(column, parts, timing, DISTORTED_DB) for column in piece.T), timing.drift)


def read_sound(recorded: FloatArray, rate: int) -> Wire:
    """What a microphone (n,) hears of the track through the whole system. Raises UnusableError."""
    parts = schedule(rate)
    if 20 * np.log10(np.abs(recorded).max() + 1e-12) < LEAST_PEAK_DBFS:
        raise UnusableError("the microphone hears nothing: is the source playing, and the amplifier on?")
    piece, timing = found_in(recorded[:, None], parts)
    return _wire(piece[:, 0], parts, timing, np.inf)


LEAD_S, SEARCH_S = 0.05, 0.3
"""How much of the recording is kept before the track, and how far a marker is looked for: when the track goes round,
the next one is not far."""


def found_in(recorded: FloatArray, parts: Schedule) -> tuple[FloatArray, Timing]:
    """A recording (n, wires) from a little before the track on, and when the track was played in it.

    Raises UnusableError where it does not hold the track whole.
    """
    rate = parts.sweep.rate
    lead = round(LEAD_S * rate)
    needed = parts.size - parts.markers[0]
    # A wire of one side is matched by that side: by both it would match a sweep too early or too late as well.
    matches = [best_match(recorded[:, 0], side, needed) for side in track(rate).T]
    lag, _ = max((one for one in matches if one), key=lambda one: one[1], default=(None, 0.0))
    if lag is None:
        raise UnusableError("the recording does not hold the track: let the source play the file written here")
    if lag + parts.markers[0] < 0 or lag + needed > recorded.shape[0]:
        whole = parts.size / rate
        raise UnusableError(
            f"the track was not played whole: it lasts {whole:.0f} s; start it again, or let it go round and record "
            f"{2 * whole:.0f} s"
        )
    piece = from_sample(recorded, lag - lead)
    try:
        timing = find(piece[:, 0], _marker(parts), tuple(lead // 2 + one for one in parts.markers), SEARCH_S)
    except UnusableError:
        raise UnusableError(
            "the track's marker was not found at its end: the track stopped or was skipped; play it through"
        ) from None
    if abs(timing.drift) > MOST_DRIFT:
        raise UnusableError("the track was played at another speed than it was written for, or interrupted")
    return piece, timing


def _marker(parts: Schedule) -> Marker:
    assert parts.marker is not None
    return parts.marker


def _wire(column: FloatArray, parts: Schedule, timing: Timing, most_distorted_db: float) -> Wire:
    rate = parts.sweep.rate
    early = round(EARLY_S * rate)
    impulses = [stretched(column, parts, timing, start, early) for start in parts.sweeps]
    at = _peak_s(impulses[BOTH])
    found = [response(one, GRID, GATE, at) for one in impulses]
    outside = (parts.sweep.low_hz > GRID) | (parts.sweep.high_hz < GRID)
    over = power_decibels(smooth_power(np.nan_to_num(found[BOTH]), GRID, 6)) - _noise(impulses[BOTH], at)
    if over.max() < LEAST_OVER_DB:
        raise UnusableError(f"no more than {max(over.max(), 0):.0f} dB over noise anywhere: turn the source up")
    if _distorted_db(_middle(impulses[BOTH]), at, parts) > most_distorted_db:
        raise UnusableError(
            "the source distorts at this volume: turn it down, to three quarters or less, and try again"
        )
    undisturbed(*impulses)
    known = (over >= LEAST_OVER_DB) & ~outside
    of_left, of_right, of_both = (np.where(known, one, np.nan) for one in found)
    return Wire(of_left, of_right, of_both, np.where(known, over, -np.inf), float(decibels(np.abs(column)).max()))


def undisturbed(left: Impulse, right: Impulse, both: Impulse) -> None:
    """Refuse what was heard of the track's three sweeps where both sides together are not the sum of each alone.

    Raises UnusableError.
    """
    left, right, both = (_middle(one) for one in (left, right, both))
    odd = np.array([np.mean((both.samples - left.samples - right.samples) ** 2), np.mean(both.samples**2)])
    if np.subtract(*power_decibels(odd)) > ODD_DB:
        raise UnusableError(
            "left and right together are not the sum of each alone: something else sounded while the track played (a "
            "chime, a voice); silence it and record again"
        )


def _middle(impulse: Impulse) -> Impulse:
    """The impulse within the band in which it is judged whether it was disturbed."""
    spectrum = scipy.fft.rfft(impulse.samples)
    hertz = scipy.fft.rfftfreq(impulse.samples.size, 1 / impulse.rate)
    spectrum[(hertz < JUDGED_HZ[0]) | (hertz > JUDGED_HZ[1])] = 0.0
    return Impulse(scipy.fft.irfft(spectrum, impulse.samples.size), impulse.rate, impulse.zero)


def _distorted_db(impulse: Impulse, at: float, parts: Schedule) -> float:
    """Level of the harmonics, second to fifth, over that of the sound, in dB: each has an impulse of its own ahead of
    it (A. Farina, AES 108th convention, 2000), by the sweep's growth times the logarithm of its order."""
    rate, size = impulse.rate, impulse.samples.size
    growth = parts.sweep.length / rate / np.log(parts.sweep.high_hz / parts.sweep.low_hz)
    half = round(0.015 * rate)
    around = np.arange(-half, half)

    def energy(seconds: float) -> float:
        return float(np.sum(impulse.samples[(impulse.zero + round(seconds * rate) + around) % size] ** 2))

    # Between the harmonics lies what else there is.
    quiet = float(np.median([energy(at - growth * np.log(order)) for order in (1.5, 2.5, 3.5, 4.5)]))
    harmonics = sum(max(0.0, energy(at - growth * np.log(order)) - 1.5 * quiet) for order in (2, 3, 4, 5))
    return float(np.subtract(*power_decibels(np.array([harmonics, energy(at) + 1e-24]))))


def _peak_s(impulse: Impulse) -> float:
    return (int(np.argmax(np.abs(impulse.samples))) - impulse.zero) / impulse.rate


def _noise(impulse: Impulse, at: float) -> FloatArray:
    """Level (n,) in dB of the noise in the response, from as long a stretch of the impulse where only noise is left."""
    first = impulse.zero + round((at + 0.6) * impulse.rate)
    size = round((GATE.before_s + GATE.after_s) * impulse.rate)
    quiet = impulse.samples[first : first + size]
    if quiet.size < size // 2 or not quiet.any():
        return np.full(GRID.size, -240.0)
    window = np.hanning(quiet.size)
    shown = response(Impulse(quiet * window, impulse.rate), GRID)
    return np.asarray(power_decibels(smooth_power(np.nan_to_num(shown), GRID, 6)) + 10 * np.log10(size / quiet.size))


def _level(values: ComplexArray) -> float:
    """Mean level in dB of a response over what is known of it."""
    known = np.isfinite(values)
    return float(power_decibels(np.mean(np.abs(values[known]) ** 2) + 1e-24)) if known.any() else -240.0
