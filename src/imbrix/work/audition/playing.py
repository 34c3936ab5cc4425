"""Music through the processor, from one tune to the other at once, both as loud."""

from typing import Literal

from pydantic import Field

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import FloatArray, Sided, ratio
from imbrix.core.tune.edits import ShiftGains
from imbrix.core.tune.tune import Tune, measuring
from imbrix.core.value import Value
from imbrix.work.audition.comparing import Comparing, Which, comparing
from imbrix.work.audition.songs import samples, song, songs
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
    """A piece, from A, B or X, its peaks so far under full scale; after it the `same` again, or the `next` of the list
    and so on, round and round."""

    song: int
    start: Which = "a"
    then: Literal["same", "next"] = "same"
    level_db: float = Field(default=-24.0, ge=-80, le=0, allow_inf_nan=False)


class Loudness(Value):
    """By how much A and B are lowered so that both are as loud as the softer one (ITU-R BS.1770), in dB."""

    a_db: float
    b_db: float


def matched(space: Workspace, slug: str, now: Comparing, number: int) -> Loudness:
    """How both versions come to be as loud through a piece. Raises NotHereError."""
    tunes = (tune_of(space, slug, now.a), tune_of(space, slug, now.b))
    return _matched(space, slug, tunes, number)


def _matched(space: Workspace, slug: str, tunes: tuple[Tune, Tune], number: int) -> Loudness:
    a, b = (loudness_of(space, slug, tune, number) for tune in tunes)
    softer = min(a, b)
    return Loudness(a_db=round(softer - a, 2), b_db=round(softer - b, 2))


def start(recorder: Recorder, slug: str, wanted: PlayMusic) -> None:
    """Play a piece, and what comes after it, until it is stopped; one that plays ends for it.

    Raises NotHereError, ConflictError while something is recorded, with files, or where X is asked for and not hidden.
    """
    space = recorder.space
    space.layout(slug)
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("with files nothing is played from here: choose a sound card or the stand-in in the Rig")
    _check(space, slug, wanted.start)
    piece = song(space, wanted.song)
    if recorder.progress.kind == "music" and recorder.progress.stage in RUNNING:
        recorder.abort(slug)
        recorder.wait()
    rate = space.interface.rate
    voices = _Voices(space, slug, piece.id, _sound(space, piece.id, rate, wanted.then), wanted)

    def job() -> None:
        def follow(_block: FloatArray) -> bool:
            asked = next((one for one in ("a", "b", "x") if one in recorder.asked), None)
            if asked:
                recorder.asked.discard(asked)
                recorder.say(result={"sounds": asked})
            voices.follow(asked)
            return False

        with measuring_through(space, slug, voices.tune()):
            recorder.say(result={"sounds": wanted.start})
            recorder.play(voices.sound, on_block=follow, clip=False)
            while wanted.then == "next":
                number = _after(space, voices.number)
                voices.go_on(number, _sound(space, number, rate, wanted.then))
                recorder.say(purpose=str(number))
                recorder.play(voices.sound, on_block=follow, clip=False)
        recorder.say(stage="done", seconds_left=0.0)

    recorder.start("music", job, project=slug, channels=(), purpose=str(piece.id))


def _sound(space: Workspace, number: int, rate: int, then: str) -> Sided:
    """A piece as it is played: once, or whole rounds, so that what is left tells where it is."""
    music = samples(space, number, rate)
    rounds = 1 if then == "next" else max(1, round(LONGEST_S * rate / music.shape[0]))
    return Sided(music, music.shape[0] * rounds)


def _after(space: Workspace, number: int) -> int:
    """The piece that follows one in the list, the first after the last; the pieces that ship are music where a person
    has brought none."""
    own = [one.id for one in songs(space) if one.id > 0] or [one.id for one in songs(space)]
    return own[(own.index(number) + 1) % len(own)] if number in own else own[0]


def switch(recorder: Recorder, slug: str, to: Which) -> None:
    """Let the music come through the other tune, or X, at once. Raises ConflictError where none plays."""
    playing = recorder.progress
    if playing.kind != "music" or playing.stage not in RUNNING or playing.project != slug:
        raise ConflictError("no music plays: play a piece first")
    _check(recorder.space, slug, to)
    recorder.asked.add(to)


def _check(space: Workspace, slug: str, which: Which) -> None:
    if which == "x" and comparing(space, slug).hides is None:
        raise ConflictError("nothing is hidden: switch blind on first")


class _Voices:
    """The tunes behind A, B and X while music plays: they follow what is chosen and changed meanwhile."""

    def __init__(self, space: Workspace, slug: str, number: int, sound: Sided, wanted: PlayMusic) -> None:
        self._space, self._slug, self.number = space, slug, number
        self.sound, self._level_db, self._sounds = sound, wanted.level_db, wanted.start
        self._began = self._stands()
        self._channels = head(space, slug).tune

    def go_on(self, number: int, sound: Sided) -> None:
        """Another piece: both tunes are to be as loud through that."""
        self.number, self.sound = number, sound
        self.follow(self._sounds)

    def follow(self, asked: Which | None) -> None:
        """Set the processor anew where another tune is asked for, chosen or made. The same is written for the same:
        that nothing is done would tell what X is."""
        self._sounds = asked or self._sounds
        stands = self._stands()
        if asked or stands != self._began:
            self._began = stands
            processor = processors.processor(self._space, self._slug)
            tune = processors.playable(self._space, self._slug, self.tune())
            write_all(processor, registers(tune, self._space.layout(self._slug), processor.limits.inputs))

    def _stands(self) -> tuple[Comparing, int]:
        return comparing(self._space, self._slug), head(self._space, self._slug).id

    def _of(self, key: str, unlocked: bool) -> Tune:
        tune = tune_of(self._space, self._slug, key)
        if key != NOW or unlocked:
            return tune
        # The image stays where the channels do: what they do is heard where it was unlocked only.
        return self._channels.model_copy(update={"common": tune.common})

    def tune(self) -> Tune:
        """What sounds now, as loud as what it is compared with.

        Gains are lowered by their steps, as far as none is at its end, lest ways stray from each other; the rest is
        taken off the music.
        """
        now, _ = self._stands()
        tunes = self._of(now.a, now.unlocked), self._of(now.b, now.unlocked)
        loud = _matched(self._space, self._slug, tunes, self.number)
        first = self._sounds == "a" or (self._sounds == "x" and now.hides != "b")
        tune, by_db = (tunes[0], loud.a_db) if first else (tunes[1], loud.b_db)
        allowed = processors.model(self._space, self._slug).gain_db
        room = min(one.gain_db - allowed.least for one in tune.channels.values())
        steps = min(-by_db, max(room, 0.0)) / (allowed.step or 1e-6)
        gains_db = -int(steps + 1e-6) * (allowed.step or 1e-6)
        self.sound.factor = float(ratio(self._level_db + by_db - gains_db))
        lowered = draft(self._space, self._slug, tune, [ShiftGains(by_db=gains_db)]) if gains_db else tune
        layout = self._space.layout(self._slug)
        return measuring(lowered, layout, {one.id for one in layout.drivers if tune.audible(one.id)})
