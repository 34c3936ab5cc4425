"""Edits: ties, the order in time, limits, and the words in which changes are told."""

import pytest
from pydantic import ValidationError

from imbrix.core.errors import InvalidError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.apply import apply, relative_delay, relative_polarity
from imbrix.core.tune.changes import changes
from imbrix.core.tune.edits import EDITS, Replace
from imbrix.core.tune.models import STOCK as LIMITS
from imbrix.core.tune.tune import Band, Channel, Tune, guard, measuring, neutral
from imbrix.standins.places.van import layout as wren_layout

LAYOUT = wren_layout()
NEUTRAL = neutral(LAYOUT)


def edited(tune: Tune, *edits: dict, limits: bool = True) -> Tune:
    return apply(tune, EDITS.validate_python(list(edits)), LAYOUT, LIMITS if limits else None)


def corner(channel: str, end: str, hertz: float, **more: object) -> dict:
    return {"do": "crossover", "channel": channel, "end": end, "corner_hz": hertz, **more}


def test_the_layout_knows_its_seams() -> None:
    names = [seam.id for seam in LAYOUT.seams()]
    assert names == [
        "sub-midbass-left",
        "sub-midbass-right",
        "sub-midbass-both",
        "midbass-mid-left",
        "midbass-mid-right",
        "mid-tweeter-left",
        "mid-tweeter-right",
        "left-right",
    ]
    both = LAYOUT.seam("sub-midbass-both")
    assert (both.lowers, both.uppers) == (("sub",), ("midbass-l", "midbass-r"))
    with pytest.raises(KeyError, match="no seam"):
        LAYOUT.seam("left")
    with pytest.raises(KeyError, match="no driver"):
        LAYOUT.driver("horn")


def test_a_mono_two_way_has_one_seam() -> None:
    mono = Layout(
        drivers=tuple(d.model_copy(update={"side": "both"}) for d in LAYOUT.drivers if d.id in ("mid-l", "tweeter-l")),
        seat="left",
    )
    assert [seam.id for seam in mono.seams()] == ["mid-tweeter-both"]


def test_neutral_is_flat_and_guards_the_fragile() -> None:
    messy = edited(NEUTRAL, {"do": "channel", "channel": "sub", "gain_db": -9}, corner("sub", "low_pass", 80))
    flat = edited(messy, {"do": "neutral"})
    assert flat.channels["sub"] == Channel()
    assert flat.channels["tweeter-l"].high_pass == guard(LAYOUT.driver("tweeter-l"))
    assert flat.channels["tweeter-l"].high_pass.corner_hz == 1000  # common practice, no source


def test_while_measuring_one_plays_and_the_fragile_never_go_unguarded() -> None:
    bare = NEUTRAL.with_channel("tweeter-r", high_pass=None).model_copy(update={"solo": "sub"})
    now = measuring(bare, LAYOUT, {"tweeter-r"})
    assert [name for name in now.channels if now.audible(name)] == ["tweeter-r"]
    assert now.channels["tweeter-r"].high_pass is not None


def test_tied_ends_and_sides_move_together() -> None:
    tune = edited(NEUTRAL, corner("tweeter-l", "high_pass", 3100, shape="linkwitz-riley", slope_db=48))
    ends = [tune.channels[name].high_pass for name in ("tweeter-l", "tweeter-r")]
    ends += [tune.channels[name].low_pass for name in ("mid-l", "mid-r")]
    assert {(end.corner_hz, end.slope_db) for end in ends} == {(3100, 48)}
    assert tune.channels["midbass-l"].low_pass is None


def test_a_mono_way_follows_whichever_side_is_moved() -> None:
    tune = edited(NEUTRAL, corner("midbass-r", "high_pass", 70))
    assert tune.channels["sub"].low_pass.corner_hz == 70
    assert tune.channels["midbass-l"].high_pass.corner_hz == 70


def test_freed_ends_leave_a_gap() -> None:
    tune = edited(
        NEUTRAL,
        corner("midbass-l", "high_pass", 80),
        {"do": "tie", "ways": "sub-midbass", "what": "ways", "tied": False},
        corner("sub", "low_pass", 57),
    )
    assert tune.channels["sub"].low_pass.corner_hz == 57
    assert tune.channels["midbass-r"].high_pass.corner_hz == 80
    again = edited(tune, {"do": "tie", "ways": "sub-midbass", "what": "ways", "tied": True})
    assert again.channels["sub"].low_pass.corner_hz == 80


def test_freed_sides_differ() -> None:
    tune = edited(
        NEUTRAL,
        {"do": "tie", "ways": "mid-tweeter", "what": "sides", "tied": False},
        corner("tweeter-l", "high_pass", 2500),
    )
    assert tune.channels["mid-l"].low_pass.corner_hz == 2500
    assert tune.channels["mid-r"].low_pass is None


def test_a_new_family_takes_the_nearest_slope_it_has() -> None:
    tune = edited(NEUTRAL, corner("mid-l", "low_pass", 3000, shape="butterworth", slope_db=18))
    tune = edited(tune, {"do": "crossover", "channel": "mid-l", "end": "low_pass", "shape": "linkwitz-riley"})
    assert tune.channels["mid-l"].low_pass.slope_db in (12, 24)


