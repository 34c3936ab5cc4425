"""What single parts of the core make of what is drawn by chance is what they made of it before: see the helper."""

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import corners
from imbrix.core.align.fill import fill
from imbrix.core.align.holes import clear_of_holes, left_between
from imbrix.core.align.latency import latencies
from imbrix.core.align.turn import turn
from imbrix.core.measure.jig import calibration, looks_like, ohms
from imbrix.core.measure.loop import read_loop, verdict
from imbrix.core.measure.moving import MovingAverage, MovingSettings
from imbrix.core.measure.pulse import read_pulses
from imbrix.core.measure.stepped import Steps
from imbrix.core.measure.stimuli import band_burst, centre_tone, linear_sweep, polarity_pulses, shaped_noise
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.measure.watched import Watched
from imbrix.core.predict.dips import bridge_cancellations, part_filled, without_dips
from imbrix.core.predict.headroom import lifted_db, peaks
from imbrix.core.predict.mistyped import mistyped
from imbrix.core.predict.parting import Cause, part
from imbrix.core.predict.predict import Predictor
from imbrix.core.predict.together import as_a_place_hears, coherence
from imbrix.core.signal.grid import log_grid
from imbrix.core.source.changing_over import ChangingOver, comb
from imbrix.core.source.loudness import Loudness, tone
from imbrix.core.system.layout import SIDES, Group
from imbrix.core.system.layouts import ready
from imbrix.core.tune.changes import settings
from imbrix.core.tune.fixed_point import Format, error_db, rounded
from imbrix.core.tune.lower import lower
from imbrix.core.tune.models import LARGE, STOCK
from imbrix.core.tune.tune import Band, Channel, Crossover, neutral
from tests.helpers.figures import check

RATE = 48_000
GRID = log_grid()
PREDICTOR = Predictor(GRID, RATE)
FOUR, THREE = ready("four-way", "left"), ready("front-3-sub", "left")
ENDS = {
    "sub": (25.0, 300.0),
    "woofer": (30.0, 600.0),
    "midbass": (50.0, 3000.0),
    "mid": (150.0, 8000.0),
    "tweeter": (900.0, 20_000.0),
}


def dips(random: np.random.Generator, low_hz: float, high_hz: float) -> np.ndarray:
    """A few holes within a band, in dB."""
    found = np.zeros(GRID.size)
    for _ in range(3):
        at = np.exp(random.uniform(np.log(low_hz), np.log(high_hz)))
        found -= random.uniform(3, 10) * np.exp(-np.log(2) * (2 * np.log2(GRID / at) / random.uniform(0.2, 0.6)) ** 2)
    return found


def drawn_channel(random: np.random.Generator) -> Channel:
    bands = [
        Band(
            frequency_hz=float(np.exp(random.uniform(4, 9))),
            gain_db=float(random.uniform(-8, 5)),
            q=float(random.uniform(0.6, 5)),
        )
        for _ in range(4)
    ]
    return Channel(
        gain_db=float(random.uniform(-9, 3)),
        delay_s=round(random.uniform(0, 5e-3) * RATE) / RATE,
        inverted=bool(random.random() < 0.5),
        high_pass=Crossover(shape="butterworth", slope_db=18, corner_hz=float(random.uniform(80, 200))),
        low_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=float(random.uniform(1500, 4000))),
        bands=(
            *bands,
            Band(kind="all_pass", frequency_hz=300, q=1.2),
            Band(kind="low_shelf", frequency_hz=90, gain_db=3),
        ),
    )


