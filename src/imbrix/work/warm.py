"""What a fresh server does while the browser is still loading the page: read the takes that will be drawn; and, that
done, copy the database once a day and let the garbage collector alone with what is there to stay."""

import gc
import logging
import sqlite3
import time
from datetime import datetime

import scipy
from sqlalchemy import select

from imbrix.core.errors import ImbrixError
from imbrix.store.folder import copy_daily
from imbrix.store.models import ProjectRow
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene

LOG = logging.getLogger("imbrix.start")
PAGE_S = 3.0
"""By then the first page is drawn, and what is loaded no longer keeps it waiting."""


def warm(space: Workspace) -> None:
    """Read the takes in force of every project, then copy the database, and load what recording will need."""
    with space.session() as session:
        slugs = list(session.scalars(select(ProjectRow.slug)))
    for slug in slugs:
        try:
            scene(space, slug)
        except ImbrixError as error:
            LOG.warning("project %s: %s", slug, error)
    time.sleep(PAGE_S)
    try:
        copy_daily(space.folder, datetime.now())
    except (OSError, sqlite3.Error) as error:
        LOG.warning("the database was not copied: %s", error)
    assert scipy.signal
    # To look through all that was loaded for garbage would hold everything up for a tenth of a second, time and again.
    gc.freeze()
