"""What a person meets: every view free of serious faults, keys, drags, errors in place, nothing cut off."""

import json
import statistics
import time
from pathlib import Path

import httpx
import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.formats.sweep_package import write_package
from imbrix.formats.wav import write_wav
from tests.ui import walk
from tests.ui.browser import Page, resize

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
STAGES = ("rig", "source", "drivers", "seams", "voice", "proof", "handover")
pytestmark = pytest.mark.xdist_group("interface")


def serious(page: Page) -> list[str]:
    if not page.driver.execute_script("return 'axe' in window"):
        page.driver.execute_script(AXE.read_text())
    found = page.driver.execute_async_script(
        "const done = arguments[arguments.length - 1];"
        "axe.run(document, {resultTypes: ['violations']}).then(r => done(r.violations))"
    )
    return [
        f"{one['id']}: {one['nodes'][0]['html'][:160]} {one['nodes'][0]['failureSummary'][:200]}"
        for one in found
        if one["impact"] in ("serious", "critical")
    ]


@pytest.mark.walk
def test_every_stage_in_both_themes_has_no_serious_fault(page: Page) -> None:
    walk.set_corners(page)
    for _ in range(2):
        for stage in STAGES:
            page.stage(stage)
            assert serious(page) == [], stage
        page.find("[aria-label$=' theme']").click()
        page.settled()
    for sheet in ("[data-testid=project]", "[aria-label='Show the keys']"):
        page.find(sheet).click()
        page.find("[role=dialog]")
        assert serious(page) == [], sheet
        page.key(Keys.ESCAPE)
        page.until(lambda: not page.found("[role=dialog]"))


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (1024, 700)])
def test_the_page_does_not_scroll(page: Page, width: int, height: int) -> None:
    resize(page.driver, 1280, 800)
    page.stage("voice")
    resize(page.driver, width, height)  # shrunk while open, as a window is
    try:
        for stage in STAGES:
            page.stage(stage)
            wide, tall = page.driver.execute_script(
                "return [document.documentElement.scrollWidth, document.documentElement.scrollHeight]"
            )
            assert (wide, tall) == (width, height), stage
            edge = page.driver.execute_script(
                "return Math.max(...[...document.querySelectorAll('header *')]"
                ".map(e => e.getBoundingClientRect().right))"
            )
            assert edge <= width, stage
            plots, panel = page.driver.execute_script(
                "return [Math.max(...[...document.querySelectorAll('main svg')]"
                ".map(e => e.getBoundingClientRect().right)),"
                "document.querySelector('aside').getBoundingClientRect().left]"
            )
            assert plots <= panel, stage
    finally:
        resize(page.driver, 1280, 800)


def test_the_strip_is_aligned_with_the_plot(page: Page) -> None:
    walk.open_seam(page, "mid-tweeter-left")
    page.after(lambda: page.type_into("Tweeter L high-pass corner", "2500"))
    line = page.test_id("corner-tweeter-l-high_pass").rect
    handle = page.find("rect[aria-label='Tweeter L high-pass corner']").rect
    assert line["x"] + line["width"] / 2 == pytest.approx(handle["x"] + handle["width"] / 2, abs=1)


@pytest.mark.walk
def test_a_corner_is_dragged_on_the_strip_and_redraws_within_50_ms(page: Page) -> None:
    """The page marks every frame it has drawn; from a move of the pointer to its frame 95 % take under 50 ms."""
    walk.set_corners(page)
    walk.open_seam(page, "mid-tweeter-left")
    page.driver.execute_script("""
      window.drawn = []; window.asked = 0;
      window.addEventListener('pointermove', () => { if (!window.asked) window.asked = performance.now(); }, true);
      new MutationObserver(() => {
        if (window.asked) { window.drawn.push(performance.now() - window.asked); window.asked = 0; }
      }).observe(document.documentElement, { attributes: true, attributeFilter: ['data-drawn'] });
    """)
    before = page.revision()
    handle = page.find("rect[aria-label='Tweeter L high-pass corner']")
    chain = ActionChains(page.driver, duration=4).click_and_hold(handle)
    for n in range(120):
        chain = chain.move_by_offset(1 if n < 80 else -1, 0).pause(0.02)
    chain.release().perform()
    page.until(lambda: page.revision() == before + 1)
    page.settled()
    times = sorted(page.driver.execute_script("return window.drawn"))
    assert len(times) > 30
    print(
        f"redraws: {len(times)}, median {statistics.median(times):.1f} ms, 95 % {times[int(len(times) * 0.95)]:.1f} ms"
    )
    corner = float(page.find("input[aria-label='Tweeter L high-pass corner, Hz']").get_attribute("value").split()[0])
    assert corner > 3300
    assert page.find("input[aria-label='Mid L low-pass corner, Hz']").get_attribute("value").startswith(f"{corner:.0f}")


