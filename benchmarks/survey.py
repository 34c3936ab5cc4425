"""What is read from takes in vehicles drawn from numbers, against what the stand-ins know of themselves.

    python benchmarks/survey.py [PLACES] [FIRST] [SYSTEM]

Prints a table of what was wrong, and a line for each case. Each place has a noise of its own colour, 50 or 30 dB under
what is played; half of the pairs have one driver wired backwards.
"""

import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from counting import Wrong

from imbrix.core.errors import UnusableError
from imbrix.core.evidence.band import DriverBand, driver_band, points, together
from imbrix.core.evidence.evidence import gather, refuse
from imbrix.core.evidence.onset import onset
from imbrix.core.evidence.verdict import verdict
from imbrix.core.measure.reading import Reading, read_impulse
from imbrix.core.measure.recording import read_repeats
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.predict.findings import reversed_drivers
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.measures import without_filters
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import FloatArray, decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Driver, Layout
from imbrix.core.system.layouts import READY, make
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Channel, guard, neutral
from imbrix.standins.cabin import DriverModel
from imbrix.standins.inputs import InterfaceModel
from imbrix.standins.interface import StandinInterface
from imbrix.standins.noise import Noise, NoiseStream
from imbrix.standins.paths import ScatteredPath
from imbrix.standins.places import drawn
from imbrix.standins.places.place import Place, wired
from imbrix.standins.processor import StandinProcessor

RATE = 48_000
GRID = log_grid()
SYSTEMS = [one for one in READY if one.key not in ("in-ear-3", "free")]
COLOURS = {
    "white": Noise(rumble_db_spl=-40, hiss_db=60),
    "rumble": Noise(rumble_db_spl=40),
    "hum": Noise(rumble_db_spl=10, hum_db_spl=40),
    "engine": Noise(rumble_db_spl=20, engine_db_spl=40, firing_hz=27),
}


def own_band(model: DriverModel, driver: Driver) -> tuple[float, float]:
    """Where a driver's model is 6 dB down on the grid; not below the guard that it is measured behind."""
    low, high = np.clip(model.own_band(RATE), GRID[0], GRID[-1])
    behind = guard(driver)
    return max(float(low), behind.corner_hz / 2 if behind else 0.0), float(high)


@dataclass(frozen=True)
class Recorded:
    """One driver's recording and all that is known of it."""

    driver: Driver
    microphone: FloatArray
    loopback: FloatArray
    schedule: Schedule
    channel: Channel
    truth: np.ndarray
    arrival_s: float
    band: tuple[float, float]
    backwards: bool


def place_of(seed: int, layout: Layout) -> Place:
    made = drawn.place(seed, wired(layout.drivers), layout.seat)
    random = np.random.default_rng([seed, 9])
    seats = [one and replace(one, wired_backwards=False) for one in made.cabin.seats]
    for driver in layout.drivers:
        if driver.side == "left" and random.random() < 0.5:
            pair = [one for one in (driver, layout.partner(driver)) if one]
            one = pair[int(random.integers(len(pair)))]
            seats[one.output - 1] = replace(seats[one.output - 1], wired_backwards=True)
    return replace(made, cabin=replace(made.cabin, seats=tuple(seats), _paths={}))


