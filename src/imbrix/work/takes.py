"""Takes: kept, read, in force, discarded, and brought in from files."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Literal

import numpy as np
import scipy.fft
from sqlalchemy import select
from sqlalchemy.orm import Session

from imbrix.core.evidence import Agreement, Evidence
from imbrix.core.impedance import Found, Loading
from imbrix.core.layout import Value
from imbrix.core.marker import Marker
from imbrix.core.measures import usable_band, without_filters
from imbrix.core.reading import (
    EARLY_S,
    Reading,
    read_impulse,
    read_recording,
)
from imbrix.core.recording import read_schedule
from imbrix.core.response import arrival
from imbrix.core.schedule import Schedule
from imbrix.core.signal import ComplexArray, FloatArray, Impulse, ratio
from imbrix.core.stepped import Steps
from imbrix.core.sweep import SweepSettings, deconvolve
from imbrix.core.tune import Tune
from imbrix.store.arrays import pack, unpack
from imbrix.store.models import ArrayRow, DocumentRow, TakeRow
from imbrix.work import corrections, documents, rig
from imbrix.work.desk import NOMINAL_FULL_SCALE, ConflictError, Desk, NotHereError, project_row
from imbrix.work.tuning import head

Method = Literal["sweep", "moving", "file", "impulse", "text", "stepped", "raw", "average"]
Purpose = Literal["driver", "proof", "impedance", "raw"]
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
    least: tuple[float, float] | None = None
    live: dict[str, Any] | None = None
    input: int | None = None
    of: tuple[int, ...] = ()
    angle: float | None = None

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
        return self.acoustic and self.method in ("sweep", "file", "impulse")

    @property
    def acoustic(self) -> bool:
        """Whether a microphone heard it: an impedance and a bare recording show no response."""
        return self.purpose in ("driver", "proof")


def keep(
    desk: Desk,
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
    revision_id = head(desk, slug).id
    with desk.lock, desk.session() as session:
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
            details=(details or Details()).model_dump(mode="json", exclude_defaults=True),
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


def takes(desk: Desk, slug: str) -> list[Take]:
    """All takes of drivers that the system still has, newest first."""
    here = {driver.id for driver in desk.layout(slug).drivers}
    with desk.session() as session:
        project = project_row(session, slug)
        rows = session.execute(
            select(*TAKE_COLUMNS).where(TakeRow.project_id == project.id).order_by(TakeRow.id.desc())
        ).all()
    return [_as_take(desk, row) for row in rows if set(row.channels) <= here]


def _as_take(desk: Desk, row: Any) -> Take:
    known = desk.details.get(row.id)
    if known is None or known[0] != row.details:
        known = desk.details[row.id] = (row.details, Details.model_validate(row.details))
    return Take(
        id=row.id,
        channels=tuple(row.channels),
        purpose=row.purpose,
        method=row.method,
        rate=row.rate,
        timed=row.timed,
        details=known[1],
        revision_id=row.revision_id,
        note=row.note,
        discarded=row.discarded,
        created=row.created,
    )


def through(desk: Desk, one: Take) -> Tune:
    """The tune that a take went through."""
    if one.id not in desk.through:
        with desk.session() as session:
            found = session.scalar(select(TakeRow.through).where(TakeRow.id == one.id))
        desk.through[one.id] = Tune.model_validate(found)
    return desk.through[one.id]


def take(desk: Desk, slug: str, take_id: int) -> Take:
    """One take. Raises NotHereError."""
    with desk.session() as session:
        row = session.execute(select(*TAKE_COLUMNS).where(TakeRow.id == take_id)).one_or_none()
        if row is None or row.project_id != project_row(session, slug).id:
            raise NotHereError(f"there is no take {take_id} in this project")
        return _as_take(desk, row)


def discard(desk: Desk, slug: str, take_id: int, discarded: bool) -> None:
    """Set a take aside, or bring it back; its arrays stay either way. Raises ConflictError for a locked one."""
    take(desk, slug, take_id)
    if discarded and (documents.read(desk, f"looks:{slug}") or {}).get(str(take_id), {}).get("locked"):
        raise ConflictError(f"take {take_id} is locked: unlock it before it is set aside")
    with desk.lock, desk.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.discarded = discarded


def arrays(desk: Desk, take_id: int) -> tuple[dict[str, FloatArray], int]:
    """The arrays of a take by role, and its sample rate."""
    with desk.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        found = session.scalars(select(ArrayRow).where(ArrayRow.take_id == take_id)).all()
        return {one.role: unpack(one.data) for one in found}, row.rate


def reading(desk: Desk, one: Take) -> Reading:
    """What a take shows, computed once and remembered: microphone and interface divided out, at its own level."""
    known = desk.readings.get(one.id)
    if known is None:
        data, rate = arrays(desk, one.id)
        known = desk.readings[one.id] = mended(desk, one.details, one.method, one.timed, _read(one, data, rate))
    return known


def mended(desk: Desk, details: Details, method: Method, timed: bool, shows: Reading) -> Reading:
    """A reading with the microphone's correction and the interface's own response divided out, and its level set."""
    if method in ("text", "impulse"):
        return shows
    values = shows.response
    if details.correction is not None:
        values = values / corrections.on_grid(desk, details.correction)
    if details.check is not None:
        own = rig.check_curve(desk, details.check, against_reference=timed and details.clock == "loopback")
        values = values if own is None else values / (own if timed else np.abs(own))
    if details.full_scale_db_spl is not None:
        values = values * ratio(details.full_scale_db_spl - NOMINAL_FULL_SCALE)
    return replace(shows, response=values)


def mended_impulse(desk: Desk, one: Take) -> Impulse:
    """The impulse response of a take with microphone and interface divided out, computed once.

    What they add is held constant beyond 20 Hz and 20 kHz.
    """
    if one.id not in desk.impulses:
        desk.impulses[one.id] = _mended_impulse(desk, one)
    return desk.impulses[one.id]


def _mended_impulse(desk: Desk, one: Take) -> Impulse:
    shows = reading(desk, one).impulse
    if one.method == "impulse":
        return shows
    hertz = scipy.fft.rfftfreq(shows.samples.size, 1 / shows.rate)
    adds = np.ones(hertz.size, dtype=complex)
    at = np.clip(hertz, desk.grid[0], desk.grid[-1])
    if one.details.correction is not None:
        adds *= corrections.correction(desk, one.details.correction).curve.on(at)
    if one.details.check is not None:
        own = rig.check_curve(desk, one.details.check, against_reference=one.clock == "loopback")
        if own is not None:
            adds *= np.interp(at, desk.grid, own.real) + 1j * np.interp(at, desk.grid, own.imag)
    if one.details.full_scale_db_spl is not None:
        adds /= ratio(one.details.full_scale_db_spl - NOMINAL_FULL_SCALE)
    samples = scipy.fft.irfft(scipy.fft.rfft(shows.samples) / adds, shows.samples.size)
    return Impulse(samples, shows.rate, shows.zero)


def _read(one: Take, data: dict[str, FloatArray], rate: int) -> Reading:
    if one.method in ("text", "moving", "average"):
        values = data["response"][0] + 1j * data["response"][1]
        silent = Impulse(np.zeros(2), rate)
        over = data["over"] if "over" in data else np.full(values.size, 120.0)
        return Reading(silent, values, over, 0.0, 0.0, one.timed)
    if one.method == "impulse":
        return read_impulse(Impulse(data["impulse"], rate, round(EARLY_S * rate)), one.timed)
    if one.details.quiet_s or one.details.marker:
        by_loopback = one.timed and one.details.clock == "loopback"
        return read_schedule(data["microphone"], data["reference"] if by_loopback else None, one.details.schedule(rate))
    if one.timed:
        return read_recording(data["microphone"], data["reference"], rate, timed=True)
    return untimed(data["microphone"], data["reference"], rate)


def set_correction(desk: Desk, slug: str, take_id: int, correction: int | None) -> None:
    """Choose another microphone correction for a take that is there, or none."""
    take(desk, slug, take_id)
    if correction is not None:
        corrections.correction(desk, correction)
    with desk.lock, desk.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.details = {**row.details, "correction": correction}
    memories: tuple[dict[int, Any], ...] = (desk.readings, desk.bare, desk.details, desk.impulses, desk.maps)
    for memory in memories:
        memory.pop(take_id, None)


def set_angle(desk: Desk, slug: str, take_id: int, angle: float | None) -> None:
    """Say from which angle off the axis, in degrees, a take heard its driver. None: not told."""
    take(desk, slug, take_id)
    with desk.lock, desk.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.details = {**row.details, "angle": angle}


def set_note(desk: Desk, slug: str, take_id: int, note: str) -> None:
    """Write what should be known about a take."""
    take(desk, slug, take_id)
    with desk.lock, desk.session() as session:
        row = session.get(TakeRow, take_id)
        assert row is not None
        row.note = note.strip()


def untimed(microphone: FloatArray, stimulus: FloatArray, rate: int) -> Reading:
    """Without a common clock the arrival means nothing: it is put a little after time zero."""
    impulse = deconvolve(microphone, stimulus, rate, zero=0)
    shift = round(arrival(impulse) * rate) - round(EARLY_S * rate)
    rolled = Impulse(np.roll(impulse.samples, -shift), rate, round(EARLY_S * rate))
    return read_impulse(rolled, timed=False)


def bare(desk: Desk, one: Take) -> ComplexArray:
    """The take (n,) with the processor's filters divided out; NaN where it shows nothing."""
    known = desk.bare.get(one.id)
    if known is None:
        known = desk.bare[one.id] = without_filters(reading(desk, one).response, filters(desk, one))
    return known


def filters(desk: Desk, one: Take) -> ComplexArray:
    """The response (n,) of the processor's channel that a driver's take went through."""
    tune = through(desk, one)
    return desk.predictor.channel(tune.channels[one.channels[0]], tune.common)


def band(desk: Desk, one: Take) -> tuple[float, float]:
    """Usable band of a driver's take in hertz."""
    return usable_band(bare(desk, one), desk.grid)
