"""What a processor can do: each limit from both sides, what is settled, and what is nearest to what it cannot."""

import pytest
from pydantic import ValidationError

from imbrix.core.system.layouts import ready
from imbrix.core.tune.limits import Limits, Range
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Band, Channel, Crossover, Input, neutral

ONLY = Limits(
    name="Made up",
    inputs=2,
    outputs=8,
    rate=48_000,
    slots=1,
    bands=3,
    input_bands=1,
    slope_db=24,
    gain_db=Range(least=-30, most=3, step=0.5),
    delay_s=Range(least=0, most=0.010),
    corner_hz=Range(least=30, most=15_000, step=1),
    band_hz=Range(least=25, most=16_000, step=1),
    band_gain_db=Range(least=-12, most=6, step=0.5),
    q=Range(least=0.5, most=8, step=0.1),
)
LAYOUT = ready("bookshelf-2", "left")


def end(hertz: float, slope: int = 24, shape: str = "linkwitz-riley") -> Crossover:
    return Crossover(shape=shape, slope_db=slope, corner_hz=hertz)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("inside", "beyond", "says"),
    [
        ({"gain_db": 3.0}, {"gain_db": 3.5}, "a gain of 3.5 dB is outside -30 to 3 dB"),
        ({"gain_db": -30.0}, {"gain_db": -31.0}, "a gain of -31 dB is outside -30 to 3 dB"),
        ({"delay_s": 0.01}, {"delay_s": 0.0101}, "a delay of 10.100 ms is beyond the 10 ms it can do"),
        ({"high_pass": end(30)}, {"high_pass": end(29)}, "a high-pass corner of 29 Hz is outside 30 to 15000 Hz"),
        ({"low_pass": end(15e3)}, {"low_pass": end(15.1e3)}, "a low-pass corner of 15100 Hz is outside 30 to 15000 Hz"),
        ({"high_pass": end(80, 24)}, {"high_pass": end(80, 48)}, "a high-pass of 48 dB per octave is beyond its 24"),
        ({"bands": (Band(frequency_hz=25),)}, {"bands": (Band(frequency_hz=24),)}, "a band of 24 Hz is outside 25 to"),
        (
            {"bands": (Band(frequency_hz=99, gain_db=6),)},
            {"bands": (Band(frequency_hz=99, gain_db=6.5),)},
            "a band of 6.5 dB is outside -12 to 6 dB",
        ),
        (
            {"bands": (Band(frequency_hz=99, q=8),)},
            {"bands": (Band(frequency_hz=99, q=8.5),)},
            "a band's Q of 8.5 is outside 0.5 to 8",
        ),
        (
            {"bands": (Band(frequency_hz=99),) * 3},
            {"bands": (Band(frequency_hz=99),) * 4},
            "4 bands, the common ones included, are more than the 3 it has",
        ),
    ],
)
def test_each_limit_of_a_channel_from_both_sides(inside: dict, beyond: dict, says: str) -> None:
    assert ONLY.refuse(Channel(**inside)) == []
    (said,) = ONLY.refuse(Channel(**beyond))
    assert said.startswith(says)


def test_common_bands_count_with_a_channels_own() -> None:
    own, common = (Band(frequency_hz=99),) * 2, (Band(frequency_hz=500),)
    assert ONLY.refuse(Channel(bands=own), common) == []
    assert len(ONLY.refuse(Channel(bands=own), common * 2)) == 1


def test_inputs_and_what_is_beyond_them() -> None:
    one = Band(frequency_hz=99)
    assert ONLY.refuse_input(Input(bands=(one,))) == []
    assert ONLY.refuse_input(Input(bands=(one, one))) == ["2 bands are more than the 1 it has for an input"]
    tune = neutral(LAYOUT)
    name = LAYOUT.drivers[0].id
    fits = tune.model_copy(update={"inputs": (Input(), Input(gain_db=-3), Input()), "routing": {name: (1.0, 0.5)}})
    assert ONLY.refusals(fits, LAYOUT) == []
    more = tune.model_copy(update={"inputs": (Input(), Input(), Input(gain_db=-3)), "routing": {name: (0, 0, 1.0)}})
    assert ONLY.refusals(more, LAYOUT) == [
        f"{LAYOUT.drivers[0].name} hears input 3, but there are only 2 inputs",
        "input 3 is set, but there are only 2 inputs",
    ]


def test_a_driver_beyond_the_outputs_is_named() -> None:
    few = ONLY.model_copy(update={"outputs": 4})
    assert few.refusals(neutral(LAYOUT), LAYOUT) == []
    few = ONLY.model_copy(update={"outputs": 3})
    last = next(one for one in LAYOUT.drivers if one.output == 4)
    assert few.refusals(neutral(LAYOUT), LAYOUT) == [f"{last.name} is on output 4, but there are only 3 outputs"]


