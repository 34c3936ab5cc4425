"""Seams of the whole in the browser: proposed, looked at, taken, sent, measured; and the null of a seam."""

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui import walk
from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("whole"), pytest.mark.pace(200), pytest.mark.walk]


def state(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()


def proposals(page: Page) -> list:
    return page.found("[data-testid=proposal]")


def propose(page: Page) -> None:
    page.button("Propose").click()
    said = "[data-testid=trouble], [data-testid=no-proposal]"
    page.until(lambda: proposals(page) or page.found(said))


def test_the_whole_is_proposed_looked_at_taken_and_measured(page: Page) -> None:
    page.stage("seams")
    page.button("Whole system").click()
    page.settled()
    assert serious(page) == []
    propose(page)
    shown = proposals(page)[0]
    assert "First crossovers, delays, polarity" in shown.text
    assert "→ 0.2 dB" in shown.text
    assert serious(page) == []
    # Resting on it lays it over plot and strip; nothing is kept.
    before = state(page)["revision"]["id"]
    ActionChains(page.driver).move_to_element(shown).perform()
    page.until(lambda: "not kept yet" in page.test_id("save-state").text)
    page.until(lambda: page.driver.find_elements(By.XPATH, "//*[contains(text(), 'as it would be')]"))
    shown.find_element(By.XPATH, ".//button[contains(., 'changes')]").click()
    assert any("Midbass R polarity: normal → inverted" in one.text for one in shown.find_elements(By.TAG_NAME, "li"))
    assert state(page)["revision"]["id"] == before
    ActionChains(page.driver).move_by_offset(-600, 0).perform()
    page.settled()
    page.after(lambda: page.named("Use: First crossovers, delays, polarity").click())
    page.settled()
    assert float(state(page)["stages"]["seams"].split()[0]) < 1.5
    # What stands now is proposed about again: nothing much is left to gain.
    propose(page)
    takes = len(state(page)["takes"])
    page.button("Send and record all").click()
    page.until(lambda: len(state(page)["takes"]) > takes, 120)
    kept = state(page)["takes"][0]
    assert (kept["purpose"], len(kept["channels"])) == ("proof", 7)
    assert not state(page)["link"]["unsent"]


def test_the_null_of_a_seam_is_recorded_and_says_that_the_polarity_is_right(page: Page) -> None:
    page.stage("seams")
    page.button("Whole system").click()
    propose(page)
    page.after(lambda: page.named("Use: First crossovers, delays, polarity").click())
    page.button("One seam").click()
    page.find(f"[aria-label*='{walk.PILLS['mid-tweeter']}']").click()
    page.settled()
    assert page.driver.find_elements(By.XPATH, "//*[contains(text(), '3.2 kHz suggested')]")
    page.button("Record the null").click()
    page.until(lambda: page.found("[data-testid=null]"), 120)
    assert "polarity right" in page.test_id("null").text
    assert serious(page) == []
    assert state(page)["takes"][0]["purpose"] == "null"


def test_what_is_missing_is_said_where_it_was_asked(page: Page) -> None:
    take = state(page)["drivers"]["mid-l"]["take_id"]
    httpx.put(f"{page.address}/api/projects/wren/takes/{take}/discarded", json={"discarded": True})
    page.stage("seams")
    page.button("Whole system").click()
    propose(page)
    assert "Mid L: no take yet; record every driver first" in page.test_id("trouble").text


def test_distances_by_tape_become_delays(page: Page) -> None:
    page.stage("seams")
    page.button("Whole system").click()
    page.button("Distances by tape").click()
    assert serious(page) == []
    for n, name in enumerate(walk.DRIVERS):
        field = page.find(f"[data-testid='distance-{name}'] input")
        field.click()
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(str(80 + 10 * n), Keys.ENTER)
        page.until(lambda n=n: sum(one["metres"] is not None for one in state(page)["distances"]["rows"]) == n + 1)
    page.after(lambda: page.button("Set delays by distance").click())
    delays = {name: one["delay_s"] for name, one in state(page)["tune"]["channels"].items()}
    assert delays[walk.DRIVERS[-1]] == 0
    assert abs(delays[walk.DRIVERS[0]] - 0.6 / 343.2) < 3e-5
