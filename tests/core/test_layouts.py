"""Ready systems, the seams and chains of any system, and what is wrong with one."""

import pytest
from pydantic import ValidationError

from imbrix.core.system.layout import Driver, Group, Kind, Layout
from imbrix.core.system.layouts import READY, driver, make, ready
from imbrix.core.system.remarks import remarks
from imbrix.core.tune.apply import apply, followers, relative_delay
from imbrix.core.tune.edits import SetCrossover, SetSeam
from imbrix.core.tune.tune import neutral

WHOLE = ready("whole-car", "left")


@pytest.mark.parametrize("one", READY, ids=lambda one: one.key)
def test_every_ready_layout_fits_eight_outputs_or_says_that_it_does_not(one) -> None:
    layout = make(one.ways)
    barred = [one for one in remarks(layout, 8) if one.bars]
    if len(layout.drivers) > 8:
        assert f"{len(layout.drivers)} drivers, but the processor has 8 outputs" in barred[0].says
    else:
        assert not barred
    assert len({one.id for one in layout.drivers}) == len(layout.drivers)
    assert len({seam.id for seam in layout.seams()}) == len(layout.seams())
    for seam in layout.seams():
        assert {*seam.lowers, *seam.uppers} <= {one.id for one in layout.drivers}


def test_rear_and_centre_share_no_seam_with_the_front() -> None:
    layout = make(
        (
            (Group.FRONT, Kind.MIDBASS, True),
            (Group.FRONT, Kind.TWEETER, True),
            (Group.CENTRE, Kind.FULL, False),
            (Group.REAR, Kind.FULL, True),
        )
    )
    front = [seam for seam in layout.seams() if seam.group == Group.FRONT]
    assert not any("rear" in name or "centre" in name for seam in front for name in seam.lowers + seam.uppers)
    assert [one.id for one in layout.above(layout.driver("rear-l"))] == ["rear-l"]
    assert "rear-l" not in [one.id for one in layout.above(layout.driver("midbass-l"))]


def test_the_whole_car_has_its_seams() -> None:
    """Subs against each other and summed below the front, each group's own ways, and its two sides."""
    assert len(WHOLE.drivers) == 14
    assert [seam.id for seam in WHOLE.seams()] == [
        "subs",
        "sub-midbass-left",
        "sub-midbass-right",
        "sub-midbass-both",
        "midbass-mid-left",
        "midbass-mid-right",
        "mid-tweeter-left",
        "mid-tweeter-right",
        "left-right",
        "centre-midbass-tweeter-both",
        "rear-midbass-tweeter-left",
        "rear-midbass-tweeter-right",
        "rear-left-right",
    ]
    assert WHOLE.seam("sub-midbass-both").lowers == ("sub", "sub-2")
    assert WHOLE.seam("rear-left-right").uppers == ("rear-midbass-r", "rear-tweeter-r")
    assert neutral(WHOLE).tied_ways == (
        "sub-midbass",
        "midbass-mid",
        "mid-tweeter",
        "centre-midbass-tweeter",
        "rear-midbass-tweeter",
    )


def test_a_sub_without_a_front_serves_what_there_is() -> None:
    layout = make(((Group.SUB, Kind.SUB, False), (Group.REAR, Kind.FULL, True)))
    assert [seam.id for seam in layout.seams()] == [
        "sub-full-left",
        "sub-full-right",
        "sub-full-both",
        "rear-left-right",
    ]
    assert make(((Group.SUB, Kind.SUB, False),)).seams() == ()


def test_a_corner_moves_with_its_own_group_only() -> None:
    tune = neutral(WHOLE)
    rear = followers(tune, WHOLE, "rear-midbass-l", "low_pass")
    assert set(rear) == {
        ("rear-midbass-l", "low_pass"),
        ("rear-midbass-r", "low_pass"),
        ("rear-tweeter-l", "high_pass"),
        ("rear-tweeter-r", "high_pass"),
    }
    subs = apply(tune, [SetCrossover(channel="sub-2", end="low_pass", corner_hz=80)], WHOLE).channels
    assert {name for name, one in subs.items() if one.low_pass} == {"sub", "sub-2"}
    assert {name for name, one in subs.items() if one.high_pass and one.high_pass.corner_hz == 80} == {
        "midbass-l",
        "midbass-r",
    }


