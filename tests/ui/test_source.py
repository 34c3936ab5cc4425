"""Source in the browser: from wires to straight, summed, routed and sent; troubles named and put right."""

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui import walk
from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("source"), pytest.mark.pace(200), pytest.mark.walk]


SWITCH_SAYS = "[data-testid=switch-says]"


def unsent(page: Page) -> list[dict]:
    return httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()["link"]["unsent"]


def source(page: Page) -> dict:
    return httpx.get(f"{page.address}/api/projects/wren/source", timeout=60).json()


def inputs(page: Page) -> list[dict]:
    return httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()["tune"]["inputs"]


def feeds(page: Page) -> list[int]:
    return [one["number"] for one in source(page)["inputs"] if one["feed"]]


def test_from_wires_to_straight_summed_routed_and_sent(page: Page) -> None:
    page.key("2")
    page.until(lambda: page.driver.current_url.endswith("/source"))
    assert serious(page) == []
    walk.record_wires(page)
    assert "inverted" in page.test_id("feed-4").text
    page.test_id("feed-2").click()
    assert "all-pass at 430 Hz, Q 0.80" in page.test_id("feed-facts").text
    assert "cuts the bass" in page.test_id("source-notes").text
    page.test_id("straighten").click()
    page.until(lambda: page.driver.find_elements(By.XPATH, "//*[contains(text(), '4 of 4 straight')]"))
    page.until(lambda: "→" in page.test_id("feed-1").text)
    for number in range(1, 5):
        shown = page.test_id(f"feed-{number}").text
        assert float(shown.rsplit("→", 1)[1].split()[0]) <= 0.5
    assert serious(page) == []
    # By hand: a band more on the input that is looked at, dragged over what all of them do.
    bands = inputs(page)[1]["bands"]
    page.after(page.button("Add a band").click)
    more = inputs(page)[1]["bands"]
    assert more[:-1] == bands
    assert more[-1]["gain_db"] == -3
    page.after(lambda: page.drag(page.test_id(f"band-{len(bands)}"), 60, -30))
    moved = inputs(page)[1]["bands"][-1]
    assert moved["frequency_hz"] > more[-1]["frequency_hz"]
    assert moved["gain_db"] > 0
    assert inputs(page)[0]["bands"] != bands
    page.after(page.named(f"Remove band {len(bands) + 1}").click)
    assert inputs(page)[1]["bands"] == bands
    page.test_id("source-sum").click()
    page.settled()
    sums = page.found("[data-testid=sum]")
    assert "−23" in sums[0].text
    assert "+6.0 dB" in sums[0].text
    sums[1].click()
    page.settled()
    assert serious(page) == []
    page.test_id("source-route").click()
    page.test_id("route-bass-all").click()
    page.until(lambda: "Sub hears front left + front right + rear left + rear right" in page.test_id("hears").text)
    page.named("Mid L hears Rear left").click()
    page.until(lambda: "Mid L hears front left + rear left, −6.0 dB each" in page.test_id("hears").text)
    assert serious(page) == []
    page.stage("proof")
    page.test_id("proof-by-source").click()
    page.until(lambda: page.found("[data-testid=plus-minus]"), 180)
    kept = httpx.get(f"{page.address}/api/projects/wren").json()["takes"][0]
    assert (kept["purpose"], kept["method"]) == ("proof", "source")
    assert serious(page) == []
    page.stage("handover")
    page.test_id("all-sent")
    page.named("Undo").click()
    page.until(lambda: source(page)["hears"][3]["inputs"] == [1])


def test_exchanged_wires_and_a_stopped_track_are_said(page: Page) -> None:
    now = httpx.get(f"{page.address}/api/projects/wren").json()["rig"]["practice"]
    httpx.put(f"{page.address}/api/rig/practice", json={**now, "track_stops": True})
    page.stage("source")
    page.test_id("record-wires").click()
    assert "track" in page.test_id("source-says").text
    assert feeds(page) == []
    httpx.put(f"{page.address}/api/rig/practice", json={**now, "wires_exchanged": True})
    page.key(Keys.SPACE)
    page.until(lambda: page.found("[data-testid=put-right]"), 120)[0].click()
    page.until(lambda: source(page)["exchanged"] is None)
    page.until(lambda: not page.found("[data-testid=put-right]"))
    assert "Front right" in page.test_id("feed-1").text
    assert serious(page) == []


def turn_the_knob(page: Page, volume: int) -> None:
    page.type_into("Stand-in’s volume", str(volume))
    page.until(lambda: httpx.get(f"{page.address}/api/rig", timeout=60).json()["practice"]["source_volume"] == volume)


def test_the_source_is_turned_up_until_it_distorts_and_the_sensitivity_is_set(page: Page) -> None:
    page.stage("source")
    page.test_id("source-level").click()
    turn_the_knob(page, 26)
    page.test_id("listen-loud").click()
    page.until(lambda: "clean up to" in page.test_id("loud-1").text)
    assert serious(page) == []
    turn_the_knob(page, 36)
    page.until(lambda: "turn it back" in page.test_id("loud-1").text)
    page.until(lambda: "turn it back" in page.test_id("loud-2").text)
    page.test_id("listen-loud").click()
    page.until(lambda: "dBFS" in page.test_id("clean-2").text)
    page.after(page.test_id("set-sensitivity").click)
    inputs = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()["tune"]["inputs"]
    assert len({one["gain_db"] for one in inputs}) == 1
    assert inputs[0]["gain_db"] != 0
    page.button("begin anew").click()
    page.until(lambda: not page.found("[data-testid=clean-1]"))


