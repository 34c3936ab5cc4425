"""What requests may hold: everything has bounds, and what is out of them is named by its field."""

import json

import pytest
from starlette.testclient import TestClient

from imbrix.core.tune.edits import EDITS

BASE = "/api/projects/wren"
HUGE = 2**70


@pytest.mark.parametrize(
    ("method", "path", "body", "field"),
    [
        ("post", "edits", {"edits": [{"do": "channel", "channel": "sub", "gain_db": 1e9}]}, "gain_db"),
        ("post", "edits", {"edits": [{"do": "channel", "channel": "sub", "delay_s": -1}]}, "delay_s"),
        ("post", "edits", {"edits": [{"do": "fly"}]}, "edits.0"),
        ("post", "edits", {"edits": [{"do": "step", "channel": "sub", "gain_db": 100}]}, "gain_db"),
        ("post", "edits", {"edits": [{"do": "step", "channel": "sub", "octaves": 2}]}, "octaves"),
        ("post", "edits", {"edits": [{"do": "step-seam", "seam": "a", "delay_s": 1}]}, "delay_s"),
        ("post", "edits", {"edits": [{"do": "neutral"}] * 65}, "edits"),
        ("post", "edits", {"edits": [{"do": "neutral"}], "on": HUGE}, "on"),
        ("post", "edits", {"edits": [{"do": "neutral"}], "summary": "x" * 300}, "summary"),
        ("post", "edits", {"edits": [{"do": "band", "channel": "sub", "index": 64, "band": None}]}, "index"),
        ("post", "undo", {"on": -1}, "on"),
        ("post", "undo", {"back": 2}, "back"),
        ("post", "takes", {"channels": [], "purpose": "driver"}, "channels"),
        ("post", "takes", {"channels": ["x" * 100], "purpose": "driver"}, "channels"),
        ("post", "takes", {"channels": ["sub"], "purpose": "driver", "angle": 200}, "angle"),
        ("post", "takes/average", {"takes": [1], "kind": "rms"}, "takes"),
        ("post", "takes/average", {"takes": [1, HUGE], "kind": "rms"}, "takes.1"),
        ("post", "takes/level", {"channel": "sub", "low_hz": 1, "high_hz": 200}, "low_hz"),
        ("put", "takes/1/look", {"colour": 9}, "colour"),
        ("put", "takes/1/note", {"note": "x" * 500}, "note"),
        ("put", "takes/1/angle", {"angle": 181}, "angle"),
        ("put", "takes/1/correction", {"correction": HUGE}, "correction"),
        ("put", "about/sub", {"re_ohm": -1}, "re_ohm"),
        ("post", "impedance", {"channel": "sub", "loaded": {"loading": "mass", "amount": -1}}, "amount"),
        ("post", "fit", {"channels": ["sub"] * 33}, "channels"),
        ("post", "fit", {"channels": ["sub"], "limits": {"boost_db": -2}}, "boost_db"),
        ("post", "processor/store", {"slot": 0}, "slot"),
        ("post", "processor/recall", {"slot": 65}, "slot"),
        ("post", "analyser", {"choice": {"seconds": 0.001}}, "seconds"),
        ("post", "analyser", {"window": "x" * 41}, "window"),
        ("post", "listen", {"fraction": 7}, "fraction"),
        ("post", "play", {"signal": {"seconds": 1e6}}, "seconds"),
        ("put", "name", {"name": "x" * 100}, "name"),
        ("put", "layout", {"drivers": [], "seat": "roof"}, "seat"),
        ("put", "layout", {"drivers": [{"id": "a", "name": "A", "kind": "horn", "side": "left", "output": 1}]}, "kind"),
        ("put", "round", {"turns": [{"channel": "sub", "state": "asleep"}]}, "state"),
        ("put", "references/1", {"shift_db": 1000}, "shift_db"),
    ],
)
def test_what_is_out_of_bounds_is_named_by_its_field(
    client: TestClient, method: str, path: str, body: dict, field: str
) -> None:
    before = client.get(BASE).json()
    answer = client.request(method, f"{BASE}/{path}", json=body)
    assert answer.status_code == 422, answer.text
    assert field in answer.json()["detail"]
    after = client.get(BASE).json()
    assert {**after, "version": 0} == {**before, "version": 0}


@pytest.mark.parametrize("word", ["NaN", "Infinity", "-Infinity"])
@pytest.mark.parametrize("field", ["gain_db", "delay_s"])
def test_figures_that_are_none_are_refused(client: TestClient, word: str, field: str) -> None:
    body = f'{{"edits": [{{"do": "channel", "channel": "sub", "{field}": {word}}}]}}'
    answer = client.post(f"{BASE}/edits", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert field in answer.json()["detail"]


@pytest.mark.parametrize(
    ("body", "kind"),
    [
        (b"", "application/json"),
        (b"{", "application/json"),
        (b"[]", "application/json"),
        (b'"edits"', "application/json"),
        (b"\xff\xfe", "application/json"),
        (b"edits=1", "application/x-www-form-urlencoded"),
    ],
)
def test_bodies_that_are_none_are_refused(client: TestClient, body: bytes, kind: str) -> None:
    answer = client.post(f"{BASE}/edits", content=body, headers={"content-type": kind})
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize(
    "message",
    [
        "",
        "{",
        "null",
        "[]",
        "drawn!",
        '{"seq": 1}',
        '{"seq": "one", "view": {"stage": "drivers"}}',
        '{"seq": 1e400, "view": {"stage": "drivers"}}',
        f'{{"seq": {HUGE}, "view": {{"stage": "drivers"}}}}',
        f'{{"seq": 1, "view": {{"stage": "drivers", "take": {HUGE}}}}}',
        '{"seq": 1, "view": {"stage": "drivers", "low_hz": NaN}}',
        '{"seq": 1, "view": {"stage": "voice"}, "edits": [{"do": "band", "channel": "sub", "index": 5}]}',
    ],
)
def test_no_message_ends_a_socket(client: TestClient, message: str) -> None:
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as socket:
        assert "progress" in json.loads(socket.receive_text())
        socket.send_text(message)
        assert "error" in json.loads(socket.receive_text())
        socket.send_json({"seq": 2, "view": {"stage": "drivers"}})
        assert socket.receive_bytes()


def test_every_edit_can_be_sent_and_read_back() -> None:
    """The edits of remedies and offers come back to the server as they went out."""
    all_of_them = [
        {"do": "channel", "channel": "sub", "gain_db": -1},
        {"do": "crossover", "channel": "sub", "end": "low_pass", "corner_hz": 80},
        {"do": "tie", "ways": "mid-tweeter", "what": "ways", "tied": False},
        {"do": "seam", "seam": "mid-tweeter-left", "delay_s": 0.001, "invert": True},
        {"do": "band", "channel": "sub", "index": 0, "band": {"frequency_hz": 50}},
        {"do": "bands", "channel": "sub", "bands": []},
        {"do": "gains", "by_db": -1},
        {"do": "delays", "delays_s": {"sub": 0.001}},
        {"do": "solo", "channel": None},
        {"do": "target", "level_db": 76},
        {"do": "step", "channel": "sub", "gain_db": 0.1},
        {"do": "step-seam", "seam": "mid-tweeter-left", "delay_s": 0.00001},
        {"do": "step-target", "level_db": 0.1},
        {"do": "neutral"},
    ]
    edits = EDITS.validate_python(all_of_them)
    again = EDITS.validate_json(EDITS.dump_json(edits))
    assert again == edits
    assert [one.do for one in edits] == [one["do"] for one in all_of_them]
