"""From the recording of a whole schedule to what it shows, by whichever clock keeps the time."""

from dataclasses import dataclass

import numpy as np
import scipy.fft

from imbrix.core.errors import UnusableError
from imbrix.core.measure.marker import Timing, find
from imbrix.core.measure.reading import EARLY_S, Reading, read_impulse
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import deconvolve, sweep_at, sweep_within
from imbrix.core.signal.response import arrival
from imbrix.core.signal.signal import FloatArray, Impulse


@dataclass(frozen=True, slots=True)
class Repeats:
    """The impulse responses of each sweep of a schedule on one time axis, and the timing by marker if there is one."""

    impulses: tuple[Impulse, ...]
    timing: Timing | None

    @property
    def mean(self) -> Impulse:
        """Their synchronous average: what they share stays, noise falls 3 dB with each doubling."""
        first = self.impulses[0]
        return Impulse(np.mean([one.samples for one in self.impulses], axis=0), first.rate, first.zero)


LATE_S = 0.2
"""A recording that lags by no more needs no shifting: such is the latency of devices."""


def aligned(recorded: FloatArray, schedule: Schedule) -> FloatArray:
    """A recording (n, 2) of a schedule, cut or filled with silence so that it begins when playing began.

    Where a person starts the recorder by hand it runs seconds early or late. The lag is the peak of the correlation
    with what was played: of the reference where that carries anything, else of the microphone. Where no peak is
    clear, nothing is changed.
    """
    rate = schedule.sweep.rate
    heard = recorded[:, 1] if np.abs(recorded[:, 1]).max() > 1e-4 else recorded[:, 0]
    lag = lag_of(heard, schedule.samples())
    if lag is None or abs(lag) <= LATE_S * rate:
        return recorded
    return from_sample(recorded, lag - round(0.02 * rate))


def lag_of(heard: FloatArray, played: FloatArray) -> int | None:
    """How many samples what was `played` (m,) comes late in what was `heard` (n,), negative where early: the peak of
    their correlation. None where no peak is clear."""
    found = best_match(heard, played)
    return found[0] if found else None


def best_match(heard: FloatArray, played: FloatArray, whole: int | None = None) -> tuple[int, float] | None:
    """The lag in samples at which `played` (m,) lies in `heard` (n,), and how high the correlation is there over its
    rms; None where no peak is clear.

    With `whole` only lags count at which the first `whole` samples of what was played lie within what was heard, as far
    as one of them is at least half as high as the peak: of something that goes round a part may match as well.
    """
    size = scipy.fft.next_fast_len(heard.size + played.size, real=True)
    cross = np.abs(scipy.fft.irfft(scipy.fft.rfft(heard, size) * np.conjugate(scipy.fft.rfft(played, size)), size))
    lag = int(np.argmax(cross))
    usual = float(np.sqrt(np.mean(cross**2)))
    if cross[lag] < 8 * usual:
        return None
    fits = heard.size - whole + 1 if whole is not None else 0
    if fits > 0 and (inside := int(np.argmax(cross[:fits]))) != lag and cross[inside] > 0.5 * cross[lag]:
        lag = inside
    return (lag - size if lag > size // 2 else lag), float(cross[lag] / usual)


def from_sample(samples: FloatArray, first: int) -> FloatArray:
    """Samples (n, channels) from one of them on; with silence before them where it is negative."""
    return samples[first:] if first > 0 else np.concatenate((np.zeros((-first, samples.shape[1])), samples))


def read_repeats(microphone: FloatArray, loopback: FloatArray | None, schedule: Schedule) -> Repeats:
    """One impulse per sweep: against the loopback (n,), by marker, or against the stimulus with its arrival put
    at a fixed place, where there is no clock. Raises UnusableError."""
    rate = schedule.sweep.rate
    early = round(EARLY_S * rate)
    if schedule.marker is not None and loopback is None:
        timing = find(microphone, schedule.marker, schedule.markers)
        timing.check((schedule.markers[1] - schedule.markers[0]) / rate)
        found = tuple(stretched(microphone, schedule, timing, start, early) for start in schedule.sweeps)
        return Repeats(found, timing)
    impulses = []
    for start in schedule.sweeps:
        piece = slice(start, start + schedule.period)
        if loopback is not None:
            impulses.append(deconvolve(microphone[piece], loopback[piece], rate, zero=early))
        else:
            stimulus = sweep_within(schedule.sweep, schedule.period)
            impulses.append(deconvolve(microphone[piece], stimulus, rate, zero=0))
    if loopback is None:
        shift = round(arrival(impulses[0]) * rate) - early
        impulses = [Impulse(np.roll(one.samples, -shift), rate, early) for one in impulses]
    return Repeats(tuple(impulses), None)


def stretched(microphone: FloatArray, schedule: Schedule, timing: Timing, start: int, early: int) -> Impulse:
    """Deconvolution by the sweep as the recorder's clock sees it; time zero is the anchor's arrival."""
    zero = timing.recorded(start, schedule.markers[0])
    first = int(np.floor(zero)) - early
    piece = microphone[max(0, first) : first + early + schedule.period]
    if first < 0 or piece.size < early + schedule.sweep.length:
        raise UnusableError("the recording ends within the sweep: it began too late or was stopped too early")
    position = (np.arange(piece.size) - early - (zero - np.floor(zero))) / (1.0 + timing.drift)
    return deconvolve(piece, sweep_at(schedule.sweep, position), schedule.sweep.rate, zero=early)


def read_schedule(microphone: FloatArray, loopback: FloatArray | None, schedule: Schedule) -> Reading:
    """What the recording of a schedule shows. `timed` where a loopback or a marker kept the time."""
    repeats = read_repeats(microphone, loopback, schedule)
    return read_impulse(repeats.mean, timed=loopback is not None or repeats.timing is not None)


def residual(microphone: FloatArray, stimulus: FloatArray, impulse: Impulse, rate: int, keep_s: float) -> FloatArray:
    """What is left of a recording (n,) when the stimulus (n,) through the impulse's first `keep_s` is taken away."""
    first = max(0, impulse.zero - round(0.01 * rate))
    taps = impulse.samples[first : impulse.zero + round(keep_s * rate)]
    lead = impulse.zero - first
    size = scipy.fft.next_fast_len(microphone.size + taps.size, real=True)
    model = scipy.fft.irfft(scipy.fft.rfft(stimulus, size) * scipy.fft.rfft(taps, size), size)
    return microphone - model[lead : lead + microphone.size]