def test_both_subs_move_in_time_below_the_front_and_one_against_the_other() -> None:
    tune = neutral(WHOLE)
    later = apply(tune, [SetSeam(seam="sub-midbass-both", delay_s=-0.004)], WHOLE)
    moved = {name for name, one in later.channels.items() if one.delay_s}
    assert moved == {"sub", "sub-2"}
    assert relative_delay(later, WHOLE.seam("sub-midbass-left")) == pytest.approx(-0.004)
    apart = apply(later, [SetSeam(seam="subs", delay_s=0.002)], WHOLE)
    assert apart.channels["sub-2"].delay_s == pytest.approx(0.006)
    assert apart.channels["sub"].delay_s == pytest.approx(0.004)


def test_each_of_several_subs_has_a_seam_to_the_first() -> None:
    sub = WHOLE.driver("sub-2")
    third = sub.model_copy(update={"id": "sub-3", "name": "Sub third", "output": 15})
    layout = WHOLE.model_copy(update={"drivers": (*WHOLE.drivers, third)})
    between = {one.id: (one.lowers, one.uppers) for one in layout.seams() if one.group == Group.SUB}
    assert between == {"subs-2": (("sub",), ("sub-2",)), "subs-3": (("sub",), ("sub-3",))}


def test_too_many_drivers_are_told_what_could_give_way() -> None:
    """14 drivers on 12 outputs: each way out is a layout with as many drivers less as it says."""
    (said,) = remarks(WHOLE, 12)
    assert said.bars
    assert [way.says for way in said.ways_out] == [
        "join the subs on one output (frees 1 output)",
        "make the centre passive (frees 1 output)",
        "make the rear passive (frees 2 outputs)",
    ]
    for way, count in zip(said.ways_out, (13, 13, 12), strict=True):
        assert len(way.layout.drivers) == count
        assert [one.output for one in way.layout.drivers] == list(range(1, count + 1))
    rear = said.ways_out[2].layout
    assert rear.driver("rear-midbass-l").passive_to == Kind.TWEETER
    assert not [one for one in remarks(rear, 12) if one.bars]
    assert not [seam for seam in rear.seams() if seam.group == Group.REAR and seam.ways]


def test_conflicts_are_said_at_once() -> None:
    sub = driver(Group.SUB, Kind.SUB, "both", 1)
    left, right = driver(Group.FRONT, Kind.MID, "left", 1), driver(Group.FRONT, Kind.MID, "right", 9)
    says = [one.says for one in remarks(Layout(drivers=(sub, left, right), seat="left"), 8) if one.bars]
    assert says == ["Sub and Mid L share output 1", "Mid R is on output 9; the processor has 1 to 8"]
    twice = Layout(drivers=(left, driver(Group.FRONT, Kind.MID, "left", 2)), seat="left")
    assert any("two drivers Mid L" in one.says for one in remarks(twice, 8))
    for first, second in (("left", "both"), ("both", "left")):
        mono = driver(Group.FRONT, Kind.MID, first, 2), driver(Group.FRONT, Kind.MID, second, 1)
        mixed = Layout(drivers=mono, seat="left")
        assert any("mono way and as a side" in one.says for one in remarks(mixed, 8))
    strays = (driver(Group.REAR, Kind.SUB, "both", 1), driver(Group.SUB, Kind.MID, "both", 2))
    says = [one.says for one in remarks(Layout(drivers=strays, seat="left"), 8)]
    assert "Rear sub is a sub, so it belongs to the subs, not to the rear" in says
    assert "Mid is no sub: it belongs to the front, the centre or the rear" in says
    assert remarks(Layout(drivers=(), seat="left"), 8)[0].bars


def test_outputs_left_over_are_named_but_bar_nothing() -> None:
    layout = make(((Group.FRONT, Kind.FULL, True),))
    (only,) = remarks(layout, 4)
    assert only.says == "outputs 3, 4 not used"
    assert not only.bars


def test_a_passive_part_leads_upwards() -> None:
    values = {"id": "a", "name": "A", "side": "both", "output": 1}
    assert Driver(**values, kind="midbass", passive_to="tweeter").passive_to == Kind.TWEETER
    with pytest.raises(ValidationError, match="leads from a way to a higher one"):
        Driver(**values, kind="tweeter", passive_to="midbass")


@pytest.mark.parametrize(
    ("kind", "now", "group"),
    [("centre", Kind.FULL, Group.CENTRE), ("rear", Kind.FULL, Group.REAR), ("sub", Kind.SUB, Group.SUB)],
)
def test_a_driver_of_version_0_1_finds_its_group(kind: str, now: Kind, group: Group) -> None:
    old = {"id": kind, "name": kind, "kind": kind, "side": "both", "output": 1}
    assert (Driver(**old).kind, Driver(**old).group) == (now, group)
    assert Driver.model_validate(Driver(**old).model_dump(mode="json")) == Driver(**old)
