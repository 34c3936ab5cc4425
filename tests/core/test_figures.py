"""What the core makes of drawn places, recordings and situations is what it made of them before: see the helper."""

from dataclasses import replace

import numpy as np
import pytest
from known import GRID, own_band, truth
from scipy.signal import butter, sosfilt, sosfreqz

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import corners
from imbrix.core.align.figures import figures
from imbrix.core.align.holes import clear_of_holes, under_trend
from imbrix.core.align.problem import Arrival, System
from imbrix.core.align.propose import Allowed, propose
from imbrix.core.evidence.band import driver_band, misfits, points, together
from imbrix.core.evidence.combs import comb_db, dips_db, reflections
from imbrix.core.evidence.evidence import agreement, gather
from imbrix.core.evidence.onset import onset
from imbrix.core.evidence.verdict import verdict
from imbrix.core.fir.together import Part
from imbrix.core.fir.together import together as taps_together
from imbrix.core.fir.wish import Wish
from imbrix.core.image.head import marks, table
from imbrix.core.image.heard import Heard, cause, meaning
from imbrix.core.image.mend import levels, phases
from imbrix.core.impedance.impedance import Circuit, by_added_mass, find_circuit, impedance, in_box, ohm_grid
from imbrix.core.look.cycles import within_cycles
from imbrix.core.look.decay import decay_times, spectrogram, waterfall
from imbrix.core.look.distortion import harmonics
from imbrix.core.look.phase import excess_phase, group_delay
from imbrix.core.look.reflections import envelope_db, first_reflection
from imbrix.core.measure.marker import Marker
from imbrix.core.measure.microphone import plain_correction
from imbrix.core.measure.reading import read_impulse
from imbrix.core.measure.recording import read_repeats
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.spectrum import Spectrum
from imbrix.core.measure.stimuli import multitone, shaped_noise
from imbrix.core.measure.sweep import SweepSettings, deconvolve, exponential_sweep
from imbrix.core.measure.transfer import Transfer, TransferSettings
from imbrix.core.passive import search as searched
from imbrix.core.passive.network import Branch, Network, watts
from imbrix.core.passive.textbook import ladder, pad, zobel
from imbrix.core.predict.findings import boosts, clips, reversed_drivers
from imbrix.core.predict.fit import fit
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.predict import Predictor
from imbrix.core.predict.seam import loss
from imbrix.core.signal.level import band_levels, stretch
from imbrix.core.signal.measures import usable_band
from imbrix.core.signal.response import Gate, response, speed_of_sound
from imbrix.core.signal.signal import decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.source.between import between
from imbrix.core.source.straighten import inverse, summing, tone
from imbrix.core.system.layout import Layout
from imbrix.core.system.layouts import ready
from imbrix.core.tune.apply import apply
from imbrix.core.tune.edits import SetBands, SetCrossover
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.tune import Band, Channel, neutral
from imbrix.standins.cabin import Cabin
from imbrix.standins.places import drawn
from imbrix.standins.places.place import wired
from tests.helpers.figures import check

RATE = 48_000
OVER = np.full(GRID.size, 50.0)
THREE = ready("front-3-sub", "left")
PREDICTOR = Predictor(GRID, RATE)
FLAT = np.zeros(GRID.size)


def place(seed: int, layout: Layout = THREE) -> Cabin:
    return drawn.place(seed, wired(layout.drivers), "left").cabin


def drivers(seed: int, layout: Layout = THREE) -> dict[str, tuple[np.ndarray, float]]:
    """By driver its response in a drawn place, and when its sound arrives."""
    cabin = place(seed, layout)
    return {
        one.id: (
            truth(cabin, one.output - 1),
            cabin.seat(one.output - 1).path.distance_m / speed_of_sound(cabin.celsius),  # type: ignore[attr-defined]
        )
        for one in layout.drivers
    }


@pytest.mark.parametrize("seed", [11, 28])
def test_what_a_driver_shows(seed: int) -> None:
    found = {}
    for one in THREE.drivers:
        heard, late = drivers(seed)[one.id]
        shown = points(heard, GRID, OVER)
        assert shown is not None
        band = driver_band(shown, one.kind)
        ends = own_band(place(seed).seat(one.output - 1).driver)
        comes = onset(heard, GRID, OVER, ends, late + 2e-4)
        assert comes is not None
        combs = reflections(heard, GRID, ends, comes)
        found[one.id] = {
            "points": shown,
            "band": band,
            "of two": together(band, [driver_band(shown, one.kind, resonance_hz=60.0)]),
            "misfits": misfits(shown),
            "usable": usable_band(heard, GRID),
            "onset": comes,
            "combs": [combs, comb_db(combs, GRID, 3.0), dips_db(combs, GRID, 3.0)],
            "smooth": [smooth_db(heard, GRID, fraction) for fraction in (3, 24)],
            "excess": excess_phase(heard, GRID, late),
            "delay": group_delay(heard, GRID),
        }
    check(f"drivers {seed}", found)


