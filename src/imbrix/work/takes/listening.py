"""Any input as it is: heard live as waveform and spectrum, levels logged for hours, stretches recorded and read."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.measure.spectrum import Spectrum, stairs
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.measure.transfer import TransferSettings
from imbrix.core.signal.level import WEIGHTINGS, LevelMeter, Weighting
from imbrix.core.signal.signal import FloatArray, Looped, decibels
from imbrix.core.value import Value
from imbrix.formats.wav import write_wav
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import choices, corrections, rig
from imbrix.work.sound.level_log import SINE_DB, LevelLog, levels_of, scale_db
from imbrix.work.sound.recorder import Growing, Recorder, Stopped
from imbrix.work.takes.shelf import Details, Take, arrays, keep, take
from imbrix.work.tune.revisions import head

LONGEST_S = 24 * 3600
BLOCK = 2048
MOST_RECORDED_S = 300
SHOWN_S = 0.25
"""How much of the waveform is shown live."""
RAW: Drawer[int, tuple[FloatArray, int]] = Drawer("recordings of inputs", 1, by_take=True)
"""Recordings are long: one at a time is kept at hand."""


class Listen(Value):
    """What to listen to, and how. `record_s` above zero keeps what is heard in that time as a take; `log` writes a row
    of levels each second. `fraction` 0 shows the spectrum fine, else in bands of an octave's fraction."""

    input: int = Field(default=0, ge=0, le=255)
    sound: Literal["nothing", "pink"] = "nothing"
    level_db: float = Field(default=-24.0, ge=-80, le=0)
    size: int = 2**15
    window: str = "hann"
    seconds: float | None = Field(default=1.0, ge=0.05, le=120)
    frames: int | None = Field(default=None, ge=1, le=100_000)
    fraction: Literal[0, 1, 3] = 3
    hold: bool = False
    record_s: float = Field(default=0.0, ge=0, le=MOST_RECORDED_S)
    log: bool = False


@dataclass(frozen=True)
class HeardInput:
    """What is heard of an input: the last of its samples (m,), its spectrum and the highest so far, both (n,)."""

    recent: FloatArray
    rate: int
    levels: FloatArray | None
    held: FloatArray | None


@dataclass
class _Run:
    choice: Listen
    spectrum: Spectrum
    meters: dict[Weighting, LevelMeter]
    rate: int
    recent: FloatArray
    blocks: list[FloatArray] = field(default_factory=list)
    held: FloatArray | None = None
    log: LevelLog | None = None


def start(recorder: Recorder, slug: str, choice: Listen) -> None:
    """Begin to listen to one input. Raises ConflictError, InvalidError."""
    space = recorder.space
    chosen = rig.rig(space)
    if chosen.device == choices.FILE:
        raise ConflictError("with files there is nothing to listen to: bring a recording, or choose a sound card")
    if choice.input >= chosen.known_inputs:
        raise ConflictError(f"there is no input {choice.input + 1}")
    rate = space.interface.rate
    settings = TransferSettings(choice.size, choice.window, choice.seconds, rate, frames=choice.frames)
    meters = {kind: LevelMeter(rate, kind) for kind in WEIGHTINGS}
    run = _Run(choice, Spectrum(settings), meters, rate, np.zeros(round(SHOWN_S * rate)))
    seconds = choice.record_s or LONGEST_S
    period = np.zeros(2**12)
    if choice.sound == "pink":
        period = shaped_noise(2**17, rate, choice.level_db)[:, 0]

    def on_block(block: FloatArray) -> bool:
        heard = block[:, 0]
        run.recent = np.concatenate((run.recent, heard))[-run.recent.size :]
        for meter in meters.values():
            meter.feed(heard)
        if run.log:
            run.log.feed(heard)
        if choice.record_s:
            run.blocks.append(heard.astype(np.float32))
        if run.spectrum.feed(heard) or not run.spectrum.count:
            _show(recorder, space, run)
        return False

    def job() -> None:
        # Begun with the job and not before: what is refused leaves no empty log behind.
        run.log = LevelLog(space, scale_db(space, choice.input)) if choice.log else None
        try:
            recorder.play(
                Looped(period, round(seconds * rate)),
                on_block=on_block,
                inputs=(choice.input,),
                per_block=BLOCK,
                clip=False,
                # A recording has no gaps, and a log counts its seconds by what it heard.
                goes_on=not choice.record_s and not choice.log,
            )
        except Stopped:
            pass
        finally:
            if run.log:
                run.log.close()
        recorder.stopping.clear()
        if not choice.record_s or not run.blocks:
            recorder.say(stage="done", message="", seconds_left=0.0)
            return
        recorder.computing()
        name = chosen.input_names[choice.input] if choice.input < len(chosen.input_names) else ""
        take_id = _keep(space, slug, np.concatenate(run.blocks), rate, choice.input, name)
        recorder.say(stage="kept", take_id=take_id, result={"doubt": False})

    recorder.start("listen", job, project=slug, purpose="raw")