def record(place: Place, driver: Driver, colour: str, over_db: float, seed: int) -> Recorded:
    """A take of a driver alone, its noise so far under what the microphone hears of it."""
    schedule = Schedule(SweepSettings(), 1)
    channel = neutral(Layout(drivers=(driver,), seat="left")).channels[driver.id]
    index = driver.output - 1
    seats: list = [None] * len(place.cabin.seats)
    seats[index] = place.cabin.seats[index]
    quiet = Noise(rumble_db_spl=-200)
    cabin = replace(place.cabin, seats=tuple(seats), noise=quiet, _paths=place.cabin._paths)

    def played(noise: Noise) -> FloatArray:
        processor = StandinProcessor()
        for output in range(1, processor.limits.outputs + 1):
            processor.write(
                output, OutputRegister(channel=channel.model_copy(update={"muted": output != index % 8 + 1}))
            )
        one = [None] * (index % 8) + [seats[index]]
        stands = replace(cabin, seats=tuple(one), noise=noise, seed=cabin.seed, _paths={})
        key = (index, (0.0, 0.0), 0.0)
        stands._paths[(index % 8, (0.0, 0.0), 0.0)] = place.cabin.impulse(*key)
        standin = StandinInterface(stands, processor, InterfaceModel(noise_dbfs=-130, colours=False), seed=seed)
        return np.concatenate(list(standin.play_and_record(schedule.samples(), block=2**17)))

    clean = played(quiet)
    active = clean[schedule.sweeps[0] :, 0]
    level = decibels(np.sqrt(np.mean(active**2)))
    probe = NoiseStream(COLOURS[colour], RATE, np.random.default_rng(seed)).block(RATE)
    own = decibels(np.sqrt(np.mean(probe**2))) - (112.0 - 93.9794)
    by = float(level - over_db - own)
    base = COLOURS[colour]
    noise = replace(
        base,
        rumble_db_spl=base.rumble_db_spl + by,
        hum_db_spl=None if base.hum_db_spl is None else base.hum_db_spl + by,
        engine_db_spl=None if base.engine_db_spl is None else base.engine_db_spl + by,
    )
    noisy = NoiseStream(noise, RATE, np.random.default_rng(seed + 1)).block(clean.shape[0])
    microphone = clean[:, 0] + noisy * 10 ** (-(112.0 - 93.9794) / 20)
    seat = place.cabin.seat(index)
    assert isinstance(seat.path, ScatteredPath)
    full_scale = 20e-6 * 10 ** (112 / 20)
    return Recorded(
        driver,
        microphone,
        clean[:, 1],
        schedule,
        channel,
        place.cabin.truth(index, GRID) / full_scale,
        seat.path.distance_m / speed_of_sound(place.cabin.celsius),
        own_band(seat.driver, driver),
        seat.wired_backwards,
    )


@dataclass(frozen=True)
class Read:
    """What the core makes of a recording."""

    shows: Reading
    bare: np.ndarray
    band: tuple[float, float]
    troubles: tuple[str, ...]


def read(one: Recorded, others_ms: tuple[float, ...] = ()) -> Read:
    refuse(one.microphone, one.loopback, one.schedule)
    repeats = read_repeats(one.microphone, one.loopback, one.schedule)
    shows = read_impulse(repeats.mean, True)
    filters = Predictor(GRID, RATE).channel(one.channel)
    bare = without_filters(shows.response, filters)
    evidence = gather(
        one.microphone, one.loopback, one.schedule, shows, repeats, GRID, bare, one.driver.kind, one.driver.passive_to
    )
    said = verdict(evidence, one.driver.kind, None, True, others_ms)
    doubts = tuple(f"{each.kind}: {each.says}" for each in said if each.weight == "doubt")
    return Read(shows, bare, (evidence.low_hz, evidence.high_hz), doubts)


def compare_ends(found: Wrong, which: str, name: str, read: tuple[float, float], true: tuple[float, float]) -> None:
    """Count the ends that lie more than half an octave off."""
    for end, is_, was in zip(("lower", "upper"), read, true, strict=True):
        octaves = float(np.log2(is_ / was))
        says = f"{name} {end} end {is_:.0f} Hz, {was:.0f} true ({octaves:+.2f} oct)"
        found.count(which, abs(octaves) > 0.5, says, octaves)


