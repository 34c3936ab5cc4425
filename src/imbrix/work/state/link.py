"""The processor as the page knows it: what it does not do yet, its slots, and what it can do."""

from pydantic import BaseModel

from imbrix.core.system.layout import Layout
from imbrix.core.tune.changes import Change
from imbrix.core.tune.crossover import SLOPES, Shape
from imbrix.core.tune.fir import LINEAR_SLOPES
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.routing import sources, words
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.link import read_back, unsent
from imbrix.work.processor.slots import locked
from imbrix.work.processor.typed import rows
from imbrix.work.tune.revisions import head


class Heard(BaseModel):
    """What some channels hear of the processor's inputs."""

    channels: list[str]
    hears: str


class LinkState(BaseModel):
    """Unsent changes, slots by number, the processor's model and its key, and what of the tune does not fit it."""

    unsent: list[Change]
    all_muted: bool
    slots: dict[str, str]
    active_slot: int | None
    locked_slots: list[int]
    slopes: dict[Shape, list[int]]
    linear_slopes: list[int]
    """Slopes of linear phase; none where it has no taps."""
    limits: Limits
    model: str
    misfits: list[str]
    routing: list[Heard]
    by_hand: bool
    """Whether it is typed by hand: `unsent` is what is left to be typed, in its order."""


def link_state(space: Workspace, slug: str) -> LinkState:
    """The processor as it is now, read back."""
    layout = space.layout(slug)
    tune = head(space, slug).tune
    held = read_back(space, slug, tune)
    processor = processors.processor(space, slug)
    limits = processor.limits
    return LinkState(
        unsent=unsent(space, slug),
        all_muted=not any(held.audible(one.id) for one in layout.drivers),
        slots={str(number): name for number, name in processor.slot_names().items()},
        active_slot=processor.active_slot,
        locked_slots=sorted(locked(space, slug)),
        slopes={shape: list(limits.slopes_of(shape)) for shape in SLOPES if limits.slopes_of(shape)},
        linear_slopes=list(LINEAR_SLOPES) if limits.taps else [],
        limits=limits,
        model=processors.key_of(space, slug),
        misfits=limits.refusals(tune, layout),
        routing=_routing(tune, layout, limits.inputs),
        by_hand=rows(space, slug) is not None,
    )


def _routing(tune: Tune, layout: Layout, inputs: int) -> list[Heard]:
    found: dict[str, list[str]] = {}
    for driver in layout.drivers:
        found.setdefault(words(sources(tune, driver, inputs)), []).append(driver.name)
    return [Heard(channels=names, hears=hears) for hears, names in found.items()]
