"""What a person would have stumbled over once: each fault of the page with a walk that would have shown it."""

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page


def state(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()


def cut(page: Page, css: str) -> list[str]:
    """The words of elements that do not fit into their room."""
    return page.driver.execute_script(
        "return [...document.querySelectorAll(arguments[0])]"
        ".filter((one) => one.scrollWidth > one.clientWidth + 1).map((one) => one.textContent)",
        css,
    )


@pytest.mark.walk
def test_the_outer_ends_of_the_strip_have_fields(page: Page) -> None:
    page.stage("seams")
    page.find("[aria-label*='seam sub to midbass']").click()
    page.settled()
    page.button("Outer end").click()
    page.until(lambda: "Sub high-pass" in page.find("aside").text)
    boxes = [one for one in page.found("aside button") if "Set a high-pass" in one.text]
    page.after(boxes[-1].click)
    begin = state(page)["corners"]["sub"]["high_pass"]["hertz"]
    assert state(page)["tune"]["channels"]["sub"]["high_pass"]["corner_hz"] == begin
    page.after(lambda: page.type_into("Sub high-pass corner", "25"))
    assert state(page)["tune"]["channels"]["sub"]["high_pass"]["corner_hz"] == 25
    page.find("[aria-label*='seam mid to tweeter']").click()
    page.until(lambda: "Tweeter L low-pass" in page.find("aside").text)


def test_no_heading_is_cut_off_and_no_seam_is_a_sentence(page: Page) -> None:
    for stage in ("source", "drivers", "seams", "voice", "proof", "handover", "rig"):
        page.stage(stage)
        assert cut(page, "main h2, main h2 + p") == [], stage
    layout = state(page)["layout"]
    layout["drivers"] = [one for one in layout["drivers"] if one["id"] == "sub"]
    httpx.put(f"{page.address}/api/projects/wren/layout", json=layout, timeout=60).raise_for_status()
    page.stage("seams")
    page.until(lambda: "there is none" in page.find("aside").text)
    assert not page.found("[data-testid=broken]")
    page.stage("voice")
    assert "no server" not in page.test_id("save-state").text


@pytest.mark.walk
def test_keys_that_repeat_add_up_and_the_last_answer_is_the_last_command(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.key(*[Keys.ARROW_DOWN] * 12)
    page.until(lambda: round(state(page)["tune"]["channels"]["mid-l"]["gain_db"], 1) == -1.2)
    page.until(lambda: "−1.2 dB" in page.find("[aria-label^='Mid L,']").get_attribute("aria-label"))
    page.key(*[Keys.ARROW_UP] * 7, *["."] * 5)
    page.until(lambda: round(state(page)["tune"]["channels"]["mid-l"]["delay_s"] * 48_000) == 5)
    page.settled()
    assert round(state(page)["tune"]["channels"]["mid-l"]["gain_db"], 1) == -0.5
    assert "−0.5 dB" in page.find("[aria-label^='Mid L,']").get_attribute("aria-label")


def test_a_view_that_fails_leaves_the_rest_of_the_page_and_a_way_on(page: Page) -> None:
    # A picture whose facts are not what they should be: as a bug in the server would send it.
    page.driver.execute_script(
        "window.heard = JSON.parse; JSON.parse = (text) => {"
        " const told = window.heard(text); if (told && told.facts) told.facts = null; return told; };"
    )
    page.test_id("stage-seams").click()
    page.test_id("broken")
    assert "Nothing is lost" in page.test_id("broken").text
    assert page.test_id("stage-voice").is_displayed()
    page.driver.execute_script("JSON.parse = window.heard;")
    page.test_id("stage-handover").click()
    page.until(lambda: not page.found("[data-testid=broken]"))
    page.settled()


@pytest.mark.walk
def test_the_api_is_described_on_a_page_of_ours(page: Page) -> None:
    page.driver.get(f"{page.address}/api/docs")
    # Only what is in sight is drawn of so long a list.
    page.until(lambda: "Begin a project" in page.driver.find_element(By.TAG_NAME, "body").text)
    foreign = page.driver.execute_script(
        "return performance.getEntriesByType('resource').map((one) => one.name)"
        ".filter((name) => !name.startsWith(location.origin) && !name.startsWith('data:'))"
    )
    assert foreign == []
