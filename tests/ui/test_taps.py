"""FIR taps in the browser: linear-phase crossovers in Seams, taps found, looked at, taken and taken away in Voice."""

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

BASE = "/api/projects/wren"


def channel(page: Page, name: str) -> dict:
    return httpx.get(f"{page.address}{BASE}", timeout=60).json()["tune"]["channels"][name]


@pytest.mark.walk
def test_a_crossover_becomes_of_linear_phase_and_taps_are_found(page: Page) -> None:
    edits = [{"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3000}]
    httpx.put(f"{page.address}{BASE}/processor", json={"model": "eight-by-twelve"}, timeout=60)
    httpx.post(f"{page.address}{BASE}/edits", json={"edits": edits}, timeout=60)
    page.open("seams")
    page.find("[aria-label*='seam mid to tweeter']").click()
    page.settled()
    page.after(page.named("linear phase: Tweeter L high-pass").click)
    taps = channel(page, "mid-l")["low_pass"]["taps"]
    assert taps % 2 == 1
    assert page.named("linear phase: Mid L low-pass").text == f"linear, {taps} taps"
    page.choose("Slope", "96 dB")
    page.until(lambda: channel(page, "mid-r")["low_pass"]["slope_db"] == 96)
    page.after(page.named("linear phase: Tweeter L high-pass").click)
    assert channel(page, "tweeter-r")["high_pass"]["taps"] == 0

    page.stage("voice")
    page.test_id("voice-tweeter-l").click()
    page.settled()
    page.button("taps").click()
    page.until(lambda: page.test_id("taps"))
    page.type_into("Taps", "511")
    page.type_into("From", "2000")
    end = page.named("Lower end of the span")
    assert end.get_attribute("aria-valuenow") == "2000"
    page.drag(end, 40, 0)
    page.until(lambda: int(page.named("Lower end of the span").get_attribute("aria-valuenow")) > 2300)
    page.named("Lower end of the span").send_keys(Keys.ARROW_LEFT)
    page.type_into("From", "2000")
    page.test_id("find-taps").click()
    found = page.test_id("found-taps")
    assert "Tweeter L" in found.text
    assert "one spot" in found.text
    assert serious(page) == []
    before = channel(page, "tweeter-l")
    ActionChains(page.driver).move_to_element(found).perform()
    page.until(lambda: "not kept" in page.find("header").text)
    assert channel(page, "tweeter-l") == before  # resting on it keeps nothing
    page.after(page.named("Use these taps").click)
    kept = channel(page, "tweeter-l")["taps"]
    assert kept["says"].startswith("linear phase, 20")
    assert page.button("WAV") or page.find("a[href$='tweeter-l.wav']")
    page.stage("handover")
    page.test_id("handover-files").click()
    assert page.named("Taps of Tweeter L as WAV").get_attribute("href").endswith("/taps/tweeter-l.wav")
    page.stage("voice")
    page.choose("Below the plot", "Below: envelope")
    page.settled()
    limit = page.named("What may come before the pulse")
    assert limit.get_attribute("aria-valuetext") == "-40 dB earlier than 3.0 ms"
    page.drag(limit.find_element(By.TAG_NAME, "path"), -30, 12)
    page.until(lambda: float(page.named("What may come before the pulse").get_attribute("aria-valuenow")) > 3.2)
    page.named("What may come before the pulse").send_keys(Keys.ARROW_UP)
    page.choose("Below the plot", "Below: group delay")
    page.settled()
    delay = page.named("Largest delay that is corrected")
    assert delay.get_attribute("aria-valuetext") == "5.00 ms"
    page.drag(delay.find_element(By.TAG_NAME, "rect"), 0, 12)
    page.until(lambda: float(page.named("Largest delay that is corrected").get_attribute("aria-valuenow")) < 4.8)
    turned = float(page.named("Largest delay that is corrected").get_attribute("aria-valuenow"))
    page.named("Largest delay that is corrected").send_keys(Keys.ARROW_UP)
    page.until(lambda: float(page.named("Largest delay that is corrected").get_attribute("aria-valuenow")) > turned)
    page.choose("Below the plot", "Below: step")
    page.settled()
    assert page.named("What may come before the pulse")
    page.after(page.button("Take away").click)
    assert channel(page, "tweeter-l")["taps"] is None
    assert not page.found("a[href$='tweeter-l.wav']")
    # Limits by band are drawn over the correction, and dragged there; the tolerance about the target.
    page.choose("Below the plot", "Below: correction")
    page.button("more").click()
    assert not page.button("For one chair").is_enabled()
    page.button("Level too").click()
    page.choose("Smoothed", "1/24 oct")
    page.button("For one chair").click()
    assert page.button("For one chair").get_attribute("aria-pressed") == "true"
    page.button("For one chair").click()
    page.button("Limit a band").click()

    def at(name: str) -> float:
        return float(page.named(name).get_attribute("aria-valuenow"))

    page.type_into("Band 1 from, Hz", "4000")
    page.type_into("Band 1 to, Hz", "9000")
    page.drag(page.named("Boost limit of band 1").find_element(By.TAG_NAME, "rect"), 0, -20)
    page.until(lambda: at("Boost limit of band 1") > at("Boost limit") == 4)
    page.named("Cut limit").send_keys(Keys.ARROW_UP)
    page.until(lambda: at("Cut limit") == 11.5)
    page.named("Tolerance of band 1").send_keys(Keys.ARROW_UP)
    page.until(lambda: page.named("Leave of band 1, dB").get_attribute("value") == "0.5")
    assert serious(page) == []
    page.named("Remove band 1 of limits").click()
    page.until(lambda: not page.found("[aria-label='Boost limit of band 1']"))
    page.type_into("Taps", "31")
    page.type_into("To", "6000")
    page.test_id("find-taps").click()
    page.until(lambda: "reach down to" in page.test_id("trouble").text)
