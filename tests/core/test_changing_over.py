"""Two sources heard by turns: which sounds when, against sounds put together by hand."""

import numpy as np
import pytest

from imbrix.core.signal.signal import FloatArray
from imbrix.core.source.changing_over import ChangeOver, ChangingOver, Which, comb, lines

RATES = (44_100, 48_000, 96_000)


def heard(sound: FloatArray, rate: int, first: Which = "second") -> ChangeOver:
    listens = ChangingOver(rate, first)
    for at in range(0, sound.size, 4096):
        listens.feed(sound[at : at + 4096])
    return listens.found


def put_together(rate: int, gap_s: float, back_s: float, level_db: float, noise_db: float = -80.0) -> FloatArray:
    """The wires until 3 s, the second source from `gap_s` later until 7 s, the wires again `back_s` after it."""
    at = np.arange(12 * rate) / rate
    wires, second = (comb(which, rate, 12.0)[:, 0] for which in ("wires", "second"))
    noise = np.random.default_rng(3).standard_normal(at.size) * 10 ** (noise_db / 20)
    on = (at >= 3 + gap_s) & (at < 7)
    return wires * ((at < 3) | (at >= 7 + back_s)) + second * on * 10 ** (level_db / 20) + noise


@pytest.mark.parametrize("rate", RATES)
def test_two_combs_have_one_level_and_share_no_line(rate: int) -> None:
    combs = [comb(which, rate, 1.0) for which in ("wires", "second")]
    assert [10 * np.log10(np.mean(one**2)) for one in combs] == pytest.approx([-18.0, -18.0], abs=0.01)
    assert max(np.abs(one).max() for one in combs) < 10 ** (-6 / 20)
    assert np.abs(lines("wires")[:, None] - lines("second")).min() >= 40.0
    # A window of 50 ms holds whole periods: what one comb leaves in the other's lines is rounding.
    window = combs[0][: rate // 20, 0]
    power = np.abs(np.fft.rfft(window)) ** 2
    leak = power[np.round(lines("second") / 20).astype(int)].max() / power.max()
    assert 10 * np.log10(leak) < -150


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize(("gap_s", "back_s", "level_db", "noise_db"), [(0.0, 2.0, 0.0, -80), (0.3, 0.5, -9.0, -40)])
def test_the_change_over_is_timed_and_both_levels_are_told(
    rate: int, gap_s: float, back_s: float, level_db: float, noise_db: float
) -> None:
    found = heard(put_together(rate, gap_s, back_s, level_db, noise_db), rate)
    assert found.done
    assert found.other_db == pytest.approx(-18.0, abs=0.2)
    assert found.first_db == pytest.approx(-18.0 + level_db, abs=0.4)
    assert found.gap_s == pytest.approx(gap_s, abs=0.02)
    assert found.back_s == pytest.approx(back_s, abs=0.02)
    assert found.leaks_db is None


def test_what_does_not_change_over_is_told_by_what_was_heard() -> None:
    rate = 48_000
    at = np.arange(10 * rate) / rate
    wires, second = (comb(which, rate, 10.0)[:, 0] for which in ("wires", "second"))
    noise = 1e-4 * np.random.default_rng(5).standard_normal(at.size)
    assert heard(noise, rate) == ChangeOver(first="second")
    alone = heard(wires + noise, rate)
    assert (alone.other_db is not None, alone.first_db) == (True, None)
    both = heard(wires + second * ((at > 3) & (at < 6)) + noise, rate)
    assert both.leaks_db == pytest.approx(0.0, abs=0.2)
    assert both.gap_s is not None
    assert both.gap_s < -1.0
    stays = heard(wires * (at < 3) + second * (at >= 3) + noise, rate)
    assert (stays.done, stays.leaks_db) == (False, None)
    # Which of them comes first is said beforehand: the same sound is another story then.
    other = heard(wires * ((at > 3) & (at < 6)) + second * ((at < 3) | (at > 7)) + noise, rate, "wires")
    assert (other.first, other.done) == ("wires", True)


def test_distortion_of_a_much_louder_source_is_no_leak() -> None:
    rate = 48_000
    at = np.arange(12 * rate) / rate
    # The wires come first here, and bend by -60 dB into the lines of the second source, which is 30 dB softer.
    bends = comb("second", rate, 12.0)[:, 0] * 10 ** (-60 / 20)
    wires = ((at >= 3) & (at < 7)) * comb("wires", rate, 12.0)[:, 0]
    second = ((at < 3) | (at >= 8)) * comb("second", rate, 12.0)[:, 0] * 10 ** (-30 / 20)
    noise = 1e-5 * np.random.default_rng(8).standard_normal(at.size)
    found = heard(wires + bends * ((at >= 3) & (at < 7)) + second + noise, rate, "wires")
    assert (found.done, found.leaks_db) == (True, None)
    assert found.louder_db == pytest.approx(-30.0, abs=0.4)
    # What stays of it as it was is a leak, however soft it is beside the other.
    stays = heard(wires + comb("second", rate, 12.0)[:, 0] * 10 ** (-30 / 20) + noise, rate, "wires")
    assert stays.leaks_db == pytest.approx(0.0, abs=0.4)


def test_a_door_is_no_comb() -> None:
    rate = 48_000
    noise = 1e-4 * np.random.default_rng(6).standard_normal(4 * rate)
    noise[rate : rate + 4800] += np.random.default_rng(7).standard_normal(4800) * 0.1
    assert heard(noise, rate).other_db is None


@pytest.mark.parametrize("over_db", [6.0, 14.0])
def test_a_comb_is_heard_from_ten_decibels_over_the_noise_in_its_lines(over_db: float) -> None:
    rate = 48_000
    wires = comb("wires", rate, 8.0)[:, 0]
    noise = np.random.default_rng(11).standard_normal(wires.size)
    # White noise of variance v leaves 2 v / n of it in each line of a window of n samples (Parseval).
    in_lines = 2 / (rate // 20) * lines("wires").size
    noise *= np.sqrt(np.mean(wires**2) / in_lines) * 10 ** (-over_db / 20)
    assert (heard(wires + noise, rate).other_db is not None) == (over_db > 10)


@pytest.mark.parametrize(("first", "louder_db"), [("second", 4.0), ("wires", -4.0)])
def test_louder_is_always_the_second_source_against_the_wires(first: Which, louder_db: float) -> None:
    assert ChangeOver(first=first, other_db=-22.0, first_db=-18.0).louder_db == louder_db
    assert ChangeOver(first=first, other_db=-22.0).louder_db is None
    assert ChangeOver(first=first, first_db=-22.0).louder_db is None


@pytest.mark.parametrize(
    ("wires_db", "second_db", "sounds"),
    [(None, None, (False, False)), (None, 0, (True, False)), (0, None, (False, True)), (-9, 0, (True, True))],
)
def test_it_is_told_which_of_the_two_sounds_now(
    wires_db: float | None, second_db: float | None, sounds: tuple[bool, bool]
) -> None:
    rate = 48_000
    listens = ChangingOver(rate, "second")
    assert listens.now == (False, False)
    sound = 1e-5 * np.random.default_rng(4).standard_normal(rate)
    for which, level_db in (("wires", wires_db), ("second", second_db)):
        if level_db is not None:
            sound += comb(which, rate, 1.0)[:, 0] * 10 ** (level_db / 20)  # type: ignore[arg-type]
    listens.feed(sound)
    assert listens.now == sounds
