"""Projects: listed, begun from a layout, and their systems changed later."""

import re

from pydantic import BaseModel
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from imbrix.core.errors import ConflictError, InvalidError
from imbrix.core.system.layout import Layout
from imbrix.core.system.layouts import CAUTIOUS_CORNER_HZ
from imbrix.core.system.remarks import remarks
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Crossover, Tune, neutral
from imbrix.standins.places import shipped
from imbrix.store.models import ArrayRow, DocumentRow, ProjectRow, RevisionRow, TakeRow, TargetRow
from imbrix.work.ground import places, processors
from imbrix.work.ground.moments import Moment
from imbrix.work.ground.workspace import Workspace, project_row


class Listed(BaseModel):
    """A project in the list of them."""

    slug: str
    name: str
    drivers: int
    takes: int
    created: Moment


def projects(space: Workspace) -> list[Listed]:
    """All projects, newest first."""
    with space.session() as session:
        counts = dict(session.execute(select(TakeRow.project_id, func.count()).group_by(TakeRow.project_id)).all())
        rows = session.scalars(select(ProjectRow).order_by(ProjectRow.id.desc())).all()
        return [
            Listed(
                slug=row.slug,
                name=row.name,
                drivers=len(row.layout["drivers"]),
                takes=counts.get(row.id, 0),
                created=row.created,
            )
            for row in rows
            if row.slug not in space.making
        ]


def begin(space: Workspace, name: str, layout: Layout, processor: str = "six-by-eight", place: str = "van") -> str:
    """A new project with cautious corners on a model of processor, in a place or in none; returns its slug.

    Raises NotHereError for a model or a place that is not there, ConflictError for a layout that cannot be.
    """
    if place != places.NOWHERE:
        shipped.name(place)
    model = processors.one_model(space, processor)
    name = name.strip()
    if not name:
        raise InvalidError("a project needs a name")
    _bar(layout, model)
    with space.lock:  # of several that are begun at once under one name, each finds its own address
        with space.session() as session:
            slug = free_slug(session, name)
        create_project(space, slug, name, layout, model.fitted(starting(layout)))
        processors.give(space, slug, model)
        places.put(space, slug, place)
    return slug


def slugs(space: Workspace) -> list[str]:
    """The addresses of all projects, the oldest first."""
    with space.session() as session:
        return list(session.scalars(select(ProjectRow.slug).order_by(ProjectRow.id)))


def free_slug(session: Session, name: str) -> str:
    """An address for a project of a name that no other has."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "project"
    taken = set(session.scalars(select(ProjectRow.slug)))
    slug, n = base, 2
    while slug in taken:
        slug, n = f"{base}-{n}", n + 1
    return slug


def create_project(space: Workspace, slug: str, name: str, layout: Layout, tune: Tune | None = None) -> None:
    """A new project with its first revision: a neutral tune where no other is given."""
    with space.lock, space.session() as session:
        project = ProjectRow(slug=slug, name=name, layout=layout.model_dump(mode="json"))
        session.add(project)
        session.flush()
        first = RevisionRow(
            project_id=project.id,
            number=1,
            summary="New project",
            tune=(tune or neutral(layout)).model_dump(mode="json"),
        )
        session.add(first)
        session.flush()
        project.head_id = first.id


def starting(layout: Layout) -> Tune:
    """Neutral, with a cautious high-pass before every driver."""
    tune = neutral(layout)
    for driver in layout.drivers:
        end = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=CAUTIOUS_CORNER_HZ[driver.kind])
        tune = tune.with_channel(driver.id, high_pass=end)
    return tune


def change_layout(space: Workspace, slug: str, layout: Layout) -> None:
    """Give a project another layout. Takes of drivers that go stay on disk and come back with their driver.

    Raises ConflictError while something is recorded, or for a layout that cannot be.
    """
    with space.idle("a recording is running: change the system when it has ended"), space.lock:
        _bar(layout, processors.model(space, slug))
        with space.session() as session:
            project_row(session, slug).layout = layout.model_dump(mode="json")
        places.hang(space, slug, layout)


def rename(space: Workspace, slug: str, name: str) -> None:
    """Call a project something else; its address stays."""
    if not name.strip():
        raise InvalidError("a project needs a name")
    with space.lock, space.session() as session:
        project_row(session, slug).name = name.strip()[:80]


def documents_of(session: Session, slug: str) -> list[DocumentRow]:
    """The documents of a project: their keys are `kind:slug`."""
    rows = session.scalars(select(DocumentRow).where(DocumentRow.key.endswith(f":{slug}")))
    return [one for one in rows if one.key.partition(":")[2] == slug]


def remove_project(space: Workspace, slug: str) -> None:
    """Take a project off the disk with all its takes, revisions and documents; one that is not there is no matter."""
    with space.lock, space.session() as session:
        project = session.scalar(select(ProjectRow).where(ProjectRow.slug == slug))
        if project is None:
            return
        project.head_id = None
        session.flush()
        mine = select(TakeRow.id).where(TakeRow.project_id == project.id)
        for array in session.scalars(select(ArrayRow).where(ArrayRow.take_id.in_(mine))):
            session.delete(array)
        session.flush()
        for take in session.scalars(select(TakeRow).where(TakeRow.project_id == project.id)):
            session.delete(take)
        for target in session.scalars(select(TargetRow).where(TargetRow.project_id == project.id)):
            session.delete(target)
        session.flush()
        revisions = session.scalars(select(RevisionRow).where(RevisionRow.project_id == project.id)).all()
        for one in revisions:
            one.parent_id = one.next_id = None
        session.flush()
        for one in revisions:
            session.delete(one)
        session.flush()
        for document in documents_of(session, slug):
            session.delete(document)
        session.delete(project)


def _bar(layout: Layout, model: Limits) -> None:
    barred = [one for one in remarks(layout, model.outputs) if one.bars]
    if barred:
        ways = ", or ".join(way.says for one in barred for way in one.ways_out)
        raise ConflictError("; ".join(one.says for one in barred) + (f". To make room: {ways}" if ways else ""))
