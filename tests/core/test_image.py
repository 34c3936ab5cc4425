"""Where a sound stands between two loudspeakers, what answers mean, and what brings the image to the centre."""

from dataclasses import replace

import numpy as np
import pytest
import scipy.signal

from imbrix.core.image.head import across, later, marks, shade, table
from imbrix.core.image.heard import AT_SIDE, LEAST_CHANGE_DB, PER_DB, Earlier, Heard, cause, meaning
from imbrix.core.image.mend import apart, levels, phases
from imbrix.core.tune.tune import Band


def heard(hz: float, *places: float) -> Heard:
    return Heard(hz=hz, places=(places[0], places[-1]))


def phase_deg(hertz: float, q: float, at: float) -> float:
    """The phase of an analog second-order all-pass by scipy, in degrees."""
    w = 2 * np.pi * hertz
    _, response = scipy.signal.freqs([1, -w / q, w**2], [1, w / q, w**2], [2 * np.pi * at])
    return float(np.degrees(np.angle(response[0])))


@pytest.mark.parametrize("level_db", [1.0, 3.0, 6.0, 10.0])
def test_in_the_bass_a_sound_stands_by_the_law_of_sines(level_db: float) -> None:
    # B. B. Bauer, JASA 33, 1961: sin(image) / sin(loudspeaker) = (L - R) / (L + R), far below where a head is large.
    ratio = 10 ** (level_db / 20)
    hertz = across(100.0, 0.1)
    left, right = np.full((1, hertz.size), ratio, dtype=complex), np.ones((1, hertz.size), dtype=complex)
    place = marks(left, right, hertz)[0]
    assert place[0] == place[1] == pytest.approx(-(ratio - 1) / (ratio + 1), abs=0.03)


def test_one_loudspeaker_alone_stands_where_it_is_and_both_alike_in_the_centre() -> None:
    for hz in (125.0, 500.0, 2000.0, 8000.0):
        hertz = across(hz, 1.0)
        one, none = np.ones((1, hertz.size), dtype=complex), np.full((1, hertz.size), 1e-6, dtype=complex)
        assert marks(one, none, hertz)[0] == pytest.approx([-1, -1], abs=0.05)
        assert marks(none, one, hertz)[0] == pytest.approx([1, 1], abs=0.05)
        assert marks(one, one, hertz)[0] == pytest.approx([0, 0], abs=1e-9)


def test_out_of_phase_it_falls_in_two_up_to_where_the_wave_leads() -> None:
    for hz in (125.0, 250.0, 500.0):
        hertz = across(hz, 1.0)
        one = np.ones((1, hertz.size), dtype=complex)
        assert sorted(marks(one, -one, hertz)[0]) == pytest.approx([-1, 1], abs=0.05)
    hertz = across(4000.0, 1.0)
    one = np.ones((1, hertz.size), dtype=complex)
    assert marks(one, -one, hertz)[0] == pytest.approx([0, 0], abs=1e-9)


def test_the_far_ear_hears_later_and_duller() -> None:
    assert later(100.0) == pytest.approx(later(200.0), rel=0.02)
    assert abs(shade(np.array([50.0]))[0]) == pytest.approx(1, abs=0.01)
    assert abs(shade(np.array([20_000.0]))[0]) == pytest.approx(1 / 3, abs=0.02)  # the ratio of its two corners


@pytest.mark.parametrize("hz", [250.0, 500.0])
@pytest.mark.parametrize("angle_deg", [-120.0, -90.0, 90.0, 120.0])
def test_the_angle_is_read_from_where_a_sound_falls_in_two(hz: float, angle_deg: float) -> None:
    hertz = across(hz, 1.0)
    turned = np.exp(1j * np.radians(angle_deg)) * np.ones((1, hertz.size))
    low, high = np.sort(marks(turned, np.ones((1, hertz.size), dtype=complex), hertz)[0])
    level_db, angle = cause(hz, 1.0, (float(low), float(high)))
    assert abs((angle - angle_deg + 180) % 360 - 180) < 65  # in the end half a turn either way sounds alike
    assert abs(level_db) < 3


