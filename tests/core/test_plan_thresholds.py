"""Where the steps of the second half begin and where they are left out: just on either side of each threshold."""

import pytest

from imbrix.core.plan.plan import plan
from imbrix.core.plan.situation import BothSides, Proof, Spot
from imbrix.core.tune.tune import Band
from tests.helpers.situations import IDS, coming, recorded, situation, voiced

TUNE = voiced(*IDS)
FITTED = TUNE.model_copy(update={"common": (Band(frequency_hz=100.0, gain_db=-2.0),)})
VOICED = {"takes": recorded(), "crossed": True, "timed": True, "tune": TUNE}
DONE = {**VOICED, "tune": FITTED}
CHANNELS = {side: tuple(one for one in IDS if one.endswith(side[0])) for side in ("left", "right")}


def sides(apart_db: float, after_db: float) -> BothSides:
    return BothSides(CHANNELS, frozenset(CHANNELS), {"left": 1, "right": 1}, apart_db, after_db)


@pytest.mark.parametrize(
    ("known", "step"),
    [
        # The common correction: from 1 dB about the target on.
        ({**VOICED, "whole_db": 1.05}, "common"),
        ({**VOICED, "whole_db": 0.95}, "proof"),
        # Gains come down where an output goes over full scale by more than rounding.
        ({**DONE, "over_db": 0.06}, "gains"),
        ({**DONE, "over_db": 0.04}, "proof"),
        # What was measured is not what was predicted: from 1.5 dB rms on.
        ({**DONE, "proof": Proof(True, 1.9, 1.55, "something changed")}, "apart"),
        ({**DONE, "proof": Proof(True, 1.9, 1.45, "something changed")}, "store"),
        # Another round: from 2 dB about the target on, where it gains half a decibel.
        ({**DONE, "proof": Proof(True, 2.05, 0.2, better_db=1.0)}, "measured"),
        ({**DONE, "proof": Proof(True, 1.95, 0.2, better_db=1.0)}, "store"),
        ({**DONE, "proof": Proof(True, 3.0, 0.2, better_db=2.45)}, "measured"),
        ({**DONE, "proof": Proof(True, 3.0, 0.2, better_db=2.55)}, "store"),
        # Both sides: from 1.2 dB apart on, where 0.3 dB are gained.
        ({**DONE, "proof": Proof(True, 1.5, 0.2), "sides": sides(1.25, 0.8)}, "sides"),
        ({**DONE, "proof": Proof(True, 1.5, 0.2), "sides": sides(1.15, 0.8)}, "store"),
        ({**DONE, "proof": Proof(True, 1.5, 0.2), "sides": sides(2.0, 1.65)}, "sides"),
        ({**DONE, "proof": Proof(True, 1.5, 0.2), "sides": sides(2.0, 1.75)}, "store"),
    ],
)
def test_a_step_begins_at_its_threshold(known: dict, step: str) -> None:
    assert coming(**known).key == step


@pytest.mark.parametrize(("count", "there"), [(1, False), (2, True)])
def test_a_further_spot_is_worth_it_from_two_drivers_on(count: int, there: bool) -> None:
    takes = dict(list(recorded().items())[:count])
    steps = plan(situation(takes=takes, spots=(Spot("Left ear", tuple(IDS)),)))
    assert any(one.key == "spot:Left ear" for one in steps) is there
