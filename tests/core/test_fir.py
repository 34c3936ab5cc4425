"""FIR taps: linear-phase crossovers, the search under limits, and what becomes of ways that are heard together."""

from dataclasses import replace

import numpy as np
import pytest
import scipy.optimize
import scipy.signal

from imbrix.core.errors import InvalidError
from imbrix.core.fir.design import made, response
from imbrix.core.fir.solve import Problem, solve, weighted_error
from imbrix.core.fir.together import Part, alone, together
from imbrix.core.fir.wanted import aim_of, way
from imbrix.core.fir.wish import Bound, Wish
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import ComplexArray, decibels
from imbrix.core.tune.fir import Taps, linear_taps, needed_taps, off_db
from imbrix.core.tune.tune import Channel, Crossover

RATE = 48_000
GRID = log_grid()
PREDICTOR = Predictor(GRID, RATE)


def lr(corner_hz: float, slope_db: int = 24, taps: int = 0) -> Crossover:
    return Crossover(shape="linkwitz-riley", slope_db=slope_db, corner_hz=corner_hz, taps=taps)


def test_a_linear_phase_pair_adds_up_to_a_delayed_pulse() -> None:
    for slope in (24, 96, 192):
        low = linear_taps(None, (slope, 1000.0), 2047, RATE)
        high = linear_taps((slope, 1000.0), None, 2047, RATE)
        whole = low + high
        whole[1023] -= 1
        assert np.abs(whole).max() < 1e-12
        assert np.allclose(low, low[::-1], atol=1e-15)
    # Three ways: what is left over is where the lowest and the highest overlap, far below both.
    low = linear_taps(None, (48, 300.0), 4095, RATE)
    middle = linear_taps((48, 300.0), (48, 3000.0), 4095, RATE)
    high = linear_taps((48, 3000.0), None, 4095, RATE)
    whole = low + middle + high
    whole[2047] -= 1
    assert np.abs(whole).max() < 1e-4


def test_a_linear_phase_corner_is_six_decibels_down_and_as_steep_as_it_says() -> None:
    f = np.array([1000.0, 2000.0, 4000.0])
    for slope in (24, 96):
        taps = linear_taps(None, (slope, 1000.0), 8191, RATE)
        levels = decibels(np.abs(scipy.signal.freqz(taps, worN=f, fs=RATE)[1]))
        assert levels[0] == pytest.approx(-6.02, abs=0.05)
        assert levels[1] == pytest.approx(-20 * np.log10(1 + 2 ** (slope / 6)), abs=0.6)
    assert off_db(24, 1000.0, needed_taps(24, 1000.0, RATE), RATE) <= 0.55
    assert off_db(24, 100.0, 255, RATE) > 1.0


def _band_problem(count: int) -> tuple[Problem, np.ndarray]:
    """A low-pass in two bands, as firls is given it: taps of the same length, weights alike."""
    size = 16 * 1024
    at = np.fft.rfftfreq(size, 1 / 2.0)
    passes, stops = at <= 0.3, at >= 0.4
    wanted = np.where(passes, 1.0, 0.0) * np.exp(-1j * np.pi * at * (count - 1) / 2)
    weight = np.where(passes, 1.0, np.where(stops, 5.0, 0.0))
    reference = scipy.signal.firls(count, [0, 0.3, 0.4, 1], [1, 1, 0, 0], weight=[1, 5], fs=2)
    problem = Problem(size, wanted, weight, np.full(at.size, 10.0), np.ones(at.size, complex), 0, 1.0, 1.0)
    return problem, reference


def test_without_limits_nothing_of_the_same_length_is_nearer() -> None:
    # Against scipy.signal.firls (least squares, linear phase), by the weighted error of both.
    for count in (31, 101):
        problem, reference = _band_problem(count)
        assert weighted_error(problem, solve(problem, count)) <= weighted_error(problem, reference) * (1 + 1e-6)


