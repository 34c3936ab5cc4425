"""Samples that a device lost or doubled without a word, against recordings from which they were taken by hand."""

import numpy as np
import pytest
import soxr
from scipy.signal import butter, sosfilt

from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.slips import slip
from imbrix.core.measure.sweep import SweepSettings

RATE = 48_000
ONCE = Schedule(SweepSettings())
THRICE = Schedule(SweepSettings(length=2**16), repeats=3)
COUPLED = butter(2, [4.0, 20_500.0], "bandpass", fs=RATE, output="sos")


def looped(plan: Schedule, seed: int = 1, noise: float = 1e-5) -> np.ndarray:
    """What a loopback carries: late by an interface, without its lowest and highest tones, with some noise."""
    late = np.concatenate((np.zeros(734), plan.samples()))[: plan.size]
    return sosfilt(COUPLED, 0.5 * late) + noise * np.random.default_rng(seed).standard_normal(plan.size)


@pytest.mark.parametrize("plan", [ONCE, THRICE])
@pytest.mark.parametrize("samples", [-4096, -480, -128, 128, 1115])
def test_what_is_lost_or_doubled_within_a_sweep_is_told_with_its_length(plan: Schedule, samples: int) -> None:
    random = np.random.default_rng(abs(samples))
    for start in plan.sweeps:
        for share in random.uniform(0.45, 0.85, 4):
            whole = looped(plan)
            at = start + round(share * plan.sweep.length)
            again = whole[at - samples :] if samples < 0 else whole[at - samples :][: whole.size - at]
            jumps = np.concatenate((whole[:at], again, np.zeros(abs(samples))))[: whole.size]
            told = slip(jumps, plan)
            assert told is not None
            assert told * RATE == pytest.approx(samples, rel=0.02, abs=12)


def test_what_is_lost_between_two_sweeps_is_told() -> None:
    whole = looped(THRICE)
    at = THRICE.sweeps[1] - 2000
    jumps = np.concatenate((whole[:at], whole[at + 480 :], np.zeros(480)))
    assert slip(jumps, THRICE) == pytest.approx(-0.01, abs=1e-4)


def test_a_wire_that_keeps_its_time_raises_nothing() -> None:
    for plan in (ONCE, THRICE):
        for seed, noise in enumerate((0.0, 1e-4, 3e-3)):
            assert slip(looped(plan, seed, noise), plan) is None
    assert slip(soxr.resample(looped(THRICE), 1.0, 1.00015, quality="VHQ")[: THRICE.size], THRICE) is None
    for brief in (SweepSettings(length=2**14), SweepSettings(20, 100, 2**14), SweepSettings(5000, 23_000, 2**15)):
        plan = Schedule(brief)
        assert slip(looped(plan), plan) is None
    assert slip(np.random.default_rng(0).standard_normal(ONCE.size), ONCE) is None
    assert slip(sosfilt(butter(1, 20.0, "highpass", fs=RATE, output="sos"), looped(ONCE)), ONCE) is None
