"""Situations of a job for tests of its plan: the rig is set, and what else is known is said."""

from dataclasses import replace

from imbrix.core.plan.plan import following, plan
from imbrix.core.plan.situation import InForce, RigPart, Situation, Source
from imbrix.core.plan.step import Step
from imbrix.core.system.layouts import ready
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.tune import Tune, neutral

LAYOUT = ready("front-3-sub", "left")
PARTS = ("device", "microphone", "check", "level", "reference", "takes", "jig")
NAMES = {1: "Front left", 2: "Front right"}
IDS = [one.id for one in LAYOUT.drivers]


def situation(**values: object) -> Situation:
    """All is set in the rig, the source is left out, nothing was recorded yet."""
    known = Situation(
        layout=LAYOUT,
        tune=neutral(LAYOUT),
        order=work_order(LAYOUT),
        rig=tuple(RigPart(key, key, "set", "as it is") for key in PARTS),
        corrections={7: "Sheet"},
        pointing="ceiling",
        harmless="mid-l",
        source=Source(names=NAMES),
        takes={},
        queue=tuple(IDS),
        skipped=frozenset({"source"}),
    )
    return replace(known, **values)  # type: ignore[arg-type]


def recorded(moving: bool = True) -> dict[str, InForce]:
    return {name: InForce(n, moving=moving) for n, name in enumerate(IDS, 1)}


def coming(**values: object) -> Step:
    step = following(plan(situation(**values)))
    assert step is not None
    return step


def voiced(*names: str) -> Tune:
    tune = neutral(LAYOUT)
    for name in names:
        tune = tune.with_channel(name, gain_db=-3.0)
    return tune