def test_the_level_is_read_from_where_a_sound_stands() -> None:
    for hz in (125.0, 500.0, 2000.0):
        for level_db in (-5.0, 4.0):
            hertz = across(hz, 1.0)
            ratio = 10 ** (level_db / 40)
            left, right = (np.full((1, hertz.size), one, dtype=complex) for one in (ratio, 1 / ratio))
            place = float(marks(left, right, hertz)[0, 0])
            found = meaning([heard(hz, place)], seen_db=level_db)
            assert found.level_db == pytest.approx(level_db, abs=1.0)
            assert found.angle_deg == 0
            assert found.sounds == ("left" if level_db > 0 else "right")


def test_answers_that_differ_are_taken_together_and_say_how_far() -> None:
    found = meaning([heard(500.0, 0.3), heard(500.0, 0.5), heard(500.0, 0.4)])
    assert found.place == pytest.approx(0.4)
    assert found.spread == pytest.approx(0.1)
    assert found.count == 3
    assert found.sure
    assert not meaning([heard(500.0, -0.3), heard(500.0, 0.6)]).sure
    assert meaning([heard(500.0, 0.08)]).sounds == "centre"
    # One of three that heard it fall in two does not outweigh the others.
    assert meaning([heard(500.0, 0.0), heard(500.0, 0.02), heard(500.0, -0.9, 0.9)]).sounds == "centre"


def test_what_moved_a_sound_before_tells_how_far_a_decibel_goes() -> None:
    plain = meaning([heard(250.0, 0.3)])
    told = meaning([heard(250.0, 0.3)], earlier=Earlier(place=-0.3, changed_db=-4.0))
    assert told.level_db == pytest.approx(0.3 / (0.6 / -4.0))
    assert abs(told.level_db) < abs(plain.level_db)
    # A change that did nothing, or the other way round, tells nothing.
    assert meaning([heard(250.0, 0.3)], earlier=Earlier(0.3, -4.0)).level_db == plain.level_db
    assert meaning([heard(250.0, 0.3)], earlier=Earlier(-0.3, 4.0)).level_db == plain.level_db


@pytest.mark.parametrize("degrees", [40.0, 90.0, 180.0])
@pytest.mark.parametrize("q", [0.7, 2.0])
def test_a_pair_of_all_passes_is_apart_at_one_frequency_and_together_elsewhere(degrees: float, q: float) -> None:
    first, second = apart(400.0, degrees, q)
    there = phase_deg(second.frequency_hz, q, 400.0) - phase_deg(first.frequency_hz, q, 400.0)
    assert (there % 360) == pytest.approx(degrees, abs=0.5)
    for far in (8.0, 20_000.0):
        away = phase_deg(second.frequency_hz, q, far) - phase_deg(first.frequency_hz, q, far)
        assert abs((away + 180) % 360 - 180) < degrees / 8


def test_opposite_bells_bring_levels_to_the_centre_and_reckon_with_their_overlap() -> None:
    off = [meaning([heard(hz, place)]) for hz, place in ((1000.0, -0.4), (2000.0, -0.4), (4000.0, 0.0))]
    found = levels(off, {})
    assert found is not None
    assert [one.frequency_hz for one in found.bells][:2] == [1000.0, 2000.0]
    assert all(one.gain_db < 0 for one in found.bells[:2])  # left is louder: it is brought down
    # Both lean into each other: each has to do less than it would alone.
    alone = levels([off[0]], {})
    assert alone is not None
    assert abs(found.bells[0].gain_db) < abs(alone.bells[0].gain_db)


@pytest.mark.parametrize(("octaves", "q"), [(1.0, 1.41), (1 / 3, 4.32), (2.0, 0.67)])
def test_a_bell_is_as_wide_as_what_was_heard(octaves: float, q: float) -> None:
    """Closed form of a bell's Q by its width between half its gain in dB; the three are in any handbook."""
    found = levels([replace(meaning([heard(1000.0, -0.4)]), octaves=octaves)], {})
    assert found is not None
    assert [one.q for one in found.bells] == [q]


def test_bands_of_a_way_that_lean_alike_are_its_gain() -> None:
    off = [meaning([heard(hz, 0.35)]) for hz in (2000.0, 4000.0, 8000.0)]
    found = levels(off, dict.fromkeys((2000.0, 4000.0, 8000.0), "tweeter-l"))
    assert found is not None
    assert found.gains_db["tweeter-l"] > 1
    assert max((abs(one.gain_db) for one in found.bells), default=0) < 0.6
    assert levels([meaning([heard(1000.0, 0.05)])], {}) is None


