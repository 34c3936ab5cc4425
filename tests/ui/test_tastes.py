"""Tastes in the browser: a slot of each, loaded to be heard."""

import httpx
import pytest

from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("next-step"), pytest.mark.pace(200)]


@pytest.mark.walk
def test_a_slot_of_each_taste_is_made_and_loaded(page: Page) -> None:
    httpx.post(f"{page.address}/api/projects/wren/proposals/first", json={}, timeout=60)
    page.stage("handover")
    page.test_id("send").click()
    page.until(lambda: page.found("[data-testid=all-sent]"))
    for name in ("Flat", "Even tilt"):
        page.saying("label", name).click()
    assert serious(page) == []
    page.test_id("make-tastes").click()
    page.until(lambda: "Even tilt" in page.test_id("slot-2").text)
    assert "Flat" in page.test_id("slot-1").text
    assert page.found("[data-testid=all-sent]")  # the tune plays again
    page.named("Load slot 1").click()
    page.until(lambda: "active" in page.test_id("slot-1").text)
