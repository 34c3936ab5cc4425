"""Proposals for the alignment of a project: what the core finds for the takes in force, in words."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from imbrix.core.align.figures import Figures
from imbrix.core.align.propose import Allowed, Proposal, Proposals, propose
from imbrix.core.errors import ConflictError
from imbrix.core.evidence.verdict import Trouble
from imbrix.core.system.layout import Layout
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.searching import searching
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.corners import corners_of
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import scene
from imbrix.work.predict.spots import in_common, spots_of
from imbrix.work.predict.system import system_of
from imbrix.work.takes.reading import onset_of
from imbrix.work.takes.verdicts import troubles_of
from imbrix.work.tune.revisions import head

Scope = Literal["whole", "left", "right"]


@dataclass(frozen=True)
class Found:
    """What was proposed on a revision, at which places it was judged, and what is not known."""

    revision: int
    tune: Tune
    found: Proposals
    places: tuple[str, ...]
    doubts: tuple[str, ...]


def proposals(space: Workspace, slug: str, scope: Scope, allowed: Allowed) -> Found:
    """What to set so that a project, or one side of it, is aligned. The same from the same takes.

    Raises ConflictError where takes are missing, keep no time, or keep it by different clocks, or where another search
    runs; StoppedError where it was stopped.
    """
    now = scene(space, slug)
    present = head(space, slug)
    system, places = system_of(space, slug, now)
    movable = None
    if scope != "whole":
        movable = frozenset(one.id for one in now.layout.drivers if one.side == scope)
        if not movable:
            raise ConflictError(f"this system has nothing on the {scope} side that could be moved by itself")
    corners = corners_of(space, slug, now)
    with searching(space, slug, "an alignment"):
        found = propose(system, present.tune, corners, allowed, movable)
    said = doubts(space, slug, now)
    if allowed.slopes and movable is None and len(places) < 2:
        said = (*said, SLOPES_STAY)
    return Found(present.id, present.tune, found, places, said)


def doubts(space: Workspace, slug: str, now: Scene) -> tuple[str, ...]:
    """What is not known of the takes in force, in sentences."""
    said = []
    vague = [
        now.layout.driver(name).name
        for name in now.ids
        if (found := onset_of(space, slug, now.takes[name])) is None or not found.likely
    ]
    if vague:
        said.append(f"{', '.join(vague)}: when the direct sound arrives, and which way it moves first, is a guess")
    troubles = troubles_of(space, slug)
    doubted = [
        now.layout.driver(name).name
        for name in now.ids
        if any(one.weight == "doubt" for one in troubles.get(now.takes[name].id, ()))
    ]
    if doubted:
        said.append(f"{', '.join(doubted)}: the take is doubted; what follows from it is no surer")
    said += _doubted_elsewhere(space, now, troubles)
    places = [now.takes[name].details.position for name in now.ids]
    lead = max(places, key=places.count, default="")
    away = [now.layout.driver(name).name for name, place in zip(now.ids, places, strict=True) if place != lead]
    if away:
        said.append(
            f"{', '.join(away)}: what counts was not recorded at {lead or 'the place'}, as that of the others was; "
            "what comes late and what is only farther away cannot be told apart: record it there, or put a take of "
            "that place in force"
        )
    return tuple(said)


def _doubted_elsewhere(space: Workspace, now: Scene, troubles: dict[int, tuple[Trouble, ...]]) -> list[str]:
    """Takes at further places that are aligned over and doubted, a sentence for each place."""
    found = spots_of(space, now, timed=True)
    said = []
    for place in in_common(now, found)[1:] if now.ids else ():
        names = [
            now.layout.driver(name).name
            for name in now.ids
            if any(one.weight == "doubt" for one in troubles.get(found[name][place].id, ()))
        ]
        if names:
            said.append(f"{', '.join(names)}: the take at {place} is doubted; record it there once more")
    return said


SLOPES_STAY = (
    "Slopes stay as they are: what another one wins at one spot is lost again over a head that moves. Takes at a "
    "second place let them be tried"
)
ONE_SPOT = "Judged at one spot: takes at a second place of the head would tell whether it holds."


def holds(now: Figures, was: Figures) -> str:
    """Whether what the seams win in the mean holds at all places, in a sentence; empty where there is but one."""
    before = {seam.seam.id: seam.mean.values for seam in was.seams}
    gains = np.array(
        [
            np.subtract(before[seam.seam.id], seam.mean.values)
            for seam in now.seams
            if len(before.get(seam.seam.id, ())) == len(seam.mean.values) > 1
        ]
    )
    if not gains.size:
        return ""
    by_place = gains.mean(axis=0)
    better = int((by_place > 0).sum())
    if better == by_place.size:
        return f"The seams win at each of {better} places, {by_place.min():.1f} to {by_place.max():.1f} dB."
    if by_place.mean() <= np.ptp(by_place) / 2:
        return f"The seams win at {better} of {by_place.size} places: that is within what the places differ by."
    return f"The seams win at {better} of {by_place.size} places."


def why(one: Proposal, found: Found, layout: Layout) -> str:
    """Why a proposal is better than what stands, or than the plainer one, in a line; and what is not known of it."""
    against, others = found.found.before, found.found.proposals
    plainer = next((other for other in others if other.kind == "timing" and other is not one), None)
    base = plainer.figures if plainer is not None and one.kind != "timing" else against
    than = "Beside delays and polarity alone" if base is not against else "Beside what stands"
    said = []
    gained = [
        (was.mean.value - now.mean.value, now.seam.id)
        for now in one.figures.seams
        for was in base.seams
        if was.seam.id == now.seam.id
    ]
    if gained:
        best, seam_id = max(gained)
        seam = layout.seam(seam_id)
        if best >= 0.1:
            sides = "" if seam.side == "both" else f" {seam.side}"
            ways = " to ".join(kind.value for kind in seam.ways or ())
            said.append(f"{ways}{sides} loses {best:.1f} dB less")
    if one.figures.sides and base.sides and base.sides.value - one.figures.sides.value >= 0.1:
        said.append(f"left and right {base.sides.value - one.figures.sides.value:.1f} dB less below 500 Hz")
    if base.unlike and not one.figures.unlike:
        said.append(f"{' and '.join(base.unlike)} left and right move alike")
    if not said:
        return "What there is to gain is small."
    line = f"{than}: {', '.join(said)}. {holds(one.figures, base)}".rstrip()
    return f"{line} {ONE_SPOT}" if one.kind == "all-pass" and len(found.places) < 2 else line