PLAIN = Schedule(SweepSettings(length=2**15, tail_s=1.5), repeats=2)
MARKED = replace(PLAIN, marker=Marker(1000.0, 9000.0, 4800, RATE, -20.0))


@pytest.mark.parametrize("clock", ["loopback", "marker", "nothing"])
def test_what_a_recording_shows(clock: str) -> None:
    schedule = MARKED if clock == "marker" else PLAIN
    random = np.random.default_rng(5)
    played = schedule.samples()
    room = np.zeros(6000)
    room[[30, 400, 1100, 2500, 5200]] = [1.0, 0.4, -0.3, 0.2, 0.1]
    sound = np.convolve(sosfilt(butter(2, [150, 9000], "bandpass", fs=RATE, output="sos"), played), room)[: played.size]
    time = np.arange(played.size) / RATE
    hum = 2e-3 * (np.sin(2 * np.pi * 50 * time) + 0.5 * np.sin(2 * np.pi * 150 * time))
    bent = sound + 0.4 * sound**2 + 0.5 * sound**3
    heard = 0.3 * bent + hum + 1e-4 * random.standard_normal(played.size)
    knock = schedule.sweeps[1] + 9000
    heard[knock : knock + 300] += 0.2 * random.standard_normal(300)
    loopback = played if clock == "loopback" else None
    repeats = read_repeats(heard, loopback, schedule)
    shows = read_impulse(repeats.mean, timed=True)
    gathered = gather(heard, loopback, schedule, shows, repeats, GRID, shows.response, THREE.drivers[3].kind)
    again = agreement(shows.response, 1.1 * shows.response * np.exp(-1e-4j * GRID), GRID, 200, 8000, True)
    clean = read_impulse(repeats.impulses[0], timed=True).impulse
    found = {
        "response": [shows.response, shows.over_noise_db, shows.arrival_s],
        "gated": response(clean, GRID, Gate(0.002, 0.008, 0.5, "hann")),
        "evidence": gathered,
        "verdict": verdict(gathered, THREE.drivers[3].kind, again),
        "agreement": again,
        "cycles": within_cycles(clean, GRID, 6.0),
        "envelope": [envelope_db(clean), first_reflection(clean)],
        "decay": [decay_times(clean, hertz) for hertz in (500.0, 2000.0)],
        "maps": [spectrogram(clean, GRID[::48], 0.1, 0.01, 20), waterfall(clean, GRID[::48], 0.1, 0.01, 0.001, 20)],
    }
    if clock == "loopback":
        found["harmonics"] = harmonics(deconvolve(heard, played, RATE, 0), schedule.sweep, GRID)
    check(f"recording by {clock}", found)


def system(seed: int, places: int, layout: Layout) -> System:
    """A drawn place, heard at so many spots: at each further one all moves a little and comes in other phases."""
    heard = drivers(seed, layout)
    random = np.random.default_rng(seed)
    rows = np.array([one / np.median(np.abs(one[np.abs(one) > np.abs(one).max() / 8])) for one, _ in heard.values()])
    moves = random.uniform(-2e-4, 2e-4, (places, len(heard), 1))
    moves[0] = 0.0
    spots = rows * np.exp(-2j * np.pi * GRID * moves)
    arrivals = {name: Arrival(late, 1) for name, (_, late) in heard.items()}
    return System(layout, tuple(heard), spots, PREDICTOR, arrivals, STOCK)


