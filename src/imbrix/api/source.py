"""The source: its track, recordings of its wires, what the inputs are for, proposals that straighten and route."""

from typing import Annotated, Literal

from fastapi import APIRouter, File, Form, Query, UploadFile
from fastapi.responses import Response
from pydantic import Field

from imbrix.api.answers import Begun, Made, begun, download, file_of
from imbrix.api.at import AtRecorder, AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.request import ChannelId, Request
from imbrix.api.schemas import LiveFeedIn
from imbrix.core.source.changing_over import Which
from imbrix.core.tune.edits import Edit
from imbrix.formats import wav
from imbrix.work.source import ends, feeds, live, loud, proof, recording, routes, switching, undo
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.state.source import SourceState, source_state
from imbrix.work.tune import revisions

router = APIRouter(prefix="/api/projects/{slug}/source", tags=["Source"], responses=RESPONSES)
Number = Annotated[int, Field(ge=1, le=64)]


class ProofIn(Request):
    """The channels that play."""

    channels: list[ChannelId] = Field(min_length=1, max_length=32)


class WiresIn(Request):
    """Which inputs of the processor (from 1) the wires at the first and the second lead go to."""

    inputs: tuple[Number, ...] = Field(min_length=1, max_length=2)
    note: str = Field(default="", max_length=400)


class LoudIn(Request):
    """Which inputs of the processor (from 1) the wires at the leads go to, and the tone that is played."""

    inputs: tuple[Number, ...] = Field(min_length=1, max_length=2)
    hertz: Literal[50, 1000] = 1000


@router.get("", summary="What is known of the source")
def get_source(slug: Slug, space: AtSpace) -> SourceState:
    """Its feeds as they come and as they are straightened, how they sum, and who hears them."""
    space.layout(slug)
    return source_state(space, slug)


@router.get("/track.wav", summary="The track", response_class=Response, responses=file_of("audio/wav"))
def get_track(slug: Slug, space: AtSpace, rate: Annotated[int, Query(ge=8000, le=192_000)] = 44_100) -> Response:
    """What the source plays, from a stick or a disc, once or round and round."""
    space.layout(slug)
    return download(recording.track_wav(rate), "imbrix-track.wav", "audio/wav")


@router.post("/record", status_code=202, summary="Record wires of the source")
def post_record(slug: Slug, body: WiresIn, recorder: AtRecorder) -> Begun:
    """While it plays the track; begun whenever. Ends in a recording or in a reason: see `GET /api/progress`."""
    recording.start(recorder, slug, body.inputs, body.note)
    return begun(recorder)


@router.post("/upload", status_code=201, summary="Bring a recording of wires")
def post_upload(
    slug: Slug,
    space: AtSpace,
    file: Annotated[UploadFile, File()],
    first: Annotated[int, Form(ge=1, le=64)],
    second: Annotated[int | None, Form(ge=1, le=64)] = None,
) -> Made:
    """A WAV at its own sample rate, a channel for each wire, with the inputs that they go to."""
    space.layout(slug)
    note = (file.filename or "")[:80]
    samples, rate = wav.read_wav_as_it_is(file.file.read())
    numbers = (first,) if second is None else (first, second)
    return Made(id=recording.keep_wires(space, slug, samples, rate, numbers, note), name=note)


@router.post("/proof", status_code=202, summary="Record the whole while the source plays")
def post_proof(slug: Slug, body: ProofIn, recorder: AtRecorder) -> Begun:
    """At the microphone, through the inputs as they are: ends in a proof whose level is matched."""
    proof.start(recorder, slug, tuple(body.channels))
    return begun(recorder)


@router.get("/tone.wav", summary="A tone of full scale", response_class=Response, responses=file_of("audio/wav"))
def get_tone(
    slug: Slug,
    space: AtSpace,
    hertz: Annotated[int, Query(ge=20, le=20_000)] = 1000,
    rate: Annotated[int, Query(ge=8000, le=192_000)] = 44_100,
) -> Response:
    """What the source plays while its volume is turned up, of 50 or 1000 Hz."""
    space.layout(slug)
    return download(loud.tone_wav(hertz, rate), f"imbrix-tone-{hertz}.wav", "audio/wav")


@router.post("/loud", status_code=202, summary="Hear how loud the source gets")
def post_loud(slug: Slug, body: LoudIn, recorder: AtRecorder) -> Begun:
    """Wires are heard while somebody turns the volume up, until it is stopped; the highest clean level is kept."""
    loud.start(recorder, slug, body.inputs, body.hertz)
    return begun(recorder)


@router.post("/ends/{end}", summary="Say that a knob is at its end")
def post_end(slug: Slug, end: ends.End, space: AtSpace, recorder: AtRecorder) -> Begun:
    """While the wires are listened to: fader at the front or the rear, balance at the left or the right."""
    space.layout(slug)
    loud.note_end(recorder, end)
    return begun(recorder)


