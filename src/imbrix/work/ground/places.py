"""Where each project stands: the place that its stand-ins simulate, and what was hung on which output there."""

from typing import Literal

from imbrix.core.system.layout import Driver, Layout
from imbrix.core.value import Value
from imbrix.standins.places import shipped, van
from imbrix.standins.places.place import Place
from imbrix.standins.processor import StandinProcessor
from imbrix.store.models import DocumentRow, ProjectRow
from imbrix.work.ground import documents, processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace

NOWHERE = ""
PLACES: Drawer[str, Place | None] = Drawer("places", 8)


class Standing(Value):
    """A place by its key, empty for none, and what was hung on which output when the project came to stand there.

    The wires stay where they are when a channel is given another output: that is how a swapped pair is mended.
    """

    key: str
    seat: Literal["left", "right"]
    wiring: dict[int, Driver]


class PlaceChoice(Value):
    """A place that a project can stand in; where it has `numbers`, one below that is put behind its key."""

    key: str
    name: str
    says: str
    numbers: int | None = None


NONE = PlaceChoice(
    key=NOWHERE,
    name="None: files or a sound card",
    says="nothing is simulated: sound comes from files or a sound card",
)


def choices() -> list[PlaceChoice]:
    """The places that ship, one drawn from a number, and none."""
    ships = [PlaceChoice(key=one.key, name=one.name, says=one.says) for one in shipped.SHIPPED.values()]
    drawn = PlaceChoice(
        key=shipped.DRAWN, name="Vehicle drawn from a number", says=shipped.DRAWN_SAYS, numbers=shipped.NUMBERS
    )
    return [*ships, drawn, NONE]


def told(key: str) -> PlaceChoice:
    """A place as it is told of a project that stands in it."""
    one = shipped.SHIPPED.get(key)
    if one is not None:
        return PlaceChoice(key=key, name=one.name, says=one.says)
    return NONE if key == NOWHERE else PlaceChoice(key=key, name=shipped.name(key), says=shipped.DRAWN_SAYS)


def standing(space: Workspace, slug: str) -> Standing:
    """Where a project stands. Raises NotHereError."""
    layout = space.layout(slug)
    found = documents.read(space, _document(slug))
    if found is not None:
        return stored(Standing, found, "the place of the project")
    # Until version 0.1 every project stood in the van, whose seven drivers hung where they hang.
    wiring = {one.output: one for one in (*layout.drivers, *van.layout().drivers)}
    return Standing(key="van", seat="right", wiring=wiring)


def place(space: Workspace, slug: str) -> Place | None:
    """The place that a project stands in, None where it stands in none. Raises NotHereError."""

    def make() -> Place | None:
        here = standing(space, slug)
        return None if here.key == NOWHERE else shipped.make(here.key, here.wiring, here.seat)

    return space.recall(PLACES, slug, ((DocumentRow, _document(slug)), ProjectRow), make)


def connect(space: Workspace, slug: str) -> StandinProcessor:
    """The processor of a project, with the stand-in's sound running through it into the place of the project."""
    found = processors.processor(space, slug)
    space.standin.connect(found, place(space, slug))
    return found


def put(space: Workspace, slug: str, key: str) -> None:
    """Let a project stand in a place, everything hung on the outputs that its layout says. Raises NotHereError."""
    layout = space.layout(slug)
    if key != NOWHERE:
        shipped.name(key)
    here = Standing(key=key, seat=layout.seat, wiring={one.output: one for one in layout.drivers})
    documents.write(space, _document(slug), here.model_dump(mode="json"))


def choose(space: Workspace, slug: str, key: str) -> None:
    """Move a project to another place. Its takes stay, and show the place before.

    Raises NotHereError, and ConflictError while something is recorded.
    """
    with space.idle("a recording is running: change the place when it has ended"), space.lock:
        put(space, slug, key)
    space.changed()


def hang(space: Workspace, slug: str, layout: Layout) -> None:
    """Hang drivers on outputs that nothing hung on before; the wires that are there stay."""
    here = standing(space, slug)
    added = {one.output: one for one in layout.drivers if one.output not in here.wiring}
    if added and documents.read(space, _document(slug)) is not None:
        grown = here.model_copy(update={"wiring": {**here.wiring, **added}})
        documents.write(space, _document(slug), grown.model_dump(mode="json"))


def trouble(space: Workspace, slug: str) -> str:
    """Why the stand-in cannot sound for a project; empty where it can."""
    if slug and standing(space, slug).key == NOWHERE:
        return (
            "this project stands in no simulated place, so that the stand-in has nothing to play: "
            "choose files or a sound card in the Rig, or give it a place under Projects, system and processor"
        )
    return ""


def _document(slug: str) -> str:
    return f"place:{slug}"
