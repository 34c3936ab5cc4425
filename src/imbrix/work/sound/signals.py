"""Test signals: made, played through chosen channels, or written as WAV; the channel check and polarity pulses."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError, InvalidError
from imbrix.core.measure import stimuli
from imbrix.core.measure.pulse import read_pulses
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.signal import FloatArray
from imbrix.core.system.layout import Driver, Kind
from imbrix.core.tune.tune import Tune, measuring, neutral
from imbrix.core.value import Value
from imbrix.formats.wav import read_wav, write_wav
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import read_back
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.sound.results import Result
from imbrix.work.tune.revisions import head

OWN_RATE = 48_000
SignalKind = Literal[
    "pink", "pink-apart", "white", "multitone", "sine", "pulses", "centre", "sweep", "linear-sweep", "own"
]
BURST_HZ: dict[Kind, tuple[float, float]] = {
    Kind.SUB: (35.0, 90.0),
    Kind.WOOFER: (60.0, 200.0),
    Kind.MIDBASS: (90.0, 300.0),
    Kind.MID: (500.0, 2000.0),
    Kind.TWEETER: (4000.0, 12_000.0),
}
"""A band that suits each way; other kinds get the wide one."""
WIDE_BURST_HZ = (300.0, 3000.0)
PULSE_HZ: dict[Kind, float] = {
    Kind.SUB: 120.0,
    Kind.WOOFER: 250.0,
    Kind.MIDBASS: 500.0,
    Kind.MID: 2000.0,
    Kind.TWEETER: 8000.0,
}
WIDE_PULSE_HZ = 1000.0


class SignalChoice(Value):
    """A test signal. `hertz` is the tone's or the band's middle; a level is of the peak, of noise the rms value."""

    kind: SignalKind = "pink"
    seconds: float = Field(default=10.0, ge=0.2, le=120.0, allow_inf_nan=False)
    level_db: float = Field(default=-24.0, ge=-80, le=0, allow_inf_nan=False)
    hertz: float = Field(default=1000.0, ge=10, le=40_000, allow_inf_nan=False)
    rate: int = Field(default=48_000)
    bits: int = 24


def samples(space: Workspace, wanted: SignalChoice) -> FloatArray:
    """The signal (n, 2). Raises InvalidError where it cannot be made so."""
    if wanted.rate not in (44_100, 48_000, 88_200, 96_000, 176_400, 192_000):
        raise InvalidError(f"a sample rate of {wanted.rate} Hz; 44100 to 192000 in the usual steps are possible")
    rate, level = wanted.rate, wanted.level_db
    size = round(wanted.seconds * rate)
    if wanted.hertz > 0.45 * rate:
        raise InvalidError(f"{wanted.hertz:g} Hz does not fit a sample rate of {rate}")
    kind = wanted.kind
    if kind in ("pink", "pink-apart"):
        return stimuli.shaped_noise(size, rate, level, channels=2, correlated=kind == "pink")
    if kind == "white":
        return stimuli.shaped_noise(size, rate, level, pink=False, channels=2)
    top = min(20_000.0, 0.48 * rate)
    makers: dict[str, Callable[[], FloatArray]] = {
        "multitone": lambda: stimuli.multitone(size, rate, level),
        "sine": lambda: stimuli.sine(size, rate, level, wanted.hertz),
        "pulses": lambda: stimuli.polarity_pulses(rate, level, wanted.hertz, max(1, round(wanted.seconds / 0.5)), 0.5),
        "centre": lambda: stimuli.centre_tone(rate, level, wanted.hertz, wanted.seconds),
        "sweep": lambda: (
            exponential_sweep(SweepSettings(10.0, top, min(2**20, max(2**12, size)), level, 0.0, rate)).samples
        ),
        "linear-sweep": lambda: stimuli.linear_sweep(size, rate, level, 20.0, top),
        "own": lambda: _own(space, wanted),
    }
    one = makers[kind]()
    return np.repeat(one[:, None], 2, axis=1) if one.ndim == 1 else one


def _own(space: Workspace, wanted: SignalChoice) -> FloatArray:
    if space.own_signal is None:
        raise ConflictError("no file was brought in yet: choose one first")
    found, rate = space.own_signal
    if rate != wanted.rate:
        import soxr

        found = soxr.resample(found, rate, wanted.rate, quality="VHQ")
    top = float(np.abs(found).max()) or 1.0
    two = found[:, :2] if found.shape[1] > 1 else np.repeat(found, 2, axis=1)
    return np.asarray(two[: round(wanted.seconds * wanted.rate)]) / top * 10 ** (wanted.level_db / 20)


def as_wav(space: Workspace, wanted: SignalChoice) -> bytes:
    """The signal as a WAV file of the chosen rate and depth."""
    subtypes = {16: "PCM_16", 24: "PCM_24", 32: "FLOAT"}
    if wanted.bits not in subtypes:
        raise InvalidError(f"{wanted.bits} bit; 16, 24 or 32 (float) are possible")
    with space.large:
        return write_wav(samples(space, wanted), wanted.rate, subtypes[wanted.bits])


def start_signal(recorder: Recorder, slug: str, channels: tuple[str, ...], wanted: SignalChoice) -> None:
    """Play a signal through the tune as it is in the processor, only the chosen channels audible, until stopped."""
    space = recorder.space
    layout = space.layout(slug)
    for channel in channels:
        layout.driver(channel)
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("with files, download the signal and play it elsewhere")
    wanted = wanted.model_copy(update={"rate": space.interface.rate})
    sound = samples(space, wanted).mean(axis=1)
    playing = set(channels) or {driver.id for driver in layout.drivers}
    tune = measuring(read_back(space, slug, head(space, slug).tune), layout, playing)

    def job() -> None:
        with measuring_through(space, slug, tune):
            recorder.play(sound, on_block=lambda _block: False, clip=False, goes_on=True)
        recorder.say(stage="done", message="", seconds_left=0.0)

    recorder.start("signal", job, project=slug, channels=tuple(sorted(playing)))


def _alone(space: Workspace, slug: str, channel: str) -> tuple[Driver, Tune]:
    """A driver, and the tune in which it plays alone and guarded. Raises NotHereError, ConflictError."""
    layout = space.layout(slug)
    driver = layout.driver(channel)
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("with files, download the test signals and play them elsewhere")
    return driver, measuring(neutral(layout), layout, {channel})


def bring_own(space: Workspace, data: bytes) -> float:
    """Take a WAV in as the person's own signal; its seconds. Raises BadFileError."""
    space.own_signal = (read_wav(data, OWN_RATE), OWN_RATE)
    return space.own_signal[0].shape[0] / OWN_RATE


