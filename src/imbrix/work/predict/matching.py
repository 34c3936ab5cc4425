"""Left against right as a moving microphone heard each of them, and bands that bring both together."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.predict.dips import bridge_cancellations
from imbrix.core.predict.fit import fit
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import SIDES, Layout, Side
from imbrix.core.tune.changes import differ_in_bands, differ_in_common
from imbrix.core.tune.edits import Edit, SetBands
from imbrix.core.tune.tune import Band, Channel, Tune, measuring
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.asked import FIT_SMOOTHING
from imbrix.work.takes.proofs import proofs
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take, through
from imbrix.work.tune.revisions import Head, commit, head

SIDES_HZ = (200.0, 8_000.0)
"""Where both sides are held against each other: below, the room decides; above, the smallest turn of a head."""
BANDS = 5
MOST_DB = 6.0
"""So much of a difference is brought together by one band at most, half of it on each side."""
GAIN_DB = 0.5
"""The gain stays so near to what both sides differ by in the mean."""
HEARD_DB = -20.0
"""A channel that lets less of a band pass than this, beside what it lets pass at most, does without it."""


@dataclass(frozen=True)
class Sides:
    """The newest recordings of each side by a moving microphone that the tune still goes with, and how often each side
    was recorded of a tune that differs from it in bands and gains only."""

    channels: dict[Side, tuple[str, ...]]
    takes: dict[Side, Take]
    rounds: dict[Side, int]

    @property
    def both(self) -> bool:
        """Whether both were recorded."""
        return len(self.takes) == len(SIDES)


@dataclass(frozen=True)
class Matched:
    """How far the sides are apart, in dB rms, what is expected after the edits, and the edits."""

    before_db: float
    after_db: float
    edits: tuple[Edit, ...]


def channels_of(layout: Layout) -> dict[Side, tuple[str, ...]]:
    """The drivers of each side of the main group; empty where one has none."""
    found = {
        side: tuple(one.id for one in layout.drivers if (one.group, one.side) == (layout.main, side)) for side in SIDES
    }
    return found if all(found.values()) else {}


def sides(space: Workspace, slug: str, tune: Tune) -> Sides | None:
    """What was recorded of each side for a tune; None where the main group has but one."""
    layout = space.layout(slug)
    channels = channels_of(layout)
    if not channels:
        return None
    kept: dict[Side, Take] = {}
    rounds: dict[Side, int] = {}
    heard = [one for one in proofs(space, slug) if one.levels_only]
    for side, names in channels.items():
        wanted = processors.playable(space, slug, measuring(tune, layout, set(names)))
        mine = [one for one in heard if set(one.channels) == set(names)]
        alike = [one for one in mine if differ_in_bands(through(space, one), wanted)]
        # What is common to all does the same to both sides.
        same = [one for one in alike if differ_in_common(through(space, one), wanted)]
        if same:
            kept[side] = same[0]
        rounds[side] = len(alike)
    return Sides(channels, kept, rounds)


def difference(space: Workspace, takes: dict[Side, Take]) -> FloatArray:
    """Left less right (n,) in dB, at 1/6 octave; NaN where one of them shows nothing."""
    shown = [reading(space, takes[side]).response for side in SIDES]
    known = np.isfinite(shown).all(axis=0)
    levels = [power_decibels(smooth_power(np.nan_to_num(one), space.grid, FIT_SMOOTHING)) for one in shown]
    return np.where(known, levels[0] - levels[1], np.nan)


def apart_db(space: Workspace, between: FloatArray) -> float:
    """The rms of a difference (n,) from 200 Hz to 8 kHz."""
    return float(np.sqrt(np.nanmean(between[span_mask(space.grid, *SIDES_HZ)] ** 2)))


def matched(space: Workspace, slug: str) -> Matched:
    """What would bring both sides together: bands of opposite gains, half on each side, so that their sum stays.

    Narrow dips of either side are left alone. Raises ConflictError where not both were recorded since they were set, or
    no band is free.
    """
    tune = head(space, slug).tune
    known = sides(space, slug, tune)
    if known is None:
        raise ConflictError("there are no two sides to be brought together")
    if not known.both:
        raise ConflictError("record both sides with a moving microphone first, each for itself, as they are set now")
    can = processors.model(space, slug)
    free = {side: tuple(one for one in mine if one not in tune.tied_bands) for side, mine in known.channels.items()}
    if not any(free.values()):
        raise ConflictError("the bands of both sides are tied: free those of a pair first, in Voice")
    count = min(BANDS, room(can.bands, tune, known))
    if count <= 0:
        raise ConflictError("the processor has no band left on some channel to bring both sides together")
    between = difference(space, known.takes)
    # A narrow dip of one side is left alone as one of the other is.
    asked = bridge_cancellations(-between, space.grid)
    asked = -bridge_cancellations(-asked, space.grid)
    # Bass and the highest treble, which are not judged, move with the gain alone.
    mean = float(np.clip(np.nanmean(asked[span_mask(space.grid, *SIDES_HZ)]), -MOST_DB, MOST_DB))
    limits = FitLimits(
        count=count,
        boost_db=min(MOST_DB, 2 * can.band_gain_db.most),
        cut_db=min(MOST_DB, -2 * can.band_gain_db.least),
        least_q=max(0.5, can.q.least),
        most_q=min(6.0, can.q.most),
        low_hz=SIDES_HZ[0],
        high_hz=SIDES_HZ[1],
        least_gain_db=mean - GAIN_DB,
        most_gain_db=mean + GAIN_DB,
    )
    found = fit(asked, space.grid, limits, can.rate, thorough=True)
    predictor = space.predictor_at(can.rate)
    edits: list[Edit] = []
    moves = np.zeros(space.grid.size)
    for side, sign in zip(SIDES, (0.5, -0.5), strict=True):
        bands = tuple(one.model_copy(update={"gain_db": round(sign * one.gain_db, 1)}) for one in found.bands)
        gain = round(sign * found.gain_db, 1)
        moves += np.sign(sign) * (decibels(predictor.channel(Channel(bands=bands))) + gain)
        for name in free[side]:
            channel = tune.channels[name]
            level = decibels(predictor.channel(channel))
            passes = level - level.max()
            mine = tuple(one for one in bands if _at(passes, space.grid, one) > HEARD_DB)
            wanted = min(max(channel.gain_db + gain, can.gain_db.least), can.gain_db.most)
            edits.append(SetBands(channel=name, bands=(*channel.bands, *mine), gain_db=wanted))
    return Matched(apart_db(space, between), apart_db(space, between + moves), tuple(edits))


def _at(levels: FloatArray, grid: FloatArray, band: Band) -> float:
    return float(np.interp(np.log(band.frequency_hz), np.log(grid), levels))


def room(most: int, tune: Tune, known: Sides) -> int:
    """How many bands are free on every channel of both sides."""
    names = [name for mine in known.channels.values() for name in mine]
    return most - len(tune.common) - max(len(tune.channels[name].bands) for name in names)


def match_sides(space: Workspace, slug: str) -> Head:
    """Bring both sides together, as one revision. Raises as `matched` does."""
    on = head(space, slug).id
    found = matched(space, slug)
    summary = f"Sides matched: {found.before_db:.1f} dB rms apart to {found.after_db:.1f}"
    return commit(space, slug, list(found.edits), summary, on)
