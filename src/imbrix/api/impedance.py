"""Impedance: the jig's calibration, takes of a driver, what is known of it, files in and out."""

from typing import Annotated

from fastapi import APIRouter, File, Form, UploadFile
from fastapi.responses import Response

from imbrix.api.answers import Begun, Made, begun, download, file_of
from imbrix.api.at import AtRecorder, AtSpace, Channel, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import ImpedanceIn
from imbrix.core.impedance.impedance import Loading
from imbrix.core.measure.jig import Standard
from imbrix.formats import sweep_package
from imbrix.formats.text_curve import read_curve
from imbrix.work.impedance import impedance, jigging
from imbrix.work.rig import rig
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.state.rig import RigState, rig_state
from imbrix.work.takes import given

router = APIRouter(prefix="/api", tags=["Impedance"], responses=RESPONSES)


@router.post("/jig/forget", summary="Begin the jig's calibration anew")
def post_forget(space: AtSpace) -> RigState:
    """Takes keep the one that they were made with."""
    jigging.forget(space)
    return rig_state(space)


@router.post("/jig/{which}", status_code=202, summary="Do a step of the jig's calibration")
def post_standard(which: Standard, recorder: AtRecorder) -> Begun:
    """Clips open, joined, or on the known resistor."""
    jigging.start_standard(recorder, which)
    return begun(recorder)


@router.post("/projects/{slug}/impedance", status_code=202, summary="Measure an impedance")
def post_impedance(slug: Slug, body: ImpedanceIn, recorder: AtRecorder) -> Begun:
    """Of a driver as it is, with a mass on its cone, or in a known box."""
    impedance.start(recorder, slug, body.channel, body.loaded, body.note)
    return begun(recorder)


@router.put("/projects/{slug}/about/{channel}", summary="Say what is known of a driver")
def put_about(slug: Slug, channel: Channel, body: impedance.About, space: AtSpace) -> ProjectState:
    """Re by a meter, the area of its cone, the least that its amplifier allows."""
    impedance.tell(space, slug, channel, body)
    return project_state(space, slug)


@router.post("/projects/{slug}/impedance/upload", status_code=201, summary="Bring an impedance in")
def post_impedance_file(
    slug: Slug,
    space: AtSpace,
    file: Annotated[UploadFile, File()],
    channel: Annotated[str, Form(max_length=60)],
    loading: Annotated[Loading, Form()] = "as it is",
    amount: Annotated[float, Form(ge=0, le=100_000, allow_inf_nan=False)] = 0.0,
    sense_ohm: Annotated[float | None, Form(gt=0, le=10_000, allow_inf_nan=False)] = None,
    sweep: Annotated[UploadFile | None, File()] = None,
) -> Made:
    """Text of frequency, ohm and perhaps degrees; or a WAV of the jig while a sweep played through it, across the
    driver and across the resistor of `sense_ohm` (the rig's, where it is not said).

    Of a recording, `sweep` is the package or the description that the sweep came with. Without it the sweep is
    recognised among those that were given out and the rig's own.
    """
    space.layout(slug).driver(channel)
    loaded = impedance.LoadingIn(loading=loading, amount=amount)
    note = (file.filename or "")[:80]
    data, understood = file.file.read(), ""
    if data[:4] == b"RIFF" or note.lower().endswith(".wav"):
        described = sweep_package.read_package(sweep.file.read()) if sweep else None
        voltages, settings = given.of_jig(space, data, described)
        resistor = sense_ohm or rig.rig(space).jig.sense_ohm
        made = impedance.bring_recording(space, slug, channel, voltages, settings, resistor, loaded, note)
    else:
        curve = read_curve(data, least_rows=12)
        made, understood = impedance.bring(space, slug, channel, curve, loaded, note), curve.understood
    return Made(id=made, name=note, understood=understood)


@router.get(
    "/projects/{slug}/takes/{take_id}/impedance.txt",
    summary="An impedance as text",
    response_class=Response,
    responses=file_of("text/plain"),
)
def get_impedance(slug: Slug, take_id: Id, space: AtSpace) -> Response:
    """Frequency, ohm, degrees."""
    return download(impedance.as_text(space, slug, take_id), f"{slug}-impedance-{take_id}.txt", "text/plain")
