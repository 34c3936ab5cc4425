"""Curves: what a stage shows, as JSON; and reference lines. The page takes the same as frames over the socket."""

from math import isfinite
from typing import Annotated

import numpy as np
from fastapi import APIRouter, File, Query, UploadFile
from pydantic import BaseModel, ConfigDict

from imbrix.api.answers import Made
from imbrix.api.at import AtSpace, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import AlignIn, CurvesIn, ReferenceIn
from imbrix.core.signal.signal import FloatArray
from imbrix.formats import wav
from imbrix.formats.text_curve import read_levels
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.tune import revisions
from imbrix.work.views import draw, references
from imbrix.work.views.facts import Facts
from imbrix.work.views.picture import Pane, Picture
from imbrix.work.views.request import View

router = APIRouter(prefix="/api/projects/{slug}", tags=["Curves"], responses=RESPONSES)


class CurveState(BaseModel):
    """One line: values on the grid of `GET /api/grid`, or against `x` where that is given; null where not known."""

    id: str
    role: str
    label: str
    pane: Pane
    channel: str
    values: list[float | None]
    x: list[float | None] | None


class Curves(BaseModel):
    """What a view shows: its curves, and the figures that go with them."""

    model_config = ConfigDict(ser_json_inf_nan="null")

    revision: int
    curves: list[CurveState]
    facts: Facts


@router.get("/curves", summary="The curves of a view")
def get_curves(slug: Slug, wanted: Annotated[CurvesIn, Query()], space: AtSpace) -> Curves:
    """Of the present tune: what is measured, predicted and aimed at, with the figures read off."""
    now = revisions.head(space, slug)
    view = View(**wanted.model_dump(exclude_none=True))
    return as_curves(draw.draw(space, slug, view, now.tune), now.id)


def as_curves(picture: Picture, revision: int) -> Curves:
    """A picture as JSON holds it."""
    curves = [
        CurveState(
            id=one.id,
            role=one.role,
            label=one.label,
            pane=one.pane,
            channel=one.channel,
            values=_known(one.values),
            x=None if one.x is None else _known(one.x),
        )
        for one in picture.curves
    ]
    return Curves(revision=revision, curves=curves, facts=picture.facts)


def _known(values: FloatArray) -> list[float | None]:
    return [one if isfinite(one) else None for one in np.round(values, 5).tolist()]


@router.post("/references", status_code=201, summary="Bring a reference line in")
def post_reference(slug: Slug, space: AtSpace, file: Annotated[UploadFile, File()]) -> Made:
    """A response as text, or an impulse response as WAV, to lay over any plot."""
    data = file.file.read()
    name, understood = (file.filename or "curve").rsplit(".", 1)[0][:60], ""
    if (file.filename or "").lower().endswith(".wav"):
        made = references.add_impulse(space, slug, name, wav.read_wav(data, 48_000)[:, 0], 48_000)
    else:
        curve = read_levels(data)
        made, understood = references.add_text(space, slug, name, curve), curve.understood
    return Made(id=made, name=name, understood=understood)


@router.put("/references/{reference_id}", summary="Show, hide, rename or shift a reference line")
def put_reference(slug: Slug, reference_id: Id, body: ReferenceIn, space: AtSpace) -> ProjectState:
    """What is left out stays."""
    references.change(space, slug, reference_id, body.model_dump(exclude_none=True))
    return project_state(space, slug)


@router.post("/references/{reference_id}/align", summary="Align a reference line")
def post_align_reference(slug: Slug, reference_id: Id, body: AlignIn, space: AtSpace) -> ProjectState:
    """In level, to a curve of a view, over a span."""
    against = draw.curve_of(space, slug, body.view, body.curve, revisions.head(space, slug).tune)
    references.align(space, slug, reference_id, against, body.low_hz, body.high_hz)
    return project_state(space, slug)


@router.delete("/references/{reference_id}", summary="Remove a reference line")
def delete_reference(slug: Slug, reference_id: Id, space: AtSpace) -> ProjectState:
    """For good."""
    references.remove(space, slug, reference_id)
    return project_state(space, slug)
