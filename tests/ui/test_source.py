"""Source in the browser: from wires to straight, summed, routed and sent; troubles named and put right."""

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui import walk
from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("source"), pytest.mark.pace(200)]


def source(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren/source", timeout=60).json()


def feeds(page: Page) -> list[int]:
    return [one["number"] for one in source(page)["inputs"] if one["feed"]]


def test_from_wires_to_straight_summed_routed_and_sent(page: Page) -> None:
    page.key("2")
    page.until(lambda: page.driver.current_url.endswith("/source"))
    assert serious(page) == []
    walk.record_wires(page)
    assert "inverted" in page.test_id("feed-4").text
    page.test_id("feed-2").click()
    assert "all-pass at 430 Hz, Q 0.80" in page.test_id("feed-facts").text
    assert "cuts the bass" in page.test_id("source-notes").text
    page.test_id("straighten").click()
    page.until(lambda: page.driver.find_elements(By.XPATH, "//*[contains(text(), '4 of 4 straight')]"))
    page.until(lambda: "→" in page.test_id("feed-1").text)
    for number in range(1, 5):
        shown = page.test_id(f"feed-{number}").text
        assert float(shown.rsplit("→", 1)[1].split()[0]) <= 0.5
    assert serious(page) == []
    page.test_id("source-sum").click()
    page.settled()
    sums = page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=sum]")
    assert "−23" in sums[0].text
    assert "+6.0 dB" in sums[0].text
    sums[1].click()
    page.settled()
    assert serious(page) == []
    page.test_id("source-route").click()
    page.test_id("route-bass-all").click()
    page.until(lambda: "Sub hears front left + front right + rear left + rear right" in page.test_id("hears").text)
    page.named("Mid L hears Rear left").click()
    page.until(lambda: "Mid L hears front left + rear left, −6.0 dB each" in page.test_id("hears").text)
    assert serious(page) == []
    page.stage("proof")
    page.test_id("proof-by-source").click()
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=plus-minus]"), 180)
    kept = httpx.get(f"{page.address}/api/projects/wren").json()["takes"][0]
    assert (kept["purpose"], kept["method"]) == ("proof", "source")
    assert serious(page) == []
    page.stage("handover")
    page.test_id("all-sent")
    page.named("Undo").click()
    page.until(lambda: source(page)["hears"][3]["inputs"] == [1])


def test_exchanged_wires_and_a_stopped_track_are_said(page: Page) -> None:
    now = httpx.get(f"{page.address}/api/projects/wren").json()["rig"]["practice"]
    httpx.put(f"{page.address}/api/rig/practice", json={**now, "track_stops": True})
    page.stage("source")
    page.test_id("record-wires").click()
    assert "track" in page.test_id("source-says").text
    assert feeds(page) == []
    httpx.put(f"{page.address}/api/rig/practice", json={**now, "wires_exchanged": True})
    page.key(Keys.SPACE)
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=put-right]"), 120)[0].click()
    page.until(lambda: source(page)["exchanged"] is None)
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=put-right]"))
    assert "Front right" in page.test_id("feed-1").text
    assert serious(page) == []