@pytest.mark.parametrize(
    ("seed", "places", "key"), [(11, 1, "front-3-sub"), (28, 2, "front-3-sub"), (41, 1, "front-3-rear-sub")]
)
def test_what_is_proposed(seed: int, places: int, key: str) -> None:
    layout = ready(key, "left")
    one = system(seed, places, layout)
    known = {}
    for n, driver in enumerate(layout.drivers):
        ends = usable_band(one.bare[0, n], GRID)
        known[driver.id] = Known(ends, holes_db=under_trend(np.abs(one.bare[0, n]) ** 2, GRID, ends))
    begun = corners(layout, known, 6.0, GRID)
    found = propose(one, neutral(layout), begun, Allowed(slopes=places > 1))
    best = found.proposals[0]
    lower, upper = (one.heard(best.tune)[0, n] for n in (one.index(layout.driver("sub")), 1))
    check(
        f"proposals {seed}",
        {
            "corners": begun,
            "holes": clear_of_holes(
                known["midbass-l"].holes_db,
                known["midbass-r"].holes_db,
                GRID,
                300.0,
                (150.0, 900.0),  # type: ignore[arg-type]
            ),
            "proposals": [[each.kind, each.edits, each.cost] for each in found.proposals],
            "before": found.before_cost,
            "lacking": found.lacking,
            "figures": figures(one, best.tune),
            "loss": loss(lower, upper, GRID),
        },
    )


def test_what_a_fit_makes() -> None:
    heard, _ = drivers(11)["mid-l"]
    wanted = np.clip(-smooth_db(heard / np.median(np.abs(heard)), GRID, 6), -15, 15)
    limits = FitLimits(count=5, low_hz=150, high_hz=7000, boost_db=3.0)
    thin = FitLimits(count=2, low_hz=150, high_hz=7000)
    found = [
        fit(wanted, GRID, limits, RATE),
        fit(wanted, GRID, limits, RATE, thorough=True, lifted_db=np.full(GRID.size, 1.0)),
        fit(wanted, GRID, thin, RATE, least_db=wanted - 2),
    ]
    check("fits", found)


def test_what_is_noticed() -> None:
    heard = drivers(11)
    bands = {name: usable_band(one, GRID) for name, (one, _) in heard.items()}
    turned = {name: -one if name == "mid-r" else one for name, (one, _) in heard.items()}
    onsets = {name: onset(turned[name], GRID, OVER, bands[name], late) for name, (_, late) in heard.items()}
    bell = Band(frequency_hz=900, gain_db=7, q=1.5)
    tune = apply(
        neutral(THREE),
        [
            SetBands(channel="mid-l", bands=(bell,), gain_db=2.0),
            SetCrossover(channel="mid-l", end="high_pass", corner_hz=300),
        ],
        THREE,
        STOCK,
    )
    known = {name: one for name, one in onsets.items() if one is not None}
    found = [
        reversed_drivers(THREE, tune, turned, bands, known, GRID),
        clips(THREE, tune, PREDICTOR),
        boosts(THREE, tune),
    ]
    check("findings", found)


@pytest.mark.parametrize("phase", ["linear", "excess"])
def test_what_taps_do(phase: str) -> None:
    tune = apply(neutral(THREE), [SetCrossover(channel="tweeter-l", end="high_pass", corner_hz=2500)], THREE, STOCK)
    ids = ("mid-l", "tweeter-l")
    through = PREDICTOR.through(tune, ids)
    parts = []
    for n, name in enumerate(ids):
        heard, late = drivers(28)[name]
        both = np.array([heard, heard * np.exp(-2j * np.pi * GRID * 3e-5)]) * through[n]
        span = (500.0, 2500.0) if n == 0 else (2500.0, 14_000.0)
        level = np.abs(through[n]) * np.median(np.abs(heard))
        parts.append(Part(name, "left", both, (late, late), decibels(level + 1e-6), span))
    wish = Wish(phase=phase, magnitude=phase == "excess", low_hz=700, high_hz=12_000, taps=255)  # type: ignore[arg-type]
    found = taps_together(parts, GRID, wish, RATE)
    check(f"taps {phase}", found)


def test_what_a_source_did() -> None:
    sos = butter(2, 70, "high", fs=192_000, output="sos")
    high = sosfreqz(sos, 2 * np.pi * GRID / 192_000)[1]
    bell = PREDICTOR.channel(Channel(bands=(Band(frequency_hz=2000, gain_db=-5, q=1),)))
    seen = tone(high * bell)
    check(
        "source",
        {
            "tone": seen,
            "inverse": inverse(seen, 4, RATE),
            "summing": summing(high, bell * np.exp(-2j * np.pi * GRID * 1e-4)),
            "between": between(high, -0.5 * high * bell * np.exp(-2j * np.pi * GRID * 3e-4)),
        },
    )


def test_what_an_impedance_tells() -> None:
    hertz = ohm_grid()
    free = Circuit(3.4, 61.0, 4.2, 21.0, 0.0055, 0.7)
    noise = np.random.default_rng(2).standard_normal((2, hertz.size))
    seen = impedance(free, hertz) * (1 + 0.01 * noise[0] + 0.01j * noise[1])
    heavy = Circuit(3.4, 44.0, 4.9, 20.0, 0.0055, 0.7)
    by_mass = by_added_mass(free, heavy, 0.012, 0.0137)
    found = [
        find_circuit(hertz, seen),
        find_circuit(hertz, seen, levels_only=True),
        by_mass,
        in_box(free, by_mass.vas, 0.012),
    ]
    check("impedance", found)


