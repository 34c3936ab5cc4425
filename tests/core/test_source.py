"""What a source does to its feeds, read and undone: against closed forms, scipy's filters, and drawn head units."""

import numpy as np
import pytest
import scipy.signal

from imbrix.core.errors import InvalidError, UnusableError
from imbrix.core.predict.predict import Predictor
from imbrix.core.source import track
from imbrix.core.source.between import FIRST, SECOND, between
from imbrix.core.source.straighten import inverse, summing, tone
from imbrix.core.source.wires import GRID, read_wires
from imbrix.core.tune.tune import Band, Channel
from imbrix.standins.head_unit import RATE, HeadUnit, Wire, drawn, flat

FLAT = np.ones(GRID.size, dtype=complex)


def analogue(order: int, hertz: float, q: float = 1.0) -> np.ndarray:
    """An all-pass by scipy, from its analogue polynomials."""
    w = 2 * np.pi * hertz
    top, bottom = ([-1, w], [1, w]) if order == FIRST else ([1, -w / q, w * w], [1, w / q, w * w])
    return scipy.signal.freqs(top, bottom, 2 * np.pi * GRID)[1]


def late(seconds: float) -> np.ndarray:
    return np.exp(-2j * np.pi * GRID * seconds)


def recorded(unit: HeadUnit, wires: tuple[int, ...], rate: int = 48_000, seed: int = 1, **how: object) -> np.ndarray:
    """A recording (n, wires) of 2.1 rounds of the track from anywhere."""
    size = round(2.1 * track.schedule(rate).size)
    return unit.play(track.track(RATE), size, rate, wires, np.random.default_rng(seed), **how)


@pytest.mark.parametrize("delay", [-7.3e-3, -11e-6, 0.0, 0.4e-3, 21e-3])
@pytest.mark.parametrize("sign", [1, -1])
def test_delay_and_polarity_are_found_whatever_the_tone(delay: float, sign: int) -> None:
    """A bell, a shelf and a high-pass by scipy lie between the two; none has anything but its minimum phase."""
    sos = scipy.signal.butter(2, 60, "high", fs=192_000, output="sos")
    tones = scipy.signal.sosfreqz(sos, 2 * np.pi * GRID / 192_000)[1]
    found = between(FLAT, sign * 0.4 * tones * late(delay))
    assert found is not None
    assert found.inverted == (sign < 0)
    assert found.delay_s == pytest.approx(delay, abs=2e-6)
    assert found.passes == ()
    assert found.level_db == pytest.approx(20 * np.log10(0.4), abs=0.05)


@pytest.mark.parametrize("ahead", [False, True])
@pytest.mark.parametrize(
    ("order", "hertz", "q"), [(FIRST, 300, 1), (FIRST, 2500, 1), (SECOND, 90, 0.6), (SECOND, 800, 2), (SECOND, 6000, 1)]
)
def test_one_all_pass_is_found_with_its_order(order: int, hertz: float, q: float, ahead: bool) -> None:
    turned = analogue(order, hertz, q)
    found = between(turned, FLAT * late(1e-3)) if ahead else between(FLAT, turned * late(1e-3))
    assert found is not None
    (one,) = found.passes
    assert (one.order, one.ahead) == (order, ahead)
    assert one.frequency_hz == pytest.approx(hertz, rel=0.005)
    assert order == FIRST or one.q == pytest.approx(q, rel=0.01)
    assert found.delay_s == pytest.approx(1e-3, abs=2e-6)
    assert one.response(GRID) * (turned if ahead else np.conjugate(turned)) == pytest.approx(FLAT, abs=0.02)


def test_two_all_passes_are_told_from_one() -> None:
    found = between(FLAT, analogue(SECOND, 150, 0.8) * analogue(SECOND, 1800, 1.5))
    assert found is not None
    assert sorted(round(one.frequency_hz, -1) for one in found.passes) == [150, 1800]


