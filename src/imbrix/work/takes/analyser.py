"""The live analyser: pink noise through what the processor does, and what comes of it, while a person turns knobs."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError, UnusableError
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.measure.transfer import Shown, Transfer, TransferSettings
from imbrix.core.signal.signal import FloatArray, Looped
from imbrix.core.tune.tune import Tune, measuring
from imbrix.core.value import Value
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import read_back, write_tune
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Growing, Recorder, Stopped
from imbrix.work.takes.recording import conditions
from imbrix.work.takes.shelf import Details, keep
from imbrix.work.tune.revisions import head

CLEAR_COHERENCE = 0.6
"""Below this the curve is faded: what is drawn there is not the system's own."""
LONGEST_S = 24 * 3600
SILENT = 1e-4
BLOCK = 2048
"""Small enough for twenty frames a second."""
BEFORE_S, AFTER_S = 0.003, 0.02
"""How much of the running impulse is shown."""


class LiveChoice(Value):
    """How the analyser runs.

    `seconds` of exponential averaging; None averages all since the last reset, or `frames` and no more. `microphones`
    are further inputs whose mean is shown; `follow` sends every change at once, `track` follows a delay that moves,
    `hold` keeps the highest level seen.
    """

    size: int = 2**15
    window: str = "hann"
    seconds: float | None = Field(default=1.0, ge=0.05, le=120)
    frames: int | None = Field(default=None, ge=1, le=100_000)
    follow: bool = True
    track: bool = False
    hold: bool = False
    overlap: float | None = Field(default=None, ge=0, le=0.98)
    microphones: tuple[int, ...] = Field(default=(), max_length=8)
    level_db: float = Field(default=-24.0, ge=-80, le=0)


@dataclass(frozen=True)
class Heard:
    """What the analyser knows: the response with its coherence, seconds and taps of the running impulse, the highest
    level so far (n,), and whether the delay is out."""

    shown: Shown
    impulse: tuple[FloatArray, FloatArray]
    held: FloatArray | None
    settled: bool


@dataclass
class _Run:
    """What is under way: its analyser, and which tune the processor plays."""

    transfer: Transfer
    choice: LiveChoice
    through: Tune
    settled: bool = False
    loudest: float = 0.0
    samples: int = 0
    checked: int = 0
    held: FloatArray | None = None


def start(recorder: Recorder, slug: str, channels: tuple[str, ...], choice: LiveChoice, window: str = "") -> None:
    """Begin to listen through `channels` (all where empty), following what is under the hand in a `window`.

    Raises ConflictError, InvalidError, NotHereError.
    """
    space = recorder.space
    chosen = rig.rig(space)
    if chosen.device == choices.FILE:
        raise ConflictError("with files there is nothing to listen to: choose a sound card under Rig")
    if chosen.reference_input is None:
        raise ConflictError("the live analyser compares with the reference input: choose one under Rig, Device")
    layout = space.layout(slug)
    for channel in channels:
        layout.driver(channel)
    inputs = _inputs(space, choice)
    settings = TransferSettings(
        choice.size, choice.window, choice.seconds, space.interface.rate, frames=choice.frames, overlap=choice.overlap
    )
    playing = set(channels) or {driver.id for driver in layout.drivers}
    pink = shaped_noise(2**17, space.interface.rate, choice.level_db)[:, 0]
    sound = Looped(pink, LONGEST_S * space.interface.rate)
    began = head(space, slug).id

    def wanted() -> Tune:
        """What should be heard now: the draft under a person's hand, else what was kept."""
        if not choice.follow:
            return run.through
        shown = recorder.drafts.get((slug, window)) or head(space, slug).tune
        return processors.playable(space, slug, measuring(shown, layout, playing))

    now = head(space, slug).tune if choice.follow else read_back(space, slug, head(space, slug).tune)
    run = _Run(
        Transfer(settings, len(inputs) - 1), choice, processors.playable(space, slug, measuring(now, layout, playing))
    )

    def on_block(block: FloatArray) -> bool:
        run.loudest = max(run.loudest, float(np.abs(block[:, -1]).max()))
        run.samples += block.shape[0]
        if run.samples > settings.rate and run.loudest < SILENT:
            raise UnusableError(
                "the reference input is silent: connect the loopback, or choose the input that it is on", "reference"
            )
        tune = wanted()
        if tune != run.through:
            run.through = tune
            write_tune(space, slug, tune)
        if run.transfer.feed(block):
            _show(recorder, space, tuple(sorted(playing)), run)
        return False

    def job() -> None:
        frozen = False
        with measuring_through(space, slug, run.through, run.choice.follow):
            try:
                recorder.play(sound, on_block=on_block, inputs=inputs, per_block=BLOCK, goes_on=True)
            except Stopped:
                frozen = "keep" in recorder.asked
        if choice.follow and head(space, slug).id != began:
            # What was followed stays; without a change all is as it was before.
            write_tune(space, slug, head(space, slug).tune)
        shown = run.transfer.shown()
        if not frozen or shown is None:
            recorder.say(stage="done", message="", seconds_left=0.0)
            return
        recorder.stopping.clear()
        recorder.computing()
        take_id = _keep(space, slug, tuple(sorted(playing)), run.through, shown, choice)
        recorder.say(stage="kept", take_id=take_id)

    recorder.start("live", job, project=slug, channels=tuple(sorted(playing)), purpose="proof")