@pytest.mark.parametrize("seed", range(4))
def test_corners_clear_of_holes(seed: int) -> None:
    random = np.random.default_rng(seed)
    found = {}
    for layout in (FOUR, THREE):
        known = {
            one.id: Known(
                ENDS[one.kind.value],
                resonance_hz=float(random.uniform(0.8, 1.2) * ENDS[one.kind.value][0]),
                area_m2=0.01 if one.kind.value == "mid" else None,
                clean_from_hz=1200.0 if one.kind.value == "tweeter" and seed % 2 else None,
                holes_db=dips(random, ENDS[one.kind.value][0], ENDS[one.kind.value][1]),
            )
            for one in layout.drivers
        }
        found[layout.drivers[0].id] = corners(layout, known, 3.0 * seed, GRID)
    lower_db, upper_db = dips(random, 60, 500), dips(random, 60, 500)
    found["clear"] = clear_of_holes(lower_db, upper_db, GRID, 150.0, (60.0, 400.0))
    found["left"] = left_between(lower_db, upper_db, GRID, np.array([100.0, 200.0]))
    check(f"corners {seed}", found)


@pytest.mark.parametrize("seed", range(3))
def test_what_is_turned_filled_and_bridged(seed: int) -> None:
    random = np.random.default_rng(40 + seed)
    bumps = [np.exp(-(((np.log2(GRID / 300) - at) / 0.3) ** 2)) for at in np.linspace(-1.5, 1.5, 7)]
    plays = 1 / np.sqrt(1 + (70 / GRID) ** 8)
    sums = {side: plays * np.exp(1j * (random.uniform(-2.5, 2.5, (2, 7)) @ np.array(bumps))) for side in SIDES}
    rear = ready("front-3-rear-sub", "left")
    heard = {
        (group, side): one * (1.0 if group == Group.FRONT else 0.3 * np.exp(-2j * np.pi * GRID * 2e-3))
        for group in (Group.FRONT, Group.REAR)
        for side, one in sums.items()
    }
    wanted = np.cumsum(random.normal(0, 0.6, GRID.size)) + dips(random, 60, 8000)
    check(
        f"bass {seed}",
        {
            "turn": turn(sums, 20 * np.log10(2 * plays), PREDICTOR, frozenset(SIDES)),
            "fill": fill(rear, neutral(rear), {one.id: 3e-3 for one in rear.drivers}, LARGE, heard, GRID),
            "bridged": bridge_cancellations(wanted, GRID),
            "filled": part_filled(wanted, GRID, 4.0),
            "without": without_dips(wanted, dips(random, 60, 8000), GRID),
            "coherence": [coherence(GRID, spots) for spots in (1, 3)],
            "hears": as_a_place_hears(np.abs(sum(sums.values())[0]) ** 2, np.full(GRID.size, 1.2), GRID, 2),
        },
    )


@pytest.mark.parametrize("seed", range(4))
def test_channels(seed: int) -> None:
    random = np.random.default_rng(60 + seed)
    channel = drawn_channel(random)
    tune = neutral(THREE).with_channel("mid-l", **{name: getattr(channel, name) for name in Channel.model_fields})
    bell = channel.bands[seed]
    other = bell.model_copy(update={"gain_db": -bell.gain_db, "frequency_hz": bell.frequency_hz * 1.4})
    typed = channel.model_copy(update={"bands": (*channel.bands[:seed], other, *channel.bands[seed + 1 :])})
    through = PREDICTOR.channel(channel)
    ratio = PREDICTOR.channel(typed) / through * np.exp(0.02 * random.standard_normal(GRID.size))
    weights = np.clip(np.abs(through), 0.05, 1.0)
    level = 20 * np.log10(np.abs(ratio))
    sos = lower(channel, (), RATE).sos
    words = rounded(sos, Format.read("5.19"))
    check(
        f"channels {seed}",
        {
            "through": through,
            "words": {" ".join(key): says for key, says in settings(tune, THREE).items() if key[0] == "Mid L"},
            "refused": STOCK.refuse(channel, ()),
            "nearest": STOCK.nearest(Crossover(shape="bessel", slope_db=48, corner_hz=90.0)),
            "strongest": STOCK.strongest(channel.bands, 3),
            "latency": latencies(PREDICTOR, tune, ["mid-l"], 1e-3),
            "peaks": [peaks(tune, "mid-l", PREDICTOR), lifted_db(tune, PREDICTOR)],
            "mistyped": mistyped(ratio, weights, channel, PREDICTOR),
            "parting": part(level, np.zeros(GRID.size), (Cause("another band", 0.8 * level),), GRID),
            "fixed": [words, error_db(sos, words, GRID[::64], RATE)],
        },
    )


