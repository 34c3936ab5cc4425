"""What the plan says in situations of a job is what it said before: see the helper."""

import pytest

from imbrix.core.plan.plan import plan
from imbrix.core.plan.situation import BothSides, Image, Placing, Proof, Refused, RigPart, Spot
from imbrix.core.tune.edits import SetTarget
from tests.helpers.figures import check
from tests.helpers.situations import IDS, PARTS, recorded, situation, voiced

SITUATIONS = {
    "begun": {
        "skipped": frozenset(),
        "switches": True,
        "rig": tuple(RigPart(key, key, "missing", "unknown") for key in PARTS),
    },
    "some": {"takes": {name: recorded()[name] for name in IDS[:2]}, "switches": True, "queue": tuple(IDS[2:])},
    "refused": {"refused": Refused("clipped", "the recording clips")},
    "recorded": {"takes": recorded(), "places": 1, "spots": (Spot("Left ear", ("mid-l", "mid-r")),)},
    "crossed": {
        "takes": recorded(),
        "crossed": True,
        "timed": True,
        "places": 2,
        "placing": Placing("mid-r", 3.2, 5.0, 4.0, (SetTarget(level_db=-3.2),)),
        "whole_db": 4.4,
        "over_db": 2.2,
        "over_says": "Mid L",
    },
    "voiced": {
        "takes": recorded(),
        "crossed": True,
        "timed": True,
        "tune": voiced(*IDS),
        "whole_db": 2.1,
        "unsent": 4,
        "free_holds": "Old",
    },
    "by hand": {
        "takes": recorded(),
        "crossed": True,
        "timed": True,
        "tune": voiced(*IDS),
        "by_hand": True,
        "unsent": 3,
    },
    "proven": {
        "takes": recorded(),
        "crossed": True,
        "timed": True,
        "tune": voiced(*IDS),
        "proof": Proof(True, 3.1, 1.4, "the mid is 2 dB lower", better_db=2.0),
    },
    "sent": {
        "takes": recorded(),
        "crossed": True,
        "timed": True,
        "tune": voiced(*IDS),
        "whole_db": 2.1,
        "image": Image(7, 3, 1),
        "sides": BothSides({"left": ("mid-l",), "right": ("mid-r",)}, frozenset({"left"}), {"left": 1}),
    },
}


@pytest.mark.parametrize("name", SITUATIONS)
def test_what_comes_next(name: str) -> None:
    steps = plan(situation(**SITUATIONS[name]))  # type: ignore[arg-type]
    check(
        f"plan {name}",
        [[one.key, one.state, one.name, one.why, one.does, [each.name for each in one.choices]] for one in steps],
    )
