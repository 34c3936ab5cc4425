"""Rear and centre against the front: by common practice (no source), and within it by what they take from the front."""

import numpy as np
import pytest

from imbrix.core.align.fill import LATE, Sums, fill
from imbrix.core.signal.grid import log_grid
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
    assert comes(after, Group.REAR) - comes(after, Group.FRONT) == pytest.approx(LATE[Group.REAR].usual_s, abs=step)
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


GRID = log_grid()
REAR_ALONE = ready("front-3-rear-sub", "left")
COMES = {one.id: 3e-3 for one in REAR_ALONE.drivers}


def beside(turn: float, at_hz: float) -> Sums:
    """A front of two sides that is flat, and a rear that plays about one frequency, turned by so many radians.

    The place turns it forward by 11 ms, so that with such a delay it comes with the front.
    """
    rear = 0.25 * np.exp(-(np.log2(GRID / at_hz) ** 2) / 0.3 + 1j * turn + 2j * np.pi * GRID * 11e-3)[None]
    front = np.full((1, GRID.size), 0.5 + 0j)
    return {
        (Group.FRONT, "left"): front,
        (Group.FRONT, "right"): front,
        (Group.REAR, "left"): rear,
        (Group.REAR, "right"): rear,
    }


@pytest.mark.parametrize("at_hz", [250.0, 320.0, 450.0])
@pytest.mark.parametrize("turn", [0.0, 1.5, 3.0, 4.5])
def test_within_practice_the_rear_comes_where_it_changes_the_front_least(turn: float, at_hz: float) -> None:
    """Against the closed form of two paths, |1 + a exp(-j w t)|, tried at every delay that practice allows."""
    sums = beside(turn, at_hz)
    tune = neutral(REAR_ALONE)
    found = fill(REAR_ALONE, tune, COMES, LARGE, sums, GRID)
    late = found.edits[0].delays_s["rear-l"]
    assert LATE[Group.REAR].least_s <= late <= LATE[Group.REAR].most_s + 1e-9

    def changes(late_s: float) -> float:
        inside = (GRID > 150) & (GRID < 700)
        rear = 2 * sums[Group.REAR, "left"][0] * np.exp(-2j * np.pi * GRID * late_s)
        away = 20 * np.log10(np.abs(1 + rear[inside]))
        return float(np.sqrt(np.mean(away**2)))

    every = [changes(each) for each in np.arange(8e-3, 14e-3, 0.05e-3)]
    assert changes(late) < min(every) + 0.15 * (max(every) - min(every))
    assert "The front changes by" in found.says[-1]


def test_a_delay_within_practice_stays_unless_another_is_much_better() -> None:
    sums = beside(0.0, 320.0)
    first = fill(REAR_ALONE, neutral(REAR_ALONE), COMES, LARGE, sums, GRID)
    tune = apply(neutral(REAR_ALONE), list(first.edits), REAR_ALONE, LARGE)
    late = first.edits[0].delays_s["rear-l"]
    against = 11e-3 + 0.5 / 320.0
    for now, stays in ((late, True), (late + 0.1e-3, True), (against, False)):
        held = tune
        for name in ("rear-l", "rear-r"):
            held = held.with_channel(name, delay_s=now)
        # What is heard comes through the delays as they stand.
        turned = np.exp(-2j * np.pi * GRID * now)
        heard = {key: one * turned if key[0] == Group.REAR else one for key, one in sums.items()}
        again = fill(REAR_ALONE, held, COMES, LARGE, heard, GRID).edits[0].delays_s["rear-l"]
        assert (again == pytest.approx(now, abs=1e-5)) is stays