def test_values_go_to_their_step_and_stay_within() -> None:
    assert Range(least=-1, most=1, step=0.25).settle(0.3) == 0.25
    assert Range(least=-1, most=1, step=0.25).settle(0.4) == 0.5
    assert Range(least=-1, most=1).settle(0.3) == 0.3
    assert (Range(least=-1, most=1).settle(2), Range(least=-1, most=1).settle(-2)) == (1, -1)
    assert Range(least=1, most=1).holds(1)
    kept = ONLY.settle(
        Channel(
            gain_db=-3.3, delay_s=0.00301, high_pass=end(80.4), bands=(Band(frequency_hz=99.6, gain_db=2.2, q=1.27),)
        )
    )
    assert kept.gain_db == -3.5
    assert kept.delay_s * 48_000 == pytest.approx(144)
    assert kept.high_pass == end(80)
    assert kept.bands == (Band(frequency_hz=100, gain_db=2.0, q=1.3),)
    assert ONLY.settle_input(Input(gain_db=-3.3)).gain_db == -3.5


def test_of_too_many_bands_those_stay_that_do_most_in_their_order() -> None:
    """Decibels over Q, which is decibels times octaves but for a factor; an all-pass belongs to the alignment."""
    weak, wide, sharp = (Band(frequency_hz=99, gain_db=db, q=q) for db, q in ((1.0, 1.0), (-3.0, 1.5), (6.0, 4.0)))
    turn = Band(kind="all_pass", frequency_hz=99)
    assert ONLY.strongest((weak, wide, sharp), 3) == (weak, wide, sharp)
    assert ONLY.strongest((weak, wide, sharp), 2) == (wide, sharp)
    assert ONLY.strongest((weak, sharp, wide, turn), 2) == (wide, turn)
    assert ONLY.strongest((weak, wide), 0) == ()


def test_the_nearest_slope_is_of_the_same_family_where_there_is_one() -> None:
    assert ONLY.nearest(end(80, 48)) == end(80, 24)
    assert ONLY.nearest(end(80, 12)) == end(80, 12)
    only = ONLY.model_copy(update={"slopes": {"butterworth": (6, 18)}})
    assert only.nearest(end(80, 12)).shape == "butterworth"
    assert only.nearest(end(80, 24)).slope_db == 18
    assert only.slopes_of("linkwitz-riley") == ()
    (said,) = only.refuse(Channel(high_pass=end(80, 24)))
    assert said == "a high-pass of the linkwitz-riley family is beyond it: it has butterworth"
    (said,) = only.refuse(Channel(high_pass=end(80, 12, "butterworth")))
    assert said == "a high-pass of 12 dB per octave is none of its 6, 18"


def test_a_second_source_is_refused_where_there_can_be_none_or_it_is_too_loud() -> None:
    loud = SecondSource(priority="before", gain_db=6.5)
    assert ONLY.refuse_second(SecondSource()) == []
    assert ONLY.refuse_second(loud) == ["it is to be heard, but this processor can have none"]
    assert STOCK.refuse_second(loud) == ["a gain of 6.5 dB is outside -40 to 6 dB"]
    assert STOCK.refuse_second(loud.model_copy(update={"gain_db": 6.0})) == []
    assert STOCK.settle_second(loud).gain_db == 6.0


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({"slopes": {"butterworth": (7,)}}, "butterworth has no slope of 7 dB per octave"),
        ({"slopes": {"butterworth": ()}}, "there is no slope at all"),
        ({"corner_hz": {"least": 0.9, "most": 100}}, "the corner goes from 0.9 to 100; 1 to 24000"),
        ({"corner_hz": {"least": 1, "most": 24_001}}, "the corner goes from 1 to 24001; 1 to 24000"),
        ({"band_hz": {"least": 0.5, "most": 100}}, "the band's frequency goes from 0.5"),
        ({"band_gain_db": {"least": -201, "most": 1}}, "the band's gain goes from -201 to 1; -200 to 200"),
        ({"gain_db": {"least": 0, "most": 201}}, "the gain goes from 0 to 201"),
        ({"delay_s": {"least": 0, "most": 1.1}}, "the delay goes from 0 to 1.1; 0 to 1"),
        ({"q": {"least": 0.001, "most": 1}}, "the Q goes from 0.001 to 1; 0.01 to 100"),
        ({"q": {"least": 1, "most": 101}}, "the Q goes from 1 to 101"),
        ({"gain_db": {"least": 1, "most": 0}}, "a range from 1 to 0 leads downwards"),
    ],
)
def test_a_model_that_cannot_be_is_refused(values: dict, says: str) -> None:
    with pytest.raises((ValidationError, ValueError), match=says):
        Limits.model_validate({**ONLY.model_dump(), **values})
