"""Edits that go on from where a thing stands, and those of all channels at once."""

import pytest

from imbrix.core.errors import InvalidError
from imbrix.core.tune.apply import apply, relative_delay, relative_polarity, with_delays
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.models import LARGE, STOCK
from imbrix.core.tune.tune import Band, Crossover, Tune, neutral
from imbrix.standins.places.van import layout as wren_layout

LAYOUT = wren_layout()
NEUTRAL = neutral(LAYOUT)


def edited(tune: Tune, *edits: dict, limits: bool = False) -> Tune:
    return apply(tune, EDITS.validate_python(list(edits)), LAYOUT, STOCK if limits else None)


def delays(tune: Tune) -> dict[str, float]:
    return {name: round(one.delay_s * 1e3, 6) for name, one in tune.channels.items() if one.delay_s}


def test_the_target_is_moved_from_where_it_stands() -> None:
    stands = edited(NEUTRAL, {"do": "target", "level_db": 80.0})
    up = edited(stands, {"do": "step-target", "level_db": 1.5})
    assert up.target.level_db == 81.5
    assert edited(up, {"do": "step-target", "level_db": -3.0}).target.level_db == 78.5
    assert up.target.model_copy(update={"level_db": 80.0}) == stands.target


def test_gain_and_delay_are_stepped_and_no_delay_is_below_zero() -> None:
    stands = edited(NEUTRAL, {"do": "channel", "channel": "sub", "gain_db": -2.0, "delay_s": 0.001})
    later = edited(stands, {"do": "step", "channel": "sub", "gain_db": 0.5, "delay_s": 0.0005})
    assert later.channels["sub"].gain_db == -1.5
    assert delays(later) == {"sub": 1.5}
    assert delays(edited(stands, {"do": "step", "channel": "sub", "delay_s": -0.002})) == {}


@pytest.mark.parametrize(("octaves", "hertz"), [(1.0, 160.0), (-0.5, 80 / 2**0.5)])
def test_the_corner_that_there_is_moves_by_octaves(octaves: float, hertz: float) -> None:
    both = edited(
        NEUTRAL,
        {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 80.0},
        {"do": "crossover", "channel": "mid-l", "end": "low_pass", "corner_hz": 3000.0},
    )
    moved = edited(both, {"do": "step", "channel": "mid-l", "octaves": octaves}).channels["mid-l"]
    assert moved.high_pass is not None
    assert moved.high_pass.corner_hz == pytest.approx(hertz)
    assert moved.low_pass == both.channels["mid-l"].low_pass
    low = edited(NEUTRAL, {"do": "crossover", "channel": "sub", "end": "low_pass", "corner_hz": 80.0})
    stepped = edited(low, {"do": "step", "channel": "sub", "octaves": octaves}).channels["sub"]
    assert stepped.low_pass is not None
    assert stepped.low_pass.corner_hz == pytest.approx(hertz)
    with pytest.raises(InvalidError, match="Sub has no corner to move"):
        edited(NEUTRAL, {"do": "step", "channel": "sub", "octaves": octaves})


def test_all_gains_are_shifted_by_as_much() -> None:
    stands = edited(NEUTRAL, {"do": "channel", "channel": "sub", "gain_db": -2.0})
    down = edited(stands, {"do": "gains", "by_db": -1.5})
    assert {name: one.gain_db for name, one in down.channels.items() if name != "sub"} == dict.fromkeys(
        [name for name in NEUTRAL.channels if name != "sub"], -1.5
    )
    assert down.channels["sub"].gain_db == -3.5


def test_a_seam_is_stepped_from_where_it_stands() -> None:
    seam = LAYOUT.seam("mid-tweeter-left")
    stands = edited(NEUTRAL, {"do": "seam", "seam": seam.id, "delay_s": 0.0003})
    assert relative_delay(stands, seam) == pytest.approx(0.0003)
    later = edited(stands, {"do": "step-seam", "seam": seam.id, "delay_s": 0.0002})
    assert relative_delay(later, seam) == pytest.approx(0.0005)
    back = edited(later, {"do": "step-seam", "seam": seam.id, "delay_s": -0.001})
    assert relative_delay(back, seam) == pytest.approx(-0.0005)
    assert min(one.delay_s for one in back.channels.values()) == 0.0


