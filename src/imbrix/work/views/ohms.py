"""Impedance as a stage shows it: curves, parameters as rows, corners, what the amplifier allows."""

from dataclasses import fields

import numpy as np

from imbrix.core.impedance.impedance import Mechanics, Sure, impedance, parameters, sureness
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.system.layout import Driver
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import impedance as measured
from imbrix.work.impedance.impedance import Here
from imbrix.work.takes.shelf import Take, take
from imbrix.work.views.facts import Corner, ImpedanceFacts, Parameter
from imbrix.work.views.picture import Picture

Row = tuple[str, str, str, float, int]
"""Parameter, its name, its unit, the factor to it, and the decimals worth reading."""
ROWS: tuple[Row, ...] = (
    ("fs", "Fs, resonance", "Hz", 1.0, 1),
    ("re", "Re", "ohm", 1.0, 2),
    ("zmax", "Z at the resonance", "ohm", 1.0, 1),
    ("qms", "Qms", "", 1.0, 2),
    ("qes", "Qes", "", 1.0, 3),
    ("qts", "Qts", "", 1.0, 3),
    ("inductance", "L at 1 kHz", "mH", 1e3, 3),
    ("exponent", "Exponent of the coil", "", 1.0, 2),
)
MOVING: tuple[Row, ...] = (
    ("mms", "Mms", "g", 1e3, 2),
    ("cms", "Cms", "mm/N", 1e3, 3),
    ("bl", "Bl", "T m", 1.0, 2),
    ("vas", "Vas", "l", 1e3, 2),
    ("db_per_watt", "Sensitivity, 1 W at 1 m", "dB", 1.0, 1),
    ("db_at_2_83_v", "Sensitivity, 2.83 V at 1 m", "dB", 1.0, 1),
)
LOADED = {"mass": "with {:g} g", "box": "in {:g} l"}
POOR_FIT = 0.05


def draw(space: Workspace, slug: str, picture: Picture, selection: str, take_id: int | None, tune: Tune) -> None:
    """Add the impedance of all drivers, magnitudes above and the selection's phase below, and its figures."""
    layout = space.layout(slug)
    known = measured.here(space, slug)
    for driver in layout.drivers:
        free = known[driver.id].free if driver.id in known else None
        if free is None:
            continue
        mine = driver.id == selection
        values = measured.curves(space, free).on(space.grid)
        picture.add(
            f"ohms-{driver.id}", np.abs(values), "bold" if mine else "plain", label=driver.name, channel=driver.id
        )
        partner = layout.partner(driver)
        if mine or (partner and partner.id == selection):
            angle = np.degrees(np.angle(values))
            role = "bold" if mine else "faint"
            picture.add(f"turn-{driver.id}", angle, role, pane="lower", label=driver.name, channel=driver.id)
    found = known.get(selection)
    if found is None:
        return
    if found.loaded is not None:
        _beside(space, picture, found.loaded, "faint", _loaded_name(found.loaded))
    if take_id is not None:
        one = take(space, slug, take_id)
        if one.purpose == "impedance" and (found.free is None or one.id != found.free.id):
            _beside(space, picture, one, "compare", f"take {one.id}")
    if found.free is not None:
        _figures(space, slug, picture, layout.driver(selection), known, tune)


def _loaded_name(one: Take) -> str:
    return LOADED[one.details.loading].format(one.details.amount) if one.details.loading in LOADED else "as it is"


def _beside(space: Workspace, picture: Picture, one: Take, role: str, label: str) -> None:
    values = np.abs(measured.curves(space, one).on(space.grid))
    picture.add(f"beside-{one.id}", values, role, label=label, channel=one.channels[0])


def _figures(space: Workspace, slug: str, picture: Picture, driver: Driver, known: dict[str, Here], tune: Tune) -> None:
    free = known[driver.id].free
    assert free is not None
    what = measured.about(space, slug)[driver.id]
    shows = measured.curves(space, free)
    best = measured.circuit(space, free, what.re_ohm)
    facts: ImpedanceFacts = {
        "take_id": free.id,
        "calibrated": free.details.jig is not None or free.method == "text",
        "repeats": int(shows.repeats.shape[0]),
        "rows": [],
        "says": "",
        "least": {"ohms": free.details.least[0], "hertz": free.details.least[1]} if free.details.least else None,
        "allowed": what.least_ohm,
        "corners": corners(shows.on(space.grid), space.grid, driver, tune),
        "mechanics": None,
        "mechanics_says": "",
        "pair": None,
    }
    if isinstance(best, str):
        facts["says"] = best
    else:
        model = np.abs(impedance(best.circuit, space.grid))
        picture.add("circuit", model, "own-target", label="circuit", channel=driver.id)
        facts["rows"] = rows(parameters(measured.each(space, free, what.re_ohm)), ROWS)
        facts["misfit"] = best.misfit
        if best.misfit > POOR_FIT:
            facts["says"] = (
                f"one resonance explains this curve only within {100 * best.misfit:.0f} %: a vented box, or a box that "
                "rings, has more than one"
            )
        moves = measured.mechanics(space, known[driver.id], what)
        if isinstance(moves, str):
            facts["mechanics_says"] = moves
        else:
            facts["mechanics_says"] = measured.leak(space, known[driver.id], what)
            facts["mechanics"] = rows(spreads(moves), MOVING)
    other = measured.pair(space, slug, driver, known)
    partner = space.layout(slug).partner(driver)
    if other is not None and partner is not None:
        facts["pair"] = {"name": partner.name, "fs": other.fs, "qts": other.qts, "re": other.re, "much": other.much}
    picture.facts["impedance"] = facts


def spreads(moves: list[Mechanics]) -> dict[str, Sure]:
    """Each figure of what moves with its confidence from the repeats."""
    return {one.name: sureness(np.array([getattr(move, one.name) for move in moves])) for one in fields(Mechanics)}


def rows(found: dict[str, Sure], wanted: tuple[Row, ...]) -> list[Parameter]:
    """Parameters to be read: half the 95 % interval is None where there was one repeat only."""
    return [
        {
            "key": key,
            "name": name,
            "unit": unit,
            "value": found[key].value * factor,
            "half": found[key].half * factor if np.isfinite(found[key].half) else None,
            "digits": digits,
        }
        for key, name, unit, factor, digits in wanted
    ]


def corners(values: ComplexArray, grid: FloatArray, driver: Driver, tune: Tune) -> list[Corner]:
    """Impedance and phase of a curve (n,) at each planned corner of a driver."""
    channel = tune.channels[driver.id]
    found: list[Corner] = []
    for what, crossover in (("high-pass", channel.high_pass), ("low-pass", channel.low_pass)):
        if crossover is None or not grid[0] <= crossover.corner_hz <= grid[-1]:
            continue
        at = values[int(np.argmin(np.abs(np.log(grid / crossover.corner_hz))))]
        if np.isfinite(at):
            angle = float(np.degrees(np.angle(at)))
            found.append({"what": what, "hertz": crossover.corner_hz, "ohms": float(np.abs(at)), "degrees": angle})
    return found
