"""A start: the page is there before the program, and what no first page asks for comes after it."""

import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from starlette.applications import Starlette
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from imbrix.api.app import create_app
from imbrix.api.doorman import Doorman
from imbrix.work.ground.workspace import Workspace
from tests.helpers.server import BASE

HERE = "http://127.0.0.1"
LOCAL = {"host": "127.0.0.1"}


@pytest.fixture
def web(tmp_path: Path) -> Path:
    """A page as it is built."""
    folder = tmp_path / "web"
    (folder / "assets").mkdir(parents=True)
    (folder / "index.html").write_text('<script src="/assets/index-1.js"></script>')
    (folder / "assets" / "index-1.js").write_text("let it = 1;")
    return folder


class Slow:
    """An application that is loaded when it may be."""

    def __init__(self, make: Callable[[], Starlette]) -> None:
        self.may = threading.Event()
        self._make = make

    def __call__(self) -> Starlette:
        assert self.may.wait(60)
        return self._make()


@pytest.fixture
def slow(space: Workspace, web: Path) -> Iterator[Slow]:
    made = Slow(lambda: create_app(space, web))
    yield made
    made.may.set()


def test_the_page_is_there_before_the_program(slow: Slow, web: Path) -> None:
    with TestClient(Doorman(web, slow, pytest.fail), base_url=HERE) as client, ThreadPoolExecutor() as pool:
        asked = pool.submit(client.get, "/api/projects")
        for address in ("/", "/wren/drivers"):
            page = client.get(address)
            assert "index-1.js" in page.text
            assert page.headers["cache-control"] == "no-cache"
            assert "default-src 'self'" in page.headers["content-security-policy"]
        assert client.get("/assets/index-1.js").text == "let it = 1;"
        assert client.get("/assets/none.js").status_code == 404
        assert client.get("/", headers={"host": "imbrix.example"}).status_code == 403
        assert not asked.done()
        slow.may.set()
        assert [one["slug"] for one in asked.result(60).json()["projects"]] == ["wren"]
        assert "index-1.js" in client.get("/").text
        assert client.get("/api/none").status_code == 404
        with client.websocket_connect(f"{BASE}/live?window=abcdefgh", headers=LOCAL) as socket:
            assert socket.receive_json()


def test_one_who_does_not_wait_takes_nobody_along(slow: Slow, web: Path) -> None:
    doorman = Doorman(web, slow, pytest.fail)
    with TestClient(doorman, base_url=HERE) as client, ThreadPoolExecutor() as pool:
        gone, stays = (pool.submit(client.get, "/api/projects") for _ in range(2))
        gone.cancel()
        slow.may.set()
        assert stays.result(60).status_code == 200


def test_what_the_application_began_it_ends(web: Path) -> None:
    told = []

    class Lives:
        async def __aenter__(self) -> None:
            told.append("begun")

        async def __aexit__(self, *_: object) -> None:
            told.append("ended")

    with TestClient(Doorman(web, lambda: Starlette(lifespan=lambda _app: Lives()), pytest.fail), base_url=HERE) as one:
        assert one.get("/api").status_code == 404
        assert told == ["begun"]
    assert told == ["begun", "ended"]


def test_a_program_that_cannot_be_loaded_gives_up(web: Path) -> None:
    given_up = threading.Event()

    def fail() -> Starlette:
        raise ValueError("no such folder")

    doorman = Doorman(web, fail, given_up.set)
    with TestClient(doorman, base_url=HERE) as client:
        assert given_up.wait(60)
        assert str(doorman.failed) == "no such folder"
        assert client.get("/api/projects").status_code == 503


def test_without_a_page_that_was_built_there_is_none(slow: Slow, tmp_path: Path) -> None:
    slow.may.set()
    with TestClient(Doorman(tmp_path / "none", slow, pytest.fail), base_url=HERE) as client:
        assert client.get("/api/projects").status_code == 200
    with TestClient(create_app(slow().state.space, tmp_path / "none"), base_url=HERE) as client:
        assert client.get("/").status_code == 404


def test_what_is_asked_for_comes_when_it_is(space: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("imbrix.api.app.PAGE_S", 1e6)  # not by itself, however slow the machine
    app = create_app(space, at_once=False)
    begun = len(app.router.routes)
    with TestClient(app, base_url=HERE) as client, ThreadPoolExecutor() as pool:
        with client.websocket_connect(f"{BASE}/live?window=abcdefgh", headers=LOCAL) as socket:
            assert socket.receive_json()
        assert len(app.router.routes) == begun
        assert client.get(BASE).status_code == 200
        before = len(app.router.routes)
        assert before > begun
        assert client.get(f"{BASE}/plan").status_code == 200
        assert len(app.router.routes) == before
        asked = [pool.submit(client.get, "/api/rig") for _ in range(8)]
        assert {one.result(60).status_code for one in asked} == {200}
        after = len(app.router.routes)
        assert after > before + 100
        assert client.get("/api/none").status_code == 404
        assert client.delete(BASE + "/plan").status_code == 405
        assert client.get("/api/docs").status_code == 200
        assert len(app.router.routes) == after


def test_what_nobody_asks_for_comes_by_itself(space: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("imbrix.api.app.PAGE_S", 0.0)
    app = create_app(space, at_once=False)
    with TestClient(app, base_url=HERE) as client:
        deadline = time.monotonic() + 120
        while not any(getattr(one, "path", "") == "/api/rig" for one in app.router.routes):
            assert time.monotonic() < deadline
            assert client.get("/api/projects").status_code == 200


def test_a_socket_may_be_what_is_asked_for(space: Workspace) -> None:
    with TestClient(create_app(space, at_once=False), base_url=HERE) as client:
        with pytest.raises(WebSocketDisconnect), client.websocket_connect("/api/none", headers=LOCAL):
            pass
        with client.websocket_connect("/api/browser-sound?window=abcdefgh", headers=LOCAL):
            pass


def test_the_description_is_whole_however_early_it_is_asked_for(space: Workspace) -> None:
    early, whole = (TestClient(create_app(space, at_once=one), base_url=HERE) for one in (False, True))
    assert early.get("/api/openapi.json").json() == whole.get("/api/openapi.json").json()


def test_a_first_picture_waits_for_no_other_routes() -> None:
    told = "import sys, imbrix.api.app, imbrix.work.warm; print(*sys.modules)"
    loaded = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True).stdout.split()
    assert "imbrix.api.live" in loaded
    others = [f"imbrix.api.{one}" for one in ("audition", "plan", "projects", "rig", "schemas", "source", "views")]
    assert [one for one in (*others, "imbrix.work.state") if one in loaded] == []