def test_feeds_that_share_nothing_are_not_compared() -> None:
    low = np.where(GRID < 100, FLAT, np.nan)
    high = np.where(GRID > 90, FLAT, np.nan)
    assert between(low, high) is None


def test_two_paths_sum_as_the_closed_form_says() -> None:
    """Dips at (2k+1) / (2 tau); 6.02 dB where both are in step, nothing left where one is inverted."""
    tau = 1e-3
    curve = summing(FLAT, late(tau))
    for k in range(4):
        at = int(np.argmin(np.abs(GRID - (2 * k + 1) / (2 * tau))))
        assert curve[at] < -18
    assert summing(FLAT, FLAT) == pytest.approx(np.full(GRID.size, 6.0206), abs=1e-3)
    assert summing(FLAT, -FLAT).max() < -100


def test_the_track_is_one_sound_at_every_rate() -> None:
    for rate in track.RATES:
        parts = track.schedule(rate)
        assert parts.size / rate == pytest.approx(track.schedule(48_000).size / 48_000, abs=1e-9)
        assert [start / rate for start in parts.sweeps] == pytest.approx(
            [start / 48_000 for start in track.schedule(48_000).sweeps]
        )
    both = track.track(44_100)
    assert np.abs(both).max() == pytest.approx(10 ** (track.LEVEL_DB / 20), rel=0.01)


@pytest.mark.walk
@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
def test_a_foreign_clock_and_any_start_change_nothing(rate: int) -> None:
    passes = Wire((0.0, 1.0), -3.0, True, 4.2e-3, bands=(("bell", 900.0, -5.0, 1.2),))
    unit = HeadUnit("one", (Wire((1.0, 0.0)), passes), ppm=-57.0)
    for seed in range(3):
        found = read_wires(recorded(unit, (1, 2), rate, seed), rate)
        assert found.drift == pytest.approx(57e-6, abs=0.3e-6)
        assert [one.side for one in found.wires] == ["left", "right"]
        clear = found.wires[1].over_noise_db > 30
        off = decibels_apart(found.wires[1].response[clear], unit.truth(2, GRID)[clear])
        assert np.abs(off).max() < 0.2
        lies = between(found.wires[0].response, found.wires[1].response)
        assert lies is not None
        assert lies.inverted
        assert lies.delay_s == pytest.approx(4.2e-3, abs=5e-6)


