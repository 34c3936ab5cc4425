"""The processor: sent to, stored, recalled, made neutral."""

from typing import Annotated

from fastapi import APIRouter, Path

from imbrix.api.at import AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import ByHandIn, CopyIn, LockIn, ModelIn, NameIn, SlotIn, TastesIn, TickIn
from imbrix.core.tune.changes import Change
from imbrix.work.ground import processors
from imbrix.work.handover import tastes
from imbrix.work.processor import by_hand, link, slots
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.tune.revisions import head

router = APIRouter(prefix="/api/projects/{slug}", tags=["Processor"], responses=RESPONSES)
Slot = Annotated[int, Path(ge=1, le=64)]


@router.post("/neutral", summary="Make the processor neutral and safe")
def post_neutral(slug: Slug, space: AtSpace) -> ProjectState:
    """A new revision, sent, all muted: all of it or nothing."""
    link.make_neutral(space, slug)
    return project_state(space, slug)


@router.put("/processor", summary="Choose a processor")
def put_processor(slug: Slug, body: ModelIn, space: AtSpace) -> ProjectState:
    """By the key of its model. The tune stays: what of it does not fit stands in `link.misfits`."""
    processors.choose(space, slug, body.model)
    return project_state(space, slug)


@router.post("/processor/fit", summary="Make the tune fit the processor")
def post_fit(slug: Slug, space: AtSpace) -> ProjectState:
    """A revision with the nearest that the processor can do: values in range, slopes it has, the strongest bands."""
    link.make_fit(space, slug)
    return project_state(space, slug)


@router.post("/processor/send", summary="Send the tune")
def post_send(slug: Slug, space: AtSpace) -> ProjectState:
    """Written, read back and compared."""
    link.send(space, slug)
    return project_state(space, slug)


@router.put("/processor/by-hand", summary="Type by hand, or no longer")
def put_by_hand(slug: Slug, body: ByHandIn, space: AtSpace) -> ProjectState:
    """For a device that nobody can talk to: `link.unsent` is then what is left to be typed, in its order."""
    by_hand.begin(space, slug, body.as_sent) if body.by_hand else by_hand.end(space, slug)
    return project_state(space, slug)


@router.post("/processor/by-hand/tick", summary="Tick a typed setting off")
def post_tick(slug: Slug, body: TickIn, space: AtSpace) -> ProjectState:
    """As it stands in `link.unsent`. With the last one the tune counts as sent."""
    by_hand.tick(space, slug, body.channel, body.what, body.after)
    return project_state(space, slug)


@router.post("/processor/by-hand/untick", summary="Take the last tick back")
def post_untick(slug: Slug, space: AtSpace) -> ProjectState:
    """As often as there are ticks."""
    space.layout(slug)
    by_hand.untick(space, slug)
    return project_state(space, slug)


@router.post("/processor/store", summary="Store in a slot")
def post_store(slug: Slug, body: SlotIn, space: AtSpace) -> ProjectState:
    """What the processor runs now."""
    slots.store(space, slug, body.slot, body.name or f"revision {head(space, slug).number}")
    return project_state(space, slug)


@router.post("/processor/tastes", summary="Make a slot of each taste")
def post_tastes(slug: Slug, body: TastesIn, space: AtSpace) -> ProjectState:
    """Targets on one alignment: the common correction is fitted to each and stored; then the tune is as it was."""
    tastes.make(space, slug, tuple(tastes.Taste(one.curve, one.slot) for one in body.tastes))
    return project_state(space, slug)


@router.post("/processor/recall", summary="Load a slot")
def post_recall(slug: Slug, body: SlotIn, space: AtSpace) -> ProjectState:
    """The tune stays as it is: what differs shows as unsent."""
    space.layout(slug)
    slots.recall(space, slug, body.slot)
    return project_state(space, slug)


@router.post("/processor/slots/{slot}/copy", summary="Copy a slot")
def post_copy(slug: Slug, slot: Slot, body: CopyIn, space: AtSpace) -> ProjectState:
    """To another one that is not locked; what runs goes on."""
    space.layout(slug)
    slots.copy(space, slug, slot, body.to)
    return project_state(space, slug)


@router.put("/processor/slots/{slot}/name", summary="Name a slot")
def put_slot_name(slug: Slug, slot: Slot, body: NameIn, space: AtSpace) -> ProjectState:
    """What it holds stays."""
    space.layout(slug)
    slots.name(space, slug, slot, body.name.strip() or f"Slot {slot}")
    return project_state(space, slug)


@router.put("/processor/slots/{slot}/lock", summary="Lock a slot, or unlock it")
def put_lock(slug: Slug, slot: Slot, body: LockIn, space: AtSpace) -> ProjectState:
    """Nothing is stored in a locked one from here, nor is it named or copied over."""
    space.layout(slug)
    slots.lock(space, slug, slot, body.locked)
    return project_state(space, slug)


@router.get("/processor/slots/{slot}/changes", summary="Compare a slot")
def get_slot_changes(slug: Slug, slot: Slot, space: AtSpace) -> list[Change]:
    """What the present tune would change of what the slot holds; nothing where both are alike."""
    space.layout(slug)
    return slots.compare(space, slug, slot)
