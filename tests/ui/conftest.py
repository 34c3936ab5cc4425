"""A server of its own for each test that changes things, and one browser for all that a worker runs."""

import multiprocessing
import os
import shutil
import socket
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from multiprocessing.process import BaseProcess
from pathlib import Path

import httpx
import pytest
from selenium import webdriver

from imbrix.cli import demo
from tests.ui.browser import Page, resize, start_chromium

SERVERS = multiprocessing.get_context("forkserver")
"""What servers are forked from: it has loaded the program once for all of them."""
LOADED = ["imbrix.cli", "imbrix.api.app", "imbrix.work.demo", "uvicorn.lifespan.on"]
SERVERS.set_forkserver_preload([*LOADED, "tests.ui.prepared"])
FORGET = "if (location.protocol.startsWith('http')) { localStorage.clear(); sessionStorage.clear(); }"


PORT = {"last": 0}
"""The port of the last server: the next one has it again, so that the browser keeps the page compiled."""


def free_port() -> int:
    """The last one again, or another where it is still taken."""
    with socket.socket() as one:
        one.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            one.bind(("127.0.0.1", PORT["last"]))
        except OSError:
            one.bind(("127.0.0.1", 0))
        PORT["last"] = one.getsockname()[1]
    return PORT["last"]


def start(command: Callable[..., None], folder: Path, ready: str, pace: float = 8.0) -> tuple[BaseProcess, str]:
    """A server's process and its address, once it answers at `ready`."""
    port = free_port()
    process = SERVERS.Process(target=command, args=(folder, port, pace), daemon=True)
    process.start()
    address = f"http://127.0.0.1:{port}"
    deadline = time.monotonic() + 180
    while time.monotonic() < deadline:
        with suppress(httpx.TransportError):
            if httpx.get(f"{address}{ready}", timeout=30).status_code == 200:
                return process, address
        time.sleep(0.05)
    process.kill()
    raise AssertionError("the server did not start")


@pytest.fixture(scope="session", autouse=True)
def made(demo_folder: Path) -> None:
    """Say where the demo is before the first server is forked."""
    os.environ["IMBRIX_DEMO_MADE"] = str(demo_folder)


@pytest.fixture(scope="session")
def browser() -> Iterator[webdriver.Chrome]:
    driver = start_chromium()
    yield driver
    driver.quit()


@pytest.fixture
def chromium(browser: webdriver.Chrome) -> Iterator[webdriver.Chrome]:
    """The worker's browser, as a new one would be: its usual size, nothing open, nothing kept of earlier tests."""
    resize(browser)
    browser.get_log("browser")
    yield browser
    browser.execute_script(FORGET)
    browser.get("about:blank")


@pytest.fixture
def page(
    demo_folder: Path, tmp_path: Path, chromium: webdriver.Chrome, request: pytest.FixtureRequest
) -> Iterator[Page]:
    """The demo in the browser, at its first revision; sound runs eight times faster than real, or as marked."""
    shutil.copytree(demo_folder, tmp_path / "ui")
    marked = request.node.get_closest_marker("pace")
    process, address = start(demo, tmp_path / "ui", "/api/projects/wren", marked.args[0] if marked else 8.0)
    page = Page(chromium, address)
    page.open()
    yield page
    process.kill()
    process.join()
