"""A project leaves as one file and is opened from the page, where it is refused in words if it is none."""

from pathlib import Path

import httpx
import pytest

from tests.ui.browser import Page


@pytest.mark.walk
def test_a_project_is_saved_opened_and_refused(page: Page, tmp_path: Path) -> None:
    page.stage("handover")
    page.test_id("handover-customer").click()
    page.named("Your shop").send_keys("Lapwing & Sons")
    report = httpx.get(page.test_id("report").get_attribute("href"), timeout=60).text
    assert "Lapwing &amp; Sons" in report
    assert "7 of 7 loudspeakers" in report
    page.test_id("handover-files").click()
    link = page.test_id("whole-project").get_attribute("href")
    saved = tmp_path / "van.imbrix"
    saved.write_bytes(httpx.get(link, timeout=60).content)
    (tmp_path / "other.imbrix").write_bytes(b"no project")
    page.test_id("project").click()
    page.test_id("open-system").click()
    page.test_id("copy-now")
    page.driver.find_element("css selector", "[data-testid=project-file]").send_keys(str(tmp_path / "other.imbrix"))
    page.until(lambda: "not a project file" in page.test_id("project-file-says").text)
    page.driver.find_element("css selector", "[data-testid=project-file]").send_keys(str(saved))
    page.until(lambda: "/wren-book-van/drivers" in page.driver.current_url)
    page.settled()
    state = httpx.get(f"{page.address}/api/projects/wren-book-van", timeout=60).json()
    assert len(state["takes"]) == 14
    assert "7 of 7" in page.test_id("stage-drivers").text
