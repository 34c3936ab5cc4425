"""The end-to-end proof: bare drivers to a proven tune through the visible interface."""

import struct

import httpx
import numpy as np
import pytest
from selenium.webdriver.remote.webelement import WebElement

from tests.ui import walk
from tests.ui.browser import Page

pytestmark = [pytest.mark.xdist_group("walk"), pytest.mark.pace(200)]


def figures(page: Page) -> dict[str, np.ndarray]:
    """The curves of the proof at a smoothing, as the server sends them to the page."""
    import json

    import websockets.sync.client as ws

    base = page.address.replace("http", "ws")
    found = {}
    with ws.connect(f"{base}/api/projects/wren/live", origin=page.address) as live:
        for fraction in (6, 12):
            live.send(json.dumps({"seq": 1, "view": {"stage": "proof", "smoothing": fraction}}))
            frame = next(m for m in live if isinstance(m, bytes))
            (length,) = struct.unpack_from("<I", frame)
            head = json.loads(frame[4 : 4 + length])
            floats = np.frombuffer(frame, "<f4", offset=4 + length)
            for one in head["curves"]:
                found[f"{one['id']}-{fraction}"] = floats[one["values"][0] : sum(one["values"])]
    return found


@pytest.mark.walk
def test_from_bare_drivers_to_a_proven_tune(page: Page) -> None:
    walk.record_round(page)
    said = walk.apply_findings(page)
    assert len(said) == 1
    assert "Midbass R looks wired backwards" in said[0]
    walk.set_corners(page)
    walk.take_best_offers(page)
    walk.fit_all(page)
    walk.record_whole(page)

    state = httpx.get(f"{page.address}/api/projects/wren").json()
    tune = state["tune"]["channels"]
    wrong = {"midbass-r": tune["midbass-r"]["inverted"], "midbass-l": tune["midbass-l"]["inverted"]}
    assert wrong["midbass-r"] is not wrong["midbass-l"], "the driver wired backwards was set right"
    assert state["link"]["unsent"] == []

    grid = np.array(httpx.get(f"{page.address}/api/grid").json())
    span = (grid >= 40) & (grid <= 16_000)
    curves = figures(page)
    came = (curves["measured-12"] - curves["predicted-12"])[span]
    assert np.isfinite(came).all()
    assert np.sqrt(np.mean(came**2)) < 0.5
    assert np.abs(came).max() < 1.5
    against = (curves["measured-6"] - curves["target-6"])[span]
    assert np.abs(against).max() < 3.0
    assert float(page.test_id("plus-minus").text.strip("± dB")) < 3.0

    # Handover: stored in a slot, and still there after the processor loses its power with the server.
    page.stage("handover")
    page.test_id("all-sent")
    page.named("Store in slot 1").click()
    page.until(lambda: "active" in page.test_id("slot-1").text)
    page.named("More for slot 1").click()
    menu_item(page, "Lock").click()
    page.until(lambda: "locked" in page.test_id("slot-1").text)
    assert not page.named("Store in slot 1").is_enabled()
    page.named("More for slot 1").click()
    menu_item(page, "Copy to slot 2").click()
    page.until(lambda: "empty" not in page.test_id("slot-2").text)
    page.named("More for slot 2").click()
    menu_item(page, "Compare with the present tune").click()
    page.until(lambda: "holds the present tune" in page.find("[role=dialog]").text)
    page.button("Close").click()


def menu_item(page: Page, text: str) -> WebElement:
    """An entry of the menu that is open."""
    return page.saying("[role=menuitem]", text, exact=False)
