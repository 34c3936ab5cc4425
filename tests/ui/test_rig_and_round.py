"""Recording that can be trusted, in the browser: the Rig stage, the round, troubles, moving microphone, projects."""

from pathlib import Path

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from imbrix.formats.wav import read_wav, write_wav
from imbrix.standins.interface import StandinInterface
from imbrix.standins.places import van
from imbrix.standins.processor import StandinProcessor
from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("rig"), pytest.mark.walk]
PARTS = ("device", "microphone", "check", "level", "reference", "takes", "jig")


def state(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren").json()


def switch(page: Page, *names: str) -> None:
    """Set switches of the practice menu, as a person would."""
    page.test_id("practice").click()
    for name in names:
        page.test_id(f"switch-{name}").click()
        page.until(lambda n=name: httpx.get(f"{page.address}/api/rig").json()["practice"][n])
    close_menu(page)


def close_menu(page: Page) -> None:
    page.key(Keys.ESCAPE)
    page.until(lambda: not page.found("[role=dialog]"))


def plug(page: Page, what: str) -> None:
    page.test_id("practice").click()
    page.choose("In the microphone input", what)
    page.until(lambda: page.named("In the microphone input").text == what)
    close_menu(page)


def records(page: Page) -> str:
    return page.driver.execute_script("return document.documentElement.dataset.takes")


def record(page: Page) -> None:
    before = records(page)
    page.test_id("record").click()
    page.until(lambda: records(page) != before, 120)
    page.settled()


@pytest.mark.pace(200)
def test_the_ready_line_leads_through_the_rig_and_all_of_it_passes_axe(page: Page) -> None:
    page.stage("rig")
    for theme in ("Light theme", "Dark theme"):
        for part in PARTS:
            tile = page.test_id(f"ready-{part}")
            assert tile.get_attribute("data-state") == "set"
            tile.click()
            page.until(lambda p=part: page.test_id(f"ready-{p}").get_attribute("aria-current") == "true")
            page.settled()
            assert serious(page) == [], (theme, part)
        page.named(theme).click()
    page.test_id("ready-device").click()
    for part in PARTS[1:]:
        page.test_id("rig-next").click()
        page.until(lambda p=part: page.test_id(f"ready-{p}").get_attribute("aria-current") == "true")


@pytest.mark.pace(200)
def test_interface_check_and_calibration_are_done_by_hand(page: Page) -> None:
    page.stage("rig")
    first = state(page)["rig"]
    plug(page, "A loop from the output")
    page.test_id("ready-check").click()
    page.test_id("start-check").click()
    page.until(lambda: state(page)["rig"]["check"]["made"] != first["check"]["made"], 120)
    page.until(lambda: len(page.found("[data-testid=check-lines] > *")) == 6)
    assert "734.0 samples" in page.test_id("check-lines").text
    page.test_id("ready-reference").click()
    page.test_id("calibrate-94").click()  # the loop is still in: no tone
    assert "no tone stands out" in page.test_id("rig-says").text
    plug(page, "Microphone in a 94 dB calibrator")
    page.test_id("calibrate-94").click()
    page.until(lambda: state(page)["rig"]["reference"]["made"] != first["reference"]["made"], 120)
    plug(page, "The microphone")
    page.test_id("meter-noise").click()
    page.test_id("meter-reads")
    reads = page.test_id("meter-reads").text.split("reads ")[1].split(" ")[0]
    page.type_into("The meter reads", reads)
    page.test_id("set-meter").click()
    page.until(lambda: "level meter" in state(page)["rig"]["reference"]["how"])
    page.key(Keys.SPACE)  # stops the noise, whatever has the focus
    page.until(lambda: not page.found("[data-testid=stop]"))
    assert state(page)["rig"]["reference"]["full_scale_db_spl"] == pytest.approx(112, abs=0.3)


@pytest.mark.pace(200)
def test_a_trouble_is_named_the_round_waits_and_the_take_is_discarded_and_redone(page: Page) -> None:
    switch(page, "hum")
    record(page)
    page.test_id("trouble-hum")
    assert page.test_id("driver-mid-l").get_attribute("aria-current") == "true", "the round waits at a doubt"
    assert "?" in page.test_id("driver-mid-l").text
    before = state(page)["drivers"]["mid-l"]["take_id"]
    page.key(Keys.BACKSPACE)
    page.until(lambda: state(page)["drivers"]["mid-l"]["take_id"] != before)
    page.test_id("practice").click()
    page.button("All well again").click()
    page.until(lambda: not state(page)["rig"]["practice"]["hum"])
    close_menu(page)
    taken = records(page)
    page.key("r")
    page.until(lambda: records(page) != taken, 120)
    page.until(lambda: page.test_id("driver-sub").get_attribute("aria-current") == "true")
    assert page.test_id("verdict").get_attribute("data-good") == "yes"  # of what was recorded last


@pytest.mark.pace(200)
def test_exchanged_inputs_are_said_and_put_right_with_one_click(page: Page) -> None:
    switch(page, "inputs_exchanged")
    page.test_id("record").click()
    assert "are exchanged" in page.test_id("refusal").text
    page.test_id("exchange").click()
    page.until(lambda: state(page)["rig"]["microphone_input"] == 1)
    record(page)
    assert state(page)["takes"][0]["troubles"] == []


def test_the_round_is_reordered_skipped_and_followed_by_its_key(page: Page) -> None:
    def rows():
        return [row.get_attribute("data-testid")[7:] for row in page.found("[data-testid^=driver-]")]

    assert rows()[:2] == ["mid-l", "sub"]
    page.named("Mid L later in the round").click()
    page.until(lambda: rows()[:2] == ["sub", "mid-l"])
    page.test_id("driver-mid-l").click()
    ActionChains(page.driver).key_down(Keys.ALT).send_keys(Keys.ARROW_UP).key_up(Keys.ALT).perform()
    page.until(lambda: rows()[:2] == ["mid-l", "sub"])
    page.test_id("driver-sub").click()
    page.named("Skip Sub").click()
    page.until(lambda: page.test_id("driver-sub").get_attribute("data-state") == "skipped")
    page.until(lambda: page.test_id("driver-midbass-l").get_attribute("aria-current") == "true")
    page.test_id("driver-mid-l").click()
    page.key("n")
    page.until(lambda: page.test_id("driver-midbass-l").get_attribute("aria-current") == "true")


def test_a_moving_microphone_counts_draws_and_stops_by_space(page: Page) -> None:
    moving = {**state(page)["rig"]["moving"], "averages": 5000}
    httpx.patch(f"{page.address}/api/rig", json={"moving": moving})
    page.choose("Method", "Pink noise, microphone moving")
    page.until(lambda: state(page)["round"]["method"] == "moving")
    page.until(lambda: page.named("Method").text.startswith("Pink"))
    before = records(page)
    page.key(Keys.SPACE)
    page.until(lambda: [n for n in page.texts("[data-testid=averages]") if n.isdigit() and int(n) > 11])
    page.until(lambda: any("averages" in text for text in page.texts("svg text")))
    page.key(Keys.SPACE)
    page.until(lambda: records(page) != before, 120)
    newest = state(page)["takes"][0]
    assert newest["method"] == "moving"
    assert newest["averages"] >= 10
    assert state(page)["drivers"]["mid-l"]["moving_id"] == newest["id"]


def test_the_countdown_shows_large_figures_and_the_take_follows(page: Page) -> None:
    page.stage("rig")
    page.test_id("ready-takes").click()
    page.type_into("Countdown", "24")
    page.until(lambda: state(page)["rig"]["sweep"]["countdown_s"] == 24)
    page.stage("drivers")
    before = records(page)
    page.test_id("record").click()
    page.test_id("countdown")
    page.until(lambda: records(page) != before, 120)


@pytest.mark.pace(200)
def test_channel_check_exchanges_outputs_and_pulses_tell_the_polarity(page: Page) -> None:
    switch(page, "wrong_channel")
    page.test_id("tab-check").click()
    page.test_id("burst").click()
    assert page.test_id("ear").text.endswith("Tweeter L")
    page.until(lambda: page.test_id("burst").is_enabled(), 30)
    page.choose("What did you hear?", "Tweeter L")
    page.test_id("exchange-outputs").click()
    page.until(lambda: {d["id"]: d["output"] for d in state(page)["layout"]["drivers"]}["mid-l"] == 6)
    page.test_id("tab-record").click()
    page.test_id("driver-midbass-r").click()
    page.test_id("tab-check").click()
    page.test_id("pulse").click()
    page.until(lambda: "inwards first: inverted" in page.test_id("polarity").text, 30)
    assert serious(page) == []


@pytest.mark.pace(200)
def test_takes_are_compared_noted_and_corrected_anew(page: Page) -> None:
    first = state(page)["drivers"]["mid-l"]["take_id"]
    record(page)
    page.test_id("driver-mid-l").click()
    page.test_id("tab-takes").click()
    page.test_id(f"take-{first}").click()
    assert "dB rms" in page.test_id("agreement").text
    page.choose("Microphone correction of this take", "none")
    page.until(lambda: next(t for t in state(page)["takes"] if t["id"] == first)["correction"] is None)
    page.type_into("Note of this take", "door open")
    page.until(lambda: next(t for t in state(page)["takes"] if t["id"] == first)["note"] == "door open")
    page.settled()
    assert serious(page) == []


def test_a_foreign_curve_is_brought_and_aligned(page: Page, tmp_path: Path) -> None:
    sheet = tmp_path / "sheet.txt"
    sheet.write_text("100 40\n1000 43\n10000 41\n")
    page.test_id("tab-files").click()
    field = page.until(lambda: page.found("[data-testid=bring-reference]"))[0]
    field.send_keys(str(sheet))
    page.test_id("reference")
    page.button("Align").click()
    page.until(lambda: "dB" in page.test_id("reference").text)
    page.until(lambda: "sheet" in page.texts("svg text"))
    assert state(page)["references"][0]["shift_db"] > 20
    assert serious(page) == []


def test_with_files_the_stimulus_goes_out_and_its_recording_comes_back(page: Page, tmp_path: Path) -> None:
    page.stage("rig")
    page.choose("Device", "Files: play and record elsewhere")
    page.until(lambda: state(page)["rig"]["device"] == "file")
    page.stage("drivers")
    before = records(page)
    page.test_id("record").click()
    field = page.until(lambda: page.found("[data-testid=bring-take]"))[0]
    played = read_wav(httpx.get(f"{page.address}/api/projects/wren/stimulus.wav").content, 48_000)[:, 0]
    processor = StandinProcessor()
    processor.write(4, processor.read(4).with_mute(False))
    elsewhere = StandinInterface(van.cabin(), processor)
    import numpy as np

    heard = np.concatenate(list(elsewhere.play_and_record(played)))[:, :2]
    path = tmp_path / "heard.wav"
    path.write_bytes(write_wav(heard, 48_000))
    field.send_keys(str(path))
    page.until(lambda: records(page) != before, 120)
    newest = state(page)["takes"][0]
    assert newest["channels"] == ["mid-l"]
    assert newest["agrees"]["shape_db"] < 0.2


def test_with_files_level_and_any_input_are_read_from_recordings(page: Page, tmp_path: Path) -> None:
    page.stage("rig")
    page.choose("Device", "Files: play and record elsewhere")
    page.until(lambda: state(page)["rig"]["device"] == "file")
    page.test_id("ready-level").click()
    played = read_wav(httpx.get(f"{page.address}/api/rig/level.wav").content, 48_000)
    path = tmp_path / "heard.wav"
    path.write_bytes(write_wav(0.5 * played, 48_000))
    field = page.until(lambda: page.found("[data-testid=bring-level]"))[0]
    field.send_keys(str(path))
    page.test_id("octaves")
    assert serious(page) == []
    page.test_id("any-input").click()
    field = page.until(lambda: page.found("[data-testid=bring-input]"))[0]
    field.send_keys(str(path))
    page.test_id("stretch")
    assert state(page)["takes"][0]["note"] == "heard.wav"
    assert serious(page) == []


@pytest.mark.pace(200)
def test_a_new_project_from_a_layout_records_its_first_driver(page: Page) -> None:
    page.driver.get_log("browser")  # what an earlier server left behind
    page.test_id("project").click()
    page.test_id("open-system").click()
    page.until(lambda: "Output 8 not used" in page.test_id("remarks").text)
    page.test_id("add-driver").click()
    page.test_id("add-driver").click()
    page.until(lambda: "9 drivers, but the processor has 8 outputs" in page.test_id("remarks").text)
    assert not page.test_id("keep-system").is_enabled()
    page.button("As it was").click()
    page.type_into("Name of the new project", "Shelf pair")
    page.until(lambda: "/shelf-pair/drivers" in page.driver.current_url, 20)
    page.settled()
    assert "Shelf pair" in page.test_id("project").text
    page.test_id("record").click()
    page.until(lambda: httpx.get(f"{page.address}/api/projects/shelf-pair").json()["takes"], 120)
    for stage in ("seams", "voice", "proof", "handover", "rig"):
        page.stage(stage)
    wrong = [line for line in page.driver.get_log("browser") if line["level"] == "SEVERE"]
    # Offers for a seam without takes are refused in words, which the browser logs as well.
    assert not [line for line in wrong if "/offers" not in line["message"]]


@pytest.mark.pace(200)
def test_a_closer_look_is_chosen_gated_and_explained(page: Page) -> None:
    for text, mark in (
        ("Below: group delay", "[aria-label=Closer]"),
        ("Below: distortion", "[aria-label=Closer]"),
        ("Below: spectrogram", "[aria-label=Decay]"),
        ("Below: impulse", "[aria-label='In time']"),
    ):
        page.named("Below the plot").click()
        page.saying("[role=option]", text).click()
        page.settled()
        page.find(mark)
        assert "Good:" in page.test_id("hint").text
        assert serious(page) == [], text
    page.named("How closely").click()
    page.button("Before the reflection").click()
    close_menu(page)
    page.test_id("gate-hatch")
    gate = page.find("[aria-label='End of the gate']")
    before = float(gate.get_attribute("aria-valuenow"))
    page.drag(gate.find_element(By.TAG_NAME, "rect"), 120, 0)
    page.until(lambda: float(page.find("[aria-label='End of the gate']").get_attribute("aria-valuenow")) > before + 1)
    page.settled()
    page.button("Hide hints").click()
    page.until(lambda: not page.found("[data-testid=hint]"))


def test_axes_are_zoomed_fitted_and_gone_back_and_a_stretch_is_read(page: Page, tmp_path: Path) -> None:
    from selenium.webdriver.common.actions.wheel_input import ScrollOrigin

    plot = page.named("Bare drivers")

    def ticks() -> list[str]:
        return [text for text in page.texts("[aria-label='Band strip'] text") if "k" in text]

    before = ticks()
    ActionChains(page.driver).scroll_from_origin(ScrollOrigin.from_element(plot), 0, -400).perform()
    page.until(lambda: ticks() != before)
    page.key(Keys.HOME)
    page.until(lambda: ticks() == before)
    page.key(Keys.END)
    page.until(lambda: ticks() != before)
    page.key(Keys.HOME)
    chain = ActionChains(page.driver, duration=30).move_to_element_with_offset(plot, -150, 60).click_and_hold()
    chain.move_by_offset(60, 0).move_by_offset(80, 0).release().perform()
    assert "Mid L − Mid R" in page.test_id("span-reading").text
    page.settled()
    assert serious(page) == []
    page.named("Close the reading").click()
    page.until(lambda: not page.found("[data-testid=span-reading]"))
    page.driver.execute_cdp_cmd(
        "Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(tmp_path), "eventsEnabled": False}
    )
    page.named("Tools of Bare drivers").click()
    page.type_into("Shown from", "200")
    page.until(lambda: "100" not in page.find("[aria-label='Band strip']").text.split())
    for kind in ("SVG", "PNG", "CSV"):
        page.button(kind).click()
        page.until(lambda k=kind: (tmp_path / f"bare-drivers.{k.lower()}").exists())
    close_menu(page)
    page.until(lambda: (tmp_path / "bare-drivers.png").stat().st_size > 10_000)
    assert (tmp_path / "bare-drivers.png").read_bytes()[:4] == b"\x89PNG"
    table = (tmp_path / "bare-drivers.csv").read_text().splitlines()
    assert table[0].startswith('Hz,"Sub, dB SPL"')
    assert 199 < float(table[1].split(",")[0]) < 202
    assert "Mid L" in (tmp_path / "bare-drivers.svg").read_text()


def test_a_person_listens_live_turns_a_knob_and_freezes(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.test_id("listen").click()
    page.until(lambda: "ms" in page.test_id("live-figures").text, 120)
    page.until(lambda: "live" in page.texts("svg text"))
    page.after(lambda: page.type_into("Gain of Mid L", "-6"))
    panel = page.find("aside[aria-label='Settings']")
    assert panel.get_property("scrollHeight") <= panel.get_property("clientHeight"), "Stop is out of sight"
    page.test_id("fit-limits").click()
    page.find("input[aria-label^='Boost to']")
    assert serious(page) == []
    before = records(page)
    page.test_id("freeze").click()
    page.until(lambda: records(page) != before, 120)
    newest = state(page)["takes"][0]
    assert newest["channels"] == ["mid-l"]
    assert "live analyser" in newest["note"]
    assert state(page)["link"]["unsent"] == [], "what was followed stays in the processor"
    page.test_id("listen").click()
    page.test_id("live-figures")
    page.key(Keys.SPACE)
    page.until(lambda: page.found("[data-testid=listen]"))
