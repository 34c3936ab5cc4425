"""The alignment of a whole system: against closed forms, an exhaustive search, scipy's differential evolution, and what
the stand-ins know of themselves."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from scipy.optimize import differential_evolution

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import corners
from imbrix.core.align.figures import figures
from imbrix.core.align.pairs import Table, both_below, cost, overlap, tabled
from imbrix.core.align.problem import Arrival, System, net
from imbrix.core.align.propose import Allowed, Proposals, propose
from imbrix.core.align.search import Net, search
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import decibels
from imbrix.core.system.layout import Layout
from imbrix.core.system.layouts import ready
from imbrix.core.tune.apply import apply, relative_delay
from imbrix.core.tune.edits import SetChannel, SetCrossover, SetDelays, SetTie
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.tune import Band, Tune, neutral
from imbrix.standins.places import drawn
from imbrix.standins.places.place import wired

GRID = log_grid()
PREDICTOR = Predictor(GRID, STOCK.rate)
STEP = 1 / STOCK.rate
NOTHING = Allowed(slopes=False, corners=False, all_pass=False)
USUAL = {
    "sub": (25.0, 400.0),
    "midbass": (52.0, 3200.0),
    "mid": (140.0, 8000.0),
    "tweeter": (700.0, 20_000.0),
    "full": (90.0, 14_000.0),
}


def known(layout: Layout) -> dict[str, Known]:
    return {one.id: Known(USUAL[one.kind.value]) for one in layout.drivers}


def ideal(layout: Layout, steps: dict[str, int], backwards: tuple[str, ...] = (), places: int = 1) -> System:
    """Flat drivers that arrive so many steps late, some wired backwards; at further places each a step later still."""
    ids = tuple(one.id for one in layout.drivers)
    rows = []
    for place in range(places):
        late = np.array([steps[name] * STEP for name in ids]) + place * STEP * np.arange(len(ids))
        signs = np.array([-1.0 if name in backwards else 1.0 for name in ids])
        rows.append(signs[:, None] * np.exp(-2j * np.pi * np.outer(late, GRID)))
    arrivals = {name: Arrival(steps[name] * STEP, -1 if name in backwards else 1) for name in ids}
    return System(layout, ids, np.array(rows), PREDICTOR, arrivals, STOCK)


def proposed(system: System, tune: Tune, allowed: Allowed = NOTHING, **more: object) -> Proposals:
    return propose(system, tune, corners(system.layout, known(system.layout)), allowed, **more)  # type: ignore[arg-type]


PRACTICE = {"midbass-l": 80.0, "mid-l": 320.0, "tweeter-l": 3000.0}


def crossed(layout: Layout, corner: dict[str, float] = PRACTICE) -> Tune:
    """Crossovers of common practice, nothing else."""
    edits = [SetCrossover(channel=name, end="high_pass", corner_hz=hertz) for name, hertz in corner.items()]
    return apply(neutral(layout), edits, layout, STOCK)


def drawn_system(seed: int, key: str = "front-3-sub") -> System:
    """A system in a drawn place by what the stand-ins know of it."""
    layout = ready(key, "left")
    cabin = drawn.place(seed, wired(layout.drivers), "left").cabin
    ids = tuple(one.id for one in layout.drivers)
    rows = np.array([cabin.truth(one.output - 1, GRID) for one in layout.drivers])
    arrivals = {}
    for one in layout.drivers:
        seat = cabin.seat(one.output - 1)
        seconds = seat.path.distance_m / speed_of_sound(cabin.celsius)  # type: ignore[attr-defined]
        arrivals[one.id] = Arrival(seconds, -1 if seat.wired_backwards else 1)
    level = np.array([np.median(np.abs(row[np.abs(row) > np.abs(row).max() / 8])) for row in rows])
    return System(layout, ids, (rows / level[:, None])[None], PREDICTOR, arrivals, STOCK)


THREE = ready("front-3-sub", "left")
LATE = {
    "sub": 300,
    "midbass-l": 130,
    "midbass-r": 190,
    "mid-l": 120,
    "mid-r": 175,
    "tweeter-l": 110,
    "tweeter-r": 171,
}


def test_two_equal_sources_lose_what_the_closed_form_says() -> None:
    flat = np.ones((1, GRID.size), dtype=complex)
    pair = both_below(flat, flat, GRID, 500.0)
    assert pair is not None
    late = 0.0004
    lost = pair.both(np.array([late]))[:, 0, 0]
    at = pair.judged_hz
    # |1 + exp(-jwt)| = 2 cos(wt / 2), inverted 2 sin(wt / 2); smoothing moves either little where it is not steep.
    np.testing.assert_allclose(lost[0], -decibels(np.cos(np.pi * at * late)), atol=0.01)
    steep = at > 100
    np.testing.assert_allclose(lost[1][steep], -decibels(np.sin(np.pi * at * late))[steep], atol=0.05)


def test_a_table_is_what_would_be_computed_at_every_step() -> None:
    system = drawn_system(11)
    tune = proposed(system, neutral(THREE)).proposals[0].tune
    still = system.still(tune)
    for first, second in ((0, 1), (1, 3), (3, 5)):
        pair = overlap(still[:, first], still[:, second], GRID)
        assert pair is not None
        steps = np.arange(-200, 201, 7)
        table, exact = tabled(pair, -200, 200, STEP)[:, ::7], cost(pair.both(steps * STEP))
        np.testing.assert_allclose(table, exact, atol=0.3)
        good = exact < 10  # deep in a null neither is looked for
        np.testing.assert_allclose(table[good], exact[good], atol=0.05)


def test_two_ideal_ways_are_brought_together_to_the_step_and_upright() -> None:
    layout = ready("bookshelf-2", "left")
    late = {"midbass-l": 130, "midbass-r": 190, "tweeter-l": 110, "tweeter-r": 171}
    found = proposed(ideal(layout, late), neutral(layout))
    best = found.proposals[0]
    for name in late:
        assert round(best.tune.channels[name].delay_s / STEP) == max(late.values()) - late[name]
        assert not best.tune.channels[name].inverted
    assert all(seam.worst.value < 0.01 for seam in best.figures.seams)
    assert best.figures.sides is not None
    assert best.figures.sides.value < 0.01
    assert abs(best.figures.apart_s or 0.0) < 1e-9
    assert best.figures.unlike == best.figures.far == ()
    # What stood had no delays; that is told too.
    assert found.before.apart_s == pytest.approx((190 - 130) * STEP)


def test_in_a_whole_of_ideal_ways_the_filters_of_the_next_seam_are_reckoned_with() -> None:
    """A low-pass at 320 Hz delays a midbass at 80 Hz too, by 2 sqrt(2) / w (the slope of an LR24's phase at zero): so
    much later the sub has to be."""
    best = proposed(ideal(THREE, LATE), crossed(THREE)).proposals[0]
    assert all(seam.worst.value < 0.3 for seam in best.figures.seams)
    channels = best.tune.channels
    comes = {name: channels[name].delay_s + LATE[name] * STEP for name in LATE}
    assert comes["midbass-l"] == pytest.approx(comes["midbass-r"], abs=2 * STEP)
    low_pass = 2 * 2**0.5 / (2 * np.pi * 320)
    assert comes["sub"] - comes["midbass-l"] == pytest.approx(low_pass, rel=0.2)


def test_a_driver_wired_backwards_is_turned_and_no_other() -> None:
    best = proposed(ideal(THREE, LATE, ("mid-r",)), neutral(THREE)).proposals[0]
    assert [name for name, one in best.tune.channels.items() if one.inverted] == ["mid-r"]
    turned = proposed(ideal(THREE, LATE, ("mid-r",)), best.tune)
    assert turned.before.unlike == ()


def test_a_second_order_linkwitz_riley_gets_its_ways_opposed() -> None:
    layout = ready("bookshelf-2", "left")
    edits = [SetCrossover(channel="tweeter-l", end="high_pass", shape="linkwitz-riley", slope_db=12, corner_hz=2500)]
    tune = apply(neutral(layout), edits, layout, STOCK)
    best = proposed(ideal(layout, {one.id: 10 * n for n, one in enumerate(layout.drivers)}), tune).proposals[0]
    ways = {name.split("-")[0]: one.inverted for name, one in best.tune.channels.items()}
    assert ways["tweeter"] != ways["midbass"]
    assert {one.inverted for name, one in best.tune.channels.items() if name.startswith("tweeter")} == {ways["tweeter"]}


def test_a_seam_a_period_off_is_not_taken_for_right() -> None:
    """Two narrow ways, the upper one turned by a filter so that a period later they add up better."""
    layout = ready("bookshelf-2", "left")
    system = ideal(layout, dict.fromkeys((one.id for one in layout.drivers), 0))
    edits = [SetCrossover(channel="tweeter-l", end="high_pass", shape="linkwitz-riley", slope_db=48, corner_hz=2000)]
    tune = apply(neutral(layout), edits, layout, STOCK)
    period = round(1 / 2000 / STEP)
    off = apply(tune, [SetDelays(delays_s={"tweeter-l": period * STEP, "tweeter-r": period * STEP})], layout, STOCK)
    found = proposed(system, off)
    assert set(found.before.far) == {"midbass-tweeter-left", "midbass-tweeter-right"}
    seam = layout.seam("midbass-tweeter-left")
    assert abs(relative_delay(found.proposals[0].tune, seam)) < period * STEP / 4
    assert found.proposals[0].figures.far == ()


def test_of_a_side_only_that_side_is_moved() -> None:
    system = ideal(THREE, LATE)
    tune = proposed(system, neutral(THREE)).proposals[0].tune
    wrong = {name: tune.channels[name].delay_s + 0.0007 for name in LATE if name.endswith("-l")}
    astray = apply(tune, [SetDelays(delays_s=wrong), SetChannel(channel="mid-l", inverted=True)], THREE, STOCK)
    best = proposed(system, astray, movable=frozenset(wrong)).proposals[0]
    for name in LATE:
        if not name.endswith("-l"):
            assert best.tune.channels[name] == astray.channels[name]
    assert best.tune.channels["mid-l"] == tune.channels["mid-l"]


def test_an_all_pass_brings_back_together_what_one_turned_apart() -> None:
    layout = ready("bookshelf-2", "left")
    system = ideal(layout, dict.fromkeys((one.id for one in layout.drivers), 0))
    n = system.ids.index("midbass-l")
    turned = PREDICTOR.channel(
        neutral(layout)
        .channels["midbass-l"]
        .model_copy(update={"bands": (Band(kind="all_pass", frequency_hz=142.3, q=1.4),)})
    )
    bare = system.bare.copy()
    bare[:, n] = bare[:, n] * turned
    astray = System(layout, system.ids, bare, PREDICTOR, system.arrivals, STOCK)
    found = proposed(astray, neutral(layout), Allowed(slopes=False, corners=False, all_pass=True))
    best = next(one for one in found.proposals if one.kind == "all-pass")
    plain = next(one for one in found.proposals if one.kind == "timing")
    bands = {name: one.bands for name, one in best.tune.channels.items() if one.bands}
    assert list(bands) == ["midbass-r"]
    assert bands["midbass-r"][0].frequency_hz == pytest.approx(142.3, rel=0.15)
    assert plain.figures.sides is not None
    assert best.figures.sides is not None
    assert plain.figures.sides.value > 1.0
    assert best.figures.sides.value < 0.3


@pytest.mark.walk
def test_an_all_pass_judged_at_one_spot_never_comes_first() -> None:
    for seed in (4101, 4104, 4122):
        found = proposed(drawn_system(seed), neutral(THREE), Allowed())
        kinds = [one.kind for one in found.proposals]
        assert "all-pass" not in kinds[:1]
        assert kinds == sorted(kinds, key=lambda kind: kind == "all-pass")


def test_only_what_is_missing_is_set_and_nothing_of_the_other_side() -> None:
    """A person's own end stays, its partner follows it; a guard is nobody's choice."""
    system = ideal(THREE, LATE)
    edits = [
        SetTie(ways="sub-midbass", what="ways", tied=False),
        SetCrossover(channel="midbass-l", end="high_pass", shape="butterworth", slope_db=12, corner_hz=95),
    ]
    tune = apply(neutral(THREE), edits, THREE, STOCK)
    best = proposed(system, tune).proposals[0].tune
    own = tune.channels["midbass-l"].high_pass
    assert best.channels["midbass-l"].high_pass == best.channels["sub"].low_pass == own
    assert best.channels["tweeter-l"].high_pass != neutral(THREE).channels["tweeter-l"].high_pass
    alone = proposed(system, neutral(THREE), movable=frozenset(name for name in LATE if name.endswith("-l")))
    for one in alone.proposals:
        for name in LATE:
            ends = [
                (each.channels[name].high_pass, each.channels[name].low_pass) for each in (one.tune, neutral(THREE))
            ]
            assert ends[0] == ends[1]


def test_places_count_by_their_mean_and_the_worst_of_them() -> None:
    system = ideal(THREE, LATE, places=3)
    one = figures(system, proposed(system, neutral(THREE)).proposals[0].tune)
    seam = next(each for each in one.seams if each.seam.id == "mid-tweeter-left")
    assert seam.mean.least <= seam.mean.value <= seam.mean.most
    assert seam.mean.most > seam.mean.least


def small_net(seed: int) -> Net:
    """Three drivers whose tables are hills and valleys drawn at random."""
    random = np.random.default_rng(seed)

    def table(first: int, second: int) -> Table:
        smooth = np.convolve(random.uniform(0, 6, 40), np.hanning(7) / 3, "same")
        return Table(first, second, -20, np.stack((smooth, np.roll(smooth, 9) + 0.5)), 1.0)

    groups = [frozenset({1, 2})]
    return Net(3, [table(0, 1), table(1, 2), table(0, 2)], [0, 0, 0], [12, 12, 12], groups)


@pytest.mark.parametrize("seed", range(12))
def test_the_search_finds_what_an_exhaustive_one_does(seed: int) -> None:
    one = small_net(seed)
    every = (
        one.total((0, b, c), (0, i, k))
        for b, c in product(range(-12, 13), repeat=2)
        for i, k in product((0, 1), repeat=2)
    )
    assert search(one)[0].cost <= min(every) + 1e-9


@pytest.mark.parametrize("seed", [21, 22])
def test_the_search_is_as_good_as_differential_evolution(seed: int) -> None:
    """R. Storn and K. Price (1997) as scipy has it, over delays and polarities of six channels against the seventh."""
    system = drawn_system(seed)
    tune = proposed(system, neutral(THREE)).proposals[0].tune
    one = net(system, tune)
    ours = search(one)[0]
    about = [each - one.about[one.root] for each in one.about]
    free = [n for n in range(one.count) if n != one.root]

    def total(x: np.ndarray) -> float:
        steps, inverted = list(about), [0] * one.count
        for n, value, way in zip(free, x[: len(free)], x[len(free) :], strict=True):
            steps[n], inverted[n] = about[n] + round(value), int(way > 0.5)
        return one.total(steps, inverted)

    bounds = [(-one.reach[n], one.reach[n]) for n in free] + [(0, 1)] * len(free)
    theirs = differential_evolution(total, bounds, maxiter=120, popsize=12, seed=seed, polish=False)
    assert ours.cost <= theirs.fun + 0.05


@pytest.mark.parametrize("seed", range(31, 35))
def test_in_drawn_places_the_first_proposal_is_what_a_tuner_would_do(seed: int) -> None:
    system = drawn_system(seed)
    best = proposed(system, neutral(THREE), Allowed(all_pass=False)).proposals[0]
    assert best.figures.unlike == ()
    assert abs(best.figures.apart_s or 1.0) <= 50e-6
    assert best.figures.far == ()
    means = [one.mean.value for one in best.figures.seams]
    assert np.mean(means) < 1.2
    assert max(means) < 2.5
    turned = {name for name, one in best.tune.channels.items() if one.inverted}
    backwards = {name for name, one in system.arrivals.items() if one.polarity < 0}
    fronts = {name for name in system.ids if name != "sub"}
    assert turned & fronts in (backwards & fronts, fronts - backwards)


@pytest.mark.walk
def test_the_same_is_proposed_twice_and_nothing_worse_than_what_stands() -> None:
    system = drawn_system(41)
    first, again = (proposed(system, neutral(THREE), Allowed()) for _ in range(2))
    assert [one.tune for one in again.proposals] == [one.tune for one in first.proposals]
    best = first.proposals[0]
    after = proposed(system, best.tune, Allowed())
    assert all(one.cost < after.before_cost for one in after.proposals)


def test_beside_the_loss_a_period_and_the_way_of_moving_count() -> None:
    """Where two settings lose the same, the direct sounds decide; where phase misleads, the first movements do."""
    layout = ready("bookshelf-2", "left")
    system = ideal(layout, dict.fromkeys((one.id for one in layout.drivers), 0), ("tweeter-r",))
    edits = [SetCrossover(channel="tweeter-l", end="high_pass", corner_hz=2500)]
    tune = apply(neutral(layout), edits, layout, STOCK)
    tables = {(system.ids[one.first], system.ids[one.second]): one for one in net(system, tune).tables}
    still = system.still(tune)
    low, high = system.ids.index("midbass-l"), system.ids.index("tweeter-l")
    pair = overlap(still[:, low], still[:, high], GRID)
    assert pair is not None
    period = round(1 / pair.centre_hz / STEP)
    seam = tables["midbass-l", "tweeter-l"]
    lost = cost(pair.both(np.array([0.0, period * STEP])))[0]
    beside = seam.at(np.array([0, period]), 0) - lost
    assert beside[0] == pytest.approx(0, abs=0.1)
    assert beside[1] > 6  # more than any seam loses that is worth a look
    sides = tables["tweeter-l", "tweeter-r"]
    assert sides.at(np.array(0), 0) - sides.at(np.array(0), 1) > 20
    assert (
        tables["midbass-l", "midbass-r"].at(np.array(0), 1) - tables["midbass-l", "midbass-r"].at(np.array(0), 0) > 20
    )


def test_slopes_are_tried_from_several_places_only() -> None:
    """At one spot another slope wins what a head that moves loses again."""

    def slopes(places: int) -> set[int]:
        system = drawn_system(3)
        several = np.concatenate([system.bare] * places)
        found = proposed(replace(system, bare=several), crossed(system.layout), Allowed(corners=False, all_pass=False))
        return {
            edit.slope_db
            for one in found.proposals
            for edit in one.edits
            if isinstance(edit, SetCrossover)
            if edit.slope_db
        }

    assert slopes(1) == set()
    assert slopes(2) - {24}


def test_the_only_seam_of_one_loudspeaker_gets_a_better_corner() -> None:
    """What it joins is all that the system has."""
    pair = drawn_system(1, "bookshelf-2")
    drivers = [one.model_copy(update={"side": "both"}) for one in pair.layout.drivers if one.side == "left"]
    ids = tuple(one.id for one in drivers)
    bare = pair.bare[:, [pair.ids.index(name) for name in ids]]
    system = replace(pair, layout=Layout(drivers=tuple(drivers), seat="left"), ids=ids, bare=bare)
    edits = [SetCrossover(channel="tweeter-l", end="high_pass", corner_hz=7000)]
    tune = apply(neutral(system.layout), edits, system.layout, STOCK)
    best = proposed(system, tune, Allowed(slopes=False)).proposals[0]
    moved = [one.corner_hz for one in best.edits if isinstance(one, SetCrossover)]
    assert moved
    assert all(hertz is not None and 1500 < hertz < 4000 for hertz in moved)


@pytest.mark.parametrize(("periods", "far"), [(0.4, False), (0.6, True)])
def test_ways_more_than_half_a_period_apart_are_said_to_be_far(periods: float, far: bool) -> None:
    """At a seam of about 3 kHz, of drivers that arrive at once."""
    layout = ready("bookshelf-2", "left")
    system = ideal(layout, dict.fromkeys((one.id for one in layout.drivers), 100))
    tune = crossed(layout, {"tweeter-l": 3000.0})
    late = tune.with_channel("tweeter-l", delay_s=round(periods / 3000 / STEP) * STEP)
    seam = next(one for one in layout.seams() if one.side == "left")
    assert (seam.id in figures(system, late).far) is far
