"""Is it good data? What a recording gives away about itself, in figures."""

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft
from pydantic import Field

from imbrix.core.errors import UnusableError
from imbrix.core.evidence.band import driver_band, misfits, points
from imbrix.core.measure.reading import CLIPPING, EARLY_S, Reading
from imbrix.core.measure.recording import Repeats, from_sample, residual
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.slips import slip
from imbrix.core.measure.sweep import deconvolve
from imbrix.core.signal.measures import usable_band
from imbrix.core.signal.response import Gate, response, time_shift
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.signal.weighting import octave_means
from imbrix.core.system.layout import Kind
from imbrix.core.value import Value

SAME = 1e-6
"""Two inputs whose difference is no larger than this share are one: two converters differ by their noise alone."""
ALIVE_DBFS = -80.0
"""A measuring microphone in a room or a car is never quieter than this; an input without one is."""


class Intrusion(Value):
    """A noise that came and went: when, for how long, how far over the quiet, and whether it is a low rumble.

    `sweep_hz` is what the sweep played then: what is loose rattles whenever that is played.
    """

    at_s: float
    seconds: float
    over_db: float
    low: bool
    sweep_hz: float | None = None


class Hum(Value):
    """Mains hum: its base of 50 or 60 Hz, and how far its strongest line stands out of the noise."""

    base_hz: int
    over_db: float


class Evidence(Value):
    """What was measured on one recording besides the response; levels in dBFS, bands by nominal octave in hertz.

    `misfits` say by kind of driver how badly its curve fits, and as `OWN` that of the driver which it should be.
    """

    peak_dbfs: float
    noise_dbfs: float
    loopback_dbfs: float | None = None
    over_noise_db: dict[str, float] = Field(default_factory=dict)
    repeat_db: float | None = None
    hum: Hum | None = None
    intrusions: tuple[Intrusion, ...] = ()
    low_hz: float
    high_hz: float
    misfits: dict[str, float] = Field(default_factory=dict)
    arrival_ms: float
    drift_ppm: float | None = None
    slip_ms: float | None = None


OWN = "own"
BEFORE_S = 0.03
"""From so long before the loudest of an impulse on its recording is looked at where nothing else keeps the time."""
HARMLESS = 1e-5
"""Power of an intrusion over that of the sweep at the microphone which cannot matter: 50 dB."""


class Agreement(Value):
    """How far a take agrees with an earlier one of the same driver: level, rms of shape at 1/12 octave, time."""

    level_db: float
    shape_db: float
    later_us: float | None
    turned: bool


def refuse(microphone: FloatArray, loopback: FloatArray, schedule: Schedule) -> None:
    """Refuse what no take can be made of, with its likely cause. Raises UnusableError.

    Kinds: short, clipped, same, exchanged, unplugged, muted.
    """
    rate = schedule.sweep.rate
    if microphone.size < schedule.sweeps[-1] + schedule.sweep.length:
        raise UnusableError(
            f"the recording lasts {microphone.size / rate:.2f} s, what was to be played lasts "
            f"{schedule.size / rate:.2f} s: it was stopped too early or is of another sweep",
            "short",
        )
    peak = np.abs(microphone).max()
    if peak >= CLIPPING:
        at = int(np.argmax(np.abs(microphone) >= CLIPPING)) / rate
        raise UnusableError(
            f"the microphone input clips, first at {at:.2f} s: lower the input gain or the output level", "clipped"
        )
    start = schedule.sweeps[0]
    piece = slice(start, start + schedule.period)
    stimulus = schedule.samples()[piece]
    looped = float(np.abs(loopback).max()) > 1e-4
    if looped and _same(microphone[piece], loopback[piece]):
        raise UnusableError(
            "the reference input carries exactly what the microphone does: it is one input shown twice, as with a "
            "microphone of one channel. Choose no reference, and let a marker keep the time",
            "same",
        )
    if looped and _electrical(microphone[piece], stimulus, rate) and not _electrical(loopback[piece], stimulus, rate):
        raise UnusableError(
            "the microphone and the reference input are exchanged: what should be the microphone carries the "
            "untouched sweep, and the reference sounds like a room",
            "exchanged",
        )
    heard = _heard(microphone[piece], stimulus, rate)
    if heard:
        return
    noise = float(decibels(np.sqrt(np.mean(microphone[: max(64, schedule.quiet)] ** 2))))
    if noise < ALIVE_DBFS - 12 or peak < 1e-5:
        raise UnusableError(
            f"the microphone hears nothing, not even the room ({noise:.0f} dBFS): it is unplugged, has no power, "
            "or another input is chosen",
            "unplugged",
        )
    tell = (
        "the loopback shows that the sound card plays: the amplifier is off, the source is muted, or its cable is out"
        if looped
        else "the output is muted or turned down, the amplifier is off, or a cable is out"
    )
    raise UnusableError(f"the microphone hears the room ({noise:.0f} dBFS) but nothing of the sweep; {tell}", "muted")


