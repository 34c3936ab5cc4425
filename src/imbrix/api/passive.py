"""Passive parts: the bench with its network, a textbook's values, and values searched for."""

from fastapi import APIRouter

from imbrix.api.answers import Begun, begun
from imbrix.api.at import AtRecorder, AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.work.predict import passive, watching
from imbrix.work.state.passive import PassiveProposalState, PassiveState, passive_state, proposals_of

router = APIRouter(prefix="/api/projects/{slug}/passive", tags=["Passive parts"], responses=RESPONSES)


@router.get("", summary="The passive bench")
def get_passive(slug: Slug, space: AtSpace) -> PassiveState:
    """Its network, parts, load, and what it is worth; which drivers can stand in it."""
    return passive_state(space, slug)


@router.put("", summary="Keep a network")
def put_passive(slug: Slug, body: passive.Bench, space: AtSpace) -> PassiveState:
    """In the place of the one that it was made of, whose version it has."""
    passive.put(space, slug, body)
    return passive_state(space, slug)


@router.post("/begin", summary="Begin a network by a textbook")
def post_begin(slug: Slug, body: passive.Begin, space: AtSpace) -> PassiveState:
    """For the nominal ohms of each driver; kept in the place of the one before."""
    passive.begin_anew(space, slug, body)
    return passive_state(space, slug)


@router.post("/search", summary="Search for values")
def post_search(slug: Slug, space: AtSpace) -> list[PassiveProposalState]:
    """Of the network that is kept, from the measured impedances and responses. Takes seconds; changes nothing."""
    return proposals_of(space, slug)


@router.post("/watch", status_code=202, summary="Watch the jig")
def post_watch(slug: Slug, recorder: AtRecorder) -> Begun:
    """Impedance and sound of what hangs on its clips, drawn while parts are clipped in and out, until it is stopped;
    what of the network that is kept hangs there is recognised."""
    watching.start(recorder, slug)
    return begun(recorder)


@router.delete("", summary="Take the network away")
def delete_passive(slug: Slug, space: AtSpace) -> PassiveState:
    """For good."""
    passive.remove(space, slug)
    return passive_state(space, slug)
