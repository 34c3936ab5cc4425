"""What a corner may be by what its two ways do: each bound by itself, and the sentence that gives it."""

import numpy as np
import pytest

from imbrix.core.align.bounds import Corner, Known, between, highest, lowest, plain, spoken
from imbrix.core.system.layout import Driver, Group, Kind, Layout, Side

ORDER = (Kind.SUB, Kind.WOOFER, Kind.MIDBASS, Kind.MID, Kind.FULL, Kind.TWEETER)


def driver(kind: Kind, group: Group | None = None, side: Side = "left") -> Driver:
    group = group or (Group.SUB if kind == Kind.SUB else Group.FRONT)
    return Driver(id=kind.value, name=f"{kind.value.title()} L", kind=kind, group=group, side=side, output=1)


def corner(lower: Kind, upper: Kind, below: Known, above: Known) -> Corner:
    return between(driver(lower), driver(upper), {lower.value: below, upper.value: above})


WIDE = Known((10.0, 30_000.0))


@pytest.mark.parametrize(
    ("hertz", "says"), [(82.4, "82 Hz"), (999, "1000 Hz"), (1000, "1 kHz"), (2449, "2.4 kHz"), (15, "15 Hz")]
)
def test_corners_are_spoken_of_with_two_digits(hertz: float, says: str) -> None:
    assert spoken(hertz) == says
    assert plain(449.9) == 450
    assert plain(0.0123) == 0.012


@pytest.mark.parametrize(
    ("upper", "above", "least"),
    [
        (Kind.WOOFER, Known((70.0, 900.0)), 77.0),
        (Kind.MIDBASS, Known((70.0, 2000.0)), 77.0),
        (Kind.MIDBASS, Known((30.0, 2000.0)), 45.0),
        (Kind.MID, Known((100.0, 9000.0)), 160.0),
        (Kind.FULL, Known((60.0, 15_000.0)), 90.0),
        (Kind.MID, Known((50.0, 9000.0), resonance_hz=80.0), 112.0),
        (Kind.FULL, Known((50.0, 9000.0), resonance_hz=80.0), 104.0),
        (Kind.MIDBASS, Known((50.0, 2000.0), resonance_hz=80.0), 72.0),
        (Kind.MID, Known((50.0, 9000.0), clean_from_hz=97.0), 97.0),
        (Kind.MID, Known(), 400.0),
    ],
)
def test_how_low_a_way_may_be_crossed_over(upper: Kind, above: Known, least: float) -> None:
    lower = Kind.SUB if upper == Kind.WOOFER else Kind.WOOFER
    assert corner(lower, upper, WIDE, above).least_hz == pytest.approx(plain(least))


@pytest.mark.parametrize(
    ("above", "least", "how"),
    [
        (Known((1000.0, 30_000.0)), 2800.0, "by where its response falls"),
        (Known((1000.0, 30_000.0), resonance_hz=1200.0), 2400.0, "by its impedance"),
        (Known((600.0, 30_000.0), resonance_hz=900.0), 2000.0, "no tweeter is sure to bear more"),
        (Known((600.0, 30_000.0), resonance_hz=900.0, clean_from_hz=2600.0), 2600.0, "distortion rises"),
        (Known(), 3500.0, "has no take yet"),
    ],
)
def test_how_low_a_tweeter_may(above: Known, least: float, how: str) -> None:
    found = corner(Kind.MID, Kind.TWEETER, WIDE, above)
    assert found.least_hz == least
    assert found.hertz == max(3200.0, least)
    assert any(how in one for one in found.says)


@pytest.mark.parametrize(
    ("lower", "below", "most"),
    [
        (Kind.MIDBASS, Known((50.0, 2600.0)), 2000.0),
        (Kind.MIDBASS, Known((50.0, 26_000.0), area_m2=np.pi * 0.065**2), 1700.0),  # ka = 2 at 344 m/s and 6.5 cm
        (Kind.SUB, Known((20.0, 2600.0)), 120.0),
        (Kind.SUB, Known((20.0, 130.0)), 100.0),
    ],
)
def test_how_high_a_way_may(lower: Kind, below: Known, most: float) -> None:
    upper = Kind.TWEETER if lower == Kind.MIDBASS else Kind.MIDBASS
    above = Known((600.0, 30_000.0), resonance_hz=500.0) if upper == Kind.TWEETER else Known((20.0, 4000.0))
    found = corner(lower, upper, below, above)
    assert found.most_hz == pytest.approx(max(most, found.hertz), rel=0.03)


