"""Drivers and spaces drawn from a seed: plausible ones of every kind, as a tuner might meet them (common practice, no
source for the ranges)."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from imbrix.core.impedance.impedance import Circuit
from imbrix.core.system.layout import RANK, Driver, Group, Kind
from imbrix.standins import head_unit
from imbrix.standins.cabin import Cabin, DriverModel, Mode, Passive, Seat
from imbrix.standins.jig import Motor
from imbrix.standins.noise import Noise
from imbrix.standins.paths import Path, ScatteredPath
from imbrix.standins.places.place import ListenerSide, Place, Wiring

Pair = tuple[float, float]
_GROUPS = {group: n for n, group in enumerate(Group)}
_SIDES = {"left": 1, "right": 2, "both": 3}


@dataclass(frozen=True)
class Ranges:
    """What a kind of driver may be: each a least and a most.

    `peaks` are how many bells there are and the hertz between which they lie; `area_m2` and `mass_kg` are the cone's.
    """

    resonance_hz: Pair
    roll_off_hz: Pair
    sensitivity_db: Pair
    peaks: tuple[int, float, float]
    second: Pair
    area_m2: Pair
    mass_kg: Pair
    coil: Pair


RANGES: dict[Kind, Ranges] = {
    Kind.SUB: Ranges(
        (24, 46), (250, 800), (104, 110), (2, 90, 400), (0.02, 0.06), (0.033, 0.08), (0.09, 0.25), (0.006, 0.014)
    ),
    Kind.WOOFER: Ranges(
        (34, 60), (900, 2000), (103, 108), (2, 400, 1500), (0.02, 0.04), (0.02, 0.035), (0.02, 0.05), (0.005, 0.01)
    ),
    Kind.MIDBASS: Ranges(
        (48, 88),
        (1800, 4500),
        (102, 107),
        (3, 900, 3500),
        (0.015, 0.04),
        (0.012, 0.018),
        (0.012, 0.022),
        (0.004, 0.008),
    ),
    Kind.MID: Ranges(
        (110, 260),
        (5000, 11_000),
        (100, 105),
        (3, 800, 7000),
        (0.008, 0.02),
        (0.004, 0.008),
        (0.003, 0.007),
        (0.002, 0.004),
    ),
    Kind.TWEETER: Ranges(
        (700, 1700),
        (19_000, 23_400),
        (101, 106),
        (2, 5000, 16_000),
        (0.005, 0.015),
        (0.0005, 0.0008),
        (0.0002, 0.0004),
        (0.0004, 0.0009),
    ),
    Kind.FULL: Ranges(
        (75, 150),
        (9000, 16_000),
        (99, 104),
        (3, 900, 9000),
        (0.01, 0.03),
        (0.005, 0.012),
        (0.004, 0.009),
        (0.002, 0.005),
    ),
}


def driver_model(driver: Driver, seed: int, number: int = 0) -> DriverModel:
    """A driver of a kind: left and right of a pair come off the same line and differ by a few per cent."""
    return _model(driver.kind, driver, seed, number)


def _model(kind: Kind, driver: Driver, seed: int, number: int) -> DriverModel:
    allowed = RANGES[kind]
    line = np.random.default_rng([seed, _GROUPS[driver.group], RANK[kind], number])
    piece = np.random.default_rng([seed, _GROUPS[driver.group], RANK[kind], number, _SIDES[driver.side]])
    count, lowest, highest = allowed.peaks
    resonance = _between(line, allowed.resonance_hz) * piece.uniform(0.95, 1.05)
    roll_off = _between(line, allowed.roll_off_hz) * piece.uniform(0.95, 1.05)
    peaks = tuple(
        (
            float(np.exp(line.uniform(np.log(lowest), np.log(highest))) * piece.uniform(0.97, 1.03)),
            float(line.uniform(-4.5, 5.5) + piece.uniform(-0.5, 0.5)),
            float(line.uniform(1.5, 6.0)),
        )
        for _ in range(count)
    )
    second = _between(line, allowed.second)
    return DriverModel(
        resonance,
        float(line.uniform(0.5, 0.95)),
        min(roll_off, 23_400.0),
        1 if kind == Kind.TWEETER else 2,
        _between(line, allowed.sensitivity_db) + float(piece.uniform(-0.8, 0.8)),
        peaks,
        second,
        second * float(line.uniform(0.4, 0.9)),
    )


def motor(driver: Driver, model: DriverModel, seed: int, number: int = 0) -> Motor:
    """What a jig finds in free air, where the driver resonates a little lower than in its place."""
    allowed = RANGES[driver.kind]
    random = np.random.default_rng([seed, _GROUPS[driver.group], RANK[driver.kind], number, 77])
    qts = model.resonance_q * float(random.uniform(0.6, 0.85))
    qms = float(random.uniform(2.5, 6.0))
    re = float(random.uniform(3.1, 3.8))
    qes = 1 / (1 / qts - 1 / qms)
    circuit = Circuit(
        re,
        model.resonance_hz * float(random.uniform(0.75, 1.0)),
        qms,
        re * qms / qes,
        _between(random, allowed.coil),
        float(random.uniform(0.68, 0.78)),
    )
    return Motor(circuit, _between(random, allowed.mass_kg), _between(random, allowed.area_m2))


def _between(random: np.random.Generator, pair: Pair) -> float:
    return float(random.uniform(*pair))


def reflections(random: np.random.Generator, distance_m: float, count: int) -> tuple[tuple[float, float, float], ...]:
    """Early reflections 3 to 15 dB under the direct sound, from 0.1 m of extra path on."""
    found = []
    extra = 0.1
    for n in range(count):
        extra += float(random.uniform(0.02, 0.25 + 0.06 * n))
        under = -float(random.uniform(3.0, 9.0 + 6.0 * n / max(1, count - 1)))
        level = under + 20 * np.log10((distance_m + extra) / distance_m)
        found.append((extra, float(level), float(random.uniform(2500, 11_000))))
    return tuple(found)


VEHICLE_M: dict[tuple[Group, Kind], tuple[Pair, Pair]] = {
    (Group.FRONT, Kind.WOOFER): ((0.85, 1.2), (1.3, 1.7)),
    (Group.FRONT, Kind.MIDBASS): ((0.85, 1.15), (1.25, 1.65)),
    (Group.FRONT, Kind.MID): ((0.7, 1.0), (1.1, 1.5)),
    (Group.FRONT, Kind.TWEETER): ((0.65, 1.0), (1.05, 1.5)),
    (Group.FRONT, Kind.FULL): ((0.7, 1.05), (1.1, 1.55)),
}
"""Metres from a kind of driver to the listener, on the near and on the far side."""


def vehicle_distance(driver: Driver, seat: ListenerSide, random: np.random.Generator) -> float:
    """How far a driver is from the listener in a vehicle."""
    if driver.group == Group.SUB:
        return _between(random, (1.5, 2.7))
    if driver.group == Group.CENTRE:
        return _between(random, (0.9, 1.25))
    if driver.group == Group.REAR:
        return _between(random, (0.95, 1.4)) + (0.0 if driver.side in (seat, "both") else 0.45)
    near, far = VEHICLE_M[driver.group, driver.kind]
    return _between(random, near if driver.side in (seat, "both") else far)


_NEAR_DEG, _MIDDLE_DEG, _FAR_DEG = 32.0, 25.0, 50.0
"""How far from straight ahead a front's near side, its middle and its far side come to a listener at one side."""


