"""Where a crossover makes sense: what is read of the drivers against what common practice bears (no source)."""

import numpy as np
import pytest

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import Corners, corners
from imbrix.core.system.layout import Group, Kind, Layout
from imbrix.core.system.layouts import CAUTIOUS_CORNER_HZ, READY, driver, make, ready
from imbrix.standins.places import drawn
from imbrix.standins.places.place import wired

THREE = ready("front-3-sub", "left")
USUAL = {"sub": (25.0, 400.0), "midbass": (52.0, 3200.0), "mid": (140.0, 8000.0), "tweeter": (640.0, 20_000.0)}


def found(lift_db: float = 0.0, layout: Layout = THREE, **changed: Known) -> dict[str, Corners]:
    known = {one.id: changed.get(one.kind.value, Known(USUAL[one.kind.value])) for one in layout.drivers}
    return corners(layout, known, lift_db)


def between(name: str, **changed: Known) -> tuple[float, float, float]:
    one = found(**changed)[name].high_pass
    return one.least_hz, one.hertz, one.most_hz


def test_a_usual_system_begins_where_practice_does_with_the_range_about_it() -> None:
    assert between("midbass-l") == (57, 80, 120)
    assert between("mid-l") == (220, 320, 1600)  # an octave under where the mid ends
    assert between("tweeter-l") == (2000, 3200, 6200)
    assert found()["sub"].high_pass.hertz == 20
    top = found()["tweeter-l"].low_pass
    assert (top.least_hz, top.hertz, top.most_hz) == (16_000, 20_000, 20_000)


def test_both_neighbours_of_a_seam_get_the_same_corner_and_both_sides_too() -> None:
    whole = found()
    for lower, upper in (("sub", "midbass-l"), ("midbass-l", "mid-l"), ("mid-l", "tweeter-l")):
        assert whole[lower].low_pass == whole[upper].high_pass
    apart = {one.id: Known(USUAL[one.kind.value]) for one in THREE.drivers}
    apart["mid-l"], apart["mid-r"] = Known((200.0, 8000.0)), Known((260.0, 7000.0))
    both = corners(THREE, apart)
    assert both["mid-l"] == both["mid-r"]


@pytest.mark.parametrize(
    ("known", "name", "least", "says"),
    [
        ({"tweeter": Known(USUAL["tweeter"], resonance_hz=1500)}, "tweeter-l", 3000, "twice the tweeter's resonance"),
        ({"midbass": Known((80.0, 3000.0))}, "midbass-l", 88, "plays from 80 Hz"),
        ({"mid": Known(USUAL["mid"], clean_from_hz=400)}, "mid-l", 400, "distortion rises"),
        ({"mid": Known(USUAL["mid"], resonance_hz=250)}, "mid-l", 350, "resonates at 250 Hz"),
    ],
)
def test_what_tells_against_a_low_corner_is_kept_and_said(
    known: dict[str, Known], name: str, least: float, says: str
) -> None:
    one = found(**known)[name].high_pass
    assert one.least_hz == pytest.approx(least, rel=0.02)
    assert one.hertz >= one.least_hz
    assert any(says in reason for reason in one.says)


def test_a_cone_is_not_used_where_it_beams() -> None:
    # 2 pi f a / c = 2 at 1.4 kHz for 8 cm; closed form.
    area = np.pi * 0.08**2
    one = found(midbass=Known(USUAL["midbass"], area_m2=area))["mid-l"].high_pass
    assert one.most_hz == pytest.approx(2 * 343.2 / (2 * np.pi * 0.08), rel=0.03)


def test_two_ways_that_hardly_meet_are_told_of_and_no_tweeter_comes_to_harm() -> None:
    one = found(mid=Known((140.0, 1500.0)))["tweeter-l"].high_pass
    assert one.hertz == 2000  # twice the guard: lower it does not go
    assert "hardly meet" in one.says[0]
    assert found(mid=Known((140.0, 1500.0)))["mid-l"].low_pass.hertz == 2000


def test_a_target_that_lifts_the_bass_offers_a_gap() -> None:
    assert not any("gap" in one for one in found()["sub"].low_pass.says)
    lifted = found(lift_db=8)["sub"].low_pass
    assert lifted.least_hz == pytest.approx(80 / 2**0.5, rel=0.02)
    assert any("gap" in one for one in lifted.says)


