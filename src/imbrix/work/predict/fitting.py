"""Fitting channels, pairs and the whole to the target; each fit is one revision."""

from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from imbrix.core.errors import ConflictError, ImbrixError
from imbrix.core.predict.dips import part_filled
from imbrix.core.predict.fit import FEW, Fit, fit
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.headroom import lifted_db
from imbrix.core.signal.signal import FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.changes import differ_in_common
from imbrix.core.tune.edits import Edit, SetBands, SetTarget, ShiftGains
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Band, Channel, Tune, measuring
from imbrix.work.ground import processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.asked import (
    FIT_SMOOTHING,
    ONE_PLACE,
    LeftAlone,
    asked_of,
    found_for,
    over_places,
    stretches,
)
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.predict.spots import all_at_spots, require_time
from imbrix.work.takes.bands import band
from imbrix.work.takes.proofs import of_the_whole
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take, through
from imbrix.work.tune.revisions import Head, commit, head
from imbrix.work.tune.targets import placed

COMMON_HZ = (30.0, 18_000.0)
MOST_BANDS = 10


@dataclass(frozen=True)
class Fitted:
    """The revision that a fit made, what it found, the span in hertz that it judged, what it left alone, and the places
    of the microphone that it went by, where those are several."""

    head: Head
    gain_db: float
    residual_db: float
    boost_db: float
    bands: int
    span_hz: tuple[float, float]
    left: tuple[LeftAlone, ...]
    places: tuple[str, ...] = ()


@dataclass(frozen=True)
class Measured:
    """A fit to a take of the whole, its limits, what it left alone, and the levels (n,) that are expected after it."""

    take: Take
    fit: Fit
    limits: FitLimits
    left: tuple[LeftAlone, ...]
    after_db: FloatArray


def fit_channels(
    space: Workspace,
    slug: str,
    channels: tuple[str, ...],
    limits: FitLimits,
    like: str | None = None,
    places: bool = False,
) -> Fitted:
    """Fit gain and bands of one channel, or one set of bands and gain for several alike (left and right together).

    To the target, or to what another channel does, `like` its partner on the other side; as the take in force shows
    it, or the mean of all `places` that each of them was recorded at. All-passes stay. Raises NotHereError,
    ConflictError where a channel has no take yet, or was recorded at one place only. One whose bands are tied to its
    partner's is fitted with it.
    """
    now = scene(space, slug, spatial=not places)
    present = head(space, slug)
    if len(channels) == 1 and channels[0] in present.tune.tied_bands and like is None:
        channels = tuple(one.id for one in now.layout.alike(now.layout.driver(channels[0])))
    can = processors.model(space, slug)
    within = _within(can, limits, present.tune, channels)
    asked = asked_of(space, slug, now, present.tune, channels, within, like, places)
    found, left = found_for(space, asked, can.rate)
    names = " and ".join(now.layout.driver(name).name for name in channels)
    edits: list[Edit] = [
        SetBands(channel=name, bands=(*present.tune.channels[name].all_passes, *found.bands), gain_db=found.gain_db)
        for name in channels
    ]
    to = f" to {now.layout.driver(like).name}" if like else ""
    summary = f"Fit {names}{to}{_over(asked.places)}: {len(found.bands)} bands"
    return _commit(space, slug, edits, found, left, asked.limits, summary, present.id, asked.places)


def _over(places: tuple[str, ...]) -> str:
    return f" over {len(places)} places" if places else ""


EXPECTED: Drawer[tuple[object, ...], tuple[float, tuple[Band, ...]]] = Drawer("expected fits", 256)


def expected(space: Workspace, slug: str, now: Scene, tune: Tune) -> Tune:
    """The tune as it is to be expected once its channels are fitted: those that are not yet get gain and bands.

    `now` shows what the place as a whole hears. A channel whose gain or bands were set stays as it is.
    """
    can = processors.model(space, slug)
    kept = can.model_dump_json()
    target = placed(space, slug, tune)
    for name in now.ids:
        channel = tune.channels[name]
        if channel.voiced:
            continue

        force = now.forces[name]
        heard = [one for one in (force.take, force.moving) if one is not None]
        takes_here = tuple((one.id, one.details.correction) for one in heard)
        usable = band(space, slug, force.take, now.forces)  # an impedance tells more of it
        room = _within(can, FitLimits(), tune, (name,)).count  # an all-pass takes room, and changes no level
        key = (slug, takes_here, usable, channel.high_pass, channel.low_pass, room, target.tobytes(), kept)
        gain, bands = space.memory.of(EXPECTED, key, partial(_found, space, slug, now, tune, name))
        tune = tune.with_channel(name, gain_db=gain, bands=(*channel.bands, *bands))
    return tune


