"""Projects: listed, begun from a layout, and their systems changed later."""

import re
from typing import Any

from sqlalchemy import func, select

from imbrix.core.layout import Layout
from imbrix.core.layouts import CAUTIOUS_CORNER_HZ, remarks
from imbrix.core.tune import Crossover, Tune, neutral
from imbrix.store.models import ProjectRow, TakeRow
from imbrix.work.desk import ConflictError, Desk, project_row
from imbrix.work.tuning import create_project


def projects(desk: Desk) -> list[dict[str, Any]]:
    """All projects, newest first."""
    with desk.session() as session:
        counts = dict(session.execute(select(TakeRow.project_id, func.count()).group_by(TakeRow.project_id)).all())
        rows = session.scalars(select(ProjectRow).order_by(ProjectRow.id.desc())).all()
        return [
            {
                "slug": row.slug,
                "name": row.name,
                "drivers": len(row.layout["drivers"]),
                "takes": counts.get(row.id, 0),
                "created": row.created.isoformat(),
            }
            for row in rows
        ]


def begin(desk: Desk, name: str, layout: Layout) -> str:
    """A new project with cautious corners; returns its slug. Raises ConflictError for a layout that cannot be."""
    name = name.strip()
    if not name:
        raise ValueError("a project needs a name")
    _bar(desk, layout)
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "project"
    with desk.session() as session:
        taken = set(session.scalars(select(ProjectRow.slug)))
    slug, n = base, 2
    while slug in taken:
        slug, n = f"{base}-{n}", n + 1
    create_project(desk, slug, name, layout, starting(layout))
    return slug


def starting(layout: Layout) -> Tune:
    """Neutral, with a cautious high-pass before every driver."""
    tune = neutral(layout)
    for driver in layout.drivers:
        end = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=CAUTIOUS_CORNER_HZ[driver.kind])
        tune = tune.with_channel(driver.id, high_pass=end)
    return tune


def change_layout(desk: Desk, slug: str, layout: Layout) -> None:
    """Give a project another layout. Takes of drivers that go stay on disk and come back with their driver.

    Raises ConflictError while something is recorded, or for a layout that cannot be.
    """
    _bar(desk, layout)
    if not desk.device.acquire(blocking=False):
        raise ConflictError("a recording is running: change the system when it has ended")
    try:
        with desk.lock, desk.session() as session:
            project_row(session, slug).layout = layout.model_dump(mode="json")
        desk.layouts.pop(slug, None)
    finally:
        desk.device.release()


def rename(desk: Desk, slug: str, name: str) -> None:
    """Call a project something else; its address stays."""
    if not name.strip():
        raise ValueError("a project needs a name")
    with desk.lock, desk.session() as session:
        project_row(session, slug).name = name.strip()[:80]


def _bar(desk: Desk, layout: Layout) -> None:
    barred = [one.says for one in remarks(layout, desk.processor.limits.outputs) if one.bars]
    if barred:
        raise ConflictError("; ".join(barred))
