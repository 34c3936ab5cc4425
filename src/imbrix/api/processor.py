"""The processor: sent to, stored, recalled, made neutral."""

from fastapi import APIRouter

from imbrix.api.at import AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import SlotIn
from imbrix.work.processor import link, slots
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.tune.revisions import head

router = APIRouter(prefix="/api/projects/{slug}", tags=["Processor"], responses=RESPONSES)


@router.post("/neutral", summary="Make the processor neutral and safe")
def post_neutral(slug: Slug, space: AtSpace) -> ProjectState:
    """A new revision, sent, all muted: all of it or nothing."""
    link.make_neutral(space, slug)
    return project_state(space, slug)


@router.post("/processor/send", summary="Send the tune")
def post_send(slug: Slug, space: AtSpace) -> ProjectState:
    """Written, read back and compared."""
    link.send(space, slug)
    return project_state(space, slug)


@router.post("/processor/store", summary="Store in a slot")
def post_store(slug: Slug, body: SlotIn, space: AtSpace) -> ProjectState:
    """What the processor runs now."""
    slots.store(space, body.slot, body.name or f"revision {head(space, slug).number}")
    return project_state(space, slug)


@router.post("/processor/recall", summary="Load a slot")
def post_recall(slug: Slug, body: SlotIn, space: AtSpace) -> ProjectState:
    """The tune stays as it is: what differs shows as unsent."""
    space.layout(slug)
    slots.recall(space, body.slot)
    return project_state(space, slug)
