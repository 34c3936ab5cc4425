"""Recording the wires of a source while it plays the track, by the interface or from a file."""

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager

import numpy as np

from imbrix.core.errors import ConflictError, UnusableError
from imbrix.core.signal.signal import FloatArray, Looped
from imbrix.core.source import track
from imbrix.core.source.wires import LEAST_PEAK_DBFS, read_wires
from imbrix.core.tune.tune import Tune
from imbrix.formats.wav import write_wav
from imbrix.standins.head_unit import RATE
from imbrix.work.ground import places, processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import typed
from imbrix.work.processor.hold import measuring_through
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.source import feeds
from imbrix.work.takes.recording import waited
from imbrix.work.takes.shelf import Details, keep
from imbrix.work.tune.revisions import head

ROUNDS = 2.1
"""How many times as long as the track is recorded: from any start there is a whole one in it."""


SILENT = 10 ** (LEAST_PEAK_DBFS / 20)


def as_wav(make: Callable[[int], FloatArray], rate: int) -> bytes:
    """What a source is to play, made at a rate, as a WAV file of 16 bit, which every player takes. Raises
    ConflictError."""
    if rate not in track.RATES:
        raise ConflictError(f"files are written at {', '.join(map(str, track.RATES))} Hz, not at {rate}")
    return write_wav(make(rate), rate, "PCM_16")


def track_wav(rate: int) -> bytes:
    """The track as a file. Raises ConflictError."""
    return as_wav(track.track, rate)


@contextmanager
def clipped(space: Workspace, slug: str, sound: FloatArray, leads: Mapping[int, int]) -> Iterator[None]:
    """With the stand-in for a while: its source plays a sound (n, 2), and `leads` hold wires by input of the interface.

    A real source is made to play by a person, and real leads are clipped by one.
    """
    simulated = rig.standin(space)
    if simulated is None:
        yield
        return
    places.connect(space, slug)
    simulated.track, simulated.leads = sound, dict(leads)
    try:
        yield
    finally:
        simulated.leads = {}


@contextmanager
def played(space: Workspace, make: Callable[[int], FloatArray]) -> Iterator[None]:
    """With the stand-in for a while: its source plays a sound (n, 2), made at a rate, into the processor by all its
    wires. A real source is made to play by a person."""
    simulated = rig.standin(space)
    if simulated is None:
        yield
        return
    simulated.track, simulated.source_plays = make(RATE), True
    try:
        yield
    finally:
        simulated.source_plays = False


def at_the_microphone(recorder: Recorder, slug: str, through: Tune) -> FloatArray:
    """What a microphone hears (n,) of the track while the source plays it through a tune: recorded by the device, or
    brought by a person who works by files. Raises UnusableError, OSError, Stopped."""
    space = recorder.space
    if rig.rig(space).device == choices.FILE:
        return waited(recorder, slug, through, "Let the source play the track, and bring what was recorded.")[:, 0]
    size = round(ROUNDS * track.schedule(space.interface.rate).size)
    with measuring_through(space, slug, through), played(space, track.track):
        return recorder.play(Looped(np.zeros(4096), size))[:, 0]


def start(recorder: Recorder, slug: str, numbers: tuple[int, ...], note: str = "") -> None:
    """Record one or two wires, those of the processor's inputs named (from 1). Raises ConflictError."""
    space = recorder.space
    used = leads_of(space, slug, numbers)
    rate = space.interface.rate
    size = round(ROUNDS * track.schedule(rate).size)

    def job() -> None:
        with clipped(space, slug, track.track(RATE), dict(zip(used, numbers, strict=True))):
            recorded = recorder.play(Looped(np.zeros(4096), size), inputs=used, clip=False)
        recorder.computing()
        take_id = keep_wires(space, slug, recorded, rate, numbers, note)
        recorder.say(stage="kept", take_id=take_id, result={"doubt": False})

    recorder.start("feed", job, project=slug, purpose="feed")


