"""A project file opened as a project of its own, elsewhere or beside the first: all of it, or nothing.

Numbers that the database gives (of takes, revisions, targets, microphone corrections) are new; whatever refers to them
is told the new ones. Everything else comes back as it was.
"""

import logging
from collections.abc import Callable, Sequence
from datetime import datetime
from itertools import groupby
from typing import Any, BinaryIO, get_args

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from imbrix.core.errors import BadFileError, ConflictError, ImbrixError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.tune import Tune
from imbrix.formats.project_file import ProjectFile
from imbrix.store.arrays import compress
from imbrix.store.models import ArrayRow, CorrectionRow, DocumentRow, ProjectRow, RevisionRow, TakeRow, TargetRow
from imbrix.work.ground import documents
from imbrix.work.ground.projects import free_slug, remove_project
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.handover.project_parts import (
    SHARED,
    CorrectionPart,
    DocumentsPart,
    Json,
    ProjectPart,
    RevisionPart,
    TakePart,
    TargetPart,
)
from imbrix.work.takes.shelf import Details, Method, Purpose

LOG = logging.getLogger("imbrix.project-file")
Look = Callable[[Workspace, str], object]
OPENING = "opening:"
"""Of a project that is being opened there is a document under this: what a kill leaves of it goes at the next start."""


def open_file(space: Workspace, file: BinaryIO, name: str = "", looks: Sequence[Look] = ()) -> str:
    """Open a project file as a project of its own; its address. Raises BadFileError, and nothing is kept then.

    `looks` is what a page asks of a project: one that cannot be looked at is refused, too.
    """
    read = _Read(ProjectFile(file))
    wanted = name.strip()[:80] or read.project.name
    with space.lock:
        with space.session() as session:
            slug = free_slug(session, wanted)
        space.making.add(slug)
        documents.write(space, f"{OPENING}{slug}", {})
    try:
        read.keep(space, slug, wanted)
        space.making.discard(slug)
        for look in looks:
            look(space, slug)
    except (ImbrixError, KeyError, TypeError, ValueError, AttributeError) as error:
        remove_project(space, slug)
        if isinstance(error, BadFileError):
            raise
        # Small documents are checked by whoever reads them, and by nobody else.
        LOG.warning("a project file was refused", exc_info=error)
        told = str(error) if isinstance(error, ImbrixError) else "it holds what none of its readers can use"
        raise BadFileError(f"the project file cannot be used: {told}") from None
    except BaseException:
        remove_project(space, slug)
        raise
    finally:
        # Whatever came of it: a mark that stays would take a later project of this address away at the next start.
        documents.remove(space, f"{OPENING}{slug}")
        space.making.discard(slug)
        space.changed()
    LOG.info("%s: opened from a file with %d takes", slug, len(read.takes))
    return slug


def clear_halves(space: Workspace) -> None:
    """Remove what a kill left of a project that was being opened."""
    with space.session() as session:
        halves = list(session.scalars(select(DocumentRow.key).where(DocumentRow.key.startswith(OPENING))))
    for key in halves:
        remove_project(space, key.removeprefix(OPENING))
        documents.remove(space, key)


