"""Distances by tape of a project: kept, compared with the arrivals measured, and made into delays."""

from pydantic import Field

from imbrix.core.align.distances import Apart, compare, delays
from imbrix.core.errors import ConflictError
from imbrix.core.tune.edits import SetDelays
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import common_clock, scene
from imbrix.work.takes.reading import arrival
from imbrix.work.tune.revisions import Head, commit, head


class Tape(Value):
    """What was measured by tape: metres from each driver to the middle of the head, and how warm it was."""

    celsius: float = Field(default=20.0, ge=-40, le=60, allow_inf_nan=False)
    metres: dict[str, float] = Field(default_factory=dict)


def tape(space: Workspace, slug: str) -> Tape:
    """The distances of the drivers that the system has. Raises NotHereError."""
    here = {one.id for one in space.layout(slug).drivers}
    kept = stored(Tape, documents.read(space, _document(slug)) or {}, "the distances")
    return kept.model_copy(update={"metres": {name: one for name, one in kept.metres.items() if name in here}})


def measure(space: Workspace, slug: str, metres: dict[str, float | None], celsius: float | None) -> None:
    """Keep distances; None takes one away, who is left out stays. Raises NotHereError."""
    layout = space.layout(slug)
    for name in metres:
        layout.driver(name)

    def put(kept: documents.Document) -> documents.Document:
        before = stored(Tape, kept, "the distances")
        known = {**before.metres, **metres}
        after = {name: one for name, one in known.items() if one is not None}
        warm = before.celsius if celsius is None else celsius
        return Tape(celsius=warm, metres=after).model_dump(mode="json")

    documents.change(space, _document(slug), put)


def apart(space: Workspace, slug: str, now: Scene) -> dict[str, Apart]:
    """How the arrivals of the takes in force stray from the tape, where enough of both are known by one clock."""
    kept = tape(space, slug)
    clock = common_clock(now.takes.values())
    if not kept.metres or not clock:
        return {}
    heard = {name: arrival(space, slug, one) for name, one in now.takes.items() if one.timed and one.clock == clock}
    return compare(now.layout, kept.metres, heard, kept.celsius)


def set_delays(space: Workspace, slug: str) -> Head:
    """Delays by the tape, the farthest driver getting none. Raises ConflictError where a driver has no distance."""
    on = head(space, slug).id
    kept = tape(space, slug)
    lacking = [one.name for one in scene(space, slug).layout.drivers if one.id not in kept.metres]
    if lacking:
        raise ConflictError(f"{', '.join(lacking)}: no distance yet")
    wanted = delays(kept.metres, kept.celsius)
    return commit(space, slug, [SetDelays(delays_s=wanted)], "Delays set by distance", on)


def _document(slug: str) -> str:
    return f"distances:{slug}"
