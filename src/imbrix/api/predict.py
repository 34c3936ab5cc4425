"""Proposals: fits, arrivals, the best settings of a seam."""

from fastapi import APIRouter
from pydantic import BaseModel

from imbrix.api.at import AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import BudgetIn, FirIn, FitIn, ProposeIn, TapeIn
from imbrix.core.tune.edits import Edit
from imbrix.work.ground import searching
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict import alignment, distances, fitting, latency, matching, offers, turning
from imbrix.work.predict.asked import LeftAlone
from imbrix.work.state.fir import FirState, fir_state
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.state.proposals import ProposalsState, proposals_state, take_first

router = APIRouter(prefix="/api/projects/{slug}", tags=["Proposals"], responses=RESPONSES)


class FitFigures(BaseModel):
    """What a fit found: gain, what remains (rms), the greatest boost, in dB, how many bands, and what it left alone.

    What remains is over the span from `low_hz` to `high_hz`, the dips that were left aside; several `places` of the
    microphone are those that it went by.
    """

    gain_db: float
    residual_db: float
    boost_db: float
    bands: int
    low_hz: float
    high_hz: float
    left: tuple[LeftAlone, ...]
    places: tuple[str, ...]


class Fitted(BaseModel):
    """A fit, and the project with it."""

    fit: FitFigures
    state: ProjectState


class OfferState(BaseModel):
    """A setting of a seam, what it would lose in dB, and the edits that set it.

    `away_ms` is by how much the direct sound of the upper way comes later than that of the lower one then; none where
    an arrival is not known. `says` is what speaks against it.
    """

    delay_ms: float
    inverted: bool
    change: str
    mean_db: float
    worst_db: float
    away_ms: float | None
    says: tuple[str, ...]
    edits: list[Edit]


class SearchState(BaseModel):
    """The long search that runs for a project: what for, empty where none runs, and the share that is done."""

    what: str
    share: float


class FillState(BaseModel):
    """Edits that set the delays of rear and centre, and what they do in sentences."""

    edits: list[Edit]
    says: tuple[str, ...]


class TurnState(BaseModel):
    """An all-pass on one side: its edits, what the button is called, why, and what comes of it."""

    edits: list[Edit]
    action: str
    says: str
    evidence: str


@router.post("/fit", summary="Fit to the target")
def post_fit(slug: Slug, body: FitIn, space: AtSpace) -> Fitted:
    """One channel, several alike, or without channels the correction common to all. One revision."""
    if body.channels:
        found = fitting.fit_channels(space, slug, tuple(body.channels), body.limits, body.like, body.places)
    elif body.measured:
        found = fitting.fit_measured(space, slug, body.limits)
    else:
        found = fitting.fit_common(space, slug, body.limits, body.places)
    figures = FitFigures(
        gain_db=found.gain_db,
        residual_db=found.residual_db,
        boost_db=found.boost_db,
        bands=found.bands,
        low_hz=found.span_hz[0],
        high_hz=found.span_hz[1],
        left=found.left,
        places=found.places,
    )
    return Fitted(fit=figures, state=project_state(space, slug))


@router.post("/sides", summary="Match both sides")
def post_sides(slug: Slug, space: AtSpace) -> ProjectState:
    """As a moving microphone measured each of them: bands of opposite gains, half on each side. One revision."""
    matching.match_sides(space, slug)
    return project_state(space, slug)


@router.post("/fir", summary="Find FIR taps")
def post_fir(slug: Slug, body: FirIn, space: AtSpace) -> FirState:
    """Of a channel, or of all together: taps that correct phase, and magnitude where it is asked for, within limits.

    Takes seconds; changes nothing. The edits that come with them set them.
    """
    return fir_state(space, slug, body.channel, body.wish)


@router.get("/search", summary="How far the search is")
def get_search(slug: Slug, space: AtSpace) -> SearchState:
    """Of taps, or of a network's values: what for, and the share that is done."""
    return _search_state(space, slug)


@router.post("/search/stop", summary="Stop the search")
def post_search_stop(slug: Slug, space: AtSpace) -> SearchState:
    """What waits for it is told that it was stopped; nothing where none runs."""
    searching.stop(space, slug)
    return _search_state(space, slug)


def _search_state(space: Workspace, slug: str) -> SearchState:
    now = searching.search_of(space, slug)
    return SearchState(what=now.what if now else "", share=now.share if now else 0.0)


@router.post("/align", summary="Set delays by arrival")
def post_align(slug: Slug, space: AtSpace) -> ProjectState:
    """So that all drivers' sound arrives at once."""
    alignment.align_arrivals(space, slug)
    return project_state(space, slug)


@router.post("/proposals", summary="Propose an alignment")
def post_proposals(slug: Slug, body: ProposeIn, space: AtSpace) -> ProposalsState:
    """Of the whole or of one side: delays and polarities, other crossovers and an all-pass where these are allowed.

    Takes seconds; changes nothing.
    """
    return proposals_state(space, slug, body.scope, body.allowed)


@router.post("/proposals/first", summary="Take the first proposal")
def post_first(slug: Slug, body: ProposeIn, space: AtSpace) -> ProjectState:
    """What `POST .../proposals` would list first becomes a revision, which can be undone."""
    take_first(space, slug, body.scope, body.allowed)
    return project_state(space, slug)


@router.get("/fill", summary="Rear and centre against the front")
def get_fill(slug: Slug, space: AtSpace) -> FillState:
    """Edits that let the rear come some 10 ms after the front and the centre with it (common practice), and of such
    delays take those with which the front keeps its shape best."""
    found = alignment.filled(space, slug)
    return FillState(edits=list(found.edits), says=found.says)


@router.get("/turn", summary="What turns one side")
def get_turn(slug: Slug, space: AtSpace) -> TurnState | None:
    """Where left and right take each other away over the whole head: an all-pass on one of them; null where none
    helps."""
    found = turning.turned(space, slug)
    if found is None:
        return None
    return TurnState(edits=list(found.edits), action=found.action, says=found.says, evidence=found.evidence)


@router.put("/distances", summary="Enter distances by tape")
def put_distances(slug: Slug, body: TapeIn, space: AtSpace) -> ProjectState:
    """From each driver to the middle of the head, and the temperature that the speed of sound is taken for."""
    distances.measure(space, slug, body.metres, body.celsius)
    return project_state(space, slug)


@router.post("/distances/apply", summary="Set delays by distance")
def post_distances(slug: Slug, space: AtSpace) -> ProjectState:
    """The farthest driver gets none."""
    distances.set_delays(space, slug)
    return project_state(space, slug)


@router.put("/latency", summary="Choose a budget of latency")
def put_latency(slug: Slug, body: BudgetIn, space: AtSpace) -> ProjectState:
    """None for a car, 5 ms for a performer, 1 ms for the processor itself."""
    latency.set_budget(space, slug, body.budget)
    return project_state(space, slug)


@router.get("/seams/{seam_id}/offers", summary="The best settings of a seam")
def get_offers(slug: Slug, seam_id: str, space: AtSpace) -> list[OfferState]:
    """By loss and by how nearly both ways arrive at once; never applied unasked."""
    return [
        OfferState(
            delay_ms=one.delay_s * 1e3,
            inverted=one.inverted,
            change=one.change,
            mean_db=one.mean_db,
            worst_db=one.worst_db,
            away_ms=None if one.away_s is None else one.away_s * 1e3,
            says=one.says,
            edits=list(one.edits),
        )
        for one in offers.offers(space, slug, seam_id)
    ]
