"""Odd messages to the live socket: each is answered, none ends it, and the next good one is drawn."""

import json
import random

from starlette.testclient import TestClient

from tests.helpers.server import BASE
from tests.trials.length import dice, many

GOOD = {
    "seq": 1,
    "view": {"stage": "voice", "selection": "mid-l", "smoothing": 6, "low_hz": 40, "high_hz": 16_000},
    "edits": [{"do": "band", "channel": "mid-l", "index": 0, "band": {"frequency_hz": 700, "gain_db": -4, "q": 2}}],
}
ODD = [
    None,
    True,
    -1,
    0,
    2**53,
    2**70,
    1e308,
    -1e-320,
    "",
    "x" * 3000,
    "\x00",
    "\ud800",
    [],
    {},
    [[]],
    "drawn",
    "mid-l",
]


def odd(value: object, by: random.Random) -> object:
    """The value with one thing in it put in another's place, left out or doubled."""
    if isinstance(value, dict) and value and by.random() < 0.8:
        name = by.choice(list(value))
        if by.random() < 0.15:
            return {key: one for key, one in value.items() if key != name}
        return {**value, (name if by.random() < 0.9 else name + "s"): odd(value[name], by)}
    if isinstance(value, list) and value and by.random() < 0.7:
        n = by.randrange(len(value))
        return [*value[:n], odd(value[n], by), *value[n + by.randrange(2) :]]
    return by.choice(ODD)


def message(by: random.Random, good: object = GOOD) -> str | bytes:
    """Something to send: a good message with an odd thing in it, or what is no message at all."""
    text = json.dumps(odd(good, by))
    kind = by.randrange(10)
    if kind == 0:
        return bytes(by.randrange(256) for _ in range(by.randrange(200)))
    if kind == 1:
        return text.encode()
    if kind == 2:
        return text[: by.randrange(len(text) + 1)]
    if kind == 3:
        return text.replace("4", by.choice(["NaN", "Infinity", "1e999", "--", "\u2212"]))
    return text


OPEN = {
    "kind": "open",
    "opened": {"label": "Tabletop", "output": "", "rate": 48_000, "inputs": 1, "latency_s": 0.02, "processing": []},
}


def test_no_message_ends_the_link_to_a_microphone(client: TestClient) -> None:
    by = dice("microphone")
    with client.websocket_connect("/api/browser-sound", headers={"host": "127.0.0.1"}) as socket:
        for n in range(many(150, 3000)):
            sent = message(by, OPEN)
            if isinstance(sent, bytes):
                socket.send_bytes(sent)
                continue
            socket.send_text(sent)
            answer = socket.receive()
            assert answer["type"] == "websocket.send", f"message {n}: {sent[:200]!r}"
            # Who opens anew takes it over from itself: that is told before the answer.
            assert json.loads(answer["text"])["kind"] in ("opened", "refused", "taken"), f"message {n}: {sent[:200]!r}"
        while json.loads(answer["text"])["kind"] == "taken":
            answer = socket.receive()
        socket.send_text(json.dumps(OPEN))
        assert json.loads(socket.receive()["text"])["kind"] == "opened"


def test_no_message_ends_the_socket(client: TestClient) -> None:
    by = dice("sockets")
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as socket:
        assert "progress" in json.loads(socket.receive_text())
        for n in range(many(150, 3000)):
            sent = message(by)
            if isinstance(sent, bytes):
                socket.send_bytes(sent)
            else:
                socket.send_text(sent)
            if sent in ("drawn", b"drawn"):
                continue
            answer = socket.receive()
            assert answer["type"] == "websocket.send", f"message {n}: {sent[:200]!r}"
            assert answer.get("bytes") or "error" in answer["text"], f"message {n}: {sent[:200]!r}"
        socket.send_text(json.dumps({"seq": 7, "view": {"stage": "drivers"}}))
        assert socket.receive()["bytes"]
