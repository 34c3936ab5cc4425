"""What a fresh server does while the browser is still loading the page: read the takes that will be drawn; and, that
done, copy the database once a day, keep what the takes showed for the next start, and let the garbage collector alone
with what is there to stay."""

import gc
import logging
import sqlite3
from collections.abc import Callable
from datetime import datetime
from threading import Event

from imbrix.core.errors import ImbrixError
from imbrix.store.folder import copy_daily
from imbrix.work.ground.projects import slugs
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene
from imbrix.work.takes import remembered

LOG = logging.getLogger("imbrix.start")
PAGE_S = 3.0
"""By then the first page is drawn, and what is loaded no longer keeps it waiting."""


def warm(space: Workspace, ended: Event | None = None) -> None:
    """Read the takes in force of every project, then copy the database, and keep what the takes showed.

    Where the server has `ended` by then, the rest is left to the next start.
    """
    ended = ended or Event()
    known = slugs(space)
    _for_each(known, lambda slug: scene(space, slug))
    if ended.wait(PAGE_S):
        return
    from imbrix.work.state.project import project_state  # a first picture does not wait for it

    _for_each(known, lambda slug: project_state(space, slug))
    try:
        copy_daily(space.folder, datetime.now())
    except (OSError, sqlite3.Error) as error:
        LOG.warning("the database was not copied: %s", error)
    remembered.keep(space)
    # To look through all that was loaded for garbage would hold everything up for a tenth of a second, time and again.
    gc.freeze()


def _for_each(known: list[str], look: Callable[[str], object]) -> None:
    for slug in known:
        try:
            look(slug)
        except ImbrixError as error:
            LOG.warning("project %s: %s", slug, error)
