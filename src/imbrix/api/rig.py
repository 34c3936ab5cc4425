"""The rig and its checks: devices, inputs, microphone, interface, level, reference level, practice."""

from typing import Annotated, Literal

from fastapi import APIRouter, File, Form, UploadFile
from fastapi.responses import Response
from pydantic import BaseModel

from imbrix.api.answers import Begun, begun, download, file_of
from imbrix.api.at import AtRecorder, AtSpace, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import CalibrateIn, ChannelIn, MeterIn, PairIn, RigIn
from imbrix.formats import wav
from imbrix.standins.practice import Practice
from imbrix.work.checks import interface, level, plain, reference
from imbrix.work.rig import change, corrections, devices, rig
from imbrix.work.state.rig import RigState, rig_state

router = APIRouter(prefix="/api", tags=["Rig"], responses=RESPONSES)


class CorrectionMade(RigState):
    """The rig with a correction that was brought in; how its text was `understood`, and what was left out of it."""

    understood: str


class PairMade(BaseModel):
    """A correction that was made from a pair of takes, and the band in which both had signal."""

    id: int
    low_hz: float
    high_hz: float
    rig: RigState


class PairAgrees(BaseModel):
    """How well a fresh pair of corrected takes agrees."""

    worst_db: float
    worst_hz: float
    rms_db: float
    agrees: bool


@router.get("/rig", summary="The rig")
def get_rig(space: AtSpace) -> RigState:
    """What is set, the ready line, the devices there are."""
    return rig_state(space)


@router.patch("/rig", summary="Change the rig")
def patch_rig(body: RigIn, space: AtSpace) -> RigState:
    """What is left out stays. A refused change leaves all as it was."""
    values = {name: value for name, value in body.model_dump().items() if value is not None}
    if values.pop("no_reference"):
        values["reference_input"] = None
    if values.pop("all_outputs"):
        values["output"] = None
    change.change(space, values)
    return rig_state(space)


@router.post("/rig/look", summary="Look for devices anew")
def post_look(space: AtSpace) -> RigState:
    """And open the chosen one where it is there again."""
    devices.look_again(space)
    return rig_state(space)


@router.post("/rig/exchange", summary="Exchange microphone and reference input")
def post_exchange(space: AtSpace, recorder: AtRecorder) -> RigState:
    """With their names. Why the last recording was refused is forgotten: it no longer holds."""
    change.exchange_inputs(space)
    recorder.forget()
    return rig_state(space)


@router.post("/rig/check", status_code=202, summary="Check the interface by its loop")
def post_check(recorder: AtRecorder) -> Begun:
    """Its response is divided out of takes from then on."""
    interface.start_interface_check(recorder)
    return begun(recorder)


@router.post("/rig/calibrate", status_code=202, summary="Set the reference level by a calibrator")
def post_calibrate(body: CalibrateIn, recorder: AtRecorder) -> Begun:
    """Of 94 or 114 dB at 1 kHz, on the microphone."""
    reference.start_calibrate(recorder, body.level_db)
    return begun(recorder)


@router.post("/rig/meter", summary="Set the reference level by a level meter")
def post_meter(body: MeterIn, space: AtSpace, recorder: AtRecorder) -> RigState:
    """What it read while the pink noise played."""
    reference.by_meter(recorder, body.reading_db_c)
    return rig_state(space)


@router.post("/rig/corrections", summary="Bring a microphone correction in")
def post_correction(
    space: AtSpace,
    file: Annotated[UploadFile, File()],
    pointing: Annotated[Literal["source", "ceiling"], Form()],
) -> CorrectionMade:
    """Text of frequency, dB and perhaps degrees; it is in use for this pointing at once."""
    name = (file.filename or "Microphone").rsplit(".", 1)[0]
    new, understood = corrections.bring(space, name, pointing, file.file.read())
    with space.lock:
        change.change(space, {"corrections": {**rig.rig(space).corrections, pointing: new}})
    return CorrectionMade(understood=understood, **dict(rig_state(space)))


@router.get(
    "/rig/corrections/{correction_id}.txt",
    summary="A microphone correction as text",
    response_class=Response,
    responses=file_of("text/plain"),
)
def get_correction(correction_id: Id, space: AtSpace) -> Response:
    """Hertz, dB, degrees where there are any."""
    kept = corrections.correction(space, correction_id)
    return download(corrections.as_text(kept), f"microphone-{correction_id}.txt", "text/plain")


@router.put("/rig/practice", summary="Plug and unplug the stand-ins")
def put_practice(body: Practice, space: AtSpace) -> RigState:
    """What is plugged where, and what is wrong."""
    devices.practise(space, body)
    return rig_state(space)


@router.post("/projects/{slug}/level", status_code=202, summary="Try the level")
def post_level(slug: Slug, body: ChannelIn, recorder: AtRecorder) -> Begun:
    """The quiet first, then pink noise through one driver."""
    level.start_level(recorder, slug, body.channel)
    return begun(recorder)


@router.get(
    "/rig/level.wav", summary="The level test as a file", response_class=Response, responses=file_of("audio/wav")
)
def get_level_test(space: AtSpace) -> Response:
    """The quiet, then pink noise: to be played elsewhere."""
    return download(wav.write_wav(level.played(space), rig.rig(space).rate), "level.wav", "audio/wav")


@router.post("/rig/level", summary="Read the level test from a recording")
def post_level_file(space: AtSpace, file: Annotated[UploadFile, File()]) -> RigState:
    """A WAV of what the microphone heard of `level.wav`."""
    level.bring(space, wav.read_wav(file.file.read(), rig.rig(space).rate)[:, 0])
    return rig_state(space)


@router.post("/projects/{slug}/meter-noise", status_code=202, summary="Play pink noise for a level meter")
def post_meter_noise(slug: Slug, body: ChannelIn, recorder: AtRecorder) -> Begun:
    """Through one driver, until it is stopped."""
    reference.start_by_meter(recorder, slug, body.channel)
    return begun(recorder)


@router.post("/projects/{slug}/correction", summary="Make a correction for a plain microphone")
def post_pair(slug: Slug, body: PairIn, space: AtSpace) -> PairMade:
    """From two takes of one driver at one spot: with a corrected microphone, and with the plain one."""
    made = plain.make_correction(space, slug, body.known, body.plain, body.name)
    return PairMade(id=made.id, low_hz=made.low_hz, high_hz=made.high_hz, rig=rig_state(space))


@router.post("/projects/{slug}/correction/verify", summary="Verify a correction made so")
def post_verify(slug: Slug, body: PairIn, space: AtSpace) -> PairAgrees:
    """By a fresh pair of takes: do they agree within 1 dB?"""
    found = plain.verify_correction(space, slug, body.known, body.plain)
    return PairAgrees(worst_db=found.worst_db, worst_hz=found.worst_hz, rms_db=found.rms_db, agrees=found.agrees)