def test_under_limits_it_is_as_near_as_a_general_solver_comes() -> None:
    # Against scipy's SLSQP on the same small problem, its limits as much tighter as ours are aimed at: a lift that is
    # wanted and not allowed, quiet before the pulse.
    count, size, before = 23, 256, 8
    at = np.fft.rfftfreq(size)
    wanted = (1 + 0.8 * np.exp(-(((at - 0.2) / 0.05) ** 2))) * np.exp(-2j * np.pi * at * 11)
    most = np.full(at.size, 1.3)
    problem = Problem(size, wanted, np.ones(at.size), most, np.ones(at.size, complex), before, 0.02, 1.0)
    ours = solve(problem, count)
    assert np.abs(np.fft.rfft(ours, size)).max() <= 1.3 * 1.01
    assert np.abs(ours[:before]).max() <= 0.02 * 1.01
    theirs = scipy.optimize.minimize(
        lambda h: weighted_error(problem, h),
        np.eye(count)[11],
        method="SLSQP",
        bounds=[(-0.0198, 0.0198)] * before + [(None, None)] * (count - before),
        constraints={"type": "ineq", "fun": lambda h: 1.287**2 - np.abs(np.fft.rfft(h, size)) ** 2},
        options={"maxiter": 400, "ftol": 1e-10},
    )
    assert weighted_error(problem, ours) <= 1.03 * weighted_error(problem, theirs.x)
    # The limits cost something: without them it is nearer, and over them.
    free = Problem(size, wanted, np.ones(at.size), np.full(at.size, 9.0), np.ones(at.size, complex), before, 1.0, 1.0)
    assert np.abs(np.fft.rfft(solve(free, count), size)).max() > 1.5


def _two_ways() -> tuple[ComplexArray, ComplexArray]:
    low = PREDICTOR.channel(Channel(high_pass=lr(50), low_pass=lr(2500), delay_s=0.003))
    return low, PREDICTOR.channel(Channel(high_pass=lr(2500), delay_s=0.003))


def _parts(low: ComplexArray, high: ComplexArray) -> list[Part]:
    def part(name: str, heard: ComplexArray, span: tuple[float, float]) -> Part:
        return Part(name, "left", heard[None], (0.003,), decibels(np.abs(heard)), span)

    return [part("low", low, (50, 5000)), part("high", high, (1400, 20_000))]


def test_a_linkwitz_riley_crossover_is_made_transparent() -> None:
    # Two ways of 24 dB per octave add up to an all-pass, 360 degrees in all: after it, to a delayed pulse.
    found = together(_parts(*_two_ways()), GRID, Wish(taps=2047, pre_db=-50), RATE)
    assert found.before is not None
    assert found.before.phase_deg > 40
    assert found.after is not None
    assert found.after.phase_deg < 2
    assert found.after.worst_deg < 8
    assert found.late == 1023
    assert all(one.pre_db <= -49.5 for one in found.made.values())
    assert found.inverted == ()
    assert found.left_out == {}


def test_for_one_chair_ways_are_levelled_among_each_other() -> None:
    low, high = _two_ways()
    parts = _parts(low, high)
    parts[0] = replace(parts[0], heard=parts[0].heard * 10 ** (-4 / 20))
    wish = Wish(taps=2047, magnitude=True, here=True)
    found = together(parts, GRID, wish, RATE)
    assert found.gains["low"] - found.gains["high"] == pytest.approx(4, abs=0.05)
    assert found.after is not None
    assert found.after.level_db < 0.2
    # Of several places it is their mean that counts.
    quiet = [replace(one, heard=np.concatenate((one.heard, one.heard / 2)), about_s=(0.003, 0.003)) for one in parts]
    quiet[0] = replace(quiet[0], heard=parts[0].heard[[0, 0]])
    both = together(quiet, GRID, wish, RATE)
    assert both.gains["low"] - both.gains["high"] == pytest.approx(4 + 10 * np.log10((1 + 1 / 4) / 2), abs=0.05)
    apart = together(parts, GRID, wish.model_copy(update={"here": False}), RATE)
    assert apart.gains == {}
    assert apart.after is not None
    assert apart.after.level_db > 1


