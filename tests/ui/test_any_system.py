"""Systems with groups, and processors, as a person builds and changes them."""

import sqlite3
from contextlib import closing
from pathlib import Path

import httpx
import pytest
from selenium import webdriver
from selenium.webdriver.common.by import By

from imbrix.cli import serve
from imbrix.core.tune.models import SMALL
from imbrix.formats.processor_model import write_model
from tests.ui.browser import Page
from tests.ui.conftest import start
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("views"), pytest.mark.pace(200)]


def open_system(page: Page) -> None:
    page.test_id("project").click()
    page.test_id("open-system").click()
    page.test_id("begin-project")


@pytest.mark.walk
def test_a_whole_car_is_begun_and_its_groups_fold(page: Page) -> None:
    open_system(page)
    page.choose("Layout", "Three-way front, two-way rear")
    page.choose("Processor", "Eight by twelve")
    assert not page.test_id("begin-project").is_enabled()
    page.button("Make the rear passive (frees 2 outputs)").click()
    page.named("Name of the new project").send_keys("Estate")
    page.until(lambda: page.test_id("begin-project").is_enabled())
    page.test_id("begin-project").click()
    page.until(lambda: "/estate/drivers" in page.driver.current_url)
    page.settled()
    strip = page.named("Band strip")
    assert "Sub 2" in strip.text
    assert "Midbass L" in strip.text
    page.find("[aria-label^='Open Centre']").click()
    page.until(lambda: page.found("[aria-label^='Open Front']"))
    assert "Sub 2" not in page.named("Band strip").text
    page.find("[aria-label^='Centre tweeter,']").click()
    page.until(lambda: "Record Centre tweeter" in page.find("aside").text)
    page.stage("seams")
    page.choose("Which seam", "Sub ↔ Sub 2")
    page.settled()
    assert "Sub 2 against Sub" in page.find("aside").text
    page.until(lambda: page.found("[aria-label^='Open Rear']"))
    page.choose("Which seam", "Rear midbass L ↔ Rear midbass R")
    page.settled()
    page.until(lambda: page.found("[aria-label^='Open Front']"))


@pytest.mark.walk
def test_no_name_on_the_strip_runs_into_another_with_fourteen_channels(page: Page, tmp_path: Path) -> None:
    """Before corners are set, at 1280 px: the words of the tiles of one row are apart from each other."""
    large = SMALL.model_copy(update={"name": "Fourteen", "outputs": 14})
    (tmp_path / "large.json").write_text(write_model(large))
    open_system(page)
    page.driver.find_element(By.CSS_SELECTOR, "[data-testid='bring-model']").send_keys(str(tmp_path / "large.json"))
    page.until(lambda: "Fourteen" in page.named("Processor of this project").text)
    page.choose("Layout", "Three-way front, two-way rear")
    page.choose("Processor", "Fourteen")
    page.named("Name of the new project").send_keys("Coach")
    page.until(lambda: page.test_id("begin-project").is_enabled())
    page.test_id("begin-project").click()
    page.until(lambda: "/coach/drivers" in page.driver.current_url)
    page.settled()
    for group in ("Front", "Centre", "Rear"):
        opening = page.found(f"[aria-label^='Open {group}']")
        for one in opening:
            one.click()
        boxes = page.until(
            lambda: page.driver.execute_script(
                "return [...document.querySelectorAll('[aria-label=\"Band strip\"] text[font-weight]')]"
                ".map((t) => t.getBoundingClientRect()).map((b) => [b.left, b.right, b.top, b.bottom])"
            )
        )
        assert len(boxes) >= 4
        for n, (left, right, top, bottom) in enumerate(boxes):
            for other in boxes[n + 1 :]:
                apart = other[0] >= right - 1 or other[1] <= left + 1 or other[2] >= bottom - 3 or other[3] <= top + 3
                assert apart, (group, boxes[n], other)


@pytest.mark.walk
def test_a_smaller_processor_says_what_does_not_fit_and_is_made_to(page: Page, tmp_path: Path) -> None:
    (tmp_path / "small.json").write_text(write_model(SMALL.model_copy(update={"name": "Modest", "outputs": 8})))
    steep = {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "slope_db": 48, "corner_hz": 3000}
    page.after(lambda: httpx.post(f"{page.address}/api/projects/wren/edits", json={"edits": [steep]}))
    open_system(page)
    page.driver.find_element(By.CSS_SELECTOR, "[data-testid='bring-model']").send_keys(str(tmp_path / "small.json"))
    page.until(lambda: "Modest" in page.named("Processor of this project").text)
    assert "48 dB per octave is beyond its 24" in page.test_id("misfits").text
    page.button("Set the nearest that it can do").click()
    page.until(lambda: not page.found("[data-testid='misfits']"))
    (tmp_path / "bad.json").write_text(write_model(SMALL).replace('"slots": 2', '"slots": -2'))
    page.driver.find_element(By.CSS_SELECTOR, "[data-testid='bring-model']").send_keys(str(tmp_path / "bad.json"))
    page.until(lambda: "model.slots" in page.test_id("trouble").text)


def test_an_empty_folder_offers_the_first_step(tmp_path: Path, chromium: webdriver.Chrome) -> None:
    """Without a project the address of the server alone leads to a beginning, and from there to the rig."""
    process, address = start(serve, tmp_path / "own", "/api/projects")
    page = Page(chromium, address)
    chromium.get(address)
    page.named("Name of the new project").send_keys("My hatchback")
    assert "no project here yet" in page.find("main").text
    page.choose("Layout", "Two-way front and sub")
    page.test_id("begin-project").click()
    page.until(lambda: "/my-hatchback/rig" in chromium.current_url)
    page.settled()
    chromium.get(address)
    page.until(lambda: "/my-hatchback/drivers" in chromium.current_url)
    process.kill()
    process.join()


@pytest.mark.walk
def test_a_copy_of_everything_is_made_by_one_button(page: Page, tmp_path: Path) -> None:
    open_system(page)
    page.until(lambda: "data folder" in page.test_id("copies").text or "None yet" in page.test_id("copies").text)
    before = set((tmp_path / "ui" / "backups").glob("*.db"))
    page.test_id("copy-now").click()

    def shown() -> Path | None:
        fresh = set((tmp_path / "ui" / "backups").glob("*.db")) - before  # that of the day may come meanwhile
        told = page.test_id("copies").text
        return next((one for one in fresh if one.name in told), None)

    made = page.until(shown)
    page.until(lambda: page.test_id("copy-now").text == "Copy now")
    with closing(sqlite3.connect(made)) as connection:
        assert connection.execute("SELECT count(*) FROM take").fetchone()[0] >= 7
    assert serious(page) == []
