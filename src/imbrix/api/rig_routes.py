"""The routes of the rig, of projects as a whole, and of sounds: each answers with the rig or starts a recording."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, File, Form, Query, UploadFile
from fastapi.responses import Response

from imbrix.api.answers import download
from imbrix.api.at import AtDesk, AtRecorder
from imbrix.api.schemas import CalibrateIn, ChannelIn, DriverIn, LiveIn, MeterIn, PairIn, PlayIn, ProjectIn, RigIn
from imbrix.core.layout import Layout
from imbrix.core.layouts import NAMES, READY, make, ready, remarks, with_driver
from imbrix.standins.practice import Practice
from imbrix.work import analyser, checks, corrections, projects, rig, signals, state

router = APIRouter(prefix="/api")


@router.get("/rig")
def get_rig(desk: AtDesk) -> dict[str, Any]:
    return state.rig_state(desk)


@router.patch("/rig")
def patch_rig(body: RigIn, desk: AtDesk) -> dict[str, Any]:
    values = {name: value for name, value in body.model_dump().items() if value is not None}
    if values.pop("no_reference"):
        values["reference_input"] = None
    if values.pop("all_outputs"):
        values["output"] = None
    rig.change(desk, values)
    return state.rig_state(desk)


@router.post("/rig/look")
def post_look(desk: AtDesk) -> dict[str, Any]:
    """Look for devices anew."""
    rig.look_again(desk)
    return state.rig_state(desk)


@router.post("/rig/exchange")
def post_exchange(desk: AtDesk) -> dict[str, Any]:
    rig.exchange_inputs(desk)
    return state.rig_state(desk)


@router.post("/rig/check", status_code=202)
def post_check(recorder: AtRecorder) -> dict[str, str]:
    checks.start_interface_check(recorder)
    return {"stage": "playing"}


@router.post("/rig/calibrate", status_code=202)
def post_calibrate(body: CalibrateIn, recorder: AtRecorder) -> dict[str, str]:
    checks.start_calibrate(recorder, body.level_db)
    return {"stage": "playing"}


@router.post("/rig/meter")
def post_meter(body: MeterIn, desk: AtDesk, recorder: AtRecorder) -> dict[str, Any]:
    checks.by_meter(recorder, body.reading_db_c)
    return state.rig_state(desk)


@router.post("/rig/corrections")
async def post_correction(
    desk: AtDesk,
    file: Annotated[UploadFile, File()],
    pointing: Annotated[Literal["source", "ceiling"], Form()],
) -> dict[str, Any]:
    name = (file.filename or "Microphone").rsplit(".", 1)[0]
    new = corrections.bring(desk, name, pointing, await file.read())
    now = rig.rig(desk)
    rig.change(desk, {"corrections": {**now.corrections, pointing: new}})
    return state.rig_state(desk)


@router.get("/rig/corrections/{correction_id}.txt")
def get_correction(correction_id: int, desk: AtDesk) -> Response:
    kept = corrections.correction(desk, correction_id)
    return download(corrections.as_text(kept), f"microphone-{correction_id}.txt", "text/plain")


@router.put("/rig/practice")
def put_practice(body: Practice, desk: AtDesk) -> dict[str, Any]:
    rig.practise(desk, body)
    return state.rig_state(desk)


@router.post("/projects/{slug}/level", status_code=202)
def post_level(slug: str, body: ChannelIn, recorder: AtRecorder) -> dict[str, str]:
    checks.start_level(recorder, slug, body.channel)
    return {"stage": "playing"}


@router.post("/projects/{slug}/meter-noise", status_code=202)
def post_meter_noise(slug: str, body: ChannelIn, recorder: AtRecorder) -> dict[str, str]:
    checks.start_by_meter(recorder, slug, body.channel)
    return {"stage": "playing"}


@router.post("/projects/{slug}/correction")
def post_pair(slug: str, body: PairIn, desk: AtDesk) -> dict[str, Any]:
    return {**checks.make_correction(desk, slug, body.known, body.plain, body.name), "rig": state.rig_state(desk)}


@router.post("/projects/{slug}/correction/verify")
def post_verify(slug: str, body: PairIn, desk: AtDesk) -> dict[str, Any]:
    return checks.verify_correction(desk, slug, body.known, body.plain)


@router.post("/projects/{slug}/play", status_code=202)
def post_play(slug: str, body: PlayIn, recorder: AtRecorder) -> dict[str, str]:
    signals.start_signal(recorder, slug, tuple(body.channels), body.signal)
    return {"stage": "playing"}


@router.post("/projects/{slug}/analyser", status_code=202)
def post_live(slug: str, body: LiveIn, recorder: AtRecorder) -> dict[str, str]:
    analyser.start(recorder, slug, tuple(body.channels), body.choice)
    return {"stage": "playing"}


@router.post("/projects/{slug}/analyser/{ask}")
def post_ask(slug: str, ask: Literal["delay", "reset", "keep"], recorder: AtRecorder) -> dict[str, str]:
    analyser.ask(recorder, ask)
    return {"stage": recorder.progress.stage}


@router.post("/projects/{slug}/burst", status_code=202)
def post_burst(slug: str, body: ChannelIn, recorder: AtRecorder) -> dict[str, str]:
    signals.start_burst(recorder, slug, body.channel)
    return {"stage": "playing"}


@router.post("/projects/{slug}/polarity", status_code=202)
def post_polarity(slug: str, body: ChannelIn, recorder: AtRecorder) -> dict[str, str]:
    signals.start_polarity(recorder, slug, body.channel)
    return {"stage": "playing"}


@router.get("/signal.wav")
def get_signal(wanted: Annotated[signals.SignalChoice, Query()], desk: AtDesk) -> Response:
    return download(signals.as_wav(desk, wanted), f"{wanted.kind}.wav", "audio/wav")


@router.post("/signal")
async def post_signal(desk: AtDesk, file: Annotated[UploadFile, File()]) -> dict[str, Any]:
    """Bring a signal of one's own."""
    seconds = signals.bring_own(desk, await file.read())
    return {"name": (file.filename or "")[:80], "seconds": seconds}


@router.get("/projects")
def get_projects(desk: AtDesk) -> dict[str, Any]:
    return {
        "projects": projects.projects(desk),
        "ready": [
            {"key": one.key, "name": one.name, "layout": make(one.ways).model_dump(mode="json")} for one in READY
        ],
        "kinds": [{"kind": kind, "name": name} for kind, name in NAMES.items()],
        "outputs": desk.processor.limits.outputs,
    }


@router.post("/projects", status_code=201)
def post_project(body: ProjectIn, desk: AtDesk) -> dict[str, str]:
    return {"slug": projects.begin(desk, body.name, ready(body.ready, body.seat))}


@router.post("/layout/driver")
def post_driver(body: DriverIn, desk: AtDesk) -> Layout:
    """The layout with one more driver on the first output that is free."""
    return with_driver(body.layout, body.kind, body.side)


@router.post("/layout/remarks")
def post_remarks(body: Layout, desk: AtDesk) -> list[dict[str, Any]]:
    return [one.model_dump() for one in remarks(body, desk.processor.limits.outputs)]
