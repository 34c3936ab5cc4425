"""The whole recorded while the source itself plays the track: the proof that it is straight all the way."""

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import ComplexArray, Looped
from imbrix.core.source import track
from imbrix.core.source.wires import Wire, read_sound
from imbrix.core.tune.tune import Tune, measuring
from imbrix.standins.head_unit import RATE
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene, summed
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import read_back
from imbrix.work.rig import choices, corrections, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.source.colour import predicted_through
from imbrix.work.source.recording import ROUNDS
from imbrix.work.takes.shelf import Details, keep
from imbrix.work.tune.revisions import head

MATCHED_HZ = (200.0, 5000.0)


def start(recorder: Recorder, slug: str, channels: tuple[str, ...], note: str = "") -> None:
    """Record those channels at the microphone while the source plays the track. Raises ConflictError, NotHereError."""
    space = recorder.space
    through = _through(space, slug, channels)
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("with files there is nothing to listen to: choose a sound card")
    rate = space.interface.rate
    size = round(ROUNDS * track.schedule(rate).size)

    def job() -> None:
        simulated = rig.standin(space)
        with measuring_through(space, slug, through):
            if simulated:
                simulated.track, simulated.source_plays = track.track(RATE), True
            try:
                recorded = recorder.play(Looped(np.zeros(4096), size))
            finally:
                if simulated:
                    simulated.source_plays = False
        recorder.computing()
        take_id = _keep(space, slug, channels, through, read_sound(recorded[:, 0], rate), rate, note)
        recorder.say(stage="kept", take_id=take_id, result={"doubt": False})

    recorder.start("take", job, project=slug, channels=channels, purpose="proof")


def _through(space: Workspace, slug: str, channels: tuple[str, ...]) -> Tune:
    """What the processor holds, its inputs with it: it is the source that they straighten."""
    layout = space.layout(slug)
    for channel in channels:
        layout.driver(channel)
    if not channels:
        raise ConflictError("no channel is chosen: there is nothing to record")
    now = read_back(space, slug, head(space, slug).tune)
    alone = measuring(now, layout, set(channels)).model_copy(update={"inputs": now.inputs})
    return processors.playable(space, slug, alone)


def _keep(
    space: Workspace, slug: str, channels: tuple[str, ...], through: Tune, heard: Wire, rate: int, note: str
) -> int:
    """Keep what was heard of both sides together, its level matched to what is predicted: the volume knob of the source
    decides that."""
    chosen = rig.rig(space)
    values = heard.both
    shown = values if chosen.correction is None else values / corrections.on_grid(space, chosen.correction)
    now = scene(space, slug)
    whole = summed(now, predicted_through(space, slug, now, through), through, set(channels)) if now.ids else None
    if whole is not None:
        inside = np.isfinite(shown) & (space.grid > MATCHED_HZ[0]) & (space.grid < MATCHED_HZ[1])
        values = values * _power_ratio(whole[inside], shown[inside])
    return keep(
        space,
        slug,
        channels=channels,
        purpose="proof",
        method="source",
        timed=False,
        through=through,
        rate=rate,
        arrays={
            "response": np.stack((values.real, values.imag)).astype(np.float32),
            "over": np.where(np.isfinite(values), heard.over_noise_db, -240.0).astype(np.float32),
        },
        details=Details(device=chosen.device, correction=chosen.correction, pointing=chosen.pointing),
        note=note or "played by the source",
    )


def _power_ratio(one: ComplexArray, other: ComplexArray) -> float:
    """How much stronger one response is than another, as a factor."""
    power = float(np.mean(np.abs(other) ** 2))
    return float(np.sqrt(np.mean(np.abs(one) ** 2) / power)) if power > 0 else 1.0
