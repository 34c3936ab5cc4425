"""Impedance: the jig calibrated and used, curves kept as takes, and the parameters that they show."""

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from pydantic import Field

from imbrix.core.errors import BadFileError, ConflictError, InvalidError, NotHereError, UnusableError
from imbrix.core.impedance.impedance import (
    Apart,
    Circuit,
    Found,
    Loading,
    Mechanics,
    apart,
    by_added_mass,
    by_known_box,
    find_circuit,
    least,
    ohm_grid,
)
from imbrix.core.look.phase import minimum_phase
from imbrix.core.measure.jig import looks_like, nominal, ohms
from imbrix.core.measure.recording import from_sample, lag_of
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.stepped import Steps
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.grid import between
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.system.layout import Driver
from imbrix.core.value import Value
from imbrix.formats.text_curve import TextCurve, write_curve
from imbrix.work.ground import documents, places
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance.jigging import coefficients, measure, ratios_of, ready
from imbrix.work.rig import readiness, rig
from imbrix.work.rig.choices import FILE
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes.shelf import Details, Take, arrays, keep, schedule_parts, take, takes
from imbrix.work.tune.revisions import head


class About(Value):
    """What a person knows of a driver: Re by a meter, the area of its cone, the least that its amplifier allows.

    4-ohm amplifiers allow 4, most car amplifiers 2 (common practice, no source).
    """

    re_ohm: float | None = Field(default=None, gt=0.05, le=1000, allow_inf_nan=False)
    area_cm2: float | None = Field(default=None, gt=0.05, le=10_000, allow_inf_nan=False)
    least_ohm: float = Field(default=2.0, gt=0, le=64, allow_inf_nan=False)


class LoadingIn(Value):
    """How the driver is loaded for a take: `amount` in grams or litres."""

    loading: Loading = "as it is"
    amount: float = Field(default=0.0, ge=0, le=100_000, allow_inf_nan=False)


@dataclass
class Curves:
    """The impedance of a take: `repeats` (r, n) in ohm at `frequencies` (n,), and what was found in it, by Re.

    `levels_only` says that the phase was computed from the magnitudes.
    """

    frequencies: FloatArray
    repeats: ComplexArray
    levels_only: bool = False
    found: dict[float | None, Found | str] = field(default_factory=dict)
    each: dict[float | None, list[Circuit]] = field(default_factory=dict)

    @property
    def mean(self) -> ComplexArray:
        return np.asarray(self.repeats.mean(axis=0))

    def on(self, grid: FloatArray) -> ComplexArray:
        """The mean curve on a grid (m,), NaN beyond its ends."""
        return between(self.frequencies, self.mean, grid, beyond=np.nan)


CURVES: Drawer[int, Curves] = Drawer("impedances", 64, by_take=True)

OHMS = (0.01, 1e6)
"""No wire is less, and nothing that moves air is more."""


def about(space: Workspace, slug: str) -> dict[str, About]:
    """What is known of each driver by its id."""
    found = documents.read(space, f"about:{slug}") or {}
    return {
        driver.id: stored(About, found.get(driver.id, {}), "what is said of the drivers")
        for driver in space.layout(slug).drivers
    }


def tell(space: Workspace, slug: str, channel: str, what: About) -> None:
    """Keep what a person says of a driver. Raises NotHereError."""
    space.layout(slug).driver(channel)
    documents.change(space, f"about:{slug}", lambda known: {**known, channel: what.model_dump(mode="json")})


