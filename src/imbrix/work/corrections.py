"""Microphone corrections: kept, read, made."""

import re
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy import select

from imbrix.core.microphone import Correction
from imbrix.core.signal import ComplexArray
from imbrix.formats.text_curve import read_curve, write_curve
from imbrix.store.models import CorrectionRow
from imbrix.work.desk import Desk, NotHereError

_SENSITIVITY = re.compile(r"sensitivity\s*[:=]?\s*([+-]?\d+(?:[.,]\d+)?\s*[^\n\r\"]{0,24})", re.IGNORECASE)
_DBFS = re.compile(r"^([+-]?\d+(?:[.,]\d+)?)\s*dBFS\s*/\s*Pa", re.IGNORECASE)
PASCAL_DB_SPL = 93.9794


@dataclass(frozen=True)
class Kept:
    """A correction with what is known of it; `full_scale_db_spl` where the sheet states dBFS per pascal."""

    id: int
    name: str
    pointing: str
    origin: str
    sensitivity: str
    full_scale_db_spl: float | None
    created: datetime
    curve: Correction


def _as_kept(row: CorrectionRow) -> Kept:
    stated = _DBFS.match(row.sensitivity)
    degrees = None if row.degrees is None else np.array(row.degrees)
    return Kept(
        row.id,
        row.name,
        row.pointing,
        row.origin,
        row.sensitivity,
        PASCAL_DB_SPL - float(stated.group(1).replace(",", ".")) if stated else None,
        row.created,
        Correction(np.array(row.frequencies), np.array(row.levels), degrees),
    )


def corrections(desk: Desk) -> list[Kept]:
    """All corrections, oldest first."""
    with desk.session() as session:
        return [_as_kept(row) for row in session.scalars(select(CorrectionRow).order_by(CorrectionRow.id))]


def correction(desk: Desk, correction_id: int) -> Kept:
    """One correction. Raises NotHereError."""
    with desk.session() as session:
        row = session.get(CorrectionRow, correction_id)
        if row is None:
            raise NotHereError(f"there is no microphone correction {correction_id}")
        return _as_kept(row)


def on_grid(desk: Desk, correction_id: int) -> ComplexArray:
    """A correction on the common grid (n,), computed once."""
    if correction_id not in desk.corrections:
        desk.corrections[correction_id] = correction(desk, correction_id).curve.on(desk.grid)
    return desk.corrections[correction_id]


def bring(desk: Desk, name: str, pointing: str, data: bytes) -> int:
    """Keep a correction file. Raises BadFileError with the line that is wrong."""
    curve = read_curve(data, least_rows=2)
    found = _SENSITIVITY.search(data[:4000].decode("utf-8", "replace"))
    stated = found.group(1).strip() if found else ""
    return add(desk, name, pointing, "file", Correction(curve.frequencies, curve.levels, curve.degrees), stated)


def add(desk: Desk, name: str, pointing: str, origin: str, curve: Correction, sensitivity: str = "") -> int:
    """Keep a correction; on disk when its id returns."""
    with desk.lock, desk.session() as session:
        row = CorrectionRow(
            name=name.strip()[:80] or "Microphone",
            pointing=pointing,
            origin=origin,
            frequencies=curve.frequencies.tolist(),
            levels=curve.levels.tolist(),
            degrees=None if curve.degrees is None else curve.degrees.tolist(),
            sensitivity=sensitivity[:40],
        )
        session.add(row)
        session.flush()
        return row.id


def as_text(kept: Kept) -> str:
    """A correction as a text file: hertz, dB, degrees where there are any."""
    return write_curve(kept.curve.frequencies, kept.curve.levels, kept.curve.degrees, kept.name)
