"""A person who only ever presses the button of the next step, through the API, in vehicles drawn from numbers.

    python benchmarks/survey_plan.py [PLACES] [FIRST] [SYSTEM]

A project is begun in each place; what comes next is asked for, the first of its choices is done, until nothing is left.
A choice that is done by hand, or one that the server refuses, is left out. Printed: how many presses it took, what the
proof measured about the target from 40 Hz to 16 kHz at 1/6 octave, what the place itself knows of the whole over a head
that moves, by how much left and right differ from 200 Hz to 8 kHz, how far apart both sides arrive, how many pairs move
against each other, what left and right lose to each other below 500 Hz where they play alike ("below"), and what both
sides with their share of the subs lose from 20 to 500 Hz ("bass").
"""

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient

sys.path.insert(0, str(Path(__file__).parents[1] / "docs"))

from follow import follow
from survey_align import arrivals

from imbrix.api.app import create_app
from imbrix.core.align.pairs import both_below
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layouts import ready
from imbrix.core.tune.models import LARGE
from imbrix.standins.cabin import tour
from imbrix.standins.microphones import MEASURING
from imbrix.work.ground import places, processors
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import DRIVE_DBFS, Workspace, open_workspace
from imbrix.work.rig import corrections
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed

SLUG = "walk"
MODEL = LARGE.model_copy(update={"name": "Eight by sixteen", "outputs": 16})


@dataclass
class Walked:
    """What came of one walk, in dB but for presses, pairs and `apart_us`; `left_out` are the steps that could not be
    done."""

    place: str
    presses: int = 0
    moved: float = 0.0
    worst: float = 0.0
    sides: float = 0.0
    apart_us: float = 0.0
    unlike: int = 0
    below: float = 0.0
    bass: float = 0.0
    stored: bool = False
    left_out: list[str] = field(default_factory=list)
    seconds: float = 0.0


def walk(seed: int, key: str) -> Walked:
    found = Walked(f"drawn-{seed}")
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        space = begin(Path(folder), seed, key)
        try:
            with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
                for step, came in follow(client, SLUG):
                    found.presses += 1
                    if came == "left out":
                        found.left_out.append(step["key"])
                facts = client.get(f"/api/projects/{SLUG}").json()
                found.stored = facts["link"]["active_slot"] is not None and not facts["link"]["unsent"]
            measure(space, found)
        finally:
            space.close()
    found.seconds = time.monotonic() - began
    return found


def begin(folder: Path, seed: int, key: str) -> Workspace:
    """A data folder with a project in the place that is drawn from a number."""
    space = open_workspace(folder, pace=0)
    create_project(space, SLUG, "Walk", ready(key, "left" if seed % 2 else "right"))
    processors.give(space, SLUG, MODEL)
    places.put(space, SLUG, f"drawn-{seed}")
    corrections.bring(space, "Sheet", "ceiling", MEASURING.sheet("ceiling").encode())
    return space


def measure(space: Workspace, found: Walked) -> None:
    """What the place itself knows of the tune that the walk ended with."""
    layout, tune = space.layout(SLUG), head(space, SLUG).tune
    through = Predictor(space.grid, MODEL.rate).through(tune, [one.id for one in layout.drivers])
    place = places.place(space, SLUG)
    assert place is not None
    stops = [
        np.array([place.cabin.truth(one.output - 1, space.grid, spot) for one in layout.drivers]) * through
        for spot in tour()
    ]
    inside = (space.grid >= 40) & (space.grid <= 16_000)
    away = (heard([rows.sum(axis=0) for rows in stops], space.grid) - placed(space, SLUG, tune))[inside]
    found.moved = float(away.max() - away.min()) / 2
    found.worst = float(np.abs(away).max())
    sums = []
    for side in ("left", "right"):
        mine = [n for n, one in enumerate(layout.drivers) if (one.group, one.side) == (layout.main, side)]
        sums.append([rows[mine].sum(axis=0) for rows in stops])
    left, right = (heard(one, space.grid) for one in sums)
    middle = (space.grid >= 200) & (space.grid <= 8_000)
    found.sides = float(np.sqrt(np.mean((left - right)[middle] ** 2)))
    pair = both_below(*(np.array(one) for one in sums), space.grid, 500.0)
    found.below = float(pair.curves(np.zeros(1), invert=False).mean()) if pair else 0.0
    found.bass = lost_below_500(stops, [one.side for one in layout.drivers], space.grid)
    found.apart_us, found.unlike = arrivals(space, place.cabin, tune)


def lost_below_500(stops: list[ComplexArray], sides: Sequence[str | None], grid: FloatArray) -> float:
    """What the whole of the left and that of the right lose to each other, 20 to 500 Hz, in dB, by octaves.

    `stops` are the drivers' responses (k, n) at every place of the head; what belongs to neither side counts half to
    each, so that nothing is lost where a sub plays alone.
    """
    inside = (grid >= 20) & (grid <= 500)
    lost = []
    for rows in stops:
        left, right = (
            sum(rows[n] * (1.0 if one == side else 0.5) for n, one in enumerate(sides) if one in (side, "both"))
            for side in ("left", "right")
        )
        lost.append([smooth_power(one, grid, 3) for one in (np.abs(left) + np.abs(right), left + right)])
    apart, together = np.mean(lost, axis=0)
    return float(10 * np.log10(apart / together)[inside].mean())


def heard(responses: list[ComplexArray], grid: FloatArray) -> FloatArray:
    """Mean level (n,) of some responses at 1/6 octave, in dB SPL at the common drive."""
    power = np.mean([smooth_power(one, grid, 6) for one in responses], axis=0)
    return power_decibels(power) - 20 * np.log10(20e-6) + DRIVE_DBFS


def main(count: int, first: int, key: str) -> None:
    began = time.monotonic()
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(walk, range(first, first + count), [key] * count))
    print(f"{key}: {count} places from {first} on, {time.monotonic() - began:.0f} s")
    heads = ("moved", 8), ("worst", 8), ("L-R", 7), ("us", 6), ("below", 7), ("bass", 6), ("s", 6)
    print(f"{'place':>11}{'presses':>9}" + "".join(f"{name:>{wide}}" for name, wide in heads) + "  left out")
    for one in found:
        print(
            f"{one.place:>11}{one.presses:>9}{one.moved:>7.1f} {one.worst:>7.1f} {one.sides:>6.2f}"
            f"{one.apart_us:>6.0f}{one.below:>7.2f}{one.bass:>6.2f}{one.seconds:>6.0f}"
            f"  {', '.join(one.left_out)}{'' if one.stored else '  not stored'}"
        )
    print(f"pairs that move against each other: {sum(one.unlike for one in found)}")
    for name in ("presses", "moved", "worst", "sides", "apart_us", "below", "bass"):
        values = np.array([getattr(one, name) for one in found])
        middle, high = np.median(values), np.quantile(values, 0.95)
        print(f"{name:<8} median {middle:6.2f}  95 % {high:6.2f}  most {values.max():6.2f}")


if __name__ == "__main__":
    main(
        int(sys.argv[1]) if len(sys.argv) > 1 else 20,
        int(sys.argv[2]) if len(sys.argv) > 2 else 500,
        sys.argv[3] if len(sys.argv) > 3 else "front-3-sub",
    )
