"""Playing and recording: the recorder's thread, its progress, meters, stopping, and putting the processor back."""

import errno
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from imbrix.core.layout import Layout
from imbrix.core.reading import CLIPPING, UnusableError
from imbrix.core.register import OutputRegister
from imbrix.core.signal import FloatArray, Samples
from imbrix.core.tune import Tune
from imbrix.work import documents, rig
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.link import registers, write_all

Stage = Literal["idle", "countdown", "waiting", "playing", "computing", "kept", "done", "refused", "aborted"]
Kind = Literal[
    "take",
    "moving",
    "live",
    "check",
    "level",
    "calibrate",
    "signal",
    "channels",
    "polarity",
    "jig",
    "impedance",
    "listen",
]
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
        self.drafts: dict[str, Tune] = {}
        """By project the tune under a person's hand, not kept yet: what the live analyser sends when it follows."""
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
        except Exception as error:
            cause, why = _why(error)
            self.say(stage="refused", message=f"Not kept: {why}", cause=cause)
            if cause == "failed":
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
        samples: Samples,
        *,
        moving: bool = False,
        changes: dict[int, Callable[[], None]] | None = None,
        on_block: Callable[[FloatArray], bool] | None = None,
        clip: bool = True,
        inputs: tuple[int, ...] | None = None,
        per_block: int = 4096,
    ) -> FloatArray:
        """Play (n,) samples and return what was recorded: microphone and reference (n, 2), or the `inputs` named.

        `changes` are done when playing reaches their sample; `on_block` sees every block and ends the recording by
        returning True. Raises UnusableError on clipping, saying on which input and when, OSError when the device
        goes, Stopped.
        """
        desk = self.desk
        chosen = rig.rig(desk)
        rate = desk.interface.rate
        waiting = dict(sorted((changes or {}).items()))
        wanted = (chosen.microphone_input, chosen.reference_input) if inputs is None else inputs
        used = tuple(one for one in wanted if one is not None)
        meters = _Meters(chosen, rate, used)
        blocks: list[FloatArray] = []
        begun = time.monotonic()
        count = 0
        for block in desk.interface.play_and_record(samples, chosen.place, moving, used, per_block):
            if self.stopping.is_set():
                raise Stopped
            meters.take(block, count)
            both = _columns(block, wanted)
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
        return np.concatenate(blocks) if blocks else np.zeros((0, len(wanted)))


def _why(error: Exception) -> tuple[str, str]:
    """The cause of a failure by name, and what to tell of it."""
    if "disk is full" in str(error).lower() or getattr(error, "errno", None) == errno.ENOSPC:
        return "disk", "the disk is full. Free some room and record again."
    if isinstance(error, OSError):
        return "device", (
            f"{error}. The take so far was dropped, earlier ones are safe; plug the device in and record again."
        )
    return "failed", f"it failed ({error})."


def _columns(block: FloatArray, wanted: tuple[int | None, ...]) -> FloatArray:
    """The inputs asked for out of all; one that is not there is silent."""
    out = np.zeros((block.shape[0], len(wanted)))
    for column, number in enumerate(wanted):
        if number is not None and number < block.shape[1]:
            out[:, column] = block[:, number]
    return out


class _Meters:
    """Levels of the inputs in use, the measuring one first, with their peaks held for a while."""

    def __init__(self, chosen: rig.Rig, rate: int, used: tuple[int, ...]) -> None:
        self._names = [chosen.input_names[n] if n < len(chosen.input_names) else f"Input {n + 1}" for n in used]
        self._used = used
        self._rate = rate
        self._held = [(-120.0, 0)] * len(used)
        self.all: tuple[Meter, ...] = ()
        self.peak = -120.0
        self.clipped: str | None = None

    def take(self, block: FloatArray, at: int) -> None:
        here = [n for n in self._used if n < block.shape[1]]
        tops = np.maximum(np.abs(block[:, here]).max(axis=0), 1e-6)
        shown = []
        for n, top in enumerate(tops):
            level = round(float(20 * np.log10(top)), 1)
            held, since = self._held[n]
            if level >= held or at - since > HOLD_S * self._rate:
                self._held[n] = (level, at)
            most = max(level, self.all[n].most if self.all else -120.0)
            shown.append(Meter(self._names[n], level, self._held[n][0], most))
            if top >= CLIPPING:
                self.clipped = f"the input {self._names[n]}"
        self.all = tuple(shown)
        self.peak = self.all[0].most if shown else -120.0


def measuring_through(desk: Desk, layout: Layout, tune: Tune) -> AbstractContextManager[None]:
    """The processor set to a tune for a while; what it held before comes back, after a crash at the next start."""
    return _held(desk, registers(tune, layout))


def silenced(desk: Desk) -> AbstractContextManager[None]:
    """Every output of the processor mute for a while; what it held before comes back likewise."""
    outputs = range(1, desk.processor.limits.outputs + 1)
    return _held(desk, {output: desk.processor.read(output).with_mute(True) for output in outputs})


@contextmanager
def _held(desk: Desk, wanted: dict[int, OutputRegister]) -> Iterator[None]:
    before = {output: desk.processor.read(output) for output in wanted}
    kept = {str(output): register.model_dump(mode="json") for output, register in before.items()}
    documents.write(desk, "journal", kept)
    try:
        write_all(desk, wanted)
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
