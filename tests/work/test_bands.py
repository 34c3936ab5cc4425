"""The band of a driver in a project: what counts of it and of the other side."""

import pytest

from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.bands import band
from imbrix.work.takes.forces import in_force
from imbrix.work.takes.reading import band_shown
from imbrix.work.takes.shelf import discard

SLUG = "wren"


def test_both_sides_have_one_band_until_one_is_set_aside(demo: Workspace) -> None:
    takes = in_force(demo, SLUG)
    left, right = takes["mid-l"], takes["mid-r"]
    alone = [band_shown(demo, SLUG, one) for one in (left, right)]
    assert alone[0].high_hz != alone[1].high_hz
    assert band(demo, SLUG, left) == pytest.approx(band(demo, SLUG, right), rel=1e-9)
    low, high = band(demo, SLUG, left)
    assert min(one.high_hz for one in alone) < high < max(one.high_hz for one in alone)
    discard(demo, SLUG, left.id, True)
    assert band(demo, SLUG, right) == (alone[1].low_hz, alone[1].high_hz)
    assert low != alone[1].low_hz


def test_a_sub_stands_for_itself(demo: Workspace) -> None:
    sub = in_force(demo, SLUG)["sub"]
    found = band_shown(demo, SLUG, sub)
    assert band(demo, SLUG, sub) == (found.low_hz, found.high_hz)
