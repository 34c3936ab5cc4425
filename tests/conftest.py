"""Fixtures: a workspace with stand-ins that sound at once, and the demo made once and copied."""

import fcntl
import gc
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the program sets it for itself, before numpy is there

# Modules that load lazily, deep in a stack, can end a test: pytest then rewrites them there.
import anyio
import hypothesis
import pytest
from starlette.testclient import TestClient

# isort: split
# Before the program is loaded: it puts probes into it.
from tests.helpers.covered import pytest_sessionfinish, pytest_terminal_summary, pytest_testnodedown

# isort: split
from imbrix.api.app import create_app
from imbrix.standins.places import van
from imbrix.work.demo import load_demo
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.state.project import project_state
from imbrix.work.takes import remembered
from tests.helpers.computed import Computed

hypothesis.settings.register_profile("any machine", deadline=None)
hypothesis.settings.load_profile("any machine")

assert anyio.open_file
__all__ = ["pytest_sessionfinish", "pytest_terminal_summary", "pytest_testnodedown"]


def pytest_collection_finish() -> None:
    """Let the garbage collector alone with all that was loaded: looking through it took 5 % of API tests."""
    gc.freeze()


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with the demo project and its takes, made once for all workers. Copy it, do not change it."""
    base = tmp_path_factory.getbasetemp()
    folder = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "demo"
    with (folder.parent / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)  # the first worker makes it, the others wait
        if not folder.exists():
            making = folder.with_name("demo-being-made")
            space = open_workspace(making, pace=0)
            load_demo(space)
            project_state(space, van.SLUG)
            remembered.keep(space)  # as a server that ran over it would: those that tests start read no take anew
            space.close()
            making.rename(folder)
    return folder


@pytest.fixture(scope="session")
def computed(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Computed:
    """What the demo's takes show, once for a worker."""
    return Computed(demo_folder, tmp_path_factory.mktemp("computed") / "demo")


@pytest.fixture
def space(tmp_path: Path) -> Iterator[Workspace]:
    """A project without takes."""
    made = open_workspace(tmp_path / "data", pace=0)
    create_project(made, van.SLUG, van.NAME, van.layout())
    yield made
    made.close()


@pytest.fixture
def demo(demo_folder: Path, computed: Computed, tmp_path: Path) -> Iterator[Workspace]:
    """The demo project, to be changed at will."""
    shutil.copytree(demo_folder, tmp_path / "demo")
    made = open_workspace(tmp_path / "demo", pace=0)
    computed.begin(made)
    yield made
    made.close()


@pytest.fixture
def client(demo: Workspace) -> Iterator[TestClient]:
    """A client of the application over the demo."""
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as made:
        made.space = demo  # type: ignore[attr-defined]
        yield made
