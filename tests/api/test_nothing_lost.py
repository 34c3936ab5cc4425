"""A killed server: whatever was shown as saved is there again, and nothing is half done."""

import json
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
import websockets.sync.client as ws

from tests.helpers.server import BASE, Server, serving


@pytest.fixture
def server(demo_folder: Path, tmp_path: Path) -> Iterator[Server]:
    with serving(demo_folder, tmp_path / "data") as made:
        yield made


@pytest.mark.walk
def test_killed_in_the_middle_of_a_take(server: Server) -> None:
    before = server.state()
    edits = {"edits": [{"do": "channel", "channel": "mid-l", "gain_db": -7}]}
    # A slot with an older tune: it is what the processor comes up with when its power was cut along with the server.
    server.http.post(f"{BASE}/processor/send")
    server.http.post(f"{BASE}/processor/store", json={"slot": 1})
    server.http.post(f"{BASE}/edits", json=edits)
    saved = server.http.post(f"{BASE}/processor/send").json()
    assert saved["link"]["unsent"] == []
    server.http.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"})
    with ws.connect(f"ws://127.0.0.1:{server.port}{BASE}/live", origin=f"http://127.0.0.1:{server.port}") as live:
        while '"playing"' not in live.recv():
            pass
        server.kill()
    server.start()
    after = server.state()
    assert after["revision"] == saved["revision"]
    assert after["tune"] == saved["tune"]
    assert after["takes"] == before["takes"]
    # What the processor held before the take is back, and it is said.
    assert after["link"] == saved["link"]
    assert "stopped in the middle of a recording" in after["notice"]
    assert server.http.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"}).status_code == 202


@pytest.mark.walk
def test_killed_while_a_microphone_moves(server: Server) -> None:
    """The averages so far are dropped, the round stands where it stood, and the next take works."""
    turned = server.state()["round"]
    turned["turns"] = turned["turns"][::-1]
    server.http.put(f"{BASE}/round", json=turned)
    server.http.post(f"{BASE}/takes", json={"channels": ["mid-l"], "purpose": "driver", "method": "moving"})
    with ws.connect(f"ws://127.0.0.1:{server.port}{BASE}/live", origin=f"http://127.0.0.1:{server.port}") as live:
        while not isinstance(live.recv(), bytes):
            pass
        server.kill()
    server.start()
    after = server.state()
    assert [turn["channel"] for turn in after["round"]["turns"]] == [turn["channel"] for turn in turned["turns"]]
    assert sum(one["purpose"] == "driver" for one in after["takes"]) == 7
    assert "that take was dropped" in after["notice"]
    assert server.http.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"}).status_code == 202


@pytest.mark.walk
def test_killed_while_changes_pour_in(server: Server) -> None:
    """Every change that was answered is there; the one in flight is there wholly or not at all."""
    answered: list[int] = []

    def pour() -> None:
        for n in range(2000):
            try:
                edits = [{"do": "channel", "channel": "sub", "gain_db": -(n % 39) - 1, "delay_s": (n % 39) / 48_000}]
                answer = server.http.post(f"{BASE}/edits", json={"edits": edits})
            except (httpx.TransportError, RuntimeError):
                return
            answered.append(answer.json()["revision"]["number"])

    pouring = threading.Thread(target=pour)
    pouring.start()
    while len(answered) < 8:
        time.sleep(0.01)
    server.kill()
    pouring.join()
    server.start()
    state = server.state()
    assert answered[-1] <= state["revision"]["number"] <= answered[-1] + 1
    sub = state["tune"]["channels"]["sub"]
    assert round(sub["delay_s"] * 48_000) == -sub["gain_db"] - 1


@pytest.mark.walk
def test_killed_in_the_middle_of_a_drag(server: Server) -> None:
    saved = server.state()
    with ws.connect(f"ws://127.0.0.1:{server.port}{BASE}/live", origin=f"http://127.0.0.1:{server.port}") as live:
        drawn = 0
        while drawn < 5:
            corner = {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 300 + drawn}
            live.send(f'{{"seq": {drawn}, "view": {{"stage": "seams"}}, "edits": [{json.dumps(corner)}]}}')
            drawn += isinstance(live.recv(), bytes)
        server.kill()
    server.start()
    assert server.state()["tune"] == saved["tune"]
    assert server.state()["revision"] == saved["revision"]


@pytest.mark.walk
def test_killed_in_the_middle_of_a_send(server: Server) -> None:
    edits = {"edits": [{"do": "gains", "by_db": -5}]}
    saved = server.http.post(f"{BASE}/edits", json=edits).json()

    def send() -> None:
        for _ in range(200):
            try:
                server.http.post(f"{BASE}/processor/send")
            except (httpx.TransportError, RuntimeError):
                return

    sending = threading.Thread(target=send)
    sending.start()
    time.sleep(0.1)
    server.kill()
    sending.join()
    server.start()
    state = server.state()
    assert state["tune"] == saved["tune"]
    assert state["link"]["unsent"]  # its power was cut with the server: what is not in it shows as unsent
    assert server.http.post(f"{BASE}/processor/send").json()["link"]["unsent"] == []
