"""What a recording of the whole tells against its prediction."""

from collections.abc import Iterator

import numpy as np

from imbrix.core.predict.parting import SAME_DB, SAME_MOVED_DB, Cause, Parting, part
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take, through

SMOOTHING = 6.0
PARTED: Drawer[tuple[object, ...], Parting | None] = Drawer("partings", 64)


def parting(space: Workspace, slug: str, one: Take) -> Parting | None:
    """How far a proof is from its prediction, and what that looks like; None where a driver that played has no take."""
    now = scene(space, slug, spatial=one.levels_only)
    if not set(one.channels) <= set(now.ids):
        return None
    takes_here = tuple(
        (each.id, each.details.correction) for f in now.forces.values() for each in (f.take, f.moving) if each
    )

    def find() -> Parting | None:
        tune = through(space, one)
        playing = set(one.channels)

        def level(tune: Tune, names: set[str]) -> FloatArray:
            responses = predicted(space, now, tune)
            return power_decibels(whole_power(now, space.grid, responses, tune, SMOOTHING, names)) + space.offset_db

        def causes() -> Iterator[Cause]:
            for name in sorted(playing & set(now.ids)):
                driver = now.layout.driver(name).name
                channel = tune.channels[name]
                if len(playing) > 1:
                    yield Cause(f"{driver} was silent: a mute, a cable, an amplifier", level(tune, playing - {name}))
                turned = tune.with_channel(name, inverted=not channel.inverted)
                yield Cause(
                    f"{driver} moved the other way: its polarity or its wires were turned", level(turned, playing)
                )
                if channel.bands:
                    bare = tune.with_channel(name, bands=())
                    yield Cause(f"the bands of {driver} were not there: a filter was not sent", level(bare, playing))
            if tune.common:
                plain = tune.model_copy(update={"common": ()})
                yield Cause("the common bands were not there: a filter was not sent", level(plain, playing))

        shown = reading(space, one).response
        power = smooth_power(np.nan_to_num(shown), space.grid, SMOOTHING)
        measured = np.where(np.isfinite(shown), power_decibels(power) + space.offset_db, np.nan)
        same_db = SAME_MOVED_DB if one.levels_only else SAME_DB
        return part(measured, level(tune, playing), tuple(causes()), space.grid, same_db)

    return space.memory.of(PARTED, (slug, one.id, one.details.correction, takes_here), find)