def bearing_deg(driver: Driver, seat: ListenerSide) -> float:
    """From where a driver's sound comes to the listener in a vehicle, in degrees clockwise from straight ahead."""
    middle = 1.0 if seat == "left" else -1.0  # of the vehicle, seen from the seat
    if driver.group == Group.SUB:
        return 168.0 * middle
    ahead = {seat: -_NEAR_DEG, "both": _MIDDLE_DEG}.get(driver.side, _FAR_DEG) * middle
    return ahead if driver.group != Group.REAR else 180.0 - ahead


def numbered(wiring: Wiring) -> list[tuple[int, Driver, int]]:
    """Output, driver, and the how-manieth of its group, kind and side it is, from 0."""
    seen: dict[tuple[Group, Kind, str], int] = {}
    found = []
    for output, driver in sorted(wiring.items()):
        key = (driver.group, driver.kind, driver.side)
        found.append((output, driver, seen.get(key, 0)))
        seen[key] = seen.get(key, 0) + 1
    return found


def furnished(
    wiring: Wiring, seed: int, path: Callable[[Driver, int, np.random.Generator], Path], modes: int
) -> tuple[list[Seat | None], list[Motor | None]]:
    """Seats and motors for a wiring, drivers drawn from a seed, each on the path that `path` gives it."""
    most = max(wiring, default=0)
    seats: list[Seat | None] = [None] * most
    motors: list[Motor | None] = [None] * most
    for output, driver, number in numbered(wiring):
        model = driver_model(driver, seed, number)
        made = motor(driver, model, seed, number)
        random = np.random.default_rng([seed, 5, _GROUPS[driver.group], RANK[driver.kind], _SIDES[driver.side], number])
        way = path(driver, number, random)
        weights = tuple(float(random.uniform(0.25, 1.0) * random.choice((-1, 1))) for _ in range(modes))
        if RANK[driver.kind] >= RANK[Kind.TWEETER] and driver.kind != Kind.FULL:
            weights = (0.0,) * modes
        seat = Seat(model, way, mode_weights=weights, radius_m=float(np.sqrt(made.area / np.pi)))
        if driver.passive_to is not None:
            seat = _with_passive(seat, driver, driver.passive_to, seed, number, random)
        seats[output - 1], motors[output - 1] = seat, made
    return seats, motors


