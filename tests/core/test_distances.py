"""Delays from distances, and arrivals held against them: closed forms."""

import pytest

from imbrix.core.align.distances import compare, delays
from imbrix.core.system.layouts import ready

LAYOUT = ready("front-3-sub", "left")
METRES = {
    "sub": 2.2,
    "midbass-l": 0.95,
    "midbass-r": 1.45,
    "mid-l": 0.8,
    "mid-r": 1.3,
    "tweeter-l": 0.75,
    "tweeter-r": 1.25,
}


def heard(late: float = 0.0021, celsius: float = 20.0, **off: float) -> dict[str, float]:
    speed = 331.3 * (1 + celsius / 273.15) ** 0.5  # ideal gas, as ISO 9613-1 has it for dry air
    return {name: one / speed + late + off.get(name.replace("-", "_"), 0.0) for name, one in METRES.items()}


@pytest.mark.parametrize(("celsius", "speed"), [(20.0, 343.2), (0.0, 331.3), (-20.0, 318.9)])
def test_the_farthest_gets_no_delay_and_the_others_what_sound_needs(celsius: float, speed: float) -> None:
    found = delays(METRES, celsius)
    assert found["sub"] == 0
    assert found["mid-l"] == pytest.approx((2.2 - 0.8) / speed, rel=1e-3)
    assert delays({}, celsius) == {}


@pytest.mark.parametrize("celsius", [2.0, 20.0, 35.0])
def test_what_agrees_is_not_told_of_whatever_all_are_late_by(celsius: float) -> None:
    for one in compare(LAYOUT, METRES, heard(celsius=celsius), celsius).values():
        assert abs(one.seconds) < 1e-9
        assert one.says == ""


@pytest.mark.parametrize(
    ("off", "name", "says"),
    [
        ({"mid_r": 0.0008}, "mid-r", "a reflection counted"),
        ({"mid_r": -0.0008}, "mid-r", "another driver"),
        ({"sub": 0.004}, "sub", "amplifier"),
        (
            {"tweeter_l": 0.5 / 343.2, "tweeter_r": -0.5 / 343.2},
            "tweeter-l",
            "Tweeter R should: the two may be exchanged",
        ),
    ],
)
def test_what_strays_is_told_with_its_likely_cause(off: dict[str, float], name: str, says: str) -> None:
    found = compare(LAYOUT, METRES, heard(**off), 20.0)
    assert found[name].seconds == pytest.approx(off[name.replace("-", "_")], abs=1e-6)
    assert says in found[name].says
    told = {each for each, one in found.items() if one.says}
    assert told == {each.replace("_", "-") for each in off}


def test_a_low_note_may_begin_late_and_two_drivers_do_not_say_which_is_astray() -> None:
    assert compare(LAYOUT, METRES, heard(sub=0.001), 20.0)["sub"].says == ""
    assert compare(LAYOUT, METRES, heard(sub=0.0016), 20.0)["sub"].says
    few = {"mid-l": 0.8, "mid-r": 1.3}
    assert compare(LAYOUT, few, heard(mid_l=0.002), 20.0) == {}
    assert compare(LAYOUT, {**few, "sub": 2.2}, heard(mid_l=0.002), 20.0)["mid-l"].says


@pytest.mark.parametrize(("late_ms", "told"), [(0.29, False), (0.31, True), (-0.29, False), (-0.31, True)])
def test_ten_centimetres_are_told_of(late_ms: float, told: bool) -> None:
    found = compare(LAYOUT, METRES, heard(mid_r=late_ms * 1e-3), 20.0)
    assert bool(found["mid-r"].says) == told
