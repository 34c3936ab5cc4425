"""Takes: kept, read, in force, discarded, and brought in from files."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

import numpy as np
from sqlalchemy import select

from imbrix.core.layout import Layout
from imbrix.core.measures import usable_band
from imbrix.core.reading import (
    EARLY_S,
    Reading,
    UnusableError,
    check_recording,
    read_impulse,
    read_recording,
)
from imbrix.core.response import arrival
from imbrix.core.signal import ComplexArray, FloatArray, Impulse, ratio
from imbrix.core.sweep import SweepSettings, deconvolve, exponential_sweep
from imbrix.core.tune import Tune, neutral
from imbrix.formats.text_curve import TextCurve
from imbrix.store.arrays import pack, unpack
from imbrix.store.models import ArrayRow, TakeRow
from imbrix.work.desk import Desk, NotHereError, project_row
from imbrix.work.tuning import head

Method = Literal["sweep", "file", "impulse", "text"]
Purpose = Literal["driver", "proof"]


@dataclass(frozen=True)
class Take:
    """What is known of a take without its arrays."""

    id: int
    channels: tuple[str, ...]
    purpose: Purpose
    method: Method
    timed: bool
    through: Tune
    revision_id: int
    note: str
    discarded: bool
    created: datetime


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
            note=note,
        )
        session.add(row)
        session.flush()
        session.add_all(ArrayRow(take_id=row.id, role=role, data=pack(array)) for role, array in arrays.items())
        return row.id


def takes(desk: Desk, slug: str) -> list[Take]:
    """All takes, newest first."""
    with desk.session() as session:
        project = project_row(session, slug)
        rows = session.scalars(
            select(TakeRow).where(TakeRow.project_id == project.id).order_by(TakeRow.id.desc())
        ).all()
        return [_as_take(row) for row in rows]


def _as_take(row: TakeRow) -> Take:
    return Take(
        id=row.id,
        channels=tuple(row.channels),
        purpose=row.purpose,  # type: ignore[arg-type]
        method=row.method,  # type: ignore[arg-type]
        timed=row.timed,
        through=Tune.model_validate(row.through),
        revision_id=row.revision_id,
        note=row.note,
        discarded=row.discarded,
        created=row.created,
    )


def take(desk: Desk, slug: str, take_id: int) -> Take:
    """One take. Raises NotHereError."""
    with desk.session() as session:
        row = session.get(TakeRow, take_id)
        if row is None or row.project_id != project_row(session, slug).id:
            raise NotHereError(f"there is no take {take_id} in this project")
        return _as_take(row)


def discard(desk: Desk, slug: str, take_id: int, discarded: bool) -> None:
    """Set a take aside, or bring it back; its arrays stay either way."""
    take(desk, slug, take_id)
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
    """What a take shows, computed once and remembered."""
    known = desk.readings.get(one.id)
    if known is None:
        data, rate = arrays(desk, one.id)
        known = desk.readings[one.id] = _read(desk, one, data, rate)
    return known


def _read(desk: Desk, one: Take, data: dict[str, FloatArray], rate: int) -> Reading:
    if one.method == "text":
        values = data["response"][0] + 1j * data["response"][1]
        silent = Impulse(np.zeros(2), rate)
        return Reading(silent, values, np.full(values.size, 120.0), 0.0, 0.0, one.timed)
    if one.method == "impulse":
        return read_impulse(Impulse(data["impulse"], rate, round(EARLY_S * rate)), one.timed)
    if one.timed:
        return read_recording(data["microphone"], data["reference"], rate, timed=True)
    return _untimed(data["microphone"], data["reference"], rate)


def _untimed(microphone: FloatArray, stimulus: FloatArray, rate: int) -> Reading:
    """Without a common clock the arrival means nothing: it is put a little after time zero."""
    impulse = deconvolve(microphone, stimulus, rate, zero=0)
    shift = round(arrival(impulse) * rate) - round(EARLY_S * rate)
    rolled = Impulse(np.roll(impulse.samples, -shift), rate, round(EARLY_S * rate))
    return read_impulse(rolled, timed=False)


def bare(desk: Desk, one: Take) -> ComplexArray:
    """The take (n,) with the processor's filters divided out; NaN where it shows nothing."""
    known = desk.bare.get(one.id)
    if known is None:
        channel = one.through.channels[one.channels[0]]
        known = reading(desk, one).response / desk.predictor.channel(channel, one.through.common)
        desk.bare[one.id] = known
    return known


