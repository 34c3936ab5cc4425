"""Places as a person meets them: a demonstration made when it is opened, a project moved, an address that is none."""

import httpx
import pytest

from tests.ui.browser import Page
from tests.ui.test_any_system import open_system

pytestmark = [pytest.mark.xdist_group("views"), pytest.mark.pace(200), pytest.mark.walk]


def opened(page: Page, slug: str) -> None:
    page.until(lambda: f"/{slug}/" in page.driver.current_url)
    page.until(lambda: page.found("[data-testid=save-state]"), 240)
    page.settled()


def begin(page: Page, name: str, place: str, number: str = "") -> None:
    """A two-way front with a sub in a place."""
    open_system(page)
    page.named("Name of the new project").send_keys(name)
    page.choose("Layout", "Two-way front and sub")
    page.choose("Place", place)
    if number:
        page.type_into("Number", number)
    page.test_id("begin-project").click()
    opened(page, name.lower().replace(" ", "-"))


def test_a_demonstration_is_made_when_it_is_opened_and_shown_when_it_is_whole(page: Page) -> None:
    open_system(page)
    page.test_id("demo-helmet").click()
    page.until(lambda: "Swift co-driver's helmet" in page.test_id("making").text)
    opened(page, "swift")
    assert "6 of 6" in page.find("aside").text
    page.driver.get(f"{page.address}/")
    opened(page, "swift")  # the newest is opened
    page.driver.get(f"{page.address}/nowhere/drivers")
    page.until(lambda: "no project at this address" in page.find("main").text)
    page.button("Open the newest project").click()
    opened(page, "swift")


def test_a_project_is_begun_in_a_drawn_place_and_moved_to_none(page: Page) -> None:
    begin(page, "Unknown car", "Vehicle drawn from a number", "17")
    state = f"{page.address}/api/projects/unknown-car"
    assert httpx.get(state).json()["place"]["key"] == "drawn-17"
    open_system(page)
    page.choose("Where it stands", "None: files or a sound card")
    page.until(lambda: httpx.get(state).json()["place"]["key"] == "")


def test_the_reading_room_tells_where_the_microphone_goes(page: Page) -> None:
    begin(page, "Pair", "Reading room")
    page.stage("rig")
    page.test_id("ready-takes").click()
    page.until(lambda: "0.67 m before it" in page.test_id("nearest").text)
    page.type_into("Height over floor", "0.9")
    page.until(lambda: "0.60 m before it" in page.test_id("nearest").text)
    page.named("Microphone at before the left one").click()
    page.until(lambda: httpx.get(f"{page.address}/api/rig").json()["position"] == "before the left one")
