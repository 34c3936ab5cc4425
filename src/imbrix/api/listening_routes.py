"""The routes of an input as it is: listened to, recorded, logged."""

from fastapi import APIRouter
from fastapi.responses import FileResponse, Response

from imbrix.api.answers import download
from imbrix.api.at import AtDesk, AtRecorder
from imbrix.work import level_log, listening

router = APIRouter(prefix="/api")


@router.post("/projects/{slug}/listen", status_code=202)
def post_listen(slug: str, body: listening.Listen, recorder: AtRecorder) -> dict[str, str]:
    listening.start(recorder, slug, body)
    return {"stage": "playing"}


@router.get("/projects/{slug}/takes/{take_id}/input.wav")
def get_input(slug: str, take_id: int, desk: AtDesk) -> Response:
    return download(listening.as_wav(desk, slug, take_id), f"{slug}-input-{take_id}.wav", "audio/wav")


@router.get("/logs")
def get_logs(desk: AtDesk) -> list[str]:
    return level_log.logs(desk)


@router.get("/logs/{name}")
def get_log(name: str, desk: AtDesk) -> FileResponse:
    return FileResponse(level_log.log_file(desk, name), filename=name, media_type="text/csv")
