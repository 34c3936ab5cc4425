"""Where left and right of a project take each other away, and what turns one side."""

from dataclasses import dataclass

from imbrix.core.align.problem import TOGETHER_HZ, ends
from imbrix.core.align.turn import turn
from imbrix.core.system.layout import SIDES, Driver, Side
from imbrix.core.tune.edits import Edit, SetBands
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted, scene
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed

NEAR = 3.0
"""An all-pass of a side stands in the channels that play within this factor of it: farther off it turns nothing."""
TURNED: Drawer[tuple[object, ...], "Turned | None"] = Drawer("turned sides", 32)


@dataclass(frozen=True)
class Turned:
    """Edits that turn one side, and in words why and what comes of it."""

    edits: tuple[Edit, ...]
    action: str
    says: str
    evidence: str


def turned(space: Workspace, slug: str) -> Turned | None:
    """What turns one side where both take each other away over the whole head; None where nothing has to be turned.

    One all-pass a side: where a channel has one already, or no band is free, that side stays. Nothing is said before
    all channels are voiced, which turns phases too, nor from one spot alone: what it lacks may be there beside it.
    """
    now = scene(space, slug, spatial=True)
    tune = head(space, slug).tune
    if not now.spatial or not all(tune.channels[name].voiced for name in now.ids):
        return None
    key = (slug, now.stamp, tune.model_dump_json(), processors.key_of(space, slug))
    return space.memory.of(TURNED, key, lambda: _turned(space, slug, now, tune))


def _turned(space: Workspace, slug: str, now: Scene, tune: Tune) -> Turned | None:
    at_spots = now.at_spots(predicted(space, now, tune))
    sums = {}
    for side in (*SIDES, "both"):
        rows = [n for n, name in enumerate(now.ids) if now.layout.driver(name).side == side and tune.audible(name)]
        if rows:
            sums[side] = at_spots[:, rows].sum(axis=1)
    free = frozenset(side for side in SIDES if _free(space, slug, now, tune, side))
    found = turn(sums, placed(space, slug, tune) - space.offset_db, space.predictor_at(now.rate), free)
    if found is None:
        return None
    hertz = found.band.frequency_hz
    edits: list[Edit] = []
    for driver in _side(now, found.side):
        low, high = ends(tune, driver.id)
        if low / NEAR < hertz < high * NEAR:
            channel = tune.channels[driver.id]
            bands = (found.band, *channel.bands)
            edits.append(SetBands(channel=driver.id, bands=bands, gain_db=channel.gain_db))
    return Turned(
        edits=tuple(edits),
        action=f"Turn the {found.side} side",
        says=f"Left and right take each other away at {found.dip_hz:.0f} Hz: {-found.before_db:.1f} dB are missing",
        evidence=f"an all-pass at {hertz:.0f} Hz, Q {found.band.q:g}, on the {found.side} side leaves "
        f"{max(0.0, -found.after_db):.1f} dB of it; below {TOGETHER_HZ:.0f} Hz the sides lose "
        f"{found.lost_db[1]:.1f} dB to each other, {found.lost_db[0]:.1f} before",
    )


def _side(now: Scene, side: Side) -> list[Driver]:
    return [one for one in now.layout.drivers if one.side == side and one.id in now.ids]


def _free(space: Workspace, slug: str, now: Scene, tune: Tune, side: Side) -> bool:
    room = processors.model(space, slug).bands - len(tune.common)
    channels = [tune.channels[one.id] for one in _side(now, side)]
    turned_already = any(channel.all_passes for channel in channels)
    return bool(channels) and not turned_already and all(len(channel.bands) < room for channel in channels)
