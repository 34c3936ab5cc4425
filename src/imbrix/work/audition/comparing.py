"""What is compared in a project, blind or not, and how often it was told apart."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError
from imbrix.core.value import Value
from imbrix.work.audition.versions import NOW, tune_of
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace

Which = Literal["a", "b", "x"]
Hidden = Literal["a", "b"]
MOST_TRIALS = 500


class Trial(Value):
    """What X was, and what the person took it for."""

    was: Hidden
    said: Hidden


class Comparing(Value):
    """Two versions by their keys. While `hides`, X is one of them, and nobody is told which.

    `unlocked` lets all changes be heard while the music plays, else those of the common correction alone are.
    """

    a: str = NOW
    b: str = NOW
    hides: Hidden | None = None
    unlocked: bool = False
    trials: tuple[Trial, ...] = Field(default=(), max_length=MOST_TRIALS)

    @property
    def right(self) -> int:
        """How often X was told."""
        return sum(one.was == one.said for one in self.trials)


def comparing(space: Workspace, slug: str) -> Comparing:
    """What is compared. Raises NotHereError."""
    space.layout(slug)
    return documents.made(space, _key(slug), _read)


def choose(space: Workspace, slug: str, a: str, b: str, blind: bool, unlocked: bool) -> None:
    """Compare two versions. Other versions begin new trials. Raises NotHereError, ConflictError where both are one."""
    for key in (a, b):
        tune_of(space, slug, key)
    if blind and a == b:
        raise ConflictError("A and B are the same: there is nothing to tell apart")

    def change(before: Comparing) -> Comparing:
        same = (before.a, before.b) == (a, b)
        hides = (before.hides if same and before.hides else drawn()) if blind else None
        return Comparing(a=a, b=b, hides=hides, unlocked=unlocked, trials=before.trials if same else ())

    _change(space, slug, change)


def answer(space: Workspace, slug: str, said: Hidden) -> Trial:
    """Say what X is; it is told, and another X is drawn. Raises ConflictError where none is hidden."""
    told: list[Trial] = []

    def change(before: Comparing) -> Comparing:
        if before.hides is None:
            raise ConflictError("nothing is hidden: switch blind on first")
        if len(before.trials) >= MOST_TRIALS:
            raise ConflictError(f"there are {MOST_TRIALS} trials already: begin anew")
        told.append(Trial(was=before.hides, said=said))
        return before.model_copy(update={"trials": (*before.trials, told[-1]), "hides": drawn()})

    _change(space, slug, change)
    return told[-1]


def begin_anew(space: Workspace, slug: str) -> None:
    """Forget the trials."""
    _change(space, slug, lambda before: before.model_copy(update={"trials": ()}))


def drawn() -> Hidden:
    """One of both, by chance."""
    return "a" if np.random.default_rng().random() < 0.5 else "b"


def _change(space: Workspace, slug: str, do: Callable[[Comparing], Comparing]) -> None:
    space.layout(slug)
    documents.change(space, _key(slug), lambda now: do(_read(now)).model_dump(mode="json"))


def _read(found: Document | None) -> Comparing:
    return stored(Comparing, found or {}, "what is compared")


def _key(slug: str) -> str:
    return f"audition:{slug}"