@pytest.mark.parametrize(
    ("lower", "upper", "hertz"),
    [
        (Kind.SUB, Kind.WOOFER, 60.0),
        (Kind.SUB, Kind.MIDBASS, 80.0),
        (Kind.SUB, Kind.MID, 120.0),
        (Kind.SUB, Kind.FULL, 110.0),
        (Kind.WOOFER, Kind.MIDBASS, 120.0),
        (Kind.WOOFER, Kind.MID, 300.0),
        (Kind.WOOFER, Kind.FULL, 220.0),
        (Kind.WOOFER, Kind.TWEETER, 2500.0),
        (Kind.MIDBASS, Kind.MID, 320.0),
        (Kind.MIDBASS, Kind.FULL, 300.0),
        (Kind.MIDBASS, Kind.TWEETER, 2800.0),
        (Kind.MID, Kind.TWEETER, 3200.0),
    ],
)
def test_where_practice_begins_where_nothing_tells_against_it(lower: Kind, upper: Kind, hertz: float) -> None:
    found = corner(lower, upper, WIDE, WIDE)
    assert found.hertz == hertz
    assert found.says[0] == f"{spoken(hertz)}: where practice begins"


def test_as_near_to_practice_as_can_be() -> None:
    low = corner(Kind.MID, Kind.TWEETER, Known((100.0, 3250.0)), Known((600.0, 30_000.0), resonance_hz=800.0))
    assert (low.hertz, low.says[0]) == (2500.0, "2.5 kHz: as near to 3.2 kHz, where practice begins, as can be")
    high = corner(Kind.MID, Kind.TWEETER, WIDE, Known((600.0, 30_000.0), resonance_hz=2000.0))
    assert high.hertz == 4000.0


def test_two_ways_that_hardly_meet() -> None:
    """A tweeter comes down to 1.6 times its resonance at most; others meet in the middle."""
    found = corner(Kind.MID, Kind.TWEETER, Known((100.0, 2600.0)), Known((1000.0, 30_000.0), resonance_hz=1500.0))
    assert found.says[0] == "2.4 kHz: the mid and the tweeter hardly meet"
    assert (found.hertz, found.least_hz, found.most_hz) == (2400.0, 2400.0, 3000.0)
    found = corner(Kind.MIDBASS, Kind.MID, Known((50.0, 260.0)), Known((250.0, 9000.0)))
    assert found.hertz == plain(np.sqrt(200 * 400))
    assert (found.least_hz, found.most_hz) == (200.0, 400.0)


def layout(*kinds: Kind) -> Layout:
    return Layout(drivers=tuple(driver(one) for one in kinds), seat="left")


def test_the_lower_end_of_what_has_nothing_below_it() -> None:
    alone = layout(Kind.MIDBASS, Kind.TWEETER)
    found = lowest(alone, alone.drivers[0], Known((60.0, 3000.0)))
    assert (found.hertz, found.least_hz, found.most_hz) == (48.0, 36.0, 60.0)
    deep = lowest(alone, alone.drivers[0], Known((12.0, 3000.0)))
    assert (deep.hertz, deep.least_hz, deep.most_hz) == (20.0, 15.0, 25.0)
    none = lowest(alone, alone.drivers[0], Known())
    assert (none.hertz, none.least_hz, none.most_hz) == (80.0, 80.0, 160.0)
    treble = lowest(alone, alone.drivers[1], Known((1000.0, 30_000.0), resonance_hz=1200.0))
    assert (treble.hertz, treble.least_hz, treble.most_hz) == (2400.0, 2400.0, 4800.0)


def test_beside_a_front_that_has_subs_the_bass_is_left_to_these() -> None:
    rear = driver(Kind.FULL, Group.REAR).model_copy(update={"id": "rear"})
    car = Layout(drivers=(driver(Kind.SUB), driver(Kind.MID), rear), seat="left")
    found = lowest(car, rear, Known((80.0, 15_000.0)))
    assert (found.hertz, found.least_hz, found.most_hz) == (250.0, 120.0, 500.0)
    assert lowest(car, rear, Known((200.0, 15_000.0))).hertz == 300.0
    without = Layout(drivers=car.drivers[1:], seat="left")
    assert lowest(without, rear, Known((80.0, 15_000.0))).hertz == 64.0


def test_the_upper_end_of_what_has_nothing_above_it() -> None:
    open_ = highest(Known((100.0, 14_000.0)))
    assert (open_.hertz, open_.least_hz, open_.most_hz) == (20_000.0, 16_000.0, 20_000.0)
    assert highest(Known()).hertz == 20_000.0
    early = highest(Known((100.0, 8000.0)))
    assert (early.hertz, early.least_hz, early.most_hz) == (8800.0, 8000.0, 16_000.0)
    assert highest(Known((100.0, 13_000.0))).most_hz == 20_000.0
