"""Seeing what is there, in the browser: impedance, any input, takes beside each other, angles, the analyser's views."""

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious
from tests.ui.test_rig_and_round import close_menu, record, records, state

pytestmark = [pytest.mark.xdist_group("views"), pytest.mark.walk]


def pick(page: Page, label: str, text: str) -> None:
    """Choose the option of exactly this text."""
    page.named(label).click()
    page.saying("[role=option]", text).click()
    page.until(lambda: not page.found("[role=listbox]"))


def clip(page: Page, what: str, **expected: object) -> None:
    pick(page, "The clips hold", what)
    page.until(lambda: expected.items() <= httpx.get(f"{page.address}/api/rig").json()["practice"].items())
    page.settled()


@pytest.mark.pace(200)
def test_the_jig_is_calibrated_step_by_step(page: Page) -> None:
    page.stage("rig")
    page.test_id("ready-jig").click()
    page.button("Calibrate anew").click()
    page.until(lambda: page.test_id("ready-jig").get_attribute("data-state") == "missing")
    clip(page, "each other", clips="joined")
    page.test_id("jig-open").click()
    page.until(lambda: "hold nothing" in page.test_id("rig-says").text, 120)
    for what, clips, step in (
        ("nothing", "nothing", "open"),
        ("each other", "joined", "short"),
        ("the known resistor", "resistor", "resistor"),
    ):
        clip(page, what, clips=clips)
        page.test_id(f"jig-{step}").click()
        page.until(lambda s=step: (now := state(page)["rig"])["jig_done"] or s in now["jig_steps"], 120)
        page.until(lambda s=step: page.test_id(f"jig-{s}").is_enabled())
    page.until(lambda: page.test_id("ready-jig").get_attribute("data-state") == "set")
    assert serious(page) == []


@pytest.mark.pace(200)
def test_impedance_is_measured_read_and_told_what_a_meter_says(page: Page) -> None:
    page.test_id("driver-mid-l").click()
    page.test_id("tab-impedance").click()
    page.settled()
    figures = page.test_id("impedance-figures").text
    assert "118.0 Hz" in figures  # the stand-in's own resonance
    assert "Mid R: Fs, Qts, Re" in figures
    assert serious(page) == []
    page.test_id("measure-impedance").click()
    page.until(lambda: "hold nothing" in page.test_id("impedance-says").text, 120)
    clip(page, "Mid L", clips="driver", clipped_output=4)
    pick(page, "The clipped driver is", "with a mass")
    pick(page, "The driver is", "mass on the cone")
    page.type_into("Mass, g", "10")
    before = records(page)
    page.key(Keys.ESCAPE)
    page.named("Impedance").click()
    page.key(Keys.SPACE)
    page.until(lambda: records(page) != before, 120)
    page.type_into("Cone area", "53")
    page.until(lambda: "Mms" in page.test_id("impedance-figures").text)
    page.settled()
    assert "4.60 g" in page.test_id("impedance-figures").text
    page.type_into("Amplifier", "4")
    page.until(lambda: any("Mid L falls to" in one["says"] for one in state(page)["findings"]))
    page.type_into("Re by a meter", "3.6")
    page.until(lambda: "by the meter" in page.test_id("impedance-figures").text)
    page.test_id("impedance-takes").click()
    assert len(page.found("[aria-label='Impedance takes of Mid L'] [role=listitem]")) == 2
    assert serious(page) == []


def test_any_input_is_heard_recorded_marked_and_read(page: Page) -> None:
    page.stage("rig")
    page.test_id("any-input").click()
    page.until(lambda: "Any input" in page.find("aside h2").text)
    page.test_id("listen-input").click()
    page.until(lambda: "Equivalent" in page.test_id("level-table").text, 120)
    page.find("[aria-label=Waveform]")
    assert serious(page) == []
    page.key(Keys.SPACE)
    page.test_id("listen-input")
    pick(page, "Input", "Loopback")
    pick(page, "Meanwhile plays", "pink noise")
    page.type_into("Seconds", "3")
    page.test_id("record-input").click()
    page.until(lambda: "dBFS" in page.test_id("stretch").text, 120)
    page.settled()
    assert "The whole recording" in page.find("aside").text
    wave = page.find("[aria-label=Waveform]")
    ActionChains(page.driver).move_to_element(wave).click_and_hold().move_by_offset(100, 0).move_by_offset(
        60, 0
    ).release().perform()
    page.until(lambda: "The marked stretch" in page.find("aside").text)
    page.test_id("marked")
    page.settled()
    assert serious(page) == []
    assert page.found("a[href$='/input.wav']")


