"""The link to a window's microphone: what it says is checked, what makes no sense is answered and ends nothing."""

import json

import numpy as np
import pytest
from starlette.testclient import TestClient

HOST = {"host": "127.0.0.1"}
OPENED = {"label": "Tabletop", "output": "Speakers", "rate": 48_000, "inputs": 1, "latency_s": 0.02, "processing": []}


def device(client: TestClient) -> dict:
    return next(one for one in client.get("/api/rig").json()["devices"] if one["id"] == "browser")


def test_a_window_opens_it_and_lets_go_of_it(client: TestClient) -> None:
    assert device(client)["name"] == "Browser: its microphone and output"
    assert client.get("/api/rig").json()["browser"] is None
    with client.websocket_connect("/api/browser-sound", headers=HOST) as socket:
        socket.send_json({"kind": "open", "opened": OPENED})
        assert socket.receive_json() == {"kind": "opened"}
        assert (device(client)["name"], device(client)["inputs"]) == ("Browser: Tabletop", 1)
        rig = client.patch("/api/rig", json={"device": "browser"}).json()
        assert (rig["timing"], rig["reference_input"], rig["browser"]) == ("marker", None, OPENED)
        socket.send_json({"kind": "lost", "why": "unplugged"})
        socket.send_json({"kind": "end", "run": 3})
        assert "nothing is open" in socket.receive_json()["says"]
        ready = {one["key"]: one for one in client.get("/api/rig").json()["ready"]}
        assert "no window has its microphone open" in ready["device"]["says"]
        socket.send_json({"kind": "open", "opened": {**OPENED, "label": "Another"}})
        assert socket.receive_json() == {"kind": "opened"}
        assert client.get("/api/rig").json()["browser"]["label"] == "Another"
    client.portal.call(lambda: None)  # the link is closed in the server's own loop
    refused = client.post("/api/projects/wren/takes", json={"channels": ["mid-l"], "purpose": "driver"})
    assert refused.status_code == 409


@pytest.mark.parametrize(
    ("message", "says"),
    [
        ("{}", "kind"),
        ("no JSON", "Invalid JSON"),
        (json.dumps({"kind": "open", "opened": {**OPENED, "inputs": 0}}), "inputs"),
        (json.dumps({"kind": "open", "opened": {**OPENED, "rate": 1e9}}), "rate"),
        (json.dumps({"kind": "open", "opened": {**OPENED, "latency_s": 1e300}}), "latency_s"),
        (json.dumps({"kind": "open", "opened": OPENED, "more": 1}), "more"),
        (json.dumps({"kind": "gap", "run": 1, "gap": {"of": "played", "at": 0, "frames": 1}}), "nothing is open"),
        (json.dumps({"kind": "lost", "why": "bored"}), "why"),
    ],
)
def test_what_makes_no_sense_is_answered(client: TestClient, message: str, says: str) -> None:
    with client.websocket_connect("/api/browser-sound", headers=HOST) as socket:
        socket.send_bytes(b"\x00\x01")
        socket.send_text(message)
        answer = socket.receive_json()
        assert answer["kind"] == "refused"
        assert says in answer["says"]
        socket.send_json({"kind": "open", "opened": OPENED})
        assert socket.receive_json() == {"kind": "opened"}


def test_a_take_runs_over_the_link(client: TestClient) -> None:
    """What the window hears is what it plays: a driver without any sound of its own."""
    with client.websocket_connect("/api/browser-sound", headers=HOST) as socket:
        socket.send_json({"kind": "open", "opened": {**OPENED, "inputs": 2}})
        socket.receive_json()
        client.patch("/api/rig", json={"device": "browser"})
        client.patch("/api/rig", json={"sweep": {"length": 2**14}})
        begun = client.post("/api/projects/wren/takes", json={"channels": ["mid-l"], "purpose": "driver"})
        assert begun.status_code == 202
        begin = socket.receive_json()
        assert begin["kind"] == "begin"
        first = 0
        while first < begin["frames"]:
            frames = socket.receive_bytes()[8:]
            heard = np.frombuffer(frames, "<f4").copy()
            heard[::2] += 1e-3  # a microphone with an offset, so that it is another input than the loopback
            head = begin["run"].to_bytes(4, "little") + first.to_bytes(4, "little")
            socket.send_bytes(head + heard.tobytes())
            first += len(frames) // 8
        socket.send_json({"kind": "end", "run": begin["run"]})
        ended = client.app.state.recorder.wait()
        assert ended.stage == "kept", ended.message
        assert socket.receive_json() == {"kind": "stop", "run": begin["run"]}
