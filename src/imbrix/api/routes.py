"""The HTTP routes: thin, each calls work."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, File, Form, Query, UploadFile
from fastapi.responses import Response

from imbrix.api.answers import download
from imbrix.api.at import AtDesk, AtRecorder
from imbrix.api.schemas import (
    AlignIn,
    CorrectionIn,
    DiscardIn,
    EditsIn,
    FitIn,
    NameIn,
    NoteIn,
    RecordIn,
    ReferenceIn,
    SlotIn,
    SweepIn,
)
from imbrix.core.edits import SetNeutral
from imbrix.core.layout import Layout
from imbrix.core.sweep import SweepSettings
from imbrix.formats import wav
from imbrix.formats.text_curve import read_curve
from imbrix.work import (
    bringing,
    exports,
    fitting,
    link,
    projects,
    recording,
    references,
    rig,
    rounds,
    seams,
    state,
    takes,
    targets,
    tuning,
    views,
)

router = APIRouter(prefix="/api/projects/{slug}")


@router.get("")
def get_project(slug: str, desk: AtDesk) -> dict[str, Any]:
    return state.project_state(desk, slug)


@router.post("/edits")
def post_edits(slug: str, body: EditsIn, desk: AtDesk) -> dict[str, Any]:
    tuning.commit(desk, slug, body.edits, body.summary)
    return state.project_state(desk, slug)


@router.post("/undo")
def post_undo(slug: str, desk: AtDesk) -> dict[str, Any]:
    tuning.undo(desk, slug)
    return state.project_state(desk, slug)


@router.post("/redo")
def post_redo(slug: str, desk: AtDesk) -> dict[str, Any]:
    tuning.redo(desk, slug)
    return state.project_state(desk, slug)


@router.get("/revisions")
def get_revisions(slug: str, desk: AtDesk) -> list[dict[str, Any]]:
    return state.revision_list(desk, slug)


@router.put("/revisions/{revision_id}/name")
def put_revision_name(slug: str, revision_id: int, body: NameIn, desk: AtDesk) -> list[dict[str, Any]]:
    tuning.name_revision(desk, slug, revision_id, body.name)
    return state.revision_list(desk, slug)


@router.post("/revisions/{revision_id}/restore")
def post_restore(slug: str, revision_id: int, desk: AtDesk) -> dict[str, Any]:
    tuning.restore(desk, slug, revision_id)
    return state.project_state(desk, slug)


@router.post("/neutral")
def post_neutral(slug: str, desk: AtDesk) -> dict[str, Any]:
    tuning.commit(desk, slug, [SetNeutral()], "Neutral and safe")
    link.send(desk, slug)
    link.mute_all(desk, slug)
    return state.project_state(desk, slug)


@router.post("/takes", status_code=202)
def post_take(slug: str, body: RecordIn, recorder: AtRecorder) -> dict[str, str]:
    if body.method == "moving":
        recording.start_moving(recorder, slug, tuple(body.channels), body.purpose, body.note)
    else:
        recording.start_sweep(recorder, slug, tuple(body.channels), body.purpose, body.note, body.angle)
    return {"stage": "playing"}


@router.post("/takes/abort")
def post_abort(slug: str, recorder: AtRecorder) -> dict[str, str]:
    recorder.abort()
    return {"stage": recorder.progress.stage}


@router.put("/takes/{take_id}/discarded")
def put_discarded(slug: str, take_id: int, body: DiscardIn, desk: AtDesk) -> dict[str, Any]:
    takes.discard(desk, slug, take_id, body.discarded)
    return state.project_state(desk, slug)


@router.put("/takes/{take_id}/correction")
def put_correction(slug: str, take_id: int, body: CorrectionIn, desk: AtDesk) -> dict[str, Any]:
    takes.set_correction(desk, slug, take_id, body.correction)
    return state.project_state(desk, slug)


@router.put("/takes/{take_id}/note")
def put_note(slug: str, take_id: int, body: NoteIn, desk: AtDesk) -> dict[str, Any]:
    takes.set_note(desk, slug, take_id, body.note)
    return state.project_state(desk, slug)


@router.get("/stimulus.wav")
def get_stimulus(slug: str, desk: AtDesk) -> Response:
    """What a sweep take plays as the rig is set, to be played elsewhere."""
    parts = recording.schedule(desk, slug)
    return download(wav.write_wav(parts.samples(), parts.sweep.rate), f"{slug}-take.wav", "audio/wav")


@router.post("/takes/bring")
async def post_bring(
    slug: str, desk: AtDesk, recorder: AtRecorder, file: Annotated[UploadFile, File()]
) -> dict[str, str]:
    samples = wav.read_wav(await file.read(), rig.rig(desk).rate)
    recording.bring(recorder, samples)
    return {"stage": "computing"}


@router.put("/round")
def put_round(slug: str, body: rounds.Round, desk: AtDesk) -> dict[str, Any]:
    rounds.arrange(desk, slug, body)
    return state.project_state(desk, slug)


@router.post("/round/restart")
def post_round(slug: str, desk: AtDesk) -> dict[str, Any]:
    rounds.restart(desk, slug)
    return state.project_state(desk, slug)


@router.put("/layout")
def put_layout(slug: str, body: Layout, desk: AtDesk) -> dict[str, Any]:
    projects.change_layout(desk, slug, body)
    return state.project_state(desk, slug)


@router.put("/name")
def put_name(slug: str, body: NameIn, desk: AtDesk) -> dict[str, Any]:
    projects.rename(desk, slug, body.name)
    return state.project_state(desk, slug)


@router.post("/references")
async def post_reference(slug: str, desk: AtDesk, file: Annotated[UploadFile, File()]) -> dict[str, Any]:
    data = await file.read()
    name = (file.filename or "curve").rsplit(".", 1)[0]
    if (file.filename or "").lower().endswith(".wav"):
        references.add_impulse(desk, slug, name, wav.read_wav(data, 48_000)[:, 0], 48_000)
    else:
        references.add_text(desk, slug, name, read_curve(data))
    return state.project_state(desk, slug)


@router.put("/references/{reference_id}")
def put_reference(slug: str, reference_id: int, body: ReferenceIn, desk: AtDesk) -> dict[str, Any]:
    references.change(desk, slug, reference_id, body.model_dump(exclude_none=True))
    return state.project_state(desk, slug)


@router.post("/references/{reference_id}/align")
def post_align_reference(slug: str, reference_id: int, body: AlignIn, desk: AtDesk) -> dict[str, Any]:
    against = views.curve_of(desk, slug, body.view, body.curve, tuning.head(desk, slug).tune)
    references.align(desk, slug, reference_id, against, body.low_hz, body.high_hz)
    return state.project_state(desk, slug)


@router.delete("/references/{reference_id}")
def delete_reference(slug: str, reference_id: int, desk: AtDesk) -> dict[str, Any]:
    references.remove(desk, slug, reference_id)
    return state.project_state(desk, slug)


@router.post("/takes/upload")
async def post_upload(
    slug: str,
    desk: AtDesk,
    file: Annotated[UploadFile, File()],
    channel: Annotated[str, Form()],
    kind: Annotated[Literal["recording", "impulse", "text"], Form()],
    length: Annotated[int, Form(ge=2**14, le=2**20)] = 2**17,
    low_hz: Annotated[float, Form(ge=1, le=20_000)] = 10.0,
    high_hz: Annotated[float, Form(ge=100, le=24_000)] = 23_000.0,
) -> dict[str, Any]:
    data = await file.read()
    note = (file.filename or "")[:80]
    rate = desk.interface.rate
    if kind == "text":
        bringing.add_curve(desk, slug, channel, read_curve(data, least_rows=2), note)
    elif kind == "impulse":
        bringing.add_impulse(desk, slug, channel, wav.read_wav(data, rate)[:, 0], rate, note)
    else:
        settings = SweepSettings(low_hz=low_hz, high_hz=high_hz, length=length, rate=rate)
        bringing.add_recording(desk, slug, channel, wav.read_wav(data, rate)[:, :2], settings, note)
    return state.project_state(desk, slug)


@router.post("/targets")
async def post_target(slug: str, desk: AtDesk, file: Annotated[UploadFile, File()]) -> dict[str, Any]:
    name = (file.filename or "own curve").rsplit(".", 1)[0]
    key = targets.add_target(desk, slug, name, read_curve(await file.read()))
    return {"key": key, "state": state.project_state(desk, slug)}


@router.post("/fit")
def post_fit(slug: str, body: FitIn, desk: AtDesk) -> dict[str, Any]:
    if body.channels:
        found = fitting.fit_channels(desk, slug, tuple(body.channels), body.limits)
    else:
        found = fitting.fit_common(desk, slug, body.limits)
    figures = {
        "gain_db": found.gain_db,
        "residual_db": found.residual_db,
        "boost_db": found.boost_db,
        "bands": found.bands,
    }
    return {"fit": figures, "state": state.project_state(desk, slug)}


@router.post("/align")
def post_align(slug: str, desk: AtDesk) -> dict[str, Any]:
    seams.align_arrivals(desk, slug)
    return state.project_state(desk, slug)


@router.get("/seams/{seam_id}/offers")
def get_offers(slug: str, seam_id: str, desk: AtDesk) -> list[dict[str, Any]]:
    return [
        {
            "delay_ms": one.delay_s * 1e3,
            "inverted": one.inverted,
            "change": one.change,
            "mean_db": one.mean_db,
            "worst_db": one.worst_db,
            "edits": [edit.model_dump(mode="json") for edit in one.edits],
        }
        for one in seams.offers(desk, slug, seam_id)
    ]


@router.post("/processor/send")
def post_send(slug: str, desk: AtDesk) -> dict[str, Any]:
    link.send(desk, slug)
    return state.project_state(desk, slug)


@router.post("/processor/store")
def post_store(slug: str, body: SlotIn, desk: AtDesk) -> dict[str, Any]:
    link.store(desk, body.slot, body.name or f"revision {tuning.head(desk, slug).number}")
    return state.project_state(desk, slug)


@router.post("/processor/recall")
def post_recall(slug: str, body: SlotIn, desk: AtDesk) -> dict[str, Any]:
    link.recall(desk, body.slot)
    return state.project_state(desk, slug)


@router.get("/export/{which}")
def get_export(slug: str, which: exports.Sheet, desk: AtDesk) -> Response:
    kind = "text/csv" if which.endswith("csv") else "application/json"
    return download(exports.sheet(desk, slug, which), f"{slug}-{which}", kind)


@router.get("/takes/{take_id}/response.txt")
def get_response(slug: str, take_id: int, desk: AtDesk) -> Response:
    return download(exports.response_text(desk, slug, take_id), f"{slug}-take-{take_id}.txt", "text/plain")


@router.get("/takes/{take_id}/impulse.wav")
def get_impulse(slug: str, take_id: int, desk: AtDesk) -> Response:
    return download(exports.impulse_wav(desk, slug, take_id), f"{slug}-take-{take_id}.wav", "audio/wav")


@router.get("/sweep.zip")
def get_sweep(slug: str, wanted: Annotated[SweepIn, Query()], desk: AtDesk) -> Response:
    settings = SweepSettings(**wanted.model_dump(), rate=desk.interface.rate)
    return download(exports.sweep_package(settings), "sweep.zip", "application/zip")