def decibels_apart(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    return 20 * np.log10(np.abs(one) / np.abs(other))


@pytest.mark.walk
@pytest.mark.parametrize("seed", [71, 72, 73, 74])
def test_a_drawn_unit_is_read_and_straightened(seed: int) -> None:
    unit = drawn(seed, 4)
    for number in (2, 3):
        found = read_wires(recorded(unit, (1, number), seed=seed), 48_000)
        one, other = unit.wires[0], unit.wires[number - 1]
        lies = between(*(wire.response for wire in found.wires))
        assert lies is not None
        assert lies.inverted == (one.inverted != other.inverted)
        assert lies.delay_s == pytest.approx(other.delay_s - one.delay_s, abs=5e-6)
        assert len(lies.passes) == len(one.passes) + len(other.passes)
        for hertz, q in (*one.passes, *other.passes):
            near = min(lies.passes, key=lambda p, hertz=hertz: abs(p.frequency_hz - hertz))
            assert near.order == SECOND
            assert near.frequency_hz == pytest.approx(hertz, rel=0.02)
            assert near.q == pytest.approx(q, rel=0.05)
        shown = tone(found.wires[1].response)
        made = inverse(shown, 10, RATE)
        does = Predictor(GRID, RATE).channel(Channel(gain_db=made.gain_db, bands=made.bands))
        inside = (shown.low_hz <= GRID) & (shown.high_hz >= GRID)
        assert np.ptp(tone(unit.truth(number, GRID) * does).levels[inside]) / 2 < 1.0


def test_a_flat_source_needs_nothing() -> None:
    found = read_wires(recorded(flat(), (1, 2)), 48_000)
    assert all(tone(wire.response).flat for wire in found.wires)
    lies = between(*(wire.response for wire in found.wires))
    assert lies is not None
    assert (lies.inverted, lies.passes) == (False, ())
    assert abs(lies.delay_s) < 1e-6


def test_what_the_factory_cut_away_is_not_lifted_back() -> None:
    """A second-order high-pass at 100 Hz: below its -3 dB point the inverse leaves it alone."""
    sos = scipy.signal.butter(2, 100, "high", fs=RATE, output="sos")
    shown = tone(scipy.signal.sosfreqz(sos, 2 * np.pi * GRID / RATE)[1])
    assert shown.low_hz == pytest.approx(100, rel=0.06)
    made = inverse(shown, 8, RATE)
    does = Predictor(GRID, RATE).channel(Channel(bands=made.bands, gain_db=made.gain_db))
    assert 20 * np.log10(np.abs(does[int(np.argmin(np.abs(GRID - 30)))])) < 3.5
    with pytest.raises(InvalidError, match="no bands at its inputs"):
        inverse(shown, 0, RATE)


def test_the_partner_of_an_all_pass_given_the_same_sums_to_6_db() -> None:
    given = Predictor(GRID, RATE).channel(Channel(bands=(Band(kind="all_pass", frequency_hz=700, q=0.9),)))
    assert summing(given, analogue(SECOND, 700, 0.9)).min() > 5.9


@pytest.mark.parametrize(
    ("spoilt", "says"),
    [
        (lambda x: 0 * x, "silent"),
        (lambda x: np.clip(40 * x, -1, 1), "clips"),
        (lambda x: np.random.default_rng(0).standard_normal(x.shape) * 0.05, "does not hold the track"),
        (lambda x: x[: round(5.0 * 48_000)], "not played whole"),
        (lambda x: x + 0.02 * np.sin(np.arange(x.shape[0]) / 9)[:, None], "something else sounded"),
        (lambda x: np.tanh(x * 40) / 40, "distorts at this volume"),
        (lambda x: x + 0.3 * np.abs(x), "distorts at this volume"),  # on one side: even harmonics only
    ],
    ids=["silence", "clipping", "wrong-track", "cut", "tone", "limiter", "one-sided"],
)
def test_what_is_wrong_with_a_recording_is_said(spoilt: object, says: str) -> None:
    heard = recorded(HeadUnit("one", (Wire((1.0, 0.0)), Wire((0.0, 1.0)))), (1, 2))
    with pytest.raises(UnusableError, match=says):
        read_wires(spoilt(heard), 48_000)


def test_a_track_that_stops_is_said() -> None:
    heard = recorded(flat(), (1, 2), stops_s=6.0)
    with pytest.raises(UnusableError, match="track"):
        read_wires(heard, 48_000)


def test_a_chime_in_the_middle_is_said() -> None:
    with pytest.raises(UnusableError, match="chime"):
        read_wires(recorded(flat(), (1, 2), chime=True, seed=4), 48_000)


def test_a_source_set_to_mono_carries_both_sides() -> None:
    unit = HeadUnit("mono", (Wire((0.5, 0.5)), Wire((0.5, 0.5))))
    assert [one.side for one in read_wires(recorded(unit, (1, 2)), 48_000).wires] == ["both", "both"]


def test_two_all_passes_are_found_each_with_its_own_q() -> None:
    turned = analogue(SECOND, 150, 0.6) * analogue(SECOND, 1500, 1.8)
    found = between(FLAT, turned)
    assert found is not None
    assert [(one.order, one.ahead) for one in found.passes] == [(SECOND, False)] * 2
    lower, upper = sorted(found.passes, key=lambda one: one.frequency_hz)
    assert (lower.frequency_hz, lower.q) == (pytest.approx(150, rel=0.01), pytest.approx(0.6, rel=0.02))
    assert (upper.frequency_hz, upper.q) == (pytest.approx(1500, rel=0.01), pytest.approx(1.8, rel=0.02))