@pytest.mark.parametrize("kind", list(Kind))
def test_without_a_take_a_corner_begins_where_no_driver_comes_to_harm(kind: Kind) -> None:
    one = driver(Group.SUB if kind == Kind.SUB else Group.FRONT, kind, "both", 1)
    begins = corners(Layout(drivers=(one,), seat="left"), {})[one.id].high_pass.hertz
    assert begins >= CAUTIOUS_CORNER_HZ[kind]


def test_what_stands_beside_the_front_leaves_bass_and_upper_bass_to_front_and_subs() -> None:
    fills = ((Group.REAR, Kind.FULL, True), (Group.CENTRE, Kind.MIDBASS, False), (Group.CENTRE, Kind.TWEETER, False))
    layout = make(((Group.SUB, Kind.SUB, False), *READY[0].ways, *fills))
    known = {one.id: Known(USUAL.get(one.kind.value, (90.0, 14_000.0))) for one in layout.drivers}
    found = corners(layout, known)
    assert [found[name].high_pass.hertz for name in ("rear-l", "rear-r", "centre-midbass")] == [250, 250, 250]
    assert found["midbass-l"].high_pass.hertz == 80
    # A small driver that plays no lower keeps its own reason.
    small = corners(layout, {**known, "centre-midbass": Known((310.0, 6000.0))})["centre-midbass"].high_pass
    assert small.hertz == 340


@pytest.mark.parametrize("seed", range(60))
def test_in_drawn_places_no_tweeter_begins_too_low_no_sub_too_high_no_midbass_too_low(seed: int) -> None:
    """Against the resonances that the stand-ins know, the bands read as badly as a survey found them: 10 % off."""
    random = np.random.default_rng(seed)
    system = READY[seed % 6]
    layout = make(system.ways)
    cabin = drawn.place(seed + 9000, wired(layout.drivers), "left").cabin
    known = {}
    for one in layout.drivers:
        low, high = cabin.seat(one.output - 1).driver.own_band(48_000)
        known[one.id] = Known((low * random.uniform(0.9, 1.1), min(high, 20_000.0) * random.uniform(0.9, 1.1)))
    for name, ends in corners(layout, known).items():
        one = layout.driver(name)
        resonance = cabin.seat(one.output - 1).driver.resonance_hz
        assert ends.high_pass.least_hz <= ends.high_pass.hertz <= ends.high_pass.most_hz
        assert ends.high_pass.says
        if one.kind == Kind.TWEETER:
            assert ends.high_pass.hertz >= 1.5 * resonance
        if one.kind == Kind.SUB:
            assert ends.low_pass.hertz <= 120
        if one.kind == Kind.MIDBASS and layout.subs and one.group == layout.main:
            assert ends.high_pass.hertz >= 45


@pytest.mark.parametrize("seed", range(40))
def test_corners_stand_in_their_order_whatever_holes_a_place_has(seed: int) -> None:
    """Three holes of 4 to 12 dB in every driver: no way is turned upside down for them, nor left half an octave."""
    random = np.random.default_rng(seed)
    grid = np.geomspace(20, 20_000, 480)
    layout = make(READY[seed % 6].ways)
    cabin = drawn.place(seed + 9000, wired(layout.drivers), "left").cabin
    known = {}
    for one in layout.drivers:
        low, high = cabin.seat(one.output - 1).driver.own_band(48_000)
        holes = np.zeros(grid.size)
        for hertz in np.exp(random.uniform(np.log(60), np.log(1500), 3)):
            holes -= random.uniform(4, 12) * np.exp(-((np.log2(grid / hertz) / 0.2) ** 2))
        known[one.id] = Known((low, min(high, 20_000.0)), holes_db=holes)
    found = corners(layout, known, grid=grid)
    for one in layout.drivers:
        ends, begins = found[one.id].low_pass, found[one.id].high_pass
        if one.group != Group.SUB:
            assert ends.hertz > 1.9 * begins.hertz, one.id
            assert ends.least_hz >= begins.hertz, one.id
            assert begins.most_hz <= ends.hertz, one.id


def test_the_reasons_name_a_figure_each() -> None:
    for ends in found(lift_db=8).values():
        for says in (*ends.high_pass.says, *ends.low_pass.says):
            assert any(character.isdigit() for character in says), says