def _inputs(space: Workspace, choice: LiveChoice) -> tuple[int, ...]:
    """The measuring microphone, further ones, the reference last. Raises ConflictError for one that is not there."""
    chosen = rig.rig(space)
    assert chosen.reference_input is not None
    for number in choice.microphones:
        if not 0 <= number < chosen.known_inputs:
            raise ConflictError(f"there is no input {number + 1} for another microphone")
        if number in (chosen.microphone_input, chosen.reference_input):
            raise ConflictError(f"input {number + 1} is in use already: choose another for the further microphone")
    return (chosen.microphone_input, *dict.fromkeys(choice.microphones), chosen.reference_input)


def _show(recorder: Recorder, space: Workspace, channels: tuple[str, ...], run: _Run) -> None:
    """Do what was asked for, and make the curve as it is now known."""
    transfer = run.transfer
    if not run.settled and transfer.count >= 4:
        run.settled = True
        recorder.asked.add("delay")
    if "delay" in recorder.asked:
        recorder.asked.discard("delay")
        transfer.find_delay()
        run.held = None
    elif (
        run.choice.track and run.settled and run.samples - run.checked > transfer.settings.rate // 4 and transfer.count
    ):
        run.checked = run.samples
        transfer.track_delay()
    if "reset" in recorder.asked:
        recorder.asked.discard("reset")
        transfer.reset()
        run.held = None
    shown = transfer.shown()
    if shown is None:
        return
    if run.choice.hold:
        level = np.where(shown.coherence >= CLEAR_COHERENCE, np.abs(shown.response), 0.0)
        run.held = level if run.held is None else np.maximum(run.held, level)
    inside = (space.grid > 100) & (space.grid < 10_000)
    recorder.say(
        result={
            "delay_ms": shown.delay_s * 1e3,
            "coherence": round(float(np.median(shown.coherence[inside])), 3),
            "settled": run.settled,
            "full": transfer.full,
        },
        averages=shown.count,
    )
    heard = Heard(shown, transfer.impulse(BEFORE_S, AFTER_S), run.held, run.settled)
    recorder.growing = Growing(recorder.progress.version, channels, heard)


def _keep(
    space: Workspace, slug: str, channels: tuple[str, ...], through: Tune, shown: Shown, choice: LiveChoice
) -> int:
    """Keep what was frozen as a take of the whole, without time: its delay was taken out."""
    over = 10 * np.log10(np.maximum(shown.coherence, 1e-6) / np.maximum(1 - shown.coherence, 1e-6))
    values = np.where(shown.coherence >= CLEAR_COHERENCE, shown.response, np.nan)
    averaged = f"{choice.frames} frames" if choice.frames else f"{choice.seconds:g} s" if choice.seconds else "all"
    return keep(
        space,
        slug,
        channels=channels,
        purpose="proof",
        method="moving",
        timed=False,
        through=through,
        rate=space.interface.rate,
        arrays={"response": np.stack((values.real, values.imag)), "over": over},
        details=Details(
            length=choice.size,
            level_db=choice.level_db,
            averages=shown.count,
            live={**choice.model_dump(mode="json"), "delay_ms": shown.delay_s * 1e3},
            **conditions(space, slug),
        ),
        note=f"frozen from the live analyser, averaged over {averaged}",
        level_db=choice.level_db,
    )


def ask(recorder: Recorder, what: Literal["delay", "reset", "keep"]) -> None:
    """Ask the analyser for its delay, a fresh average, or to stop and keep what it shows. Raises ConflictError."""
    if recorder.progress.kind not in ("live", "listen") or recorder.progress.stage != "playing":
        raise ConflictError("the live analyser is not running")
    recorder.asked.add(what)
    if what == "keep":
        recorder.abort()