def test_a_tweeter_keeps_its_high_pass() -> None:
    with pytest.raises(ValueError, match="would destroy it"):
        edited(NEUTRAL, {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "off": True})


def test_moving_a_seam_takes_along_what_lies_above() -> None:
    seam, upper = LAYOUT.seam("midbass-mid-left"), LAYOUT.seam("mid-tweeter-left")
    tune = edited(NEUTRAL, {"do": "seam", "seam": upper.id, "delay_s": 0.0005})
    tune = edited(tune, {"do": "seam", "seam": seam.id, "delay_s": -0.001, "invert": True})
    assert relative_delay(tune, seam) == pytest.approx(-0.001)
    assert relative_delay(tune, upper) == pytest.approx(0.0005)
    assert relative_polarity(tune, seam) is True
    assert relative_polarity(tune, upper) is False
    assert min(channel.delay_s for channel in tune.channels.values()) == 0


def test_a_mono_way_moves_alone() -> None:
    tune = edited(NEUTRAL, {"do": "seam", "seam": "sub-midbass-left", "delay_s": 0.002, "invert": True})
    assert tune.channels["midbass-l"].delay_s == tune.channels["midbass-r"].delay_s == pytest.approx(0.002)
    assert tune.channels["sub"].delay_s == 0
    assert tune.channels["sub"].inverted
    assert not tune.channels["midbass-l"].inverted


def test_time_at_a_seam_can_be_given_as_a_path() -> None:
    """343.2 m/s at 20 C: 0.3432 m is one millisecond."""
    seam = LAYOUT.seam("mid-tweeter-left")
    tune = edited(NEUTRAL, {"do": "seam", "seam": seam.id, "path_m": 0.3432}, limits=False)
    assert relative_delay(tune, seam) == pytest.approx(0.001, rel=1e-3)


def test_left_against_right_moves_the_whole_right() -> None:
    tune = edited(NEUTRAL, {"do": "seam", "seam": "left-right", "delay_s": 0.001})
    assert {name for name, c in tune.channels.items() if c.delay_s > 0} == {"midbass-r", "mid-r", "tweeter-r"}


def test_bands_are_put_changed_and_removed() -> None:
    band = {"kind": "peaking", "frequency_hz": 500, "gain_db": -3, "q": 2}
    put = {"do": "band", "channel": "mid-l", "index": 0, "band": band}
    tune = edited(NEUTRAL, put, {**put, "index": 1, "band": {**band, "kind": "all_pass"}})
    assert [one.kind for one in tune.channels["mid-l"].bands] == ["peaking", "all_pass"]
    tune = edited(tune, {"do": "band", "channel": "mid-l", "index": 0, "band": None})
    assert [one.kind for one in tune.channels["mid-l"].bands] == ["all_pass"]
    with pytest.raises(ValueError, match="no band 6"):
        edited(tune, {"do": "band", "channel": "mid-l", "index": 5, "band": None})


def test_values_settle_on_the_processors_steps() -> None:
    tune = edited(NEUTRAL, {"do": "channel", "channel": "sub", "gain_db": -3.14159, "delay_s": 0.00123456})
    assert tune.channels["sub"].gain_db == -3.1
    assert tune.channels["sub"].delay_s * 48_000 == pytest.approx(59)
    assert edited(tune, {"do": "gains", "by_db": 50}).channels["sub"].gain_db == LIMITS.gain_db.most


def test_what_the_processor_cannot_do_is_told_with_what_and_why() -> None:
    many = tuple(Band(frequency_hz=100 * (n + 1)) for n in range(13))
    channel = Channel(gain_db=20, delay_s=0.5, bands=many)
    said = "; ".join(LIMITS.refuse(channel))
    assert "a gain of 20 dB is outside -40 to 6 dB" in said
    assert "a delay of 500.000 ms is beyond the 20 ms" in said
    assert "13 bands" in said


@pytest.mark.parametrize(
    "edit",
    [
        {"do": "channel", "channel": "sub", "colour": "red"},
        {"do": "channel", "channel": "sub", "gain_db": float("nan")},
        {"do": "crossover", "channel": "sub", "end": "middle"},
        {"do": "magic"},
        {"do": "channel", "channel": "sub", "delay_s": -1},
        {"do": "band", "channel": "sub", "index": 0, "band": {"frequency_hz": 100, "q": 0}},
    ],
)
def test_malformed_edits_are_refused(edit: dict) -> None:
    with pytest.raises(ValidationError):
        EDITS.validate_python([edit])


def test_changes_are_told_in_words() -> None:
    tune = edited(
        NEUTRAL,
        {"do": "channel", "channel": "mid-r", "inverted": True, "delay_s": 0.00125},
        {"do": "solo", "channel": "mid-r"},
        corner("mid-r", "low_pass", 3100, shape="bessel", slope_db=24),
    )
    told = {(one.channel, one.what): (one.before, one.after) for one in changes(NEUTRAL, tune, LAYOUT)}
    assert told["Mid R", "polarity"] == ("normal", "inverted")
    assert told["Mid R", "delay"] == ("0.000 ms", "1.250 ms")
    assert told["Sub", "sound"] == ("plays", "muted")
    assert told["Mid R", "low-pass"] == ("off", "Bessel 24 dB at 3100 Hz")
    assert ("Mid R", "sound") not in told
    assert changes(tune, tune, LAYOUT) == []


