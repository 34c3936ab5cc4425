"""How loud the source gets: heard wire by wire while the volume is turned up, and the sensitivity that follows."""

from contextlib import suppress

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError, UnusableError
from imbrix.core.signal.signal import FloatArray, Looped
from imbrix.core.source.loudness import DISTORTED, Loudness, tone
from imbrix.core.tune.edits import Edit, SetInput
from imbrix.core.tune.routing import input_of
from imbrix.core.value import Value
from imbrix.formats.wav import write_wav
from imbrix.standins.head_unit import RATE
from imbrix.work.ground import documents, processors
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Recorder, Stopped
from imbrix.work.sound.results import Volume
from imbrix.work.source import ends, feeds
from imbrix.work.source.ends import ENDS, End
from imbrix.work.source.recording import clipped, leads_of
from imbrix.work.tune.revisions import head

LONGEST_S = 1800
SILENT_S = 20.0
SILENT_DBFS = -120.0
HEADROOM_DB = 3.0
APART_DB = 0.5
"""Feeds that differ by less are alike."""


class Loud(Value):
    """The highest clean level of a feed, of its peaks in dBFS at the lead, and the lowest that distorted, None where
    nothing did; of a tone of so many hertz.

    `differs_db` is its level less that of the feed `beside` it at the same time; None where it was alone.
    """

    clean_db: float = Field(ge=-200, le=60)
    over_db: float | None = Field(default=None, ge=-200, le=60)
    hertz: float = Field(gt=0, le=20_000)
    beside: int | None = Field(default=None, ge=1, le=64)
    differs_db: float | None = Field(default=None, ge=-200, le=200)


def tone_wav(hertz: int, rate: int) -> bytes:
    """The tone as a WAV file of 16 bit. Raises InvalidError for another tone than there is."""
    return write_wav(tone(hertz, rate), rate, "PCM_16")


def known(space: Workspace, slug: str) -> dict[int, Loud]:
    """By input what was heard of its feed."""
    found = (documents.read(space, _key(slug)) or {}).get("loud", {})
    return {int(number): stored(Loud, one, "how loud the source gets") for number, one in sorted(found.items())}


def start(recorder: Recorder, slug: str, numbers: tuple[int, ...], hertz: int = 1000) -> None:
    """Listen to one or two wires while somebody turns the volume up, until it is stopped: what was clean is kept then.

    The stand-in's source plays the tone of so many `hertz`; a real one is made to by a person. Raises ConflictError.
    """
    space = recorder.space
    used = leads_of(space, slug, numbers)
    rate = space.interface.rate
    wires = [Loudness(rate) for _ in numbers]
    differs: list[float] = []
    sine = tone(hertz, RATE)
    count = 0

    def told() -> list[Volume]:
        return [
            Volume(
                input=number,
                level_db=one.now.level_db if one.now else None,
                distortion=one.now.distortion if one.now else None,
                distorts=one.now is not None and one.now.distortion >= DISTORTED,
                clean_db=one.clean_db,
                over_db=one.over_db,
            )
            for number, one in zip(numbers, wires, strict=True)
        ]

    waits: dict[End, int] = {}
    at_ends: dict[int, dict[End, float]] = {number: {} for number in numbers}

    def note_ends() -> None:
        """Levels of the second window after a knob was said to be at its end: the first may still have moved."""
        for end in [one for one in ENDS if one in recorder.asked]:
            recorder.asked.discard(end)
            waits[end] = 2
        for end in tuple(waits):
            waits[end] -= 1
            if waits[end] <= 0:
                del waits[end]
                for number, one in zip(numbers, wires, strict=True):
                    at_ends[number][end] = one.now.level_db if one.now else SILENT_DBFS

    def on_block(block: FloatArray) -> bool:
        nonlocal count
        count += block.shape[0]
        if any([one.feed(block[:, n]) for n, one in enumerate(wires)]):
            note_ends()
            recorder.say(result={"wires": told(), "ends": _noted(at_ends)}, averages=count)
            levels = [one.now.level_db for one in wires if one.now and one.now.distortion < DISTORTED]
            if len(levels) == 2:
                differs.append(levels[1] - levels[0])
        if count > SILENT_S * rate and all(one.clean_db is None and one.over_db is None for one in wires):
            raise UnusableError(
                "there is no tone on the wires: let the source play it, and see that the leads hold", "silent"
            )
        return False

    def job() -> None:
        with suppress(Stopped), clipped(space, slug, sine, dict(zip(used, numbers, strict=True))):
            recorder.play(
                Looped(np.zeros(4096), LONGEST_S * rate), inputs=used, on_block=on_block, clip=False, goes_on=True
            )
        _keep(space, slug, dict(zip(numbers, wires, strict=True)), float(np.median(differs)) if differs else None)
        ends.keep(space, slug, at_ends)
        recorder.say(stage="done", message="", seconds_left=0.0, result={"wires": told()})

    recorder.start("volume", job, project=slug, purpose="feed")