def start(
    recorder: Recorder, slug: str, channel: str, loaded: LoadingIn, note: str = "", repeats: int | None = None
) -> None:
    """Begin an impedance take of a driver. Raises ConflictError, NotHereError."""
    space = recorder.space
    driver = space.layout(slug).driver(channel)
    ready(space)
    if loaded.loading in ("mass", "box") and not loaded.amount:
        raise ConflictError("say how many grams or litres it is loaded with")

    def job() -> None:
        chosen = rig.rig(space)
        places.connect(space, slug)
        recorded, parts = measure(recorder, repeats)
        recorder.computing()
        frequencies, ratios = ratios_of(recorded, parts)
        _holds(ratios, frequencies, chosen.jig.sense_ohm, driver)
        made = chosen.jig_done.made if chosen.jig_done and not readiness.jig_stale(space) else None
        known = coefficients(space, made, chosen.jig.sense_ohm, frequencies)
        shows = Curves(frequencies, np.array([ohms(ratio, known) for ratio in ratios]))
        details = Details(
            **(schedule_parts(parts) if isinstance(parts, Schedule) else {"steps": parts, "level_db": parts.level_db}),
            device=chosen.device,
            jig=made,
            sense_ohm=chosen.jig.sense_ohm,
            loading=loaded.loading,
            amount=loaded.amount,
            **_shown(shows),
        )
        take_id = keep(
            space,
            slug,
            channels=(channel,),
            purpose="impedance",
            method="sweep" if isinstance(parts, Schedule) else "stepped",
            timed=False,
            through=head(space, slug).tune,
            rate=space.interface.rate,
            arrays={"voltages": recorded.T},
            details=details,
            note=note,
            level_db=chosen.jig.level_db,
        )
        space.memory.put(CURVES, take_id, shows)
        recorder.say(stage="kept", take_id=take_id, result={"doubt": False})

    recorder.start("impedance", job, project=slug, channels=(channel,), purpose="impedance")


def _holds(ratios: ComplexArray, frequencies: FloatArray, sense_ohm: float, driver: Driver) -> None:
    seen = looks_like(ratios.mean(axis=0), sense_ohm, frequencies)
    if seen > 300:
        raise UnusableError(f"the clips hold nothing: put them on {driver.name}", "jig")
    if seen < 0.3:
        raise UnusableError("the clips touch each other: there is a short", "jig")


def bring_recording(
    space: Workspace,
    slug: str,
    channel: str,
    voltages: FloatArray,
    sweep: SweepSettings,
    sense_ohm: float,
    loaded: LoadingIn,
    note: str,
) -> int:
    """An impedance take from a recording (n, 2) of a jig that was made elsewhere while the sweep played through it.

    Column 0 is the voltage across the driver, column 1 that across the resistor of `sense_ohm`. There is no calibration
    of it: leads and the inputs' own differences stay in. Raises UnusableError.
    """
    driver = space.layout(slug).driver(channel)
    if voltages.shape[1] < 2:
        raise UnusableError("a recording of the jig has two channels: across the driver, and across the resistor")
    rate = sweep.rate
    lag = lag_of(voltages.sum(axis=1), exponential_sweep(sweep).samples[: sweep.length])
    if lag is None or lag + sweep.length > voltages.shape[0]:
        raise UnusableError("the recording ends within the sweep: it began too late or was stopped too early")
    parts = Schedule(sweep, quiet_s=0.0)
    piece = from_sample(voltages[:, :2], lag)[: parts.size]
    frequencies, ratios = ratios_of(piece, parts)
    _holds(ratios, frequencies, sense_ohm, driver)
    shows = Curves(frequencies, np.array([ohms(ratio, nominal(sense_ohm, frequencies.size)) for ratio in ratios]))
    return keep(
        space,
        slug,
        channels=(channel,),
        purpose="impedance",
        method="sweep",
        timed=False,
        through=head(space, slug).tune,
        rate=rate,
        arrays={"voltages": piece.T},
        details=Details(
            **schedule_parts(parts),
            device=FILE,
            sense_ohm=sense_ohm,
            loading=loaded.loading,
            amount=loaded.amount,
            **_shown(shows),
        ),
        note=note,
    )


