"""Which takes count for a driver: those chosen, else the latest; and the response that they give together."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.signal.signal import ComplexArray
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import rig
from imbrix.work.takes.reading import bare, sick
from imbrix.work.takes.shelf import Take, takes


@dataclass(frozen=True)
class Force:
    """The takes by which a driver is predicted: `take` gives phase, and magnitude where no `moving` one does."""

    take: Take
    moving: Take | None = None


def forces(space: Workspace, slug: str, known: list[Take] | None = None) -> dict[str, Force]:
    """For each driver the takes that count: of a moving microphone, and of a fixed one.

    They are those that a person chose, else the latest that are not discarded; takes off the axis do not count. Of a
    fixed microphone they are those of the place that leads, as far as a driver was recorded there: what was heard at
    two places cannot be brought in step.
    """
    known = takes(space, slug) if known is None else known
    lead = leading_place(space, slug, known)
    fixed: dict[str, Take] = {}
    moving: dict[str, Take] = {}
    wanted = chosen(space, slug)
    without = {name for name, mine in wanted.items() if mine.get("moving") == 0}
    for one in known:
        if one.purpose != "driver" or one.discarded or one.details.angle:
            continue
        name = one.channels[0]
        among, key = (moving, "moving") if one.levels_only else (fixed, "fixed")
        asked = wanted.get(name, {}).get(key) == one.id
        # An average counts only where a person says so; a take that cannot be read never does.
        better = name not in among or (
            among is fixed
            and one.details.position == lead
            and among[name].details.position != lead
            and wanted.get(name, {}).get(key) != among[name].id
        )
        if (asked or (one.method != "average" and better)) and not sick(space, one):
            among[name] = one
    found = {}
    for name in {**fixed, **moving}:
        spatial = None if name in without and name in fixed else moving.get(name)
        found[name] = Force(fixed.get(name) or moving[name], spatial)
    return found


def leading_place(space: Workspace, slug: str, known: list[Take]) -> str:
    """The place of a fixed microphone at which most drivers were recorded; of equal ones that which stands first among
    the rig's, else that which was recorded first. Empty where nothing was recorded."""
    drivers: dict[str, set[str]] = {}
    for one in reversed(known):  # the oldest first
        place = counts_at(one)
        if place is not None:
            drivers.setdefault(place, set()).add(one.channels[0])
    order = [one.name for one in (*rig.rig(space).positions, *rig.spots(space, slug))]
    places = sorted(drivers, key=lambda name: order.index(name) if name in order else len(order))
    return max(places, key=lambda name: len(drivers[name]), default="")


def counts_at(one: Take) -> str | None:
    """The place of a fixed microphone for which a take counts, by itself; None where it counts for none."""
    if one.purpose != "driver" or one.discarded or one.details.angle or one.levels_only or one.method == "average":
        return None
    return one.details.position


def chosen(space: Workspace, slug: str) -> dict[str, dict[str, int]]:
    """By driver the takes that a person put in force: `fixed`, `moving`; a moving one of 0 means none."""
    return {name: dict(mine) for name, mine in (documents.read(space, f"force:{slug}") or {}).items()}


def in_force(space: Workspace, slug: str) -> dict[str, Take]:
    """For each driver the take that predictions take their phase from."""
    return {name: force.take for name, force in forces(space, slug).items()}


def joined(space: Workspace, force: Force) -> ComplexArray:
    """Magnitude of the moving microphone with the phase of the fixed one (n,), where both are there.

    Where the moving one shows nothing, the fixed one's magnitude stays.
    """
    fixed = bare(space, force.take)
    if force.moving is None or force.moving.id == force.take.id:
        return fixed
    wide = np.abs(bare(space, force.moving))
    both = np.isfinite(fixed) & np.isfinite(wide)
    phase = np.where(both, fixed, 1.0) / np.maximum(np.abs(np.where(both, fixed, 1.0)), 1e-15)
    return np.where(both, np.where(both, wide, 0.0) * phase, fixed)
