"""A tune in words and what differs in them; what a channel hears; what a customer may turn."""

import pytest

from imbrix.core.system.layouts import ready
from imbrix.core.tune.changes import (
    band_words,
    changes,
    crossover_words,
    differ_in_bands,
    differ_in_common,
    differences,
    settings,
)
from imbrix.core.tune.controls import Controls, Remote, Turned, bass_of, turned_up, within
from imbrix.core.tune.routing import default_sources, input_of, level_words, routed, shared, sources, trimmed, words
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Band, Crossover, Input, Tune, neutral

PAIR = ready("bookshelf-2", "left")
CAR = ready("front-2-sub", "left")
PLAIN = neutral(PAIR)
BELL = Band(frequency_hz=1000, gain_db=3, q=2)


@pytest.mark.parametrize(
    ("band", "says"),
    [
        (BELL, "peaking 1000 Hz, +3.0 dB, Q 2.00"),
        (BELL.model_copy(update={"off": True, "gain_db": -3.25}), "peaking 1000 Hz, -3.2 dB, Q 2.00, off"),
        (Band(kind="low_shelf", frequency_hz=80.4, gain_db=0, q=0.707), "low shelf 80 Hz, +0.0 dB, Q 0.71"),
        (Band(kind="all_pass", frequency_hz=80, q=1), "all pass 80 Hz, Q 1.00"),
        (Band(kind="all_pass_1", frequency_hz=80), "first-order all-pass 80 Hz"),
        (Band(kind="notch", frequency_hz=80, q=4), "notch 80 Hz, Q 4.00"),
    ],
)
def test_a_band_in_words(band: Band, says: str) -> None:
    assert band_words(band) == says


def test_a_crossover_in_words() -> None:
    assert crossover_words(None) == "off"
    end = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=3100)
    assert crossover_words(end) == "Linkwitz–Riley 24 dB at 3100 Hz"
    linear = end.model_copy(update={"taps": 151})
    assert crossover_words(linear) == "Linkwitz–Riley 24 dB at 3100 Hz, linear phase in 151 taps"


def rows(before: Tune, after: Tune) -> list[tuple[str, str, str, str]]:
    return [(one.channel, one.what, one.before, one.after) for one in changes(before, after, PAIR)]


def test_every_setting_that_differs_is_told_where_it_stands() -> None:
    first, second = PAIR.drivers[:2]
    after = PLAIN.with_channel(second.id, gain_db=-3.0, inverted=True, delay_s=0.00125, muted=True, bands=(BELL,))
    assert rows(PLAIN, PLAIN) == []
    assert rows(PLAIN, after) == [
        (second.name, "gain", "+0.0 dB", "-3.0 dB"),
        (second.name, "polarity", "normal", "inverted"),
        (second.name, "delay", "0.000 ms", "1.250 ms"),
        (second.name, "sound", "plays", "muted"),
        (second.name, "band 1", "none", "peaking 1000 Hz, +3.0 dB, Q 2.00"),
    ]
    common = PLAIN.model_copy(update={"common": (BELL,)})
    assert [(where, what) for where, what, *_ in rows(PLAIN, common)] == [(one.name, "band 1") for one in PAIR.drivers]
    heard = PLAIN.model_copy(update={"routing": {first.id: (0.0, 1.0)}})
    assert rows(PLAIN, heard) == [(first.name, "hears", "input 1", "input 2")]
    fed = PLAIN.model_copy(update={"inputs": (Input(), Input(gain_db=2, bands=(BELL,)))})
    assert rows(PLAIN, fed) == [
        ("Input 2", "gain", "+0.0 dB", "+2.0 dB"),
        ("Input 2", "band 1", "none", "peaking 1000 Hz, +3.0 dB, Q 2.00"),
    ]
    digital = PLAIN.model_copy(update={"second": SecondSource(priority="before", gain_db=-2.0)})
    assert rows(PLAIN, digital)[:2] == [
        ("Second source", "priority", "never", "before the wires"),
        ("Second source", "gain", "none", "-2.0 dB"),
    ]


def test_settings_tell_as_many_inputs_as_asked() -> None:
    def inputs(tune: Tune, count: int | None = None) -> set[str]:
        return {where for where, _what in settings(tune, PAIR, count) if where.startswith("Input")}

    assert inputs(PLAIN) == set()
    assert inputs(PLAIN.model_copy(update={"inputs": (Input(),)})) == {"Input 1"}
    assert inputs(PLAIN, 2) == {"Input 1", "Input 2"}


def test_what_only_one_has_is_told_in_the_order_of_the_later() -> None:
    found = differences({("A", "x"): "1", ("B", "y"): "2"}, {("B", "z"): "3", ("A", "x"): "1"})
    assert [(one.channel, one.what, one.before, one.after) for one in found] == [
        ("B", "z", "none", "3"),
        ("B", "y", "2", "none"),
    ]