def bring(space: Workspace, slug: str, channel: str, curve: TextCurve, loaded: LoadingIn, note: str) -> int:
    """An impedance take from text: frequency, ohm and perhaps degrees. Raises BadFileError.

    Without degrees the phase is that of the least phase that the magnitudes allow, which a passive driver has.
    """
    space.layout(slug).driver(channel)
    if curve.levels.min() <= 0:
        at = int(np.argmin(curve.levels))
        raise BadFileError(
            f"at {curve.frequencies[at]:g} Hz the file says {curve.levels[at]:g} ohm: impedance is above zero"
        )
    beyond = np.flatnonzero((curve.levels < OHMS[0]) | (curve.levels > OHMS[1]))
    if beyond.size:
        raise BadFileError(
            f"at {curve.frequencies[beyond[0]]:g} Hz the file says {curve.levels[beyond[0]]:g} ohm: no driver has that"
        )
    if curve.degrees is not None and np.abs(curve.degrees).max() > 180:
        raise BadFileError("the third column should be degrees from -180 to 180")
    inside = (curve.frequencies >= ohm_grid()[0]) & (curve.frequencies <= ohm_grid()[-1])
    if inside.sum() < 12:
        raise BadFileError("fewer than twelve rows between 5 Hz and 20 kHz: this is no impedance curve")
    f, level = curve.frequencies[inside], curve.levels[inside]
    turn = np.radians(curve.degrees[inside]) if curve.degrees is not None else minimum_phase(level, f)
    values = level * np.exp(1j * np.nan_to_num(turn))
    return keep(
        space,
        slug,
        channels=(channel,),
        purpose="impedance",
        method="text",
        timed=False,
        through=head(space, slug).tune,
        rate=space.interface.rate,
        arrays={"ohms": np.stack((f, values.real, values.imag))},
        details=Details(
            loading=loaded.loading,
            amount=loaded.amount,
            ohms_only=curve.degrees is None,
            **_shown(Curves(f, values[None, :], curve.degrees is None)),
        ),
        note=note,
    )


def curves(space: Workspace, one: Take) -> Curves:
    """The impedance of a take, computed once and remembered."""
    return space.memory.of(CURVES, one.id, lambda: _curves(space, one))


def _curves(space: Workspace, one: Take) -> Curves:
    data, rate = arrays(space, one.id)
    if one.method == "text":
        f, real, imag = data["ohms"]
        return Curves(f, (real + 1j * imag)[None, :], one.details.ohms_only)
    parts: Schedule | Steps = one.details.steps or one.details.schedule(rate)
    frequencies, ratios = ratios_of(data["voltages"].T, parts)
    made = coefficients(space, one.details.jig, one.details.sense_ohm, frequencies)
    return Curves(frequencies, np.array([ohms(ratio, made) for ratio in ratios]))


def _shown(shows: Curves) -> dict[str, Any]:
    """What a take's details tell of its curve, so that a list of takes need not read it."""
    at = least(shows.frequencies, shows.mean)
    found = None
    with suppress(InvalidError):  # no resonance: a resistor, or half a curve; told where parameters are asked for
        found = _found(shows, shows.mean, None)
    return {"found": found, "least": (at.ohms, at.hertz) if at else None}


def circuit(space: Workspace, one: Take, re_ohm: float | None) -> Found | str:
    """The circuit behind a take, or why there is none."""
    if one.details.found is not None and re_ohm is None:
        return one.details.found
    shows = curves(space, one)
    if re_ohm not in shows.found:
        try:
            shows.found[re_ohm] = _found(shows, shows.mean, re_ohm)
        except InvalidError as error:
            shows.found[re_ohm] = str(error)
    return shows.found[re_ohm]


def _found(shows: Curves, values: ComplexArray, re_ohm: float | None) -> Found:
    """The fit on every second point where there are many: as exact, and twice as fast."""
    thin = slice(None, None, 2) if shows.frequencies.size > 800 else slice(None)
    return find_circuit(shows.frequencies[thin], values[thin], re_ohm, shows.levels_only)


