"""Where a person heard the bands: every answer with the revision that it was given at."""

from imbrix.core.errors import ConflictError
from imbrix.core.image.heard import Heard
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import head

MOST = 600
"""So many answers are kept; older ones go."""


class Playing(Value):
    """The band that plays, or played last. Where it was `blind`, the person does not know which it is."""

    hz: float
    octaves: float
    blind: bool = False


class Answer(Value):
    """What was heard, and the revision that was heard."""

    heard: Heard
    revision: int


def answers(space: Workspace, slug: str) -> tuple[Answer, ...]:
    """All answers, oldest first. Raises NotHereError."""
    space.layout(slug)
    return documents.made(space, _key(slug), _answers)


def playing(space: Workspace, slug: str) -> Playing | None:
    """The band that plays, or played last."""
    return documents.made(space, _key(slug), _playing)


def plays(space: Workspace, slug: str, band: Playing) -> None:
    """Remember which band plays."""
    documents.change(space, _key(slug), lambda now: {**now, "playing": band.model_dump(mode="json")})


def keep(
    space: Workspace, slug: str, places: tuple[float, float], far: bool, high: bool, hz: float | None, octaves: float
) -> None:
    """Keep an answer to a band; without `hz` to the one that plays or played last. Raises ConflictError where none
    did."""
    now = head(space, slug).id
    if hz is None:
        last = playing(space, slug)
        if last is None:
            raise ConflictError("nothing was played yet: play a band first")
        hz, octaves = last.hz, last.octaves
    said = Answer(heard=Heard(hz=hz, octaves=octaves, places=places, far=far, high=high), revision=now)

    def change(before: Document) -> Document:
        return {**before, "answers": [*before.get("answers", []), said.model_dump(mode="json")][-MOST:]}

    documents.change(space, _key(slug), change)


def forget(space: Workspace, slug: str, hz: float | None = None) -> None:
    """Forget the last answer to a band; without `hz` all answers to all."""
    space.layout(slug)

    def change(before: Document) -> Document:
        kept = list(before.get("answers", []))
        if hz is None:
            kept.clear()
        for n in range(len(kept) - 1, -1, -1):
            if kept[n]["heard"]["hz"] == hz:
                del kept[n]
                break
        return {**before, "answers": kept}

    documents.change(space, _key(slug), change)


def _answers(found: Document | None) -> tuple[Answer, ...]:
    return tuple(stored(Answer, one, "the answers of the image") for one in (found or {}).get("answers", []))


def _playing(found: Document | None) -> Playing | None:
    last = (found or {}).get("playing")
    return None if last is None else stored(Playing, last, "the answers of the image")


def _key(slug: str) -> str:
    return f"image:{slug}"
