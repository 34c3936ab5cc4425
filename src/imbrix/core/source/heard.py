"""A driver and an anchor as a microphone hears them while the source plays the track.

The driver hears the left of it and the anchor the right, so that one recording holds both on one time axis; what the
source does to each side is divided out. The arrival of the driver is counted from that of the anchor.
"""

from dataclasses import dataclass, replace

import numpy as np
import scipy.fft

from imbrix.core.errors import UnusableError
from imbrix.core.evidence.evidence import refuse
from imbrix.core.measure.marker import Timing
from imbrix.core.measure.reading import EARLY_S, Reading, out_of_noise, read_impulse
from imbrix.core.measure.recording import Repeats, stretched
from imbrix.core.measure.schedule import Schedule
from imbrix.core.signal.response import arrival, time_shift
from imbrix.core.signal.signal import ComplexArray, FloatArray, Impulse
from imbrix.core.source.track import BOTH, LEFT, RIGHT, schedule
from imbrix.core.source.wires import GRID, LEAST_PEAK_DBFS, found_in, undisturbed

MOST_DELAY_S = 0.04
LIFTED_DB = 40.0
"""What the source has taken away by more than this is not brought back: only noise would be."""
NAMED_HZ = (200.0, 5000.0)
AFTER_S = 0.2
"""So much of the recording is kept after the track."""


@dataclass(frozen=True)
class Heard:
    """What a recording of the track shows of a driver and, where one plays, of its anchor.

    `recorded` (m,) is of the recording what holds the track. `microphone` (k,) is the quiet before it and the driver's
    own sweep after that, as `parts` has it; `repeats` is what it shows, source and all.
    """

    driver: Reading
    anchor: Reading | None
    recorded: FloatArray
    microphone: FloatArray
    parts: Schedule
    repeats: Repeats


def read_heard(
    recorded: FloatArray, rate: int, left: ComplexArray, right: ComplexArray | None, is_anchor: bool = False
) -> Heard:
    """Read a recording (n,) at `rate`, begun whenever, of which source and inputs do `left` (n,) to the driver's side
    and `right` (n,) to the anchor's. Without that one no other driver plays: no time is kept, unless the driver
    `is_anchor` itself.

    Raises UnusableError with what is wrong and what to do.
    """
    if 20 * np.log10(np.abs(recorded).max() + 1e-12) < LEAST_PEAK_DBFS:
        raise UnusableError(
            "the microphone hears nothing: is the source playing the track, its volume up, and the amplifier on?",
            "muted",
        )
    whole = schedule(rate)
    piece, timing = found_in(recorded[:, None], whole)
    heard, early = piece[:, 0], round(EARLY_S * rate)
    impulses = [stretched(heard, whole, timing, start, early) for start in whole.sweeps]
    undisturbed(impulses[LEFT], impulses[RIGHT], impulses[BOTH])
    parts, microphone = _alone(heard, whole, timing, LEFT)
    _refuse(microphone, parts, "the driver")
    anchor = None
    bare = _without(impulses[LEFT], left)
    if right is None:
        late = arrival(out_of_noise(bare))
    else:
        _refuse(_alone(heard, whole, timing, RIGHT)[1], parts, "the anchor")
        beside = _without(impulses[RIGHT], right)
        late = arrival(out_of_noise(beside))
        anchor = _read(_earlier(beside, late), right, timed=True, who="the anchor")
    driver = _read(_earlier(bare, late), left, timed=is_anchor or right is not None, who="the driver")
    anchor = driver if is_anchor else anchor
    kept = heard[: whole.size + round(AFTER_S * rate)]
    return Heard(driver, anchor, kept, microphone, parts, Repeats((impulses[LEFT],), timing))


def _alone(heard: FloatArray, whole: Schedule, timing: Timing, which: int) -> tuple[Schedule, FloatArray]:
    """The quiet before the track and one of its sweeps after it, with the schedule of that."""
    rate = whole.sweep.rate
    first, start = (int(timing.recorded(one, whole.markers[0])) for one in (whole.markers[0], whole.sweeps[which]))
    quiet = heard[max(0, first - whole.quiet) : first]
    return Schedule(whole.sweep, 1, quiet.size / rate), np.concatenate((quiet, heard[start : start + whole.period]))


def _refuse(microphone: FloatArray, parts: Schedule, who: str) -> None:
    try:
        refuse(microphone, np.zeros(microphone.size), parts)
    except UnusableError as error:
        raise UnusableError(f"of {who}: {error}", error.kind) from error


def _read(impulse: Impulse, colour: ComplexArray, timed: bool, who: str) -> Reading:
    """What an impulse shows; nothing where it is not known what the source does."""
    try:
        shows = read_impulse(impulse, timed)
    except UnusableError as error:
        raise UnusableError(f"of {who}: {error}", error.kind) from error
    known = np.isfinite(colour)
    return replace(
        shows,
        response=np.where(known, shows.response, np.nan),
        over_noise_db=np.where(known, shows.over_noise_db, -np.inf),
    )


def _without(impulse: Impulse, colour: ComplexArray) -> Impulse:
    """The impulse response with what the source does (n,) divided out; beyond what is known of that it is held as it is
    at the ends."""
    known = np.isfinite(colour) & (np.abs(colour) > 0)
    if not known.any():
        raise UnusableError("nothing is known of what the source does: record its wires once more")
    hertz, does = GRID[known], colour[known]
    middle = (hertz >= NAMED_HZ[0]) & (hertz <= NAMED_HZ[1])
    middle = middle if middle.sum() > 24 else np.ones(hertz.size, dtype=bool)
    late = time_shift(np.ones(int(middle.sum()), dtype=complex), does[middle], hertz[middle], MOST_DELAY_S)
    flat = does * np.exp(2j * np.pi * hertz * late)
    all_hz = scipy.fft.rfftfreq(impulse.samples.size, 1 / impulse.rate)
    at = np.log(np.clip(all_hz, hertz[0], hertz[-1]))
    level = np.log(np.maximum(np.abs(flat), np.abs(flat).max() * 10 ** (-LIFTED_DB / 20)))
    adds = np.exp(
        np.interp(at, np.log(hertz), level) + 1j * np.interp(at, np.log(hertz), np.unwrap(np.angle(flat)))
    ) * np.exp(-2j * np.pi * all_hz * late)
    samples = scipy.fft.irfft(scipy.fft.rfft(impulse.samples) / adds, impulse.samples.size)
    return Impulse(samples, impulse.rate, impulse.zero)


def _earlier(impulse: Impulse, seconds: float) -> Impulse:
    """The impulse response moved earlier, circularly, by a fraction of a sample too."""
    hertz = scipy.fft.rfftfreq(impulse.samples.size, 1 / impulse.rate)
    spectrum = scipy.fft.rfft(impulse.samples) * np.exp(2j * np.pi * hertz * seconds)
    return Impulse(scipy.fft.irfft(spectrum, impulse.samples.size), impulse.rate, impulse.zero)
