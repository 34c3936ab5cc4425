"""Takes: recorded, brought in, how each looks, which counts; and the round."""

from typing import Annotated, Literal

from fastapi import APIRouter, File, Form, UploadFile
from pydantic import BaseModel

from imbrix.api.answers import Begun, Made, begun
from imbrix.api.at import AtRecorder, AtSpace, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import (
    AngleIn,
    AverageIn,
    CorrectionIn,
    DiscardIn,
    LevelIn,
    NamesIn,
    NoteIn,
    RecordEachIn,
    RecordIn,
    WithoutIn,
)
from imbrix.core.system.named import driver_named
from imbrix.formats import sweep_package, wav
from imbrix.formats.text_curve import read_levels
from imbrix.work.rig import rig
from imbrix.work.source import taking
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.takes import files, given, looks, recording, rounds, series, shelf
from imbrix.work.takes.asked import Asked

router = APIRouter(prefix="/api/projects/{slug}", tags=["Takes"], responses=RESPONSES)


class Sorted(BaseModel):
    """A file by its name, and the driver that it tells of."""

    name: str
    channel: str | None


@router.post("/takes", status_code=202, summary="Record a take")
def post_take(slug: Slug, body: RecordIn, recorder: AtRecorder) -> Begun:
    """Of one driver, or of several as a proof. Ends in a take or in a reason: see `GET /api/progress`."""
    asked = Asked(tuple(body.channels), body.purpose, body.note, body.angle)
    (taking.start_moving if body.method == "moving" else taking.start)(recorder, slug, asked)
    return begun(recorder)


@router.post("/takes/each", status_code=202, summary="Record several drivers one after another")
def post_each(slug: Slug, body: RecordEachIn, recorder: AtRecorder) -> Begun:
    """Each by itself, in the order given. Every one that is kept stays, whatever comes after it; `turn` and `turns` of
    `GET /api/progress` tell how far it is, `take_id` which was kept last."""
    channels = tuple(body.channels)
    if body.method == "moving":
        series.start_series(recorder, slug, channels, taking.moving, body.note, body.place, "moving")
    else:
        series.start_series(recorder, slug, channels, taking.take, body.note, body.place)
    return begun(recorder)


@router.post("/seams/{seam_id}/null", status_code=202, summary="Record the null of a seam")
def post_null(slug: Slug, seam_id: str, recorder: AtRecorder) -> Begun:
    """Both ways as the processor holds them, the upper one inverted meanwhile. Ends in a take or in a reason."""
    taking.start_null(recorder, slug, recorder.space.layout(slug).seam(seam_id))
    return begun(recorder)


@router.post("/takes/abort", summary="Stop what runs")
def post_abort(slug: Slug, space: AtSpace, recorder: AtRecorder) -> Begun:
    """Whatever plays or records for this project, or for none."""
    space.layout(slug)
    recorder.abort(slug)
    return begun(recorder)


@router.post("/takes/bring", summary="Bring the recording of a waiting take")
def post_bring(slug: Slug, space: AtSpace, recorder: AtRecorder, file: Annotated[UploadFile, File()]) -> Begun:
    """For the device *Files*: a WAV of the microphone and, on a second channel, the loopback."""
    space.layout(slug)
    recording.bring(recorder, wav.read_wav(file.file.read(), rig.rig(space).rate))
    return Begun(stage="computing", job=recorder.progress.job)


@router.post("/takes/upload", status_code=201, summary="Make a take from a file")
def post_upload(
    slug: Slug,
    space: AtSpace,
    file: Annotated[UploadFile, File()],
    channel: Annotated[str, Form(max_length=60)],
    kind: Annotated[Literal["recording", "impulse", "text"], Form()],
    sweep: Annotated[UploadFile | None, File()] = None,
) -> Made:
    """A recording of the sweep, an impulse response as WAV, or a response as text.

    Of a recording, `sweep` is the package or the description that the sweep came with. Without it the sweep is
    recognised among those that were given out and the rig's own; with a loopback on a second channel any will do.
    """
    space.layout(slug).driver(channel)
    data = file.file.read()
    note = (file.filename or "")[:80]
    rate = space.interface.rate
    understood = ""
    if kind == "text":
        curve = read_levels(data)
        made, understood = files.add_curve(space, slug, channel, curve, note), curve.understood
    elif kind == "impulse":
        made = files.add_impulse(space, slug, channel, wav.read_wav(data, rate)[:, 0], rate, note)
    else:
        described = sweep_package.read_package(sweep.file.read()) if sweep else None
        samples, own_rate, held = given.recording(space, data, described)
        made = files.add_recording(space, slug, channel, samples, own_rate, held, note)
    return Made(id=made, name=note, understood=understood)


