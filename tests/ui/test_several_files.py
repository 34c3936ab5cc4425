"""A folder of recordings is brought at once: sorted by name, changed by hand, what cannot be used named beside it."""

from pathlib import Path

import httpx
import numpy as np
import pytest
from selenium.webdriver.common.by import By

from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.formats.wav import write_wav
from tests.ui.browser import Page
from tests.ui.test_interface import serious


def heard(settings: SweepSettings, gain: float) -> bytes:
    """The sweep, somewhat late, over a little noise."""
    played = np.concatenate((np.zeros(20_000), gain * exponential_sweep(settings).samples, np.zeros(20_000)))
    return write_wav(played + 1e-5 * np.random.default_rng(4).standard_normal(played.size), settings.rate)


@pytest.mark.walk
def test_recordings_go_to_the_drivers_that_their_names_tell_of(page: Page, tmp_path: Path) -> None:
    httpx.get(f"{page.address}/api/projects/wren/sweep.zip").raise_for_status()
    rig = httpx.get(f"{page.address}/api/rig").json()["sweep"]
    sweep = SweepSettings(rig["low_hz"], rig["high_hz"], rig["length"], rig["level_db"], rate=48_000)
    names = {"Mid L again.wav": 0.5, "tweeter_right.wav": 0.25, "holiday.wav": 0.3, "Sub.wav": 0.0}
    for name, gain in names.items():
        (tmp_path / name).write_bytes(heard(sweep, gain))
    page.open("drivers")
    page.button("Files").click()
    before = {one["id"] for one in httpx.get(f"{page.address}/api/projects/wren").json()["takes"]}
    chosen = page.driver.find_element(By.CSS_SELECTOR, "[data-testid=bring-many]")
    chosen.send_keys("\n".join(str(tmp_path / name) for name in names))
    page.until(lambda: page.named("Driver of Mid L again.wav").text == "Mid L")
    assert page.named("Driver of tweeter_right.wav").text == "Tweeter R"
    assert page.named("Driver of holiday.wav").text == "left out"
    assert serious(page) == []
    page.choose("Driver of holiday.wav", "Midbass L")
    page.button("Bring 4 files").click()
    many = page.test_id("many")
    page.until(lambda: many.text.count("brought") == 3)
    page.until(lambda: "silent" in many.text or "nothing" in many.text or "none of the sweeps" in many.text)
    takes = httpx.get(f"{page.address}/api/projects/wren").json()["takes"]
    made = {one["note"]: one["channels"] for one in takes if one["id"] not in before}
    assert made == {"Mid L again.wav": ["mid-l"], "tweeter_right.wav": ["tweeter-r"], "holiday.wav": ["midbass-l"]}
    # The one that was refused can go, or be given to another; the others stay.
    page.button("Close").click()
    page.until(lambda: not page.found("[data-testid=many]"))