def _found(space: Workspace, slug: str, now: Scene, tune: Tune, name: str) -> tuple[float, tuple[Band, ...]]:
    """Gain and bands that a fit of one channel would find; nothing where there is nothing to fit."""
    can = processors.model(space, slug)
    try:
        asked = asked_of(space, slug, now, tune, (name,), _within(can, FitLimits(), tune, (name,)))
        found, _ = found_for(space, asked, can.rate)
    except ImbrixError:
        return 0.0, ()
    return found.gain_db, found.bands


def fit_common(space: Workspace, slug: str, limits: FitLimits, places: bool = False) -> Fitted:
    """Fit the correction common to all channels, and a shift of all gains, to the predicted whole: as the scene hears
    it, or as the mean of all `places` at which every driver was recorded does.

    Raises ConflictError where there is no take, or nothing plays; with `places` as `require_time` does, and where there
    is but one.
    """
    now = scene(space, slug, spatial=not places)
    if not now.ids:
        raise ConflictError("there is no take yet: record the drivers first")
    present = head(space, slug)
    tune = present.tune
    can = processors.model(space, slug)
    limits = _of_all(can, limits, tune)
    plain = tune.model_copy(update={"common": ()})
    rows, spots = now.rows[None], tuple[str, ...]()
    if places:
        require_time(now)
        rows, spots = all_at_spots(space, now)
        if len(spots) < 2:
            raise ConflictError(ONE_PLACE)
    wholes = np.array([_sum_db(space, replace(now, rows=row), plain) for row in rows])
    if not np.isfinite(wholes).any() or wholes.max() < -100:
        raise ConflictError("all channels are muted: there is nothing to fit")
    known = now.known.any(axis=0)
    corrections = np.where(known, placed(space, slug, tune) - wholes, np.nan)
    asked = over_places(corrections, np.zeros(space.grid.size), limits, spots)
    lifted = lifted_db(tune, space.predictor_at(can.rate))
    found, left = found_for(space, asked, can.rate, thorough=True, lifted=lifted)
    edits: list[Edit] = [SetBands(channel=None, bands=found.bands), ShiftGains(by_db=found.gain_db)]
    summary = f"Fit all channels{_over(spots)}: {len(found.bands)} common bands"
    return _commit(space, slug, edits, found, left, limits, summary, present.id, spots)


def last_whole(space: Workspace, slug: str, tune: Tune) -> Take | None:
    """The newest recording of the whole by a moving microphone that a tune goes with: it was made of that tune, but for
    what is common to all channels. None where there is none."""
    layout = space.layout(slug)
    wanted = processors.playable(space, slug, measuring(tune, layout, set(tune.channels)))
    return next(
        (one for one in of_the_whole(space, slug) if one.levels_only and differ_in_common(through(space, one), wanted)),
        None,
    )


def measured_common(space: Workspace, slug: str, limits: FitLimits) -> Measured:
    """What a fit of the common correction to a recording of the whole would set. Nothing is kept.

    Raises ConflictError where no moving microphone has recorded the whole since its channels were set.
    """
    tune = head(space, slug).tune
    one = last_whole(space, slug, tune)
    if one is None:
        raise ConflictError(
            "record the whole with a moving microphone first, with its channels as they are set now: one spot shows "
            "dips that belong to it alone"
        )
    went = through(space, one)
    can = processors.model(space, slug)
    predictor = space.predictor_at(can.rate)
    shown = reading(space, one).response
    heard = power_decibels(smooth_power(np.nan_to_num(shown), space.grid, FIT_SMOOTHING)) + space.offset_db
    # What was recorded, bare of the common correction that it went through, and at the gains that stand now.
    was = decibels(predictor.channel(Channel(bands=went.common)))
    shift = float(np.mean([tune.channels[name].gain_db - went.channels[name].gain_db for name in one.channels]))
    bare = np.where(np.isfinite(shown), heard - was + shift, np.nan)
    asked = placed(space, slug, tune) - bare
    limits = _of_all(can, limits, tune)
    wanted = part_filled(asked, space.grid, limits.boost_db)
    lifted = lifted_db(tune, predictor)
    found = fit(wanted, space.grid, limits, can.rate, thorough=True, lifted_db=lifted)
    after = bare + decibels(predictor.channel(Channel(bands=found.bands))) + found.gain_db
    inside = (space.grid >= limits.low_hz) & (space.grid <= limits.high_hz)
    lacks = np.where(inside, np.nan_to_num(asked - wanted), 0.0)
    left = stretches(space.grid, lacks, "a dip of the place, filled as far as may be")
    return Measured(one, found, limits, tuple(left), after)


