"""The passive bench of a project: a network, what it is meant for, and what the measured drivers make of it."""

from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
from pydantic import Field, model_validator

from imbrix.core.errors import ConflictError, InvalidError, StaleError
from imbrix.core.passive import search as searched
from imbrix.core.passive.network import Branch, Network, Step
from imbrix.core.passive.search import Judged
from imbrix.core.passive.textbook import MOST_ORDER, Series, ladder, nominal, pad, zobel
from imbrix.core.patience import goes_on
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels
from imbrix.core.signal.smoothing import smooth
from imbrix.core.system.layout import RANK, Driver
from imbrix.core.tune.crossover import SLOPES, Shape, alignment
from imbrix.core.tune.tune import Hertz
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.searching import searching
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import impedance as measured
from imbrix.work.predict import scene as heard
from imbrix.work.takes.bands import band
from imbrix.work.takes.reading import place_dips
from imbrix.work.takes.seen import comes_bare, seen
from imbrix.work.takes.shelf import Take, takes
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed

EVERY = 4
"""The search looks at every so many points of the grid: 24 to the octave."""
CYCLES = 4.0
SMOOTHING = 6
"""Parts shape a driver, not the place: late sound and what is narrower than a sixth of an octave are no matter."""


PAD_DB = 4.0
"""What a pad begins with where one is offered; the search finds its own."""
TakeId = Annotated[int, Field(ge=0, le=2**53)]


class Meeting(Value):
    """Where two ways shall meet, and the shape that each shall have there."""

    hertz: Hertz
    shape: Shape = "linkwitz-riley"
    slope_db: int = 12

    @model_validator(mode="after")
    def _can_be(self) -> "Meeting":
        if self.slope_db not in SLOPES[self.shape] or self.slope_db > 6 * MOST_ORDER:
            raise InvalidError(f"{self.shape} of {self.slope_db} dB per octave: up to {6 * MOST_ORDER} are possible")
        return self


class Bench(Value):
    """A network, from the lowest way to the highest, where its ways shall meet, and how it is reckoned.

    `textbook` are the values that it was begun with. `takes` are by driver the sweep and the impedance that it is
    reckoned from: what is measured later stands behind the network. `percent` is the tolerance of the parts; `volts`
    the pink noise that heats them; `series` the values that are sold. `version` counts the changes: one that was made
    on an older version is refused.
    """

    network: Network
    meetings: tuple[Meeting, ...] = Field(max_length=2)
    textbook: tuple[float, ...] = Field(default=(), max_length=60)
    takes: dict[Annotated[str, Field(max_length=60)], tuple[TakeId, TakeId]] = Field(default_factory=dict, max_length=3)
    series: Series = "E24"
    percent: Annotated[float, Field(ge=0, le=20)] = 5.0
    volts: Annotated[float, Field(gt=0, le=200)] = 10.0
    version: Annotated[int, Field(ge=0, le=2**53)] = 0

    @model_validator(mode="after")
    def _as_many(self) -> "Bench":
        if len(self.meetings) != len(self.network.branches) - 1:
            raise InvalidError("there is a meeting for each two neighbouring ways")
        return self


class Begin(Value):
    """Which drivers a network is begun with, where they meet, and what is put beside their crossovers."""

    drivers: tuple[Annotated[str, Field(max_length=60)], ...] = Field(min_length=1, max_length=3)
    meetings: tuple[Meeting, ...] = Field(max_length=2)
    zobel: bool = False
    pad_db: Annotated[float, Field(ge=0, le=20)] = 0.0


@dataclass(frozen=True)
class Proposal:
    """A network that was found, as a bench of its own, what it is, and what it is worth."""

    title: str
    bench: Bench
    judged: Judged
    cost: float


def bench(space: Workspace, slug: str) -> Bench | None:
    """The bench of a project; None where none was begun."""
    space.layout(slug)
    found = documents.read(space, f"passive:{slug}")
    return stored(Bench, found, "the passive network") if found else None


