"""Listening as the page shows it: what is compared, how sure a blind result is, what was noted."""

from pydantic import BaseModel

from imbrix.core.audition import trials
from imbrix.work.audition.comparing import comparing
from imbrix.work.audition.notes import Note, notes
from imbrix.work.audition.songs import Song, songs
from imbrix.work.audition.versions import Version, versions
from imbrix.work.ground.workspace import Workspace


class TrialsState(BaseModel):
    """How often X was told of how many times, how likely that is by guessing, and that in a sentence."""

    count: int
    right: int
    chance: float
    says: str


class AuditionState(BaseModel):
    """What can be heard, what A and B are, whether X hides one of them, the trials and the notes, newest first.

    While `unlocked` is off, of what is changed while music plays the correction common to all is heard alone.
    """

    songs: list[Song]
    versions: list[Version]
    a: str
    b: str
    blind: bool
    unlocked: bool
    trials: TrialsState
    notes: list[Note]


def audition_state(space: Workspace, slug: str) -> AuditionState:
    """What is heard in a project. Raises NotHereError."""
    now = comparing(space, slug)
    count = len(now.trials)
    return AuditionState(
        songs=list(songs(space)),
        versions=list(versions(space, slug)),
        a=now.a,
        b=now.b,
        blind=now.hides is not None,
        unlocked=now.unlocked,
        trials=TrialsState(
            count=count,
            right=now.right,
            chance=trials.chance(now.right, count),
            says=trials.verdict(now.right, count),
        ),
        notes=list(notes(space, slug)),
    )
