"""A data folder that a later version has written in: what it added is passed over, what means more is said."""

import json
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.work.ground.workspace import open_workspace
from tests.helpers.server import BASE

CURVE = b"20 80\n200 85\n2000 70\n"
COLUMNS = [("project", "layout"), ("revision", "tune"), ("take", "details"), ("take", "through")]
BY_NAME = ("force", "plan", "about", "slots", "looks")
"""Documents that are maps as a whole."""
MAPS = {"channels", "routing", "inputs", "corrections", "wiring"}


@pytest.fixture(scope="module")
def full(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with something in every kind of document."""
    folder = tmp_path_factory.mktemp("full") / "data"
    shutil.copytree(demo_folder, folder)
    space = open_workspace(folder, pace=0)
    with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
        for method, path, body in [
            ("put", "takes/1/look", {"offset_db": 1, "shown": True}),
            ("put", "about/sub", {"area_cm2": 200}),
            ("post", "notes", {"text": "a note"}),
            ("post", "takes/1/force", None),
            ("put", "plan", {"key": "image", "skipped": True}),
            ("post", "processor/send", None),
            ("post", "processor/store", {"slot": 1, "name": "One"}),
        ]:
            assert client.request(method, f"{BASE}/{path}", json=body).status_code < 300, path
        client.post(f"{BASE}/references", files={"file": ("a.txt", CURVE)})
        client.patch("/api/rig", json={"height_m": 1.0})
    space.close()
    return folder


def looked_at(folder: Path) -> list[int]:
    """Statuses of what a page asks and of an edit, at the first look."""
    space = open_workspace(folder, pace=0)
    with TestClient(create_app(space), base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        edit = {"edits": [{"do": "channel", "channel": "sub", "gain_db": -1}]}
        paths = (BASE, f"{BASE}/next", "/api/projects", f"{BASE}/curves?stage=voice")
        found = [*(client.get(path) for path in paths), client.post(f"{BASE}/edits", json=edit)]
    space.close()
    assert all(len(one.json()["detail"]) > 40 for one in found if one.status_code >= 400)
    return [one.status_code for one in found]


def added(value: object, inside_a_map: bool = False) -> None:
    """Put a field of later into every document within a value, but not into maps by name."""
    for name, one in list(value.items() if isinstance(value, dict) else enumerate(value)):  # type: ignore[arg-type]
        if isinstance(one, dict | list):
            added(one, name in MAPS)
    if isinstance(value, dict) and not inside_a_map and not any(str(name).isdigit() for name in value):
        value["of_later"] = {"a": 1}


@pytest.fixture
def file(full: Path, tmp_path: Path) -> Iterator[sqlite3.Connection]:
    shutil.copytree(full, tmp_path / "data")
    with closing(sqlite3.connect(tmp_path / "data" / "imbrix.db", isolation_level=None)) as opened:
        yield opened


def rows(file: sqlite3.Connection, table: str, key: str, column: str) -> list[tuple[object, object]]:
    return [(name, json.loads(value)) for name, value in file.execute(f"SELECT {key}, {column} FROM {table}")]


def test_fields_of_later_are_passed_over_and_stay(file: sqlite3.Connection, tmp_path: Path) -> None:
    kept = 0
    for table, key, column in [*((table, "id", column) for table, column in COLUMNS), ("document", "key", "value")]:
        for name, value in rows(file, table, key, column):
            if table == "document" and str(name).split(":")[0] in BY_NAME:
                continue
            added(value)
            file.execute(f"UPDATE {table} SET {column} = ? WHERE {key} = ?", (json.dumps(value), name))
            kept += json.dumps(value).count("of_later")
    assert kept > 200
    assert looked_at(tmp_path / "data") == [200] * 5
    takes = rows(file, "take", "id", "details")
    assert all("of_later" in value for _name, value in takes)  # type: ignore[operator]


@pytest.mark.parametrize(
    ("change", "found"),
    [
        ("UPDATE take SET purpose = 'hologram' WHERE id = 2", [200, 200, 200, 200, 200]),
        ("UPDATE take SET method = 'laser' WHERE id = 2", [200, 200, 200, 200, 200]),
        ("UPDATE project SET layout = replace(layout, '\"tweeter\"', '\"ribbon\"')", [409, 409, 200, 409, 409]),
    ],
    ids=["purpose", "method", "kind"],
)
def test_what_means_more_is_said_and_the_rest_works(
    file: sqlite3.Connection, tmp_path: Path, change: str, found: list[int]
) -> None:
    file.execute(change)
    assert looked_at(tmp_path / "data") == found


def test_a_take_of_later_is_left_out_and_said(file: sqlite3.Connection, tmp_path: Path) -> None:
    file.execute("UPDATE take SET purpose = 'hologram' WHERE id = 2")
    space = open_workspace(tmp_path / "data", pace=0)
    with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
        state = client.get(BASE).json()
    space.close()
    assert 2 not in {one["id"] for one in state["takes"]}
    assert "One take is not shown" in {one["says"] for one in state["findings"]}
    assert file.execute("SELECT purpose FROM take WHERE id = 2").fetchone() == ("hologram",)
