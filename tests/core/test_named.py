"""Which driver a recording is of, by what people call their files."""

import pytest

from imbrix.core.system.layouts import ready
from imbrix.core.system.named import driver_named

FRONT = ready("front-3-sub", "right").drivers
WITH_REAR = ready("front-3-rear-sub", "right").drivers


@pytest.mark.parametrize(
    ("name", "driver"),
    [
        ("Mid L.wav", "mid-l"),
        ("mid-l 2.wav", "mid-l"),
        ("MidL_take3.WAV", "mid-l"),
        ("van/Tweeter R.wav", "tweeter-r"),
        ("tweeter_right.wav", "tweeter-r"),
        ("right tweeter near field.wav", "tweeter-r"),
        ("C:\\jobs\\SUB.wav", "sub"),
        ("subwoofer.wav", "sub"),
        ("mid bass left.wav", "midbass-l"),
        ("Midbass R (2).txt", "midbass-r"),
        ("out3.wav", FRONT[2].id),
        ("2026-11-26 ch 3.wav", FRONT[2].id),
        ("left.wav", None),
        ("mid.wav", None),
        ("holiday.wav", None),
        ("", None),
        ("mid l and tweeter l.wav", None),
        ("channel 31.wav", None),
    ],
)
def test_a_name_tells_of_one_driver_or_of_none(name: str, driver: str | None) -> None:
    found = driver_named(name, FRONT)
    assert (found.id if found else None) == driver


def test_every_driver_is_found_by_its_own_name_and_id() -> None:
    for layout in ("front-3-rear-sub", "whole-car", "four-way"):
        known = ready(layout, "left").drivers
        for one in known:
            assert driver_named(f"{one.name}.wav", known) == one
            assert driver_named(f"{one.id} again.wav", known) == one


def test_a_group_tells_rear_from_front() -> None:
    found = driver_named("rear left.wav", WITH_REAR)
    assert found is None or found.group == "rear"
    assert driver_named("full rear left.wav", WITH_REAR).id == next(
        one.id for one in WITH_REAR if (one.group, one.side) == ("rear", "left")
    )
