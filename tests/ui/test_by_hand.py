"""A processor without a link: the list to type from is large, is ticked off by key, and outlives the page."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

HIGH_PASS = {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3150, "slope_db": 24}


def left(page: Page) -> list[str]:
    state = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()
    return [f"{one['channel']} · {one['what']}" for one in state["link"]["unsent"]]


@pytest.mark.walk
def test_a_list_is_typed_from_by_keys_and_outlives_the_page(page: Page) -> None:
    edits = [HIGH_PASS, {"do": "channel", "channel": "sub", "gain_db": -4, "delay_s": 0.002}]
    httpx.post(f"{page.address}/api/projects/wren/edits", json={"edits": edits}, timeout=60).raise_for_status()
    page.stage("handover")
    page.test_id("type-from-neutral").click()
    page.test_id("turn")
    asked = left(page)
    assert "Tweeter L · high-pass" in asked
    assert asked[0] in page.test_id("turn").text
    assert serious(page) == []
    page.key("t")
    page.until(lambda: asked[1] in page.test_id("turn").text)
    page.key("t")
    page.until(lambda: asked[2] in page.test_id("turn").text)
    page.key(Keys.BACKSPACE)
    page.until(lambda: asked[1] in page.test_id("turn").text)
    page.driver.refresh()
    page.until(lambda: asked[1] in page.test_id("turn").text)
    for n in range(1, len(asked)):
        page.until(lambda at=n: asked[at] in page.test_id("turn").text)
        page.key("t")
    page.test_id("all-typed")
    assert "all typed" in page.find("aside").text
    assert "Typed by hand · all typed" in page.find("header").text
    page.test_id("end-typing").click()
    page.test_id("all-sent")