def _noted(at_ends: dict[int, dict[End, float]]) -> list[str]:
    return sorted({end for one in at_ends.values() for end in one})


def note_end(recorder: Recorder, end: End) -> None:
    """Say that a knob of the source stands at an end now. Raises ConflictError where nobody listens."""
    if recorder.progress.kind != "volume" or recorder.progress.stage != "playing":
        raise ConflictError("nobody listens to the wires: begin that first")
    recorder.asked.add(end)


def _keep(space: Workspace, slug: str, wires: dict[int, Loudness], differs_db: float | None) -> None:
    first = next(iter(wires))
    found = {}
    for number, one in wires.items():
        if one.clean_db is not None:
            apart = {} if number == first or differs_db is None else {"beside": first, "differs_db": differs_db}
            found[str(number)] = Loud(clean_db=one.clean_db, over_db=one.over_db, hertz=one.hertz, **apart)

    def put(before: documents.Document) -> documents.Document:
        return {**before, "loud": {**before.get("loud", {}), **{n: one.model_dump() for n, one in found.items()}}}

    if found:
        documents.change(space, _key(slug), put)
        space.changed()


def forget(space: Workspace, slug: str) -> None:
    """Begin anew: another volume, another source."""
    space.layout(slug)
    documents.change(space, _key(slug), lambda before: {k: v for k, v in before.items() if k not in ("loud", "ends")})
    space.changed()


def sensitivity(space: Workspace, slug: str, headroom_db: float = HEADROOM_DB, takes_db: float = 0.0) -> list[Edit]:
    """Edits that shift the gains of all inputs alike, so that the loudest clean feed stays so far under full scale.

    Alike, because what feeds differ by is straightened where it is tone. `takes_db` is by how much more a processor's
    input takes than the interface's. Raises ConflictError where nothing was heard yet, or gains do not reach.
    """
    there = known(space, slug)
    if not there:
        raise ConflictError("how loud the source gets is not known yet: let it play the tone and turn it up first")
    tune, model = head(space, slug).tune, processors.model(space, slug)
    gains = {number: input_of(tune, number).gain_db for number in feeds.meant(space, slug)}
    loudest = max(one.clean_db - takes_db + gains[number] for number, one in there.items() if number in gains)
    shift = -headroom_db - loudest
    low = model.gain_db.least - min(gains.values())
    high = model.gain_db.most - max(gains.values())
    if not low <= shift <= high:
        raise ConflictError(
            f"the inputs would need {shift:+.1f} dB more, and the processor's gains reach {low:+.1f} to {high:+.1f}: "
            "set its input sensitivity (a switch or a knob on most) first"
        )
    return [SetInput(input=number, gain_db=round(gain + shift, 2)) for number, gain in gains.items()]


def says(space: Workspace, slug: str) -> list[str]:
    """What is to be known of levels, in sentences."""
    there, names = known(space, slug), feeds.meant(space, slug)
    tones = feeds.feeds(space, slug)
    said = []
    for number, one in there.items():
        if number not in names:
            continue
        name = names[number].name
        if one.over_db is None:
            said.append(f"{name} did not distort as loud as it was: it may get louder still")
        if one.differs_db is None or one.beside not in names or abs(one.differs_db) < APART_DB:
            continue
        line = f"{name} is {one.differs_db:+.1f} dB against {names[one.beside].name.lower()} at {one.hertz:.0f} Hz"
        both = tones.get(number), tones.get(one.beside)
        if both[0] is None or both[1] is None:
            said.append(f"{line}: record the feeds to know whether that is tone or level")
            continue
        mine, other = (float(np.interp(one.hertz, feeds.GRID, each.tone.levels)) for each in both if each)
        said.append(f"{line}; {mine - other:+.1f} dB of that is tone, the rest level: straightening undoes both")
    return said


def _key(slug: str) -> str:
    return f"source:{slug}"
