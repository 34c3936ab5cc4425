"""The processor as the page knows it: what it does not do yet, its slots, and what it can do."""

from pydantic import BaseModel

from imbrix.core.tune.changes import Change
from imbrix.core.tune.crossover import SLOPES, Shape
from imbrix.core.tune.limits import Limits
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.link import read_back, unsent
from imbrix.work.tune.revisions import head


class LinkState(BaseModel):
    """Unsent changes, slots by number, and the processor's limits."""

    unsent: list[Change]
    all_muted: bool
    slots: dict[str, str]
    active_slot: int | None
    slopes: dict[Shape, list[int]]
    limits: Limits


def link_state(space: Workspace, slug: str) -> LinkState:
    """The processor as it is now, read back."""
    layout = space.layout(slug)
    held = read_back(space, layout, head(space, slug).tune)
    limits = space.processor.limits
    return LinkState(
        unsent=unsent(space, slug),
        all_muted=not any(held.audible(one.id) for one in layout.drivers),
        slots={str(number): name for number, name in space.processor.slot_names().items()},
        active_slot=space.processor.active_slot,
        slopes={shape: [slope for slope in slopes if slope <= limits.slope_db] for shape, slopes in SLOPES.items()},
        limits=limits,
    )
