"""Playing and recording: the recorder's thread, its progress, meters, stopping, and putting the processor back."""

import errno
import logging
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from pydantic import ConfigDict

from imbrix.core.errors import ConflictError, GapError, UnusableError
from imbrix.core.signal.signal import FloatArray, Rest, Samples
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import TAKING
from imbrix.work.rig import devices, rig
from imbrix.work.sound.meters import Meter, Meters, columns
from imbrix.work.sound.results import Result

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
    "ohms",
    "listen",
    "feed",
    "volume",
    "switch",
    "wire",
    "image",
    "music",
]
LOG = logging.getLogger("imbrix.sound")
AT_ONCE = 131_072
"""So many samples at a time where nobody waits for them to sound: long blocks cost the stand-in least."""
HURRIED, WALKED = 50.0, 16_384
"""So many times faster than real nobody sees a recording grow: it comes in longer blocks then."""
TAKES = ("take", "moving", "impedance")
ENDS_S = 5.0
MOST_FRUITLESS = 3
"""After so many losses between which nothing came the device is taken for lost."""
RUNNING = ("countdown", "waiting", "playing", "computing")


@dataclass(frozen=True)
class Progress:
    """How far a recording is. `version` grows with every change, `job` with every one that is begun; `result` is what
    it found, ready to show.

    `place` is the position of the microphone where it is another than the rig says; of a series of takes this is the
    `turn`th of `turns`.
    """

    __pydantic_config__ = ConfigDict(json_schema_serialization_defaults_required=True)

    kind: Kind = "take"
    stage: Stage = "idle"
    project: str = ""
    channels: tuple[str, ...] = ()
    purpose: str = "driver"
    place: str = ""
    turn: int = 0
    turns: int = 0
    done: float = 0.0
    seconds_left: float = 0.0
    peak_dbfs: float = -120.0
    meters: tuple[Meter, ...] = ()
    averages: int = 0
    change_db: float | None = None
    message: str = ""
    cause: str = ""
    take_id: int | None = None
    result: Result | None = None
    version: int = 0
    job: int = 0


@dataclass(frozen=True)
class Growing:
    """What a job has heard so far, to be drawn by whoever looks; `count` changes with it."""

    count: int
    channels: tuple[str, ...]
    heard: object


class Stopped(Exception):  # noqa: N818
    """The person stopped it."""


