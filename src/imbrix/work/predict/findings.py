"""What Imbrix notices about a project: of the rig, the takes in force, the tune and the impedances."""

import numpy as np

from imbrix.core.predict.findings import Finding, boosts, clips, reversed_drivers
from imbrix.core.system.layout import Driver, Layout
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import impedance as measured
from imbrix.work.impedance.impedance import About
from imbrix.work.predict.known import Scene
from imbrix.work.rig.readiness import Part
from imbrix.work.takes.bands import band
from imbrix.work.takes.reading import SICK, bare, onset_of
from imbrix.work.takes.shelf import Take, left_out, takes

REVERSED: Drawer[tuple[object, ...], list[Finding]] = Drawer("reversed drivers", 64)


def findings(space: Workspace, slug: str, at: Scene, tune: Tune, line: list[Part]) -> list[Finding]:
    """What Imbrix notices about the takes in force and the tune."""
    stale = [
        Finding(kind="rig", about="", says=f"{part.name} no longer holds", evidence=part.says)
        for part in line
        if part.state == "stale"
    ]
    return [
        *stale,
        *_left_out(space, slug),
        *_sick(space, at),
        *_reversed(space, slug, at, tune),
        *clips(at.layout, tune, space.predictor_at(at.rate)),
        *boosts(at.layout, tune),
    ]


def _left_out(space: Workspace, slug: str) -> list[Finding]:
    """Takes of a later version."""
    many = left_out(space, slug)
    says = f"{many} takes are not shown" if many > 1 else "One take is not shown"
    evidence = "kept by a newer Imbrix, which this one cannot read: they are left as they are"
    return [Finding(kind="sick", about="", says=says, evidence=evidence)] if many else []


def _sick(space: Workspace, at: Scene) -> list[Finding]:
    """Takes of drivers that were tried and could not be read."""
    return [
        Finding(
            kind="sick",
            about=one.channels[0],
            says=f"Take {one.id} of {at.layout.driver(one.channels[0]).name} cannot be read",
            evidence=f"{why}: it is left out; set it aside, or take the driver again",
        )
        for one in at.known_takes
        if one.purpose == "driver" and not one.discarded and (why := space.memory.peek(SICK, one.id))
    ]


def _reversed(space: Workspace, slug: str, at: Scene, tune: Tune) -> list[Finding]:
    """Pairs wired against each other, remembered for the takes in force and the polarities that are set."""
    timed = {name: one for name, one in at.takes.items() if one.timed}
    bands = {name: band(space, slug, one, at.forces) for name, one in timed.items()}

    def find() -> list[Finding]:
        clean = {name: np.nan_to_num(bare(space, one)) for name, one in timed.items()}
        onsets = {name: found for name, one in timed.items() if (found := onset_of(space, slug, one))}
        return reversed_drivers(at.layout, tune, clean, bands, onsets, space.grid)

    heard = tuple(
        (one.id, one.details.correction, *bands[name], tune.channels[name].inverted) for name, one in timed.items()
    )
    return space.memory.of(REVERSED, (at.layout, heard), find)


def of_impedances(space: Workspace, slug: str, layout: Layout, all_takes: list[Take] | None = None) -> list[Finding]:
    """Impedances below what the amplifier allows, and pairs that differ by more than samples do."""
    known = measured.here(space, slug, takes(space, slug) if all_takes is None else all_takes)
    what = measured.about(space, slug)
    found = []
    for driver in layout.drivers:
        free = known[driver.id].free if driver.id in known else None
        if free is None:
            continue
        found += _too_low(driver, free, what[driver.id])
        other = measured.pair(space, slug, driver, known) if driver.side == "left" else None
        partner = layout.partner(driver)
        if other is not None and other.much and partner is not None:
            found.append(
                Finding(
                    kind="impedance",
                    about=partner.id,
                    says=f"{partner.name} is not like {driver.name} electrically",
                    evidence=f"Fs {other.fs:+.0%}, Qts {other.qts:+.0%}, Re {other.re:+.0%}: look for a leak, another "
                    "box, a loose wire, or another driver",
                )
            )
    return found


def _too_low(driver: Driver, free: Take, what: About) -> list[Finding]:
    if free.details.least is None or free.details.least[0] >= what.least_ohm:
        return []
    ohms, hertz = free.details.least
    return [
        Finding(
            kind="impedance",
            about=driver.id,
            says=f"{driver.name} falls to {ohms:.1f} ohm",
            evidence=f"at {hertz:.0f} Hz; its amplifier allows {what.least_ohm:g} ohm",
        )
    ]
