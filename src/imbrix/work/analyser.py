"""The live analyser: pink noise through what the processor does, and what comes of it, while a person turns knobs."""

from dataclasses import dataclass
from functools import partial
from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.layout import Value
from imbrix.core.reading import UnusableError
from imbrix.core.signal import FloatArray, Looped, decibels, power_decibels
from imbrix.core.smoothing import Fraction, smooth
from imbrix.core.stimuli import shaped_noise
from imbrix.core.transfer import Shown, Transfer, TransferSettings
from imbrix.core.tune import Tune, measuring
from imbrix.work import corrections, rig
from imbrix.work.desk import NOMINAL_FULL_SCALE, ConflictError, Desk
from imbrix.work.link import read_back, registers, write_all
from imbrix.work.picture import Picture
from imbrix.work.player import LiveCurve, Recorder, Stopped, measuring_through
from imbrix.work.recording import conditions
from imbrix.work.takes import Details, keep
from imbrix.work.tuning import head

CLEAR_COHERENCE = 0.6
"""Below this the curve is faded: what is drawn there is not the system's own."""
LONGEST_S = 24 * 3600
SILENT = 1e-4


class LiveChoice(Value):
    """How the analyser runs. `seconds` None averages all since the last reset; `follow` sends every change at once."""

    size: int = 2**15
    window: str = "hann"
    seconds: float | None = Field(default=1.0, ge=0.05, le=120)
    follow: bool = True
    level_db: float = Field(default=-24.0, ge=-80, le=0)


@dataclass
class _Run:
    """What is under way: its analyser, and which revision the processor plays."""

    transfer: Transfer
    revision: int
    settled: bool = False
    loudest: float = 0.0
    samples: int = 0


def start(recorder: Recorder, slug: str, channels: tuple[str, ...], choice: LiveChoice) -> None:
    """Begin to listen through `channels` (all where empty). Raises ConflictError, ValueError, KeyError."""
    desk = recorder.desk
    chosen = rig.rig(desk)
    if chosen.device == rig.FILE:
        raise ConflictError("with files there is nothing to listen to: choose a sound card under Rig")
    if chosen.reference_input is None:
        raise ConflictError("the live analyser compares with the reference input: choose one under Rig, Device")
    layout = desk.layout(slug)
    for channel in channels:
        layout.driver(channel)
    settings = TransferSettings(choice.size, choice.window, choice.seconds, desk.interface.rate)
    playing = set(channels) or {driver.id for driver in layout.drivers}
    pink = shaped_noise(2**17, desk.interface.rate, choice.level_db)[:, 0]
    sound = Looped(pink, LONGEST_S * desk.interface.rate)
    began = head(desk, slug).id
    run = _Run(Transfer(settings), began)

    def wanted() -> Tune:
        now = head(desk, slug).tune if choice.follow else read_back(desk, layout, head(desk, slug).tune)
        return measuring(now, layout, playing)

    def on_block(block: FloatArray) -> bool:
        run.loudest = max(run.loudest, float(np.abs(block[:, 1]).max()))
        run.samples += block.shape[0]
        if run.samples > settings.rate and run.loudest < SILENT:
            raise UnusableError(
                "the reference input is silent: connect the loopback, or choose the input that it is on", "reference"
            )
        if choice.follow:
            now = head(desk, slug)
            if now.id != run.revision:
                run.revision = now.id
                write_all(desk, registers(measuring(now.tune, layout, playing), layout))
        if run.transfer.feed(block):
            _show(recorder, desk, tuple(sorted(playing)), run)
        return False

    def job() -> None:
        frozen = False
        with measuring_through(desk, layout, wanted()):
            try:
                recorder.play(sound, on_block=on_block)
            except Stopped:
                frozen = "keep" in recorder.asked
            through = wanted()
        if run.revision != began:  # what was followed stays; without a change all is as it was before
            write_all(desk, registers(head(desk, slug).tune, layout))
        shown = run.transfer.shown()
        if not frozen or shown is None:
            recorder.say(stage="done", message="", seconds_left=0.0)
            return
        recorder.stopping.clear()
        recorder.computing()
        take_id = _keep(desk, slug, tuple(sorted(playing)), through, shown, choice)
        recorder.say(stage="kept", take_id=take_id)

    recorder.start("live", job, channels=tuple(sorted(playing)), purpose="proof")


def _show(recorder: Recorder, desk: Desk, channels: tuple[str, ...], run: _Run) -> None:
    """Do what was asked for, and make the curve as it is now known."""
    transfer = run.transfer
    if not run.settled and transfer.count >= 4:
        run.settled = True
        recorder.asked.add("delay")
    if "delay" in recorder.asked:
        recorder.asked.discard("delay")
        transfer.find_delay()
    if "reset" in recorder.asked:
        recorder.asked.discard("reset")
        transfer.reset()
    shown = transfer.shown()
    if shown is None:
        return
    inside = (desk.grid > 100) & (desk.grid < 10_000)
    recorder.say(
        result={
            "delay_ms": shown.delay_s * 1e3,
            "coherence": round(float(np.median(shown.coherence[inside])), 3),
            "settled": run.settled,
        },
        averages=shown.count,
    )
    recorder.live = LiveCurve(recorder.progress.version, channels, partial(picture, desk, channels, shown))


def picture(desk: Desk, channels: tuple[str, ...], shown: Shown, smoothing: Fraction) -> Picture:
    """The live curve in dB SPL at the common drive; faded where the coherence is low."""
    drawn = Picture()
    power = smooth(np.nan_to_num(np.abs(shown.response) ** 2), desk.grid, smoothing)
    values = power_decibels(np.maximum(power, 0)) + desk.offset_db + rig.full_scale(desk) - NOMINAL_FULL_SCALE
    correction = rig.rig(desk).correction
    if correction is not None:
        values = values - decibels(corrections.on_grid(desk, correction))
    clear = (smooth(shown.coherence, desk.grid, smoothing) >= CLEAR_COHERENCE) & np.isfinite(shown.response)
    channel = channels[0] if len(channels) == 1 else ""
    drawn.add("live", np.where(clear, values, np.nan), "live", label="live", channel=channel)
    drawn.add("live-unclear", np.where(clear, np.nan, values), "edge", channel=channel)
    return drawn


def _keep(desk: Desk, slug: str, channels: tuple[str, ...], through: Tune, shown: Shown, choice: LiveChoice) -> int:
    """Keep what was frozen as a take of the whole, without time: its delay was taken out."""
    over = 10 * np.log10(np.maximum(shown.coherence, 1e-6) / np.maximum(1 - shown.coherence, 1e-6))
    values = np.where(shown.coherence >= CLEAR_COHERENCE, shown.response, np.nan)
    return keep(
        desk,
        slug,
        channels=channels,
        purpose="proof",
        method="moving",
        timed=False,
        through=through,
        rate=desk.interface.rate,
        arrays={"response": np.stack((values.real, values.imag)), "over": over},
        details=Details(length=choice.size, level_db=choice.level_db, averages=shown.count, **conditions(desk)),
        note=f"frozen from the live analyser, {choice.seconds or 'all'} s",
        level_db=choice.level_db,
    )


def ask(recorder: Recorder, what: Literal["delay", "reset", "keep"]) -> None:
    """Ask the analyser for its delay, a fresh average, or to stop and keep what it shows. Raises ConflictError."""
    if recorder.progress.kind != "live" or recorder.progress.stage != "playing":
        raise ConflictError("the live analyser is not running")
    recorder.asked.add(what)
    if what == "keep":
        recorder.abort()
