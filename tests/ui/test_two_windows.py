"""Two browsers on one project: each sees the other's change, edits of both survive or are refused in words."""

from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page, start_chromium

pytestmark = pytest.mark.xdist_group("two windows")


@pytest.fixture
def other(page: Page) -> Iterator[Page]:
    """A second window, of another browser, on the server of the first."""
    driver = start_chromium()
    made = Page(driver, page.address)
    made.open("voice")
    yield made
    driver.quit()


def tune(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()["tune"]["channels"]


def gain(page: Page, channel: str, shown: str) -> None:
    page.until(lambda: shown in page.find(f"[aria-label^='{channel},']").get_attribute("aria-label"))


def test_both_edit_and_each_sees_the_other(page: Page, other: Page) -> None:
    page.stage("voice")
    page.test_id("voice-sub").click()
    other.test_id("voice-mid-l").click()
    other.settled()
    page.after(lambda: page.key(Keys.ARROW_DOWN))
    gain(other, "Sub", "−0.1 dB")
    # The other window keeps its own selection, and keys that repeat add up whoever presses them.
    other.key(*[Keys.ARROW_UP] * 5)
    page.key(*[Keys.ARROW_DOWN] * 5)
    for window in (page, other):
        gain(window, "Sub", "−0.6 dB")
        gain(window, "Mid L", "0.5 dB")
    channels = tune(page)
    assert (channels["sub"]["gain_db"], channels["mid-l"]["gain_db"]) == pytest.approx((-0.6, 0.5), abs=1e-9)


@pytest.mark.walk
def test_a_draft_is_not_wiped_by_a_window_that_only_looks(page: Page, other: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.after(page.button("Add a band").click)
    before = page.revision()
    ActionChains(page.driver).click_and_hold(page.test_id("band-0")).move_by_offset(20, 10).move_by_offset(
        20, 10
    ).perform()
    page.until(lambda: "not kept yet" in page.test_id("save-state").text)
    other.stage("seams")
    other.stage("voice")
    other.test_id("voice-sub").click()
    other.after(lambda: other.key(Keys.ARROW_DOWN))
    assert "not kept yet" in page.test_id("save-state").text
    ActionChains(page.driver).release().perform()
    page.until(lambda: page.revision() >= before + 2)
    channels = tune(page)
    assert channels["sub"]["gain_db"] == pytest.approx(-0.1, abs=1e-9)
    assert len(channels["mid-l"]["bands"]) == 1


@pytest.mark.walk
def test_what_comes_too_late_is_refused_in_words(page: Page, other: Page) -> None:
    page.stage("voice")
    for window in (page, other):
        window.test_id("voice-sub").click()
        window.settled()
    # The other window does not hear: word of changes is taken out of what comes over its socket.
    other.driver.execute_script(
        "window.heard = JSON.parse; JSON.parse = (text) => {"
        " const told = window.heard(text); if (told) delete told.changed; return told; };"
    )
    page.after(lambda: page.type_into("Gain", "-3"))
    other.type_into("Gain", "-6")
    said = other.until(lambda: next(iter(other.found("[data-testid=trouble]")), None))
    assert "Another window has changed this since" in said.text
    assert "Sub: gain" in said.text
    assert tune(page)["sub"]["gain_db"] == -3
    gain(other, "Sub", "−3.0 dB")  # after the refusal it looks anew
    other.driver.execute_script("JSON.parse = window.heard;")
    page.after(lambda: page.key(Keys.ARROW_DOWN))
    gain(other, "Sub", "−3.1 dB")


def test_a_window_finds_its_way_without_an_address(page: Page, tmp_path: Path) -> None:
    page.driver.get(page.address)
    page.until(lambda: page.driver.current_url.endswith("/wren/drivers"))
    page.settled()
