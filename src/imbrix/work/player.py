"""Playing and recording: the recorder's thread, its progress, meters, stopping, and putting the processor back."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from imbrix.core.layout import Layout
from imbrix.core.reading import CLIPPING, UnusableError
from imbrix.core.register import OutputRegister
from imbrix.core.signal import FloatArray
from imbrix.core.tune import Tune
from imbrix.work import documents, rig
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.link import registers, write_all

Stage = Literal["idle", "countdown", "waiting", "playing", "computing", "kept", "done", "refused", "aborted"]
Kind = Literal["take", "moving", "live", "check", "level", "calibrate", "signal", "channels", "polarity"]
RUNNING = ("countdown", "waiting", "playing", "computing")
HOLD_S = 1.5


@dataclass(frozen=True)
class Meter:
    """Level of one input in dBFS: of the last block, the peak held, the greatest so far."""

    name: str
    now: float
    held: float
    most: float


@dataclass(frozen=True)
class Progress:
    """How far a recording is. `version` grows with every change; `result` is what it found, ready to show."""

    kind: Kind = "take"
    stage: Stage = "idle"
    channels: tuple[str, ...] = ()
    purpose: str = "driver"
    done: float = 0.0
    seconds_left: float = 0.0
    peak_dbfs: float = -120.0
    meters: tuple[Meter, ...] = ()
    averages: int = 0
    change_db: float | None = None
    message: str = ""
    cause: str = ""
    take_id: int | None = None
    result: dict[str, Any] | None = None
    version: int = 0


@dataclass(frozen=True)
class LiveCurve:
    """A curve that grows while something runs: its picture at a smoothing, and a count that changes with it."""

    count: int
    channels: tuple[str, ...]
    picture: Callable[[Any], Any]


class Stopped(Exception):  # noqa: N818
    """The person stopped it."""


class Recorder:
    """Runs one job at a time in a thread of its own: anything that plays or records."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.progress = Progress()
        self.live: LiveCurve | None = None
        self.asked: set[str] = set()
        """What a person asked of the live analyser while it runs."""
        self.stopping = threading.Event()
        self.arrived = threading.Event()
        self.brought: FloatArray | None = None
        self._thread: threading.Thread | None = None
        self._computes_since = 0.0
        self._compute_s = 0.5

    def say(self, **values: object) -> None:
        self.progress = replace(self.progress, version=self.progress.version + 1, **values)  # type: ignore[arg-type]

    def start(self, kind: Kind, job: Callable[[], None], **values: object) -> None:
        """Begin a job. Raises ConflictError while another runs, or where the device is not as it was left."""
        if not self.desk.device.acquire(blocking=False):
            raise ConflictError("a recording is running already")
        try:
            wrong = rig.trouble(self.desk, again=True)
            if wrong:
                raise ConflictError(wrong)
        except BaseException:
            self.desk.device.release()
            raise
        self.stopping.clear()
        self.arrived.clear()
        self.live = None
        self.asked.clear()
        fresh = Progress(kind=kind, stage="playing", version=self.progress.version)
        self.progress = replace(fresh, version=fresh.version + 1, **values)  # type: ignore[arg-type]
        self._thread = threading.Thread(target=self._run, args=(job,), daemon=True)
        self._thread.start()

    def _run(self, job: Callable[[], None]) -> None:
        try:
            job()
            if self.progress.stage == "kept":
                self._compute_s = time.monotonic() - self._computes_since
        except Stopped:
            self.say(stage="aborted", message="Stopped. Nothing of this was kept.")
        except UnusableError as error:
            self.say(stage="refused", message=f"Not kept: {error}.", cause=error.kind)
        except OSError as error:
            if _disk_full(error):
                self.say(
                    stage="refused",
                    message="Not kept: the disk is full. Free some room and record again.",
                    cause="disk",
                )
            else:
                self.say(
                    stage="refused",
                    cause="device",
                    message=f"Not kept: {error}. The take so far was dropped, earlier ones are safe; "
                    "plug the device in and record again.",
                )
        except Exception as error:
            if _disk_full(error):
                self.say(
                    stage="refused",
                    message="Not kept: the disk is full. Free some room and record again.",
                    cause="disk",
                )
            else:
                self.say(stage="refused", message=f"Not kept: it failed ({error}).", cause="failed")
                raise
        finally:
            self.desk.device.release()

    def abort(self) -> None:
        """Stop what runs."""
        self.stopping.set()
        self.arrived.set()

    def wait(self, seconds: float = 60.0) -> Progress:
        """Wait for the job to end, for callers without a socket."""
        if self._thread:
            self._thread.join(seconds)
        return self.progress

    def computing(self) -> None:
        """Playing is over, computation begins: as long as it took the last time."""
        self._computes_since = time.monotonic()
        self.say(stage="computing", done=1.0, seconds_left=round(self._compute_s, 1))

    def countdown(self, seconds: int) -> None:
        """Count down, so that a person can step back."""
        pace = self.desk.pace or 1e9
        for left in range(seconds, 0, -1):
            self.say(stage="countdown", seconds_left=float(left))
            if self.stopping.wait(1.0 / pace):
                raise Stopped
        self.say(stage="playing", seconds_left=0.0)

    def play(
        self,
        samples: FloatArray,
        *,
        moving: bool = False,
        changes: dict[int, Callable[[], None]] | None = None,
        on_block: Callable[[FloatArray], bool] | None = None,
        clip: bool = True,
    ) -> FloatArray:
        """Play (n,) samples and return what was recorded (n, 2): microphone, reference.

        `changes` are done when playing reaches their sample; `on_block` sees every block and ends the recording by
        returning True. Raises UnusableError on clipping, saying on which input and when, OSError when the device
        goes, Stopped.
        """
        desk = self.desk
        chosen = rig.rig(desk)
        rate = desk.interface.rate
        waiting = dict(sorted((changes or {}).items()))
        meters = _Meters(chosen, rate)
        blocks: list[FloatArray] = []
        begun = time.monotonic()
        count = 0
        for block in desk.interface.play_and_record(samples, chosen.place, moving):
            if self.stopping.is_set():
                raise Stopped
            meters.take(block, count)
            both = _two(block, chosen)
            if on_block is None:
                blocks.append(both)
            count += block.shape[0]
            if clip and meters.clipped is not None:
                raise UnusableError(
                    f"{meters.clipped} clips at {count / rate:.1f} s: lower the input gain or the output level",
                    "clipped",
                )
            self.say(
                done=min(1.0, count / samples.size),
                seconds_left=max(0.0, (samples.size - count) / rate),
                peak_dbfs=meters.peak,
                meters=meters.all,
            )
            if on_block is not None and on_block(both):
                break
            for at in [at for at in waiting if at <= count]:
                waiting.pop(at)()
            if desk.pace:
                ahead = count / rate / desk.pace - (time.monotonic() - begun)
                if ahead > 0 and self.stopping.wait(ahead):
                    raise Stopped
        return np.concatenate(blocks) if blocks else np.zeros((0, 2))