def _same(one: FloatArray, other: FloatArray) -> bool:
    """Whether two inputs hold the same samples, but for a factor."""
    factor = float(one @ other) / max(float(one @ one), 1e-30)
    rest = other - factor * one
    return float(rest @ rest) < SAME**2 * float(other @ other)


def _electrical(samples: FloatArray, stimulus: FloatArray, rate: int) -> bool:
    """Whether a channel carries the stimulus as a wire does: nearly all of its impulse within two milliseconds."""
    if float(np.abs(samples).max()) < 1e-4:
        return False
    impulse = deconvolve(samples, stimulus, rate).samples
    energy = impulse**2
    peak = int(np.argmax(energy))
    near = np.take(energy, np.arange(peak - rate // 500, peak + rate // 500), mode="wrap").sum()
    return bool(near > 0.98 * energy.sum())


def _heard(samples: FloatArray, stimulus: FloatArray, rate: int) -> bool:
    """Whether anything of the stimulus is in the recording: their correlation peaks within a quarter of a second."""
    size = scipy.fft.next_fast_len(samples.size + stimulus.size, real=True)
    cross = scipy.fft.rfft(samples, size) * np.conjugate(scipy.fft.rfft(stimulus, size))
    level = np.abs(scipy.fft.irfft(cross, size))
    near = round(0.25 * rate)
    return bool(level[:near].max() > 8 * np.sqrt(np.mean(level[near : size // 2] ** 2)))


def gather(
    microphone: FloatArray,
    loopback: FloatArray | None,
    schedule: Schedule,
    shows: Reading,
    repeats: Repeats,
    grid: FloatArray,
    bare: ComplexArray,
    kind: Kind | None = None,
    passive_to: Kind | None = None,
) -> Evidence:
    """All figures of a recording (n,) that could be read; `bare` (m,) is its response without the filters.

    `kind` is that of the driver that was to play, where it was one.
    """
    rate = schedule.sweep.rate
    quiet = microphone[: max(64, schedule.quiet)]
    low, high = usable_band(bare, grid)
    fits: dict[str, float] = {}
    shown = points(bare, grid, shows.over_noise_db) if kind else None
    if kind and shown:
        own = driver_band(shown, kind, passive_to)
        low, high = own.low_hz, own.high_hz
        others = misfits(shown, {} if passive_to else {kind: own})
        fits = {OWN: round(own.misfit, 2), **{other.value: round(fit, 2) for other, fit in others.items()}}
    inside = (grid >= low) & (grid <= high)
    over = np.where(inside, shows.over_noise_db, np.nan)
    slipped = None if loopback is None else slip(loopback, schedule)
    return Evidence(
        peak_dbfs=float(decibels(np.abs(microphone).max())),
        noise_dbfs=float(decibels(np.sqrt(np.mean(quiet**2)))),
        loopback_dbfs=None if loopback is None else float(decibels(np.abs(loopback).max())),
        over_noise_db={f"{middle:g}": round(value, 1) for middle, value in octave_means(over, grid).items()},
        repeat_db=_repeatability(repeats, grid[inside][::4]),
        hum=hum(quiet, rate),
        intrusions=tuple(intrusions(microphone, schedule, shows, repeats)),
        low_hz=low,
        high_hz=high,
        misfits=fits,
        arrival_ms=shows.arrival_s * 1e3,
        drift_ppm=repeats.timing.drift * 1e6 if repeats.timing else None,
        slip_ms=None if slipped is None else round(slipped * 1e3, 2),
    )


def _repeatability(repeats: Repeats, frequencies: FloatArray) -> float | None:
    """Level of what differs between repeats against what they share, in dB, at some frequencies; None for one."""
    if len(repeats.impulses) < 2:
        return None
    stack = np.array([response(one, frequencies, Gate()) for one in repeats.impulses])
    mean = stack.mean(axis=0)
    spread = np.mean(np.abs(stack - mean) ** 2) * len(stack) / (len(stack) - 1)
    return float(power_decibels(spread) - power_decibels(np.mean(np.abs(mean) ** 2)))


def hum(quiet: FloatArray, rate: int) -> Hum | None:
    """Lines at multiples of 50 or 60 Hz that stand out of the noise around them; two of 12 dB, or one of 20."""
    if quiet.size < 0.4 * rate:
        return None
    power = np.abs(scipy.fft.rfft(quiet * scipy.signal.windows.hann(quiet.size, sym=False))) ** 2
    line = rate / quiet.size
    best: tuple[float, Hum] | None = None
    for base in (50, 60):
        found = []
        for multiple in range(1, 9):
            middle = round(multiple * base / line)
            near = power[middle - 1 : middle + 2].max()
            around = np.concatenate((power[middle - 12 : middle - 3], power[middle + 4 : middle + 13]))
            found.append(float(10 * np.log10((near + 1e-30) / (np.median(around) + 1e-30))))
        found.sort(reverse=True)
        if (found[1] > 12 or found[0] > 20) and (best is None or found[0] + found[1] > best[0]):
            best = (found[0] + found[1], Hum(base_hz=base, over_db=found[0]))
    return best[1] if best else None


def intrusions(microphone: FloatArray, schedule: Schedule, shows: Reading, repeats: Repeats) -> list[Intrusion]:
    """Noises during the sweeps, found where the sweep and its harmonics are not.

    The recording without its linear part is looked at in short frames: while the sweep is low, far above its
    harmonics; later, below half its frequency. What stands 12 dB over the quiet before the sweep is an intrusion;
    a rumble is looked for below 120 Hz in longer frames while the sweep is above 400 Hz.
    """
    rate = schedule.sweep.rate
    if schedule.quiet < 0.4 * rate:
        return []
    found: list[Intrusion] = []
    stimulus, early = schedule.samples(), round(EARLY_S * rate)
    for start, impulse in zip(schedule.sweeps, repeats.impulses, strict=True):
        piece = slice(start, start + schedule.period)
        heard = microphone[piece]
        if not shows.timed or repeats.timing is not None:
            # By the recorder's own clock, from a little before the sound on: a drift is no more than an all-pass here.
            late = int(np.argmax(np.abs(deconvolve(heard, stimulus[piece], rate).samples))) - round(BEFORE_S * rate)
            heard = from_sample(microphone[:, None], start + late)[: schedule.period, 0]
            impulse = deconvolve(heard, stimulus[piece], rate, zero=early)
        rest = residual(heard, stimulus[piece], impulse, rate, 0.6)
        # What lies so far under the sweep harms nobody, however quiet the place is: harmonics and late echoes do.
        least = HARMLESS * float(np.mean(heard**2))
        rumble = _rumble(rest, microphone[: schedule.quiet], start / rate, schedule, least)
        bursts = _bursts(rest, microphone[: schedule.quiet], start / rate, schedule, least)
        alone = [one for one in bursts if not any(_within(one, low) for low in rumble)]
        played = [float(frequency_at(schedule, np.array([one.at_s - start / rate]))[0]) for one in alone]
        found += rumble
        found += [one.model_copy(update={"sweep_hz": hz}) for one, hz in zip(alone, played, strict=True)]
    return found


def _within(one: Intrusion, rumble: Intrusion) -> bool:
    """Whether a burst is the upper end of a rumble that is the stronger."""
    apart = 0.3
    return rumble.at_s - apart <= one.at_s <= rumble.at_s + rumble.seconds + apart and one.over_db < rumble.over_db


def _frames(samples: FloatArray, size: int, hop: int) -> np.ndarray:
    """Power spectra (f, size / 2 + 1) of overlapping Hann frames."""
    if samples.size < size:
        return np.zeros((0, size // 2 + 1))
    view = np.lib.stride_tricks.sliding_window_view(samples, size)[::hop]
    return np.abs(scipy.fft.rfft(view * scipy.signal.windows.hann(size, sym=False), axis=1)) ** 2


def frequency_at(schedule: Schedule, times: FloatArray) -> FloatArray:
    """The sweep's frequency (n,) at times in seconds from its start."""
    sweep = schedule.sweep
    return sweep.low_hz * (sweep.high_hz / sweep.low_hz) ** np.minimum(times * sweep.rate / sweep.length, 1.0)


def _calm(quiet: FloatArray, size: int, hop: int, least: float) -> FloatArray:
    """The mean power spectrum of the quiet, as `_frames` gives it, at least that of white noise of so much power."""
    window = scipy.signal.windows.hann(size, sym=False)
    return np.maximum(_frames(quiet, size, hop).mean(axis=0), least * float(np.sum(window**2)))


def _bursts(rest: FloatArray, quiet: FloatArray, begins: float, schedule: Schedule, least: float) -> list[Intrusion]:
    rate = schedule.sweep.rate
    size, hop = round(0.04 * rate), round(0.02 * rate)
    power, calm = _frames(rest, size, hop), _calm(quiet, size, hop, least)
    hertz = scipy.fft.rfftfreq(size, 1 / rate)
    times = (np.arange(len(power)) * hop + size / 2) / rate
    now = frequency_at(schedule, times)
    over = np.full(len(power), -np.inf)
    for n, frequency in enumerate(now):
        below = (hertz > 300) & (hertz < frequency / 2)
        band = below if frequency > 1200 else (hertz > max(10 * frequency, 300)) & (hertz < 0.42 * rate)
        if band.sum() >= 12:
            over[n] = 10 * np.log10(power[n, band].sum() / (calm[band].sum() + 1e-30) + 1e-12)
    return _runs(over, times + begins, 12.0, 2, hop / rate, low=False)


def _rumble(rest: FloatArray, quiet: FloatArray, begins: float, schedule: Schedule, least: float) -> list[Intrusion]:
    rate = schedule.sweep.rate
    size, hop = round(0.2 * rate), round(0.1 * rate)
    power, calm = _frames(rest, size, hop), _calm(quiet, size, hop, least)
    hertz = scipy.fft.rfftfreq(size, 1 / rate)
    band = (hertz > 15) & (hertz < 120)
    times = (np.arange(len(power)) * hop + size / 2) / rate
    over = 10 * np.log10(power[:, band].sum(axis=1) / (calm[band].sum() + 1e-30) + 1e-12)
    # From where the whole frame lies after the sweep has passed 500 Hz: what it left below has died by then.
    over[frequency_at(schedule, times - 0.5 * size / rate) < 500] = -np.inf
    return _runs(over, times + begins, 10.0, 4, hop / rate, low=True)


def _runs(over: FloatArray, times: FloatArray, limit: float, least: int, step: float, low: bool) -> list[Intrusion]:
    loud = np.flatnonzero(np.diff(np.concatenate(([0], (over > limit).astype(int), [0]))))
    found = []
    for first, end in zip(loud[::2], loud[1::2], strict=True):
        if end - first >= least:
            found.append(
                Intrusion(
                    at_s=float(times[first]),
                    seconds=float((end - first) * step),
                    over_db=float(over[first:end].max()),
                    low=low,
                )
            )
    return found


def agreement(
    before: ComplexArray, after: ComplexArray, grid: FloatArray, low_hz: float, high_hz: float, timed: bool
) -> Agreement | None:
    """Compare two takes (n,) of one driver within its usable band; None where they share too little."""
    inside = (grid >= low_hz) & (grid <= high_hz) & np.isfinite(before) & np.isfinite(after)
    if inside.sum() < 48:
        return None
    first = power_decibels(smooth_power(before[inside], grid[inside], 12))
    second = power_decibels(smooth_power(after[inside], grid[inside], 12))
    apart = second - first
    level = float(np.median(apart))
    later, turned = None, False
    if timed:
        shifts = [time_shift(before[inside], sign * after[inside], grid[inside], 0.005) for sign in (1, -1)]
        fits = [
            float(
                np.real(
                    np.sum(
                        sign * after[inside] * np.conjugate(before[inside]) * np.exp(2j * np.pi * grid[inside] * shift)
                    )
                )
            )
            for sign, shift in zip((1, -1), shifts, strict=True)
        ]
        turned = fits[1] > fits[0]
        later = shifts[1 if turned else 0] * 1e6
    return Agreement(
        level_db=level, shape_db=float(np.sqrt(np.mean((apart - level) ** 2))), later_us=later, turned=turned
    )
