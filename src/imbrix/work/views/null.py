"""What tells of polarity at a seam: the null that was recorded with the upper way inverted, and the first movements."""

import numpy as np

from imbrix.core.predict.seam import stretch
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.system.layout import Seam
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.takes.reading import onset_of, reading, sick
from imbrix.work.takes.shelf import Purpose, Take, takes, through
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View, level

SMOOTHING = 6.0
UNSURE_DB = 3.0
"""A difference in the mean below this does not say which polarity is right (common practice, no source)."""


def add(
    space: Workspace,
    slug: str,
    view: View,
    now: Scene,
    seam: Seam,
    tune: Tune,
    sides: tuple[ComplexArray, ComplexArray],
    picture: Picture,
) -> None:
    """Add the latest null of a seam, and what it and the first movements say of the polarity that is set."""
    said = _by_pulse(space, slug, now, seam, tune)
    if said:
        picture.facts["pulse_says"] = said
    one = latest(space, slug, seam, "null")
    if one is None:
        return
    known = np.nan_to_num(reading(space, one).response)
    picture.add("null", level(space, known, view), "null", label="inverted, measured")
    if not _of_this(through(space, one), tune, seam, inverted=True):
        picture.facts["null_says"] = "the null was recorded with other settings: record it anew"
        return
    where = stretch(*sides, space.grid)
    if where is None:
        return
    # What was measured as it is set says more than what is predicted, where there is such a take.
    proof = latest(space, slug, seam, "proof")
    measured = proof is not None and _of_this(through(space, proof), tune, seam, inverted=False)
    adds = np.nan_to_num(reading(space, proof).response) if proof and measured else sides[0] + sides[1]
    deep = (smooth_db(adds, space.grid, SMOOTHING) - smooth_db(known, space.grid, SMOOTHING))[where]
    at, mean = int(np.argmax(deep)), float(deep.mean())
    picture.facts["null"] = {
        "depth_db": float(deep[at]),
        "hz": float(space.grid[where][at]),
        "mean_db": mean,
        "right": None if abs(mean) < UNSURE_DB else mean > 0,
    }


def latest(space: Workspace, slug: str, seam: Seam, purpose: Purpose) -> Take | None:
    """The latest take of a seam's drivers together, as they are set or inverted, that can be read."""
    members = {*seam.lowers, *seam.uppers}
    for one in takes(space, slug):
        if one.purpose == purpose and not one.discarded and set(one.channels) == members and not sick(space, one):
            return one
    return None


def _of_this(held: Tune, tune: Tune, seam: Seam, inverted: bool) -> bool:
    """Whether a take went through what is set now, the upper way as it is or `inverted`."""
    for names, turned in ((seam.lowers, False), (seam.uppers, inverted)):
        for name in names:
            was, now = (one.channels[name].model_copy(update={"muted": False}) for one in (held, tune))
            if was != now.model_copy(update={"inverted": now.inverted != turned}):
                return False
    return held.common == tune.common


def _by_pulse(space: Workspace, slug: str, now: Scene, seam: Seam, tune: Tune) -> str:
    """Which way both move first through a tune; empty where that is not known."""
    signs: list[set[int]] = []
    for names in (seam.lowers, seam.uppers):
        found = [(name, onset_of(space, slug, now.takes[name])) for name in names if name in now.ids]
        signs.append(
            {
                -one.polarity if tune.channels[name].inverted else one.polarity
                for name, one in found
                if one and one.likely
            }
        )
        if len(signs[-1]) != 1:
            return ""
    return "by pulse both move the same way first" if signs[0] == signs[1] else "by pulse they move against each other"
