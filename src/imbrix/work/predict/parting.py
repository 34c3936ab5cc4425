"""What a recording of the whole tells against its prediction."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from imbrix.core.predict.mistyped import Mistyped, mistyped
from imbrix.core.predict.parting import EXPLAINS, SAME_DB, SAME_MOVED_DB, Cause, Parting, part
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take, through

SMOOTHING = 6.0
TOLD_DB, WELL_DB = 6.0, 26.0
"""Over the noise, a point tells nothing yet, and all that it can."""
PUT_BACK_S = 0.15e-3
"""Five centimetres of way: a microphone that is put back by hand is so far off (common practice, no source)."""
PARTED: Drawer[tuple[object, ...], Parting | None] = Drawer("partings", 64)


def parting(space: Workspace, slug: str, one: Take) -> Parting | None:
    """How far a proof is from its prediction, and what that looks like; None where a driver that played has no take."""
    now = scene(space, slug, spatial=one.levels_only)
    if not set(one.channels) <= set(now.ids):
        return None

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
        found = part(measured, level(tune, playing), tuple(causes()), space.grid, same_db)
        if found is None or len(playing) > 1:
            return found
        # Asked even where the levels agree: a delay or a polarity shows by the phase alone.
        named = _mistyped(space, now, one, tune, same_db)
        if named is None:
            return found
        driver = now.layout.driver(one.channels[0]).name
        stands = f"the {named.what} of {driver} stood at {named.stands} instead of {named.should}"
        # A level that is off throughout is as well a volume's.
        level_off = named.what == "gain" and found.says
        return replace(found, says=f"{found.says}; or {stands}" if level_off else f"it looks as if {stands}")

    return space.memory.of(PARTED, (slug, one.id, one.details.correction, now.stamp), find)


def _mistyped(space: Workspace, now: Scene, one: Take, tune: Tune, same_db: float) -> Mistyped | None:
    """The single setting of the one channel that played which explains what was measured; None where none does."""
    name = one.channels[0]
    shows = reading(space, one)
    expected = predicted(space, now, tune)[now.ids.index(name)]
    ratio = np.nan_to_num(shows.response) / np.where(np.abs(expected) > 0, expected, np.inf)
    if not one.timed:
        ratio = np.abs(ratio).astype(complex)
    weights = np.clip((np.nan_to_num(shows.over_noise_db) - TOLD_DB) / (WELL_DB - TOLD_DB), 0, 1)
    # What the driver does not play tells nothing: there even the prediction is of noise.
    weights *= np.abs(expected) > np.nanmax(np.abs(expected)) * 0.03
    channel = tune.channels[name]
    named = mistyped(ratio, np.where(np.isfinite(expected), weights, 0.0), channel, space.predictor_at(now.rate))
    if named is None or named.before <= same_db or named.left > EXPLAINS * named.before:
        return None
    late = abs(named.channel.delay_s - channel.delay_s)
    return None if named.what == "delay" and late < PUT_BACK_S else named