def put(space: Workspace, slug: str, wanted: Bench) -> None:
    """Keep a bench that was made of the one that is kept. Raises NotHereError, ConflictError where a driver lacks what
    it needs, StaleError where another one was kept meanwhile."""
    scene_of(space, slug, wanted)

    def keep(before: Document) -> Document:
        if before and before.get("version", 0) != wanted.version:
            raise StaleError("another window has changed the network since: look, and try again")
        return wanted.model_copy(update={"version": wanted.version + 1}).model_dump(mode="json")

    documents.change(space, f"passive:{slug}", keep)
    space.changed()


def begin_anew(space: Workspace, slug: str, wanted: Begin) -> None:
    """Keep a bench begun by the textbook, in the place of whatever there was. Raises as `begin` and `put` do."""
    before = bench(space, slug)
    put(space, slug, begin(space, slug, wanted).model_copy(update={"version": before.version if before else 0}))


def remove(space: Workspace, slug: str) -> None:
    """Forget it."""
    space.layout(slug)
    documents.remove(space, f"passive:{slug}")
    space.changed()


def lacking(space: Workspace, slug: str) -> dict[str, str]:
    """What each driver lacks to stand in a network; empty where nothing."""
    now = heard.scene(space, slug)
    ohms = measured.here(space, slug)
    found = {}
    for driver in now.layout.drivers:
        take = now.takes.get(driver.id)
        if driver.id not in ohms or ohms[driver.id].free is None:
            found[driver.id] = "no impedance is measured, do so in Impedance"
        elif take is None or not take.has_impulse:
            found[driver.id] = "no sweep is recorded"
        else:
            found[driver.id] = ""
    return found


def begin(space: Workspace, slug: str, wanted: Begin) -> Bench:
    """A bench with the values of a textbook, for the nominal ohms of each driver. Nothing is kept."""
    layout = space.layout(slug)
    drivers = sorted((layout.driver(name) for name in dict.fromkeys(wanted.drivers)), key=lambda one: RANK[one.kind])
    if len(wanted.meetings) != len(drivers) - 1:
        raise InvalidError("there is a meeting for each two neighbouring ways")
    branches: list[Branch] = []
    for n, driver in enumerate(drivers):
        ohm = nominal(ohms_of(space, slug, driver), space.grid)
        steps: list[Step] = []
        if n > 0:
            at = wanted.meetings[n - 1]
            if wanted.pad_db and n == len(drivers) - 1:
                steps += pad(wanted.pad_db, ohm)
            steps += ladder(at.shape, at.slope_db, at.hertz, "high_pass", ohm)
        if n < len(drivers) - 1:
            at = wanted.meetings[n]
            steps += ladder(at.shape, at.slope_db, at.hertz, "low_pass", ohm)
        if (wanted.zobel and n < len(drivers) - 1) or len(drivers) == 1:
            steps.append(_zobel(space, slug, driver))
        # Of second order the two ways are half a turn apart: one is inverted, as the textbook says.
        below = bool(branches) and branches[-1].inverted
        inverted = below != (n > 0 and wanted.meetings[n - 1].slope_db % 24 == 12)
        branches.append(Branch(driver=driver.id, steps=tuple(steps), inverted=inverted))
    network = Network(branches=tuple(branches))
    now, known = heard.scene(space, slug), measured.here(space, slug)
    begun = {
        driver.id: (now.takes[driver.id].id, free.id)
        for driver in drivers
        if driver.id in now.takes and (free := known[driver.id].free) is not None
    }
    values = tuple(searched.values(network).tolist())
    return Bench(network=network, meetings=wanted.meetings, textbook=values, takes=begun)


def _zobel(space: Workspace, slug: str, driver: Driver) -> Step:
    free = measured.here(space, slug)[driver.id].free
    assert free is not None
    found = measured.circuit(space, free, measured.about(space, slug)[driver.id].re_ohm)
    if isinstance(found, str):
        raise ConflictError(f"{driver.name}: no circuit explains its impedance, so no Zobel network follows: {found}")
    return zobel(found.circuit.re, found.circuit.inductance(3000.0))


