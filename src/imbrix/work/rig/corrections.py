"""Microphone corrections: kept, read, made."""

import re
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy import select

from imbrix.core.errors import BadFileError, NotHereError
from imbrix.core.measure.microphone import Correction
from imbrix.core.signal.signal import ComplexArray
from imbrix.formats.text_curve import read_curve, write_curve
from imbrix.store.models import CorrectionRow
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace

_SENSITIVITY = re.compile(r"sensitivity\s*[:=]?\s*([+-]?\d+(?:[.,]\d+)?\s*[^\n\r\"]{0,24})", re.IGNORECASE)
_DBFS = re.compile(r"^([+-]?\d+(?:[.,]\d+)?)\s*dBFS\s*/\s*Pa", re.IGNORECASE)
PASCAL_DB_SPL = 93.9794
MOST_DB = 100.0
ALL: Drawer[str, "list[Kept]"] = Drawer("corrections", 1)
ON_GRID: Drawer[int, ComplexArray] = Drawer("corrections on the grid", 64)


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


def corrections(space: Workspace) -> list[Kept]:
    """All corrections, oldest first."""

    def read() -> list[Kept]:
        with space.session() as session:
            return [_as_kept(row) for row in session.scalars(select(CorrectionRow).order_by(CorrectionRow.id))]

    return space.recall(ALL, "", (CorrectionRow,), read)


def correction(space: Workspace, correction_id: int) -> Kept:
    """One correction. Raises NotHereError."""
    for one in corrections(space):
        if one.id == correction_id:
            return one
    raise NotHereError(f"there is no microphone correction {correction_id}")


def on_grid(space: Workspace, correction_id: int) -> ComplexArray:
    """A correction on the common grid (n,), computed once."""
    return space.recall(
        ON_GRID, correction_id, (CorrectionRow,), lambda: correction(space, correction_id).curve.on(space.grid)
    )


def bring(space: Workspace, name: str, pointing: str, data: bytes) -> tuple[int, str]:
    """Keep a correction file: its id, and how its text was understood. Raises BadFileError with the line that is
    wrong."""
    curve = read_curve(data, least_rows=2)
    found = _SENSITIVITY.search(data[:4000].decode("utf-8", "replace"))
    stated = found.group(1).strip() if found else ""
    kept = Correction(curve.frequencies, curve.levels, curve.degrees)
    return add(space, name, pointing, "file", kept, stated), curve.understood


def add(space: Workspace, name: str, pointing: str, origin: str, curve: Correction, sensitivity: str = "") -> int:
    """Keep a correction; on disk when its id returns. Raises BadFileError where no level can be corrected with it."""
    worst = float(np.abs(curve.levels).max())
    if not worst <= MOST_DB:
        raise BadFileError(f"the file says {worst:g} dB: no microphone is {MOST_DB:g} dB off")
    with space.lock, space.session() as session:
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
