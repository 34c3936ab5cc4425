"""What a fit is to do: what is wanted less what is heard, by the takes in force or at all places, and the dips that it
leaves alone."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.predict.dips import bridge_cancellations, without_dips
from imbrix.core.predict.fit import Fit, fit
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.tune import Tune
from imbrix.core.value import Value
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import acoustic_target, predicted
from imbrix.work.predict.spots import Spots, spots_of
from imbrix.work.takes.bands import band
from imbrix.work.takes.reading import bare, place_dips
from imbrix.work.takes.shelf import Take

FIT_SMOOTHING = 6.0
TOLD_DB = 1.5
HALF = 0.5
"""So much of what a dip lacks, where it was heard all round the head, is filled: it is half the place's."""
ROUND = 3
"""From so many places on a dip of their mean is one of the place as a whole."""
LEAST_SPAN = 2**0.5
"""Half an octave: over less there is nothing to fit."""
MOVES_DB = 4.0
"""A dip that is so much deeper at one place than in the mean of all is said to move with the microphone."""
ONE_PLACE = "what is fitted has one place of the microphone in common: name another in the Rig, and record it there too"


class LeftAlone(Value):
    """A dip that a fit did not fill: no boost does. `deep_db` is how much of it was left."""

    hertz: float
    deep_db: float
    why: str


@dataclass(frozen=True)
class Asked:
    """What a fit of channels is to do (n,), the dips of the place (n,), and the limits with the span that is judged.

    Over several places that is what their mean asks for, and `spread` what each of them does.
    """

    wanted: FloatArray
    dips: FloatArray
    limits: FitLimits
    spread: "Spread | None" = None

    @property
    def places(self) -> tuple[str, ...]:
        return self.spread.places if self.spread else ()


@dataclass(frozen=True)
class Spread:
    """What each of several places (p,) asks for (p, n), in dB; NaN where one shows nothing."""

    places: tuple[str, ...]
    wanted: FloatArray

    def dips(self, grid: FloatArray, mean: FloatArray, limits: FitLimits) -> list[LeftAlone]:
        """What one place lacks beside the mean (n,): it is left alone."""
        inside = (grid >= limits.low_hz) & (grid <= limits.high_hz)
        found: list[LeftAlone] = []
        for place, wanted in zip(self.places, self.wanted, strict=True):
            beyond = np.where(inside, np.nan_to_num(wanted - mean), 0.0)
            why = f"a dip that moves with the microphone: it is that of {place}"
            found += stretches(grid, beyond, why, MOVES_DB)
        return found


def asked_of(
    space: Workspace,
    slug: str,
    now: Scene,
    tune: Tune,
    channels: tuple[str, ...],
    limits: FitLimits,
    like: str | None = None,
    places: bool = False,
) -> Asked:
    """What a fit of channels, in a scene that is heard by the place as a whole, or at each of its `places`, is to do.

    Raises NotHereError, ConflictError where a channel has no take yet, or there is nothing to fit.
    """
    for name in channels:
        now.layout.driver(name)
    plain = _stripped(tune, channels).model_copy(update={"common": ()})
    takes = spots_of(space, now) if places else {}
    spots = _common(takes, channels) if places else ()
    levels, wanted, dips, lows, highs = [], [], [], [], []
    for name in channels:
        if name not in now.ids:
            raise ConflictError(f"{now.layout.driver(name).name} has no take yet: record it in Drivers first")
        target, low, high = acoustic_target(space, slug, tune, now.layout.driver(name))
        if like is not None:
            target = _level_of(space, slug, now, tune, like)
        low, high = _useful((low, high), band(space, slug, now.takes[name], now.forces))
        lows.append(max(low, limits.low_hz))
        highs.append(min(high, limits.high_hz))
        levels.append(_levels(space, now, plain, name, [takes[name][spot] for spot in spots]))
        wanted.append(target)
        # What was heard at one spot only is bare of that spot's combs; over a tour, or places, they go by themselves.
        at_a_spot = now.forces[name].moving is None and not spots
        dips.append(place_dips(space, slug, now.takes[name], FIT_SMOOTHING) if at_a_spot else np.zeros(space.grid.size))
    if max(lows) >= min(highs):
        names = " and ".join(now.layout.driver(name).name for name in channels)
        raise ConflictError(
            f"nothing to fit: {names} would be fitted from {max(lows):.0f} Hz up and to {min(highs):.0f} Hz at most; "
            "look at the corners, and at the fit's From and To"
        )
    span = limits.model_copy(update={"low_hz": max(lows), "high_hz": min(highs)})
    # Several channels fitted together: the mean of their levels against the mean of their targets.
    asked = np.mean(wanted, axis=0) - np.mean(levels, axis=0)
    return over_places(asked, np.mean(dips, axis=0), span, spots)