def test_tunes_that_do_the_same_but_for_bands_or_what_is_common() -> None:
    name = PAIR.drivers[0].id
    louder, turned = PLAIN.with_channel(name, gain_db=2.0, bands=(BELL,)), Band(kind="all_pass", frequency_hz=300)
    assert differ_in_bands(PLAIN, louder)
    assert not differ_in_bands(PLAIN, PLAIN.with_channel(name, bands=(turned,)))
    assert not differ_in_bands(PLAIN, PLAIN.with_channel(name, delay_s=0.001))
    assert not differ_in_common(PLAIN, louder)

    def shifted(*gains: float) -> Tune:
        tune = PLAIN.model_copy(update={"common": (BELL,)})
        for one, gain in zip(PAIR.drivers, gains, strict=True):
            tune = tune.with_channel(one.id, gain_db=gain)
        return tune

    assert differ_in_common(PLAIN, shifted(-2.0, -2.05, -2.0, -2.0))
    assert not differ_in_common(PLAIN, shifted(-2.0, -2.1, -2.0, -2.0))


def test_left_hears_left_and_what_is_mono_half_of_each() -> None:
    by_side = {one.side: one for one in CAR.drivers}
    assert default_sources(by_side["left"], 2) == (1.0,)
    assert default_sources(by_side["right"], 2) == (0.0, 1.0)
    assert default_sources(by_side["both"], 2) == (0.5, 0.5)
    assert default_sources(by_side["right"], 1) == (1.0,)
    tune = neutral(CAR).model_copy(update={"routing": {by_side["left"].id: (0.0, 2.0, 0.0)}})
    assert sources(tune, by_side["left"], 2) == (0.0, 2.0)
    assert routed(tune, CAR, 2).routing[by_side["right"].id] == (0.0, 1.0)
    assert (trimmed((0.0, 0.0)), trimmed((0.0, 1.0, 0.0))) == ((), (0.0, 1.0))
    assert (shared([2, 3]), shared([])) == ((0.0, 0.5, 0.5), ())
    fed = tune.model_copy(update={"inputs": (Input(gain_db=1), Input(gain_db=2))})
    assert [input_of(fed, number).gain_db for number in (1, 2, 3)] == [1, 2, 0]


@pytest.mark.parametrize(
    ("factors", "says"),
    [
        ((), "nothing"),
        ((0.0, 0.0), "nothing"),
        ((1.0,), "input 1"),
        ((0.0, -1.0), "input 2 at +0.0 dB, inverted"),
        ((0.5, 0.5), "inputs 1 and 2, -6.0 dB each"),
        ((1.0, 1.0), "inputs 1 and 2"),
        ((2.0, 0.0, 1.0), "input 1 at +6.0 dB and input 3"),
    ],
)
def test_what_is_heard_in_words(factors: tuple[float, ...], says: str) -> None:
    assert words(factors) == says
    assert level_words(1) == ""


def test_the_bass_control_moves_the_subs_or_the_lowest_way() -> None:
    assert bass_of(CAR) == tuple(one.id for one in CAR.subs)
    assert bass_of(PAIR) == ("midbass-l", "midbass-r")


def test_no_control_goes_beyond_what_is_allowed() -> None:
    allowed = Controls(volume_db=40, bass_db=6, lift_db=4)
    assert within(Turned(volume_db=-50, bass_db=9, lift_db=6), allowed) == Turned(volume_db=-40, bass_db=6, lift_db=4)
    assert within(Turned(volume_db=-30, bass_db=-9, lift_db=3), allowed) == Turned(volume_db=-30, bass_db=-6, lift_db=3)


def test_turned_up_as_far_as_it_goes() -> None:
    up = turned_up(PLAIN.with_channel("midbass-l", gain_db=-1.0), PAIR, Controls(bass_db=5, lift_db=4, lift_hz=50))
    gains = {name: one.gain_db for name, one in up.channels.items()}
    assert gains == {"midbass-l": 4.0, "midbass-r": 5.0, "tweeter-l": 0.0, "tweeter-r": 0.0}
    assert up.common == (Band(kind="low_shelf", frequency_hz=50, gain_db=4, q=0.707),)
    assert turned_up(PLAIN, PAIR, Controls(bass_db=0, lift_db=0)) == PLAIN


def test_a_remote_moves_its_outputs_only() -> None:
    remote = Remote(turned=Turned(volume_db=-10, bass_db=3), bass_outputs=(2,))
    assert (remote.gain_db(1), remote.gain_db(2)) == (-10, -7)
    assert remote.lift is None
