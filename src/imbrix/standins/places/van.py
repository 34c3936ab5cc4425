"""The demonstration system: a mobile library van, right-hand drive, three-way front and a sub in the shelving."""

import numpy as np

from imbrix.core.impedance.impedance import Circuit
from imbrix.core.system.layout import Driver, Kind, Layout, Side
from imbrix.standins.cabin import Cabin, DriverModel, Mode, Seat
from imbrix.standins.head_unit import HeadUnit, Wire
from imbrix.standins.jig import Motor
from imbrix.standins.paths import Path, ScatteredPath
from imbrix.standins.places.drawn import bearing_deg, furnished, numbered, reflections, vehicle_distance
from imbrix.standins.places.place import ListenerSide, Place, Wiring

NAME = "Wren book van"
SLUG = "wren"

_NAMES = {Kind.SUB: "Sub", Kind.MIDBASS: "Midbass", Kind.MID: "Mid", Kind.TWEETER: "Tweeter"}


def layout() -> Layout:
    """Seven channels on outputs 1 to 7; the listener sits on the right."""
    drivers = [Driver(id="sub", name="Sub", kind=Kind.SUB, side="both", output=1)]
    sides: tuple[tuple[Side, str], ...] = (("left", "L"), ("right", "R"))
    for kind in (Kind.MIDBASS, Kind.MID, Kind.TWEETER):
        for side, letter in sides:
            drivers.append(
                Driver(
                    id=f"{kind}-{letter.lower()}",
                    name=f"{_NAMES[kind]} {letter}",
                    kind=kind,
                    side=side,
                    output=len(drivers) + 1,
                )
            )
    return Layout(drivers=tuple(drivers), seat="right")


_SUB = DriverModel(33.0, 0.65, 420.0, 2, 108.0, ((190.0, 2.0, 3.0),), second=0.05, third=0.04)
_MIDBASS = DriverModel(62.0, 0.75, 2600.0, 2, 105.5, ((1500.0, 4.0, 4.0), (2700.0, -4.0, 5.0)), 0.03, 0.02)
_MID = DriverModel(170.0, 0.6, 8200.0, 2, 102.0, ((1050.0, -2.5, 2.0), (5400.0, 4.0, 4.5)), 0.015, 0.01)
_TWEETER = DriverModel(980.0, 0.75, 23_000.0, 1, 104.0, ((9500.0, 3.0, 3.0), (14_500.0, -3.0, 5.0)), 0.01, 0.006)

_PLACES: tuple[tuple[DriverModel, float, bool, tuple[float, ...]], ...] = (
    (_SUB, 2.40, False, (1.0, 0.9, 0.5, 0.3)),
    (_MIDBASS, 1.46, False, (0.7, 0.8, 0.5, -0.4)),
    (_MIDBASS, 0.97, True, (0.7, -0.6, 0.6, 0.5)),
    (_MID, 1.29, False, (0.3, 0.4, 0.4, 0.3)),
    (_MID, 0.86, False, (0.3, -0.3, 0.4, -0.3)),
    (_TWEETER, 1.24, False, (0.0, 0.0, 0.0, 0.0)),
    (_TWEETER, 0.78, False, (0.0, 0.0, 0.0, 0.0)),
)
_MODES = (Mode(44.0, 4.0, -3.0), Mode(71.0, 5.0, -4.0), Mode(112.0, 5.0, -5.0), Mode(158.0, 6.0, -6.0))


MOTORS: tuple[Motor, ...] = (
    Motor(Circuit(3.35, 27.4, 5.1, 41.0, 0.0105, 0.72), 0.128, 0.0530),
    Motor(Circuit(3.28, 58.0, 3.9, 19.5, 0.0062, 0.71), 0.0174, 0.0138),
    Motor(Circuit(3.31, 67.8, 2.6, 12.4, 0.0062, 0.71), 0.0172, 0.0138),
    Motor(Circuit(3.62, 118.0, 4.6, 15.8, 0.0031, 0.70), 0.0046, 0.0053),
    Motor(Circuit(3.60, 120.5, 4.5, 15.5, 0.0031, 0.70), 0.0045, 0.0053),
    Motor(Circuit(3.20, 604.0, 1.9, 4.3, 0.00065, 0.74), 0.00031, 0.00066),
    Motor(Circuit(3.22, 611.0, 1.85, 4.2, 0.00065, 0.74), 0.00031, 0.00066),
)
"""What a jig finds at each output of the van; Midbass R sits in a door that is damped differently."""