def start_burst(recorder: Recorder, slug: str, channel: str) -> None:
    """Play a burst that suits the driver, three times, so that an ear can tell where it comes from."""
    space = recorder.space
    driver, tune = _alone(space, slug, channel)
    rate = space.interface.rate
    one = stimuli.band_burst(rate, rig.rig(space).sweep.level_db, *BURST_HZ.get(driver.kind, WIDE_BURST_HZ))
    sound = np.tile(np.concatenate((one, np.zeros(round(0.4 * rate)))), 3)

    def job() -> None:
        with measuring_through(space, slug, tune):
            if rig.standin(space):
                recorder.say(result={"ear": _ear(space, space.layout(slug).drivers, driver)})
            recorder.play(sound, on_block=lambda _block: False)
        recorder.say(stage="done", seconds_left=0.0)

    recorder.start("channels", job, project=slug, channels=(channel,))


def _ear(space: Workspace, drivers: tuple[Driver, ...], meant: Driver) -> str:
    """Which driver a person in the stand-in's place would hear."""
    output = space.standin.sounding(meant.output)
    heard = space.standin.stands.wiring.get(output)
    if heard is None:
        return "nothing at all"
    return next((one.name for one in drivers if one.id == heard.id), heard.name)


def start_polarity(recorder: Recorder, slug: str, channel: str) -> None:
    """Play pulses through one driver and read which way it moves first."""
    space = recorder.space
    driver, tune = _alone(space, slug, channel)
    rate = space.interface.rate
    hertz = PULSE_HZ.get(driver.kind, WIDE_PULSE_HZ)
    spacing, count, quiet = round(0.3 * rate), 12, round(0.3 * rate)
    pulses = stimuli.polarity_pulses(rate, rig.rig(space).sweep.level_db, hertz, count, 0.3)
    sound = np.concatenate((np.zeros(quiet), pulses))

    def job() -> None:
        with measuring_through(space, slug, tune):
            heard = recorder.play(sound)
        recorder.say(stage="computing")
        looped = np.abs(heard[:, 1]).max() > 1e-4
        found = read_pulses(heard[:, 0], heard[:, 1] if looped else sound, rate, spacing, count, quiet, hertz)
        result: Result = {"channel": channel, "heard": found is not None}
        if found is not None:
            result |= {"positive": found.positive, "sure": round(found.sure, 2)}
            shape = found.shape[: round(0.02 * rate)]
            result["shape"] = np.round(shape / np.abs(found.shape).max(), 3)[:: max(1, shape.size // 200)].tolist()
        recorder.say(stage="done", done=1.0, seconds_left=0.0, result=result)

    recorder.start("polarity", job, project=slug, channels=(channel,))
