"""Music through the processor, from one tune to the other at once, both as loud."""

from dataclasses import dataclass

from pydantic import Field

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import FloatArray, Sided, ratio
from imbrix.core.tune.edits import ShiftGains
from imbrix.core.tune.tune import Tune, measuring
from imbrix.core.value import Value
from imbrix.work.audition.comparing import Comparing, Which, comparing
from imbrix.work.audition.songs import samples, song
from imbrix.work.audition.versions import NOW, loudness_of, tune_of
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import registers, write_all
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import RUNNING, Recorder
from imbrix.work.tune.revisions import draft, head

LONGEST_S = 3600.0


class PlayMusic(Value):
    """A piece, from A, B or X, its peaks so far under full scale, from so many seconds on."""

    song: int
    start: Which = "a"
    level_db: float = Field(default=-24.0, ge=-80, le=0, allow_inf_nan=False)
    from_s: float = Field(default=0.0, ge=0, le=900, allow_inf_nan=False)


@dataclass(frozen=True)
class Loud:
    """By how much A and B are lowered, so that both are as loud as the softer one, in dB."""

    a_db: float
    b_db: float


def matched(space: Workspace, slug: str, now: Comparing, number: int) -> Loud:
    """How both versions come to be as loud through a piece. Raises NotHereError."""
    a, b = (loudness_of(space, slug, tune_of(space, slug, key), number) for key in (now.a, now.b))
    softer = min(a, b)
    return Loud(round(softer - a, 2), round(softer - b, 2))


def start(recorder: Recorder, slug: str, wanted: PlayMusic) -> None:
    """Play a piece round and round; one that plays ends for it.

    Raises NotHereError, ConflictError while something is recorded, with files, or where X is asked for and not hidden.
    """
    space = recorder.space
    space.layout(slug)
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("with files nothing is played from here: choose a sound card or the stand-in in the Rig")
    now = comparing(space, slug)
    if wanted.start == "x" and now.hides is None:
        raise ConflictError("nothing is hidden: switch blind on first")
    piece = song(space, wanted.song)
    if recorder.progress.kind == "music" and recorder.progress.stage in RUNNING:
        recorder.abort(slug)
        recorder.wait()
    rate = space.interface.rate
    music = samples(space, piece.id, rate)
    sound = Sided(music, round(LONGEST_S * rate), float(ratio(wanted.level_db)), round(wanted.from_s * rate))
    voices = _Voices(space, slug, now, matched(space, slug, now, piece.id))
    first = voices.tune(wanted.start)

    def job() -> None:
        def follow(_block: FloatArray) -> bool:
            asked = next((one for one in ("a", "b", "x") if one in recorder.asked), None)
            if asked:
                recorder.asked.discard(asked)
                voices.sounds = asked
                recorder.say(result={"sounds": asked})
            if asked or voices.moved():
                voices.write()
            return False

        with measuring_through(space, slug, first):
            recorder.say(result={"sounds": wanted.start})
            recorder.play(sound, on_block=follow, clip=False)
        recorder.say(stage="done", seconds_left=0.0)

    recorder.start("music", job, project=slug, channels=(), purpose=str(piece.id))


def switch(recorder: Recorder, slug: str, to: Which) -> None:
    """Let the music come through the other tune, or X, at once. Raises ConflictError where none plays."""
    now = comparing(recorder.space, slug)
    playing = recorder.progress
    if playing.kind != "music" or playing.stage not in RUNNING or playing.project != slug:
        raise ConflictError("no music plays: play a piece first")
    if to == "x" and now.hides is None:
        raise ConflictError("nothing is hidden: switch blind on first")
    recorder.asked.add(to)


class _Voices:
    """The tunes behind A, B and X while music plays; the present one follows what is changed."""

    def __init__(self, space: Workspace, slug: str, now: Comparing, loud: Loud) -> None:
        self._space, self._slug, self._loud = space, slug, loud
        self._keys = {"a": now.a, "b": now.b}
        self._began = {which: tune_of(space, slug, key) for which, key in self._keys.items()}
        self._head = head(space, slug).id
        self.sounds: Which = "a"

    def moved(self) -> bool:
        """Whether the present tune was changed since, and is what sounds."""
        now = head(self._space, self._slug).id
        if now == self._head:
            return False
        self._head = now
        return self._keys[self._which(self.sounds)] == NOW

    def _which(self, sounds: Which) -> str:
        return (comparing(self._space, self._slug).hides or "a") if sounds == "x" else sounds

    def tune(self, sounds: Which) -> Tune:
        """What A, B or X is now, as loud as the other one."""
        self.sounds = sounds
        which = self._which(sounds)
        tune = self._began[which]
        if self._keys[which] == NOW:
            present = head(self._space, self._slug).tune
            # The image stays where the channels do: what they do is heard where it was unlocked only.
            unlocked = comparing(self._space, self._slug).unlocked
            tune = present if unlocked else tune.model_copy(update={"common": present.common})
        by_db = self._loud.a_db if which == "a" else self._loud.b_db
        louder = draft(self._space, self._slug, tune, [ShiftGains(by_db=by_db)]) if by_db else tune
        layout = self._space.layout(self._slug)
        return measuring(louder, layout, {one.id for one in layout.drivers if tune.audible(one.id)})

    def write(self) -> None:
        """Set the processor to what sounds."""
        space, slug = self._space, self._slug
        processor = processors.processor(space, slug)
        tune = processors.playable(space, slug, self.tune(self.sounds))
        write_all(processor, registers(tune, space.layout(slug), processor.limits.inputs))