def test_a_jig_and_an_interface() -> None:
    random = np.random.default_rng(80)
    hertz = np.geomspace(20, 20_000, 60)
    load = 5 + 1j * hertz / 3000 + 30 / (1 + 1j * 4 * (hertz / 60 - 60 / hertz))

    def seen(ohm: np.ndarray) -> np.ndarray:
        return (ohm + 0.1) / (1 + (ohm + 0.1) * (1 / 9.8 + 1e-7j * hertz))

    known = calibration(seen(np.full(60, 1e6)), seen(np.full(60, 0.0)), seen(np.full(60, 10.0)), 10.0)
    stimulus = np.concatenate((np.zeros(RATE // 4), exponential_sweep(SweepSettings(length=2**14, tail_s=0.2)).samples))
    runs = []
    for late in (700, 704):
        played = np.concatenate((np.zeros(late), stimulus))[: stimulus.size]
        heard = sosfilt(butter(1, 30, "highpass", fs=RATE, output="sos"), played)
        runs.append(np.stack((heard + 1e-5 * random.standard_normal(played.size), played), axis=1))
    checked = read_loop(runs, stimulus, RATE // 4, RATE)
    steps = Steps(per_octave=2, settle_s=0.05, read_s=0.05)
    stepped = sosfilt(butter(2, 900, fs=RATE, output="sos"), steps.samples())
    watched = Watched(RATE, -20.0)
    for across in (0.5, 0.4, 0.4):
        watched.feed(np.resize(watched.stimulus, watched.stimulus.size)[:, None] * [across, 0.5, 0.1])
    quiet = RATE // 5
    pulses = np.concatenate((np.zeros(quiet), polarity_pulses(RATE, -12.0, 800.0, 4, 0.1)))
    heard = -sosfilt(butter(2, [200, 3000], "bandpass", fs=RATE, output="sos"), pulses)
    heard += 1e-3 * random.standard_normal(heard.size)
    check(
        "jig",
        {
            "calibration": known,
            "ohms": ohms(seen(load), known),
            "looks like": looks_like(load / (load + 10), 10.0, hertz),
            "loop": checked,
            "loop says": verdict(checked),
            "stepped": steps.read(stepped),
            "watched": [watched.ratio, watched.level],
            "pulses": read_pulses(heard, pulses, RATE, RATE // 10, 4, quiet, 800.0),
        },
    )


def test_what_is_heard_while_it_plays() -> None:
    random = np.random.default_rng(90)
    rate = 44_100
    wires, second = (comb(which, rate, 9.0)[:, 0] for which in ("wires", "second"))
    at = np.arange(wires.size) / rate
    sound = wires * ((at < 3) | (at >= 6.4)) + 0.6 * second * ((at >= 3.3) & (at < 6.0))
    sound += 1e-3 * random.standard_normal(at.size)
    over = ChangingOver(rate, "second")
    for first in range(0, sound.size, 4096):
        over.feed(sound[first : first + 4096])
    loud = Loudness(RATE)
    played = tone(1000, RATE, 2.0)[:, 0]
    for block in np.array_split(np.clip(played * np.linspace(0.2, 1.0, played.size), -0.08, 0.08), 20):
        loud.feed(block)
    moving = MovingAverage(MovingSettings(size=8192, averages=24), np.ones(4097))
    moving.feed(shaped_noise(2 * RATE, RATE, -20.0)[:, 0])
    check(
        "playing",
        {
            "over": over.found,
            "loud": [loud.now, loud.clean_db, loud.over_db],
            "moving": moving.running(),
            "stimuli": [
                np.abs(one).mean(axis=0)
                for one in (
                    band_burst(RATE, -20.0, 200.0, 400.0),
                    centre_tone(RATE, -20.0, 500.0, 0.5),
                    linear_sweep(RATE // 2, RATE, -20.0, 100.0, 9000.0),
                    polarity_pulses(RATE, -12.0, 300.0, 3, 0.2),
                )
            ],
        },
    )
