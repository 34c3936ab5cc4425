"""What was found broken once: each fault with the check that would have shown it."""

import gc
import io
import json
import logging
import threading
import time
import weakref

import numpy as np
import pytest
from sqlalchemy import select
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.formats.wav import write_wav
from imbrix.standins.places.van import SLUG
from imbrix.store.arrays import pack
from imbrix.store.models import ArrayRow
from imbrix.work.ground import projects
from imbrix.work.ground.workspace import Workspace
from imbrix.work.state import project
from imbrix.work.takes import shelf

BASE = "/api/projects/wren"
HOST = {"host": "127.0.0.1"}


def test_a_system_without_a_seam_is_drawn_with_a_sentence(client: TestClient) -> None:
    whole = client.get(BASE).json()["layout"]
    layout = {**whole, "drivers": [one for one in whole["drivers"] if one["id"] == "sub"]}
    assert client.put(f"{BASE}/layout", json=layout).status_code == 200
    with client.websocket_connect(f"{BASE}/live", headers=HOST) as socket:
        socket.send_json({"seq": 1, "view": {"stage": "seams"}})
        while not (message := socket.receive()).get("bytes"):
            assert "error" not in json.loads(message["text"])
    facts = client.get(f"{BASE}/curves", params={"stage": "seams"}).json()["facts"]
    assert "there is no seam" in facts["lacking"]


