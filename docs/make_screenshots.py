"""Make the pictures in docs/screenshots from the demo: the whole job is walked, each view pictured on the way."""

import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.ui import walk  # noqa: E402
from tests.ui.browser import Page, start_chromium  # noqa: E402

SHOTS = ROOT / "docs/screenshots"
PORT = 8797


GROWING = "[data-testid=averages]"


def look_closer(page: Page, below: str) -> None:
    """Choose what stands below the main plot of Drivers."""
    page.named("Below the plot").click()
    page.until(lambda: [o for o in page.driver.find_elements(By.CSS_SELECTOR, "[role=option]") if o.text == below])[
        0
    ].click()
    page.settled()


def turned(page: Page) -> float:
    return httpx.get(f"{page.address}/api/rig", timeout=30).json()["practice"]["turned_deg"]


def take_by_angle(page: Page) -> None:
    """Mid L from three more angles."""
    page.test_id("tab-record").click()
    for degrees in ("20", "40", "60"):
        page.test_id("practice").click()
        page.type_into("Drivers turned away by", degrees)
        page.until(lambda d=degrees: turned(page) == float(d))
        page.key(Keys.ESCAPE)
        page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
        page.test_id("driver-mid-l").click()
        page.type_into("Off the axis by", degrees)
        walk.record_one(page)
    httpx.put(f"{page.address}/api/rig/practice", json={}, timeout=30)
    page.test_id("driver-mid-l").click()
    page.type_into("Off the axis by", "0")


def proposals(page: Page) -> None:
    """What is proposed for the whole, the first of it laid over the plot; nothing is taken."""
    page.stage("seams")
    page.button("Whole system").click()
    page.button("Propose an alignment").click()
    first = page.test_id("proposal")
    ActionChains(page.driver).move_to_element(first).perform()
    page.until(lambda: "not kept yet" in page.test_id("save-state").text)
    page.until(lambda: page.driver.find_elements(By.XPATH, "//*[contains(text(), 'as it would be')]"))
    page.driver.save_screenshot(str(SHOTS / "seams-whole.png"))
    page.button("One seam").click()
    page.settled()


def image(page: Page) -> None:
    """Hear every band as ears do that are off in some, and rest on what mends it."""
    rig = httpx.get(f"{page.address}/api/rig", timeout=30).json()
    httpx.put(f"{page.address}/api/rig/practice", json={**rig["practice"], "ears": 3}, timeout=30)
    page.test_id("proof-image").click()
    page.key(Keys.SPACE)
    for band in ("125 Hz", "250 Hz", "500 Hz", "1 kHz", "2 kHz", "4 kHz", "8 kHz"):
        page.until(lambda band=band: page.test_id("image-band").text == band)
        page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=image-listener]"))
        page.key("a", Keys.ENTER)
    page.until(lambda: all_heard(page))
    mending = page.test_id("mending")
    page.key(Keys.SPACE)
    page.until(lambda: "Play" in page.test_id("image-play").text)
    page.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", mending)
    page.until(lambda: rests_on(page, "mending"))
    page.driver.save_screenshot(str(SHOTS / "proof-image.png"))


def rests_on(page: Page, what: str) -> bool:
    """Rest the pointer on a proposal until it is laid over the plot: it comes from elsewhere, since one that was drawn
    anew under the pointer was not come to."""
    elsewhere = page.test_id("save-state")
    ActionChains(page.driver).move_to_element(elsewhere).move_to_element(page.test_id(what)).perform()
    return page.driver.execute_script("return document.documentElement.dataset.settled") == "no"


def all_heard(page: Page) -> bool:
    bands = httpx.get(f"{page.address}/api/projects/wren/image", timeout=30).json()["bands"]
    return all(one["stands"] is not None for one in bands if one["octaves"] == 1)


def listen(page: Page) -> None:
    """Tell two revisions apart, blind."""
    known = httpx.get(f"{page.address}/api/projects/wren/audition", timeout=30).json()["versions"]
    body = {"a": "now", "b": known[4]["key"], "blind": True}
    httpx.put(f"{page.address}/api/projects/wren/audition", json=body, timeout=30)
    for _ in range(8):
        httpx.post(f"{page.address}/api/projects/wren/audition/answer", json={"said": "a"}, timeout=30)
    page.test_id("proof-listen").click()
    page.test_id("hear-x").click()
    page.until(lambda: page.test_id("hear-x").get_attribute("aria-pressed") == "true")
    page.until(lambda: "of 8" in page.test_id("trials").text)
    page.driver.save_screenshot(str(SHOTS / "proof-listen.png"))
    page.key(Keys.SPACE)
    page.until(lambda: page.test_id("play-music").text == "Play")


