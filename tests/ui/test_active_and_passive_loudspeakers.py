"""Loudspeakers and earpieces in the browser: taps in the reading room and the helmet, a network for a measured pair."""

import httpx
import pytest

from tests.ui.browser import Page
from tests.ui.test_any_system import open_system
from tests.ui.test_interface import serious
from tests.ui.test_places import opened

pytestmark = [pytest.mark.xdist_group("views"), pytest.mark.pace(200), pytest.mark.walk]


def open_demo(page: Page, key: str, slug: str) -> str:
    """A demonstration, aligned by the first proposal; the address of its project."""
    open_system(page)
    page.test_id(f"demo-{key}").click()
    opened(page, slug)
    base = f"{page.address}/api/projects/{slug}"
    httpx.post(f"{base}/proposals/first", json={}, timeout=120).raise_for_status()
    return base


def state(base: str) -> dict:
    return httpx.get(base, timeout=60).json()


def find_taps(page: Page, **fields: str) -> str:
    """Go to the taps of all channels, and search within limits; what was found, in words."""
    page.stage("voice")
    page.test_id("voice-all").click()
    page.settled()
    page.button("taps").click()
    for label, value in fields.items():
        page.type_into(label, value)
    page.test_id("find-taps").click()
    return page.test_id("found-taps").text


def test_the_pair_of_the_reading_room_is_made_transparent(page: Page) -> None:
    base = open_demo(page, "room", "heron")
    told = find_taps(page, Taps="1023", From="300", To="16000")
    assert "All together" in told
    assert serious(page) == []
    page.after(page.named("Use these taps").click)
    channels = state(base)["tune"]["channels"]
    tapped = {name: one["taps"]["says"] for name, one in channels.items() if one["taps"]}
    assert {"tweeter-l", "tweeter-r"} <= tapped.keys(), told
    assert all("phase" in one for one in tapped.values())
    # Sent, the processor runs them; the curves that are drawn are those with taps.
    page.stage("handover")
    page.test_id("send").click()
    page.test_id("all-sent")
    page.test_id("handover-files").click()
    assert page.named("Taps of Tweeter L as WAV")


def test_taps_of_the_helmet_keep_to_a_budget_of_time(page: Page) -> None:
    base = open_demo(page, "helmet", "swift")
    httpx.put(f"{base}/processor", json={"model": "eight-by-twelve"}, timeout=60)
    page.until(lambda: state(base)["link"]["limits"]["taps"] > 0)
    rate = state(base)["link"]["limits"]["rate"]
    told = find_taps(page, Taps="95", Latency="0.4", From="1500", To="12000")
    assert "0.4" in told
    page.after(page.named("Use these taps").click)
    kept = [one["taps"] for one in state(base)["tune"]["channels"].values() if one["taps"]]
    assert kept
    assert all(one["delay"] / rate < 0.5e-3 for one in kept)


def impedance_of(base: str, name: str) -> int | None:
    return (state(base)["impedance"].get(name) or {}).get("take_id")


def test_a_network_for_the_pair_of_the_reading_room(page: Page) -> None:
    base = open_demo(page, "room", "heron")
    drivers = {one["id"]: one for one in state(base)["layout"]["drivers"]}
    for name in ("midbass-l", "tweeter-l"):
        if not impedance_of(base, name):
            practice = {"clips": "driver", "clipped_output": drivers[name]["output"]}
            httpx.put(f"{page.address}/api/rig/practice", json=practice, timeout=60).raise_for_status()
            body = {"channel": name, "loaded": {"loading": "as it is", "amount": 0}}
            httpx.post(f"{base}/impedance", json=body, timeout=60).raise_for_status()
            page.until(lambda n=name: impedance_of(base, n))
    page.stage("drivers")
    page.test_id("tab-passive").click()
    page.button("Tweeter L").click()
    page.find("[aria-label='Drivers of the network'] button[value=midbass-l]").click()
    page.type_into("They meet at", "2800")
    page.test_id("begin-network").click()
    page.test_id("passive-worth")
    before = httpx.get(f"{base}/passive", timeout=60).json()["worth"]["rms_db"]
    page.test_id("search-values").click()
    page.until(lambda: page.test_id("passive-found"))
    page.button("use").click()
    page.until(lambda: httpx.get(f"{base}/passive", timeout=60).json()["worth"]["rms_db"] < before)
    assert not page.found("[data-testid=trouble]")
