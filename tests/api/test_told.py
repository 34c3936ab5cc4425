"""What a first page was told last: the same as it would be told now, of this folder and this program only."""

import json
import sqlite3
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from fastapi import FastAPI
from starlette.testclient import TestClient

from imbrix.api import projects, told
from imbrix.api.app import create_app
from imbrix.api.doorman import Doorman
from imbrix.core.errors import ImbrixError
from imbrix.core.tune.edits import SetChannel
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.tune.revisions import commit
from tests.helpers.server import BASE

HERE = "http://127.0.0.1"
BY_PAGE = {"sec-fetch-site": "same-origin"}


@pytest.fixture
def ended(space: Workspace) -> Path:
    """A folder as a server leaves it."""
    last = told.answers(create_app(space))
    space.close()
    told.keep(space.folder, last)
    return space.folder


def test_it_is_what_a_page_would_be_told_now(demo: Workspace) -> None:
    app = create_app(demo)
    found = told.answers(app)
    assert set(found) == {"/api/grid", "/api/projects", BASE, f"{BASE}/plan", f"{BASE}/begins"}
    with TestClient(app, base_url=HERE) as client:
        first = found.pop(f"{BASE}/begins")
        assert client.get(f"{BASE}/begins").content == first
        for address, body in found.items():
            asked, kept = client.get(address).json(), json.loads(body)
            if address == BASE:
                assert kept.pop("version") < 0 <= asked.pop("version")
            assert kept == asked


def test_it_is_kept_as_long_as_nothing_changes(ended: Path) -> None:
    first = told.told(ended)
    assert json.loads(first[BASE])["name"]
    assert told.told(ended) == first
    assert [one.name for one in ended.glob("told*")] == [told.NAME]


def _edit(folder: Path) -> None:
    space = open_workspace(folder, pace=0)
    commit(space, "wren", [SetChannel(channel="mid-l", gain_db=-3.0)])
    space.close()


def _edit_and_die(folder: Path) -> None:
    """What a killed server leaves: the change stands in the log beside the database only."""
    space = open_workspace(folder, pace=0)
    commit(space, "wren", [SetChannel(channel="mid-l", gain_db=-3.0)])


def _put_back(folder: Path) -> None:
    with sqlite3.connect(folder / "imbrix.db") as database:
        database.execute("UPDATE project SET name = 'Another'")


def _store(folder: Path) -> None:
    (folder / "processor-memory.json").write_text("{}")


def _spoil(folder: Path) -> None:
    path = folder / told.NAME
    path.write_bytes(path.read_bytes()[:-9])


@pytest.mark.parametrize("change", [_edit, _edit_and_die, _put_back, _store, _spoil])
def test_of_a_folder_that_was_changed_since_nothing_is_told(ended: Path, change: Callable[[Path], None]) -> None:
    assert told.told(ended)
    change(ended)
    assert told.told(ended) == {}


def test_what_changes_while_answers_are_made_is_not_lost(space: Workspace) -> None:
    before = told.stamp(space.folder)
    last = told.answers(create_app(space))
    commit(space, "wren", [SetChannel(channel="mid-l", gain_db=-3.0)])
    told.keep(space.folder, last, before)
    assert told.told(space.folder) == {}
    told.keep(space.folder, last)
    assert told.told(space.folder) == last


@pytest.mark.parametrize("holds", ["", "[]", "3", '{"made": 1}', '{"made": [], "answers": []}'])
def test_a_file_of_something_else_is_passed_over(ended: Path, holds: str) -> None:
    (ended / told.NAME).write_text(holds)
    assert told.told(ended) == {}


@pytest.mark.parametrize("frames", [{BASE: "not base64!"}, {BASE: 3}, [], None])
def test_a_frame_that_cannot_be_read_costs_all_that_was_kept(ended: Path, frames: object) -> None:
    path = ended / told.NAME
    path.write_text(json.dumps(json.loads(path.read_bytes()) | {"frames": frames}))
    assert told.told(ended) == {}


def test_another_program_tells_nothing_of_this_one(ended: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(told, "fingerprint", lambda: "another")
    assert told.told(ended) == {}


def test_a_full_disk_costs_nothing_but_time(ended: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    first = told.told(ended)

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "write_text", full)
    told.keep(ended, {})
    assert told.told(ended) == first
    assert len(list(ended.glob("told*"))) == 1


@pytest.mark.parametrize("error", [ImbrixError("cannot be read"), KeyError("a fault of ours")])
def test_the_newest_projects_are_kept_and_a_sick_one_is_left_out(
    space: Workspace, monkeypatch: pytest.MonkeyPatch, error: Exception
) -> None:
    for n in range(told.MOST):
        create_project(space, f"more-{n}", f"More {n}", space.layout("wren"))
    asked = projects.get_project

    def sick(slug: str, space: Workspace) -> object:
        if slug == "more-1":
            raise error
        return asked(slug, space)

    monkeypatch.setattr(projects, "get_project", sick)
    found = told.answers(create_app(space))
    assert {one for one in found if one.startswith("/api/projects/") and one.count("/") == 3} == {
        f"/api/projects/more-{n}" for n in (0, 2, 3)
    }


def test_a_page_is_told_at_once_and_a_script_the_truth(space: Workspace, tmp_path: Path) -> None:
    may = threading.Event()
    app: FastAPI = create_app(space)
    last: dict[str, told.Answer] = {BASE: '{"name": "As it was"}', f"{BASE}/begins": b"\x00\x01"}
    doorman = Doorman(tmp_path / "none", lambda: (may.wait(60), app)[1], pytest.fail, last)
    with TestClient(doorman, base_url=HERE) as client, ThreadPoolExecutor() as pool:
        waiting = [
            pool.submit(client.get, BASE),
            pool.submit(client.get, BASE, headers=BY_PAGE, params={"every": 2}),
            pool.submit(client.get, f"{BASE}/plan", headers=BY_PAGE),
            pool.submit(client.put, f"{BASE}/name", headers=BY_PAGE, json={"name": "New"}),
        ]
        kept = client.get(BASE, headers=BY_PAGE)
        assert (kept.json(), kept.headers["cache-control"]) == ({"name": "As it was"}, "no-store")
        first = client.get(f"{BASE}/begins", headers=BY_PAGE)
        assert (first.content, first.headers["content-type"]) == (b"\x00\x01", "application/octet-stream")
        assert client.get(BASE, headers={**BY_PAGE, "host": "imbrix.example"}).status_code == 403
        assert not any(one.done() for one in waiting)
        may.set()
        assert [one.result(60).status_code for one in waiting] == [200] * 4
        assert client.get(BASE, headers=BY_PAGE).json()["name"] == "New"