@router.post("/takes/sorted", summary="Which drivers files are of")
def post_sorted(slug: Slug, body: NamesIn, space: AtSpace) -> list[Sorted]:
    """By what they are called; null where a name tells of none, or of several. Nothing is made of them yet."""
    drivers = space.layout(slug).drivers
    found = [(name, driver_named(name, drivers)) for name in body.names]
    return [Sorted(name=name, channel=driver.id if driver else None) for name, driver in found]


@router.put("/takes/{take_id}/discarded", summary="Set a take aside, or bring it back")
def put_discarded(slug: Slug, take_id: Id, body: DiscardIn, space: AtSpace) -> ProjectState:
    """Its recording stays either way."""
    shelf.discard(space, slug, take_id, body.discarded)
    return project_state(space, slug)


@router.put("/takes/{take_id}/correction", summary="Choose the microphone correction of a take")
def put_correction(slug: Slug, take_id: Id, body: CorrectionIn, space: AtSpace) -> ProjectState:
    """Corrections are applied when a take is read."""
    shelf.set_correction(space, slug, take_id, body.correction)
    return project_state(space, slug)


@router.put("/takes/{take_id}/note", summary="Note something about a take")
def put_note(slug: Slug, take_id: Id, body: NoteIn, space: AtSpace) -> ProjectState:
    """What should be known of it."""
    shelf.set_note(space, slug, take_id, body.note)
    return project_state(space, slug)


@router.put("/takes/{take_id}/angle", summary="Say from which angle a take was made")
def put_angle(slug: Slug, take_id: Id, body: AngleIn, space: AtSpace) -> ProjectState:
    """In degrees off the axis; null where it is not known."""
    shelf.set_angle(space, slug, take_id, body.angle)
    return project_state(space, slug)


@router.put("/takes/{take_id}/look", summary="Show, colour, shift or lock a take")
def put_look(slug: Slug, take_id: Id, body: looks.Look, space: AtSpace) -> ProjectState:
    """How it is drawn beside the one in force."""
    looks.give(space, slug, take_id, body)
    return project_state(space, slug)


@router.post("/takes/{take_id}/force", summary="Let a take count")
def post_force(slug: Slug, take_id: Id, space: AtSpace) -> ProjectState:
    """Predictions go by it, until a newer one is made."""
    looks.force(space, slug, take_id)
    return project_state(space, slug)


@router.post("/takes/moving", summary="Whether a moving microphone's magnitudes count")
def post_moving(slug: Slug, body: WithoutIn, space: AtSpace) -> ProjectState:
    """For a driver that has both kinds of take."""
    looks.without_moving(space, slug, body.channel, body.without)
    return project_state(space, slug)


@router.post("/takes/average", summary="Average takes")
def post_average(slug: Slug, body: AverageIn, space: AtSpace) -> ProjectState:
    """Of one driver, by power or as complex responses, into a take of its own."""
    looks.average(space, slug, tuple(body.takes), body.kind)
    return project_state(space, slug)


@router.post("/takes/level", summary="Align the levels of shown takes")
def post_level(slug: Slug, body: LevelIn, space: AtSpace) -> ProjectState:
    """To the one in force, over a span."""
    looks.align(space, slug, body.channel, body.low_hz, body.high_hz)
    return project_state(space, slug)


@router.put("/round", summary="Arrange the round")
def put_round(slug: Slug, body: rounds.Round, space: AtSpace) -> ProjectState:
    """Order, states and method of the queue through all drivers."""
    rounds.arrange(space, slug, body)
    return project_state(space, slug)


@router.post("/round/restart", summary="Begin the round anew")
def post_round(slug: Slug, space: AtSpace) -> ProjectState:
    """All drivers wait again, in the order that was chosen."""
    rounds.restart(space, slug)
    return project_state(space, slug)
