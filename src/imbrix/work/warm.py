"""What a fresh server does while the browser is still loading the page: read the takes that will be drawn."""

import time

import scipy
from sqlalchemy import select

from imbrix.store.models import ProjectRow
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene

PAGE_S = 3.0
"""By then the first page is drawn, and what is loaded no longer keeps it waiting."""


def warm(space: Workspace) -> None:
    """Read the takes in force of every project, then load what recording will need."""
    with space.session() as session:
        slugs = list(session.scalars(select(ProjectRow.slug)))
    for slug in slugs:
        scene(space, slug)
    time.sleep(PAGE_S)
    assert scipy.signal