def test_a_bug_while_drawing_is_an_answer_and_the_socket_lives_on(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(*_more: object) -> None:
        raise ZeroDivisionError("inside")

    with client.websocket_connect(f"{BASE}/live", headers=HOST) as socket:

        def ask() -> dict:
            socket.send_json({"seq": 7, "view": {"stage": "drivers"}})
            while True:
                message = socket.receive()
                if message.get("bytes"):
                    return {}
                told = json.loads(message["text"])
                if "error" in told:
                    return told

        monkeypatch.setattr("imbrix.api.live.draw", broken)
        told = ask()
        assert told["seq"] == 7
        assert "something went wrong inside Imbrix" in told["error"]
        assert "inside" not in told["error"].replace("inside Imbrix", "")
        monkeypatch.undo()
        assert ask() == {}
        socket.send_bytes(b"\xff\xfe\x00")
        assert "error" in json.loads(socket.receive_text())
    assert "ZeroDivisionError" in caplog.text


@pytest.mark.parametrize("error", [ValueError("a bug"), KeyError("a bug"), TypeError("a bug")])
def test_a_bug_is_a_500_in_the_log_and_not_a_refusal(
    demo: Workspace, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture, error: Exception
) -> None:
    def broken(*_more: object) -> None:
        raise error

    monkeypatch.setattr("imbrix.api.projects.project_state", broken)
    with TestClient(create_app(demo), base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        answer = client.get(BASE)
    assert answer.status_code == 500
    assert answer.headers["content-type"] == "application/problem+json"
    assert "a bug" not in answer.text
    assert "a bug" in caplog.text


def test_an_unknown_address_under_the_api_is_no_page(client: TestClient) -> None:
    for path in ("/api/nothing", "/api/projects/wren/nothing", "/api/"):
        answer = client.get(path)
        assert answer.status_code == 404
        assert answer.json()["detail"] == "there is nothing at this address"
    assert client.get(f"{BASE}/undo").status_code == 405


def test_what_is_closed_is_let_go(demo: Workspace) -> None:
    app = create_app(demo)
    with TestClient(app, base_url="http://127.0.0.1") as client:
        assert client.get("/api/nowhere").status_code == 404
    left = weakref.ref(app)
    del app, client
    gc.collect()
    assert left() is None


def test_what_is_not_there_is_404_whatever_it_is(client: TestClient) -> None:
    for path in ("takes/99/response.txt", "seams/none/offers"):
        assert client.get(f"{BASE}/{path}").status_code == 404
    assert client.get(f"{BASE}/curves", params={"stage": "seams", "seam": "none"}).status_code == 404
    assert client.put(f"{BASE}/takes/99/note", json={"note": "x"}).status_code == 404
    assert client.post(f"{BASE}/takes/{2**70}/force").status_code == 422
    for body in ({"channels": ["horn"]}, {"channels": ["sub", ""]}):
        assert client.post(f"{BASE}/fit", json=body).status_code == 404


def test_a_large_upload_keeps_nobody_waiting(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    going, through = threading.Event(), threading.Event()

    def slow(*_more: object) -> np.ndarray:
        going.set()
        assert through.wait(30)
        return np.zeros((48_000, 1))

    monkeypatch.setattr("imbrix.api.takes.wav.read_wav", slow)
    form = {"channel": "mid-l", "kind": "impulse"}
    files = {"file": ("f.wav", io.BytesIO(b"x"))}
    upload = threading.Thread(target=lambda: client.post(f"{BASE}/takes/upload", data=form, files=files))
    upload.start()
    assert going.wait(30)
    assert client.get("/api/rig").status_code == 200  # while the file is still being read
    through.set()
    upload.join(30)


def test_neutral_during_a_take_changes_nothing(client: TestClient) -> None:
    space = client.space  # type: ignore[attr-defined]
    before = client.get(BASE).json()["revision"]["number"]
    with space.device:
        refused = client.post(f"{BASE}/neutral")
        stored = client.post(f"{BASE}/processor/store", json={"slot": 1})
    assert (refused.status_code, stored.status_code) == (409, 409)
    assert client.get(BASE).json()["revision"]["number"] == before
    assert client.get(BASE).json()["link"]["slots"] == {}


def test_a_listening_that_is_refused_leaves_no_log(client: TestClient) -> None:
    with client.space.device:  # type: ignore[attr-defined]
        assert client.post(f"{BASE}/listen", json={"log": True}).status_code == 409
    assert client.get("/api/logs").json() == []


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({"id": "../x y"}, "'../x y' is not one"),
        ({"id": ""}, "'' is not one"),
        ({"id": "x" * 150}, "is not one"),
        ({"name": " "}, "needs a name"),
        ({"name": "a\nb"}, "needs a name"),
        ({"name": "n" * 150}, "needs a name"),
    ],
)
def test_ids_and_names_of_drivers_are_checked(client: TestClient, values: dict, says: str) -> None:
    layout = client.get(BASE).json()["layout"]
    layout["drivers"][0].update(values)
    remarks = client.post("/api/layout/remarks", json=layout).json()
    assert any(says in one["says"] and one["bars"] for one in remarks)
    answer = client.put(f"{BASE}/layout", json=layout)
    assert answer.status_code == 409
    assert says in answer.json()["detail"]
    layout["drivers"][0]["id"] = "x" * 5000
    assert client.put(f"{BASE}/layout", json=layout).status_code == 422


def test_a_state_asks_the_database_nothing_when_nothing_was_changed(demo: Workspace) -> None:
    from sqlalchemy import event

    asked: list[str] = []
    project.project_state(demo, SLUG)
    event.listen(demo.sessions.kw["bind"], "before_cursor_execute", lambda _c, _u, said, *_m: asked.append(said))
    project.project_state(demo, SLUG)
    assert asked == []
    projects.rename(demo, SLUG, "Van")
    asked.clear()
    project.project_state(demo, SLUG)
    assert len(asked) <= 8


def tiny(peak: float) -> bytes:
    return write_wav(np.concatenate((np.zeros(100), [peak], np.zeros(4000))), 48_000, "DOUBLE")


@pytest.mark.parametrize("peak", [0.0, 1e-9, 1e-40, 1e-300])
def test_silent_and_tiny_impulses_are_refused_before_they_are_stored(client: TestClient, peak: float) -> None:
    before = client.get(BASE).json()["takes"]
    form = {"channel": "mid-l", "kind": "impulse"}
    answer = client.post(f"{BASE}/takes/upload", data=form, files={"file": ("i.wav", tiny(peak))})
    assert (answer.status_code, answer.json()["detail"]) == (422, "the impulse response is silent")
    line = client.post(f"{BASE}/references", files={"file": ("i.wav", tiny(peak))})
    assert line.status_code == 422
    assert client.get(BASE).json()["takes"] == before
    assert client.get(BASE).json()["references"] == []


def test_a_correction_that_cannot_be_one_is_not_kept(client: TestClient) -> None:
    before = client.get("/api/rig").json()["correction_list"]
    bad = {"file": ("m.txt", b"20 0\n1000 900\n20000 0\n")}
    answer = client.post("/api/rig/corrections", data={"pointing": "source"}, files=bad)
    assert answer.status_code == 422
    assert "900 dB" in answer.json()["detail"]
    assert client.get("/api/rig").json()["correction_list"] == before


@pytest.mark.parametrize("how", ["silent", "cut"])
def test_one_sick_take_is_shown_as_sick_while_everything_else_works(
    client: TestClient, how: str, caplog: pytest.LogCaptureFixture
) -> None:
    caplog.set_level(logging.CRITICAL)
    space = client.space  # type: ignore[attr-defined]
    state = client.get(BASE).json()
    good = state["drivers"]["mid-l"]["take_id"]
    form = {"channel": "mid-l", "kind": "impulse"}
    wav = client.get(f"{BASE}/takes/{good}/impulse.wav").content
    sick = client.post(f"{BASE}/takes/upload", data=form, files={"file": ("i.wav", wav)}).json()["id"]
    with space.session() as session:  # what an older version may have let in
        row = session.scalar(select(ArrayRow).where(ArrayRow.take_id == sick))
        row.data = pack(np.zeros(4800)) if how == "silent" else row.data[:20]
    space.memory.forget_take(sick)
    with TestClient(create_app(space), base_url="http://127.0.0.1") as again:
        state = again.get(BASE).json()
        assert state["drivers"]["mid-l"]["take_id"] == good
        assert next(one for one in state["takes"] if one["id"] == sick)["sick"]
        (finding,) = [one for one in state["findings"] if one["kind"] == "sick"]
        assert f"Take {sick} of Mid L cannot be read" in finding["says"]
        for stage in ("source", "drivers", "seams", "voice", "proof", "handover"):
            assert again.get(f"{BASE}/curves", params={"stage": stage}).status_code == 200
        discarded = again.put(f"{BASE}/takes/{sick}/discarded", json={"discarded": True})
        assert not [one for one in discarded.json()["findings"] if one["kind"] == "sick"]
    assert shelf.take(space, SLUG, sick).discarded


def test_a_new_window_gets_no_stale_curve_of_a_job_that_has_ended(client: TestClient) -> None:
    client.space.pace = 0.0  # type: ignore[attr-defined]
    recorder = client.app.state.recorder  # type: ignore[attr-defined]
    assert client.post(f"{BASE}/listen", json={"record_s": 0.5}).status_code == 202
    assert recorder.wait().stage == "kept"
    with client.websocket_connect(f"{BASE}/live", headers=HOST) as socket:
        assert json.loads(socket.receive_text())["progress"]["stage"] == "kept"
        time.sleep(0.1)
        socket.send_text("not json")
        assert "error" in json.loads(socket.receive_text())  # nothing came in between
