"""Impedance: the circuit against closed forms, parameters out of curves, the jig's calibration, single tones."""

from contextlib import nullcontext

import numpy as np
import pytest
from scipy import signal

from imbrix.core.errors import InvalidError
from imbrix.core.impedance.impedance import (
    AIR_DENSITY,
    BEGIN_EXPONENT,
    Circuit,
    apart,
    by_added_mass,
    by_known_box,
    coil_to_begin_with,
    find_circuit,
    impedance,
    in_box,
    least,
    ohm_grid,
    parameters,
    with_mass,
)
from imbrix.core.measure.jig import Calibration, calibration, looks_like, nominal, ohms, plausible
from imbrix.core.measure.stepped import Steps
from imbrix.core.signal.response import speed_of_sound

WOOFER = Circuit(3.28, 58.0, 3.9, 19.5, 0.0062, 0.71)
F = ohm_grid()
NAMES = ("re", "fs", "qms", "qes", "qts", "res", "coil", "exponent")


def worst(found: Circuit, true: Circuit) -> float:
    return max(abs(getattr(found, name) / getattr(true, name) - 1) for name in NAMES)


def test_the_motional_branch_is_a_parallel_resonant_circuit() -> None:
    """Closed form (Small 1972): R, L and C in parallel with Q = R sqrt(C/L); scipy.signal.freqs has the last word."""
    r, q, w0 = 19.5, 3.9, 2 * np.pi * 58.0
    c = q / (r * w0)
    numerator, denominator = [1 / c, 0], [1, 1 / (r * c), w0**2]
    _, branch = signal.freqs(numerator, denominator, 2 * np.pi * F)
    without_coil = Circuit(3.28, 58.0, q, r, 0.0, 0.7)
    assert impedance(without_coil, F) == pytest.approx(3.28 + branch, rel=1e-9)


def test_a_coil_without_losses_is_an_inductance() -> None:
    ideal = Circuit(4.0, 50.0, 3.0, 20.0, 0.7e-3, 1.0)
    assert ideal.inductance(1000) == pytest.approx(0.7e-3)
    assert ideal.inductance(10_000) == pytest.approx(0.7e-3)


def test_qs_obey_smalls_relations() -> None:
    """Small 1972: Qes = 2 pi fs Cmes Re, 1/Qts = 1/Qms + 1/Qes, Zmax = Re + Res without a coil."""
    cmes = WOOFER.qms / (2 * np.pi * WOOFER.fs * WOOFER.res)
    assert WOOFER.qes == pytest.approx(2 * np.pi * WOOFER.fs * cmes * WOOFER.re)
    assert 1 / WOOFER.qts == pytest.approx(1 / WOOFER.qms + 1 / WOOFER.qes)
    assert Circuit(3.28, 58.0, 3.9, 19.5, 0.0, 0.7).zmax == pytest.approx(3.28 + 19.5)


@pytest.mark.parametrize("seed", range(12))
@pytest.mark.parametrize(("noise", "limit"), [(0.0, 1e-3), (1e-3, 0.02)])
def test_parameters_of_a_synthesised_driver_come_back(seed: int, noise: float, limit: float) -> None:
    """Within 1 %, and in 0.1 % of noise within 2 %, for drivers from subs to tweeters, Re extrapolated."""
    random = np.random.default_rng(seed)
    true = Circuit(
        random.uniform(2.8, 7),
        10 ** random.uniform(1.3, 3),
        random.uniform(1.5, 9),
        random.uniform(5, 90),
        0.01 * random.uniform(0.3, 3),
        random.uniform(0.5, 0.85),
    )
    error = noise * (random.standard_normal(F.size) + 1j * random.standard_normal(F.size)) / np.sqrt(2)
    found = find_circuit(F, impedance(true, F) * (1 + error))
    assert worst(found.circuit, true) < limit
    assert found.misfit < 0.003


def test_the_classic_reading_of_three_points_agrees() -> None:
    """Thiele 1971: f1 and f2 where |Z| = sqrt(Re Zmax), Qms = fs sqrt(Zmax/Re) / (f2 - f1); exact without a coil."""
    plain = Circuit(3.28, 58.0, 3.9, 19.5, 1e-9, 0.7)
    fine = np.linspace(30, 110, 200_001)
    level = np.abs(impedance(plain, fine))
    top = int(np.argmax(level))
    half = np.sqrt(3.28 * level[top])
    f1, f2 = fine[:top][level[:top] < half][-1], fine[top:][level[top:] < half][0]
    assert fine[top] * np.sqrt(level[top] / 3.28) / (f2 - f1) == pytest.approx(3.9, rel=1e-3)
    assert find_circuit(F, impedance(plain, F)).circuit.qms == pytest.approx(3.9, rel=1e-3)


