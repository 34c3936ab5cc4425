"""Fixtures: a workspace with stand-ins that sound at once, and the demo made once and copied."""

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the program sets it for itself, before numpy is there

import hypothesis  # noqa: F401 - loaded lazily, amid the report of a failure, it can end the whole run
import pytest
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.standins import wren
from imbrix.work.demo import load_demo
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import Workspace, open_workspace


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with the demo project and its seven takes. Copy it, do not change it."""
    folder = tmp_path_factory.mktemp("demo")
    space = open_workspace(folder, pace=0)
    load_demo(space)
    space.sessions.kw["bind"].dispose()
    return folder


@pytest.fixture
def space(tmp_path: Path) -> Workspace:
    """A project without takes."""
    made = open_workspace(tmp_path / "data", pace=0)
    create_project(made, wren.SLUG, wren.NAME, wren.layout())
    return made


@pytest.fixture
def demo(demo_folder: Path, tmp_path: Path) -> Workspace:
    """The demo project, to be changed at will."""
    shutil.copytree(demo_folder, tmp_path / "demo")
    return open_workspace(tmp_path / "demo", pace=0)


@pytest.fixture
def client(demo: Workspace) -> Iterator[TestClient]:
    """A client of the application over the demo."""
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as made:
        made.space = demo  # type: ignore[attr-defined]
        yield made
