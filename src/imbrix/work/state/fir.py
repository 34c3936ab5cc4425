"""FIR taps that were found, as the page shows them: figures before and after by way, what is to be known, the edits."""

from pydantic import BaseModel

from imbrix.core.fir.design import Fault, Made
from imbrix.core.fir.wish import Wish
from imbrix.core.tune.edits import Edit
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.fir import Found, fir


class FaultState(BaseModel):
    """How far from what is wanted, over the span: level in dB and phase in degrees, rms and worst."""

    level_db: float
    worst_db: float
    phase_deg: float
    worst_deg: float


class WayTapsState(BaseModel):
    """Taps of a channel: the span that they correct, faults before and after, how loud it is before the main pulse and
    how much is lifted at most, in dB, and by how many milliseconds the main pulse is late."""

    channel: str
    name: str
    low_hz: float
    high_hz: float
    before: FaultState
    after: FaultState
    pre_db: float
    boost_db: float
    latency_ms: float


class SpotState(BaseModel):
    """By how many degrees and decibels rms phase and level stray at a place, before and after; whether it is harmed."""

    place: str
    before_deg: float
    after_deg: float
    before_db: float
    after_db: float
    harmed: bool


class FirState(BaseModel):
    """Taps found on a revision. `before` and `after` are those of the sum, none for a channel alone; `says` is what is
    to be known before the edits are taken."""

    revision: int
    ways: list[WayTapsState]
    latency_ms: float
    before: FaultState | None
    after: FaultState | None
    places: list[SpotState]
    says: list[str]
    edits: list[Edit]


def fir_state(space: Workspace, slug: str, channel: str, wish: Wish) -> FirState:
    """Taps for a channel or for all; changes nothing. Raises as `fir` does."""
    found = fir(space, slug, channel, wish)
    rate = processors.model(space, slug).rate
    layout = space.layout(slug)
    return FirState(
        revision=found.revision,
        ways=[_way(found, name, layout.driver(name).name, one, rate) for name, one in found.found.made.items()],
        latency_ms=found.found.late / rate * 1e3,
        before=_fault(found.found.before),
        after=_fault(found.found.after),
        places=[
            SpotState(
                place=found.places[one.place] or "the first place",
                before_deg=one.before_deg,
                after_deg=one.after_deg,
                before_db=one.before_db,
                after_db=one.after_db,
                harmed=one.harmed,
            )
            for one in found.found.spots
        ],
        says=list(found.says),
        edits=list(found.edits),
    )


def _way(found: Found, channel: str, name: str, one: Made, rate: int) -> WayTapsState:
    before, after = _fault(one.before), _fault(one.after)
    assert before is not None
    assert after is not None
    return WayTapsState(
        channel=channel,
        name=name,
        low_hz=one.low_hz,
        high_hz=one.high_hz,
        before=before,
        after=after,
        pre_db=one.pre_db,
        boost_db=one.boost_db,
        latency_ms=one.delay / rate * 1e3,
    )


def _fault(one: Fault | None) -> FaultState | None:
    if one is None:
        return None
    return FaultState(level_db=one.level_db, worst_db=one.worst_db, phase_deg=one.phase_deg, worst_deg=one.worst_deg)