def test_a_typed_re_is_kept_and_a_resistor_is_no_driver() -> None:
    assert find_circuit(F, impedance(WOOFER, F), re=3.3).circuit.re == 3.3
    with pytest.raises(ValueError, match="no resonance"):
        find_circuit(F, np.full(F.size, 10.0 + 0j))
    with pytest.raises(ValueError, match="too little"):
        find_circuit(F[:20], impedance(WOOFER, F[:20]))
    holed = impedance(WOOFER, F)
    holed[[3, F.size // 2]] = 0
    assert find_circuit(F, holed).circuit.fs == pytest.approx(WOOFER.fs, rel=1e-3), "a hole says nothing"


def test_a_vented_box_is_told_by_what_one_resonance_leaves() -> None:
    second = 15 / (1 + 6j * (F / 28 - 28 / F))
    assert find_circuit(F, impedance(WOOFER, F) + second).misfit > 0.05


def test_mass_and_box_give_the_same_mechanics_back() -> None:
    mms, area = 0.0174, 0.0138
    vas = AIR_DENSITY * speed_of_sound() ** 2 * area**2 / ((2 * np.pi * WOOFER.fs) ** 2 * mms)
    by_mass = by_added_mass(WOOFER, with_mass(WOOFER, mms, 0.010), 0.010, area)
    by_box = by_known_box(WOOFER, in_box(WOOFER, vas, 0.008), 0.008, area)
    for found in (by_mass, by_box):
        assert found.mms == pytest.approx(mms, rel=1e-9)
        assert found.vas == pytest.approx(vas, rel=1e-9)
        # Bl^2 / Re is the electrical damping: Qes = 2 pi fs Mms Re / Bl^2 (Small 1972).
        assert 2 * np.pi * WOOFER.fs * mms * WOOFER.re / found.bl**2 == pytest.approx(WOOFER.qes, rel=1e-9)


def test_a_mass_or_a_box_leaves_the_mechanical_losses_alone() -> None:
    """Closed form: Rms = 2 pi fs Mms / Qms, whatever mass or stiffness is added (Small 1972)."""
    mms, added = 0.0174, 0.010
    losses = WOOFER.fs * mms / WOOFER.qms
    heavy, stiff = with_mass(WOOFER, mms, added), in_box(WOOFER, 0.02, 0.008)
    assert heavy.fs * (mms + added) / heavy.qms == pytest.approx(losses)
    assert stiff.fs * mms / stiff.qms == pytest.approx(losses)
    assert heavy.fs < WOOFER.fs < stiff.fs


def test_sensitivity_by_the_force_and_the_mass() -> None:
    """Closed form well above the resonance: p = rho Bl Sd V / (2 pi r Re Mms), half space, 1 m."""
    mms, area = 0.0174, 0.0138
    found = by_added_mass(WOOFER, with_mass(WOOFER, mms, 0.010), 0.010, area)
    pascals = AIR_DENSITY * found.bl * area * 2.83 / (2 * np.pi * WOOFER.re * mms)
    assert found.db_at_2_83_v == pytest.approx(20 * np.log10(pascals / 20e-6), abs=0.02)


def test_what_cannot_be_is_said() -> None:
    with pytest.raises(ValueError, match="should sink"):
        by_added_mass(WOOFER, WOOFER, 0.01, 0.01)
    with pytest.raises(ValueError, match="should rise"):
        by_known_box(WOOFER, WOOFER, 0.01, 0.01)


def test_confidence_narrows_with_repeats_and_holds_the_truth() -> None:
    """Student's t: of 95 % intervals over many trials about one in twenty misses; here at most a quarter may."""
    random = np.random.default_rng(3)
    missed = 0
    for _ in range(12):
        noisy = [impedance(WOOFER, F) * (1 + 2e-3 * random.standard_normal(F.size)) for _ in range(4)]
        known = parameters([find_circuit(F[::3], one[::3]).circuit for one in noisy])
        missed += abs(known["fs"].value - WOOFER.fs) > known["fs"].half
        assert 0 < known["fs"].half < 0.5
    assert missed <= 3
    assert parameters([WOOFER])["fs"].half == np.inf


def test_pairs_apart_and_the_least_of_a_curve() -> None:
    other = Circuit(3.31, 67.8, 2.6, 12.4, 0.0062, 0.71)
    assert apart(WOOFER, other).much
    assert not apart(WOOFER, Circuit(3.30, 59.0, 3.8, 19.0, 0.0062, 0.71)).much
    found = least(F, impedance(WOOFER, F), 100.0)
    assert found is not None
    fine = np.geomspace(100, 20_000, 20_000)
    assert found.ohms == pytest.approx(np.abs(impedance(WOOFER, fine)).min(), rel=1e-4)


@pytest.mark.parametrize("ohm", [0.5, 3.3, 8.0, 47.0])
def test_three_standards_take_leads_and_mismatch_out(ohm: float) -> None:
    """Closed form: any chain of linear leads and gains is bilinear in the impedance; three standards undo it."""
    w = 2j * np.pi * F
    leads, across, sense = 0.3 + 2e-6 * w, 10_000.0, 9.4 + 0 * w
    gains = 0.5, 0.45 / (1 + w / (2 * np.pi * 60_000))

    def ratio(z: complex | None) -> np.ndarray:
        there = across + 0 * w if z is None else 1 / (1 / (z + leads) + 1 / across)
        first, second = gains[0] * there / (there + sense), gains[1] * sense / (there + sense)
        return first / (first + second)

    made = calibration(ratio(None), ratio(0), ratio(10.0), 10.0)
    assert ohms(ratio(ohm), made) == pytest.approx(np.full(F.size, ohm), rel=1e-9)
    uncorrected = ohms(ratio(ohm), nominal(10.0, F.size))
    assert abs(uncorrected[400] / ohm - 1) > 0.01  # so that the calibration has something to do


def test_a_wrong_clip_is_noticed() -> None:
    known = nominal(10.0, F.size)

    def seen(z: float) -> float:
        return looks_like(known.a * z / (known.c * z + 1), 10.0, F)

    assert seen(8.0) == pytest.approx(8.0)
    assert plausible("resistor", seen(9.9), 10.0) == ""
    assert "joined" in plausible("short", seen(9.9), 10.0)
    assert "hold nothing" in plausible("open", seen(0.1), 10.0)
    assert "sees nothing" in plausible("resistor", seen(1e6), 10.0)
    assert isinstance(known, Calibration)


def test_single_tones_read_a_known_filter() -> None:
    """scipy.signal.freqz of a resonant filter at every step, at 48 and 44.1 kHz."""
    for rate in (48_000, 44_100):
        steps = Steps(low_hz=20, high_hz=15_000, per_octave=6, rate=rate)
        b, a = signal.iirpeak(300, 4, fs=rate)
        heard = np.stack((signal.lfilter(b, a, steps.samples()), steps.samples()), axis=1)
        late = np.concatenate((np.zeros((731, 2)), heard))[: steps.size]
        assert abs(steps.lag(late[:, 1]) - 731) <= 40  # where the sine has risen to a twentieth
        levels = steps.read(late, 731)
        _, true = signal.freqz(b, a, steps.frequencies, fs=rate)
        assert np.abs(levels[:, 0] / levels[:, 1] - true).max() < 2e-3
    with pytest.raises(ValueError, match="do not fit"):
        Steps(high_hz=30_000)


@pytest.mark.parametrize(("ends", "fits"), [((0.0, 100.0), False), ((100.0, 100.0), False), ((10.0, 23_999.0), True)])
def test_steps_go_up_within_half_the_rate(ends: tuple[float, float], fits: bool) -> None:
    with nullcontext() if fits else pytest.raises(InvalidError, match="do not fit"):
        Steps(low_hz=ends[0], high_hz=ends[1])


@pytest.mark.parametrize(("count", "fits"), [(0, False), (1, True), (96, True), (97, False)])
def test_so_many_steps_to_the_octave_are_possible(count: int, fits: bool) -> None:
    with nullcontext() if fits else pytest.raises(InvalidError, match=f"{count} steps to the octave"):
        assert Steps(per_octave=count).frequencies.size == int(count * np.log2(2000)) + 1


@pytest.mark.parametrize(("fs", "known"), [(60.0, True), (8000.0, False)])
def test_a_search_begins_with_a_coil_that_explains_the_upper_end(fs: float, known: bool) -> None:
    hertz = np.geomspace(20, 20_000, 200)
    ohms = 4.0 + 0.02 * (2j * np.pi * hertz) ** 0.62
    coil = coil_to_begin_with(hertz, ohms, 4.0, fs)
    rises = abs(coil * (2j * np.pi * hertz[-1]) ** BEGIN_EXPONENT)
    assert rises == pytest.approx(abs(ohms[-1] - 4.0) if known else 1.0, rel=1e-9)


@pytest.mark.parametrize(("hertz", "counts"), [(18.0, False), (21.0, True)])
def test_the_least_ohms_are_looked_for_where_music_plays(hertz: float, counts: bool) -> None:
    ohms = np.where(np.abs(np.log2(F / hertz)) < 0.05, 1.5, 4.0) + 0j
    found = least(F, ohms)
    assert found is not None
    assert (found.ohms == 1.5) == counts
