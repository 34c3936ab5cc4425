"""The whole recorded while the source itself plays the track: the proof that it is straight all the way."""

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.source.wires import Wire, read_sound
from imbrix.core.tune.tune import Tune, measuring
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene, summed
from imbrix.work.processor.link import read_back
from imbrix.work.rig import choices, corrections, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.source.colour import predicted_through
from imbrix.work.source.recording import at_the_microphone
from imbrix.work.takes.asked import Asked, Kept, TakeJob, start_take
from imbrix.work.takes.shelf import Details, keep
from imbrix.work.tune.revisions import head

MATCHED_HZ = (200.0, 5000.0)


def start(recorder: Recorder, slug: str, channels: tuple[str, ...], note: str = "") -> None:
    """Record those channels at the microphone while the source plays the track. Raises ConflictError, NotHereError."""
    start_take(recorder, slug, Asked(channels, "proof", note), whole_take)


def whole_take(recorder: Recorder, slug: str, asked: Asked) -> TakeJob:
    """A take of several channels, made ready to be recorded at the microphone while the source plays the track.

    Raises ConflictError, NotHereError.
    """
    space = recorder.space
    through = going_through_source(space, slug, asked.channels, asked.inverting)
    chosen = rig.rig(space)
    if chosen.device == choices.FILE and chosen.plays != "source":
        raise ConflictError("with files, say that the source plays (Rig, Takes), or choose a sound card")
    rate = space.interface.rate

    def take() -> Kept:
        recorded = at_the_microphone(recorder, slug, through)
        recorder.computing()
        heard = read_sound(recorded, rate)
        return Kept(_keep(space, slug, asked, through, heard, rate))

    return take


def going_through_source(space: Workspace, slug: str, channels: tuple[str, ...], inverting: tuple[str, ...]) -> Tune:
    """What the processor holds, its inputs with it: it is the source that they straighten."""
    layout = space.layout(slug)
    for channel in channels:
        layout.driver(channel)
    if not channels:
        raise ConflictError("no channel is chosen: there is nothing to record")
    now = read_back(space, slug, head(space, slug).tune)
    alone = measuring(now, layout, set(channels)).model_copy(update={"inputs": now.inputs})
    for name in inverting:
        alone = alone.with_channel(name, inverted=not alone.channels[name].inverted)
    return processors.playable(space, slug, alone)


def _keep(space: Workspace, slug: str, asked: Asked, through: Tune, heard: Wire, rate: int) -> int:
    """Keep what was heard of both sides together, its level matched to what is predicted: the volume knob of the source
    decides that."""
    chosen = rig.rig(space)
    values = heard.both
    shown = values if chosen.correction is None else values / corrections.on_grid(space, chosen.correction)
    values = values * matching(space, slug, asked.channels, through, shown)
    return keep(
        space,
        slug,
        channels=asked.channels,
        purpose=asked.purpose,
        method="source",
        timed=False,
        through=through,
        rate=rate,
        arrays={
            "response": np.stack((values.real, values.imag)).astype(np.float32),
            "over": np.where(np.isfinite(values), heard.over_noise_db, -240.0).astype(np.float32),
        },
        details=Details(device=chosen.device, correction=chosen.correction, pointing=chosen.pointing),
        note=asked.note or "played by the source",
    )


def matching(space: Workspace, slug: str, channels: tuple[str, ...], through: Tune, shown: ComplexArray) -> float:
    """The factor by which what was heard (n,) of some channels gets as loud as it is predicted."""
    now = scene(space, slug)
    whole = summed(now, predicted_through(space, slug, now, through), through, set(channels)) if now.ids else None
    if whole is None:
        return 1.0
    inside = np.isfinite(shown) & (space.grid > MATCHED_HZ[0]) & (space.grid < MATCHED_HZ[1])
    return _power_ratio(whole[inside], shown[inside])


def _power_ratio(one: ComplexArray, other: ComplexArray) -> float:
    """How much stronger one response is than another, as a factor."""
    power = float(np.mean(np.abs(other) ** 2))
    return float(np.sqrt(np.mean(np.abs(one) ** 2) / power)) if power > 0 else 1.0
