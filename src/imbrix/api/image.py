"""The image: bands played from left, right or both, where a person hears them, and what brings them to the centre."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field

from imbrix.api.answers import Begun, begun
from imbrix.api.at import AtRecorder, AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.request import Request
from imbrix.core.image.heard import Place
from imbrix.work.image import answers, playing
from imbrix.work.image.playing import Play
from imbrix.work.state.image import ImageState, image_state

router = APIRouter(prefix="/api/projects/{slug}/image", tags=["Image"], responses=RESPONSES)
Hertz = Annotated[float, Field(ge=20, le=20_000, allow_inf_nan=False)]


class HeardIn(Request):
    """Where a band was heard, from -1 at the far left to 1 at the far right: two places where it fell in two, twice the
    same where it did not. Without `hz` it is the band that plays or played last."""

    places: tuple[Place, Place]
    far: bool = False
    high: bool = False
    hz: Hertz | None = None
    octaves: Annotated[float, Field(gt=0.3, le=1, allow_inf_nan=False)] = 1.0


@router.get("", summary="The image as it was heard")
def get_image(slug: Slug, space: AtSpace) -> ImageState:
    """Each band with where it stands and what that says of left against right, and edits that mend it."""
    return image_state(space, slug)


@router.post("/play", status_code=202, summary="Play a band")
def post_play(slug: Slug, body: Play, recorder: AtRecorder) -> Begun:
    """Pink noise an octave or a third of one wide, the same from both sides or from one, until it is stopped; a band
    that plays ends for it. Where the stand-in has a listener, `GET /api/progress` tells where that one hears it."""
    playing.start(recorder, slug, body)
    return begun(recorder)


@router.post("/answers", status_code=201, summary="Say where a band was heard")
def post_answer(slug: Slug, body: HeardIn, space: AtSpace) -> ImageState:
    """Several answers to one band are taken together."""
    answers.keep(space, slug, body.places, body.far, body.high, body.hz, body.octaves)
    return image_state(space, slug)


@router.delete("/answers", summary="Forget answers")
def delete_answers(slug: Slug, space: AtSpace, hz: Annotated[Hertz | None, Query()] = None) -> ImageState:
    """The last one to a band, or all of them."""
    answers.forget(space, slug, hz)
    return image_state(space, slug)