def fit_measured(space: Workspace, slug: str, limits: FitLimits) -> Fitted:
    """Fit the common correction, and a shift of all gains, to what a moving microphone heard of the whole.

    Raises as `measured_common` does.
    """
    present = head(space, slug)
    found = measured_common(space, slug, limits)
    # No gain rises above nought for this: what would, the target comes down by.
    highest = max(channel.gain_db for channel in present.tune.channels.values())
    over = max(0.0, highest + found.fit.gain_db - max(0.0, highest))
    edits: list[Edit] = [SetBands(channel=None, bands=found.fit.bands), ShiftGains(by_db=found.fit.gain_db - over)]
    if over:
        edits.append(SetTarget(level_db=present.tune.target.level_db - over))
    summary = f"Fit all channels as take {found.take.id} measured them: {len(found.fit.bands)} common bands"
    return _commit(space, slug, edits, found.fit, found.left, found.limits, summary, present.id)


def _sum_db(space: Workspace, now: Scene, tune: Tune) -> np.ndarray:
    whole = whole_power(now, space.grid, predicted(space, now, tune), tune, FIT_SMOOTHING)
    return power_decibels(whole) + space.offset_db


def _of_all(can: Limits, limits: FitLimits, tune: Tune) -> FitLimits:
    """The limits of a fit of what is common to all: no gain leaves its range, no band goes where nobody hears it."""
    gains = [channel.gain_db for channel in tune.channels.values()]
    return _within(can, limits, tune).model_copy(
        update={
            "least_gain_db": can.gain_db.least - min(gains),
            "most_gain_db": can.gain_db.most - max(gains),
            "low_hz": max(limits.low_hz, COMMON_HZ[0]),
            "high_hz": min(limits.high_hz, COMMON_HZ[1]),
        }
    )


def share(can: Limits) -> int:
    """How many bands a fit sets where nobody says: half of a processor's, so that as many are left for what is common
    to all; never so many that it follows every ripple."""
    return min(MOST_BANDS, max(can.bands // 2, FEW))


def _within(can: Limits, limits: FitLimits, tune: Tune, channels: tuple[str, ...] = ()) -> FitLimits:
    """The limits of the fit of some channels, or else of what is common to all, narrowed to the processor's."""
    if channels:
        taken = len(tune.common) + max(
            (len(tune.channels[name].all_passes) for name in channels if name in tune.channels), default=0
        )
    else:
        taken = max(len(channel.bands) for channel in tune.channels.values())
    return limits.model_copy(
        update={
            "count": max(0, min(share(can) if limits.count is None else limits.count, can.bands - taken)),
            "boost_db": min(limits.boost_db, can.band_gain_db.most),
            "cut_db": min(limits.cut_db, -can.band_gain_db.least),
            "least_q": max(limits.least_q, can.q.least),
            "most_q": min(limits.most_q, can.q.most),
            "least_gain_db": can.gain_db.least,
            "most_gain_db": can.gain_db.most,
        }
    )


def _commit(
    space: Workspace,
    slug: str,
    edits: list[Edit],
    found: Fit,
    left: tuple[LeftAlone, ...],
    limits: FitLimits,
    summary: str,
    on: int,
    places: tuple[str, ...] = (),
) -> Fitted:
    made = commit(space, slug, edits, summary, on)
    span = (limits.low_hz, limits.high_hz)
    return Fitted(made, found.gain_db, found.residual_db, found.boost_db, len(found.bands), span, left, places)