def in_force(desk: Desk, slug: str) -> dict[str, Take]:
    """For each driver the take that predictions use: the latest that is not discarded."""
    found: dict[str, Take] = {}
    for one in takes(desk, slug):
        if one.purpose == "driver" and not one.discarded:
            found.setdefault(one.channels[0], one)
    return found


def band(desk: Desk, one: Take) -> tuple[float, float]:
    """Usable band of a driver's take in hertz."""
    return usable_band(bare(desk, one), desk.grid)


def add_recording(desk: Desk, slug: str, channel: str, samples: FloatArray, settings: SweepSettings, note: str) -> int:
    """A take from a recording (n, 1 or 2) made elsewhere of the sweep `settings`; column 1 is the loopback.

    Raises UnusableError where no take can be made of it; nothing is stored then.
    """
    desk.layout(slug).driver(channel)
    microphone = samples[:, 0]
    check_recording(microphone, settings.rate, settings.length / settings.rate)
    timed = samples.shape[1] > 1
    if timed:
        reference = samples[:, 1]
        if np.abs(reference).max() < 1e-4:
            raise UnusableError(
                "the second channel, which should be the loopback, is silent: leave it out or connect it"
            )
        read_recording(microphone, reference, settings.rate, timed=True)
    else:
        reference = exponential_sweep(settings).samples
        _untimed(microphone, reference, settings.rate)
    return _keep_from_outside(
        desk, slug, channel, "file", timed, settings.rate, {"microphone": microphone, "reference": reference}, note
    )


def add_impulse(desk: Desk, slug: str, channel: str, samples: FloatArray, rate: int, note: str) -> int:
    """A take from an impulse response (n,); its first sample is time zero."""
    desk.layout(slug).driver(channel)
    early = np.concatenate((np.zeros(round(EARLY_S * rate)), samples))
    if np.abs(samples).max() <= 0:
        raise UnusableError("the impulse response is silent")
    read_impulse(Impulse(early, rate, round(EARLY_S * rate)), timed=True)
    return _keep_from_outside(desk, slug, channel, "impulse", True, rate, {"impulse": early}, note)


def add_curve(desk: Desk, slug: str, channel: str, curve: TextCurve, note: str) -> int:
    """A take from a response as text, in dB SPL; without degrees it shows levels only."""
    desk.layout(slug).driver(channel)
    where = np.log2(curve.frequencies)
    grid = np.log2(desk.grid)
    levels = np.interp(grid, where, curve.levels, left=np.nan, right=np.nan)
    if np.isfinite(levels).sum() < 12:
        raise UnusableError(
            f"the curve runs from {curve.frequencies[0]:g} to {curve.frequencies[-1]:g} Hz: "
            "next to nothing of it lies between 20 Hz and 20 kHz"
        )
    phase = np.zeros(grid.size)
    if curve.degrees is not None:
        phase = np.interp(grid, where, np.unwrap(np.radians(curve.degrees)))
    values = ratio(levels - desk.offset_db) * np.exp(1j * phase)
    return _keep_from_outside(
        desk,
        slug,
        channel,
        "text",
        curve.degrees is not None,
        desk.interface.rate,
        {"response": np.stack((values.real, values.imag))},
        note,
    )


def _keep_from_outside(
    desk: Desk,
    slug: str,
    channel: str,
    method: Method,
    timed: bool,
    rate: int,
    arrays: dict[str, FloatArray],
    note: str,
) -> int:
    return keep(
        desk,
        slug,
        channels=(channel,),
        purpose="driver",
        method=method,
        timed=timed,
        through=neutral_full(desk.layout(slug)),
        rate=rate,
        arrays=arrays,
        note=note,
    )


def neutral_full(layout: Layout) -> Tune:
    """Neutral without guards: what material from outside is taken to have come through."""
    tune = neutral(layout)
    for driver in layout.drivers:
        tune = tune.with_channel(driver.id, high_pass=None)
    return tune
