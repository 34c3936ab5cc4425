"""What is noticed about a tune and a layout, each limit from both sides."""

import pytest

from imbrix.core.predict.findings import boosts, brought_down, clips
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layout import Driver, Group, Kind, Layout
from imbrix.core.system.layouts import ready
from imbrix.core.system.remarks import remarks
from imbrix.core.tune.apply import apply
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.tune import Band, Tune, neutral

LAYOUT = ready("bookshelf-2", "left")
PREDICTOR = Predictor(log_grid(), 48_000)


def banded(*bands: Band, gain_db: float = -20.0) -> Tune:
    tune = neutral(LAYOUT)
    for one in LAYOUT.drivers:
        tune = tune.with_channel(one.id, gain_db=-20.0)
    return tune.with_channel("midbass-l", bands=bands, gain_db=gain_db)


@pytest.mark.parametrize(
    ("gain_db", "kind"),
    [(4.0, None), (4.1, "boost"), (9.0, "boost"), (9.1, "correction"), (-9.0, None), (-9.1, "correction")],
)
def test_what_a_band_may_do_without_a_word(gain_db: float, kind: str | None) -> None:
    """Common practice, no source."""
    found = boosts(LAYOUT, banded(Band(frequency_hz=100), Band(frequency_hz=80, gain_db=gain_db)))
    assert [(one.kind, one.about) for one in found] == ([(kind, "midbass-l")] if kind else [])
    if found:
        assert found[0].says == f"Midbass L band 2 does {gain_db:+.1f} dB at 80 Hz"
    assert boosts(LAYOUT, banded(Band(kind="notch", frequency_hz=80, gain_db=20))) == []


@pytest.mark.parametrize(("gain_db", "over"), [(0.0, False), (0.04, False), (0.1, True), (5.0, True)])
def test_a_channel_clips_where_it_goes_over_full_scale(gain_db: float, over: bool) -> None:
    tune = banded(gain_db=gain_db)
    found = clips(LAYOUT, tune, PREDICTOR)
    assert [one.about for one in found] == (["midbass-l"] if over else [])
    if over:
        assert found[0].says == f"Midbass L can clip: {gain_db:+.1f} dB over full scale"
        assert found[0].action == f"Bring all gains down by {gain_db:.1f} dB"
        cured = apply(tune, found[0].remedy, LAYOUT, STOCK)
        assert clips(LAYOUT, cured, PREDICTOR) == []
        assert cured.target.level_db == pytest.approx(tune.target.level_db - gain_db, abs=0.051)


def test_a_bell_clips_by_its_top_and_all_come_down_by_the_worst() -> None:
    tune = banded(Band(frequency_hz=500, gain_db=6, q=1), gain_db=-3.0).with_channel("midbass-r", gain_db=1.0)
    found = {one.about: one for one in clips(LAYOUT, tune, PREDICTOR)}
    assert set(found) == {"midbass-l", "midbass-r"}
    assert "a sine at 500 Hz peaks at +3.0" in found["midbass-l"].evidence
    assert {one.action for one in found.values()} == {"Bring all gains down by 3.0 dB"}


def test_all_gains_and_the_target_are_brought_down_alike() -> None:
    tune = neutral(LAYOUT)
    down = apply(tune, brought_down(tune, 2.5), LAYOUT, STOCK)
    assert {one.gain_db for one in down.channels.values()} == {-2.5}
    assert down.target.level_db == tune.target.level_db - 2.5


def one(**values: object) -> Driver:
    return Driver.model_validate({"id": "mid", "name": "Mid", "kind": "mid", "side": "both", "output": 1, **values})


def barred(*drivers: Driver, outputs: int = 2) -> list[str]:
    return [said.says for said in remarks(Layout(drivers=drivers, seat="left"), outputs) if said.bars]


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({}, None),
        ({"id": "a" * 40}, None),
        ({"id": "a" * 41}, f"the id '{'a' * 40}…' is not one: small letters, figures and hyphens, at most 40 of them"),
        ({"id": "-mid"}, "the id '-mid' is not one"),
        ({"id": "9-mid"}, None),
        ({"id": "../x"}, "the id '../x' is not one"),
        ({"name": "M" * 40}, None),
        ({"name": "M" * 41}, "the driver 'mid' needs a name of 1 to 40 characters that can be read"),
        ({"name": "  "}, "the driver 'mid' needs a name"),
        ({"name": "a\nb"}, "the driver 'mid' needs a name"),
        ({"output": 2}, None),
        ({"output": 3}, "Mid is on output 3; the processor has 1 to 2"),
        ({"output": 0}, "Mid is on output 0; the processor has 1 to 2"),
    ],
)
def test_what_a_driver_may_be_called_and_where_it_may_be(values: dict, says: str | None) -> None:
    said = barred(one(**values))
    assert len(said) == (says is not None)
    assert says is None or said[0].startswith(says)


def test_the_same_id_twice_and_too_many_drivers() -> None:
    left, right = one(side="left"), one(side="right", output=2, name="Mid R")
    assert barred(left, right) == ["two drivers have the same id"]
    many = [one(id=f"sub-{n}", name=f"Sub {n}", kind="sub", group="sub", output=n) for n in (1, 2, 3)]
    (said,) = remarks(Layout(drivers=tuple(many), seat="left"), 2)
    assert said.says == "3 drivers, but the processor has 2 outputs"
    assert [way.says for way in said.ways_out] == ["join the subs on one output (frees 2 outputs)"]
    (joined,) = said.ways_out[0].layout.drivers
    assert (joined.name, joined.side, joined.output) == ("Subs", "both", 1)
    assert remarks(Layout(drivers=tuple(many), seat="left"), 3) == []


def test_a_group_of_one_way_cannot_become_passive_and_the_main_one_stays_active() -> None:
    fronts = [one(id=f"f{n}", kind=kind, output=n) for n, kind in ((1, "midbass"), (2, "tweeter"))]
    centre = one(id="c", name="Centre", kind="full", group="centre", output=3)
    (said,) = remarks(Layout(drivers=(*fronts, centre), seat="left"), 2)
    assert said.ways_out == ()
    both = [one(id=f"c{n}", kind=kind, group=Group.CENTRE, output=n) for n, kind in ((3, "midbass"), (4, "tweeter"))]
    (said,) = remarks(Layout(drivers=(*fronts, *both), seat="left"), 3)
    (way,) = said.ways_out
    assert way.says == "make the centre passive (frees 1 output)"
    assert way.layout.driver("c3").passive_to == Kind.TWEETER