def test_what_is_levelled_at_one_place_harms_another() -> None:
    direct = PREDICTOR.channel(Channel(high_pass=lr(50)))
    comb = 1 + 0.6 * np.exp(-2j * np.pi * GRID * 0.0006)
    places = np.array([direct * comb, direct * (2 - comb)])  # where one is taken away the other is lifted
    flat = decibels(np.abs(direct))
    part = Part("one", "both", places[:1], (0.0,), flat, (50, 20_000), aside=places[1:], aside_s=(0.0,))
    found = alone(part, GRID, Wish(low_hz=400, magnitude=True, phase="keep", boost_db=9), RATE)
    here, aside = found.spots
    assert here.after_db < here.before_db / 2
    assert not here.harmed
    assert aside.after_db > aside.before_db + 1
    assert aside.harmed


def test_a_way_out_of_phase_is_said_and_one_beyond_the_span_left() -> None:
    low, high = _two_ways()
    sub = Part("sub", "both", PREDICTOR.channel(Channel(low_pass=lr(60)))[None], (0.0,), np.zeros(GRID.size), (20, 80))
    found = together([*_parts(low, -high), sub], GRID, Wish(), RATE)
    assert found.inverted == ("low",)  # the highest leads
    assert "beyond the span" in found.left_out["sub"]
    assert found.after is not None
    assert found.after.phase_deg < 3


def test_the_phase_that_a_level_implies_is_that_of_its_circuit() -> None:
    """A low-pass of the first order turns by the arc tangent of frequency over corner."""
    circuit = 1 / (1 + 1j * GRID / 1000)
    inside = (GRID > 60) & (GRID < 8000)
    found = aim_of(circuit, GRID, "minimum")
    assert np.degrees(found[inside]) == pytest.approx(np.degrees(np.angle(circuit[inside])), abs=0.7)
    assert not aim_of(circuit, GRID, "linear").any()


def test_excess_phase_leaves_the_minimum_phase_alone() -> None:
    bell = PREDICTOR.channel(Channel(high_pass=lr(40, 12)))
    turned = bell * PREDICTOR.sections(np.array([[[0.2, -0.9, 1.0, 1.0, -0.9, 0.2]]]))[0]  # an all-pass of order two
    wish = Wish(phase="excess", low_hz=200, taps=1023)
    part = Part("one", "both", turned[None], (0.0,), np.zeros(GRID.size), (40, 20_000))
    one = alone(part, GRID, wish, RATE).made["one"]
    assert one.before.phase_deg > 20
    assert one.after.phase_deg < 2
    assert one.after.level_db < 0.1
    assert one.boost_db <= 1.05


def test_magnitude_alone_is_minimum_phase_and_comes_at_once() -> None:
    heard = PREDICTOR.channel(Channel(high_pass=lr(60))) * 10 ** (3 * np.sin(np.log(GRID)) / 20)
    wish = Wish(phase="keep", magnitude=True, low_hz=300, taps=511)
    part = Part("one", "both", heard[None], (0.0,), np.zeros(GRID.size), (60, 20_000))
    one = alone(part, GRID, wish, RATE).made["one"]
    assert one.before.level_db > 1.2
    assert one.after.level_db < 0.3
    assert int(np.argmax(np.abs(one.taps))) == one.delay <= 1
    zeros = np.abs(np.roots(one.taps[:120]))  # the zeros of a minimum phase lie within the unit circle
    assert np.percentile(zeros, 90) < 1.02


def test_what_is_corrected_is_smoothed_as_chosen() -> None:
    # A ripple of a sixth of an octave is followed where it is seen, and left where it is smoothed away.
    ripple = 3 * np.sin(2 * np.pi * 6 * np.log2(GRID / 1000))
    part = Part("one", "both", (10 ** (ripple / 20)).astype(complex)[None], (0.0,), np.zeros(GRID.size), (30, 20_000))
    lifts = {}
    for smoothing in (3, 24):
        wish = Wish(phase="keep", magnitude=True, low_hz=1000, high_hz=8000, taps=1023, smoothing=smoothing)
        taps = alone(part, GRID, wish, RATE).made["one"].taps
        inside = (GRID > 1500) & (GRID < 6000)
        lifts[smoothing] = float(np.std(decibels(np.abs(response(taps, GRID, RATE)))[inside]))
    assert lifts[3] < 0.5
    assert lifts[24] > 1.5


