"""The ground that everything stands on: memory with limits, documents under one lock, projects, logs."""

import json
import logging
import zipfile
from concurrent.futures import ThreadPoolExecutor
from io import BytesIO
from pathlib import Path

import numpy as np
import pytest
from sqlalchemy import event, select

from imbrix.core.errors import ConflictError
from imbrix.formats.text_curve import TextCurve
from imbrix.standins.places import van
from imbrix.standins.places.van import SLUG
from imbrix.store.models import ArrayRow, DocumentRow, ProjectRow, RevisionRow, TakeRow
from imbrix.work.demo import UNDER_WAY, load_demo
from imbrix.work.ground import documents, logs, projects
from imbrix.work.ground.memory import Drawer, Memory
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import looks, recording, shelf
from imbrix.work.tune import revisions
from imbrix.work.views import references

LETTERS: Drawer[int, str] = Drawer("letters", 3, by_take=True)


def test_memory_forgets_what_was_used_longest_ago() -> None:
    memory = Memory()
    made = []

    def letter(n: int) -> str:
        made.append(n)
        return "abcdef"[n]

    for n in (0, 1, 2, 0, 3):
        assert memory.of(LETTERS, n, lambda n=n: letter(n)) == "abcdef"[n]
    assert made == [0, 1, 2, 3]
    assert memory.sizes() == {"letters": 3}
    assert memory.peek(LETTERS, 1) is None  # 0 was used again, so 1 had to go
    assert memory.of(LETTERS, 0, lambda: "new", stamp=(1,)) == "new"  # made under another stamp
    memory.forget_take(0)
    assert memory.peek(LETTERS, 0) is None


def test_what_was_read_is_remembered_until_it_is_written(space: Workspace) -> None:
    asked: list[str] = []

    def heard(*_more: object) -> None:
        asked.append("sql")

    event.listen(space.sessions.kw["bind"], "before_cursor_execute", heard)
    revisions.head(space, SLUG)
    count = len(asked)
    assert revisions.head(space, SLUG) is revisions.head(space, SLUG)
    assert len(asked) == count
    projects.rename(space, SLUG, "Another name")
    revisions.head(space, SLUG)
    assert len(asked) > count


def test_of_references_added_at_once_none_is_lost(space: Workspace) -> None:
    curve = TextCurve(np.array([100.0, 1000.0]), np.array([80.0, 81.0]), None)
    with ThreadPoolExecutor(12) as pool:
        ids = list(pool.map(lambda n: references.add_text(space, SLUG, f"line {n}", curve), range(12)))
    assert sorted(ids) == list(range(1, 13))
    assert sorted(one.name for one in references.references(space, SLUG)) == sorted(f"line {n}" for n in range(12))


def test_looks_given_at_once_all_survive(demo: Workspace) -> None:
    ids = [one.id for one in shelf.takes(demo, SLUG) if one.purpose == "driver"]
    with ThreadPoolExecutor(len(ids)) as pool:
        list(pool.map(lambda n: looks.give(demo, SLUG, n, looks.Look(shown=True, offset_db=float(n))), ids))
    assert {n: look.offset_db for n, look in looks.looks(demo, SLUG).items()} == {n: float(n) for n in ids}


def test_a_refused_change_of_a_document_writes_nothing(space: Workspace) -> None:
    documents.write(space, "thing", {"a": 1})

    def do(now: dict) -> dict:
        now["a"] = 2
        raise ConflictError("no")

    with pytest.raises(ConflictError):
        documents.change(space, "thing", do)
    assert documents.read(space, "thing") == {"a": 1}


def test_projects_begun_at_once_under_one_name_have_addresses_of_their_own(space: Workspace) -> None:
    with ThreadPoolExecutor(6) as pool:
        slugs = list(pool.map(lambda _n: projects.begin(space, "Six at once", van.layout()), range(6)))
    assert sorted(slugs) == ["six-at-once", *(f"six-at-once-{n}" for n in range(2, 7))]


@pytest.mark.walk
def test_half_a_demo_is_made_whole_at_the_next_start(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    space = open_workspace(tmp_path, pace=0)
    start, count = recording.start_sweep, []

    def killed(*more: object) -> None:
        count.append(1)
        if len(count) == 3:
            raise SystemExit
        start(*more)

    monkeypatch.setattr(recording, "start_sweep", killed)
    with pytest.raises(SystemExit):
        load_demo(space)
    assert documents.read(space, UNDER_WAY) is not None
    assert 0 < len(shelf.takes(space, SLUG)) < 7
    monkeypatch.undo()
    space.close()
    again = open_workspace(tmp_path, pace=0)
    assert load_demo(again)
    assert len(shelf.takes(again, SLUG)) == 14
    assert not load_demo(again)
    with again.session() as session:
        assert len(session.scalars(select(ProjectRow)).all()) == 1


def test_a_take_of_the_demo_that_fails_says_why(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    space = open_workspace(tmp_path, pace=0)
    monkeypatch.setattr(space.standin, "play_and_record", lambda *_more: iter(()))
    with pytest.raises(ConflictError):
        load_demo(space)


def test_a_project_that_goes_takes_everything_of_its_own_along(demo: Workspace) -> None:
    other = projects.begin(demo, "Stays", van.layout())
    projects.remove_project(demo, SLUG)
    projects.remove_project(demo, SLUG)  # once more is no matter
    with demo.session() as session:
        assert [one.slug for one in session.scalars(select(ProjectRow))] == [other]
        assert session.scalars(select(TakeRow)).all() == []
        assert session.scalars(select(ArrayRow.id)).all() == []
        assert len(session.scalars(select(RevisionRow)).all()) == 1
        assert not [key for key in session.scalars(select(DocumentRow.key)) if key.endswith(f":{SLUG}")]


def test_the_log_and_the_diagnostics_tell_what_happened_without_sound(demo: Workspace) -> None:
    handler = logs.log_to(demo.folder)
    try:
        revisions.commit(demo, SLUG, [], None)
        recorder = Recorder(demo)
        recording.start_sweep(recorder, SLUG, ("sub",), "driver")
        recorder.finished()
    finally:
        logging.getLogger("imbrix").removeHandler(handler)
        handler.close()
    data = logs.diagnostics(demo)
    with zipfile.ZipFile(BytesIO(data)) as package:
        about = json.loads(package.read("about.json"))
        said = package.read("imbrix.log").decode()
    assert about["rows"]["take"] == 15
    assert "take sub: kept" in said
    assert len(data) < 60_000
