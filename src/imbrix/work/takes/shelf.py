"""The shelf: takes as they are kept, with all that is known of how each was made."""

import logging
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.evidence.evidence import Agreement, Evidence
from imbrix.core.impedance.impedance import Found, Loading
from imbrix.core.measure.marker import Marker
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.stepped import Steps
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.tune import Tune
from imbrix.core.value import Value
from imbrix.store.arrays import pack, unpack
from imbrix.store.models import ArrayRow, DocumentRow, ProjectRow, TakeRow
from imbrix.work.ground import processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace, project_row
from imbrix.work.rig import corrections
from imbrix.work.tune.revisions import head

Method = Literal["sweep", "moving", "file", "impulse", "text", "stepped", "raw", "average", "source"]
Purpose = Literal["driver", "proof", "null", "impedance", "raw", "feed"]
TAKE_COLUMNS = (
    TakeRow.id,
    TakeRow.project_id,
    TakeRow.channels,
    TakeRow.purpose,
    TakeRow.method,
    TakeRow.rate,
    TakeRow.timed,
    TakeRow.details,
    TakeRow.revision_id,
    TakeRow.note,
    TakeRow.discarded,
    TakeRow.created,
)
"""All of a take but its arrays and the tune it went through, which are read when asked for."""
LOG = logging.getLogger("imbrix.takes")
TAKES: Drawer[str, "tuple[list[Take], int]"] = Drawer("takes", 32)
DETAILS: Drawer[int, "tuple[dict[str, Any], Details]"] = Drawer("details", 8192)
THROUGH: Drawer[int, Tune] = Drawer("tunes of takes", 2048)


class Details(Value):
    """What is known of how a take was made. The defaults are those of takes that came without it."""

    low_hz: float = 10.0
    high_hz: float = 23_000.0
    length: int = 2**17
    level_db: float = 0.0
    tail_s: float = 0.6
    repeats: int = 1
    quiet_s: float = 0.0
    marker: tuple[float, float, int] | None = None
    clock: str = ""
    device: str = ""
    correction: int | None = None
    pointing: str = ""
    position: str = ""
    full_scale_db_spl: float | None = None
    check: str | None = None
    averages: int = 0
    band_hz: tuple[float, ...] = ()
    band_db: tuple[float, ...] = ()
    change_db: float | None = None
    evidence: Evidence | None = None
    agrees: Agreement | None = None
    jig: str | None = None
    sense_ohm: float = 10.0
    steps: Steps | None = None
    loading: Loading = "as it is"
    amount: float = 0.0
    found: Found | None = None
    ohms_only: bool = False
    """Of an impedance: its phase was not measured, but is the least that its magnitudes allow."""
    least: tuple[float, float] | None = None
    live: dict[str, Any] | None = None
    input: int | None = None
    of: tuple[int, ...] = ()
    feeds: tuple[int, ...] = ()
    """Of a recording of a source's wires: the processor's inputs (from 1) that they lead to."""
    angle: float | None = None
    matched_db: float = 0.0
    """Of a take that a source played: what brings its anchor to the level that it had before."""
    processor_rate: int = 48_000

    def schedule(self, rate: int) -> Schedule:
        """The schedule that was played."""
        sweep = SweepSettings(self.low_hz, self.high_hz, self.length, self.level_db, self.tail_s, rate)
        marker = Marker(*self.marker, rate, self.level_db) if self.marker else None
        return Schedule(sweep, self.repeats, self.quiet_s, marker)


def schedule_parts(schedule: Schedule) -> dict[str, Any]:
    """What details keep of a schedule; `Details.schedule` is the way back."""
    sweep, marker = schedule.sweep, schedule.marker
    return {
        "low_hz": sweep.low_hz,
        "high_hz": sweep.high_hz,
        "length": sweep.length,
        "level_db": sweep.level_db,
        "tail_s": sweep.tail_s,
        "repeats": schedule.repeats,
        "quiet_s": schedule.quiet_s,
        "marker": (marker.low_hz, marker.high_hz, marker.length) if marker else None,
    }


@dataclass(frozen=True)
class Take:
    """What is known of a take without its arrays."""

    id: int
    channels: tuple[str, ...]
    purpose: Purpose
    method: Method
    rate: int
    timed: bool
    details: Details
    revision_id: int
    note: str
    discarded: bool
    created: datetime

    @property
    def clock(self) -> str:
        """By which clock its delays are counted: only takes of the same clock can be compared in time."""
        return (self.details.clock or "loopback") if self.timed else ""

    @property
    def levels_only(self) -> bool:
        """Whether it stands for a place rather than a spot: levels without phase."""
        return self.method == "moving" or (self.method == "average" and not self.timed)

    @property
    def has_impulse(self) -> bool:
        """Whether it can be seen in time."""
        by_source = self.method == "source" and self.purpose == "driver"
        return self.acoustic and (by_source or self.method in ("sweep", "file", "impulse"))

    @property
    def acoustic(self) -> bool:
        """Whether a microphone heard it: an impedance and a bare recording show no response."""
        return self.purpose in ("driver", "proof", "null")