def _with_passive(
    seat: Seat, driver: Driver, passive_to: Kind, seed: int, number: int, random: np.random.Generator
) -> Seat:
    """A seat whose output feeds a higher way too, beside the lower one, through a passive network."""
    above = _model(passive_to, driver, seed, number)
    corner = float(np.sqrt(max(above.resonance_hz * 2, 300.0) * seat.driver.roll_off_hz))
    area = _between(random, RANGES[passive_to].area_m2)
    level = replace(above, sensitivity_db=seat.driver.sensitivity_db + float(random.uniform(-1.0, 1.5)))
    return replace(seat, passive=Passive(min(corner, 6000.0), level, seat.path, float(np.sqrt(area / np.pi))))


def place(seed: int, wiring: Wiring, seat: ListenerSide) -> Place:
    """A vehicle that nobody has seen before, with the drivers of a wiring in it."""
    random = np.random.default_rng([seed, 1])
    count = int(random.integers(3, 7))
    hertz = np.sort(np.exp(random.uniform(np.log(38), np.log(185), count)))
    modes = tuple(Mode(float(at), float(random.uniform(3, 8)), float(random.uniform(-9, -2.5))) for at in hertz)

    def path(driver: Driver, number: int, drawn: np.random.Generator) -> Path:
        distance = vehicle_distance(driver, seat, drawn) + 0.35 * number
        early = reflections(drawn, distance, int(drawn.integers(6, 13)))
        return ScatteredPath(distance, early, bearing_deg(driver, seat))

    seats, motors = furnished(wiring, seed, path, count)
    backwards = [output for output in wiring if random.random() < 0.08]
    for output in backwards:
        seat_there = seats[output - 1]
        seats[output - 1] = seat_there and replace(seat_there, wired_backwards=True)
    noise = Noise(
        rumble_db_spl=float(random.uniform(28, 46)),
        hiss_db=float(random.uniform(-3, 8)),
        hum_db_spl=float(random.uniform(18, 34)) if random.random() < 0.4 else None,
        engine_db_spl=float(random.uniform(35, 55)) if random.random() < 0.25 else None,
        firing_hz=float(random.uniform(20, 32)),
    )
    cabin = Cabin(
        tuple(seats),
        modes,
        celsius=float(random.uniform(2, 32)),
        gain_corner_hz=float(random.uniform(38, 75)),
        gain_db=float(random.uniform(2, 9)),
        noise=noise,
        seed=seed,
    )
    return Place(cabin, tuple(motors), dict(wiring), head_unit.drawn(seed))