def _levels(space: Workspace, now: Scene, tune: Tune, name: str, takes: list[Take]) -> FloatArray:
    """Levels (p, n) of a channel in dB SPL through a tune: by the take of each place, or as the scene hears it."""
    through = space.predictor_at(now.rate).through(tune, (name,))[0]
    rows = np.array([bare(space, one) for one in takes]) if takes else now.rows[[now.ids.index(name)]]
    known = np.isfinite(rows)
    powers = np.array([smooth_power(row * through, space.grid, FIT_SMOOTHING) for row in np.where(known, rows, 0.0)])
    return np.where(known, power_decibels(powers) + space.offset_db, np.nan)


def _common(takes: Spots, channels: tuple[str, ...]) -> tuple[str, ...]:
    """The places at which every one of some channels was recorded. Raises ConflictError where that is but one."""
    known = [takes[name] for name in channels if name in takes]
    common = tuple(spot for spot in known[0] if all(spot in one for one in known)) if known else ()
    if len(common) < 2:
        raise ConflictError(ONE_PLACE)
    return common


def over_places(asked: FloatArray, dips: FloatArray, span: FitLimits, spots: tuple[str, ...]) -> Asked:
    """What the mean power of some places asks for, of what each asks for (p, n), and their spread where they are
    several."""
    known = np.isfinite(asked)
    powers = np.where(known, 10 ** (-asked / 10), 0.0).sum(axis=0)
    mean = np.where(known.any(axis=0), -power_decibels(powers / np.maximum(known.sum(axis=0), 1)), np.nan)
    return Asked(mean, dips, span, Spread(spots, asked) if spots else None)


def _level_of(space: Workspace, slug: str, now: Scene, tune: Tune, name: str) -> FloatArray:
    """The level (n,) that a channel is predicted to have, without the common correction; NaN where it shows nothing.

    Bare of the combs of a single spot: the other side has its own.
    """
    row = now.index(name)
    if row is None:
        raise ConflictError(f"{now.layout.driver(name).name} has no take yet: record it in Drivers first")
    response = predicted(space, now, tune.model_copy(update={"common": ()}))[row]
    level = power_decibels(smooth_power(response, space.grid, FIT_SMOOTHING)) + space.offset_db
    if now.forces[name].moving is None:
        level = level - place_dips(space, slug, now.takes[name], FIT_SMOOTHING)
    return np.where(now.known[row], level, np.nan)


def _useful(crossed: tuple[float, float], usable: tuple[float, float]) -> tuple[float, float]:
    """Where a driver is to be fitted, in hertz: between its corners, not far beyond where it plays of itself.

    Where the two hardly meet the corners count: they say what it is wanted for, and a fit shows what comes of it.
    """
    low, high = max(crossed[0], usable[0] * 0.8), min(crossed[1], usable[1] * 1.25)
    return (low, high) if high > low * LEAST_SPAN else crossed


def _stripped(tune: Tune, channels: tuple[str, ...]) -> Tune:
    """The tune with nothing fitted to some channels: an all-pass belongs to the alignment and stays."""
    for name in channels:
        tune = tune.with_channel(name, gain_db=0.0, bands=tune.channels[name].all_passes)
    return tune


def found_for(
    space: Workspace, asked: Asked, rate: int, thorough: bool = False, lifted: FloatArray | None = None
) -> tuple[Fit, tuple[LeftAlone, ...]]:
    """A fit to what is asked for, the dips of the place and narrow ones left alone; and which those are.

    `thorough` and what is `lifted` already (n,) are as in `fit`.
    """
    without = without_dips(asked.wanted, asked.dips, space.grid)
    bridged = bridge_cancellations(without, space.grid)
    limits, spread = asked.limits, asked.spread
    if len(asked.places) >= ROUND:
        bridged = bridged + HALF * (without - bridged)
    inside = (space.grid >= limits.low_hz) & (space.grid <= limits.high_hz)
    left = [
        *stretches(space.grid, np.where(inside, -asked.dips, 0.0), "a reflection of the place"),
        *stretches(space.grid, np.where(inside, np.nan_to_num(without - bridged), 0.0), "a narrow dip"),
        *(spread.dips(space.grid, asked.wanted, limits) if spread else ()),
    ]
    least = np.fmin.reduce(spread.wanted) if spread else None
    found = fit(bridged, space.grid, limits, rate, least, thorough, lifted)
    return found, tuple(sorted(left, key=lambda one: one.hertz))


def stretches(grid: FloatArray, deep_db: FloatArray, why: str, over_db: float = TOLD_DB) -> list[LeftAlone]:
    """Where a curve (n,) stands out by more than so much, the highest point of each stretch."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], (deep_db > over_db).astype(int), [0]))))
    tops = [first + int(np.argmax(deep_db[first:end])) for first, end in zip(edges[::2], edges[1::2], strict=True)]
    return [LeftAlone(hertz=float(grid[at]), deep_db=float(deep_db[at]), why=why) for at in tops]
