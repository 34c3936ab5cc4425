"""Places: those that a project can stand in, and the demonstrations in those that ship."""

from typing import Annotated

from fastapi import APIRouter, Path

from imbrix.api.at import AtDemos, AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import PlaceIn
from imbrix.work.demo import Demo
from imbrix.work.ground import places
from imbrix.work.ground.places import PlaceChoice
from imbrix.work.state.project import ProjectState, project_state

router = APIRouter(prefix="/api", tags=["Places"], responses=RESPONSES)
Key = Annotated[str, Path(description="The demonstration's key, as `GET /api/demos` lists it.", max_length=60)]


@router.get("/places", summary="All places")
def get_places() -> list[PlaceChoice]:
    """Those that ship, a vehicle drawn from a number, and none at all. Where a choice has `numbers`, one below that is
    put behind its key: `drawn-17`."""
    return places.choices()


@router.put("/projects/{slug}/place", summary="Move a project to another place")
def put_place(slug: Slug, body: PlaceIn, space: AtSpace) -> ProjectState:
    """Everything is hung on the outputs that its layout says; takes stay, and show the place before."""
    places.choose(space, slug, body.place)
    return project_state(space, slug)


@router.get("/demos", summary="The demonstrations")
def get_demos(demos: AtDemos) -> list[Demo]:
    """One in each place that ships, and how far one is that is being made."""
    return demos.all()


@router.post("/demos/{key}", status_code=202, summary="Make a demonstration")
def post_demo(key: Key, demos: AtDemos) -> list[Demo]:
    """Its project, with a first take of every driver; `GET /api/demos` says how far it is. One that is there stays."""
    demos.begin(key)
    return demos.all()
