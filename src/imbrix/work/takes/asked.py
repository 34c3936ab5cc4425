"""What is asked of a take, and how one begins that was made ready."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, Protocol

from imbrix.work.rig import rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes.shelf import Purpose
from imbrix.work.takes.verdicts import doubted


@dataclass(frozen=True)
class Asked:
    """A take of some channels for a purpose: heard from `angle` degrees off the axis, some of them `inverting`, the
    other way round than they are set; the microphone is at a `place`, one of the rig's positions, or where the rig
    says."""

    channels: tuple[str, ...]
    purpose: Purpose
    note: str = ""
    angle: float | None = None
    inverting: tuple[str, ...] = ()
    place: str = ""


@dataclass(frozen=True)
class Kept:
    """A take that was kept, and whether a person ended it before its time."""

    id: int
    ended: bool = False


TakeJob = Callable[[], Kept]
"""Plays, records, judges and keeps one take, within a job of the recorder. Raises UnusableError, OSError, Stopped."""


class Maker(Protocol):
    """Makes a take ready to be recorded. Raises ConflictError, NotHereError, InvalidError."""

    def __call__(self, recorder: Recorder, slug: str, asked: Asked) -> TakeJob: ...


def start_take(
    recorder: Recorder, slug: str, asked: Asked, make: Maker, kind: Literal["take", "moving"] = "take"
) -> None:
    """Begin a take after the rig's countdown. Raises as its maker does, and ConflictError."""
    take = make(recorder, slug, asked)
    countdown_s = rig.rig(recorder.space).sweep.countdown_s

    def job() -> None:
        recorder.countdown(countdown_s)
        kept = take()
        message = f"Stopped after {recorder.progress.averages} averages; they are kept." if kept.ended else ""
        doubt = doubted(recorder.space, slug, kept.id)
        recorder.say(stage="kept", take_id=kept.id, message=message, result={"doubt": doubt})

    recorder.start(kind, job, project=slug, channels=asked.channels, purpose=asked.purpose)
