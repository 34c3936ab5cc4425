"""Edits made on an older revision: both survive, or the later is refused with what was changed."""

import pytest

from imbrix.core.errors import InvalidError
from imbrix.core.system.layouts import ready
from imbrix.core.tune.apply import apply
from imbrix.core.tune.clash import clash
from imbrix.core.tune.edits import EDITS, SetTarget
from imbrix.core.tune.models import STOCK as LIMITS
from imbrix.core.tune.tune import Bend, neutral

LAYOUT = ready("front-2-sub", "left")
OLD = neutral(LAYOUT)


def edits(*values: dict):
    return EDITS.validate_python(list(values))


GAIN = {"do": "channel", "channel": "sub", "gain_db": -3}
BAND = {"do": "band", "channel": "sub", "index": 0, "band": {"frequency_hz": 50}}
SECOND = {"do": "second", "priority": "before"}
CORNER = {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 2500}


@pytest.mark.parametrize(
    ("first", "second", "says"),
    [
        (GAIN, {"do": "channel", "channel": "sub", "inverted": True}, ""),
        (GAIN, {"do": "channel", "channel": "tweeter-l", "gain_db": -6}, ""),
        (GAIN, {"do": "channel", "channel": "sub", "gain_db": -6}, "Sub: gain"),
        (GAIN, {"do": "channel", "channel": "sub", "gain_db": 0}, "Sub: gain"),  # back to what it saw: over the other
        (BAND, {"do": "band", "channel": "sub", "index": 0, "band": {"frequency_hz": 90}}, "Sub: band 1"),
        (BAND, {"do": "band", "channel": None, "index": 0, "band": {"frequency_hz": 90}}, ""),
        (CORNER, {"do": "crossover", "channel": "midbass-r", "end": "low_pass", "slope_db": 48}, "high-pass"),  # tied
        (CORNER, {"do": "crossover", "channel": "midbass-l", "end": "high_pass", "corner_hz": 80}, ""),
        (GAIN, {"do": "neutral"}, "Sub: gain"),
        (SECOND, {"do": "second", "priority": "after"}, "Second source: priority"),
        (SECOND, {"do": "second", "gain_db": -3}, ""),
        (SECOND, GAIN, ""),
        (GAIN, {"do": "step", "channel": "sub", "gain_db": 0.5}, ""),
        ({"do": "target", "level_db": 80}, {"do": "target", "level_db": 70}, "target level"),
        ({"do": "target", "level_db": 80}, {"do": "step-target", "level_db": 1}, ""),
    ],
)
def test_what_touches_the_same_is_refused_and_nothing_else(first: dict, second: dict, says: str) -> None:
    now = apply(OLD, edits(first), LAYOUT, LIMITS)
    found = clash(OLD, now, edits(second), LAYOUT, LIMITS)
    assert bool(found) == bool(says)
    assert says in "; ".join(found)
    if not says:  # both survive
        both = apply(now, edits(second), LAYOUT, LIMITS)
        assert both != now
        assert clash(now, both, edits({"do": "solo", "channel": "sub"}), LAYOUT, LIMITS) == ()


def test_steps_add_up_from_wherever_a_setting_stands() -> None:
    tune = OLD
    for _ in range(5):
        tune = apply(tune, edits({"do": "step", "channel": "sub", "gain_db": -0.1}), LAYOUT, LIMITS)
    assert tune.channels["sub"].gain_db == pytest.approx(-0.5, abs=1e-9)
    step = {"do": "step", "channel": "sub", "delay_s": 1 / 48_000}
    tune = apply(tune, edits(step, step, step), LAYOUT, LIMITS)
    assert tune.channels["sub"].delay_s * 48_000 == pytest.approx(3, abs=1e-6)
    back = {"do": "step", "channel": "sub", "delay_s": -0.01}
    assert apply(tune, edits(back), LAYOUT, LIMITS).channels["sub"].delay_s == 0  # nothing plays before it hears
    tune = apply(tune, edits(CORNER, {"do": "step", "channel": "tweeter-l", "octaves": 1 / 6}), LAYOUT, LIMITS)
    assert tune.channels["tweeter-r"].high_pass.corner_hz == pytest.approx(2500 * 2 ** (1 / 6), abs=0.05)
    seam = "midbass-tweeter-left"
    tune = apply(tune, edits({"do": "step-seam", "seam": seam, "delay_s": 2 / 48_000}), LAYOUT, LIMITS)
    later = tune.channels["tweeter-l"].delay_s - tune.channels["midbass-l"].delay_s
    assert later * 48_000 == pytest.approx(2, abs=1e-6)
    with pytest.raises(InvalidError, match="has no corner to move"):
        apply(OLD, edits({"do": "step", "channel": "sub", "octaves": 0.1}), LAYOUT, LIMITS)


def test_two_windows_that_bend_the_target_alike_clash_and_else_do_not() -> None:
    now = apply(OLD, [SetTarget(bass_db=4)], LAYOUT, LIMITS)
    assert clash(OLD, now, [SetTarget(tilt_db=-0.5)], LAYOUT, LIMITS) == ()
    assert clash(OLD, now, [SetTarget(bass_db=6)], LAYOUT, LIMITS)
    bent = apply(OLD, [SetTarget(bends=(Bend(frequency_hz=100, level_db=2),))], LAYOUT, LIMITS)
    assert clash(OLD, bent, [SetTarget(bends=(Bend(frequency_hz=3000, level_db=1),))], LAYOUT, LIMITS)
