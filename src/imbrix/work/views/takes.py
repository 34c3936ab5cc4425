"""The takes of a driver that are shown beside the one in force."""

import numpy as np

from imbrix.core.signal.signal import FloatArray
from imbrix.core.signal.smoothing import Fraction, smooth_db
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.forces import forces
from imbrix.work.takes.looks import looks, shown
from imbrix.work.takes.reading import bare
from imbrix.work.takes.shelf import Take
from imbrix.work.views.picture import Picture


def draw(space: Workspace, slug: str, picture: Picture, channel: str, smoothing: Fraction, difference: bool) -> None:
    """Add the shown takes of a driver in their colours; below, how each differs from the one in force."""
    now = looks(space, slug)
    found = forces(space, slug).get(channel)
    for one in shown(space, slug, channel):
        if found is None or one.id == found.take.id:
            continue
        values = _smoothed(space, one, smoothing) + now[one.id].offset_db
        label = f"take {one.id}" + (f" {now[one.id].offset_db:+.1f} dB" if now[one.id].offset_db else "")
        role = f"look-{now[one.id].colour}"
        picture.add(f"take-{one.id}", values + space.offset_db, role, label=label)
        if difference:
            apart = values - _smoothed(space, found.take, smoothing)
            picture.add(f"apart-{one.id}", apart, role, pane="lower", label=f"take {one.id} − take {found.take.id}")


def _smoothed(space: Workspace, one: Take, smoothing: Fraction) -> FloatArray:
    values = bare(space, one)
    known = np.isfinite(values)
    return np.where(known, smooth_db(np.where(known, values, 0), space.grid, smoothing), np.nan)
