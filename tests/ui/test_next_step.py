"""One button, pressed again and again: the line that says what comes next, and the plan behind it."""

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("next-step"), pytest.mark.pace(200)]
STAGES = ("rig", "source", "drivers", "seams", "voice", "proof", "handover")


def line(page: Page) -> tuple[str, str]:
    """The key of the step that can be pressed now and what its line says, both read at once; waits until one can."""
    read = """
        const line = document.querySelector("[data-testid=next-step]");
        return line?.dataset.fresh === "yes" ? [line.dataset.step, line.innerText] : null;
    """
    key, said = page.until(lambda: page.driver.execute_script(read), 120)
    return key, said


def step(page: Page) -> str:
    return line(page)[0]


def says(page: Page) -> str:
    return page.test_id("next-step").text


def leave_out(page: Page) -> None:
    """Choose to leave the step out, behind its button."""
    page.test_id("next-others").click()
    page.saying("[role=menuitem]", "Leave it out", exact=False).click()


@pytest.mark.walk
def test_one_button_leads_through_the_whole_job(page: Page) -> None:
    page.until(lambda: step(page) == "source")
    seen: list[str] = []
    last = ("", "")

    def other() -> tuple[str, str] | None:
        key, said = line(page)
        here = key, said.split(" · ")[0]
        return here if here != last else None  # the same: what was pressed has not begun to show yet

    while (here := page.until(other, 120))[0]:
        last = here
        seen.append(here[0])
        assert len(seen) < 60, seen
        if here[0] == "image":
            leave_out(page)  # what an ear hears is walked by itself
            continue
        if len(seen) % 2:
            page.test_id("next-button").click()
        else:
            page.key(Keys.ENTER)
    assert seen[:3] == ["source", "straighten", "remedy:midbass-r"]
    assert seen.count("align") == 2, seen  # proposed and looked at first, then taken
    assert "image" in seen
    assert seen[-1] == "store", seen
    page.until(lambda: "Nothing is left to do" in says(page))
    state = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()
    assert state["link"]["unsent"] == []
    assert state["link"]["active_slot"] == 1
    assert float(state["stages"]["proof"].strip("± dB")) < 3.0
    assert "/handover" in page.driver.current_url


def test_the_line_stands_in_every_stage_and_goes_to_the_place_of_its_step(page: Page) -> None:
    places = set()
    for stage in STAGES:
        page.stage(stage)
        page.settled()
        line = page.test_id("next-step")
        places.add((line.location["x"], line.location["y"], line.size["width"]))
        assert "Find out what the source does" in line.text
    assert len(places) == 1
    assert serious(page) == []
    # The other choices stand behind the button: here that the source is flat.
    page.test_id("next-others").click()
    page.saying("[role=menuitem]", "flat", exact=False).click()
    page.until(lambda: step(page) == "remedy:midbass-r")
    assert "/source" in page.driver.current_url  # what is left out shows where it belongs
    # A step is done by one who never looks at the line, too.
    page.stage("drivers")
    page.button("Invert Midbass R").click()
    page.until(lambda: step(page) == "spot:Left ear")
    page.named("Undo").click()
    page.until(lambda: step(page) == "remedy:midbass-r")


@pytest.mark.walk
def test_the_plan_lists_all_steps_and_takes_in_what_was_left_out(page: Page) -> None:
    page.until(lambda: step(page) == "source")
    page.key("g")
    row = page.test_id("step-source")
    assert "next" in row.text
    assert serious(page) == []
    row.find_element(By.XPATH, ".//button[contains(., 'Leave it out')]").click()
    page.until(lambda: "left out" in page.test_id("step-source").text)
    page.until(lambda: "next" in page.test_id("step-remedy:midbass-r").text)
    page.test_id("step-source").find_element(By.XPATH, ".//button[contains(., 'Take it in')]").click()
    page.until(lambda: "next" in page.test_id("step-source").text)
    page.test_id("step-align").find_element(By.XPATH, ".//button[contains(., 'Go there')]").click()
    page.until(lambda: "/seams" in page.driver.current_url)
    page.until(lambda: page.driver.find_elements(By.XPATH, "//h2[contains(., 'Align everything')]"))
