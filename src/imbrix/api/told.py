"""What a first page asks for, as it was last: kept in the data folder, so that the next page can begin with it while
the program is still being loaded.

It is a copy that may be deleted. Where the folder or the program is another than when it was made, it is passed over;
and a page that was told so asks anew as soon as it hears from the program.
"""

import json
import logging
from base64 import b64decode, b64encode
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from imbrix.program import fingerprint
from imbrix.store.folder import DATABASE

if TYPE_CHECKING:
    from fastapi import FastAPI

NAME = "told.json"
Stamp = list[str | list[int]]
Answer = str | bytes
"""JSON, or the frame of a picture."""
LOG = logging.getLogger("imbrix.api")
MOST = 4
"""Of so many projects, the newest."""
BEFORE = -1
"""The version of a state that was kept: before every other."""


def told(folder: Path) -> dict[str, Answer]:
    """The answers that were kept, by address; none where they are not of this folder as it is."""
    try:
        kept = json.loads((folder / NAME).read_bytes())
        if kept["made"] != stamp(folder):
            return {}
        pages = {str(address): str(body) for address, body in kept["answers"].items()}
        return pages | {str(address): b64decode(body, validate=True) for address, body in kept["frames"].items()}
    except FileNotFoundError:
        return {}
    except (OSError, ValueError, LookupError, TypeError, AttributeError) as error:
        LOG.warning("%s is passed over: %s", NAME, error)
        return {}


def answers(app: "FastAPI") -> dict[str, Answer]:
    """What a first page would be told now, by address."""
    from imbrix.api.begins import first_frame
    from imbrix.api.plan import get_plan
    from imbrix.api.projects import get_grid, get_project, get_projects
    from imbrix.work.ground.projects import slugs

    space, recorder = app.state.space, app.state.recorder
    found: dict[str, Answer] = {"/api/grid": json.dumps(get_grid(space))}
    found["/api/projects"] = get_projects(space).model_dump_json()
    for slug in slugs(space)[-MOST:]:
        try:
            state = get_project(slug, space).model_copy(update={"version": BEFORE})
            plan = get_plan(slug, space, recorder)
            first = first_frame(space, slug)
        except Exception:  # whatever it is, a server that ends must not end in it
            LOG.exception("nothing of project %s is kept for the next page", slug)
            continue
        here = f"/api/projects/{slug}"
        found |= {here: state.model_dump_json(), f"{here}/plan": plan.model_dump_json(), f"{here}/begins": first}
    return found


def keep(folder: Path, found: Mapping[str, Answer], of: Stamp | None = None) -> None:
    """Write answers, in one step. They are `of` the folder as it was then; as it is now where nothing writes to it."""
    path = folder / NAME
    part = path.with_suffix(".part")
    pages = {address: body for address, body in found.items() if isinstance(body, str)}
    frames = {address: b64encode(body).decode() for address, body in found.items() if isinstance(body, bytes)}
    try:
        part.write_text(json.dumps({"made": stamp(folder) if of is None else of, "answers": pages, "frames": frames}))
        part.replace(path)
    except OSError as error:
        LOG.warning("%s was not written: %s", NAME, error)
        part.unlink(missing_ok=True)


def stamp(folder: Path) -> Stamp:
    """What tells the program and the files of the folder from others."""
    files = [folder / name for name in (DATABASE, f"{DATABASE}-wal", "processor-memory.json")]
    stats = [one.stat() for one in files if one.exists()]
    return [fingerprint(), *([one.st_size, one.st_mtime_ns] for one in stats)]
