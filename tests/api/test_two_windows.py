"""Two windows on one project: edits of both survive or are refused in words, and each hears of the other's change."""

import json
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from starlette.testclient import TestClient

from imbrix.standins.places import van
from imbrix.work.ground import projects

BASE = "/api/projects/wren"
HOST = {"host": "127.0.0.1"}


def on(client: TestClient) -> int:
    return client.get(BASE).json()["revision"]["id"]


def edit(client: TestClient, revision: int, *edits: dict):
    return client.post(f"{BASE}/edits", json={"edits": list(edits), "on": revision})


def test_edits_of_both_survive_where_they_touch_different_settings(client: TestClient) -> None:
    seen = on(client)
    assert edit(client, seen, {"do": "channel", "channel": "sub", "gain_db": -3}).status_code == 200
    both = edit(client, seen, {"do": "channel", "channel": "mid-l", "inverted": True}).json()
    assert both["tune"]["channels"]["sub"]["gain_db"] == -3
    assert both["tune"]["channels"]["mid-l"]["inverted"]


def test_what_comes_too_late_is_refused_with_what_was_changed(client: TestClient) -> None:
    seen = on(client)
    band = {"do": "band", "channel": "sub", "index": 0, "band": {"frequency_hz": 50, "gain_db": -3}}
    assert edit(client, seen, band).status_code == 200
    late = edit(client, seen, {**band, "band": {"frequency_hz": 90, "gain_db": -6}})
    assert late.status_code == 409
    assert late.headers["content-type"] == "application/problem+json"
    assert "another window has changed this since" in late.json()["detail"]
    assert late.json()["changed"] == ["Sub: band 1 none to peaking 50 Hz, -3.0 dB, Q 1.00"]
    assert client.get(BASE).json()["tune"]["channels"]["sub"]["bands"][0]["frequency_hz"] == 50
    gone = edit(client, 999_999, {"do": "channel", "channel": "sub", "gain_db": 1})
    assert (gone.status_code, gone.json()["detail"]) == (404, "there is no revision 999999 in this project")


def test_undo_takes_nothing_of_the_other_window_back_unseen(client: TestClient) -> None:
    seen = on(client)
    edit(client, seen, {"do": "channel", "channel": "sub", "gain_db": -3})
    late = client.post(f"{BASE}/undo", json={"on": seen})
    assert late.status_code == 409
    assert "Sub: gain -3.0 dB" in late.json()["detail"]
    assert client.post(f"{BASE}/undo", json={"on": on(client)}).status_code == 200
    assert client.post(f"{BASE}/redo", json={"on": 1}).json()["tune"]["channels"]["sub"]["gain_db"] == -3


def test_a_change_is_told_while_something_plays(client: TestClient) -> None:
    client.space.pace = 1.0  # type: ignore[attr-defined]
    with client.websocket_connect(f"{BASE}/live?window=other", headers=HOST) as socket:
        client.post(f"{BASE}/play", json={"channels": ["sub"], "signal": {"kind": "pink", "seconds": 20}})
        began = time.monotonic()
        edit(client, on(client), {"do": "channel", "channel": "mid-l", "gain_db": -3})
        wanted = client.space.version  # type: ignore[attr-defined]
        told = 0
        while told < wanted:
            message = socket.receive()
            assert time.monotonic() - began < 10
            if "text" in message:
                told = json.loads(message["text"]).get("changed", told)
        assert client.get("/api/progress").json()["stage"] == "playing"
    client.post(f"{BASE}/takes/abort")
    client.app.state.recorder.wait()  # type: ignore[attr-defined]


def test_steps_given_at_once_all_count(client: TestClient) -> None:
    seen = on(client)
    step = {"do": "step", "channel": "sub", "gain_db": -0.1}
    with ThreadPoolExecutor(8) as pool:
        answers = list(pool.map(lambda _n: edit(client, seen, step).status_code, range(16)))
    assert answers == [200] * 16
    assert client.get(BASE).json()["tune"]["channels"]["sub"]["gain_db"] == pytest.approx(-1.6, abs=1e-9)


def test_a_window_hears_of_a_change_within_200_ms(client: TestClient) -> None:
    with client.websocket_connect(f"{BASE}/live?window=other", headers=HOST) as socket:
        assert "progress" in json.loads(socket.receive_text())
        version = client.get(BASE).json()["version"]
        began = time.monotonic()
        edit(client, on(client), {"do": "channel", "channel": "sub", "gain_db": -3})
        answered = time.monotonic()
        told = json.loads(socket.receive_text())
        heard = time.monotonic()
    assert told["changed"] > version
    assert heard - began < 0.2 + (answered - began)
    assert client.get(BASE).json()["version"] == told["changed"]


def test_drafts_belong_to_their_window(client: TestClient) -> None:
    recorder = client.app.state.recorder  # type: ignore[attr-defined]
    view = {"stage": "voice", "selection": "sub"}

    def look(socket, edits: list[dict]) -> None:
        socket.send_json({"seq": 1, "view": view, "edits": edits})
        while not socket.receive().get("bytes"):
            pass

    address = f"{BASE}/live?window="
    with (
        client.websocket_connect(f"{address}mine", headers=HOST) as mine,
        client.websocket_connect(f"{address}yours", headers=HOST) as yours,
    ):
        look(mine, [{"do": "channel", "channel": "sub", "gain_db": -3}])
        look(yours, [])  # a window that only looks leaves the other's draft alone
        assert recorder.drafts[("wren", "mine")].channels["sub"].gain_db == -3
        assert ("wren", "yours") not in recorder.drafts
        look(mine, [])
        assert recorder.drafts == {}


def test_a_take_is_stopped_only_from_its_own_project(client: TestClient) -> None:
    space, recorder = client.space, client.app.state.recorder  # type: ignore[attr-defined]
    other = projects.begin(space, "Other", van.layout())
    space.pace = 4.0
    assert client.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"}).status_code == 202
    refused = client.post(f"/api/projects/{other}/takes/abort")
    assert refused.status_code == 409
    assert "belongs to the project 'wren'" in refused.json()["detail"]
    assert client.get("/api/progress").json()["stage"] in ("playing", "computing", "kept")
    assert client.post(f"{BASE}/takes/abort").status_code == 200
    recorder.wait()
    assert client.get("/api/progress").json()["stage"] in ("aborted", "kept")
    assert client.get("/api/progress").json()["project"] == "wren"
