"""What the takes showed, kept beside the database: the next start need not read their recordings again.

Nothing here is anything but a copy: a file that is missing, damaged, of another program or of other takes is passed
over, and what it would have held is computed.
"""

import hashlib
import logging
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from pydantic import ConfigDict

from imbrix.core.errors import ImbrixError
from imbrix.core.evidence.band import DriverBand
from imbrix.core.evidence.onset import Onset
from imbrix.core.measure.reading import Shown
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.value import Value
from imbrix.program import fingerprint
from imbrix.work.ground.memory import Stamp
from imbrix.work.ground.projects import slugs
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import corrections
from imbrix.work.takes.harmonics import CLEAN
from imbrix.work.takes.reading import BANDS, ONSETS, SHOWN
from imbrix.work.takes.shelf import Take, takes

NAME = "shown.npz"
LOG = logging.getLogger("imbrix.takes")


class _Told(Value):
    """What is kept of one take but its curves; what was made under a stamp stands beside it."""

    made: str
    arrival_s: float
    timed: bool
    band: tuple[Stamp, DriverBand] | None
    onset: tuple[Stamp, tuple[Onset | None]] | None
    clean: tuple[Stamp, tuple[float | None]] | None


class _Kept(Value):
    """What is kept, by the numbers of takes in the order of the curves."""

    model_config = ConfigDict(ser_json_inf_nan="constants")

    program: str
    takes: dict[int, _Told]


def bring(space: Workspace) -> None:
    """Remember what the file of the data folder holds of takes that are still as they were."""
    there = _there(space.folder / NAME)
    if there is None:
        return
    data, responses, over = there
    try:
        kept = _Kept.model_validate_json(data)
        if kept.program != fingerprint() or responses.shape != over.shape or responses.shape[1:] != space.grid.shape:
            return
        here = {one.id: one for one in _takes(space)}
        for (number, told), response, noise in zip(kept.takes.items(), responses, over, strict=True):
            if number in here and told.made == _made(space, here[number]):
                _remember(space, number, told, response, noise)
    except ValueError as error:
        LOG.warning("%s is passed over: %s", NAME, error)


def keep(space: Workspace) -> None:
    """Write what is remembered of the takes, in one step, where that is another than what the file holds."""
    found: dict[int, _Told] = {}
    curves = []
    for one in _takes(space):
        shown = space.memory.peek(SHOWN, one.id)
        if shown is not None:
            found[one.id] = _told(space, one, shown)
            curves.append(shown)
    data = _Kept(program=fingerprint(), takes=found).model_dump_json().encode()
    path = space.folder / NAME
    there = _there(path)
    if not curves or (there is not None and there[0] == data):
        return
    part = path.with_suffix(".part")
    try:
        with part.open("wb") as out:
            np.savez(
                out,
                told=np.frombuffer(data, np.uint8),
                responses=np.array([one.response for one in curves]),
                over=np.array([one.over_noise_db for one in curves]),
            )
        part.replace(path)
    except OSError as error:
        LOG.warning("%s was not written: %s", NAME, error)
        part.unlink(missing_ok=True)


def _there(path: Path) -> tuple[bytes, ComplexArray, FloatArray] | None:
    """What a file holds, the curves (k, n); None where there is none that can be read."""
    try:
        with np.load(path, allow_pickle=False) as kept:
            return kept["told"].tobytes(), kept["responses"], kept["over"]
    except FileNotFoundError:
        return None
    except (OSError, ValueError, LookupError, EOFError, zipfile.BadZipFile) as error:
        LOG.warning("%s is passed over: %s", NAME, error)
        return None


def _told(space: Workspace, one: Take, shown: Shown) -> _Told:
    return _Told(
        made=_made(space, one),
        arrival_s=shown.arrival_s,
        timed=shown.timed,
        band=space.memory.stamped(BANDS, one.id),
        onset=space.memory.stamped(ONSETS, one.id),
        clean=space.memory.stamped(CLEAN, one.id),
    )


def _remember(space: Workspace, number: int, told: _Told, response: ComplexArray, over: FloatArray) -> None:
    put = space.memory.put
    put(SHOWN, number, Shown(response, over, told.arrival_s, told.timed))
    if told.band is not None:
        put(BANDS, number, told.band[1], told.band[0])
    if told.onset is not None:
        put(ONSETS, number, told.onset[1], told.onset[0])
    if told.clean is not None:
        put(CLEAN, number, told.clean[1], told.clean[0])


def _takes(space: Workspace) -> Iterator[Take]:
    for slug in slugs(space):
        try:
            yield from (one for one in takes(space, slug) if one.acoustic)
        except ImbrixError as error:
            LOG.warning("project %s: %s", slug, error)


def _made(space: Workspace, one: Take) -> str:
    """What tells a take as it is from another under its number, in a copy of the database that was put back, and from
    itself with another correction."""
    by = one.details.correction
    try:
        divided = "" if by is None else repr(corrections.correction(space, by).created)
    except ImbrixError:
        divided = "none"
    parts = (one.created, one.channels, one.purpose, one.method, one.rate, one.timed, divided)
    return hashlib.sha256(f"{parts!r}{one.details.model_dump_json()}".encode()).hexdigest()
