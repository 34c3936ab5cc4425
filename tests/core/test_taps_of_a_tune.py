"""Taps as part of a tune: kept in time, within what a processor has, and told."""

import pytest
from pydantic import ValidationError

from imbrix.core.errors import InvalidError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.apply import apply
from imbrix.core.tune.changes import changes
from imbrix.core.tune.edits import SetCrossover, SetDelays, SetTaps
from imbrix.core.tune.fir import Taps
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.models import LARGE, STOCK, TAPS
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Band, Channel, Crossover, Tune, neutral
from imbrix.standins.places import van

LAYOUT: Layout = van.layout()
PULSE = Taps.of([0.0] * 100 + [1.0] + [0.0] * 50, 48_000, 100, "a trial")  # type: ignore[arg-type]
MODEL: Limits = TAPS.model_copy(update={"outputs": 8})


def begun() -> Tune:
    return apply(neutral(LAYOUT), [SetDelays(delays_s={"sub": 0.004})], LAYOUT, MODEL)


def test_taps_of_one_channel_make_nothing_come_at_another_time() -> None:
    before = begun()
    after = apply(before, [SetTaps(channel="mid-l", taps=PULSE)], LAYOUT, MODEL)
    late = {name: one.late_s(MODEL.rate) for name, one in after.channels.items()}
    shift = late["tweeter-l"]
    assert shift == pytest.approx(100 / 48_000, abs=1e-9)
    for name, one in before.channels.items():
        assert late[name] - shift == pytest.approx(one.delay_s, abs=1e-9)
    back = apply(after, [SetTaps(channel="mid-l")], LAYOUT, MODEL)
    assert {name: one.delay_s for name, one in back.channels.items()} == pytest.approx(
        {name: one.delay_s for name, one in before.channels.items()}, abs=1e-9
    )


def test_where_the_others_cannot_wait_so_long_it_says_so() -> None:
    tight = MODEL.model_copy(update={"delay_s": MODEL.delay_s.model_copy(update={"most": 0.005})})
    with pytest.raises(InvalidError, match=r"Mid L 2.1 ms late: Sub would need a delay of 6.1 ms.*has 5 ms"):
        apply(begun(), [SetTaps(channel="mid-l", taps=PULSE)], LAYOUT, tight)


def test_an_end_of_linear_phase_takes_the_ends_tied_to_it_along_and_goes_back_to_sections() -> None:
    edit = SetCrossover(channel="tweeter-l", end="high_pass", corner_hz=3000, taps=1023, slope_db=96)
    tune = apply(begun(), [edit], LAYOUT, MODEL)
    for name, end in (("tweeter-r", "high_pass"), ("mid-l", "low_pass"), ("mid-r", "low_pass")):
        one: Crossover = getattr(tune.channels[name], end)
        assert (one.taps, one.slope_db, one.shape) == (1023, 96, "linkwitz-riley")
    assert tune.channels["sub"].delay_s == pytest.approx(0.004 + 511 / 48_000, abs=1e-9)
    assert MODEL.refusals(tune, LAYOUT) == []
    again = apply(tune, [SetCrossover(channel="tweeter-l", end="high_pass", taps=0)], LAYOUT, MODEL)
    one = again.channels["mid-r"].low_pass
    assert one is not None
    assert (one.taps, one.slope_db) == (0, 48)
    bessel = apply(tune, [SetCrossover(channel="tweeter-l", end="high_pass", shape="bessel")], LAYOUT, MODEL)
    one = bessel.channels["tweeter-r"].high_pass
    assert one is not None
    assert (one.taps, one.shape) == (0, "bessel")
    with pytest.raises(InvalidError, match="odd number"):
        apply(tune, [SetCrossover(channel="tweeter-l", end="high_pass", taps=512)], LAYOUT, MODEL)


def test_a_processor_says_what_of_taps_it_cannot_do() -> None:
    tune = begun().with_channel("mid-l", taps=PULSE)
    assert STOCK.refusals(tune, LAYOUT) == ["Mid L: 151 taps are more than it has: it knows no FIR filter"]
    (says,) = LARGE.refusals(tune, LAYOUT)
    assert "48000 samples a second, and it runs at 96000" in says
    low = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=40.0, taps=1023)
    (says,) = MODEL.refuse(begun().channels["sub"].model_copy(update={"low_pass": low}))
    assert "1023 taps are too few" in says
    assert "from about" in says
    higher = low.model_copy(update={"corner_hz": 250.0, "taps": 301})
    (says,) = MODEL.refuse(begun().channels["sub"].model_copy(update={"low_pass": higher}))
    assert "It needs about" in says
    # The nearest that another processor can do: sections, and none of the taps that were made.
    fitted = STOCK.fitted(tune.with_channel("sub", low_pass=low, high_pass=higher))
    assert fitted.channels["mid-l"].taps is None
    assert fitted.channels["sub"].low_pass == low.model_copy(update={"taps": 0})
    assert STOCK.refusals(fitted, LAYOUT) == []
    # Enough taps at one rate are too few at twice that: sections again, so that it can be played.
    kept = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=900.0, taps=245)
    tune = begun().with_channel("mid-l", high_pass=kept)
    assert MODEL.refusals(tune, LAYOUT) == []
    assert LARGE.refusals(tune, LAYOUT)
    assert LARGE.refusals(LARGE.fitted(tune), LAYOUT) == []
    assert MODEL.fitted(tune).channels["mid-l"].high_pass == kept


def test_taps_are_told_among_the_changes() -> None:
    before = begun()
    (one,) = changes(before, before.with_channel("mid-l", taps=PULSE), LAYOUT)
    assert (one.channel, one.what, one.before) == ("Mid L", "taps", "none")
    assert one.after.startswith("151 taps, 2.08 ms, #")


def test_in_brief_a_tune_is_without_the_data_of_its_taps() -> None:
    plain = begun()
    assert plain.brief is plain
    with_taps = apply(plain, [SetTaps(channel="mid-l", taps=PULSE)], LAYOUT, MODEL)
    brief = with_taps.brief
    short = brief.channels["mid-l"].taps
    assert short is not None
    assert (short.data, short.delay, short.says) == ("", PULSE.delay, PULSE.says)
    assert brief.with_channel("mid-l", taps=PULSE) == with_taps


@pytest.mark.parametrize(
    ("shape", "slope", "taps", "says"),
    [
        ("butterworth", 48, 511, "of linear phase there is linkwitz-riley"),
        ("linkwitz-riley", 30, 511, "of linear phase there is linkwitz-riley"),
        ("linkwitz-riley", 48, 512, "512 taps of linear phase have no middle"),
        ("linkwitz-riley", 96, 0, "linkwitz-riley has no slope of 96"),
    ],
)
def test_ends_that_there_are_not_are_refused(shape: str, slope: int, taps: int, says: str) -> None:
    with pytest.raises(ValidationError, match=says):
        Crossover(shape=shape, slope_db=slope, corner_hz=100, taps=taps)  # type: ignore[arg-type]


def test_an_output_that_is_muted_keeps_what_it_does() -> None:
    register = OutputRegister(channel=Channel(gain_db=-3.0, muted=True), common=(Band(frequency_hz=100),))
    assert register.sounding == (Channel(gain_db=-3.0), (Band(frequency_hz=100),))
    assert register.with_mute(False).channel == Channel(gain_db=-3.0)
    assert register.with_mute(False).with_mute(True) == register
    assert OutputRegister().channel.muted  # a fresh one is silent
