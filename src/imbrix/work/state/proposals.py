"""Proposals for an alignment as the page shows them: figures before and after, what changes, and why."""

from typing import Literal

from pydantic import BaseModel

from imbrix.core.align.figures import Figures, Spread
from imbrix.core.align.propose import Allowed, Kind, Proposal
from imbrix.core.errors import ConflictError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.changes import Change, changes
from imbrix.core.tune.edits import Edit
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.proposals import Found, Scope, proposals, why
from imbrix.work.tune.revisions import Head, commit

TITLES: dict[Kind, str] = {
    "timing": "Delays and polarity",
    "crossovers": "Other crossovers too",
    "all-pass": "An all-pass besides",
}


NOTHING: dict[str, float] = {"dB": 0.05, "us": 10.0}
"""A difference that nobody hears, nor sees in figures of one digit."""


class SpreadState(BaseModel):
    """A figure, and the least and the most of all places."""

    value: float
    least: float
    most: float


class SeamFiguresState(BaseModel):
    """What a seam loses, in dB."""

    seam: str
    mean: SpreadState
    worst: SpreadState


class FiguresState(BaseModel):
    """What an alignment is worth: losses in dB by seam, and in the mean of all; left against right below 500 Hz; by how
    many microseconds the right side comes later; pairs that move against each other; seams half a period off or more.
    """

    seams: list[SeamFiguresState]
    mean_db: float | None
    worst_db: float | None
    sides: SpreadState | None
    apart_us: float | None
    unlike: list[str]
    far: list[str]


class ComparedState(BaseModel):
    """A figure as it stands and as it would be, in decibels or microseconds, and whether it would be worse."""

    what: str
    unit: Literal["dB", "us"]
    before: float | None
    after: float | None
    worse: bool


class ProposalState(BaseModel):
    """A proposal: the edits that set it, all that they change, and what comes of it."""

    kind: Kind
    title: str
    says: str
    edits: list[Edit]
    changes: list[Change]
    figures: FiguresState
    compared: list[ComparedState]


class ProposalsState(BaseModel):
    """What stands and what is proposed, the best first. `lacking` are reasons why something else is not proposed,
    `doubts` what is not known; `places` are those that the figures are of."""

    revision: int
    before: FiguresState
    proposals: list[ProposalState]
    places: list[str]
    doubts: list[str]
    lacking: list[str]


def proposals_state(space: Workspace, slug: str, scope: Scope, allowed: Allowed) -> ProposalsState:
    """What is proposed for the present revision. Raises ConflictError where takes do not allow it."""
    found = proposals(space, slug, scope, allowed)
    layout = space.layout(slug)
    return ProposalsState(
        revision=found.revision,
        before=_figures(found.found.before),
        proposals=[_proposal(one, found, layout) for one in found.found.proposals],
        places=list(found.places),
        doubts=list(found.doubts),
        lacking=list(found.found.lacking),
    )


def _proposal(one: Proposal, found: Found, layout: Layout) -> ProposalState:
    before, after = _figures(found.found.before), _figures(one.figures)
    return ProposalState(
        kind=one.kind,
        title=_title(one),
        says=why(one, found, layout),
        edits=list(one.edits),
        changes=changes(found.tune, one.tune, layout),
        figures=after,
        compared=[
            _compared("lost at the seams", "dB", before.mean_db, after.mean_db),
            _compared("worst of any seam", "dB", before.worst_db, after.worst_db),
            _compared("left against right", "dB", _value(before.sides), _value(after.sides)),
            _compared("sides apart", "us", before.apart_us, after.apart_us),
        ],
    )


def _value(one: SpreadState | None) -> float | None:
    return one.value if one else None


def _compared(what: str, unit: Literal["dB", "us"], before: float | None, after: float | None) -> ComparedState:
    known = before is not None and after is not None
    worse = known and abs(after or 0.0) > abs(before or 0.0) + NOTHING[unit]
    return ComparedState(what=what, unit=unit, before=before, after=after, worse=worse)


def take_first(space: Workspace, slug: str, scope: Scope, allowed: Allowed) -> Head:
    """Make the first proposal a revision. Raises ConflictError as `proposals` does, and where none is better."""
    found = proposals(space, slug, scope, allowed)
    if not found.found.proposals:
        raise ConflictError("what stands is as good as anything that was found: there is nothing to take")
    first = found.found.proposals[0]
    return commit(space, slug, list(first.edits), f"Aligned: {_title(first).lower()}", found.revision)


def _title(one: Proposal) -> str:
    """What kind of proposal it is; where crossovers were lacking it begins with these."""
    if one.kind == "timing" and any(edit.do == "crossover" for edit in one.edits):
        return "First crossovers, delays, polarity"
    return TITLES[one.kind]


def _figures(one: Figures) -> FiguresState:
    sides = [seam for seam in one.seams if seam.seam.side != "both"] or list(one.seams)
    return FiguresState(
        seams=[
            SeamFiguresState(seam=seam.seam.id, mean=_spread(seam.mean), worst=_spread(seam.worst))
            for seam in one.seams
        ],
        mean_db=sum(seam.mean.value for seam in sides) / len(sides) if sides else None,
        worst_db=max((seam.worst.value for seam in sides), default=None),
        sides=_spread(one.sides) if one.sides else None,
        apart_us=None if one.apart_s is None else one.apart_s * 1e6,
        unlike=list(one.unlike),
        far=list(one.far),
    )


def _spread(one: Spread) -> SpreadState:
    return SpreadState(value=one.value, least=one.least, most=one.most)
