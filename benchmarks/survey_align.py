"""The walk of a person who follows the first proposal and the first fit, in vehicles drawn from numbers.

    python benchmarks/survey_align.py [PLACES] [FIRST] [SYSTEM] [moving]

Every driver is recorded through the stand-ins, with `moving` by a moving microphone too; the first proposal is taken,
every channel fitted, then all; and what comes of it is read from what the cabin knows of itself: the whole at 1/6
octave from 40 Hz to 16 kHz about the target, at the spot of the takes and in the mean over a head that moves, the
arrivals of both sides, polarities, and what left and right lose below 500 Hz.
"""

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from imbrix.core.align.figures import figures
from imbrix.core.align.pairs import both_below
from imbrix.core.align.propose import Allowed
from imbrix.core.errors import ImbrixError
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layouts import ready
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.models import LARGE
from imbrix.core.tune.tune import Tune
from imbrix.standins.cabin import Cabin, tour
from imbrix.standins.microphones import MEASURING
from imbrix.standins.paths import MIDDLE, Spot
from imbrix.work.ground import places, processors
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import DRIVE_DBFS, Workspace, open_workspace
from imbrix.work.predict import fitting
from imbrix.work.predict.proposals import proposals
from imbrix.work.predict.scene import scene
from imbrix.work.predict.system import system_of
from imbrix.work.rig import change, corrections
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import moving, recording
from imbrix.work.tune.revisions import commit, head
from imbrix.work.tune.targets import placed

SLUG = "walk"
MODEL = LARGE.model_copy(update={"name": "Eight by sixteen", "outputs": 16})
SPAN = (40.0, 16_000.0)


@dataclass
class Walked:
    """What came of one walk; what is in dB but for `apart_us`."""

    seed: int
    failed: str = ""
    kind: str = ""
    seconds: float = 0.0
    spot: float = 0.0
    moved: float = 0.0
    apart_us: float = 0.0
    unlike: int = 0
    sides: float = 0.0
    seams: float = 0.0
    worst_seam: float = 0.0


def record(space: Workspace, by_moving: bool) -> None:
    """Every driver, as a person would."""
    recorder = Recorder(space)
    sheet, _ = corrections.bring(space, "Sheet", "ceiling", MEASURING.sheet("ceiling").encode())
    change.change(space, {"corrections": {"ceiling": sheet}, "pointing": "ceiling"})
    for driver in space.layout(SLUG).drivers:
        recording.start_sweep(recorder, SLUG, (driver.id,), "driver")
        recorder.finished()
        if by_moving:
            moving.start_moving(recorder, SLUG, (driver.id,), "driver")
            recorder.finished()


def truth(cabin: Cabin, space: Workspace, spot: Spot) -> ComplexArray:
    """What the cabin does to each driver (d, n) at a spot."""
    return np.array([cabin.truth(one.output - 1, space.grid, spot) for one in space.layout(SLUG).drivers])


def level(responses: list[ComplexArray], space: Workspace) -> FloatArray:
    """Mean level (n,) of some responses at 1/6 octave, in dB SPL at the common drive."""
    power = np.mean([smooth_power(one, space.grid, 6) for one in responses], axis=0)
    return power_decibels(power) - 20 * np.log10(20e-6) + DRIVE_DBFS


def strays(values: FloatArray, space: Workspace, tune: Tune) -> float:
    inside = (space.grid >= SPAN[0]) & (space.grid <= SPAN[1])
    away = (values - placed(space, SLUG, tune))[inside]
    return float(np.abs(away).max())


def walk(seed: int, key: str, by_moving: bool) -> Walked:
    found = Walked(seed)
    with tempfile.TemporaryDirectory() as folder:
        space = open_workspace(Path(folder), pace=0)
        try:
            _walk(space, found, key, by_moving)
        except ImbrixError as error:
            found.failed = str(error)
        finally:
            space.close()
    return found


