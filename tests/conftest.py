"""Fixtures: a desk with stand-ins that sound at once, and the demo made once and copied."""

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
from imbrix.work.desk import Desk, open_desk
from imbrix.work.tuning import create_project


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with the demo project and its seven takes. Copy it, do not change it."""
    folder = tmp_path_factory.mktemp("demo")
    desk = open_desk(folder, pace=0)
    load_demo(desk)
    desk.sessions.kw["bind"].dispose()
    return folder


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    """A project without takes."""
    made = open_desk(tmp_path / "data", pace=0)
    create_project(made, wren.SLUG, wren.NAME, wren.layout())
    return made


@pytest.fixture
def demo(demo_folder: Path, tmp_path: Path) -> Desk:
    """The demo project, to be changed at will."""
    shutil.copytree(demo_folder, tmp_path / "demo")
    return open_desk(tmp_path / "demo", pace=0)


@pytest.fixture
def client(demo: Desk) -> Iterator[TestClient]:
    """A client of the application over the demo."""
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as made:
        made.desk = demo  # type: ignore[attr-defined]
        yield made