def survey(seed: int, system: str = "front-3-sub") -> tuple[Wrong, list[str]]:
    """One place: each driver recorded, read, and compared with the truth."""
    found = Wrong()
    ways = next(one.ways for one in READY if one.key == system)
    layout = make(ways, "right" if seed % 2 else "left")
    place = place_of(seed, layout)
    colour = list(COLOURS)[seed % 4]
    over_db = 50.0 if (seed // 4) % 2 else 30.0
    bare, bands, onsets, backwards = {}, {}, {}, set()
    arrivals: list[float] = []
    alone: dict[Driver, DriverBand] = {}
    true: dict[Driver, tuple[float, float]] = {}
    for n, driver in enumerate(layout.drivers):
        name = f"{system} {seed} {driver.name} ({colour} {over_db:.0f} dB)"
        one = record(place, driver, colour, over_db, 1000 * seed + n)
        if one.backwards:
            backwards.add(driver.id)
        try:
            got = read(one, tuple(arrivals))
        except UnusableError as error:
            found.count("refused", True, f"{name}: {error}")
            continue
        found.count("refused", False)
        # A hum 30 dB under the take is a trouble, and is to be told as one.
        strange = [one for one in got.troubles if not (colour == "hum" and over_db < 40 and one.startswith("hum"))]
        found.count("doubted", bool(strange), f"{name}: {'; '.join(strange)}")
        motor = place.motors[driver.output - 1]
        shown = points(got.bare, GRID, got.shows.over_noise_db)
        by_ohms = driver_band(shown, driver.kind, driver.passive_to, motor.circuit.fs) if motor and shown else None
        compare_ends(found, "band end", name, got.band, one.band)
        if by_ohms:
            compare_ends(found, "end, impedance too", name, by_ohms.ends_hz, one.band)
        if shown:
            alone[driver] = driver_band(shown, driver.kind, driver.passive_to)
            true[driver] = one.band
        comes = onset(got.bare, GRID, got.shows.over_noise_db, got.band, got.shows.arrival_s)
        found.count("arrival unsure", comes is None or not comes.sure, name)
        if comes is not None:
            onsets[driver.id] = comes
        if comes is not None and comes.sure:
            late = comes.seconds - one.arrival_s
            bound = max(20e-6, 0.05 / one.band[1])
            says = f"{name}: {late * 1e6:+.0f} us, bound {bound * 1e6:.0f}"
            found.count("arrival", abs(late) > bound, says, late * 1e6)
        arrivals.append(got.shows.arrival_s * 1e3)
        inside = (one.band[0] <= GRID) & (one.band[1] >= GRID) & np.isfinite(got.bare)
        shown, own = smooth_power(np.nan_to_num(got.bare), GRID, 6), smooth_power(one.truth, GRID, 6)
        apart = float(np.abs(10 * np.log10((shown[inside] + 1e-30) / own[inside])).max())
        found.count("silently wrong", apart > 1.0 and not got.troubles, f"{name}: {apart:.1f} dB wrong within its band")
        bare[driver.id], bands[driver.id] = np.nan_to_num(got.bare), got.band
    for driver, mine in alone.items():
        others = [
            alone[each] for each in layout.alike(driver) if each in alone and "both" not in (each.side, driver.side)
        ]
        both = together(mine, [each for each in others if each is not mine])
        name = f"{system} {seed} {driver.name} ({colour} {over_db:.0f} dB)"
        compare_ends(found, "end, both sides", name, both.ends_hz, true[driver])
    named = {one.about for one in reversed_drivers(layout, neutral(layout), bare, bands, onsets, GRID)}
    for driver in layout.drivers:
        partner = layout.partner(driver)
        if driver.side != "left" or partner is None or not {driver.id, partner.id} <= bare.keys():
            continue
        apart = (driver.id in backwards) != (partner.id in backwards)
        says = {driver.id, partner.id} & named
        found.count("reversed missed", apart and not says, f"{system} {seed} {driver.name}")
        found.count("reversed wrongly", not apart and bool(says), f"{system} {seed} {driver.name}")
        if apart and says:
            found.count("wrong one named", not says & backwards, f"{system} {seed} {says}")
    return found, []


def main(places: int = 200, first: int = 1, system: str = "front-3-sub") -> None:
    begun = time.perf_counter()
    whole = Wrong()
    with ProcessPoolExecutor(2) as pool:
        for found, _ in pool.map(survey, range(first, first + places), [system] * places):
            whole.add(found)
    whole.show(f"{places} places of {system}, {time.perf_counter() - begun:.0f} s")


if __name__ == "__main__":
    given = sys.argv[1:]
    main(*(int(one) for one in given[:2]), *given[2:3])
