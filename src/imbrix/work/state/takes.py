"""Takes as the page knows them: what each is, how it is drawn, and what the verdict says of it."""

from pydantic import BaseModel

from imbrix.core.evidence.evidence import Agreement, Evidence
from imbrix.core.evidence.verdict import Trouble
from imbrix.core.impedance.impedance import Loading
from imbrix.store.models import DocumentRow, ProjectRow, TakeRow
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.moments import Moment
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.looks import Look, looks
from imbrix.work.takes.reading import SICK
from imbrix.work.takes.shelf import Method, Purpose, Take, takes
from imbrix.work.takes.verdicts import troubles_of


class TakeState(BaseModel):
    """One take without its curves."""

    id: int
    channels: tuple[str, ...]
    purpose: Purpose
    method: Method
    timed: bool
    clock: str
    note: str
    discarded: bool
    made: Moment
    revision_id: int
    rate: int
    correction: int | None
    position: str
    repeats: int
    averages: int
    troubles: tuple[Trouble, ...]
    judged: bool
    evidence: Evidence | None
    agrees: Agreement | None
    loading: Loading
    amount: float
    input: int | None
    look: Look
    angle: float | None
    of: tuple[int, ...]
    sick: str
    """Why it cannot be read; empty where it can, or where nobody tried yet."""


STATES: Drawer[str, list[TakeState]] = Drawer("states of takes", 32)


def take_states(space: Workspace, slug: str) -> list[TakeState]:
    """All takes of a project, newest first."""

    def make() -> list[TakeState]:
        known = takes(space, slug)
        said, shown = troubles_of(space, slug, known), looks(space, slug)
        return [_state(space, one, said.get(one.id, ()), shown.get(one.id, Look())) for one in known]

    return space.recall(STATES, slug, (TakeRow, ProjectRow, (DocumentRow, f"looks:{slug}")), make)


def _state(space: Workspace, one: Take, said: tuple[Trouble, ...], look: Look) -> TakeState:
    details = one.details
    return TakeState(
        id=one.id,
        channels=one.channels,
        purpose=one.purpose,
        method=one.method,
        timed=one.timed,
        clock=one.clock,
        note=one.note,
        discarded=one.discarded,
        made=one.created,
        revision_id=one.revision_id,
        rate=one.rate,
        correction=details.correction,
        position=details.position,
        repeats=details.repeats,
        averages=details.averages,
        troubles=said,
        judged=details.evidence is not None,
        evidence=details.evidence,
        agrees=details.agrees,
        loading=details.loading,
        amount=details.amount,
        input=details.input,
        look=look,
        angle=details.angle,
        of=details.of,
        sick=space.memory.peek(SICK, one.id) or "",
    )