@pytest.mark.walk
def test_each_band_keeps_to_limits_of_its_own() -> None:
    # Waves of 6 dB about the target: what they become in each band is known by its limits alone.
    waves = 6 * np.sin(2 * np.pi * 0.75 * np.log2(GRID / 1000))
    part = Part("one", "both", (10 ** (waves / 20)).astype(complex)[None], (0.0,), np.zeros(GRID.size), (30, 20_000))
    bounds = (
        Bound(low_hz=300, high_hz=1000, boost_db=2, cut_db=12),
        Bound(low_hz=1000, high_hz=3000, boost_db=12, cut_db=1),
        Bound(low_hz=3000, high_hz=9000, boost_db=12, cut_db=12, tolerance_db=2.5),
    )
    wish = Wish(phase="keep", magnitude=True, low_hz=100, high_hz=10_159, taps=4095, boost_db=12, bounds=bounds)
    one = alone(part, GRID, wish, RATE).made["one"]
    lifted = decibels(np.abs(response(one.taps, GRID, RATE)))

    def within(low: float, high: float) -> np.ndarray:
        # The ends of a band are a step that taps round off.
        return lifted[(low * 2**0.17 < GRID) & (high / 2**0.17 > GRID)]

    assert within(300, 1000).max() == pytest.approx(2, abs=0.15)
    assert within(300, 1000).min() == pytest.approx(-6, abs=0.3)
    assert within(1000, 3000).max() == pytest.approx(6, abs=0.3)
    assert within(1000, 3000).min() == pytest.approx(-1, abs=0.25)
    assert (within(3000, 9000).max(), within(3000, 9000).min()) == pytest.approx((3.5, -3.5), abs=0.2)
    assert lifted.max() <= 12.1
    left = (lifted + waves)[(GRID > 3600) & (GRID < 7500)]
    assert np.abs(left).max() < 2.7


def test_of_bands_that_overlap_the_later_counts() -> None:
    wish = Wish(bounds=(Bound(low_hz=100, high_hz=1000, boost_db=2), Bound(low_hz=500, high_hz=2000, boost_db=1)))
    boost, cut, tolerance = wish.limits_at(np.array([50.0, 200.0, 700.0, 1500.0, 3000.0]))
    assert boost.tolist() == [4, 2, 1, 1, 4]
    assert cut.tolist() == [12] * 5
    assert not tolerance.any()


def test_what_moves_with_the_microphone_is_left_alone() -> None:
    direct = PREDICTOR.channel(Channel(high_pass=lr(50)))
    stray = np.exp(-(((np.log2(GRID / 3000)) / 0.3) ** 2))
    places = np.array([direct * np.exp(1j * turn * stray) for turn in (0, 2.2, -2.2)])
    part = Part("one", "both", places, (0.0, 0.0, 0.0), np.zeros(GRID.size), (50, 20_000))
    found = alone(part, GRID, Wish(low_hz=400), RATE)
    (span,) = found.made["one"].left_out_hz
    assert 2000 < span[0] < 3000 < span[1] < 4500
    assert not any(one.harmed for one in found.spots)
    # Of one place alone the same is corrected, and harms the others.
    here = way(places[1:2], GRID, (400, 16_000), "linear")
    assert made(here, GRID, Wish(low_hz=400), RATE, np.zeros(GRID.size)).left_out_hz == ()