def test_what_a_passive_network_does() -> None:
    hertz = np.geomspace(20, 20_000, 120)
    ohms = {
        "w": impedance(Circuit(6.2, 45.0, 4.0, 30.0, 0.012, 0.7), hertz),
        "t": impedance(Circuit(3.4, 850.0, 2.5, 6.0, 0.0006, 0.6), hertz),
    }
    low = (*ladder("linkwitz-riley", 12, 2200.0, "low_pass", 6.2), zobel(6.2, 0.5e-3))
    high = (*pad(4.0, 3.4), *ladder("butterworth", 18, 2600.0, "high_pass", 4.0))
    network = Network(branches=(Branch(driver="w", steps=low), Branch(driver="t", steps=high, inverted=True)))
    bare = {"w": np.ones(hertz.size, complex), "t": np.exp(-2j * np.pi * hertz * 2e-5) * 1.3}
    own = {
        "w": -3.0 * np.log2(np.maximum(hertz / 2200, 1)) ** 2,
        "t": -3.0 * np.log2(np.maximum(2200 / hertz, 1)) ** 2,
    }
    span = (hertz > 100) & (hertz < 15_000)
    scene = searched.Scene(hertz, ohms, bare, own, np.zeros(hertz.size), span, 3.2)
    better = searched.search(scene, network)
    found = {
        "as drawn": searched.judged(scene, network),
        "found": [searched.judged(scene, better), searched.values(better), searched.cost(scene, better)],
        "tolerance": searched.tolerance(scene, network, 5.0),
        "watts": watts(network, ohms, hertz, 10.0),
        "sold": searched.values(searched.sold(scene, network, "E12")),
    }
    check("passive", found)


def test_where_sounds_stand() -> None:
    hertz = np.geomspace(400, 600, 24)
    left, right = np.full((1, 24), 1.3 + 0j), np.exp(-2j * np.pi * hertz * 2e-4)[None]
    heard = [
        Heard(hz=hz, places=(at - 0.05, at + 0.05))
        for hz, at in ((250.0, 0.3), (250.0, 0.35), (500.0, -0.4), (1000.0, 0.2), (2000.0, 0.5), (4000.0, 0.1))
    ]
    means = [meaning([one for one in heard if one.hz == hz]) for hz in (250.0, 500.0, 1000.0, 2000.0, 4000.0)]
    found = {
        "marks": marks(left, right, hertz),
        "table": [table(hz, 1.0) for hz in (250.0, 3000.0)],
        "means": means,
        "causes": [cause(hz, 1.0, (0.1, 0.4), 2.0) for hz in (300.0, 3000.0)],
        "levels": levels(
            means, {hz: "mid" if hz < 3000 else "tweeter" for hz in (250.0, 500.0, 1000.0, 2000.0, 4000.0)}
        ),
        "phases": phases(means),
    }
    check("image", found)


def test_what_is_measured_while_it_sounds() -> None:
    noise = shaped_noise(RATE, RATE, -20.0)[:, 0]
    random = np.random.default_rng(8)
    heard = sosfilt(butter(2, 900, fs=RATE, output="sos"), noise) + 1e-3 * random.standard_normal(noise.size)
    running = Transfer(TransferSettings(2**12))
    running.feed(np.stack((heard, noise), axis=1))
    shown = running.shown()
    lines = Spectrum(TransferSettings(2**13, seconds=None))
    lines.feed(heard)
    known = 10 ** (np.convolve(random.normal(0, 6, GRID.size), np.ones(12) / 12, "same") / 20).astype(complex)
    clear = np.where(GRID < 90, 20.0, 45.0)
    tilt = known * 10 ** (np.sin(np.log(GRID)) / 20)
    check(
        "running",
        {
            "transfer": shown,
            "spectrum": [lines.fine(), lines.in_bands(3)],
            "bands": [band_levels(heard, RATE, fraction) for fraction in (1, 3)],
            "stretch": stretch(heard, RATE),
            "multitone": multitone(RATE // 4, RATE, -20.0),
            "sweep": exponential_sweep(SweepSettings(length=2**14)).samples,
            "microphone": plain_correction(known, clear, tilt, clear, GRID),
        },
    )