def network(page: Page) -> None:
    """Mid and tweeter behind one output, values searched for and the first taken."""
    base = f"{page.address}/api/projects/wren/passive"
    body = {"drivers": ["mid-l", "tweeter-l"], "meetings": [{"hertz": 3200, "slope_db": 12}], "zobel": True}
    httpx.post(f"{base}/begin", json=body, timeout=60)
    found = httpx.post(f"{base}/search", timeout=120).json()
    httpx.put(base, json=found[0]["bench"], timeout=60)
    page.test_id("tab-passive").click()
    page.test_id("passive-worth")
    page.shot(SHOTS / "drivers-passive.png")


def taps(page: Page) -> None:
    """The reading room's loudspeakers made linear in phase, their taps just taken."""
    base = f"{page.address}/api/projects/heron"
    edits = [
        {"do": "crossover", "channel": name, "end": "high_pass", "corner_hz": hertz}
        for name, hertz in (("midbass-l", 120), ("tweeter-l", 2800))
    ]
    httpx.post(f"{base}/edits", json={"edits": edits}, timeout=60)
    httpx.post(f"{base}/align", timeout=60)
    page.stage("voice")
    page.test_id("voice-all").click()
    page.settled()
    page.button("taps").click()
    page.test_id("find-taps").click()
    page.after(page.named("Use these taps").click)
    page.shot(SHOTS / "voice-taps.png")


def open_demo(page: Page, slug: str, stage: str = "drivers") -> None:
    """A demonstration in another place, made now where it is not there."""
    page.driver.get(f"{page.address}/{slug}/{stage}")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=save-state]"), 300)
    page.settled()


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    command = [sys.executable, "-m", "imbrix.cli", "demo", "--folder", str(folder), "--port", str(PORT), "--pace", "8"]
    server = subprocess.Popen(command)
    address = f"http://127.0.0.1:{PORT}"
    for _ in range(300):
        try:
            httpx.get(f"{address}/api/projects/wren", timeout=30)
            break
        except httpx.TransportError:
            time.sleep(0.1)
    SHOTS.mkdir(exist_ok=True)
    driver = start_chromium()
    page = Page(driver, address)
    try:
        page.open()
        page.shot(SHOTS / "drivers.png")
        page.stage("rig")
        page.test_id("ready-check").click()
        page.shot(SHOTS / "rig.png")
        page.stage("drivers")
        page.choose("Method", "Pink noise, microphone moving")
        page.until(lambda: page.named("Method").text.startswith("Pink"))
        page.key(Keys.SPACE)
        page.until(lambda: [e for e in page.driver.find_elements(By.CSS_SELECTOR, GROWING) if int(e.text or 0) > 20])
        page.driver.save_screenshot(str(SHOTS / "drivers-moving.png"))
        page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=record]"))
        page.key(Keys.BACKSPACE)
        page.until(lambda: "moving" not in page.test_id("driver-mid-l").text)
        page.choose("Method", "Sweep, microphone still")
        page.until(lambda: page.named("Method").text.startswith("Sweep"))
        page.test_id("driver-mid-l").click()
        walk.record_one(page)
        page.test_id("driver-mid-l").click()
        take_by_angle(page)
        look_closer(page, "Below: angles")
        page.shot(SHOTS / "drivers-angles.png")
        look_closer(page, "Below: nothing")
        page.test_id("driver-midbass-r").click()
        page.test_id("tab-impedance").click()
        page.shot(SHOTS / "drivers-impedance.png")
        network(page)
        page.test_id("tab-record").click()
        walk.apply_findings(page)
        proposals(page)
        walk.set_corners(page)
        walk.open_seam(page, "mid-tweeter-left")
        walk.take_best_offers(page)
        walk.open_seam(page, "mid-tweeter-left")
        page.shot(SHOTS / "seams.png")
        walk.fit_all(page)
        page.test_id("voice-mid-l").click()
        page.shot(SHOTS / "voice.png")
        walk.record_whole(page)
        page.shot(SHOTS / "proof.png")
        image(page)
        listen(page)
        page.stage("handover")
        page.shot(SHOTS / "handover.png")
        page.stage("source")
        walk.record_wires(page)
        page.test_id("straighten").click()
        page.until(lambda: "→" in page.test_id("feed-1").text)
        page.test_id("feed-2").click()
        page.shot(SHOTS / "source.png")
        page.test_id("source-sum").click()
        page.shot(SHOTS / "source-sum.png")
        open_demo(page, "plover")
        page.shot(SHOTS / "coach.png")
        open_demo(page, "heron", "rig")
        page.test_id("ready-takes").click()
        page.test_id("nearest")
        page.shot(SHOTS / "room.png")
        taps(page)
        open_demo(page, "swift")
        page.named("Light theme").click()
        page.shot(SHOTS / "helmet-light.png")
    finally:
        driver.quit()
        server.kill()
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
