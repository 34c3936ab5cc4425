"""The picture that a page begins with where nothing was chosen in it yet."""

from fastapi import APIRouter
from starlette.responses import Response

from imbrix.api.answers import file_of
from imbrix.api.at import AtSpace, Slug
from imbrix.api.frames import frame
from imbrix.api.problems import RESPONSES
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes import rounds
from imbrix.work.tune.revisions import head
from imbrix.work.views.draw import draw
from imbrix.work.views.request import View

router = APIRouter(prefix="/api/projects/{slug}", tags=["Curves"], responses=RESPONSES)
FRAME = "application/octet-stream"


@router.get("/begins", summary="The picture that a page begins with", response_class=Response, responses=file_of(FRAME))
def get_begins(slug: Slug, space: AtSpace) -> Response:
    """The first driver of the round in Drivers, as one of the frames that come over the socket."""
    return Response(first_frame(space, slug), media_type=FRAME)


def first_frame(space: Workspace, slug: str) -> bytes:
    """The frame of what is looked at first. The page says the same in `viewOf` of `web/src/state/view.ts`."""
    now = head(space, slug)
    turns, seams = rounds.current(space, slug).turns, space.layout(slug).seams()
    view = View(stage="drivers", selection=turns[0].channel if turns else "", seam=seams[0].id if seams else "")
    return frame(draw(space, slug, view, now.tune), view, now.tune, now.id)
