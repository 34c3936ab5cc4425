"""Make the pictures in docs/screenshots from the demo: the whole job is walked, each view pictured on the way."""

import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.ui import walk  # noqa: E402
from tests.ui.browser import Page, start_chromium  # noqa: E402

SHOTS = ROOT / "docs/screenshots"
PORT = 8797


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
        walk.apply_findings(page)
        walk.set_corners(page)
        walk.open_seam(page, "mid-tweeter-left")
        page.shot(SHOTS / "seams-before.png")
        walk.take_best_offers(page)
        walk.open_seam(page, "mid-tweeter-left")
        page.shot(SHOTS / "seams.png")
        walk.fit_all(page)
        page.shot(SHOTS / "voice-all.png")
        page.test_id("voice-mid-l").click()
        page.shot(SHOTS / "voice.png")
        walk.record_whole(page)
        page.shot(SHOTS / "proof.png")
        page.stage("handover")
        page.shot(SHOTS / "handover.png")
        page.stage("voice")
        page.named("Light theme").click()
        page.shot(SHOTS / "voice-light.png")
    finally:
        driver.quit()
        server.kill()
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
