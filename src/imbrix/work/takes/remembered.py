"""What the takes showed, kept beside the database: the next start need not read their recordings again.

Nothing here is anything but a copy: a file that is missing, damaged, of another program or of other takes is passed
over, and what it would have held is computed.
"""

import hashlib
import json
import logging
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import scipy
from sqlalchemy import select

import imbrix.core
import imbrix.work
from imbrix.core.errors import ImbrixError
from imbrix.core.evidence.band import DriverBand
from imbrix.core.evidence.onset import Onset
from imbrix.core.measure.reading import Shown
from imbrix.store.models import ProjectRow
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import corrections
from imbrix.work.takes.harmonics import CLEAN
from imbrix.work.takes.reading import BANDS, ONSETS, SHOWN
from imbrix.work.takes.shelf import Take, takes

NAME = "shown.npz"
LOG = logging.getLogger("imbrix.takes")
Told = dict[str, Any]
"""What is kept of one take but its curves."""


def bring(space: Workspace) -> None:
    """Remember what the file of the data folder holds of takes that are still as they were."""
    try:
        with np.load(space.folder / NAME, allow_pickle=False) as kept:
            told = json.loads(kept["told"].tobytes())
            responses, over = kept["responses"], kept["over"]
        if told["program"] != _program() or responses.shape != over.shape:
            return
        here = {str(one.id): one for one in _takes(space)}
        for (key, mine), response, noise in zip(told["takes"].items(), responses, over, strict=True):
            if key in here and response.shape == space.grid.shape and mine["made"] == _made(space, here[key]):
                _remember(space, here[key], mine, response, noise)
    except FileNotFoundError:
        return
    except (OSError, ValueError, TypeError, LookupError, EOFError, zipfile.BadZipFile) as error:
        LOG.warning("%s is passed over: %s", NAME, error)


def keep(space: Workspace) -> None:
    """Write what is remembered of the takes, in one step, where that is another than what the file holds."""
    found: dict[str, Told] = {}
    curves = []
    for one in _takes(space):
        shown = space.memory.peek(SHOWN, one.id)
        if shown is not None:
            found[str(one.id)] = _told(space, one, shown)
            curves.append(shown)
    told = json.dumps({"program": _program(), "takes": found}, default=np.generic.item).encode()
    path = space.folder / NAME
    if not curves or told == _there(path):
        return
    part = path.with_suffix(".part")
    try:
        with part.open("wb") as out:
            np.savez(
                out,
                told=np.frombuffer(told, np.uint8),
                responses=np.array([one.response for one in curves]),
                over=np.array([one.over_noise_db for one in curves]),
            )
        part.replace(path)
    except OSError as error:
        LOG.warning("%s was not written: %s", NAME, error)
        part.unlink(missing_ok=True)


def _told(space: Workspace, one: Take, shown: Shown) -> Told:
    told: Told = {"made": _made(space, one), "arrival_s": shown.arrival_s, "timed": shown.timed}
    band = space.memory.stamped(BANDS, one.id)
    if band is not None:
        stamp, it = band
        told["band"] = stamp, (it.low_hz, it.high_hz, it.low_octaves, it.high_octaves, it.misfit)
    comes = space.memory.stamped(ONSETS, one.id)
    if comes is not None:
        stamp, (onset,) = comes
        told["onset"] = stamp, onset and (onset.seconds, onset.off_s, onset.polarity, onset.clear)
    clean = space.memory.stamped(CLEAN, one.id)
    if clean is not None:
        told["clean"] = clean
    return told


def _remember(space: Workspace, one: Take, told: Told, response: np.ndarray, over: np.ndarray) -> None:
    put = space.memory.put
    put(SHOWN, one.id, Shown(response, over, told["arrival_s"], told["timed"]))
    if "band" in told:
        stamp, ends = told["band"]
        put(BANDS, one.id, DriverBand(*ends), tuple(stamp))
    if "onset" in told:
        stamp, comes = told["onset"]
        put(ONSETS, one.id, (comes and Onset(*comes),), tuple(stamp))
    if "clean" in told:
        stamp, (hertz,) = told["clean"]
        put(CLEAN, one.id, (hertz,), tuple(stamp))


def _takes(space: Workspace) -> Iterator[Take]:
    with space.session() as session:
        slugs = list(session.scalars(select(ProjectRow.slug)))
    for slug in slugs:
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


def _program() -> str:
    """What tells the program that computed from one that would compute something else."""
    found = hashlib.sha256(f"{np.__version__} {scipy.__version__}".encode())
    for part in (imbrix.core, imbrix.work):
        for path in sorted(Path(*part.__path__).rglob("*.py")):
            found.update(path.read_bytes())
    return found.hexdigest()


def _there(path: Path) -> bytes | None:
    try:
        with np.load(path, allow_pickle=False) as kept:
            return bytes(kept["told"].tobytes())
    except (OSError, ValueError, LookupError, EOFError, zipfile.BadZipFile):
        return None
