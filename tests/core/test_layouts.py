"""Ready layouts, and what is wrong with a layout."""

import pytest

from imbrix.core.system.layout import Kind, Layout
from imbrix.core.system.layouts import READY, driver, make, remarks


@pytest.mark.parametrize("ready", READY, ids=lambda one: one.key)
def test_every_ready_layout_fits_eight_outputs_or_says_that_it_does_not(ready) -> None:
    layout = make(ready.ways)
    barred = [one for one in remarks(layout, 8) if one.bars]
    if len(layout.drivers) > 8:
        assert "9 drivers, but the processor has 8 outputs" in barred[0].says
    else:
        assert not barred
    assert len({one.id for one in layout.drivers}) == len(layout.drivers)
    for seam in layout.seams():
        assert {*seam.lowers, *seam.uppers} <= {one.id for one in layout.drivers}


def test_rear_and_centre_share_no_seam_with_the_ways() -> None:
    layout = make(((Kind.MIDBASS, True), (Kind.TWEETER, True), (Kind.CENTRE, False), (Kind.REAR, True)))
    assert layout.kinds == (Kind.MIDBASS, Kind.TWEETER)
    assert not any("rear" in name or "centre" in name for seam in layout.seams() for name in seam.lowers + seam.uppers)
    assert [one.id for one in layout.above(layout.driver("rear-l"))] == ["rear-l"]
    assert "rear-l" not in [one.id for one in layout.above(layout.driver("midbass-l"))]


def test_conflicts_are_said_at_once() -> None:
    sub, left, right = driver(Kind.SUB, "both", 1), driver(Kind.MID, "left", 1), driver(Kind.MID, "right", 9)
    says = [one.says for one in remarks(Layout(drivers=(sub, left, right), seat="left"), 8) if one.bars]
    assert says == ["Sub and Mid L share output 1", "Mid R is on output 9; the processor has 1 to 8"]
    twice = Layout(drivers=(sub, driver(Kind.SUB, "both", 2)), seat="left")
    assert any("two drivers Sub" in one.says for one in remarks(twice, 8))
    mixed = Layout(drivers=(driver(Kind.SUB, "left", 2), driver(Kind.SUB, "both", 1)), seat="left")
    assert any("mono way and as a side" in one.says for one in remarks(mixed, 8))
    assert remarks(Layout(drivers=(), seat="left"), 8)[0].bars


def test_outputs_left_over_are_named_but_bar_nothing() -> None:
    layout = make(((Kind.FULL, True),))
    (only,) = remarks(layout, 4)
    assert only.says == "outputs 3, 4 not used"
    assert not only.bars
