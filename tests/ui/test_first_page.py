"""A page that begins before the program does: with what it was told last, and then as things are."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
import uvicorn
from selenium import webdriver

from imbrix.api import told
from imbrix.api.app import create_app
from imbrix.api.doorman import Doorman
from imbrix.api.page import WEB
from imbrix.work.ground.workspace import Workspace
from tests.helpers.server import BASE
from tests.ui.browser import Page


@contextmanager
def served(app: Doorman) -> Iterator[str]:
    """The address of a server in a thread of its own."""
    server = uvicorn.Server(uvicorn.Config(app, port=0, log_level="warning"))
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    try:
        yield f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join()


def drawn(page: Page) -> str | None:
    """Whether what the page looks at stands in its plots."""
    return page.driver.execute_script("return document.documentElement.dataset.settled")


def test_a_page_begins_with_what_it_was_told_last(demo: Workspace, chromium: webdriver.Chrome) -> None:
    app = create_app(demo)
    last = told.answers(app)
    name = app.state.space.layout("wren").drivers[0].name
    last[BASE] = last[BASE].replace(f'"name":"{name}"', '"name":"Was here"', 1)
    may = threading.Event()
    doorman = Doorman(WEB, lambda: (may.wait(300), app)[1], lambda: pytest.fail("it could not be loaded"), last)
    with served(doorman) as address:
        try:
            page = Page(chromium, address)
            page.driver.get(address)
            assert page.saying("[aria-label^='Was here']", "", exact=False)
            assert page.test_id("next-step").text
            page.settled()  # with the curves that were kept
            page.driver.get(f"{address}/wren/voice")  # of what is looked at here nothing was kept
            assert page.saying("[aria-label^='Was here']", "", exact=False)
            page.until(lambda: drawn(page) == "no")
            page.driver.get(f"{address}/wren/drivers")
            page.settled()
        finally:
            may.set()
        page.until(lambda: not page.found("[aria-label^='Was here']"))
        page.until(lambda: page.found(f"[aria-label^='{name}']"))
        page.driver.get("about:blank")  # sockets end before the server does