def _keep(space: Workspace, slug: str, samples: FloatArray, rate: int, number: int, note: str) -> int:
    chosen = rig.rig(space)
    return keep(
        space,
        slug,
        channels=(),
        purpose="raw",
        method="raw",
        timed=False,
        through=head(space, slug).tune,
        rate=rate,
        arrays={"samples": samples},
        details=Details(
            input=number,
            device=chosen.device,
            correction=chosen.correction if number == chosen.microphone_input else None,
            full_scale_db_spl=scale_db(space, number),
        ),
        note=note,
    )


def bring(space: Workspace, slug: str, samples: FloatArray, rate: int, number: int, note: str) -> int:
    """Keep a recording (n, channels) that was made elsewhere, each channel as what an input heard; the id of the first.

    Of the microphone's input it is told in dB SPL, by the rig's reference level and correction. Raises ConflictError
    where there is no such input.
    """
    if number >= rig.rig(space).known_inputs:
        raise ConflictError(f"there is no input {number + 1}")
    several = samples.shape[1] > 1
    made = [
        _keep(space, slug, one.astype(np.float32), rate, number, f"{note}, channel {n + 1}" if several else note)
        for n, one in reversed(list(enumerate(samples.T)))
    ]
    return made[-1]


def _show(recorder: Recorder, space: Workspace, run: _Run) -> None:
    """Do what was asked for, and make the picture as it is now."""
    if "reset" in recorder.asked:
        recorder.asked.discard("reset")
        run.spectrum.reset()
        run.held = None
        for meter in run.meters.values():
            meter.restart()
    scale = scale_db(space, run.choice.input)
    shown = {kind: levels_of(meter, scale) for kind, meter in run.meters.items()}
    recorder.say(
        result={"levels": shown, "unit": "dBFS" if scale is None else "dB SPL"},
        averages=run.spectrum.count,
    )
    levels = _spectrum(space, run) if run.spectrum.count else None
    if levels is not None and run.choice.hold:
        run.held = levels if run.held is None else np.fmax(run.held, levels)
    heard = HeardInput(run.recent.copy(), run.rate, levels, run.held)
    recorder.growing = Growing(recorder.progress.version, (), heard)


def _spectrum(space: Workspace, run: _Run) -> FloatArray:
    """The running spectrum on the common grid (n,) in dBFS or, of the microphone, dB SPL with it divided out."""
    if run.choice.fraction:
        levels = stairs(*run.spectrum.in_bands(run.choice.fraction), run.choice.fraction)
    else:
        levels = run.spectrum.fine()
    return as_sound(space, levels, scale_db(space, run.choice.input), rig.rig(space).correction)


def as_sound(space: Workspace, levels: FloatArray, scale: float | None, correction: int | None) -> FloatArray:
    """Levels (n,) on the grid, where a full-scale sine is 0, as sound where a microphone was on the input."""
    if scale is None:
        return levels
    if correction is not None:
        levels = levels - decibels(corrections.on_grid(space, correction))
    return levels - SINE_DB + scale


def samples_of(space: Workspace, one: Take) -> tuple[FloatArray, int]:

    def read() -> tuple[FloatArray, int]:
        data, rate = arrays(space, one.id)
        return data["samples"], rate

    return space.memory.of(RAW, one.id, read)


def as_wav(space: Workspace, slug: str, take_id: int) -> bytes:
    """A recorded input as 32-bit float WAV. Raises NotHereError."""
    one = take(space, slug, take_id)
    if one.purpose != "raw":
        raise NotHereError(f"take {take_id} is no recording of an input")
    return write_wav(*samples_of(space, one), "FLOAT")
