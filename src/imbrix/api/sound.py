"""Sound: test signals, the live analyser, any input as it is, its logs, and how far a job is."""

from typing import Annotated, Literal

from fastapi import APIRouter, File, Form, Query, UploadFile
from fastapi.responses import FileResponse, Response
from pydantic import BaseModel

from imbrix.api.answers import Begun, Made, begun, download, file_of
from imbrix.api.at import AtRecorder, AtSpace, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import ChannelIn, LiveIn, PlayIn
from imbrix.formats import wav
from imbrix.work.sound import level_log, signals
from imbrix.work.sound.recorder import Progress
from imbrix.work.takes import analyser, listening

router = APIRouter(prefix="/api", tags=["Sound"], responses=RESPONSES)


class OwnSignal(BaseModel):
    """A signal of one's own that was brought in."""

    name: str
    seconds: float


@router.get("/progress", summary="How far a job is")
def get_progress(recorder: AtRecorder) -> Progress:
    """The job that runs, or the last one: `stage` is kept, done, refused or aborted when it has ended."""
    return recorder.progress


@router.post("/projects/{slug}/play", status_code=202, summary="Play a test signal")
def post_play(slug: Slug, body: PlayIn, recorder: AtRecorder) -> Begun:
    """Through what the processor does, only the chosen channels audible, until it is stopped."""
    signals.start_signal(recorder, slug, tuple(body.channels), body.signal)
    return begun(recorder)


@router.post("/projects/{slug}/burst", status_code=202, summary="Check a channel by ear")
def post_burst(slug: Slug, body: ChannelIn, recorder: AtRecorder) -> Begun:
    """Bursts that suit the driver."""
    signals.start_burst(recorder, slug, body.channel)
    return begun(recorder)


@router.post("/projects/{slug}/polarity", status_code=202, summary="Check polarity by pulse")
def post_polarity(slug: Slug, body: ChannelIn, recorder: AtRecorder) -> Begun:
    """Which way a driver moves first."""
    signals.start_polarity(recorder, slug, body.channel)
    return begun(recorder)


@router.post("/projects/{slug}/analyser", status_code=202, summary="Listen live")
def post_live(slug: Slug, body: LiveIn, recorder: AtRecorder) -> Begun:
    """Transfer function with coherence, of these channels together, until it is stopped or frozen."""
    analyser.start(recorder, slug, tuple(body.channels), body.choice, body.window)
    return begun(recorder)


@router.post("/projects/{slug}/analyser/{ask}", summary="Ask the analyser")
def post_ask(slug: Slug, ask: Literal["delay", "reset", "keep"], space: AtSpace, recorder: AtRecorder) -> Begun:
    """To find its delay, to average anew, or to keep what it shows as a take."""
    space.layout(slug)
    analyser.ask(recorder, ask)
    return begun(recorder)


@router.post("/projects/{slug}/listen", status_code=202, summary="Listen to an input as it is")
def post_listen(slug: Slug, body: listening.Listen, recorder: AtRecorder) -> Begun:
    """Waveform, spectrum and levels; recorded or logged on demand."""
    listening.start(recorder, slug, body)
    return begun(recorder)


@router.post("/projects/{slug}/listen/upload", status_code=201, summary="Bring what an input heard")
def post_listen_file(
    slug: Slug,
    space: AtSpace,
    file: Annotated[UploadFile, File()],
    number: Annotated[int, Form(alias="input", ge=0, le=255)] = 0,
) -> Made:
    """A WAV at its own sample rate; each of its channels is kept as what the input heard."""
    space.layout(slug)
    note = (file.filename or "")[:60]
    samples, rate = wav.read_wav_as_it_is(file.file.read())
    return Made(id=listening.bring(space, slug, samples, rate, number, note), name=note)


@router.get(
    "/projects/{slug}/takes/{take_id}/input.wav",
    summary="A recorded input",
    response_class=Response,
    responses=file_of("audio/wav"),
)
def get_input(slug: Slug, take_id: Id, space: AtSpace) -> Response:
    """As 32-bit float WAV."""
    return download(listening.as_wav(space, slug, take_id), f"{slug}-input-{take_id}.wav", "audio/wav")


@router.get("/logs", summary="Level logs")
def get_logs(space: AtSpace) -> list[str]:
    """Their names, newest first."""
    return level_log.logs(space)


@router.get("/logs/{name}", summary="A level log", response_class=FileResponse, responses=file_of("text/csv"))
def get_log(name: str, space: AtSpace) -> FileResponse:
    """CSV, a row each second."""
    return FileResponse(level_log.log_file(space, name), filename=name, media_type="text/csv")


@router.get("/signal.wav", summary="A test signal", response_class=Response, responses=file_of("audio/wav"))
def get_signal(wanted: Annotated[signals.SignalChoice, Query()], space: AtSpace) -> Response:
    """As WAV, for a stick or a disc."""
    return download(signals.as_wav(space, wanted), f"{wanted.kind}.wav", "audio/wav")


@router.post("/signal", summary="Bring a signal of one's own")
def post_signal(space: AtSpace, file: Annotated[UploadFile, File()]) -> OwnSignal:
    """A WAV; it can be played until the server stops."""
    seconds = signals.bring_own(space, file.file.read())
    return OwnSignal(name=(file.filename or "")[:80], seconds=seconds)