def _kept(space: Workspace, slug: str, number: int | None) -> Take | None:
    """A take by its number, where it is there still and was not set aside."""
    return next((one for one in takes(space, slug) if one.id == number and not one.discarded), None)


def behind(space: Workspace, slug: str, wanted: Bench) -> Take | None:
    """What the jig saw of the network, once it was soldered: the newest impedance behind one that was measured of its
    lowest driver since the bench was begun."""
    lowest = wanted.network.branches[0].driver
    known = measured.here(space, slug).get(lowest)
    used = wanted.takes.get(lowest)
    if known is None or known.network is None or used is None or known.network.id <= used[1]:
        return None
    return known.network


def ohms_of(space: Workspace, slug: str, driver: Driver, number: int | None = None) -> ComplexArray:
    """The measured impedance (n,) of a driver on the grid, of a take or of the newest, held beyond its ends.

    Raises ConflictError without one.
    """
    known = measured.here(space, slug).get(driver.id)
    free = _kept(space, slug, number) or (known.free if known else None)
    if free is None:
        raise ConflictError(f"{driver.name}: its impedance is not measured; do so first, in Impedance")
    curve = measured.curves(space, free).on(space.grid)
    here = np.flatnonzero(np.isfinite(curve))
    nearest = here[np.clip(np.searchsorted(here, np.arange(curve.size)), 0, here.size - 1)]
    return np.asarray(curve[nearest])


def scene_of(space: Workspace, slug: str, wanted: Bench, every: int = EVERY) -> searched.Scene:
    """What a bench is judged by. Raises NotHereError, and ConflictError where a driver lacks what it needs, or where
    takes keep time by different clocks."""
    layout = space.layout(slug)
    now = heard.scene(space, slug)
    drivers = [layout.driver(one.driver) for one in wanted.network.branches]
    used: list[Take] = []
    ohms, bare, clocks = {}, {}, set()
    for driver in drivers:
        sweep, ohm = wanted.takes.get(driver.id, (None, None))
        take = _kept(space, slug, sweep) or now.takes.get(driver.id)
        ohms[driver.id] = ohms_of(space, slug, driver, ohm)[::every]
        if take is None or not take.has_impulse:
            raise ConflictError(f"{driver.name}: it has no sweep; record it first")
        used.append(take)
        clocks.add(take.clock if take.timed else "")
        turn = np.exp(2j * np.pi * space.grid * comes_bare(space, take))  # smoothing is about the arrival
        early = smooth(seen(space, take, CYCLES) * turn, space.grid, SMOOTHING) / turn
        filled = early * 10 ** (-place_dips(space, slug, take, SMOOTHING) / 20)
        bare[driver.id] = np.asarray(filled[::every] + 1e-9, dtype=complex)
    if len(drivers) > 1 and (len(clocks) > 1 or "" in clocks):
        raise ConflictError("the takes keep no common time, so that no sum can be reckoned: record them alike")
    f = space.grid[::every]
    target = placed(space, slug, head(space, slug).tune)[::every]
    target = target - target[int(np.argmin(np.abs(f - 1000.0)))]
    low = band(space, slug, used[0])[0]
    high = band(space, slug, used[-1])[1]
    allowed = measured.about(space, slug)
    return searched.Scene(
        f,
        ohms,
        bare,
        {driver.id: target + _shape_db(wanted.meetings, n, f) for n, driver in enumerate(drivers)},
        target,
        (f >= max(low * 1.2, 30.0)) & (f <= high / 1.1),
        max(allowed[driver.id].least_ohm for driver in drivers),
    )