class Recorder:
    """Runs one job at a time in a thread of its own: anything that plays or records."""

    def __init__(self, space: Workspace) -> None:
        self.space = space
        self.progress = Progress()
        self.growing: Growing | None = None
        self.asked: set[str] = set()
        """What a person asked of the live analyser while it runs."""
        self.drafts: dict[tuple[str, str], Tune] = {}
        """By project and window the tune under a person's hand, not kept yet: what the live analyser follows."""
        self.stopping = threading.Event()
        self.arrived = threading.Event()
        self.brought: FloatArray | None = None
        self._thread: threading.Thread | None = None
        self._computes_since = 0.0
        self._compute_s = 0.5

    def say(self, **values: object) -> None:
        self.progress = replace(self.progress, version=self.progress.version + 1, **values)  # type: ignore[arg-type]

    def forget(self) -> None:
        """Forget why the last job came to nothing."""
        if self.progress.stage == "refused":
            self.say(stage="idle", message="", cause="")

    def start(self, kind: Kind, job: Callable[[], None], **values: object) -> None:
        """Begin a job. Raises ConflictError while another runs, or where the device is not as it was left."""
        # One that has told its end is waited for: it lets go of the device a moment later.
        ending = self._thread is not None and self._thread.is_alive() and self.progress.stage not in RUNNING
        if not self.space.device.acquire(timeout=ENDS_S if ending else 0):
            raise ConflictError("a recording is running already")
        try:
            wrong = devices.trouble(self.space, again=True, slug=str(values.get("project", "")))
            if wrong:
                raise ConflictError(wrong)
            if kind in TAKES:
                self._taking(str(values.get("project", "")), values.get("channels", ()))
        except BaseException:
            self.space.device.release()
            raise
        self.stopping.clear()
        self.arrived.clear()
        self.growing = None
        self.asked.clear()
        fresh = Progress(kind=kind, stage="playing", version=self.progress.version, job=self.progress.job + 1)
        self.progress = replace(fresh, version=fresh.version + 1, **values)  # type: ignore[arg-type]
        self._thread = threading.Thread(target=self._run, args=(job,), daemon=True)
        self._thread.start()

    def next_turn(self, channels: tuple[str, ...]) -> None:
        """Go on to the next take of a series. Raises Stopped."""
        if self.stopping.is_set():
            raise Stopped
        self._taking(self.progress.project, channels)
        self.growing = None
        began = {"done": 0.0, "averages": 0, "change_db": None, "message": "", "meters": ()}
        self.say(stage="playing", channels=channels, turn=self.progress.turn + 1, **began)

    def _taking(self, slug: str, channels: object) -> None:
        """Note of what a take is made, so that a kill is told of."""
        documents.write(self.space, TAKING, {"project": slug, "channels": channels})

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
            if cause == "failed":
                LOG.exception("%s failed", self.progress.kind)
            self.say(stage="refused", message=f"Not kept: {why}", cause=cause)
        finally:
            self.growing = None
            self._over()
            self.space.device.release()
            self.space.changed()
            ended = self.progress
            channels = ", ".join(ended.channels)
            LOG.info("%s %s: %s %s", ended.kind, channels, ended.stage, ended.message or ended.take_id or "")

    def _over(self) -> None:
        """A take that a kill would have cut off has come to its end."""
        if self.progress.kind not in TAKES:
            return
        try:
            documents.remove(self.space, TAKING)
        except Exception:
            LOG.exception("that a take is over could not be noted")

    def abort(self, project: str = "") -> None:
        """Stop what runs. Raises ConflictError where it runs for another project than the one named."""
        owner = self.progress.project
        if project and owner and owner != project and self.progress.stage in RUNNING:
            raise ConflictError(f"what is being recorded belongs to the project {owner!r}: stop it there")
        self.stopping.set()
        self.arrived.set()

    def wait(self, seconds: float = 60.0) -> Progress:
        """Wait for the job to end, for callers without a socket."""
        if self._thread:
            self._thread.join(seconds)
        return self.progress

    def finished(self, seconds: float = 600.0) -> Progress:
        """Wait for the job to end well. Raises ConflictError with its reason where it did not."""
        ended = self.wait(seconds)
        if ended.stage not in ("kept", "done"):
            raise ConflictError(ended.message or f"what was begun did not end: {ended.stage}")
        return ended

    def computing(self) -> None:
        """Playing is over, computation begins: as long as it took the last time."""
        self._computes_since = time.monotonic()
        self.say(stage="computing", message="", done=1.0, seconds_left=round(self._compute_s, 1))

    def _over_gaps(self, samples: Samples, run: Callable[[Samples], Iterator[FloatArray]]) -> Iterator[FloatArray]:
        """Blocks of a run, begun anew where something was lost, which is told while it runs. Raises GapError where
        nothing comes between losses."""
        count = fruitless = 0
        while count < samples.size:
            before = count
            try:
                for block in run(Rest(samples, count) if count else samples):
                    count += block.shape[0]
                    yield block
                return
            except GapError as error:
                fruitless = fruitless + 1 if count == before else 0
                if fruitless >= MOST_FRUITLESS:
                    raise
                LOG.info("%s goes on after a gap: %s", self.progress.kind, error)
                self.say(message=f"{str(error)[:1].upper()}{str(error)[1:]}. It goes on.")

    def follow(self, blocks: Iterator[FloatArray], size: int, rate: int) -> Iterator[FloatArray]:
        """Blocks that come from elsewhere, `size` samples in all, with progress, at their pace. Raises Stopped."""
        begun, count = time.monotonic(), 0
        for block in blocks:
            count += block.shape[0]
            self.say(done=min(1.0, count / size), seconds_left=max(0.0, (size - count) / rate))
            self._keep_pace(begun, count / rate)
            if self.stopping.is_set():
                raise Stopped
            yield block

    def _keep_pace(self, begun: float, seconds: float) -> None:
        """Wait until so much sound has passed since a moment, at the pace of the stand-in. Raises Stopped."""
        if self.space.pace and self.space.interface is self.space.standin:
            ahead = seconds / self.space.pace - (time.monotonic() - begun)
            if ahead > 0 and self.stopping.wait(ahead):
                raise Stopped

    def countdown(self, seconds: int) -> None:
        """Count down, so that a person can step back."""
        pace = (self.space.pace or 1e9) if self.space.interface is self.space.standin else 1.0
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
        goes_on: bool = False,
    ) -> FloatArray:
        """Play (n,) samples and return what was recorded: microphone and reference (n, 2), or the `inputs` named.

        `changes` are done when playing reaches their sample; `on_block` sees every block and ends the recording by
        returning True. Where a gap harms nothing it `goes_on` after one, and tells of it. Raises UnusableError on
        clipping, saying on which input and when, OSError when the device goes, Stopped.
        """
        space = self.space
        chosen = rig.rig(space)
        rate = space.interface.rate
        waiting = dict(sorted((changes or {}).items()))
        wanted = (chosen.microphone_input, chosen.reference_input) if inputs is None else inputs
        used = tuple(one for one in wanted if one is not None)
        meters = Meters(chosen, rate, used)
        blocks: list[FloatArray] = []
        begun = time.monotonic()
        count = 0
        hurried = not space.pace or space.pace >= HURRIED
        if hurried and on_block is None and not waiting:
            per_block = max(per_block, min(AT_ONCE, samples.size // 4))
        elif hurried and moving:
            per_block = max(per_block, WALKED)
        held = rig.held_at(space, self.progress.project, self.progress.place)
        spot = held.x_cm / 100, held.y_cm / 100

        def run(rest: Samples) -> Iterator[FloatArray]:
            return space.interface.play_and_record(rest, spot, moving, used, per_block)

        for block in self._over_gaps(samples, run) if goes_on else run(samples):
            if self.stopping.is_set():
                raise Stopped
            meters.take(block, count)
            both = columns(block, wanted)
            if on_block is None:
                blocks.append(both)
            count += block.shape[0]
            if clip and meters.clipped is not None:
                by_source = chosen.plays == "source" and self.progress.kind in ("take", "moving")
                louder = "the source's volume" if by_source else "the output level"
                raise UnusableError(
                    f"{meters.clipped} clips at {count / rate:.1f} s: lower the input gain or {louder}",
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
            self._keep_pace(begun, count / rate)
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