def cabin(seed: int = 2026) -> Cabin:
    """The van's cabin: ten early reflections from each driver, four modes, glass nearer on the right."""
    random = np.random.default_rng(seed)
    seats: list[Seat] = []
    own = layout()
    for driver, (model, distance, backwards, weights) in zip(own.drivers, _PLACES, strict=True):
        early = tuple(
            (
                float(0.18 + 0.42 * n + random.uniform(0, 0.3)),
                float(-4.5 - 0.9 * n - random.uniform(0, 4.0)),
                float(random.uniform(2500, 9000)),
            )
            for n in range(10)
        )
        spread = random.uniform(-0.05, 0.05)
        made = DriverModel(
            model.resonance_hz * (1 + spread),
            model.resonance_q,
            model.roll_off_hz * (1 - spread),
            model.roll_off_order,
            model.sensitivity_db + float(random.uniform(-0.8, 0.8)),
            model.peaks,
            model.second,
            model.third,
        )
        radius = float(np.sqrt(MOTORS[len(seats)].area / np.pi))
        path = ScatteredPath(distance, early, bearing_deg(driver, own.seat))
        seats.append(Seat(made, path, backwards, weights, radius))
    return Cabin(tuple(seats), _MODES, celsius=19.0)


_FRONT = (("bell", 95.0, 3.5, 1.1), ("bell", 740.0, -4.0, 1.4), ("bell", 2600.0, 2.5, 2.0), ("high", 6000.0, 3.0, 0.7))
_REAR = (("bell", 160.0, -3.0, 1.0), ("bell", 3100.0, -5.0, 1.6), ("high", 5000.0, -2.5, 0.7))
HEAD_UNIT = HeadUnit(
    "The van's own radio",
    (
        Wire((1.0, 0.0), high_pass_hz=48.0, bands=_FRONT),
        Wire((0.0, 1.0), -0.6, high_pass_hz=48.0, bands=_FRONT, passes=((430.0, 0.8),)),
        Wire((1.0, 0.0), -2.0, delay_s=6.2e-3, high_pass_hz=70.0, bands=_REAR),
        Wire((0.0, 1.0), -2.3, delay_s=6.2e-3, high_pass_hz=70.0, bands=_REAR, inverted=True),
    ),
    ppm=-38.0,
    lift_db=5.0,
)
"""It lifts bass and treble in front, turns the right front's phase, and wires the right rear the wrong way round."""


def place(wiring: Wiring, seat: ListenerSide) -> Place:
    """The van with a system in it: its own drivers where the wiring has such, others drawn for it."""
    own = cabin()
    known = {(one.group, one.kind, one.side): n for n, one in enumerate(layout().drivers)}

    def path(driver: Driver, number: int, drawn: np.random.Generator) -> Path:
        distance = vehicle_distance(driver, seat, drawn) + 0.35 * number
        return ScatteredPath(distance, reflections(drawn, distance, 10), bearing_deg(driver, seat))

    seats, motors = furnished(wiring, own.seed + 1, path, len(_MODES))
    for output, driver, number in numbered(wiring):
        at = known.get((driver.group, driver.kind, driver.side))
        if at is not None and number == 0 and seat == "right" and driver.passive_to is None:
            seats[output - 1], motors[output - 1] = own.seats[at], MOTORS[at]
    # Each driver's arrivals come from directions that hang on its output: those of the seven stay as they are.
    return Place(
        Cabin(tuple(seats), _MODES, celsius=own.celsius, seed=own.seed), tuple(motors), dict(wiring), HEAD_UNIT
    )