def _shape_db(meetings: tuple[Meeting, ...], n: int, f: FloatArray) -> FloatArray:
    shape = np.zeros(f.size)
    if n > 0:
        at = meetings[n - 1]
        shape = shape + decibels(alignment(at.shape, at.slope_db, at.hertz, "high_pass", f))
    if n < len(meetings):
        at = meetings[n]
        shape = shape + decibels(alignment(at.shape, at.slope_db, at.hertz, "low_pass", f))
    return shape


def propose(space: Workspace, slug: str, wanted: Bench) -> list[Proposal]:
    """Values for a bench, the best first: of its topology with the leads either way round, of one with a pad before the
    highest way, and of one with a Zobel network on the lowest, the best of each kind.

    None loads the amplifier with less than it allows. Raises ConflictError where no values do, or where another search
    runs, StoppedError where it was stopped.
    """
    with searching(space, slug, "values of the network"):
        return _proposals(space, slug, wanted)


def _proposals(space: Workspace, slug: str, wanted: Bench) -> list[Proposal]:
    plain = scene_of(space, slug, wanted)
    best: dict[str, tuple[float, str, Network, searched.Scene]] = {}
    variants = _variants(space, slug, wanted)
    for n, (kind, title, network) in enumerate(variants):
        goes_on(n / (len(variants) + 3))
        begun = searched.values(network)
        usual = np.array(wanted.textbook) if len(wanted.textbook) == begun.size else begun
        scene = replace(plain, usual=usual)
        found = searched.search(scene, network)
        costs = searched.cost(scene, found)
        if kind not in best or costs < best[kind][0]:
            best[kind] = costs, title, found, scene
    proposals = []
    for n, (_, title, network, scene) in enumerate(best.values(), len(variants)):
        goes_on(n / (len(variants) + 3))
        bought = searched.sold(scene, network, wanted.series)
        judged = searched.judged(scene, bought)
        if judged.least_ohm >= scene.least_ohm:
            made = wanted.model_copy(update={"network": bought, "textbook": tuple(scene.usual.tolist())})
            proposals.append(Proposal(title, made, judged, searched.cost(scene, bought)))
    if not proposals:
        raise ConflictError(
            f"no values of this network keep the load at the {plain.least_ohm:g} ohm that the amplifier allows: put a "
            "resistor in series with a way, or let fewer ways stand beside each other"
        )
    return sorted(proposals, key=lambda one: one.cost)


def _variants(space: Workspace, slug: str, wanted: Bench) -> list[tuple[str, str, Network]]:
    """Networks that are tried, each with its kind and what it is called."""
    layout, network = space.layout(slug), wanted.network
    found = [("plain", "As it stands", network)]
    for n, branch in enumerate(network.branches[1:], 1):
        leads = "straight" if branch.inverted else "exchanged"
        title = f"Leads of {layout.driver(branch.driver).name} {leads}"
        found.append(("plain", title, searched.turned(network, n)))
    *others, last = network.branches
    if others and not any(step.stands == "series" and step.parts == ("resistor",) for step in last.steps):
        driver = layout.driver(last.driver)
        ohm = nominal(ohms_of(space, slug, driver, wanted.takes.get(driver.id, (None, None))[1]), space.grid)
        for _, title, one in tuple(found):
            top = one.branches[-1]
            padded = top.model_copy(update={"steps": (*pad(PAD_DB, ohm), *top.steps)})
            also = "" if one is network else f", {title[0].lower()}{title[1:]}"
            more = one.model_copy(update={"branches": (*one.branches[:-1], padded)})
            found.append(("pad", f"A pad before {driver.name}{also}", more))
    first = network.branches[0]
    if any(step.parts == ("capacitor", "resistor") and step.stands == "shunt" for step in first.steps):
        return found
    with suppress(ConflictError):  # a driver that no circuit explains gets none
        driver = layout.driver(first.driver)
        compensated = first.model_copy(update={"steps": (*first.steps, _zobel(space, slug, driver))})
        more = network.model_copy(update={"branches": (compensated, *network.branches[1:])})
        found.append(("zobel", f"A Zobel network on {driver.name}", more))
    return found