class _Read:
    """What a file holds, checked as far as it can be without keeping it."""

    def __init__(self, file: ProjectFile) -> None:
        self._file = file
        self.project = self._rows(ProjectPart, "project.json")
        self.revisions = self._rows(list[RevisionPart], "revisions.json")
        self.takes = self._rows(list[TakePart], "takes.json")
        self.targets = self._rows(list[TargetPart], "targets.json")
        self.corrections = self._rows(list[CorrectionPart], "corrections.json")
        self.documents = self._rows(DocumentsPart, "documents.json")
        self.arrays = file.arrays()
        self._refer()

    def _rows(self, kind: Any, name: str) -> Any:
        try:
            return TypeAdapter(kind).validate_python(self._file.document(name))
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"])
            raise BadFileError(f"{name} of the project file cannot be used ({where}: {first['msg']})") from None

    def _refer(self) -> None:
        """Raise BadFileError where something refers to what is not there, or means what this version does not know."""
        revisions, takes = {one.id for one in self.revisions}, {one.id for one in self.takes}
        corrections = {one.id for one in self.corrections}
        if len(revisions) < len(self.revisions) or len(takes) < len(self.takes):
            raise BadFileError("the project file has two takes or two revisions of one number")
        asked = {self.project.head, *(one.revision for one in self.takes)}
        asked |= {one for each in self.revisions for one in (each.parent, each.next) if one is not None}
        if not asked <= revisions:
            raise BadFileError(f"the project file is not whole: revision {min(asked - revisions)} is missing")
        if not {take for take, _role, _name in self.arrays} == takes:
            raise BadFileError("the project file is not whole: a take has no samples, or samples have no take")
        try:
            layout = stored(Layout, self.project.layout, "the system of the project")
            for each in self.revisions:
                stored(Tune, each.tune, f"revision {each.number}")
            for one in self.takes:
                stored(Tune, one.through, f"what take {one.id} went through")
                details = stored(Details, one.details, f"take {one.id}")
                if details.correction is not None and details.correction not in corrections:
                    raise BadFileError(f"the project file is not whole: take {one.id} lacks its microphone correction")
                if one.purpose not in get_args(Purpose) or one.method not in get_args(Method):
                    raise BadFileError(
                        f"take {one.id} of the project file is of a kind that this version does not know"
                    )
        except ConflictError as error:
            raise BadFileError(f"the project file cannot be used: {error}") from None
        if not layout.drivers:
            raise BadFileError("the project file has a system without drivers")

    def keep(self, space: Workspace, slug: str, name: str) -> None:
        """Write all of it, the samples of one take at a time. The project counts only when this has returned."""
        with space.lock, space.session() as session:
            project = ProjectRow(slug=slug, name=name, layout=self.project.layout, created=_plain(self.project.created))
            session.add(project)
            session.flush()
            targets = self._keep_targets(session, project.id)
            revisions = self._keep_revisions(session, project.id, targets)
            project.head_id = revisions[self.project.head]
            takes = self._keep_takes(session, project.id, revisions, targets)
            for kind, value in self.documents.own.items():
                told = _retold(kind, value, takes, revisions, targets)
                session.merge(DocumentRow(key=f"{kind}:{slug}", value=told))
        for take, group in groupby(sorted(self.arrays), key=lambda one: one[0]):
            # Read and packed before the lock is asked for: nobody waits for that.
            packed = [(role, compress(self._file.array(member))) for _take, role, member in group]
            with space.lock, space.session() as session:
                session.add_all(ArrayRow(take_id=takes[take], role=role, data=data) for role, data in packed)

    def _keep_targets(self, session: Session, project: int) -> dict[str, str]:
        made = {}
        for one in self.targets:
            row = TargetRow(project_id=project, name=one.name, frequencies=one.frequencies, levels=one.levels)
            session.add(row)
            session.flush()
            made[f"own-{one.id}"] = f"own-{row.id}"
        return made

    def _keep_corrections(self, session: Session) -> dict[int, int]:
        """Corrections by their number; one that is there already, the same in every value, is not kept twice."""
        there = list(session.scalars(select(CorrectionRow)))
        made = {}
        for one in self.corrections:
            values = one.model_dump(exclude={"id", "created"})
            same = next((row for row in there if all(getattr(row, key) == values[key] for key in values)), None)
            if same is None:
                same = CorrectionRow(**values, created=_plain(one.created))
                session.add(same)
                session.flush()
            made[one.id] = same.id
        return made

    def _keep_shared(self, session: Session) -> dict[str, str]:
        """Documents that takes name, by their old key; under another where there is a different one of that name."""
        made = {}
        for key, value in self.documents.shared.items():
            new, n = key, 2
            while (row := session.get(DocumentRow, new)) is not None and row.value != value:
                new, n = f"{key}-{n}", n + 1
            if key.split(":")[0] not in SHARED.values():
                raise BadFileError(f"documents.json of the project file holds {key[:40]!r}, which no take refers to")
            session.merge(DocumentRow(key=new, value=value))
            session.flush()
            made[key] = new
        return made

    def _keep_revisions(self, session: Session, project: int, targets: dict[str, str]) -> dict[int, int]:
        rows = {}
        for one in self.revisions:
            row = RevisionRow(
                project_id=project,
                number=one.number,
                summary=one.summary,
                name=one.name,
                tune=_aimed(one.tune, targets),
                created=_plain(one.created),
            )
            session.add(row)
            rows[one.id] = row
        session.flush()
        made = {old: row.id for old, row in rows.items()}
        for one in self.revisions:
            rows[one.id].parent_id = made.get(one.parent)
            rows[one.id].next_id = made.get(one.next)
        session.flush()
        return made

    def _keep_takes(
        self, session: Session, project: int, revisions: dict[int, int], targets: dict[str, str]
    ) -> dict[int, int]:
        corrections, shared = self._keep_corrections(session), self._keep_shared(session)
        rows = {}
        for one in sorted(self.takes, key=lambda one: one.id):
            details = dict(one.details)
            if details.get("correction") is not None:
                details["correction"] = corrections[details["correction"]]
            for field, kind in SHARED.items():
                key = f"{kind}:{details.get(field)}"
                if key in shared:
                    details[field] = shared[key].removeprefix(f"{kind}:")
            rows[one.id] = TakeRow(
                project_id=project,
                revision_id=revisions[one.revision],
                details=details,
                through=_aimed(one.through, targets),
                created=_plain(one.created),
                **one.model_dump(exclude={"id", "revision", "details", "through", "created"}),
            )
            session.add(rows[one.id])
            session.flush()
        made = {old: row.id for old, row in rows.items()}
        for row in rows.values():
            if row.details.get("of"):
                row.details = {**row.details, "of": [made[old] for old in row.details["of"] if old in made]}
        return made


