"""The range of what is shown: the same view drawn from every other place of the microphone, and what lies between."""

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.spots import in_common, require_time, spots_of
from imbrix.work.takes.forces import counts_at
from imbrix.work.takes.reading import bare, sick
from imbrix.work.takes.shelf import Take
from imbrix.work.views.facts import Ranges
from imbrix.work.views.picture import Curve, Picture
from imbrix.work.views.request import View

ROLES = {"bold", "plain", "sum", "predicted", "side-left", "side-right", "edge"}
"""What a range is shown of."""
MOST = 6
"""So many further takes of a driver are looked at, the newest first."""
Drawer = Callable[[Workspace, str, View, Tune, Scene, Picture], None]


def add(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture, draw: Drawer) -> None:
    """Add to every curve of a picture the least and the most (n,) of it that any take shows, with the figures' ranges.

    In Drivers these are all takes of each driver by a fixed microphone, elsewhere what all of them give together at
    each place at which all were recorded. `draw` is what made the picture.
    """
    alone = view.stage == "drivers"
    found = list(_repeats(space, now) if alone else _places(space, now))
    says = _says(space, now, alone, len(found))
    if not found:
        picture.facts["ranges"] = Ranges(says=says)
        return
    plain = view.model_copy(update={"ranged": False, "below": "", "take": view.take if view.stage == "proof" else None})
    drawn = [picture]
    for one in found:
        other = Picture()
        draw(space, slug, plain, tune, one, other)
        drawn.append(other)
    for curve in [one for one in picture.curves if one.role in ROLES and one.pane == "main"]:
        rows = [values for each in drawn if (values := _values(each, curve)) is not None]
        if len(rows) < 2:
            continue
        stacked = np.array(rows)
        if not np.ptp(np.nan_to_num(stacked), axis=0).any():
            continue  # what was measured of the whole is the same from everywhere
        role, more = f"range-{curve.role}", {"channel": curve.channel}
        picture.add(f"{curve.id}:least", _least(stacked), role, **more)
        picture.add(f"{curve.id}:most", -_least(-stacked), role, **more)
    ranges = Ranges(says=says)
    facts = [each.facts for each in drawn]
    if losses := [loss["mean"] for one in facts if (loss := one.get("loss"))]:
        ranges["loss"] = (min(losses), max(losses))
    if strays := [one["deviation"]["plus_minus"] for one in facts if "deviation" in one]:
        ranges["plus_minus"] = (min(strays), max(strays))
    picture.facts["ranges"] = ranges


def _least(stacked: FloatArray) -> FloatArray:
    """The least of each column, NaN where there is none."""
    least = np.where(np.isfinite(stacked), stacked, np.inf).min(axis=0)
    return np.where(np.isfinite(least), least, np.nan)


def _values(picture: Picture, like: Curve) -> FloatArray | None:
    return next((one.values for one in picture.curves if one.id == like.id and one.pane == like.pane), None)


def _heard(space: Workspace, now: Scene, takes: dict[str, Take]) -> Scene:
    """A scene with other takes of some drivers in the place of those in force."""
    rows = [bare(space, takes[name]) if name in takes else now.rows[n] for n, name in enumerate(now.ids)]
    stacked = np.array(rows, dtype=complex).reshape(now.rows.shape)
    known = np.isfinite(stacked) & (now.known | np.array([[name in takes] for name in now.ids]))
    return replace(now, rows=np.where(known, stacked, 0.0), known=known, takes={**now.takes, **takes}, forces={})


def _places(space: Workspace, now: Scene) -> Iterator[Scene]:
    """What each further place hears at which all drivers were recorded in time."""
    try:
        require_time(now)
    except ConflictError:
        return
    spots = spots_of(space, now, timed=True)
    for place in in_common(now, spots)[1:]:
        yield _heard(space, now, {name: spots[name][place] for name in now.ids})


def _repeats(space: Workspace, now: Scene) -> Iterator[Scene]:
    """Further takes of each driver by a fixed microphone, wherever that was: the newest of all, the next newest ..."""
    others: dict[str, list[Take]] = {name: [] for name in now.ids}
    for one in now.known_takes:
        if counts_at(one) is None or sick(space, one):
            continue
        name = one.channels[0]
        if name in others and one.id != now.takes[name].id:
            others[name].append(one)
    for n in range(min(MOST, max(map(len, others.values()), default=0))):
        yield _heard(space, now, {name: found[n] for name, found in others.items() if n < len(found)})


def _says(space: Workspace, now: Scene, alone: bool, count: int) -> str:
    if count:
        return f"shaded: up to {count + 1} takes of each driver" if alone else f"shaded: {count + 1} places"
    if alone:
        return "no range: one take of each; record them once more, or at a further spot"
    try:
        require_time(now)
    except ConflictError as error:
        return f"no range: {error}"
    return "no range: one place; record all drivers at a further spot of the head"
