"""The plan of the job: all steps in the order of the work, and which of them comes next.

A pure function of the situation; nothing is stored but what a person left out. The order is that of common practice
(no source): the rig, the source, every driver, the alignment, the voice from the far side's mid on, the proof, the
handover.
"""

from collections.abc import Sequence

from imbrix.core.plan import measuring, tuning
from imbrix.core.plan.measuring import Steps
from imbrix.core.plan.situation import Situation
from imbrix.core.plan.step import State, Step


def plan(now: Situation) -> tuple[Step, ...]:
    """All steps in their order, each with its state: at most one is next."""
    found: list[Step] = []
    for step, done in _steps(now):
        state: State = "done" if done else "skipped" if step.key in now.skipped else step.state
        if state == "later" and not any(one.state == "next" for one in found):
            state = "next"
        found.append(step.model_copy(update={"state": state}))
    return tuple(found)


def following(steps: Sequence[Step]) -> Step | None:
    """The step that comes next; None where nothing is left to do."""
    return next((one for one in steps if one.state == "next"), None)


def _steps(now: Situation) -> Steps:
    """Every step with whether it is done."""
    yield from measuring.rig(now)
    yield from measuring.source(now)
    yield from measuring.drivers(now)
    yield from tuning.seams(now)
    yield from tuning.beside(now)
    yield from tuning.voice(now)
    yield from tuning.proof(now)
    yield from tuning.image(now)
    yield from tuning.handover(now)
