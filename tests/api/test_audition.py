"""Listening over the API: music, two tunes as loud as each other, blind trials, notes."""

import io
import time

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from imbrix.work.ground.workspace import Workspace

BASE = "/api/projects/wren"
LISTEN = f"{BASE}/audition"


def sent(client: TestClient) -> None:
    assert client.post(f"{BASE}/processor/send").status_code == 200


def until(client: TestClient, true, seconds: float = 30.0) -> dict:
    """The progress once it is so."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        progress = client.get("/api/progress").json()
        if true(progress):
            return progress
        time.sleep(0.02)
    raise AssertionError(progress)


def stopped(client: TestClient) -> None:
    client.post(f"{BASE}/takes/abort")
    client.app.state.recorder.wait()  # type: ignore[attr-defined]


def music(kind: str = "FLAC", seconds: float = 2.0, rate: int = 44_100, channels: int = 2) -> bytes:
    out = io.BytesIO()
    wave = 0.3 * np.sin(2 * np.pi * 440 / rate * np.arange(round(seconds * rate)))
    soundfile.write(out, np.repeat(wave[:, None], channels, axis=1), rate, format=kind)
    return out.getvalue()


def edited(client: TestClient, *edits: dict) -> int:
    made = client.post(f"{BASE}/edits", json={"edits": list(edits)})
    assert made.status_code == 200, made.text
    return made.json()["revision"]["id"]


def test_music_is_brought_listed_played_and_taken_away(client: TestClient) -> None:
    shipped = client.get("/api/songs").json()
    assert [one["id"] for one in shipped] == [-2, -1]
    for kind, name in (("FLAC", "Evening.flac"), ("OGG", "Walk.ogg"), ("WAV", "Mono.wav")):
        channels = 1 if kind == "WAV" else 2
        made = client.post("/api/songs", files={"file": (name, music(kind, channels=channels))})
        assert made.status_code == 201, made.text
        assert made.json()["name"] == name.split(".")[0]
        assert made.json()["seconds"] == 2.0
    first = client.get("/api/songs").json()[0]
    begun = client.post(f"{LISTEN}/play", json={"song": first["id"]})
    assert begun.status_code == 202, begun.text
    stopped(client)
    left = client.delete(f"/api/songs/{first['id']}").json()
    assert first["id"] not in [one["id"] for one in left]
    assert client.delete("/api/songs/-1").status_code == 404


@pytest.mark.walk
def test_one_piece_follows_another_where_that_is_wanted(client: TestClient) -> None:
    sent(client)
    own = [
        client.post("/api/songs", files={"file": (f"{name}.flac", music(seconds=1.5))}).json()["id"]
        for name in ("One", "Two")
    ]
    begun = client.post(f"{LISTEN}/play", json={"song": own[0], "then": "next", "start": "b"})
    assert begun.status_code == 202
    for following in (own[1], own[0]):  # round and round, through the same tune
        now = until(client, lambda now, number=following: now["purpose"] == str(number))
        assert now["result"]["sounds"] == "b"
    stopped(client)
    # Of what ships, where there is nothing of one's own: the other one.
    for one in own:
        client.delete(f"/api/songs/{one}")
    client.post(f"{LISTEN}/play", json={"song": -2, "then": "next"})
    until(client, lambda now: now["purpose"] == "-1")
    stopped(client)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"nothing of the kind", "cannot be read as music"),
        (music(seconds=0.2), "shorter than a second"),
        (music("WAV")[:60], "shorter than a second"),
    ],
)
def test_what_is_no_music_is_refused_and_not_kept(client: TestClient, data: bytes, says: str) -> None:
    refused = client.post("/api/songs", files={"file": ("x.wav", data)})
    assert refused.status_code == 400 or refused.status_code == 422
    assert says in refused.json()["detail"]
    assert len(client.get("/api/songs").json()) == 2


def test_two_tunes_are_as_loud_and_switched_while_it_plays(client: TestClient, demo: Workspace) -> None:
    sent(client)
    before = client.get(BASE).json()["revision"]["id"]
    edited(client, {"do": "gains", "by_db": 6.0})
    sent(client)
    state = client.put(LISTEN, json={"a": "now", "b": f"revision-{before}"}).json()
    assert (state["a"], state["b"], state["blind"]) == ("now", f"revision-{before}", False)
    # The very same tune but for 6 dB: A comes down by them.
    assert client.get(f"{LISTEN}/loudness/-1").json() == {"a_db": -6.0, "b_db": 0.0}
    held = client.get(BASE).json()["link"]["unsent"]
    demo.pace = 20.0
    client.post(f"{LISTEN}/play", json={"song": -1, "start": "a"})
    until(client, lambda now: now["result"] == {"sounds": "a"} and now["done"] > 0)
    output = demo.layout("wren").driver("mid-l").output
    level = demo.processor.read(output).channel.gain_db
    assert client.post(f"{LISTEN}/switch", json={"to": "b"}).status_code == 202
    until(client, lambda now: now["result"] == {"sounds": "b"})
    assert demo.processor.read(output).channel.gain_db == pytest.approx(level, abs=0.05)
    # While it plays, nothing counts as unsent that was sent; afterwards the processor does what it did.
    assert client.get(BASE).json()["link"]["unsent"] == held == []
    stopped(client)
    assert demo.processor.read(output).channel.gain_db == pytest.approx(level + 6, abs=0.05)
    assert client.post(f"{LISTEN}/switch", json={"to": "b"}).status_code == 409


def test_what_is_chosen_while_it_plays_is_heard(client: TestClient, demo: Workspace) -> None:
    sent(client)
    first = client.get(BASE).json()["revision"]["id"]
    edited(client, {"do": "channel", "channel": "mid-l", "inverted": True})
    output = demo.layout("wren").driver("mid-l").output
    demo.pace = 20.0
    client.post(f"{LISTEN}/play", json={"song": -1, "start": "b"})
    until(client, lambda now: now["done"] > 0)
    assert demo.processor.read(output).channel.inverted
    client.put(LISTEN, json={"a": "now", "b": f"revision-{first}"})
    until(client, lambda _now: not demo.processor.read(output).channel.inverted)
    stopped(client)


def test_ways_stay_together_where_a_gain_is_at_its_end(client: TestClient, demo: Workspace) -> None:
    first = client.get(BASE).json()["revision"]["id"]
    edited(client, {"do": "gains", "by_db": 6.0}, {"do": "channel", "channel": "sub", "gain_db": -38.0})
    client.put(LISTEN, json={"a": "now", "b": f"revision-{first}"})
    asked = client.get(f"{LISTEN}/loudness/-1").json()["a_db"]
    assert asked < -3
    outputs = [demo.layout("wren").driver(name).output for name in ("sub", "mid-l")]
    demo.pace = 20.0
    client.post(f"{LISTEN}/play", json={"song": -1})
    until(client, lambda now: now["done"] > 0)
    sub, mid = (demo.processor.read(output).channel.gain_db for output in outputs)
    assert sub == pytest.approx(-40)  # the least that it can do: two decibels are taken here, the rest off the music
    assert mid == pytest.approx(6 - 2)
    stopped(client)


def test_only_the_common_correction_is_heard_at_once_unless_unlocked(client: TestClient, demo: Workspace) -> None:
    sent(client)
    output = demo.layout("wren").driver("mid-l").output
    demo.pace = 20.0
    client.post(f"{LISTEN}/play", json={"song": -1})
    until(client, lambda now: now["done"] > 0)
    band = {"kind": "high_shelf", "frequency_hz": 4000, "gain_db": 2, "q": 0.7}
    edited(client, {"do": "band", "channel": None, "index": 0, "band": band})
    edited(client, {"do": "channel", "channel": "mid-l", "gain_db": -9})
    until(client, lambda _now: len(demo.processor.read(output).common) == 1)
    assert demo.processor.read(output).channel.gain_db == 0
    client.put(LISTEN, json={"a": "now", "b": "now", "unlocked": True})
    edited(client, {"do": "channel", "channel": "mid-l", "gain_db": -8})
    until(client, lambda _now: demo.processor.read(output).channel.gain_db == -8)
    stopped(client)
    assert demo.processor.read(output).common == ()


def test_a_blind_trial_tells_only_what_was_answered(client: TestClient) -> None:
    first = client.get(BASE).json()["revision"]["id"]
    edited(client, {"do": "channel", "channel": "mid-l", "gain_db": -6})
    assert client.post(f"{LISTEN}/answer", json={"said": "a"}).status_code == 409
    assert client.put(LISTEN, json={"a": "now", "b": "now", "blind": True}).status_code == 409
    state = client.put(LISTEN, json={"a": "now", "b": f"revision-{first}", "blind": True}).json()
    assert state["blind"]
    was = []
    for _ in range(12):
        answered = client.post(f"{LISTEN}/answer", json={"said": "a"}).json()
        was.append(answered["was"])
    trials = answered["state"]["trials"]
    assert (trials["count"], trials["right"]) == (12, was.count("a"))
    assert set(was) == {"a", "b"}  # by guessing alone once in two thousand
    assert trials["says"].startswith(f"{was.count('a')} of 12 right")
    assert client.delete(f"{LISTEN}/trials").json()["trials"]["count"] == 0
    # Other versions are another question.
    client.post(f"{LISTEN}/answer", json={"said": "b"})
    assert client.put(LISTEN, json={"a": f"revision-{first}", "b": "now"}).json()["trials"]["count"] == 0


def test_slots_that_were_stored_here_can_be_heard(client: TestClient) -> None:
    edited(client, {"do": "channel", "channel": "mid-l", "gain_db": -6})
    sent(client)
    assert client.post(f"{BASE}/processor/store", json={"slot": 2, "name": "Warm"}).status_code == 200
    state = client.get(LISTEN).json()
    assert {"key": "slot-2", "name": "slot 2: Warm"} in state["versions"]
    edited(client, {"do": "channel", "channel": "mid-l", "gain_db": 0})
    assert client.put(LISTEN, json={"a": "now", "b": "slot-2"}).status_code == 200
    loud = client.get(f"{LISTEN}/loudness/-2").json()
    assert loud["a_db"] < -0.1
    assert client.put(LISTEN, json={"a": "now", "b": "slot-7"}).status_code == 404
    assert client.put(LISTEN, json={"a": "now", "b": "revision-x"}).status_code == 404


def test_notes_keep_the_revision_and_what_played(client: TestClient) -> None:
    edited(client, {"do": "channel", "channel": "mid-l", "gain_db": -6})
    number = client.get(BASE).json()["revision"]["number"]
    client.post(f"{BASE}/notes", json={"text": "  thick below 200 Hz ", "heard": "Evening, as it is now"})
    state = client.post(f"{BASE}/notes", json={"text": "better"}).json()
    assert [(one["text"], one["revision"]) for one in state["notes"]] == [
        ("better", number),
        ("thick below 200 Hz", number),
    ]
    assert client.post(f"{BASE}/notes", json={"text": "  "}).status_code == 422
    left = client.delete(f"{BASE}/notes/{state['notes'][0]['id']}").json()["notes"]
    assert [one["text"] for one in left] == ["thick below 200 Hz"]
    assert client.delete(f"{BASE}/notes/99").status_code == 404
