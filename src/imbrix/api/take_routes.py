"""The routes of takes beside each other: how each looks, which one counts, averages, levels aligned, angles."""

from typing import Any

from fastapi import APIRouter

from imbrix.api.at import AtDesk
from imbrix.api.schemas import AngleIn, AverageIn, LevelIn, WithoutIn
from imbrix.work import looks, state, takes

router = APIRouter(prefix="/api/projects/{slug}/takes")


@router.put("/{take_id}/look")
def put_look(slug: str, take_id: int, body: looks.Look, desk: AtDesk) -> dict[str, Any]:
    looks.give(desk, slug, take_id, body)
    return state.project_state(desk, slug)


@router.post("/{take_id}/force")
def post_force(slug: str, take_id: int, desk: AtDesk) -> dict[str, Any]:
    looks.force(desk, slug, take_id)
    return state.project_state(desk, slug)


@router.put("/{take_id}/angle")
def put_angle(slug: str, take_id: int, body: AngleIn, desk: AtDesk) -> dict[str, Any]:
    takes.set_angle(desk, slug, take_id, body.angle)
    return state.project_state(desk, slug)


@router.post("/moving")
def post_moving(slug: str, body: WithoutIn, desk: AtDesk) -> dict[str, Any]:
    """Whether a moving microphone's magnitudes count for a driver."""
    looks.without_moving(desk, slug, body.channel, body.without)
    return state.project_state(desk, slug)


@router.post("/average")
def post_average(slug: str, body: AverageIn, desk: AtDesk) -> dict[str, Any]:
    looks.average(desk, slug, tuple(body.takes), body.kind)
    return state.project_state(desk, slug)


@router.post("/level")
def post_level(slug: str, body: LevelIn, desk: AtDesk) -> dict[str, Any]:
    looks.align(desk, slug, body.channel, body.low_hz, body.high_hz)
    return state.project_state(desk, slug)
