"""The logo of reports."""

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import Response
from pydantic import BaseModel

from imbrix.api.answers import file_of
from imbrix.api.at import AtSpace
from imbrix.api.problems import RESPONSES
from imbrix.work.handover import logo

router = APIRouter(prefix="/api/logo", tags=["Files"], responses=RESPONSES)


@router.get("", summary="The logo of reports", response_class=Response, responses=file_of("image/png", "image/jpeg"))
def get_logo(space: AtSpace) -> Response:
    """As it was brought."""
    data, kind = logo.logo(space)
    return Response(data, media_type=kind)


class LogoState(BaseModel):
    """Whether there is one."""

    kept: bool


@router.get("/state", summary="Whether there is a logo")
def get_state(space: AtSpace) -> LogoState:
    """So that a page need not ask for a picture that is not there."""
    return LogoState(kept=bool(logo.uri(space)))


@router.post("", status_code=204, summary="Bring a logo for reports")
def post_logo(space: AtSpace, file: Annotated[UploadFile, File()]) -> None:
    """A PNG or JPEG picture, for all projects; in the place of the one before."""
    logo.bring(space, file.file.read(logo.MOST_BYTES + 1))


@router.delete("", status_code=204, summary="Report without a logo")
def delete_logo(space: AtSpace) -> None:
    """One that is not there is no matter."""
    logo.remove(space)