def keep(
    space: Workspace,
    slug: str,
    *,
    channels: tuple[str, ...],
    purpose: Purpose,
    method: Method,
    timed: bool,
    through: Tune,
    rate: int,
    arrays: dict[str, FloatArray],
    details: Details | None = None,
    note: str = "",
    level_db: float = 0.0,
) -> int:
    """Store a take with its arrays in one transaction; on disk when this returns its id."""
    revision_id = head(space, slug).id
    kept = (details or Details()).model_copy(update={"processor_rate": processors.model(space, slug).rate})
    with space.lock, space.session() as session:
        project = project_row(session, slug)
        row = TakeRow(
            project_id=project.id,
            revision_id=revision_id,
            channels=list(channels),
            purpose=purpose,
            method=method,
            rate=rate,
            timed=timed,
            level_db=level_db,
            through=through.model_dump(mode="json"),
            details=kept.model_dump(mode="json", exclude_defaults=True),
            note=note,
        )
        session.add(row)
        session.flush()
        if purpose == "driver" and method != "average" and not (details and details.angle):
            _newest_counts(session, slug, channels[0], method == "moving")
        session.add_all(ArrayRow(take_id=row.id, role=role, data=pack(array)) for role, array in arrays.items())
        return row.id


def _newest_counts(session: Session, slug: str, channel: str, moving: bool) -> None:
    """A fresh take takes the place of the one that was chosen before, unless that is locked."""
    row = session.get(DocumentRow, f"force:{slug}")
    key = "moving" if moving else "fixed"
    mine = dict(row.value.get(channel, {})) if row else {}
    locks = session.get(DocumentRow, f"looks:{slug}")
    locked = locks is not None and locks.value.get(str(mine.get(key)), {}).get("locked", False)
    if row is not None and key in mine and not locked:
        mine.pop(key)
        row.value = {**row.value, channel: mine}


def takes(space: Workspace, slug: str) -> list[Take]:
    """All takes of drivers that the system still has, newest first."""
    here = {driver.id for driver in space.layout(slug).drivers}
    return [one for one in _kept(space, slug)[0] if here.issuperset(one.channels)]


def left_out(space: Workspace, slug: str) -> int:
    """How many takes are kept that this version cannot read: a later one has kept them."""
    return _kept(space, slug)[1]


def _kept(space: Workspace, slug: str) -> tuple[list[Take], int]:
    def read() -> tuple[list[Take], int]:
        with space.session() as session:
            project = project_row(session, slug)
            rows = session.execute(
                select(*TAKE_COLUMNS).where(TakeRow.project_id == project.id).order_by(TakeRow.id.desc())
            ).all()
        known = []
        for row in rows:
            try:
                known.append(_as_take(space, row))
            except ConflictError as error:
                LOG.warning("take %d is left out: %s", row.id, error)
        return known, len(rows) - len(known)

    return space.recall(TAKES, slug, (TakeRow, ProjectRow), read)


def _as_take(space: Workspace, row: Any) -> Take:
    if row.purpose not in get_args(Purpose) or row.method not in get_args(Method):
        raise ConflictError(f"take {row.id} cannot be read: it was kept by a newer Imbrix")
    raw, details = space.memory.of(DETAILS, row.id, lambda: (row.details, stored(Details, row.details, "a take")))
    if raw != row.details:
        details = stored(Details, row.details, "a take")
        space.memory.put(DETAILS, row.id, (row.details, details))
    return Take(
        id=row.id,
        channels=tuple(row.channels),
        purpose=row.purpose,
        method=row.method,
        rate=row.rate,
        timed=row.timed,
        details=details,
        revision_id=row.revision_id,
        note=row.note,
        discarded=row.discarded,
        created=row.created,
    )


def through(space: Workspace, one: Take) -> Tune:
    """The tune that a take went through."""

    def read() -> Tune:
        with space.session() as session:
            return stored(
                Tune, session.scalar(select(TakeRow.through).where(TakeRow.id == one.id)), "what a take went through"
            )

    return space.memory.of(THROUGH, one.id, read)


def take(space: Workspace, slug: str, take_id: int) -> Take:
    """One take. Raises NotHereError."""
    with space.session() as session:
        row = session.execute(select(*TAKE_COLUMNS).where(TakeRow.id == take_id)).one_or_none()
        if row is None or row.project_id != project_row(session, slug).id:
            raise NotHereError(f"there is no take {take_id} in this project")
        return _as_take(space, row)


def discard(space: Workspace, slug: str, take_id: int, discarded: bool) -> None:
    """Set a take aside, or bring it back; its arrays stay either way. Raises ConflictError for a locked one."""
    take(space, slug, take_id)
    with space.lock, space.session() as session:
        looks = session.get(DocumentRow, f"looks:{slug}")
        if discarded and looks and looks.value.get(str(take_id), {}).get("locked"):
            raise ConflictError(f"take {take_id} is locked: unlock it before it is set aside")
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.discarded = discarded


def arrays(space: Workspace, take_id: int) -> tuple[dict[str, FloatArray], int]:
    """The arrays of a take by role, and its sample rate."""
    with space.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        found = session.scalars(select(ArrayRow).where(ArrayRow.take_id == take_id)).all()
        return {one.role: unpack(one.data) for one in found}, row.rate


def set_correction(space: Workspace, slug: str, take_id: int, correction: int | None) -> None:
    """Choose another microphone correction for a take that is there, or none."""
    take(space, slug, take_id)
    if correction is not None:
        corrections.correction(space, correction)
    with space.lock, space.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.details = {**row.details, "correction": correction}
    space.memory.forget_take(take_id)


def set_angle(space: Workspace, slug: str, take_id: int, angle: float | None) -> None:
    """Say from which angle off the axis, in degrees, a take heard its driver. None: not told."""
    take(space, slug, take_id)
    with space.lock, space.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.details = {**row.details, "angle": angle}


def set_note(space: Workspace, slug: str, take_id: int, note: str) -> None:
    """Write what should be known about a take."""
    take(space, slug, take_id)
    with space.lock, space.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.note = note.strip()