def _walk(space: Workspace, found: Walked, key: str, by_moving: bool) -> None:
    layout = ready(key, "left" if found.seed % 2 else "right")
    create_project(space, SLUG, "Walk", layout)
    processors.give(space, SLUG, MODEL)
    places.put(space, SLUG, f"drawn-{found.seed}")
    record(space, by_moving)
    began = time.monotonic()
    offered = proposals(space, SLUG, "whole", Allowed()).found
    found.seconds = time.monotonic() - began
    best = offered.proposals[0]
    found.kind = best.kind
    commit(space, SLUG, list(best.edits))
    for name in work_order(layout):
        fitting.fit_channels(space, SLUG, (name,), FitLimits())
    fitting.fit_common(space, SLUG, FitLimits())
    tune = head(space, SLUG).tune
    ids = [one.id for one in layout.drivers]
    through = Predictor(space.grid, MODEL.rate).through(tune, ids)
    place = places.place(space, SLUG)
    assert place is not None
    rows = truth(place.cabin, space, MIDDLE) * through
    found.spot = strays(level([rows.sum(axis=0)], space), space, tune)
    around = [(truth(place.cabin, space, spot) * through).sum(axis=0) for spot in tour()]
    found.moved = strays(level(around, space), space, tune)
    found.apart_us, found.unlike = arrivals(space, place.cabin, tune)
    sums = [
        rows[[n for n, one in enumerate(layout.drivers) if (one.group, one.side) == (layout.main, side)]].sum(axis=0)
        for side in ("left", "right")
    ]
    pair = both_below(sums[0][None], sums[1][None], space.grid, 500.0)
    found.sides = float(pair.curves(np.zeros(1), invert=False).mean()) if pair else 0.0
    system, _ = system_of(space, SLUG, scene(space, SLUG))
    seams = [one.mean.value for one in figures(system, tune).seams]
    found.seams, found.worst_seam = float(np.mean(seams)), max(seams)


def arrivals(space: Workspace, cabin: Cabin, tune: Tune) -> tuple[float, int]:
    """The most that two sides of a way above 700 Hz are apart, in microseconds, and how many pairs move unlike."""
    layout = space.layout(SLUG)
    most, unlike = 0.0, 0
    for one in layout.drivers:
        other = layout.partner(one)
        if one.side != "left" or other is None:
            continue
        comes, signs = [], []
        for each in (one, other):
            seat = cabin.seat(each.output - 1)
            channel = tune.channels[each.id]
            comes.append(seat.path.distance_m / speed_of_sound(cabin.celsius) + channel.delay_s)  # type: ignore[attr-defined]
            signs.append(seat.wired_backwards != channel.inverted)
        low_pass = tune.channels[one.id].low_pass
        if one.group == layout.main and (low_pass is None or low_pass.corner_hz > 1400):
            most = max(most, abs(comes[1] - comes[0]) * 1e6)
        unlike += signs[0] != signs[1]
    return most, unlike


def main(count: int, first: int, key: str, by_moving: bool) -> None:
    began = time.monotonic()
    seeds = range(first, first + count)
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(walk, seeds, [key] * count, [by_moving] * count))
    print(f"{key}: {count} places from {first} on, {time.monotonic() - began:.0f} s{', moving' if by_moving else ''}")
    print(f"{'place':>6} {'first':<11}{'s':>5}{'spot':>7}{'moving':>8}{'apart':>8}{'unlike':>7}{'L-R':>6}{'seams':>7}")
    for one in found:
        if one.failed:
            print(f"{one.seed:>6} failed: {one.failed}")
            continue
        print(
            f"{one.seed:>6} {one.kind:<11}{one.seconds:>5.1f}{one.spot:>7.1f}{one.moved:>8.1f}{one.apart_us:>6.0f}us"
            f"{one.unlike:>7}{one.sides:>6.2f}{one.seams:>7.2f}"
        )
    good = [one for one in found if not one.failed]
    print(f"failed {len(found) - len(good)} of {count}")
    for name in ("spot", "moved", "apart_us", "sides", "seams", "worst_seam", "seconds"):
        values = np.array([getattr(one, name) for one in good])
        middle, high = np.median(values), np.quantile(values, 0.95)
        print(f"{name:<11} median {middle:6.2f}  95 % {high:6.2f}  most {values.max():6.2f}")
    print(f"pairs that move against each other: {sum(one.unlike for one in good)}")


if __name__ == "__main__":
    arguments = [one for one in sys.argv[1:] if one != "moving"]
    main(
        int(arguments[0]) if arguments else 40,
        int(arguments[1]) if len(arguments) > 1 else 100,
        arguments[2] if len(arguments) > 2 else "front-3-sub",
        "moving" in sys.argv,
    )
