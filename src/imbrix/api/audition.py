"""Listening: music of one's own, two tunes against each other, blind if wanted, and notes."""

from typing import Annotated

from fastapi import APIRouter, File, Path, UploadFile
from pydantic import BaseModel, Field

from imbrix.api.answers import Begun, begun
from imbrix.api.at import AtRecorder, AtSpace, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.request import Request
from imbrix.work.audition import comparing, notes, playing, songs
from imbrix.work.audition.comparing import Hidden, Which
from imbrix.work.audition.playing import Loudness, PlayMusic
from imbrix.work.audition.songs import Song
from imbrix.work.state.audition import AuditionState, audition_state

router = APIRouter(prefix="/api", tags=["Listening"], responses=RESPONSES)
Key = Annotated[str, Field(max_length=40)]
SongId = Annotated[int, Path(description="The number of a piece, as lists give it.", ge=-10, le=2**53)]


class CompareIn(Request):
    """Two versions by their keys; `blind` hides one of them behind X."""

    a: Key = "now"
    b: Key = "now"
    blind: bool = False
    unlocked: bool = False


class SwitchIn(Request):
    """Which tune the music shall come through."""

    to: Which


class AnswerIn(Request):
    """What a person takes X for."""

    said: Hidden


class NoteIn(Request):
    """What was heard; `heard` says of what: the piece, the version."""

    text: str = Field(max_length=4000)
    heard: str = Field(default="", max_length=200)


class Answered(BaseModel):
    """What X was, and how it stands now."""

    was: Hidden
    state: AuditionState


@router.get("/songs", summary="The music")
def get_songs(space: AtSpace) -> list[Song]:
    """A person's own pieces, then those that ship."""
    return list(songs.songs(space))


@router.post("/songs", status_code=201, summary="Bring a piece of music")
def post_song(space: AtSpace, file: Annotated[UploadFile, File()]) -> Song:
    """WAV, FLAC, Ogg or MP3, up to eight minutes; it stays until it is taken away."""
    return songs.bring(space, file.file.read(), file.filename or "")


@router.delete("/songs/{song_id}", summary="Take a piece away")
def delete_song(song_id: SongId, space: AtSpace) -> list[Song]:
    """Its file goes with it; the pieces that ship stay."""
    songs.take_away(space, song_id)
    return list(songs.songs(space))


@router.get("/projects/{slug}/audition", summary="What is heard and compared")
def get_audition(slug: Slug, space: AtSpace) -> AuditionState:
    """Versions, what A and B are, trials and notes. What X is, is not told."""
    return audition_state(space, slug)


@router.put("/projects/{slug}/audition", summary="Choose what is compared")
def put_audition(slug: Slug, body: CompareIn, space: AtSpace) -> AuditionState:
    """Other versions begin new trials."""
    comparing.choose(space, slug, body.a, body.b, body.blind, body.unlocked)
    return audition_state(space, slug)


@router.get("/projects/{slug}/audition/loudness/{song_id}", summary="How both come to be as loud")
def get_loudness(slug: Slug, song_id: SongId, space: AtSpace) -> Loudness:
    """Of a piece through A and B: the louder one is lowered."""
    return playing.matched(space, slug, comparing.comparing(space, slug), song_id)


@router.post("/projects/{slug}/audition/play", status_code=202, summary="Play a piece")
def post_play_music(slug: Slug, body: PlayMusic, recorder: AtRecorder) -> Begun:
    """Round and round until it is stopped; what the processor held comes back then."""
    playing.start(recorder, slug, body)
    return begun(recorder)


@router.post("/projects/{slug}/audition/switch", status_code=202, summary="Switch while it plays")
def post_switch(slug: Slug, body: SwitchIn, recorder: AtRecorder) -> Begun:
    """To A, B or X, within a tenth of a second."""
    playing.switch(recorder, slug, body.to)
    return begun(recorder)


@router.post("/projects/{slug}/audition/answer", status_code=201, summary="Say what X is")
def post_answer_x(slug: Slug, body: AnswerIn, space: AtSpace) -> Answered:
    """It is told, and another one is hidden."""
    trial = comparing.answer(space, slug, body.said)
    return Answered(was=trial.was, state=audition_state(space, slug))


@router.delete("/projects/{slug}/audition/trials", summary="Begin the trials anew")
def delete_trials(slug: Slug, space: AtSpace) -> AuditionState:
    """What was told so far is forgotten."""
    comparing.begin_anew(space, slug)
    return audition_state(space, slug)


@router.post("/projects/{slug}/notes", status_code=201, summary="Note what was heard")
def post_note(slug: Slug, body: NoteIn, space: AtSpace) -> AuditionState:
    """Kept with the time and the revision."""
    notes.note(space, slug, body.text, body.heard)
    return audition_state(space, slug)


@router.delete("/projects/{slug}/notes/{note_id}", summary="Take a note away")
def delete_note(slug: Slug, note_id: Id, space: AtSpace) -> AuditionState:
    """It is gone."""
    notes.take_away(space, slug, note_id)
    return audition_state(space, slug)
