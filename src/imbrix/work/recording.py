"""Recording a take: set the processor, play, listen, check, put the processor back, keep."""

import threading
import time
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from imbrix.core.reading import CLIPPING, UnusableError, check_recording, read_recording
from imbrix.core.signal import FloatArray
from imbrix.core.sweep import SweepSettings, exponential_sweep
from imbrix.core.tune import Tune, measuring, neutral
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.link import read_back, registers, write_all
from imbrix.work.takes import Purpose, keep
from imbrix.work.tuning import head

Stage = Literal["idle", "playing", "computing", "kept", "refused", "aborted"]


@dataclass(frozen=True)
class Progress:
    """How far a take is. `version` grows with every change."""

    stage: Stage = "idle"
    channels: tuple[str, ...] = ()
    purpose: Purpose = "driver"
    done: float = 0.0
    seconds_left: float = 0.0
    peak_dbfs: float = -120.0
    message: str = ""
    take_id: int | None = None
    version: int = 0


class Recorder:
    """Runs one take at a time in a thread of its own."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self.progress = Progress()

    def _say(self, **values: object) -> None:
        self.progress = replace(self.progress, version=self.progress.version + 1, **values)  # type: ignore[arg-type]

    def start(self, slug: str, channels: tuple[str, ...], purpose: Purpose, settings: SweepSettings) -> None:
        """Begin a take. Raises ConflictError while another runs, NotHere/KeyError for a channel that is not there."""
        layout = self._desk.layout(slug)
        for channel in channels:
            layout.driver(channel)
        if not channels:
            raise ConflictError("no channel is chosen: there is nothing to record")
        if settings.rate != self._desk.interface.rate:
            raise ConflictError(f"the interface runs at {self._desk.interface.rate} Hz, not at {settings.rate}")
        if not self._desk.device.acquire(blocking=False):
            raise ConflictError("a take is being recorded already")
        self._stop.clear()
        self._say(
            stage="playing",
            channels=channels,
            purpose=purpose,
            done=0.0,
            message="",
            take_id=None,
            peak_dbfs=-120.0,
        )
        self._thread = threading.Thread(target=self._run, args=(slug, channels, purpose, settings), daemon=True)
        self._thread.start()

    def abort(self) -> None:
        """Stop the take that runs; nothing of it is kept."""
        self._stop.set()

    def wait(self, seconds: float = 60.0) -> Progress:
        """Wait for the take to end, for callers without a socket."""
        if self._thread:
            self._thread.join(seconds)
        return self.progress

    def _run(self, slug: str, channels: tuple[str, ...], purpose: Purpose, settings: SweepSettings) -> None:
        desk = self._desk
        layout = desk.layout(slug)
        try:
            before = {driver.output: desk.processor.read(driver.output) for driver in layout.drivers}
            # A driver is taken bare: through nothing but its guard. A proof takes what the processor holds.
            now = neutral(layout) if purpose == "driver" else read_back(desk, layout, head(desk, slug).tune)
            through = measuring(now, layout, set(channels))
            write_all(desk, registers(through, layout))
            try:
                recorded = self._play(exponential_sweep(settings).samples, settings.rate)
            finally:
                write_all(desk, before)
            self._say(stage="computing", done=1.0, seconds_left=0.0)
            take_id = self._keep(slug, channels, purpose, settings, through, recorded)
            self._say(stage="kept", take_id=take_id)
        except _Aborted:
            self._say(stage="aborted", message="Stopped. Nothing of this take was kept.")
        except UnusableError as error:
            self._say(stage="refused", message=f"Not kept: {error}.")
        except Exception as error:
            self._say(stage="refused", message=f"Not kept: the take failed ({error}).")
            raise
        finally:
            desk.device.release()

    def _play(self, samples: FloatArray, rate: int) -> FloatArray:
        blocks: list[FloatArray] = []
        begun = time.monotonic()
        count = 0
        peak = 1e-6
        for block in self._desk.interface.play_and_record(samples):
            if self._stop.is_set():
                raise _Aborted
            blocks.append(block)
            count += block.shape[0]
            peak = max(peak, float(np.abs(block[:, 0]).max()))
            if peak >= CLIPPING:
                raise UnusableError(
                    f"the microphone input clips at {count / rate:.1f} s: lower the input gain or the output level"
                )
            self._say(
                done=count / samples.size,
                seconds_left=(samples.size - count) / rate,
                peak_dbfs=round(20 * float(np.log10(peak)), 1),
            )
            if self._desk.pace:
                ahead = count / rate / self._desk.pace - (time.monotonic() - begun)
                if ahead > 0 and self._stop.wait(ahead):
                    raise _Aborted
        return np.concatenate(blocks)

    def _keep(
        self,
        slug: str,
        channels: tuple[str, ...],
        purpose: Purpose,
        settings: SweepSettings,
        through: Tune,
        recorded: FloatArray,
    ) -> int:
        microphone, loopback = recorded[:, 0], recorded[:, 1]
        check_recording(microphone, settings.rate, settings.length / settings.rate)
        timed = bool(np.abs(loopback).max() > 1e-4)
        reference = loopback if timed else exponential_sweep(settings).samples
        result = read_recording(microphone, reference, settings.rate, timed)
        take_id = keep(
            self._desk,
            slug,
            channels=channels,
            purpose=purpose,
            method="sweep",
            timed=timed,
            through=through,
            rate=settings.rate,
            arrays={"microphone": microphone, "reference": reference},
            level_db=settings.level_db,
        )
        self._desk.readings[take_id] = result
        return take_id


class _Aborted(Exception):  # noqa: N818
    pass
