"""Bands seen as third octaves, and a fit that goes by several places of the microphone."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("next-step"), pytest.mark.walk]
BASE = "/api/projects/wren"


def bands(page: Page) -> list[tuple[str, float, float]]:
    tune = httpx.get(f"{page.address}{BASE}", timeout=60).json()["tune"]
    return [(one["kind"], one["frequency_hz"], one["gain_db"]) for one in tune["channels"]["mid-l"]["bands"]]


def test_third_octaves_are_turned_by_mouse_and_keys(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.button("third octaves").click()
    third = page.test_id("third-1000")
    page.driver.execute_script("arguments[0].focus()", third)
    page.after(lambda: page.key(Keys.PAGE_DOWN))
    page.key(Keys.ARROW_RIGHT)
    page.after(lambda: page.key(Keys.ARROW_UP))
    page.after(lambda: page.drag(page.test_id("third-4000"), 0, 30))
    assert serious(page) == []
    kept = bands(page)
    assert kept[0] == ("peaking", 1000, -3)
    assert kept[1][1] == 1250
    assert kept[1][2] > 0
    assert kept[2][1] == 4000
    assert kept[2][2] < -3
    # They are the same bands that are listed one by one; at nought one goes.
    page.driver.execute_script("arguments[0].focus()", page.test_id("third-1000"))
    page.after(lambda: page.key("0"))
    assert [one[1] for one in bands(page)] == [1250, 4000]
    page.button("bands").click()
    assert page.named("Band 1 frequency, Hz").get_attribute("value") == "1250 Hz"
    page.choose("Band 1 kind", "Notch")
    page.until(lambda: bands(page)[0][0] == "notch")
    assert not page.found("[aria-label^='Band 1 gain']")


def test_a_fit_goes_by_all_places_that_were_recorded(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.test_id("fit-more").click()
    assert "second place" in page.test_id("fit-more-fields").text
    with httpx.Client(base_url=page.address, timeout=60) as api:
        for place in ("Left ear", "Right ear"):
            api.patch("/api/rig", json={"position": place}).raise_for_status()
            api.post(f"{BASE}/takes", json={"channels": ["mid-l"], "purpose": "driver"}).raise_for_status()
            page.until(lambda: api.get("/api/progress").json()["stage"] == "kept")
    page.choose("Goes by", "All 3 places")
    page.button("Weigh a span").click()
    page.type_into("Weight 1 counts", "3")
    assert serious(page) == []
    page.after(page.test_id("fit").click)
    newest = httpx.get(f"{page.address}{BASE}", timeout=60).json()["revision"]
    assert newest["summary"].startswith("Fit Mid L over 3 places: ")
    # What was left alone is marked where it is, with why.
    marks = page.found("[data-testid=dips-left] [role=listitem]")
    said = page.test_id("left-alone").get_attribute("title").splitlines()
    assert len(marks) == len(said) > 0
    assert all("left alone, a" in one.get_attribute("aria-label") for one in marks)


def test_both_sides_are_tied_by_aspect_and_the_tiles_show_it(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.after(page.named("tie: level of Mid L and Mid R").click)
    page.after(page.named("tie: bands of Mid L and Mid R").click)
    tile = page.find("[aria-label^='Mid R, ']").get_attribute("aria-label")
    assert tile.endswith("corners and level and bands as on the other side")
    assert page.test_id("fit").text == "Fit Mid L + R"
    page.after(lambda: page.type_into("Gain of Mid L", "-2"))
    tune = httpx.get(f"{page.address}{BASE}", timeout=60).json()["tune"]
    assert [tune["channels"][name]["gain_db"] for name in ("mid-l", "mid-r")] == [-2, -2]
    assert serious(page) == []
    page.after(page.named("tied: level of Mid L and Mid R").click)
    page.until(lambda: "level" not in page.find("[aria-label^='Mid R, ']").get_attribute("aria-label"))
