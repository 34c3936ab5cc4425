"""Takes by angle: how a driver, or the sum at a seam, falls off the axis."""

from collections.abc import Sequence

import numpy as np

from imbrix.core.look.directivity import fan, over_axis
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.signal.smoothing import Fraction, smooth_db
from imbrix.core.system.layout import Seam
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.forces import forces
from imbrix.work.takes.reading import bare
from imbrix.work.takes.shelf import Take, takes
from imbrix.work.views.picture import MAP_EVERY, Picture, ticks

FLOOR_DB = -24.0
EXPLAINS = (
    "Level over angle, over that on the axis. Good: falls evenly to the top and alike to both sides, without steps."
)
LACKING = "takes at two angles at least are needed: set the angle beside Record and take the driver again"


def by_angle(space: Workspace, slug: str, channel: str) -> dict[float, Take]:
    """The latest take of a driver at each angle, from left to right; the one in force stands for the axis."""
    found: dict[float, Take] = {}
    for one in takes(space, slug):
        if one.purpose == "driver" and not one.discarded and one.channels == (channel,) and one.details.angle:
            found.setdefault(one.details.angle, one)
    in_force = forces(space, slug).get(channel)
    if in_force is not None and not in_force.take.levels_only:
        found[0.0] = in_force.take
    return dict(sorted(found.items()))


def of_driver(space: Workspace, slug: str, picture: Picture, channel: str, smoothing: Fraction) -> None:
    """Add the family of a driver's curves by angle and, below, the map of level over angle and frequency."""
    picture.facts["explains"] = EXPLAINS
    family = by_angle(space, slug, channel)
    if len(family) < 2:
        picture.facts["lacking"] = LACKING
        return
    curves = np.array([np.nan_to_num(bare(space, one)) for one in family.values()])
    known = np.array([np.isfinite(bare(space, one)) for one in family.values()])
    _draw(space, picture, list(family), curves, known, channel, smoothing)


def of_seam(space: Workspace, slug: str, picture: Picture, seam: Seam, tune: Tune, smoothing: Fraction) -> None:
    """Add how the sum at a seam comes out at each angle that all its drivers were taken at, with the tune's settings.

    Takes of different drivers at one angle add in phase only if one clock kept their time.
    """
    picture.facts["explains"] = EXPLAINS
    members = (*seam.lowers, *seam.uppers)
    families = {name: by_angle(space, slug, name) for name in members}
    angles = sorted(set.intersection(*(set(family) for family in families.values())))
    if len(angles) < 2:
        picture.facts["lacking"] = "all drivers of this seam need takes at the same two angles at least"
        return
    sums, knowns = [], []
    for angle in angles:
        rows = [bare(space, families[name][angle]) for name in members]
        through = processors.predictor(space, slug).through(tune, members)
        sums.append(np.sum(np.nan_to_num(np.array(rows)) * through, axis=0))
        knowns.append(np.any(np.isfinite(np.array(rows)), axis=0))
    _draw(space, picture, angles, np.array(sums), np.array(knowns), members[0], smoothing)
    clocks = {families[name][angle].clock for name in members for angle in angles}
    if len(clocks) > 1 or "" in clocks:
        picture.facts["angles_say"] = (
            "not all of these takes were timed by one clock: their sum is no more than a guess"
        )


def _draw(
    space: Workspace,
    picture: Picture,
    angles: Sequence[float],
    curves: ComplexArray,
    known: np.ndarray,
    channel: str,
    smoothing: Fraction,
) -> None:
    levels = np.array([smooth_db(one, space.grid, smoothing) for one in curves])
    for angle, level, there in zip(angles, levels, known, strict=True):
        if angle:
            shown = np.where(there, level + space.offset_db, np.nan)
            picture.add(f"angle-{angle:g}", shown, "angle", label=f"{angle:g}°", channel=channel)
    degrees = np.array(angles)
    all_known = known.all(axis=0)
    apart = np.where(all_known, over_axis(_as_ratio(levels), degrees), FLOOR_DB)
    even, map_levels = fan(apart[:, ::MAP_EVERY], degrees)
    picture.add("map", np.clip(map_levels, FLOOR_DB, 6.0).ravel(), "map", pane="map", x=even)
    picture.facts["map"] = {
        "rows": int(even.size),
        "columns": int(space.grid[::MAP_EVERY].size),
        "every": MAP_EVERY,
        "unit": "°",
        "floor": FLOOR_DB,
        "ticks": ticks(float(even[0]), float(even[-1])),
    }


def _as_ratio(levels: FloatArray) -> ComplexArray:
    return np.asarray(10 ** (levels / 20), dtype=complex)
