"""Passive parts in the browser: a network begun, a part turned and taken out, values searched for and used."""

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

BASE = "/api/projects/wren/passive"


def kept(page: Page) -> dict:
    return httpx.get(f"{page.address}{BASE}", timeout=60).json()


@pytest.mark.walk
def test_a_network_is_begun_turned_and_searched_for(page: Page) -> None:
    page.test_id("tab-passive").click()
    page.button("Tweeter L").click()
    page.find("[aria-label='Drivers of the network'] button[value=mid-l]").click()
    page.type_into("They meet at", "3200")
    page.test_id("begin-network").click()
    page.until(lambda: kept(page)["bench"] is not None)
    page.test_id("passive-worth")
    assert page.find("[aria-label='Load of the amplifier']")
    assert serious(page) == []
    page.type_into("L1", "0.5")
    page.until(lambda: abs(kept(page)["parts"][0]["value"] - 0.5e-3) < 1e-9)
    assert "book" in page.find("aside, [role=complementary]").text or "book" in page.find("body").text
    page.named("L1, coil in series").click()
    page.until(lambda: page.named("L1, coil in series").get_attribute("aria-pressed") == "true")
    before = kept(page)["parts"][0]["value"]
    page.drag(page.named("L1, coil in series"), 0, -24)
    page.until(lambda: kept(page)["parts"][0]["value"] > 1.2 * before)
    turned = kept(page)["parts"][0]["value"]
    page.driver.execute_script("arguments[0].focus()", page.named("L1, coil in series"))
    page.key(Keys.ARROW_DOWN)
    page.until(lambda: abs(kept(page)["parts"][0]["value"] / turned * 2 ** (1 / 12) - 1) < 1e-3)
    page.button("leads exchanged").click()
    page.until(lambda: not kept(page)["bench"]["network"]["branches"][1]["inverted"])
    page.named("Take R1 out").click()
    page.until(lambda: "R1" not in [one["name"] for one in kept(page)["parts"]])
    page.test_id("search-values").click()
    page.until(lambda: page.test_id("passive-found"))
    before = kept(page)["worth"]["rms_db"]
    page.button("use").click()
    page.until(lambda: kept(page)["worth"]["rms_db"] < before)
    page.button("begin anew").click()
    page.until(lambda: kept(page)["bench"] is None)
    page.test_id("begin-network")


def begin(page: Page) -> None:
    body = {"drivers": ["tweeter-l", "mid-l"], "meetings": [{"hertz": 3200, "slope_db": 12}]}
    assert httpx.post(f"{page.address}{BASE}/begin", json=body, timeout=60).status_code == 200


@pytest.mark.walk
def test_parts_are_clipped_in_and_out_while_the_jig_is_watched(page: Page) -> None:
    begin(page)
    page.test_id("tab-passive").click()
    page.test_id("passive-jig").click()
    page.test_id("all-in").click()
    page.until(lambda: len(page.driver.find_elements(By.XPATH, "//button[.='on the clips']")) == 2)
    page.test_id("watch-jig").click()
    page.until(lambda: "nothing is missing" in page.test_id("looks").text)
    assert serious(page) == []
    page.named("C2, capacitor in series").click()
    page.until(lambda: "without C2" in page.test_id("looks").text)
    assert page.named("C2, capacitor in series").get_attribute("aria-pressed") == "false"
    page.test_id("watch-jig").click()
    page.until(lambda: page.test_id("watch-jig").text == "Watch")
    page.test_id("measure-network").click()
    page.until(lambda: "without C2" in page.test_id("jig-says").text)
    page.until(lambda: "measured behind it" in page.find("[aria-label^='Load of the amplifier']").text)
