"""What the passive bench shows: each way through its ladder and the sum above, what the amplifier sees below."""

import numpy as np

from imbrix.core.errors import ImbrixError
from imbrix.core.passive import search as searched
from imbrix.core.passive.network import load
from imbrix.core.signal.signal import decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance.impedance import curves
from imbrix.work.predict.known import Scene
from imbrix.work.predict.passive import EVERY, behind, bench, scene_of
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View

PART = "passive"


def draw(space: Workspace, slug: str, view: View, now: Scene, picture: Picture) -> None:
    """Add the curves of the bench that is kept; nothing where there is none, or where it cannot be reckoned."""
    kept = bench(space, slug)
    if kept is None:
        return
    try:
        scene = scene_of(space, slug, kept, every=1)
        seen = load(kept.network, scene.ohms, scene.frequencies)
    except ImbrixError:
        return
    grid, offset = space.grid, space.offset_db
    sounds = searched.heard(scene, kept.network)
    whole = np.sum(list(sounds.values()), axis=0)
    level = searched.level(scene, kept.network) + offset
    for name, one in sounds.items():
        driver = now.layout.driver(name)
        bare = smooth_db(scene.bare[name], grid, view.smoothing) + offset
        picture.add(f"bare-{name}", bare, "faint", channel=name)
        picture.add(f"own-{name}", _above(scene.own_db[name] + level, level - 30), "own-target", channel=name)
        sounds_db = smooth_db(one, grid, view.smoothing) + offset
        picture.add(f"way-{name}", sounds_db, "bold", label=driver.name, channel=name)
    if len(sounds) > 1:
        coarse = scene_of(space, slug, kept)
        low, high, _ = searched.tolerance(coarse, kept.network, kept.percent)
        plain = decibels(np.abs(whole))[::EVERY]
        total = smooth_db(whole, grid, view.smoothing)
        for which, edge in (("low", low), ("high", high)):
            moved = np.interp(np.log(grid), np.log(coarse.frequencies), edge - plain)
            picture.add(f"sure-{which}", total + moved + offset, "edge")
        picture.add("sum", total + offset, "sum", label="sum")
    picture.add("target", scene.sum_db + level, "target", label="target")
    picture.add("load", np.abs(seen), "bold-sum", pane="lower", label="the amplifier sees")
    later = behind(space, slug, kept)
    if later is not None:
        jig = np.abs(curves(space, later).on(grid))
        picture.add("measured", jig, "measured", pane="lower", label="measured behind it")
    for name in sounds:
        label = now.layout.driver(name).name
        picture.add(f"ohms-{name}", np.abs(scene.ohms[name]), "faint", pane="lower", label=label, channel=name)
    picture.add("allowed", np.full(grid.size, scene.least_ohm), "own-target", pane="lower", label="allowed")


def _above(values: np.ndarray, floor: float) -> np.ndarray:
    return np.where(values > floor, values, np.nan)