def bell(hertz: float, gain: float = -3.0) -> dict:
    return {"kind": "peaking", "frequency_hz": hertz, "gain_db": gain, "q": 2}


def test_a_tied_level_moves_both_sides_by_as_much() -> None:
    tune = edited(
        NEUTRAL,
        {"do": "channel", "channel": "mid-r", "gain_db": -2},
        {"do": "pair", "channel": "mid-l", "what": "level", "tied": True},
    )
    assert tune.tied_levels == ("mid-l", "mid-r")
    assert tune.channels["mid-r"].gain_db == -2  # tying changes nothing by itself
    tune = edited(tune, {"do": "channel", "channel": "mid-l", "gain_db": -3})
    assert [tune.channels[name].gain_db for name in ("mid-l", "mid-r", "midbass-l")] == [-3, -5, 0]
    tune = edited(tune, {"do": "step", "channel": "mid-r", "gain_db": 1})
    assert [tune.channels[name].gain_db for name in ("mid-l", "mid-r")] == [-2, -4]
    # What is said of both at once counts as it is said.
    both = [{"do": "channel", "channel": name, "gain_db": gain} for name, gain in (("mid-l", -6), ("mid-r", -1))]
    tune = edited(tune, *both)
    assert [tune.channels[name].gain_db for name in ("mid-l", "mid-r")] == [-6, -1]
    free = edited(tune, {"do": "pair", "channel": "mid-r", "what": "level", "tied": False})
    free = edited(free, {"do": "channel", "channel": "mid-l", "gain_db": 0})
    assert (free.tied_levels, free.channels["mid-r"].gain_db) == ((), -1)


def test_tied_bands_are_the_same_and_all_passes_stay_their_own() -> None:
    turn = {"kind": "all_pass", "frequency_hz": 400, "gain_db": 0, "q": 1}
    tune = edited(
        NEUTRAL,
        {"do": "bands", "channel": "mid-r", "bands": [turn, bell(900)]},
        {"do": "bands", "channel": "mid-l", "bands": [bell(700)]},
        {"do": "pair", "channel": "mid-l", "what": "bands", "tied": True},
    )

    def hertz(name: str) -> list[float]:
        return [one.frequency_hz for one in tune.channels[name].bands]

    assert (hertz("mid-l"), hertz("mid-r")) == ([700], [400, 700])
    tune = edited(tune, {"do": "band", "channel": "mid-r", "index": 2, "band": bell(2000)})
    assert (hertz("mid-l"), hertz("mid-r")) == ([700, 2000], [400, 700, 2000])
    tune = edited(tune, {"do": "bands", "channel": "mid-r", "bands": [bell(700), bell(2000)]})
    assert hertz("mid-l") == [700, 2000]  # taking the all-pass away is not a matter of both
    tune = edited(tune, {"do": "pair", "channel": "mid-r", "what": "bands", "tied": False})
    tune = edited(tune, {"do": "band", "channel": "mid-l", "index": 0})
    assert (hertz("mid-l"), hertz("mid-r")) == ([2000], [700, 2000])


def test_what_has_no_partner_cannot_be_tied() -> None:
    with pytest.raises(ValueError, match="Sub has no partner"):
        edited(NEUTRAL, {"do": "pair", "channel": "sub", "what": "level", "tied": True})


def test_a_whole_tune_takes_the_place_of_one_with_the_same_channels_only() -> None:
    other = NEUTRAL.with_channel("sub", gain_db=-4.0)
    assert apply(NEUTRAL, [Replace(tune=other)], LAYOUT, LIMITS) == other
    fewer = other.model_copy(update={"channels": {"sub": other.channels["sub"]}})
    with pytest.raises(InvalidError, match="channels of this system"):
        apply(NEUTRAL, [Replace(tune=fewer)], LAYOUT, LIMITS)


def test_ways_that_are_tied_again_take_the_upper_ones_end_where_there_is_one() -> None:
    seam = next(one.name for one in LAYOUT.seams() if "mid-l" in one.lowers)
    free = edited(NEUTRAL, {"do": "tie", "what": "ways", "ways": seam, "tied": False})
    bare = free.with_channel("tweeter-l", high_pass=None).with_channel("tweeter-r", high_pass=None)
    tied = edited(bare, {"do": "tie", "what": "ways", "ways": seam, "tied": True})
    assert set(tied.tied_ways) == set(NEUTRAL.tied_ways)
    assert tied.channels == bare.channels  # nothing to take
    low = free.channels["tweeter-l"].high_pass
    assert low is not None
    left = bare.with_channel("mid-l", low_pass=low)
    after = edited(left, {"do": "tie", "what": "ways", "ways": seam, "tied": True})
    assert after.channels["tweeter-l"].high_pass == after.channels["tweeter-r"].high_pass == low