def can_read(space: Workspace, slug: str) -> bool:
    """Whether the processor tells by its link what reaches its inputs: nobody is linked to it where the sound is real,
    or where it is typed by hand."""
    linked = rig.standin(space) is not None and typed.rows(space, slug) is None
    return linked and processors.model(space, slug).reads_inputs


def start_reading(recorder: Recorder, slug: str, note: str = "") -> None:
    """Read what reaches all inputs of the processor at once, by its link, while the source plays the track; what is
    silent is left out. Raises ConflictError."""
    space = recorder.space
    processor = processors.processor(space, slug)
    if not can_read(space, slug):
        told = processor.limits.reads_inputs
        why = "nobody is linked to it" if told else "its model does not tell"
        raise ConflictError(f"what reaches the processor cannot be read ({why}): clip the leads to the wires")
    rate = processor.limits.rate
    size = round(ROUNDS * track.schedule(rate).size)

    def job() -> None:
        with clipped(space, slug, track.track(RATE), {}):
            heard = np.concatenate(list(recorder.follow(processor.hear(size), size, rate)))
        loud = np.flatnonzero(np.abs(heard).max(axis=0) > SILENT)
        if not loud.size:
            raise UnusableError("nothing reaches the inputs: is the track playing, and the volume up?", "silent")
        recorder.computing()
        take_id = keep_wires(space, slug, heard[:, loud], rate, tuple(int(n) + 1 for n in loud), note)
        recorder.say(stage="kept", take_id=take_id, result={"doubt": False})

    recorder.start("feed", job, project=slug, purpose="feed")


def leads_of(space: Workspace, slug: str, numbers: tuple[int, ...]) -> tuple[int, ...]:
    """The interface's inputs that hear the wires of some of the processor's inputs (from 1). Raises ConflictError."""
    _check(space, slug, numbers)
    chosen = rig.rig(space)
    if chosen.device == choices.FILE:
        raise ConflictError("with files, bring a recording of the wires: the track is there as a WAV")
    where = feeds.leads(space, slug)
    used = (where.first, where.second)[: len(numbers)]
    if max(used) >= chosen.known_inputs:
        raise ConflictError(f"there is no input {max(used) + 1} for a lead: choose another")
    place = places.place(space, slug) if rig.standin(space) else None
    if place is not None and max(numbers) > len(place.head_unit.wires):
        there = len(place.head_unit.wires)
        raise ConflictError(f"the source here has {there} wires: there is none for input {max(numbers)}")
    return used


def _check(space: Workspace, slug: str, numbers: tuple[int, ...], most: int = 2) -> None:
    model = processors.model(space, slug)
    if not 1 <= len(numbers) <= max(most, 2) or len(set(numbers)) < len(numbers):
        raise ConflictError("choose one input of the processor, or two that differ")
    if not all(1 <= one <= model.inputs for one in numbers):
        raise ConflictError(f"the processor has inputs 1 to {model.inputs}")


def keep_wires(
    space: Workspace, slug: str, recorded: FloatArray, rate: int, numbers: tuple[int, ...], note: str = ""
) -> int:
    """Read a recording (n, wires) and keep it. Raises UnusableError with what is wrong; nothing is kept then."""
    _check(space, slug, numbers, most=recorded.shape[1])
    if recorded.shape[1] < len(numbers):
        raise ConflictError(f"the recording has {recorded.shape[1]} channel, but {len(numbers)} wires were named")
    read = read_wires(recorded[:, : len(numbers)], rate)
    take_id = keep(
        space,
        slug,
        channels=(),
        purpose="feed",
        method="sweep",
        timed=True,
        through=head(space, slug).tune,
        rate=rate,
        arrays={"wires": recorded[:, : len(numbers)].T.astype(np.float32)},
        details=Details(feeds=numbers, device=rig.rig(space).device),
        note=note,
    )
    space.memory.put(feeds.WIRES, take_id, read)
    feeds.feeds(space, slug)  # so that what takes a second is done before it is looked at
    return take_id
