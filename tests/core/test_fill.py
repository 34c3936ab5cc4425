"""Rear and centre against the front, by common practice (no source)."""

import pytest

from imbrix.core.align.fill import LATE_S, fill
from imbrix.core.system.layout import Group
from imbrix.core.system.layouts import READY, ready
from imbrix.core.tune.apply import apply
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.models import LARGE, STOCK
from imbrix.core.tune.tune import Tune, neutral

LAYOUT = next(
    one
    for one in (ready(each.key, "left") for each in READY)
    if {driver.group for driver in one.drivers} >= {Group.CENTRE, Group.REAR}
)
ARRIVALS = {one.id: 2e-3 + 3e-4 * n for n, one in enumerate(LAYOUT.drivers)}


def comes(tune: Tune, group: Group) -> float:
    return max(ARRIVALS[one.id] + tune.channels[one.id].delay_s for one in LAYOUT.drivers if one.group == group)


def filled(tune: Tune, limits: Limits = LARGE) -> tuple[Tune, tuple[str, ...]]:
    found = fill(LAYOUT, tune, ARRIVALS, limits)
    return apply(tune, list(found.edits), LAYOUT, limits), found.says


def test_the_rear_comes_after_the_front_and_the_centre_with_it() -> None:
    tune = neutral(LAYOUT)
    for one in LAYOUT.drivers:
        tune = tune.with_channel(one.id, delay_s=4e-3 if one.group == Group.FRONT else 1e-3)
    after, says = filled(tune)
    step = 1 / LARGE.rate
    assert comes(after, Group.REAR) - comes(after, Group.FRONT) == pytest.approx(LATE_S[Group.REAR], abs=step)
    assert comes(after, Group.CENTRE) == pytest.approx(comes(after, Group.FRONT), abs=step)
    assert says == ("Rear comes 10.0 ms after the front", "Centre comes at once with the front")
    front = [one.id for one in LAYOUT.drivers if one.group in (Group.FRONT, Group.SUB)]
    assert all(after.channels[name] == tune.channels[name] for name in front)
    rear = [one.id for one in LAYOUT.drivers if one.group == Group.REAR]
    moved = {round((after.channels[name].delay_s - tune.channels[name].delay_s) / step) for name in rear}
    assert len(moved) == 1  # nothing moves within the rear


def test_what_cannot_be_is_said() -> None:
    small = STOCK.model_copy(update={"delay_s": STOCK.delay_s.model_copy(update={"most": 8e-3})})
    tune = neutral(LAYOUT)
    for one in LAYOUT.drivers:
        tune = tune.with_channel(one.id, delay_s=6e-3 if one.group == Group.FRONT else 0.0)
    _, says = filled(tune, small)
    assert "the processor has no more delay" in says[0]
    late = {**ARRIVALS, **{one.id: 30e-3 for one in LAYOUT.drivers if one.group == Group.CENTRE}}
    found = fill(LAYOUT, neutral(LAYOUT), late, LARGE)
    assert "its own way is the longer one" in found.says[1]


def test_a_front_alone_needs_nothing() -> None:
    front = ready("front-3-sub", "left")
    assert fill(front, neutral(front), {one.id: 1e-3 for one in front.drivers}, STOCK).edits == ()