@pytest.mark.parametrize(
    ("wish", "says"),
    [
        ({"low_hz": 500, "high_hz": 600}, "half octave"),
        ({"phase": "keep"}, "nothing to do"),
        ({"cycles": 0.5}, "one cycle"),
        ({"bounds": ({"low_hz": 900, "high_hz": 900},)}, "from 900 to 900 Hz holds nothing"),
    ],
)
def test_a_wish_that_cannot_be_is_refused(wish: dict, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        Wish(**wish)


def test_too_few_taps_and_too_little_time_say_what_would_help() -> None:
    one = way(_two_ways()[0][None], GRID, (50, 5000), "linear", 0.003)
    flat = np.zeros(GRID.size)
    with pytest.raises(InvalidError, match=r"reach down to 3200 Hz.*take at least 1920"):
        made(one, GRID, Wish(low_hz=50, high_hz=4000, taps=30), RATE, flat)
    with pytest.raises(InvalidError, match="480 samples of 255 taps"):
        made(one, GRID, Wish(low_hz=400, taps=255, latency_ms=10), RATE, flat)
    with pytest.raises(InvalidError, match=r"more than a latency of 2 ms makes up: allow 3.43 ms"):
        made(one, GRID, Wish(low_hz=400, taps=511, latency_ms=2), RATE, flat, shift_s=0.003)
    with pytest.raises(InvalidError, match=r"\+8.00 ms against the others"):
        made(one, GRID, Wish(low_hz=400, taps=511), RATE, flat, shift_s=0.008)


def test_taps_are_kept_as_they_are_and_nonsense_is_refused() -> None:
    values = np.random.default_rng(1).normal(size=37)
    taps = Taps.of(values, RATE, 5, "a trial")
    assert taps.count == 37
    assert np.array_equal(taps.values, values.astype("<f4").astype(float))
    assert taps.words.startswith("37 taps, 0.10 ms, #")
    assert Taps.of(values[::-1], RATE, 5).words != taps.words
    for bad in ("AAAA", "no base64!", Taps.of(np.array([np.inf]), RATE, 0).data if False else "AACAfw=="):
        with pytest.raises(ValueError, match=r"float32|could keep"):
            Taps(data=bad, rate=RATE)


def test_the_response_of_taps_is_that_of_the_outside_world() -> None:
    values = np.random.default_rng(2).normal(size=700)
    theirs = scipy.signal.freqz(values, worN=GRID, fs=RATE)[1]
    assert np.allclose(PREDICTOR.taps(values), theirs, atol=1e-9)
    channel = Channel(gain_db=-6.0, high_pass=lr(200, 48, taps=1023), taps=Taps.of(values, RATE, 3))
    run = np.convolve(linear_taps((48, 200.0), None, 1023, RATE), channel.taps.values)  # type: ignore[union-attr]
    theirs = scipy.signal.freqz(run, worN=GRID, fs=RATE)[1] * 10 ** (-6 / 20)
    assert np.allclose(PREDICTOR.channel(channel), theirs, atol=1e-9)
    assert channel.tap_count == run.size
    assert channel.tap_delay == 511 + 3


def test_excess_phase_of_the_whole_makes_crossovers_transparent() -> None:
    # Each way by itself has no excess phase: it is their sum that turns, and for the sum that they are turned.
    found = together(_parts(*_two_ways()), GRID, Wish(phase="excess", taps=2047), RATE)
    assert found.before is not None
    assert found.before.phase_deg > 40
    assert found.after is not None
    assert found.after.phase_deg < 3
    assert found.after.level_db < 0.3
    for part in _parts(*_two_ways()):
        by_itself = alone(part, GRID, Wish(phase="excess", taps=2047), RATE).made[part.name]
        assert by_itself.before.phase_deg < 10


def test_levels_alone_need_no_time_for_the_whole_either() -> None:
    low, high = _two_ways()
    bent = 10 ** (3 * np.sin(2 * np.log(GRID)) / 20)
    flat = [
        Part(one.name, "left", one.heard * bent, one.about_s, one.target_db, one.span_hz) for one in _parts(low, high)
    ]
    found = together(flat, GRID, Wish(phase="keep", magnitude=True, low_hz=300, taps=1023), RATE)
    assert found.late == 0
    assert found.before is not None
    assert found.after is not None
    assert found.after.level_db < found.before.level_db / 3


@pytest.mark.walk
def test_a_way_that_only_begins_in_the_span_is_turned_where_it_meets_its_neighbour() -> None:
    low = PREDICTOR.channel(Channel(high_pass=lr(50), low_pass=lr(250), delay_s=0.003))
    high = PREDICTOR.channel(Channel(high_pass=lr(250), delay_s=0.003))
    parts = [
        Part("low", "left", low[None], (0.003,), decibels(np.abs(low)), (40, 260)),
        Part("high", "left", high[None], (0.003,), decibels(np.abs(high)), (200, 20_000)),
    ]
    found = together(parts, GRID, Wish(low_hz=200, taps=4095, pre_db=-30), RATE)
    assert set(found.made) == {"low", "high"}
    assert found.before is not None
    assert found.after is not None
    assert found.after.level_db < found.before.level_db + 0.2