def test_fader_and_balance_tell_which_wire_is_which(page: Page) -> None:
    now = httpx.get(f"{page.address}/api/rig", timeout=60).json()["practice"]
    httpx.put(f"{page.address}/api/rig/practice", json={**now, "front_and_rear_exchanged": True}, timeout=60)
    page.stage("source")
    page.test_id("source-level").click()
    page.choose("Second wire, of input", "3 · Rear left")
    page.test_id("listen-loud").click()
    page.until(lambda: "clean" in page.test_id("loud-3").text)
    for end, knob in (("front", "-10"), ("rear", "10")):
        page.type_into("Fader", knob)
        page.until(
            lambda k=knob: httpx.get(f"{page.address}/api/rig", timeout=60).json()["practice"]["source_fader"] == int(k)
        )
        page.button(f"Fader at the {end}").click()
        page.until(lambda e=end: page.button(f"Fader at the {e}").get_attribute("aria-pressed") == "true")
    assert serious(page) == []
    page.test_id("listen-loud").click()
    button = page.test_id("put-right")
    assert button.text == "Inputs 1 and 3 are exchanged: put it right"
    page.after(button.click)
    page.until(lambda: source(page)["exchanged"] is None)
    assert [one["group"] for one in source(page)["inputs"][:4:2]] == ["rear", "front"]


@pytest.mark.pace(4)
def test_the_second_source_takes_over_and_is_made_as_loud(page: Page) -> None:
    page.key("2")
    page.test_id("source-second").click()
    page.settled()
    page.after(lambda: page.choose("It is heard", "Before the wires, while it plays"))
    page.after(lambda: page.type_into("Waits", "1"))
    assert serious(page) == []
    page.test_id("send-second").click()
    page.until(lambda: page.test_id("try-switch").is_enabled())
    page.key(" ")
    page.until(lambda: "of 3:" in page.test_id("switch-asks").text)
    said = page.until(lambda: page.texts(SWITCH_SAYS))
    assert said[0].startswith("The second source takes over")
    assert said[1].startswith("The wires are back after ")
    assert "softer than the wires" in said[2]
    page.after(page.test_id("alike").click)
    second = httpx.get(f"{page.address}/api/projects/wren", timeout=60).json()["tune"]["second"]
    assert second["priority"] == "before"
    assert second["gain_db"] > 1
    assert source(page)["second"]["louder_db"] is None  # alike: not worth a word
    page.until(lambda: len(page.found(SWITCH_SAYS)) == 2)
    assert "Second source" in [one["channel"] for one in unsent(page)]


@pytest.mark.pace(20)
def test_a_feed_is_heard_live_with_what_its_input_makes_of_it(page: Page) -> None:
    page.key("2")
    page.until(lambda: page.test_id("record-wires").is_enabled())
    page.test_id("record-wires").click()
    page.until(lambda: page.test_id("feed-2"), 120)
    page.test_id("feed-2").click()
    page.until(lambda: page.test_id("hear-feed").is_enabled())
    page.test_id("hear-feed").click()
    page.until(lambda: page.driver.find_elements(By.XPATH, "//*[name()='text' and text()='now']"))
    assert page.test_id("hear-feed").text == "Stop listening"
    assert serious(page) == []
    page.test_id("hear-feed").click()
    page.until(lambda: page.test_id("hear-feed").text == "Hear front right live")
    assert not page.driver.find_elements(By.XPATH, "//*[name()='text' and text()='now']")


def test_a_driver_is_recorded_while_the_source_plays(page: Page) -> None:
    page.key("2")
    walk.record_wires(page)
    page.open("rig")
    page.test_id("ready-takes").click()
    page.choose("Takes are played by", "The source: its track goes in by its wires")
    page.choose("Anchor", "Mid L")
    page.until(lambda: "played by the source, time by Mid L" in page.test_id("ready-takes").text)
    assert serious(page) == []
    page.stage("drivers")
    count = len(httpx.get(f"{page.address}/api/projects/wren").json()["takes"])
    page.choose("Method", "Sweep, microphone still")
    page.until(lambda: httpx.get(f"{page.address}/api/rig").json()["plays"] == "interface")
    page.choose("Method", "Source: track, microphone still")
    page.until(lambda: httpx.get(f"{page.address}/api/rig").json()["plays"] == "source")
    page.test_id("record").click()
    page.until(lambda: len(httpx.get(f"{page.address}/api/projects/wren").json()["takes"]) > count, 60)
    newest = httpx.get(f"{page.address}/api/projects/wren").json()["takes"][0]
    assert (newest["method"], newest["clock"]) == ("source", "source:mid-l@Middle of the head")
    page.test_id("driver-mid-l").click()
    page.test_id("tab-takes").click()
    page.until(lambda: "through the source" in page.test_id(f"take-{newest['id']}").text)