@pytest.mark.pace(200)
def test_takes_are_shown_aligned_averaged_locked_and_put_in_force(page: Page) -> None:
    first = state(page)["drivers"]["mid-l"]["take_id"]
    record(page)
    page.test_id("driver-mid-l").click()
    page.test_id("tab-takes").click()
    page.settled()
    page.named(f"Show take {first}").click()
    page.named(f"Hide take {first}")
    page.settled()
    assert f"take {first}" in page.find("[aria-label='Bare drivers']").text
    pick(page, "Below the plot", "Below: differences")
    page.settled()
    assert f"take {first} − take" in page.find("[aria-label=Closer]").text
    page.test_id("align-levels").click()
    page.test_id("mean-complex").click()
    page.until(lambda: state(page)["takes"][0]["method"] == "average")
    average = state(page)["takes"][0]["id"]
    page.test_id(f"take-{average}").click()
    page.settled()
    page.test_id("put-in-force").click()
    page.until(lambda: state(page)["drivers"]["mid-l"]["take_id"] == average)
    page.settled()
    page.button("Lock").click()
    page.until(lambda: "in force, locked" in page.test_id(f"take-{average}").text)
    assert not page.button("Set this take aside").is_enabled()
    assert serious(page) == []
    # A stage that does not offer what was chosen shows what it usually does.
    page.stage("proof")
    assert page.named("Below the plot").text == "Below: difference"
    page.find("[aria-label='Measured minus predicted']")


@pytest.mark.pace(200)
def test_a_driver_is_taken_by_angle(page: Page) -> None:
    page.test_id("driver-tweeter-l").click()
    for degrees in ("30", "60"):
        page.test_id("practice").click()
        page.type_into("Drivers turned away by", degrees)
        page.until(lambda d=degrees: httpx.get(f"{page.address}/api/rig").json()["practice"]["turned_deg"] == float(d))
        close_menu(page)
        page.test_id("driver-tweeter-l").click()
        page.type_into("Off the axis by", degrees)
        record(page)
    page.test_id("driver-tweeter-l").click()
    pick(page, "Below the plot", "Below: angles")
    page.settled()
    page.find("[aria-label='Level over angle']")
    assert "60°" in page.find("[aria-label='Bare drivers']").text
    assert serious(page) == []
    page.stage("seams")
    page.until(lambda: "two angles" in page.find("main").text)


def below_live(page: Page, text: str) -> None:
    """What stands below while the analyser runs, through its settings."""
    page.named("Settings of the analyser").click()
    page.find("[role=dialog] [aria-label='Below the plot']").click()
    page.saying("[role=option]", text).click()
    page.until(lambda: not page.found("[role=listbox]"))
    assert serious(page) == []
    close_menu(page)


def test_the_analyser_shows_phase_below_and_sends_a_knob_under_the_hand(page: Page) -> None:
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.after(page.button("Add a band").click)
    below_live(page, "phase")
    page.test_id("listen").click()
    page.until(lambda: "ms" in page.test_id("live-figures").text, 120)
    page.find("[aria-label='Live phase']")
    below_live(page, "coherence")
    page.find("[aria-label='Live coherence']")
    below_live(page, "running impulse")
    page.find("[aria-label='Running impulse']")
    below_live(page, "as before")
    knob = page.test_id("band-0")
    revision = page.revision()
    ActionChains(page.driver).click_and_hold(knob).move_by_offset(30, 20).move_by_offset(30, 20).perform()
    # Held, not let go: the processor plays what no revision holds yet.
    page.until(lambda: any("band" in one["what"].lower() for one in state(page)["link"]["unsent"]), 30)
    assert page.revision() == revision
    ActionChains(page.driver).release().perform()
    page.until(lambda: page.revision() > revision)
    page.until(lambda: not any("band" in one["what"].lower() for one in state(page)["link"]["unsent"]), 30)
    page.test_id("stop").click()
    page.test_id("listen")


@pytest.mark.pace(200)
def test_all_drivers_are_recorded_in_a_row_elsewhere_and_the_range_is_shown(page: Page) -> None:
    page.stage("drivers")
    page.key("v")
    page.until(lambda: "no range: one take of each" in page.test_id("range-says").text)
    pick(page, "The microphone is held at", "Left ear")
    page.until(lambda: httpx.get(f"{page.address}/api/rig").json()["position"] == "Left ear")
    before = len(state(page)["takes"])
    page.until(lambda: page.test_id("in-a-row").is_enabled())
    page.test_id("in-a-row").click()
    page.until(lambda: len(state(page)["takes"]) == before + 7, 240)
    page.until(lambda: "shaded: up to 2 takes of each driver" in page.test_id("range-says").text)
    assert {one["position"] for one in state(page)["takes"][:7]} == {"Left ear"}
    assert serious(page) == []
    page.stage("seams")
    page.until(lambda: "shaded: 2 places: " in page.test_id("range-says").text)
    assert "dB lost" in page.test_id("range-says").text
    page.button("Hide range").click()
    page.until(lambda: not page.found("[data-testid=range-says]"))
