"""A project out into one file: all that the database holds of it, arrays one at a time."""

import zlib
from collections.abc import Iterator
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

import imbrix
from imbrix.formats import project_file
from imbrix.store.models import ArrayRow, CorrectionRow, DocumentRow, ProjectRow, RevisionRow, TakeRow, TargetRow
from imbrix.work.ground.projects import documents_of
from imbrix.work.ground.workspace import Workspace, project_row
from imbrix.work.handover.project_parts import (
    SHARED,
    CorrectionPart,
    Json,
    Part,
    ProjectPart,
    RevisionPart,
    TakePart,
    TargetPart,
)
from imbrix.work.handover.without_sound import Light, lightened

NOT_TAKEN = ("journal", "opening")


def members(space: Workspace, slug: str, sound: bool = True) -> Iterator[tuple[str, bytes]]:
    """Names and contents of a project's members, arrays one at a time; without `sound`, responses stand in the place of
    recordings. Raises NotHereError."""
    light = {} if sound else lightened(space, slug)
    with space.sessions() as session:  # one view of the database, whatever is changed meanwhile
        project = project_row(session, slug)
        takes = session.scalars(select(TakeRow).where(TakeRow.project_id == project.id).order_by(TakeRow.id)).all()
        for name, value in _rows(session, project, list(takes), light).items():
            yield name, project_file.document(value)
        for one in takes:
            if one.id in light:
                yield f"takes/{one.id}/impulse.npy", zlib.decompress(light[one.id].impulse)
                continue
            arrays = select(ArrayRow.role, ArrayRow.data).where(ArrayRow.take_id == one.id).order_by(ArrayRow.id)
            for role, data in session.execute(arrays):
                yield f"takes/{one.id}/{role}.npy", zlib.decompress(data)


def file_of(space: Workspace, slug: str, sound: bool = True) -> Iterator[bytes]:
    """The file of a project, piece by piece, with or without the raw sound of its takes.

    Raises NotHereError at once.
    """
    space.layout(slug)
    return project_file.written(members(space, slug, sound), imbrix.__version__, sound)


def _rows(session: Session, project: ProjectRow, takes: list[TakeRow], light: dict[int, Light]) -> dict[str, object]:
    revisions = session.scalars(
        select(RevisionRow).where(RevisionRow.project_id == project.id).order_by(RevisionRow.id)
    ).all()
    targets = session.scalars(select(TargetRow).where(TargetRow.project_id == project.id).order_by(TargetRow.id)).all()
    used = {one.details.get("correction") for one in takes} - {None}
    corrections = session.scalars(select(CorrectionRow).where(CorrectionRow.id.in_(used)).order_by(CorrectionRow.id))
    own = {one.key.partition(":")[0]: one.value for one in documents_of(session, project.slug)}
    named = {
        f"{kind}:{one.details[field]}" for one in takes for field, kind in SHARED.items() if one.details.get(field)
    }
    shared = session.scalars(select(DocumentRow).where(DocumentRow.key.in_(named)))
    rig = session.get(DocumentRow, "rig")
    return {
        "project.json": _of(ProjectPart, project, head=project.head_id),
        "revisions.json": [_of(RevisionPart, one, parent=one.parent_id, next=one.next_id) for one in revisions],
        "takes.json": [_take(one, one.id in light) for one in takes],
        "targets.json": [_of(TargetPart, one) for one in targets],
        "corrections.json": [_of(CorrectionPart, one) for one in corrections],
        "documents.json": {
            "own": {kind: value for kind, value in own.items() if kind not in NOT_TAKEN},
            "shared": {one.key: one.value for one in shared},
            "rig": rig.value if rig else None,
        },
    }


def _take(one: TakeRow, light: bool) -> Json:
    found = _of(TakePart, one, revision=one.revision_id)
    if light:  # what was divided out is not divided out again
        details = {name: value for name, value in one.details.items() if name not in ("correction", "check")}
        found |= {"method": "impulse", "details": details}
    return found


def _of(model: type[Part], row: object, **others: object) -> Json:
    fields: dict[str, Any] = {name: others.get(name) or getattr(row, name, None) for name in model.model_fields}
    return model.model_construct(None, **fields).model_dump(mode="json")
