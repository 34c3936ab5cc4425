"""What helps when something is wrong: a file for a bug report, and the page's own faults in the log."""

import logging

from fastapi import APIRouter
from fastapi.responses import Response
from pydantic import Field

from imbrix.api.answers import download, file_of
from imbrix.api.at import AtSpace
from imbrix.api.problems import RESPONSES
from imbrix.api.request import Request
from imbrix.work.ground.logs import diagnostics

router = APIRouter(prefix="/api", tags=["Diagnostics"], responses=RESPONSES)
LOG = logging.getLogger("imbrix.page")


class PageFault(Request):
    """What the page says of a fault of its own."""

    says: str = Field(max_length=10_000)


@router.get(
    "/diagnostics.zip",
    summary="A file for a bug report",
    response_class=Response,
    responses=file_of("application/zip"),
)
def get_diagnostics(space: AtSpace) -> Response:
    """Versions, counts, the rig and the log: no sound, no curves."""
    return download(diagnostics(space), "imbrix-diagnostics.zip", "application/zip")


@router.post("/diagnostics/page", status_code=204, summary="Tell of a fault of the page")
def post_page_fault(body: PageFault) -> None:
    """It is written to the log."""
    LOG.error("the page failed: %s", body.says)
