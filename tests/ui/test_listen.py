"""Listening in the browser: A, B and X by keys, a blind trial, a note."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page
from tests.ui.test_interface import serious

pytestmark = [pytest.mark.xdist_group("next-step"), pytest.mark.walk]
API = "/api/projects/wren"


def lit(page: Page, which: str) -> bool:
    return page.test_id(f"hear-{which}").get_attribute("aria-pressed") == "true"


def test_two_tunes_are_heard_by_keys_told_apart_blind_and_noted(page: Page) -> None:
    api = httpx.Client(base_url=page.address, timeout=60)
    first = api.get(API).json()["revision"]["id"]
    api.post(f"{API}/edits", json={"edits": [{"do": "channel", "channel": "mid-l", "gain_db": -6}]})
    page.stage("proof")
    page.test_id("proof-listen").click()
    assert serious(page) == []
    page.key(" ")
    page.until(lambda: lit(page, "a"))
    page.named("B").click()
    oldest = api.get(f"{API}/audition").json()["versions"][-1]
    assert oldest["key"] == f"revision-{first}"
    page.saying("[role=option]", oldest["name"]).click()
    page.until(lambda: "to be as loud" in page.test_id("hear-a").text + page.test_id("hear-b").text)
    page.key("b")
    page.until(lambda: lit(page, "b"))
    page.saying("label", "blind", exact=False).click()
    page.until(lambda: page.found("[data-testid=hear-x]"))
    page.key("x")
    page.until(lambda: lit(page, "x"))
    page.key(Keys.ARROW_LEFT)
    page.until(lambda: "of 1 right" in page.test_id("trials").text)
    assert "it was" in page.test_id("trials").text
    assert serious(page) == []
    note = page.find("input[aria-label=Note]")
    note.send_keys("thinner", Keys.ENTER)
    page.until(lambda: "thinner" in page.find("ul").text)
    page.key("a")
    page.until(lambda: lit(page, "a"))
    page.key(" ")
    page.until(lambda: page.test_id("play-music").text == "Play")


def test_one_piece_follows_another(page: Page) -> None:
    httpx.post(f"{page.address}/api/projects/wren/processor/send").raise_for_status()
    page.stage("proof")
    page.test_id("proof-listen").click()
    page.test_id("go-on").click()
    page.test_id("play-music").click()
    # Twelve seconds eight times as fast: the other of the two pieces that ship, and the first again.
    for name in ("Pink noise", "Plucked strings"):
        page.until(lambda wanted=name: wanted in page.named("Piece").text)
    page.test_id("play-music").click()
    page.until(lambda: page.test_id("play-music").text == "Play")
