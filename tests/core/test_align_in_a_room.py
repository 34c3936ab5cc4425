"""The walk of an alignment in a room of someone else's making: pyroomacoustics, by image sources."""

import numpy as np
import pyroomacoustics
import pytest

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import corners
from imbrix.core.align.figures import figures
from imbrix.core.align.problem import Arrival, System
from imbrix.core.align.propose import Allowed, propose
from imbrix.core.evidence.onset import onset
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layouts import ready
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.tune import neutral
from imbrix.standins.cabin import Cabin, Seat
from imbrix.standins.paths import ScatteredPath
from imbrix.standins.places.drawn import driver_model

GRID = log_grid()
RATE = 48_000
SPEED = 343.0
HEAD = (1.9, 2.2, 1.1)
WHERE = {
    "sub": (3.4, 0.6, 0.4),
    "midbass-l": (0.8, 3.6, 0.6),
    "midbass-r": (3.3, 3.7, 0.6),
    "mid-l": (0.9, 3.5, 1.0),
    "mid-r": (3.2, 3.6, 1.0),
    "tweeter-l": (1.0, 3.5, 1.2),
    "tweeter-r": (3.1, 3.6, 1.2),
}
BACKWARDS = "midbass-r"


def room() -> dict[str, np.ndarray]:
    """What the room does to each driver (n,)."""
    made = pyroomacoustics.ShoeBox((4.1, 5.0, 2.5), fs=RATE, materials=pyroomacoustics.Material(0.45), max_order=8)
    made.set_sound_speed(SPEED)
    for place in WHERE.values():
        made.add_source(place)
    made.add_microphone(HEAD)
    made.compute_rir()
    late = pyroomacoustics.constants.get("frac_delay_length") // 2
    found = {}
    for name, impulse in zip(WHERE, made.rir[0], strict=True):
        used = np.asarray(impulse)[: round(0.25 * RATE)]
        turn = np.exp(-2j * np.pi * np.outer(GRID, np.arange(used.size) - late) / RATE)
        found[name] = turn @ used
    return found


@pytest.mark.walk
def test_the_first_proposal_in_a_room_of_someone_elses_making() -> None:
    layout = ready("front-3-sub", "left")
    heard = room()
    rows, arrivals, known = [], {}, {}
    for driver in layout.drivers:
        model = driver_model(driver, 5)
        alone = Cabin((Seat(model, ScatteredPath(1.0, ())),), celsius=20.0, gain_db=0.0)
        own = alone.truth(0, GRID) * np.exp(2j * np.pi * GRID * 1.0 / 343.2)
        row = own * heard[driver.id] * (-1 if driver.id == BACKWARDS else 1)
        low, high = np.clip(model.own_band(RATE), GRID[0], GRID[-1])
        distance = float(np.linalg.norm(np.subtract(WHERE[driver.id], HEAD)))
        # What the program reads of it, not what is known of it.
        read = onset(row, GRID, np.full(GRID.size, 60.0), (float(low), float(high)), distance / SPEED + 0.0004)
        assert read is not None
        arrivals[driver.id] = Arrival(read.seconds, read.polarity if read.likely else 0)
        known[driver.id] = Known((float(low), float(high)))
        rows.append(row / np.median(np.abs(row[(low < GRID) & (high > GRID)])))
    ids = tuple(one.id for one in layout.drivers)
    system = System(layout, ids, np.array(rows)[None], Predictor(GRID, RATE), arrivals, STOCK)
    tune = neutral(layout)
    found = propose(system, tune, corners(layout, known), Allowed())
    best = found.proposals[0]
    assert best.figures.unlike == best.figures.far == ()
    assert best.tune.channels["midbass-l"].inverted != best.tune.channels["midbass-r"].inverted
    comes = {
        name: np.linalg.norm(np.subtract(WHERE[name], HEAD)) / SPEED + best.tune.channels[name].delay_s for name in ids
    }
    for way in ("mid", "tweeter"):
        assert comes[f"{way}-l"] == pytest.approx(comes[f"{way}-r"], abs=50e-6)
    before = {one.seam.id: one.mean.value for one in figures(system, tune).seams}
    after = {one.seam.id: one.mean.value for one in best.figures.seams}
    assert np.mean(list(after.values())) < 1.0
    assert np.mean(list(after.values())) < np.mean(list(before.values())) / 2
    assert best.figures.sides is not None
    assert best.figures.sides.value < 1.5
