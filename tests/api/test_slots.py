"""Slots of the processor: stored and read back, copied, named, locked, held against the tune."""

import pytest
from starlette.testclient import TestClient

from imbrix.work.ground.workspace import Workspace

BASE = "/api/projects/wren"


def edit(client: TestClient, gain: float) -> None:
    edits = [{"do": "channel", "channel": "mid-l", "gain_db": gain}]
    assert client.post(f"{BASE}/edits", json={"edits": edits}).status_code == 200


def store(client: TestClient, slot: int, name: str):
    assert client.post(f"{BASE}/processor/send").status_code == 200
    return client.post(f"{BASE}/processor/store", json={"slot": slot, "name": name})


def compared(client: TestClient, slot: int) -> list[tuple[str, str, str]]:
    answer = client.get(f"{BASE}/processor/slots/{slot}/changes")
    assert answer.status_code == 200, answer.text
    return [(one["channel"], one["before"], one["after"]) for one in answer.json()]


def test_a_copy_holds_the_same_and_what_runs_goes_on(client: TestClient) -> None:
    edit(client, -3)
    store(client, 1, "Calm")
    edit(client, -5)
    store(client, 2, "Loud")
    link = client.post(f"{BASE}/processor/slots/1/copy", json={"to": 3}).json()["link"]
    assert link["slots"] == {"1": "Calm", "2": "Loud", "3": "Calm"}
    assert link["active_slot"] == 2
    assert link["unsent"] == []
    assert compared(client, 2) == []
    assert compared(client, 3) == compared(client, 1) == [("Mid L", "-3.0 dB", "-5.0 dB")]
    link = client.put(f"{BASE}/processor/slots/3/name", json={"name": "Calm too"}).json()["link"]
    assert link["slots"]["3"] == "Calm too"
    assert compared(client, 3) == [("Mid L", "-3.0 dB", "-5.0 dB")]
    client.post(f"{BASE}/processor/recall", json={"slot": 3})
    assert client.get(BASE).json()["link"]["unsent"][0]["before"] == "-3.0 dB"


def test_nothing_is_stored_in_a_locked_slot(client: TestClient) -> None:
    store(client, 1, "Kept")
    assert client.put(f"{BASE}/processor/slots/1/lock", json={"locked": True}).json()["link"]["locked_slots"] == [1]
    for refused in (
        client.post(f"{BASE}/processor/store", json={"slot": 1, "name": "Over it"}),
        client.put(f"{BASE}/processor/slots/1/name", json={"name": "Over it"}),
    ):
        assert refused.status_code == 409
        assert "slot 1 is locked" in refused.json()["detail"]
    store(client, 2, "Other")
    assert client.post(f"{BASE}/processor/slots/2/copy", json={"to": 1}).status_code == 409
    assert client.get(BASE).json()["link"]["slots"]["1"] == "Kept"
    # The plan does not ask for what is refused.
    for slot in range(2, 5):
        client.put(f"{BASE}/processor/slots/{slot}/lock", json={"locked": True})
    client.put(f"{BASE}/processor/slots/1/lock", json={"locked": False})
    steps = client.get(f"{BASE}/plan").json()["steps"]
    assert next(one for one in steps if one["key"] == "store")["choices"][0]["name"] == "Store in slot 1"


def test_what_cannot_be_is_said(client: TestClient) -> None:
    for answer, says in (
        (client.post(f"{BASE}/processor/slots/4/copy", json={"to": 3}), "slot 4 is empty"),
        (client.put(f"{BASE}/processor/slots/4/name", json={"name": "x"}), "slot 4 is empty"),
        (client.get(f"{BASE}/processor/slots/4/changes"), "slot 4 is empty"),
        (client.put(f"{BASE}/processor/slots/60/lock", json={"locked": True}), "there is no slot 60"),
    ):
        assert answer.status_code == 409
        assert says in answer.json()["detail"]
    assert client.get(f"{BASE}/processor/slots/0/changes").status_code == 422
    store(client, 1, "One")
    assert client.post(f"{BASE}/processor/slots/1/copy", json={"to": 1}).status_code == 409


def test_a_slot_that_did_not_take_it_is_said(
    client: TestClient, demo: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    processor = type(client.app.state.space.processors.get("wren") or client.app.state.space.processor)
    monkeypatch.setattr(processor, "store", lambda self, slot, name: None)
    answer = store(client, 1, "Lost")
    assert answer.status_code == 409
    assert "does not hold what was stored" in answer.json()["detail"]


def test_tastes_want_slots_that_are_not_locked(client: TestClient) -> None:
    client.post(f"{BASE}/processor/send")
    client.put(f"{BASE}/processor/slots/2/lock", json={"locked": True})
    before = client.get(BASE).json()["revision"]["id"]
    curves = [one["key"] for one in client.get(BASE).json()["targets"]][:2]
    body = {"tastes": [{"curve": curve, "slot": n} for n, curve in enumerate(curves, 1)]}
    answer = client.post(f"{BASE}/processor/tastes", json=body)
    assert answer.status_code == 409
    assert "slot 2 is locked" in answer.json()["detail"]
    assert client.get(BASE).json()["revision"]["id"] == before