def _aimed(tune: Json, targets: dict[str, str]) -> Json:
    """A tune that aims at the same curve under its new key."""
    aim = tune.get("target")
    if not isinstance(aim, dict) or aim.get("curve") not in targets:
        return tune
    return {**tune, "target": {**aim, "curve": targets[aim["curve"]]}}


def _retold(kind: str, value: Json, takes: dict[int, int], revisions: dict[int, int], targets: dict[str, str]) -> Json:
    """A document of a project with the new numbers of what it refers to."""

    def take(old: Any) -> Any:
        return takes.get(old, old)

    retell: dict[str, Callable[[], Json]] = {
        "force": lambda: {name: {key: take(old) for key, old in mine.items()} for name, mine in value.items()},
        "looks": lambda: {str(take(int(old))): look for old, look in value.items() if old.isdigit()},
        "round": lambda: {
            **value, "turns": [{**one, "take_id": take(one.get("take_id"))} for one in value.get("turns", [])]
        },
        "image": lambda: {
            **value,
            "answers": [{**one, "revision": revisions.get(one["revision"], 0)} for one in value.get("answers", [])],
        },
        "audition": lambda: {**value, **{side: _version(value.get(side, "now"), revisions) for side in ("a", "b")}},
        "slots": lambda: {n: {**one, "tune": _aimed(one["tune"], targets)} for n, one in value.items()},
    }  # fmt: skip
    try:
        return retell[kind]() if kind in retell else value
    except (AttributeError, KeyError, TypeError, ValueError):
        raise BadFileError(f"what the project file holds as {kind!r} cannot be used") from None


def _version(key: str, revisions: dict[int, int]) -> str:
    kind, _, number = key.partition("-")
    return f"revision-{revisions[int(number)]}" if kind == "revision" and int(number) in revisions else key


def _plain(moment: datetime) -> datetime:
    """Moments are kept without a zone."""
    return moment.replace(tzinfo=None)
