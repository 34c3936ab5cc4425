"""The customer's phone: let in by the code on the tuner's screen, turns what it may, and is sent away again."""

from collections.abc import Iterator

import httpx
import pytest

from tests.ui.browser import Page, start_chromium
from tests.ui.test_interface import serious

CUSTOMER = "/api/projects/wren/customer"


@pytest.fixture
def handset() -> Iterator[Page]:
    driver = start_chromium(360, 640)
    yield Page(driver, "")
    driver.quit()


@pytest.mark.walk
def test_a_phone_is_let_in_turns_and_is_sent_away(page: Page, handset: Page) -> None:
    httpx.post(f"{page.address}/api/projects/wren/processor/send").raise_for_status()
    for slot, name in ((1, "Flat"), (2, "Evening with a rather long name")):
        body = {"slot": slot, "name": name}
        httpx.post(f"{page.address}/api/projects/wren/processor/store", json=body).raise_for_status()
    page.stage("handover")
    page.test_id("handover-customer").click()
    page.type_into("Lift of the lowest", "4")
    page.until(lambda: httpx.get(f"{page.address}{CUSTOMER}").json()["said"])
    page.type_into("Address for phones", "127.0.0.3")
    page.type_into("Port", "0")
    page.button("Let a phone in").click()
    code = page.test_id("phone-code").text
    picture = page.find("[data-testid=phones] img")
    page.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", picture)
    page.until(lambda: page.driver.execute_script("return arguments[0].naturalWidth > 50", picture))
    assert serious(page) == []
    address = httpx.get(f"{page.address}{CUSTOMER}").json()["address"]

    handset.driver.get(f"{address}/")
    handset.find("#code").send_keys("WRONGONE")
    handset.find("#pair button").click()
    handset.until(lambda: "does not hold" in handset.find("#says").text)
    handset.find("#code").clear()
    handset.find("#code").send_keys(code)
    handset.find("#pair button").click()
    handset.until(lambda: handset.find("#name").text == "Wren book van")
    # Wide enough for a thumb, and nothing to be moved sideways on a small screen.
    for one in handset.found("button, input[type=range]"):
        if one.is_displayed():
            assert one.size["height"] >= 48
    assert handset.driver.execute_script("return document.documentElement.scrollWidth") <= 360
    assert serious(handset) == []
    assert handset.driver.get_log("browser") == [] or all(
        "401" in one["message"] for one in handset.driver.get_log("browser")
    )
    handset.named("Quieter").click()
    handset.named("More bass").click()
    handset.named("More deep bass").click()
    asked = f"{page.address}{CUSTOMER}"
    wanted = {"volume_db": -2.0, "bass_db": 1.0, "lift_db": 1.0}
    page.until(lambda: httpx.get(asked).json()["turned"] == wanted)
    handset.button("Evening").click()
    handset.until(lambda: "true" in handset.button("Evening").get_attribute("aria-pressed"))
    assert httpx.get(asked).json()["turned"] == wanted
    # What is turned elsewhere is seen here.
    httpx.put(f"{asked}/turned", json={"volume_db": -20}).raise_for_status()
    handset.until(lambda: "20 dB" in handset.find("[data-control=volume_db] output").text)
    page.until(lambda: "volume \u221220" in page.find("aside").text)
    page.find("[aria-label^='Send ']").click()
    handset.until(lambda: handset.find("#code"))
    page.button("Let nobody in any more").click()
    page.until(lambda: httpx.get(asked).json()["address"] == "")
