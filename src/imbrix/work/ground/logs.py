"""What happened, in the data folder: a rotating log of a line a take, change, send and error; and a file for a bug
report, without sound."""

import io
import json
import logging
import logging.handlers
import platform
import sys
import zipfile
from importlib.metadata import version
from pathlib import Path
from typing import Any

from sqlalchemy import func, select

from imbrix.store.models import ArrayRow, CorrectionRow, DocumentRow, ProjectRow, RevisionRow, TakeRow
from imbrix.work.ground.workspace import Workspace

NAME = "imbrix.log"
MOST_BYTES, KEPT = 1_000_000, 3
FORMAT = "%(asctime)s %(levelname)s %(name)s: %(message)s"
PACKAGES = ("fastapi", "numpy", "pydantic", "scipy", "soundfile", "soxr", "sqlalchemy", "starlette", "uvicorn")


def log_to(folder: Path) -> logging.Handler:
    """Log what Imbrix does to a file in the data folder from now on; returns the handler, to be closed."""
    folder.mkdir(parents=True, exist_ok=True)
    handler = logging.handlers.RotatingFileHandler(
        folder / NAME, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8"
    )
    handler.setFormatter(logging.Formatter(FORMAT))
    log = logging.getLogger("imbrix")
    log.setLevel(logging.INFO)
    log.addHandler(handler)
    return handler


def diagnostics(space: Workspace) -> bytes:
    """A zip for a bug report: versions, counts, what is remembered, the rig, the log. No sound, no curves."""
    with space.session() as session:
        tables = (ProjectRow, RevisionRow, TakeRow, ArrayRow, CorrectionRow, DocumentRow)
        counts = {one.__tablename__: session.scalar(select(func.count()).select_from(one)) for one in tables}
        rig = session.get(DocumentRow, "rig")
        chosen = session.scalars(select(DocumentRow).where(DocumentRow.key.startswith("processor:"))).all()
    about: dict[str, Any] = {
        "imbrix": version("imbrix"),
        "python": sys.version,
        "system": platform.platform(),
        "packages": {name: version(name) for name in PACKAGES},
        "rows": counts,
        "remembered": space.memory.sizes(),
        "changes": space.version,
        "processors": {one.key: one.value for one in chosen},
        "rig": rig.value if rig else None,
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("about.json", json.dumps(about, indent=2))
        for path in sorted(space.folder.glob(f"{NAME}*")):
            package.write(path, path.name)
    return out.getvalue()
