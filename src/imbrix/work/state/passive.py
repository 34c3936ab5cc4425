"""The passive bench as the page shows it: its parts with their values beside a textbook's, and what they do."""

import numpy as np
from pydantic import BaseModel

from imbrix.core.errors import ConflictError, ImbrixError
from imbrix.core.passive import search as searched
from imbrix.core.passive.network import PartKind, load, named, watts
from imbrix.core.passive.search import Judged, Scene
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance.impedance import curves
from imbrix.work.predict.passive import Bench, behind, bench, lacking, propose, scene_of
from imbrix.work.predict.watching import KNOWN, hanging, recognised

UNIT: dict[PartKind, tuple[str, float]] = {"coil": ("mH", 1e3), "capacitor": ("µF", 1e6), "resistor": ("ohm", 1.0)}
HOT_WATTS = 5.0
IDLE_DB = 0.005
LIKE = 0.06
"""A network is what was reckoned where its load is so near to it, rms: parts of five percent make it."""


class PartState(BaseModel):
    """A part of a network: where it stands, its name, value and unit, a textbook's value, the watts that heat it, and
    by how many dB rms its tolerance alone moves the sum."""

    branch: int
    step: int
    kind: PartKind
    name: str
    value: float
    unit: str
    factor: float
    textbook: float | None
    watts: float
    moves_db: float


class LoadState(BaseModel):
    """What the amplifier sees at least, where, and by how many degrees there; what it allows."""

    least_ohm: float
    least_hz: float
    degrees: float
    allowed_ohm: float


class WorthState(BaseModel):
    """How far the sum is from its target in dB, rms and worst, its level against the driver alone, and the load."""

    rms_db: float
    worst_db: float
    level_db: float
    load: LoadState


class CanState(BaseModel):
    """A driver, and what it lacks to stand in a network."""

    driver: str
    lacks: str


class PassiveState(BaseModel):
    """The bench, its parts and what it is worth; none where none was begun. `says` is what is to be known of it,
    `trouble` why it cannot be reckoned."""

    bench: Bench | None
    parts: list[PartState]
    worth: WorthState | None
    can: list[CanState]
    says: list[str]
    jig_says: list[str]
    trouble: str


class PassiveProposalState(BaseModel):
    """A network that was found, as a bench to be kept."""

    title: str
    bench: Bench
    worth: WorthState


def passive_state(space: Workspace, slug: str) -> PassiveState:
    """The bench of a project as it is kept."""
    now = bench(space, slug)
    can = [CanState(driver=name, lacks=lacks) for name, lacks in lacking(space, slug).items()]
    empty = PassiveState(bench=now, parts=[], worth=None, can=can, says=[], jig_says=[], trouble="")
    if now is None:
        return empty
    try:
        scene = scene_of(space, slug, now)
        worth = _worth(searched.judged(scene, now.network), scene)
        parts = _parts(scene, now)
    except ImbrixError as error:
        return empty.model_copy(update={"trouble": str(error)})
    jig_says = _measured(space, slug, now, scene)
    says = [*_says(parts, worth, now), *jig_says]
    return empty.model_copy(update={"parts": parts, "worth": worth, "says": says, "jig_says": jig_says})


def _measured(space: Workspace, slug: str, now: Bench, scene: Scene) -> list[str]:
    """What the jig saw behind the network, against what was reckoned."""
    later = behind(space, slug, now)
    if later is None:
        return []
    seen = load(now.network, scene.ohms, scene.frequencies)
    jig = curves(space, later).on(scene.frequencies)
    known = np.isfinite(jig)
    apart = np.abs(np.abs(jig[known]) / np.abs(seen[known]) - 1)
    worst = int(np.argmax(apart))
    off, hertz = 100 * float(apart[worst]), float(scene.frequencies[known][worst])
    if np.sqrt(np.mean(apart**2)) < LIKE:
        return [f"What the jig saw behind it is what was reckoned, within {off:.0f} % at {hertz:.0f} Hz at worst"]
    names = {one.driver: space.layout(slug).driver(one.driver).name for one in now.network.branches}
    found = recognised(now.network, scene, curves(space, later).on(space.grid)) if known.all() else None
    if found is not None and found.off < KNOWN:
        return [f"What the jig saw of take {later.id} is {hanging(now.network, found, names)}"]
    return [
        f"What the jig saw of take {later.id} is off by {off:.0f} % at {hertz:.0f} Hz: a part has another value or "
        "stands elsewhere, or it was the driver alone"
    ]


def proposals_of(space: Workspace, slug: str) -> list[PassiveProposalState]:
    """Values that were searched for, the best first. Raises ConflictError where there is no bench."""
    now = bench(space, slug)
    if now is None:
        raise ConflictError("there is no network yet: begin one first")
    scene = scene_of(space, slug, now)
    return [
        PassiveProposalState(title=one.title, bench=one.bench, worth=_worth(one.judged, scene))
        for one in propose(space, slug, now)
    ]


def _worth(one: Judged, scene: Scene) -> WorthState:
    at_amplifier = LoadState(
        least_ohm=one.least_ohm, least_hz=one.least_hz, degrees=one.degrees, allowed_ohm=scene.least_ohm
    )
    return WorthState(rms_db=one.rms_db, worst_db=one.worst_db, level_db=one.level_db, load=at_amplifier)


def _parts(scene: Scene, now: Bench) -> list[PartState]:
    places = searched.places(now.network)
    names = named(now.network)
    moves = searched.tolerance(scene, now.network, now.percent)[2]
    heat = {(b, n, kind): much for b, n, kind, much in watts(now.network, scene.ohms, scene.frequencies, now.volts)}
    textbook = now.textbook if len(now.textbook) == len(places) else ()
    found = []
    for k, ((b, n, kind), value) in enumerate(zip(places, searched.values(now.network), strict=True)):
        unit, factor = UNIT[kind]
        found.append(
            PartState(
                branch=b,
                step=n,
                kind=kind,
                name=names[k],
                value=float(value),
                unit=unit,
                factor=factor,
                textbook=float(textbook[k]) if textbook else None,
                watts=heat.get((b, n, kind), 0.0),
                moves_db=float(moves[k]),
            )
        )
    return found


def _says(parts: list[PartState], worth: WorthState, now: Bench) -> list[str]:
    said = []
    seen = worth.load
    if seen.least_ohm < seen.allowed_ohm:
        said.append(
            f"The amplifier would see {seen.least_ohm:.1f} ohm at {seen.least_hz:.0f} Hz, and allows "
            f"{seen.allowed_ohm:g}: search for values, or put a resistor in its way"
        )
    hot = [one for one in parts if one.watts > HOT_WATTS]
    if hot:
        told = ", ".join(f"{one.name} {one.watts:.0f} W" for one in hot)
        said.append(f"Heated by {now.volts:g} V of pink noise: {told}")
    idle = [one.name for one in parts if one.moves_db < IDLE_DB]
    if idle:
        said.append(f"{', '.join(idle)}: hardly does anything; try without")
    if parts and now.percent:
        worst = max(parts, key=lambda one: one.moves_db)
        said.append(
            f"{now.percent:g} % of {worst.name} alone moves the sum by {worst.moves_db:.2f} dB rms, more than any other"
        )
    said.append("The drivers were recorded through amplifiers of their own: their gains are taken to be alike.")
    return said
