"""The tune: edits, undo, redo, revisions, targets."""

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from pydantic import BaseModel

from imbrix.api.at import AtSpace, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import EditsIn, NameIn, OnIn
from imbrix.formats.text_curve import read_levels
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.state.revisions import RevisionState, revision_list
from imbrix.work.tune import revisions, targets

router = APIRouter(prefix="/api/projects/{slug}", tags=["Tune"], responses=RESPONSES)


class TargetMade(BaseModel):
    """A target curve that was brought in; how its text was `understood`, and what was left out of it."""

    key: str
    name: str
    understood: str


@router.post("/edits", summary="Change the tune")
def post_edits(slug: Slug, body: EditsIn, space: AtSpace) -> ProjectState:
    """All edits become one revision. Name the revision that they were made on: what came since stays, and what would
    touch the same is refused with what was changed."""
    revisions.commit(space, slug, body.edits, body.summary, body.on)
    return project_state(space, slug)


@router.post("/undo", summary="Undo")
def post_undo(slug: Slug, space: AtSpace, body: OnIn | None = None) -> ProjectState:
    """Go to the revision before. Name the present one, and nothing of another window is taken back unseen."""
    revisions.undo(space, slug, body.on if body else None)
    return project_state(space, slug)


@router.post("/redo", summary="Redo")
def post_redo(slug: Slug, space: AtSpace, body: OnIn | None = None) -> ProjectState:
    """Go to the revision that was undone last."""
    revisions.redo(space, slug, body.on if body else None)
    return project_state(space, slug)


@router.get("/revisions", summary="All revisions")
def get_revisions(slug: Slug, space: AtSpace) -> list[RevisionState]:
    """Newest first, those of undone branches included."""
    return revision_list(space, slug)


@router.put("/revisions/{revision_id}/name", summary="Name a revision")
def put_revision_name(slug: Slug, revision_id: Id, body: NameIn, space: AtSpace) -> list[RevisionState]:
    """An empty name takes it away."""
    revisions.name_revision(space, slug, revision_id, body.name)
    return revision_list(space, slug)


@router.post("/revisions/{revision_id}/restore", summary="Go back to a revision")
def post_restore(slug: Slug, revision_id: Id, space: AtSpace) -> ProjectState:
    """Its tune becomes a new revision, so that going back can be undone."""
    revisions.restore(space, slug, revision_id)
    return project_state(space, slug)


@router.post("/targets", summary="Bring a target curve in")
def post_target(slug: Slug, space: AtSpace, file: Annotated[UploadFile, File()]) -> TargetMade:
    """Text of frequency and dB, at least two octaves."""
    name = (file.filename or "own curve").rsplit(".", 1)[0][:60]
    curve = read_levels(file.file.read())
    return TargetMade(key=targets.add_target(space, slug, name, curve), name=name, understood=curve.understood)
