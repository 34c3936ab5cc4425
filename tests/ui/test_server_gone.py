"""What the page says when the server is gone, comes back, is of another version, or has no room left."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.helpers.disk import small_disk
from tests.helpers.server import Server, serving
from tests.ui.browser import Page


@pytest.fixture
def server(demo_folder: Path, tmp_path: Path) -> Iterator[Server]:
    with small_disk(tmp_path / "disk") as disk, serving(demo_folder, tmp_path / "disk" / "data", pace=8) as made:
        made.disk = disk  # type: ignore[attr-defined]
        yield made


def gain(server: Server) -> float:
    return round(server.state()["tune"]["channels"]["mid-l"]["gain_db"], 1)


@pytest.mark.walk
def test_the_page_says_what_happened_and_goes_on(server: Server, chromium: webdriver.Chrome) -> None:
    page = Page(chromium, f"http://127.0.0.1:{server.port}")
    page.open("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.after(lambda: page.key(Keys.ARROW_DOWN))
    assert gain(server) == -0.1

    # Gone: said at once, and what is tried meanwhile is refused in words.
    server.kill()
    assert "What was shown as saved is on disk" in page.test_id("unlinked").text
    page.key(Keys.ARROW_DOWN)
    assert "The server does not answer" in page.test_id("trouble").text

    # Back: the page goes on by itself, with what was saved.
    server.start()
    page.until(lambda: not page.found("[data-testid=unlinked]"))
    page.until(lambda: "saved" in page.test_id("save-state").text)
    page.until(lambda: "−0.1 dB" in page.find("[aria-label^='Mid L,']").get_attribute("aria-label"))
    page.after(lambda: page.key(Keys.ARROW_DOWN))
    assert gain(server) == -0.2

    # No room: the change is not kept and not shown as kept; with room again it is.
    disk = server.disk  # type: ignore[attr-defined]
    if disk is not None:
        disk.fill()
        page.key(Keys.ARROW_DOWN)
        page.until(lambda: "disk is full" in page.test_id("trouble").text)
        assert gain(server) == -0.2
        page.until(lambda: "−0.2 dB" in page.find("[aria-label^='Mid L,']").get_attribute("aria-label"))
        disk.empty()
        page.after(lambda: page.key(Keys.ARROW_DOWN))
        assert gain(server) == -0.3

    # Of another version: as if this page had been opened before the server was renewed.
    page.driver.execute_script("document.querySelector('script[src]').src = '/assets/index-of-before.js'")
    server.kill()
    server.start()
    assert "another version" in page.test_id("outdated").text
    page.button("Load anew").click()
    page.until(lambda: not page.found("[data-testid=outdated]"))
    page.until(lambda: page.found("[data-testid=save-state]"))
    page.settled()


@pytest.mark.walk
def test_a_project_of_a_later_version_is_said_and_the_others_open(server: Server, chromium: webdriver.Chrome) -> None:
    begun = server.http.post("/api/projects", json={"name": "Another", "ready": "front-3-sub"}).json()["slug"]
    server.kill()
    with closing(sqlite3.connect(server.folder / "imbrix.db", isolation_level=None)) as file:
        file.execute("UPDATE project SET layout = replace(layout, '\"tweeter\"', '\"ribbon\"') WHERE slug = 'wren'")
    server.start(f"/api/projects/{begun}")
    page = Page(chromium, f"http://127.0.0.1:{server.port}")
    page.driver.get(f"{page.address}/wren/drivers")
    assert "kept by a newer Imbrix" in page.test_id("unread").text
    page.button("Another").click()
    page.until(lambda: page.found("[data-testid=save-state]"))
    assert f"/{begun}/" in page.driver.current_url
