"""The target bent in the browser: by figures, by a point under the mouse and under the keys; and the headroom told."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("next-step"), pytest.mark.pace(200), pytest.mark.walk]


def target(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()["tune"]["target"]


def test_the_target_is_bent_by_figures_mouse_and_keys_and_put_back(page: Page) -> None:
    page.stage("voice")
    page.settled()
    page.button("Bend it").click()
    page.after(lambda: page.type_into("Bass lift", "4"))
    page.after(lambda: page.type_into("Tilt per octave", "-0.25"))
    assert (target(page)["bass_db"], target(page)["tilt_db"]) == (4, -0.25)
    page.after(lambda: page.button("Add a point").click())
    assert target(page)["bends"] == [{"frequency_hz": 693, "level_db": 0}]
    assert serious(page) == []
    page.after(lambda: page.drag(page.test_id("bend-0"), 60, -30))
    (bend,) = target(page)["bends"]
    assert bend["frequency_hz"] > 900
    assert bend["level_db"] > 1
    page.test_id("bend-0").click()
    page.after(lambda: page.key(Keys.ARROW_DOWN))
    assert target(page)["bends"][0]["level_db"] == pytest.approx(bend["level_db"] - 0.1)
    page.after(lambda: page.key(Keys.DELETE))
    assert target(page)["bends"] == []
    page.after(lambda: page.button("As it comes").click())
    assert (target(page)["bass_db"], target(page)["tilt_db"]) == (0, 0)


def test_a_gain_that_clips_is_told_with_its_peaks_and_brought_down_by_a_button(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.after(lambda: page.type_into("Gain of Mid L", "5"))
    finding = page.test_id("finding")
    assert "Mid L can clip: +5.0 dB over full scale" in finding.text
    assert "Full scale comes out at +5.0 dB" in page.test_id("headroom").text
    level = target(page)["level_db"]
    page.after(lambda: page.button("Bring all gains down by 5.0 dB").click())
    assert target(page)["level_db"] == pytest.approx(level - 5, abs=0.05)
    state = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()
    assert state["tune"]["channels"]["mid-l"]["gain_db"] == pytest.approx(0, abs=0.05)
    assert state["tune"]["channels"]["mid-r"]["gain_db"] == pytest.approx(-5, abs=0.05)
    assert not [one for one in state["findings"] if one["kind"] == "clip"]


def test_one_side_is_matched_to_the_other_or_gets_its_bands(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.after(lambda: page.test_id("fit").click())
    page.after(lambda: page.button("Copy to Mid R").click())
    state = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()
    channels = state["tune"]["channels"]
    assert channels["mid-r"]["bands"] == channels["mid-l"]["bands"] != []
    # A band is bypassed, and back, by its own switch.
    page.after(lambda: page.named("Band 1 works").click())
    state = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()
    assert state["tune"]["channels"]["mid-l"]["bands"][0]["off"]
    page.after(lambda: page.named("Band 1 works").click())
    page.test_id("voice-mid-r").click()
    page.settled()
    page.after(lambda: page.button("Match Mid L").click())
    state = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()
    assert state["revision"]["summary"].startswith("Fit Mid R to Mid L: ")
    assert state["tune"]["channels"]["mid-r"]["bands"] != channels["mid-l"]["bands"]