@router.delete("/loud", summary="Forget how loud the source gets")
def delete_loud(slug: Slug, space: AtSpace) -> SourceState:
    """For another source, or another volume."""
    loud.forget(space, slug)
    return source_state(space, slug)


@router.get("/sensitivity", summary="What sets the sensitivity")
def get_sensitivity(
    slug: Slug,
    space: AtSpace,
    headroom_db: Annotated[float, Query(ge=0, le=40, allow_inf_nan=False)] = loud.HEADROOM_DB,
    takes_db: Annotated[float, Query(ge=-60, le=60, allow_inf_nan=False)] = 0.0,
) -> list[Edit]:
    """Edits that shift the gains of all inputs alike, so that the loudest clean feed stays so far under full scale;
    `takes_db` is by how much more the processor's input takes than the interface's. Never applied unasked."""
    return loud.sensitivity(space, slug, headroom_db, takes_db)


@router.get("/pink.wav", summary="Pink noise for the source", response_class=Response, responses=file_of("audio/wav"))
def get_pink(slug: Slug, space: AtSpace, rate: Annotated[int, Query(ge=8000, le=192_000)] = 44_100) -> Response:
    """What the source plays, round and round, while a feed is heard live."""
    space.layout(slug)
    return download(live.pink_wav(rate), "imbrix-pink.wav", "audio/wav")


@router.post("/inputs/{number}/live", status_code=202, summary="Hear a feed live")
def post_live(slug: Slug, number: Number, body: LiveFeedIn, recorder: AtRecorder) -> Begun:
    """The wire of an input at the first lead while the source plays pink noise, until it is stopped: drawn as it comes
    and with what its input does, a draft included."""
    live.start(recorder, slug, number, body.window)
    return begun(recorder)


@router.post("/read", status_code=202, summary="Read all inputs by the processor")
def post_read(slug: Slug, recorder: AtRecorder) -> Begun:
    """Where its model can: all wires at once, without leads, while the source plays the track."""
    recording.start_reading(recorder, slug)
    return begun(recorder)


@router.get(
    "/comb-{which}.wav",
    summary="What a source plays for the change-over",
    response_class=Response,
    responses=file_of("audio/wav"),
)
def get_comb(
    slug: Slug, which: Which, space: AtSpace, rate: Annotated[int, Query(ge=8000, le=192_000)] = 44_100
) -> Response:
    """One comb of tones for the wires, another one for the second source."""
    space.layout(slug)
    return download(switching.comb_wav(which, rate), f"imbrix-{which}.wav", "audio/wav")


@router.post("/switch", status_code=202, summary="Try the change-over between both sources")
def post_switch(slug: Slug, recorder: AtRecorder) -> Begun:
    """The microphone listens while the later source plays alone, the first one beside it, and the later one alone
    again; what it has to hear next is the message of `GET /api/progress`."""
    switching.start(recorder, slug)
    return begun(recorder)


@router.get("/alike", summary="What makes both sources alike loud")
def get_alike(slug: Slug, space: AtSpace) -> list[Edit]:
    """Edits of the second source's gain, by what was heard of both. Never applied unasked."""
    space.layout(slug)
    return switching.alike(space, slug)


@router.put("/inputs/{number}", summary="Say what an input is for")
def put_input(slug: Slug, number: int, body: feeds.Meant, space: AtSpace) -> SourceState:
    """Its group and its side."""
    space.layout(slug)
    feeds.say_meant(space, slug, number, body)
    return source_state(space, slug)


@router.put("/leads", summary="Say where the leads are")
def put_leads(slug: Slug, body: feeds.Leads, space: AtSpace) -> SourceState:
    """At which inputs of the interface."""
    space.layout(slug)
    feeds.say_leads(space, slug, body)
    return source_state(space, slug)


@router.get("/straighten", summary="What straightens the feeds")
def get_straighten(slug: Slug, space: AtSpace) -> list[Edit]:
    """Edits of the inputs: level, polarity, delay, tone, all-passes. Never applied unasked."""
    return undo.straightened(space, slug)


@router.get("/as-it-comes", summary="What takes straightening back")
def get_as_it_comes(slug: Slug, space: AtSpace) -> list[Edit]:
    """Edits that leave the inputs as they were made."""
    space.layout(slug)
    return undo.as_it_comes(space, slug)


@router.get("/routes/{key}", summary="A ready route")
def get_route(slug: Slug, key: routes.Route, space: AtSpace) -> list[Edit]:
    """Edits of what every channel hears."""
    return routes.route(space, slug, key)


@router.post("/put-right", summary="Put exchanged inputs right")
def post_put_right(slug: Slug, space: AtSpace) -> ProjectState:
    """What two inputs are for changes places, and every channel hears the other of them."""
    revisions.commit(space, slug, undo.put_right(space, slug), "Exchanged inputs put right")
    return project_state(space, slug)