def _disk_full(error: BaseException | None) -> bool:
    text = str(error).lower()
    return "disk is full" in text or "disk full" in text or getattr(error, "errno", None) == 28


def _two(block: FloatArray, chosen: rig.Rig) -> FloatArray:
    """Microphone and reference out of all inputs; a reference that is not there is silent."""
    out = np.zeros((block.shape[0], 2))
    out[:, 0] = block[:, chosen.microphone_input]
    if chosen.reference_input is not None and chosen.reference_input < block.shape[1]:
        out[:, 1] = block[:, chosen.reference_input]
    return out


class _Meters:
    """Levels of all inputs with their peaks held for a while."""

    def __init__(self, chosen: rig.Rig, rate: int) -> None:
        self._chosen = chosen
        self._rate = rate
        self._held: list[tuple[float, int]] = []
        self.all: tuple[Meter, ...] = ()
        self.peak = -120.0
        self.clipped: str | None = None

    def take(self, block: FloatArray, at: int) -> None:
        names = self._chosen.input_names
        tops = np.maximum(np.abs(block).max(axis=0), 1e-6)
        levels = [round(float(level), 1) for level in 20 * np.log10(tops)]
        self._held = self._held or [(-120.0, 0)] * len(levels)
        shown = []
        for n, level in enumerate(levels):
            held, since = self._held[n]
            if level >= held or at - since > HOLD_S * self._rate:
                self._held[n] = (level, at)
            most = max(level, self.all[n].most if self.all else -120.0)
            shown.append(Meter(names[n] if n < len(names) else f"Input {n + 1}", level, self._held[n][0], most))
        self.all = tuple(shown)
        self.peak = self.all[self._chosen.microphone_input].most
        watched = (self._chosen.microphone_input, self._chosen.reference_input)
        for n, top in enumerate(tops):
            if top >= CLIPPING and n in watched:
                self.clipped = f"the input {self.all[n].name}"


@contextmanager
def measuring_through(desk: Desk, layout: Layout, tune: Tune) -> Iterator[None]:
    """The processor set to a tune for a while; what it held before comes back, after a crash at the next start."""
    before = {driver.output: desk.processor.read(driver.output) for driver in layout.drivers}
    kept = {str(output): register.model_dump(mode="json") for output, register in before.items()}
    documents.write(desk, "journal", kept)
    try:
        write_all(desk, registers(tune, layout))
        yield
    finally:
        write_all(desk, before)
        documents.remove(desk, "journal")


def restore_after_crash(desk: Desk) -> bool:
    """Write back what the processor held when a recording was cut off; whether there was anything to do."""
    kept = documents.read(desk, "journal")
    if kept is None:
        return False
    write_all(desk, {int(output): OutputRegister.model_validate(value) for output, value in kept.items()})
    documents.remove(desk, "journal")
    desk.notice = (
        "The server was stopped in the middle of a recording: that take was dropped, "
        "and the processor was put back to what it held before."
    )
    return True
