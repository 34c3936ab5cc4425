"""Copies of everything that is kept, beside it in the data folder."""

from fastapi import APIRouter

from imbrix.api.at import AtSpace
from imbrix.api.problems import RESPONSES
from imbrix.work.ground import copies
from imbrix.work.ground.copies import CopyState

router = APIRouter(prefix="/api", tags=["Files"], responses=RESPONSES)


@router.get("/copies", summary="The copies of the database")
def get_copies(space: AtSpace) -> list[CopyState]:
    """The newest first; `imbrix restore` puts one back."""
    return copies.copies(space)


@router.post("/copies", status_code=201, summary="Copy the database now")
def post_copy(space: AtSpace) -> CopyState:
    """One is made once a day and before a migration, too; the five newest stay."""
    return copies.copy_now(space)
