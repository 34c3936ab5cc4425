"""The image in the browser: heard by keys alone, in the dark, and what is proposed brings it to the centre."""

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("next-step"), pytest.mark.pace(200)]
BANDS = ("125 Hz", "250 Hz", "500 Hz", "1 kHz", "2 kHz", "4 kHz", "8 kHz")


def image(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren/image", timeout=60).json()


def states(page: Page) -> list[str]:
    return [one["state"] for one in image(page)["bands"]]


def answered(page: Page, band: str) -> None:
    """Hear a band as the stand-in's listener does, by keys: the sound goes on with the next band."""
    page.until(lambda: page.test_id("image-band").text == band)
    page.until(lambda: page.found("[data-testid=image-listener]"))
    page.key("a", Keys.ENTER)


@pytest.mark.walk
def test_the_image_is_heard_by_keys_and_mended(page: Page) -> None:
    api = httpx.Client(base_url=page.address, timeout=60)
    api.post("/api/projects/wren/proposals/first", json={})
    softer = [{"do": "channel", "channel": f"{way}-r", "gain_db": -9} for way in ("midbass", "mid", "tweeter")]
    api.post("/api/projects/wren/edits", json={"edits": softer})
    page.stage("proof")
    page.test_id("proof-image").click()
    assert page.test_id("image-band").text == "125 Hz"
    assert "Send and play" in page.test_id("image-play").text
    page.key(" ")  # sends, and plays
    for band in BANDS:
        answered(page, band)
    page.until(lambda: states(page) == ["heard"] * 7)
    assert any(one["stands"]["sounds"] == "left" for one in image(page)["bands"])
    if page.driver.find_elements(By.XPATH, "//button[text()='Stop']"):
        page.key(" ")
    mending = page.until(lambda: page.found("[data-testid=mending]"))[0]
    assert serious(page) == []
    ActionChains(page.driver).move_to_element(mending).perform()  # laid over, not taken
    page.until(lambda: page.driver.execute_script("return document.documentElement.dataset.settled") == "no")
    before = page.revision()
    page.button("Take it, then hear again").click()
    page.until(lambda: page.revision() > before)
    page.until(lambda: "again" in states(page))
    page.until(lambda: "Send and play" in page.test_id("image-play").text)


def test_a_mark_is_put_by_the_mouse_split_by_a_key_and_named(page: Page) -> None:
    page.stage("proof")
    page.test_id("proof-image").click()
    arc = page.test_id("image-arc")
    assert arc.get_attribute("aria-valuetext") == "centre"
    ActionChains(page.driver).move_to_element_with_offset(arc, 150, -60).click().perform()
    page.until(lambda: "to the right" in (page.test_id("image-arc").get_attribute("aria-valuetext") or ""))
    page.key("x")
    page.until(lambda: len(page.found("[data-testid=image-mark]")) == 2)
    page.key("x")
    for _ in range(3):
        page.key(Keys.ARROW_LEFT)
    page.key(Keys.ARROW_UP)
    page.until(lambda: page.test_id("image-band").text == "250 Hz")
    page.key(Keys.ARROW_LEFT)
    page.until(lambda: page.test_id("image-arc").get_attribute("aria-valuetext") == "10 % to the left")
    page.saying("label", "blind").click()
    page.until(lambda: page.test_id("image-band").text == "· · ·")
