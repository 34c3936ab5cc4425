"""What a fresh server does while the browser is still loading the page: read the takes that will be drawn."""

import scipy
from sqlalchemy import select

from imbrix.store.models import ProjectRow
from imbrix.work.desk import Desk
from imbrix.work.prediction import scene


def warm(desk: Desk) -> None:
    """Read the takes in force of every project, then load what recording will need."""
    with desk.session() as session:
        slugs = list(session.scalars(select(ProjectRow.slug)))
    for slug in slugs:
        scene(desk, slug)
    assert scipy.signal