def test_one_delay_or_one_polarity_is_said_where_it_explains_most() -> None:
    turned = [meaning([heard(hz, -1.0, 1.0)]) for hz in (125.0, 250.0, 500.0)]
    found = phases(turned)
    assert found is not None
    assert found.inverted
    one = phases([turned[0], *(meaning([heard(hz, 0.0)]) for hz in (250.0, 500.0))])
    assert one is not None
    assert not one.inverted
    assert one.pairs
    assert phases([meaning([heard(hz, 0.0)]) for hz in (125.0, 250.0, 500.0)]) is None


def test_a_pair_takes_the_place_of_the_one_before() -> None:
    split = [meaning([heard(125.0, 0.0)]), meaning([heard(250.0, 0.0)]), meaning([heard(500.0, -1.0, 1.0)])]
    first = phases(split)
    assert first is not None
    # Heard again with the pair in place and still in two, the next one does both.
    second = phases(split, first.pairs)
    assert second is None or second.pairs != first.pairs
    better = [meaning([heard(125.0, 0.0)]), meaning([heard(250.0, 0.0)]), meaning([heard(500.0, 0.0)])]
    assert phases(better, first.pairs) is None


def test_what_is_heard_with_a_pair_in_place_is_undone_without_it() -> None:
    """A pair that was wrong is taken out of what is heard: the next ones undo what the space does by itself."""

    def ahead(pair: tuple[Band, Band], at: float) -> float:
        one, other = (phase_deg(band.frequency_hz, band.q, at) for band in pair)
        return one - other

    hertz = (80.0, 125.0, 200.0, 315.0, 500.0, 800.0)
    space = np.array([0.0, 0.0, 0.0, 60.0, 170.0, 60.0])
    wrong = apart(400.0, 150.0, 1.5)
    angles = [own + ahead(wrong, hz) for own, hz in zip(space, hertz, strict=True)]
    found = phases(
        [
            replace(meaning([heard(hz, 0.0)]), angle_deg=float(np.angle(np.exp(1j * np.radians(one)), deg=True)))
            for hz, one in zip(hertz, angles, strict=True)
        ],
        (wrong,),
    )
    assert found is not None
    left = [own + sum(ahead(pair, hz) for pair in found.pairs) for own, hz in zip(space, hertz, strict=True)]
    off = np.angle(np.exp(1j * np.radians(left)), deg=True)
    assert np.sqrt(np.mean(off**2)) < 0.4 * np.sqrt(np.mean(space**2))


def test_the_table_is_alike_for_left_and_right() -> None:
    found = table(250.0, 1.0)
    middle = found.shape[0] // 2
    zero = 17  # of ANGLES_DEG, which begin at -170
    assert found[middle, zero] == pytest.approx([0, 0], abs=1e-9)
    assert np.sort(found[middle + 8, zero]) == pytest.approx(-np.sort(found[middle - 8, zero])[::-1], abs=1e-9)


def test_how_far_a_decibel_goes_is_told_where_a_change_was_heard() -> None:
    """Louder on the left moves the sound to the left, which is below zero; by as much as ears have it."""
    assert Earlier(0.5, 4.0).per_db(0.1) == pytest.approx(-0.1)
    assert Earlier(0.1, -4.0).per_db(0.5) == pytest.approx(-0.1)
    for changed in (0.99 * LEAST_CHANGE_DB, -0.99 * LEAST_CHANGE_DB):
        assert Earlier(0.1 * changed, changed).per_db(0.0) is None
    for sign in (1, -1):
        assert Earlier(0.1 * sign * LEAST_CHANGE_DB, sign * LEAST_CHANGE_DB).per_db(0.0) == pytest.approx(-0.1)
    for beside, place in ((AT_SIDE, 0.1), (0.1, -AT_SIDE)):  # at the side itself it can go no farther
        assert Earlier(beside, 3.0).per_db(place) is None
    for slope in PER_DB:
        inside, beyond = (slope * (1 + by) for by in ((-0.01, 0.01) if slope == min(PER_DB) else (0.01, -0.01)))
        assert Earlier(0.0, 2.0).per_db(2 * inside) == pytest.approx(inside)
        assert Earlier(0.0, 2.0).per_db(2 * beyond) is None