@pytest.mark.walk
def test_a_corner_is_dragged_in_the_plot(page: Page) -> None:
    walk.open_seam(page, "mid-tweeter-left")
    page.after(lambda: page.type_into("Tweeter L high-pass corner", "3000"))
    page.after(lambda: page.drag(page.test_id("corner-tweeter-l-high_pass"), -90, 0))
    field = page.find("input[aria-label='Tweeter L high-pass corner, Hz']").get_attribute("value")
    # 90 pixels of an axis of three decades: closed form, within the width of a pixel or two.
    wide = page.find("[aria-label='Band strip']").rect["width"] - 64
    assert float(field.split()[0]) == pytest.approx(3000 * 10 ** (-3 * 90 / wide), rel=0.02)


def test_keys_act_on_the_selection_but_not_while_typing(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    tile = "[role=button][aria-label^='Mid L,']"
    page.after(lambda: page.key("p"))
    assert "inverted" in page.find(tile).get_attribute("aria-label")
    page.after(lambda: page.key("m"))
    assert "muted" in page.find(tile).get_attribute("aria-label")
    coarse = ActionChains(page.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_UP).key_up(Keys.SHIFT)
    page.after(coarse.perform)
    assert page.find("input[aria-label='Gain of Mid L, dB']").get_attribute("value") == "+1.0 dB"
    before = page.revision()
    page.find("input[aria-label='Level at 1 kHz, dB']").click()
    page.key("p", "m", Keys.ESCAPE)
    page.key("5")
    assert page.revision() == before
    ActionChains(page.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    page.until(lambda: page.find("input[aria-label='Gain of Mid L, dB']").get_attribute("value") == "0.0 dB")
    page.key("4")
    page.until(lambda: "/seams" in page.driver.current_url)


def test_space_stops_a_take_and_nothing_is_kept(page: Page) -> None:
    httpx.patch(f"{page.address}/api/rig", json={"sweep": {"length": 2**20}})  # long enough for any hand
    taken = page.driver.execute_script("return document.documentElement.dataset.takes")
    page.key(Keys.SPACE)
    page.test_id("stop")
    page.key(Keys.SPACE)
    assert "Nothing of this was kept" in page.test_id("refusal").text
    assert page.driver.execute_script("return document.documentElement.dataset.takes") == taken


@pytest.mark.walk
def test_a_bad_file_is_refused_in_place_and_a_good_one_taken(page: Page, tmp_path: Path) -> None:
    bad, good = tmp_path / "bad.txt", tmp_path / "good.txt"
    bad.write_text("100 80\n200 loud\n")
    good.write_text("# mid\n0;0;0\n100;70;0\n1000;80;-90\n10000;75;-200\n")
    page.test_id("driver-sub").click()
    page.test_id("tab-files").click()
    field = page.until(lambda: page.found("[data-testid=bring]"))[0]
    page.button("a text curve").click()
    field.send_keys(str(bad))
    assert "Line 2: 'loud' is not a number" in page.test_id("trouble").text
    field.send_keys(str(good))
    page.until(lambda: not page.found("[data-testid=trouble]"))
    page.settled()
    said = "3 rows of frequency, value and degrees, semicolons between them, decimal points; left out: line 2 at 0 Hz"
    assert said in page.test_id("notice").text
    state = page.driver.execute_async_script(
        "const done = arguments[0]; fetch('/api/projects/wren').then(r => r.json()).then(done)"
    )
    assert state["drivers"]["sub"]["method"] == "text"


def test_a_recording_comes_in_together_with_the_description_of_its_sweep(page: Page, tmp_path: Path) -> None:
    settings = SweepSettings(low_hz=12, length=2**16, level_db=-12)
    package, recording = tmp_path / "sweep.zip", tmp_path / "recording.wav"
    package.write_bytes(write_package(settings))
    sound = np.concatenate((0.5 * exponential_sweep(settings).samples, np.zeros(96_000)))
    recording.write_bytes(write_wav(sound, settings.rate))
    page.test_id("driver-sub").click()
    page.test_id("tab-files").click()
    field = page.until(lambda: page.found("[data-testid=bring]"))[0]
    page.button("Bring a recording").click()
    field.send_keys(str(recording))
    assert "none of the sweeps that were given out here" in page.test_id("trouble").text
    field.send_keys(f"{package}\n{recording}")
    page.until(lambda: not page.found("[data-testid=trouble]"))
    page.settled()
    kept = httpx.get(f"{page.address}/api/projects/wren").json()["drivers"]["sub"]
    assert (kept["method"], kept["timed"]) == ("file", False)


@pytest.mark.walk
def test_a_target_is_dragged_and_a_band_too(page: Page) -> None:
    walk.set_corners(page)
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    level = page.find("input[aria-label='Level at 1 kHz, dB']").get_attribute("value")
    line = page.driver.find_element(By.CSS_SELECTOR, "[data-testid=target-line] polyline")
    page.after(lambda: page.drag(line, 0, 60))
    assert (
        float(page.find("input[aria-label='Level at 1 kHz, dB']").get_attribute("value").split()[0])
        < float(level.split()[0]) - 2
    )
    page.after(page.button("Add a band").click)
    hertz = float(page.find("input[aria-label='Band 1 frequency, Hz']").get_attribute("value").split()[0])
    page.after(lambda: page.drag(page.test_id("band-0"), 90, 30))
    assert float(page.find("input[aria-label='Band 1 frequency, Hz']").get_attribute("value").split()[0]) > hertz * 1.5
    gain = page.find("input[aria-label='Band 1 gain, dB']").get_attribute("value")
    assert gain.startswith("−")
    page.test_id("band-0").send_keys(Keys.ARROW_UP)
    page.until(lambda: page.find("input[aria-label='Band 1 gain, dB']").get_attribute("value") != gain)
    page.settled()
    page.after(lambda: page.choose("Band 1 kind", "All-pass"))
    assert page.find("input[aria-label='Band 1 Q']").is_displayed()
    assert not page.found("[aria-label^='Band 1 gain']")  # it has none


def pick(page: Page, label: str, option: str) -> None:
    """Choose in a sheet: what lies under it has buttons of the same name."""
    page.named(label).click()
    page.saying("[role=option]", option).click()


@pytest.mark.walk
def test_revisions_are_named_compared_and_gone_back_to(page: Page) -> None:
    walk.set_corners(page)
    named = page.revision()
    page.test_id("project").click()
    field = page.named(f"Name of revision {named}")
    field.send_keys("corners", Keys.ENTER)
    page.until(lambda: "corners" in page.test_id("save-state").text)
    page.key(Keys.ESCAPE)
    page.stage("voice")
    page.test_id("voice-sub").click()
    page.after(lambda: page.type_into("Gain of Sub", "-9"))
    page.test_id("project").click()
    page.saying("button:enabled", "Compare").click()
    page.key(Keys.ESCAPE)
    page.settled()
    page.until(lambda: f"revision {named}" in page.find("[aria-label='Level against the target'] svg").text)
    page.test_id("project").click()
    page.saying("button:enabled", "Go back to it")
    everything = len(page.found("[data-testid^=journal-]"))
    pick(page, "About", "Sub")
    page.until(lambda: 0 < len(page.found("[data-testid^=journal-]")) < everything)
    pick(page, "Show", "takes")
    page.until(lambda: not page.found("[data-testid=journal-change]"))
    assert "Sub measured by a sweep" in page.find("[data-testid=journal-take]").text
    assert serious(page) == []
    pick(page, "Show", "everything")
    page.after(page.saying("button:enabled", "Go back to it").click)
    assert page.find("input[aria-label='Gain of Sub, dB']").get_attribute("value") == "0.0 dB"


def test_unsent_changes_are_counted_listed_and_sent(page: Page) -> None:
    page.test_id("processor").click()
    dialog = page.find("[role=dialog]")
    assert "Midbass L" in dialog.text
    page.button("Send to the processor").click()
    page.until(lambda: "all sent" in page.test_id("processor").text)


def test_the_page_is_small_and_quick(page: Page) -> None:
    """Initial JavaScript under 500 kB gzipped, counted on the built files."""
    import gzip

    built = Path(__file__).parents[2] / "src/imbrix/api/web/assets"
    assert sum(len(gzip.compress(one.read_bytes())) for one in built.glob("*.js")) < 500_000
    page.driver.get_log("browser")  # what earlier pages said when their server ended
    begun = time.monotonic()
    page.open()
    print(f"page with curves after {time.monotonic() - begun:.2f} s")
    assert json.loads(page.driver.execute_script("return document.documentElement.dataset.drawn")) > 0
    severe = [entry["message"] for entry in page.driver.get_log("browser") if entry["level"] == "SEVERE"]
    assert [one for one in severe if "favicon" not in one and "422" not in one] == []
