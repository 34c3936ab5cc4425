"""What Drivers shows: bare curves over each other, the selection closely, one take beside another."""

import numpy as np

from imbrix.core.evidence.evidence import agreement
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.takes.bands import band
from imbrix.work.takes.reading import bare
from imbrix.work.takes.shelf import Take, take
from imbrix.work.views import angles, closer, ohms, passive
from imbrix.work.views import takes as shown_takes
from imbrix.work.views.facts import Agrees
from imbrix.work.views.gated import gated
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View, level, shown


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    if view.part == "impedance":
        ohms.draw(space, slug, picture, view.selection, view.take, tune)
        return
    if view.part == passive.PART:
        passive.draw(space, slug, view, now, picture)
        return
    for row, name in enumerate(now.ids):
        values = shown(space, now, row, now.rows[row], view)
        role = "bold" if name == view.selection else "plain"
        picture.add(f"bare-{name}", values, role, label=now.layout.driver(name).name, channel=name)
    if view.selection and view.selection not in now.takes:
        closer.add(space, picture, None, None, view.below, view.smoothing, view.gate_ms, view.lens)
    elif view.selection:
        subject, beside = closer.of_driver(space, slug, now, view.selection)
        older = take(space, slug, view.take) if view.take is not None else None
        older = older if older and older.purpose == "driver" else None
        closer.add(space, picture, subject, beside, view.below, view.smoothing, view.gate_ms, view.lens, older)
        if view.below == "angles":
            angles.of_driver(space, slug, picture, view.selection, view.smoothing)
        if view.gate_ms or view.lens.cycles >= 1:
            gated(space, picture, view, closer.gated_bare(space, now.takes[view.selection], view.gate_ms, view.lens))
    shown_takes.draw(space, slug, picture, view.selection, view.smoothing, view.below == "difference")
    if view.take is not None:
        _one_take(space, slug, view, now, picture)
        return
    force = now.forces.get(view.selection)
    if force and force.moving and force.moving.id != force.take.id:
        fixed = bare(space, force.take)
        values = np.where(np.isfinite(fixed), level(space, np.nan_to_num(fixed), view), np.nan)
        picture.add("fixed", values, "faint", label="at one spot", channel=view.selection)
    if force and force.moving:
        _confidence(space, now, view, force.moving, picture)


def _one_take(space: Workspace, slug: str, view: View, now: Scene, picture: Picture) -> None:
    """An older take of a driver beside the one in force, and what the two differ by."""
    assert view.take is not None
    one = take(space, slug, view.take)
    if one.purpose != "driver":
        return
    values = bare(space, one)
    picture.add(
        "older",
        np.where(np.isfinite(values), level(space, np.nan_to_num(values), view), np.nan),
        "compare",
        label=f"take {one.id}",
    )
    row = now.index(one.channels[0])
    if row is None or now.takes[one.channels[0]].id == one.id:
        return
    low, high = band(space, slug, one, now.forces)
    same = one.timed and one.clock == now.takes[one.channels[0]].clock
    found = agreement(values, np.where(now.known[row], now.rows[row], np.nan), space.grid, low, high, same)
    if found:
        picture.facts["agreement"] = Agrees(
            level_db=found.level_db, shape_db=found.shape_db, later_us=found.later_us, turned=found.turned
        )


def _confidence(space: Workspace, now: Scene, view: View, moving: Take, picture: Picture) -> None:
    """The 95 % confidence band of a moving-microphone take about its curve."""
    row = now.index(view.selection)
    if row is None or not moving.details.band_hz:
        return
    middle = shown(space, now, row, now.rows[row], view)
    half = np.interp(np.log(space.grid), np.log(moving.details.band_hz), moving.details.band_db)
    picture.add("sure-low", middle - half, "edge", channel=view.selection)
    picture.add("sure-high", middle + half, "edge", channel=view.selection)
    picture.facts["moving"] = {
        "averages": moving.details.averages,
        "change_db": moving.details.change_db,
        "band_db": float(np.median(moving.details.band_db)),
    }
