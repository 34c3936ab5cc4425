"""What Source shows: each feed as it comes, faint, and with what its input does, bold; or how feeds sum."""

import numpy as np

from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.source.straighten import summing
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.source import feeds, undo
from imbrix.work.views import bands
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View

FEED = "feeds-"
"""What the part that shows the bands of one input begins with; its number follows."""
ALIGNED_DB = 20 * np.log10(2)


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    there = feeds.feeds(space, slug)
    if not there:
        return
    after = {number: undo.after(space, slug, one, tune) for number, one in there.items()}
    if view.part.startswith("sum"):
        pairs = feeds.pairs(there)
        for first, second in [one for one in pairs if view.part == f"sum-{one[0]}-{one[1]}"] or pairs[:1]:
            name = feeds.named(there[first], there[second])
            before = summing(there[first].response, there[second].response)
            picture.add(f"before-{first}-{second}", before, "sum-faint")
            picture.add(f"sum-{first}-{second}", summing(after[first], after[second]), "sum", label=name)
        picture.add("aligned", np.full(space.grid.size, ALIGNED_DB), "target", label="aligned: 6 dB")
        return
    _bands(space.predictor_at(now.rate), view.part, tune, picture)
    for number, one in there.items():
        role = f"feed-{one.meant.group}-{one.meant.side}"
        known = np.isfinite(one.response)
        before, does = (
            np.where(known, smooth_db(np.where(known, values, 0), space.grid, view.smoothing), np.nan)
            + feeds.raised_db(one, there.values())
            for values in (one.response, after[number])
        )
        changed = bool(np.nanmax(np.abs(does - before)) > 0.01)
        if changed:
            picture.add(f"comes-{number}", before, f"{role}-faint")
        picture.add(f"feed-{number}", does, role, label=one.meant.name)


def _bands(predictor: Predictor, part: str, tune: Tune, picture: Picture) -> None:
    """What the bands of the input that is looked at do, each and together, below the feeds."""
    number = part.removeprefix(FEED)
    if number == part or not number.isdecimal() or not 0 < int(number) <= len(tune.inputs):
        return
    together = bands.add(predictor, picture, tune.inputs[int(number) - 1].bands)
    picture.add("correction", decibels(together), "correction", pane="lower")
