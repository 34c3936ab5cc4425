"""What the system will do with a tune: bare takes times the tune's responses."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from imbrix.core.predict.together import as_a_place_hears
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels
from imbrix.core.signal.smoothing import Fraction, smooth_power
from imbrix.core.system.layout import Driver, Group, Side
from imbrix.core.tune.crossover import CORNER_LEVEL_DB, End, alignment
from imbrix.core.tune.tune import Crossover, Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.spots import at_a_head, common_places
from imbrix.work.takes.forces import forces, joined
from imbrix.work.takes.reading import bare
from imbrix.work.takes.shelf import Take, takes
from imbrix.work.tune.targets import placed, share_db


def scene(space: Workspace, slug: str, spatial: bool = False) -> Scene:
    """The takes in force, stacked: as one spot hears them, or with the magnitudes of a moving microphone.

    What is compared with a take at one spot, or asks for exact phase, is predicted from one spot; level and
    correction are set by what the place as a whole hears.
    """
    layout = space.layout(slug)
    all_takes = takes(space, slug)
    found = forces(space, slug, all_takes)
    ids = tuple(driver.id for driver in layout.drivers if driver.id in found)
    rows = [joined(space, found[name]) if spatial else bare(space, found[name].take) for name in ids]
    stacked = np.array(rows, dtype=complex).reshape(len(ids), space.grid.size)
    known = np.isfinite(stacked)
    now = Scene(
        layout,
        ids,
        np.where(known, stacked, 0.0),
        known,
        {name: found[name].take for name in ids},
        found,
        tuple(all_takes),
        processors.model(space, slug).rate,
        # Where nothing was heard but at a spot, the spot is what is known, and what a proof there will show.
        spatial and any(one.moving is not None for one in found.values()),
    )
    return replace(now, spots=_over_rows(space, slug, now)) if now.spatial and len(ids) > 1 else now


def _over_rows(space: Workspace, slug: str, now: Scene) -> ComplexArray | None:
    """What the spots of a head hear of each driver (p, d, n), over its row; None where there is but one."""
    if common_places(space, now) < 2:
        return None
    heard = at_a_head(space, slug, now)
    if len(heard) < 2:
        return None
    there = np.abs(now.rows) > 0
    return np.asarray(np.where(there, heard / np.where(there, now.rows, 1.0), 0.0))


def common_clock(known: Iterable[Take]) -> str:
    """The clock that most of some takes keep time by; empty where none keeps any."""
    clocks = [one.clock for one in known if one.timed]
    return max(clocks, key=clocks.count) if clocks else ""


def predicted(space: Workspace, scene: Scene, tune: Tune) -> ComplexArray:
    """Each driver's response (d, n) through its channel."""
    return scene.rows * space.predictor_at(scene.rate).through(tune, scene.ids)


def summed(scene: Scene, responses: ComplexArray, tune: Tune, among: set[str] | None = None) -> ComplexArray:
    """The complex sum (n,) of what is audible, or of `among` only."""
    chosen = [tune.audible(name) if among is None else name in among for name in scene.ids]
    return np.asarray(chosen, dtype=float) @ responses


def whole_power(
    scene: Scene,
    grid: FloatArray,
    responses: ComplexArray,
    tune: Tune,
    fraction: Fraction,
    among: set[str] | None = None,
) -> FloatArray:
    """Smoothed power (n,) of what is audible, or of `among` only, together: as a spot hears it, or as a place does."""
    parts: dict[tuple[Group, Side], list[int]] = {}
    for n, name in enumerate(scene.ids):
        if tune.audible(name) if among is None else name in among:
            driver = scene.layout.driver(name)
            parts.setdefault((driver.group, driver.side), []).append(n)
    if not scene.spatial or not parts:
        return smooth_power(summed(scene, responses, tune, among), grid, fraction)
    heard = np.array([smooth_power(responses[part].sum(axis=0), grid, fraction) for part in parts.values()])
    at_spots = scene.at_spots(responses)
    sums = np.array([at_spots[:, part].sum(axis=1) for part in parts.values()])
    whole = smooth_power(sums.sum(axis=0), grid, fraction).mean(axis=0)
    apart = smooth_power(sums, grid, fraction).mean(axis=1)
    return as_a_place_hears(whole, apart, grid, len(at_spots), heard)


def acoustic_target(space: Workspace, slug: str, tune: Tune, driver: Driver) -> tuple[FloatArray, float, float]:
    """What one channel aims at (n,) in dB SPL - its share of the target in the shape of its crossovers - and its span.

    The span ends where the crossovers are some 10 dB down, or at the grid's ends.
    """
    channel = tune.channels[driver.id]
    wanted = placed(space, slug, tune) + share_db(space.layout(slug), driver)
    low, high = float(space.grid[0]), float(space.grid[-1])
    ends: tuple[tuple[End, Crossover | None], ...] = (
        ("high_pass", channel.high_pass),
        ("low_pass", channel.low_pass),
    )
    for end, crossover in ends:
        if crossover is None:
            continue
        shape = alignment(crossover.shape, crossover.slope_db, crossover.corner_hz, end, space.grid)
        wanted = np.add(wanted, decibels(shape))
        reach = 2.0 ** ((10.0 + CORNER_LEVEL_DB[crossover.shape]) / crossover.slope_db)
        if end == "high_pass":
            low = max(low, crossover.corner_hz / reach)
        else:
            high = min(high, crossover.corner_hz * reach)
    return wanted, low, high