def test_a_polarity_at_a_seam_turns_what_moves_and_stays_where_it_is_as_asked() -> None:
    seam = LAYOUT.seam("mid-tweeter-left")
    turned = edited(NEUTRAL, {"do": "seam", "seam": seam.id, "invert": True})
    assert relative_polarity(turned, seam)
    assert turned.channels["tweeter-l"].inverted
    assert not turned.channels["mid-l"].inverted
    assert edited(turned, {"do": "seam", "seam": seam.id, "invert": True}) == turned
    assert edited(turned, {"do": "seam", "seam": seam.id, "invert": False}) == NEUTRAL


def test_delays_are_given_for_some_and_shifted_so_that_none_is_below_zero() -> None:
    stands = edited(NEUTRAL, {"do": "delays", "delays_s": {"sub": 0.002, "mid-l": 0.001}})
    assert delays(stands) == {"sub": 2.0, "mid-l": 1.0}
    assert delays(edited(stands, {"do": "delays", "delays_s": {"mid-l": 0.003}})) == {"sub": 2.0, "mid-l": 3.0}
    early = with_delays(stands, {name: one.delay_s - 0.0015 for name, one in stands.channels.items()})
    assert delays(early) == delays(stands)
    late = with_delays(stands, {name: one.delay_s + 0.001 for name, one in stands.channels.items()})
    assert late.channels["tweeter-l"].delay_s == pytest.approx(0.001)


def test_bands_end_where_they_do() -> None:
    bell = {"kind": "peaking", "frequency_hz": 100.0, "gain_db": -3.0, "q": 2.0}
    one = edited(NEUTRAL, {"do": "band", "channel": "sub", "index": 0, "band": bell})
    two = edited(one, {"do": "band", "channel": "sub", "index": 1, "band": {**bell, "frequency_hz": 50.0}})
    assert [band.frequency_hz for band in two.channels["sub"].bands] == [100.0, 50.0]
    (left,) = edited(two, {"do": "band", "channel": "sub", "index": 0}).channels["sub"].bands
    assert left.frequency_hz == 50.0
    with pytest.raises(InvalidError, match="there is no band 4; there are 2"):
        edited(two, {"do": "band", "channel": "sub", "index": 3, "band": bell})
    with pytest.raises(InvalidError, match="there is no band 3; there are 2"):
        edited(two, {"do": "band", "channel": "sub", "index": 2})
    with pytest.raises(InvalidError, match="there is no band 1; there are 0"):
        edited(NEUTRAL, {"do": "band", "channel": None, "index": 0})
    common = edited(NEUTRAL, {"do": "bands", "channel": None, "bands": [bell]})
    assert common.common == (Band(frequency_hz=100, gain_db=-3, q=2),)
    louder = edited(NEUTRAL, {"do": "bands", "channel": "sub", "bands": [bell], "gain_db": -4.0})
    assert louder.channels["sub"].gain_db == -4


def test_linear_phase_gets_taps_for_a_corner_that_may_move_down() -> None:
    """0.8 of the corner; as many periods of it whatever it is; an odd number, as far as there are so many."""

    def taps(hertz: float, **more: object) -> int:
        edit = {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": hertz, "linear": True, **more}
        made = apply(NEUTRAL, EDITS.validate_python([edit]), LAYOUT, LARGE)
        end = made.channels["mid-l"].high_pass
        assert isinstance(end, Crossover)
        return end.taps

    assert taps(4000) % 2 == taps(2000) % 2 == 1
    assert taps(2000) == pytest.approx(2 * taps(4000), abs=3)
    assert taps(4000, slope_db=48) > taps(4000)
    assert taps(100) == 511
    with pytest.raises(InvalidError, match="has no FIR filter"):
        edited(NEUTRAL, {"do": "crossover", "channel": "mid-l", "end": "high_pass", "linear": True}, limits=True)
