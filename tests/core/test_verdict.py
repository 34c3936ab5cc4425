"""The verdict, line by line, on evidence made up to say one thing each; and the evidence itself where it has edges."""

import numpy as np
import pytest

from imbrix.core.evidence.evidence import Agreement, Evidence, Hum, Intrusion, agreement, hum
from imbrix.core.evidence.verdict import verdict
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layout import Kind

RATE = 48_000
CLEAN = Evidence(
    peak_dbfs=-18, noise_dbfs=-74, over_noise_db={"500": 45, "1000": 50}, low_hz=160, high_hz=9000, arrival_ms=3.1
)
SAME = Agreement(level_db=0.1, shape_db=0.1, later_us=0.5, turned=False)


def kinds(evidence: Evidence, kind: Kind | None = Kind.MID, **more: object) -> list[str]:
    return [one.kind for one in verdict(evidence, kind, **more)]  # type: ignore[arg-type]


def test_a_clean_take_raises_nothing() -> None:
    assert kinds(CLEAN, agrees=SAME, others_ms=(2.5, 3.0, 4.4)) == []


@pytest.mark.parametrize(
    ("values", "found"),
    [
        ({"over_noise_db": {"500": 18.0}}, ("noisy", "note")),
        ({"over_noise_db": {"500": 8.0}}, ("noisy", "doubt")),
        ({"peak_dbfs": -45.0}, ("weak", "note")),
        ({"hum": Hum(base_hz=60, over_db=30), "noise_dbfs": -52.0}, ("hum", "doubt")),
        ({"hum": Hum(base_hz=50, over_db=15)}, ("hum", "note")),
        ({"intrusions": (Intrusion(at_s=2, seconds=0.1, over_db=20, low=False),)}, ("burst", "doubt")),
        ({"intrusions": (Intrusion(at_s=2, seconds=1.1, over_db=20, low=True),)}, ("rumble", "doubt")),
        ({"repeat_db": -12.0}, ("unrepeatable", "doubt")),
        ({"misfits": {"own": 30.0, "mid": 30.0, "sub": 4.0}}, ("wrong-driver", "doubt")),
        ({"drift_ppm": -31.0}, ("drift", "note")),
        ({"arrival_ms": 24.0}, ("delay", "doubt")),
        ({"arrival_ms": -1.0}, ("delay", "doubt")),
    ],
)
def test_each_trouble_has_its_name_its_evidence_and_what_to_try(values: dict, found: tuple[str, str]) -> None:
    said = verdict(CLEAN.model_copy(update=values), Kind.MID, others_ms=(2.5, 3.0, 4.4))
    assert [(one.kind, one.weight) for one in said] == [found]
    assert said[0].evidence
    assert said[0].tries


def test_a_low_driver_may_come_later_and_one_other_alone_says_little() -> None:
    """A mode of 38 Hz rings for tens of milliseconds: the peak of its envelope says little of the way."""
    late = CLEAN.model_copy(update={"arrival_ms": 17.0})
    assert kinds(late, others_ms=(2.5, 3.0, 4.4)) == ["delay"]
    assert kinds(late, Kind.SUB, others_ms=(2.5, 3.0, 4.4)) == []
    assert kinds(CLEAN, others_ms=(17.0,)) == kinds(CLEAN, others_ms=(3.5, 17.0)) == []
    far = CLEAN.model_copy(update={"arrival_ms": 35.0})
    assert kinds(far, Kind.SUB, others_ms=(2.5,)) == ["delay"]


def test_the_wrong_driver_is_told_by_what_it_is_like() -> None:
    fits = {"own": 60.0, "tweeter": 60.0, "sub": 5.0, "woofer": 7.0, "mid": 30.0, "full": 6.0}
    (said,) = verdict(CLEAN.model_copy(update={"misfits": fits}), Kind.TWEETER)
    assert said.says == "This does not sound like a tweeter, but like a sub or woofer"


def test_a_burst_tells_where_something_may_rattle() -> None:
    burst = Intrusion(at_s=1.6, seconds=0.2, over_db=22, low=False, sweep_hz=128.4)
    (said,) = verdict(CLEAN.model_copy(update={"intrusions": (burst,)}), Kind.MIDBASS)
    assert "rattles near 128 Hz" in said.tries


def test_only_what_the_evidence_excludes_is_doubted() -> None:
    near = {"own": 8.0, "mid": 8.0, "full": 4.0}
    assert kinds(CLEAN.model_copy(update={"misfits": near})) == []
    assert kinds(CLEAN) == []  # a take of before, of which this is not known
    # A passive part plays higher than its lowest way alone: what counts is how it fits itself.
    passive = {"own": 5.0, "midbass": 40.0, "full": 4.0}
    said = verdict(CLEAN.model_copy(update={"misfits": passive}), Kind.MIDBASS, passive_to=Kind.TWEETER)
    assert said == []


def test_differences_from_the_take_before_are_told_apart() -> None:
    gain = Agreement(level_db=-7.0, shape_db=0.2, later_us=0.0, turned=False)
    assert kinds(CLEAN, agrees=gain) == ["gain"]
    assert kinds(CLEAN, agrees=Agreement(level_db=-2, shape_db=3.0, later_us=40, turned=False)) == ["moved"]
    assert kinds(CLEAN, agrees=Agreement(level_db=0, shape_db=0.1, later_us=0, turned=True)) == ["turned"]


def test_a_take_without_time_is_told_and_a_proof_has_no_kind() -> None:
    assert kinds(CLEAN, timed=False) == ["no-time"]
    assert kinds(CLEAN.model_copy(update={"low_hz": 20, "high_hz": 20_000}), None) == []


def test_the_grave_comes_before_the_rest() -> None:
    both = CLEAN.model_copy(update={"peak_dbfs": -45.0, "hum": Hum(base_hz=50, over_db=25)})
    assert kinds(both) == ["hum", "weak"]


@pytest.mark.parametrize("base", [50, 60])
def test_hum_is_found_in_noise_by_its_lines_and_not_without(base: int) -> None:
    random = np.random.default_rng(base)
    at = np.arange(round(0.8 * RATE)) / RATE
    for seed in range(20):
        noise = np.cumsum(np.random.default_rng(seed).standard_normal(at.size)) * 1e-6
        noise += 1e-4 * random.standard_normal(at.size)
        assert hum(noise, RATE) is None
    lines = 3e-4 * np.sin(2 * np.pi * base * at) + 3e-4 * np.sin(2 * np.pi * 3 * base * at + 1)
    found = hum(1e-4 * random.standard_normal(at.size) + lines, RATE)
    assert found is not None
    assert found.base_hz == base
    assert hum(np.zeros(100), RATE) is None


def test_agreement_reads_level_time_and_a_turned_polarity() -> None:
    grid = log_grid()
    random = np.random.default_rng(1)
    first = 10 ** (np.convolve(random.normal(0, 4, grid.size), np.ones(9) / 9, "same") / 20) * np.exp(
        -2j * np.pi * grid * 0.003
    )
    second = -0.5 * first * np.exp(-2j * np.pi * grid * 25e-6)
    found = agreement(first, second, grid, 100, 8000, timed=True)
    assert found is not None
    assert found.turned
    assert found.level_db == pytest.approx(-6.02, abs=0.01)
    assert found.later_us == pytest.approx(25, abs=0.5)
    assert found.shape_db < 0.01
    untimed = agreement(first, second, grid, 100, 8000, timed=False)
    assert untimed is not None
    assert untimed.later_us is None
    assert not untimed.turned
    assert agreement(first, np.full(grid.size, np.nan + 0j), grid, 100, 8000, timed=True) is None
