"""The routes of impedance: the jig's calibration, takes of a driver, what is known of it, files in and out."""

from typing import Annotated, Any

from fastapi import APIRouter, File, Form, UploadFile
from fastapi.responses import Response

from imbrix.api.answers import download
from imbrix.api.at import AtDesk, AtRecorder
from imbrix.api.schemas import ImpedanceIn
from imbrix.core.impedance import Loading
from imbrix.core.jig import Standard
from imbrix.formats.text_curve import read_curve
from imbrix.work import impedance, jigging, state

router = APIRouter(prefix="/api")


@router.post("/jig/forget")
def post_forget(desk: AtDesk) -> dict[str, Any]:
    jigging.forget(desk)
    return state.rig_state(desk)


@router.post("/jig/{which}", status_code=202)
def post_standard(which: Standard, recorder: AtRecorder) -> dict[str, str]:
    jigging.start_standard(recorder, which)
    return {"stage": "playing"}


@router.post("/projects/{slug}/impedance", status_code=202)
def post_impedance(slug: str, body: ImpedanceIn, recorder: AtRecorder) -> dict[str, str]:
    impedance.start(recorder, slug, body.channel, body.loaded, body.note)
    return {"stage": "playing"}


@router.put("/projects/{slug}/about/{channel}")
def put_about(slug: str, channel: str, body: impedance.About, desk: AtDesk) -> dict[str, Any]:
    impedance.tell(desk, slug, channel, body)
    return state.project_state(desk, slug)


@router.post("/projects/{slug}/impedance/upload")
async def post_impedance_file(
    slug: str,
    desk: AtDesk,
    file: Annotated[UploadFile, File()],
    channel: Annotated[str, Form()],
    loading: Annotated[Loading, Form()] = "as it is",
    amount: Annotated[float, Form(ge=0, le=100_000)] = 0.0,
) -> dict[str, Any]:
    loaded = impedance.LoadingIn(loading=loading, amount=amount)
    impedance.bring(
        desk, slug, channel, read_curve(await file.read(), least_rows=12), loaded, (file.filename or "")[:80]
    )
    return state.project_state(desk, slug)


@router.get("/projects/{slug}/takes/{take_id}/impedance.txt")
def get_impedance(slug: str, take_id: int, desk: AtDesk) -> Response:
    return download(impedance.as_text(desk, slug, take_id), f"{slug}-impedance-{take_id}.txt", "text/plain")