def each(space: Workspace, one: Take, re_ohm: float | None) -> list[Circuit]:
    """The circuit behind each repeat of a take. Raises InvalidError as `find_circuit` does."""
    shows = curves(space, one)
    if re_ohm not in shows.each:
        shows.each[re_ohm] = [_found(shows, repeat, re_ohm).circuit for repeat in shows.repeats]
    return shows.each[re_ohm]


@dataclass(frozen=True)
class Here:
    """The impedance takes of a driver that count: as it is, loaded with a mass or a box, and behind a network."""

    free: Take | None = None
    loaded: Take | None = None
    network: Take | None = None


def here(space: Workspace, slug: str, known: list[Take] | None = None) -> dict[str, Here]:
    """By driver the latest takes that are not set aside."""
    found: dict[str, Here] = {}
    for one in takes(space, slug) if known is None else known:
        if one.purpose == "impedance" and not one.discarded:
            mine = found.get(one.channels[0], Here())
            which = {"as it is": "free", "network": "network"}.get(one.details.loading, "loaded")
            if getattr(mine, which) is None:
                found[one.channels[0]] = replace(mine, **{which: one})
    return found


def mechanics(space: Workspace, found: Here, what: About) -> list[Mechanics] | str:
    """Moving mass and the rest, from each pair of repeats of both takes; or what is missing for them."""
    if found.free is None or found.loaded is None:
        return "a second take with a mass on the cone or in a known box shows moving mass and Vas"
    if what.area_cm2 is None:
        return "the area of the cone is missing"
    amount, area = found.loaded.details.amount / 1000, what.area_cm2 / 1e4
    by: Callable[[Circuit, Circuit, float, float], Mechanics]
    by = by_added_mass if found.loaded.details.loading == "mass" else by_known_box
    try:
        pairs = zip(each(space, found.free, what.re_ohm), each(space, found.loaded, what.re_ohm), strict=False)
        return [by(free, loaded, amount, area) for free, loaded in pairs]
    except InvalidError as error:
        return str(error)


def leak(space: Workspace, found: Here, what: About) -> str:
    """Whether a box lets air through: a tight one without lining raises Qms with its resonance; empty where it does."""
    if found.free is None or found.loaded is None or found.loaded.details.loading != "box":
        return ""
    free, boxed = circuit(space, found.free, what.re_ohm), circuit(space, found.loaded, what.re_ohm)
    if isinstance(free, str) or isinstance(boxed, str) or boxed.circuit.qms > 0.9 * free.circuit.qms:
        return ""
    return (
        f"Qms fell from {free.circuit.qms:.1f} to {boxed.circuit.qms:.1f} in the box: it leaks or is lined, "
        "and these figures are off by as much"
    )


def pair(space: Workspace, slug: str, driver: Driver, found: dict[str, Here]) -> Apart | None:
    """How much a driver's partner differs from it; None where one of the two is not known."""
    partner = space.layout(slug).partner(driver)
    if partner is None or not {driver.id, partner.id} <= found.keys():
        return None
    what = about(space, slug)
    circuits = []
    for one in (driver, partner):
        free = found[one.id].free
        shows = circuit(space, free, what[one.id].re_ohm) if free else ""
        if isinstance(shows, str):
            return None
        circuits.append(shows.circuit)
    return apart(*circuits)


def as_text(space: Workspace, slug: str, take_id: int) -> str:
    """A take as text: frequency, ohm, degrees. Raises NotHereError."""
    one = take(space, slug, take_id)
    if one.purpose != "impedance":
        raise NotHereError(f"take {take_id} is no impedance")
    shows = curves(space, one)
    name = space.layout(slug).driver(one.channels[0]).name
    title = f"{name}, impedance, take {take_id}"
    return write_curve(shows.frequencies, np.abs(shows.mean), np.degrees(np.angle(shows.mean)), title, "ohm")
