"""Several hands on one project at once: what was answered as done is there, the rest was refused in words."""

import io
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import count

import httpx
import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.formats.wav import read_wav, write_wav
from tests.helpers.server import BASE
from tests.trials.length import many

CURVE = b"20 80\n200 85\n2000 82\n20000 70\n"
Try = Callable[[TestClient, int], httpx.Response]
Found = Callable[[TestClient, int, httpx.Response], bool]


def state(client: TestClient) -> dict:
    return client.get(BASE).json()


def file_of(number: int) -> dict:
    return {"files": {"file": (f"curve {number}.txt", io.BytesIO(CURVE))}}


def by_id(rows: list[dict], wanted: object, key: str = "id") -> bool:
    return any(one[key] == wanted for one in rows)


# What is done so many times at once, and how it is seen that it was.
AT_ONCE: dict[str, tuple[Try, Found]] = {
    "projects of one name": (
        lambda client, n: client.post("/api/projects", json={"name": "Alike", "ready": "front-3-sub"}),
        lambda client, n, got: by_id(client.get("/api/projects").json()["projects"], got.json()["slug"], "slug"),
    ),
    "targets": (
        lambda client, n: client.post(f"{BASE}/targets", **file_of(n)),
        lambda client, n, got: by_id(state(client)["targets"], got.json()["key"], "key"),
    ),
    "references": (
        lambda client, n: client.post(f"{BASE}/references", **file_of(n)),
        lambda client, n, got: len([one for one in state(client)["references"] if f"curve {n}" in one["name"]]) == 1,
    ),
    "slots": (
        lambda client, n: client.post(f"{BASE}/processor/store", json={"slot": 1 + n % 4, "name": f"S{n % 4}"}),
        lambda client, n, got: state(client)["link"]["slots"][str(1 + n % 4)] == f"S{n % 4}",
    ),
    "notes of takes": (
        lambda client, n: client.put(f"{BASE}/takes/{takes(client)[n % 7]}/note", json={"note": f"note {n % 7}"}),
        lambda client, n, got: f"note {n % 7}" in {one["note"] for one in state(client)["takes"]},
    ),
    "looks of takes": (
        lambda client, n: client.put(
            f"{BASE}/takes/{takes(client)[n % 7]}/look", json={"offset_db": n % 7, "shown": True}
        ),
        lambda client, n, got: state(client)["takes"][n % 7]["look"]["offset_db"] == n % 7,
    ),
    "areas": (
        lambda client, n: client.put(f"{BASE}/about/{names(client)[n % 7]}", json={"area_cm2": 20 + n % 7}),
        lambda client, n, got: state(client)["impedance"][names(client)[n % 7]]["area_cm2"] == 20 + n % 7,
    ),
    "takes brought": (
        lambda client, n: client.post(
            f"{BASE}/takes/upload", data={"channel": names(client)[n % 7], "kind": "text"}, **file_of(n)
        ),
        lambda client, n, got: by_id(state(client)["takes"], got.json()["id"]),
    ),
    "recordings": (
        lambda client, n: client.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"}),
        lambda client, n, got: got.json()["stage"] in ("countdown", "waiting", "playing", "computing", "kept"),
    ),
    "listenings": (
        lambda client, n: client.post(f"{BASE}/listen", json={}),
        lambda client, n, got: got.status_code == 202,
    ),
}


def takes(client: TestClient) -> list[int]:
    return [one["id"] for one in state(client)["takes"]][:7]


def names(client: TestClient) -> list[str]:
    return [one["id"] for one in state(client)["layout"]["drivers"]]


@pytest.fixture
def hands(client: TestClient) -> Iterator[ThreadPoolExecutor]:
    with ThreadPoolExecutor(8) as pool:
        yield pool
    tidy(client)


def tidy(client: TestClient) -> None:
    """Make room for the next turn: what sounds is ended, and references go, of which there is a limited number."""
    client.post(f"{BASE}/takes/abort")
    client.app.state.recorder.wait(30)  # type: ignore[attr-defined]
    for one in state(client)["references"]:
        client.delete(f"{BASE}/references/{one['id']}")


@pytest.mark.parametrize("what", AT_ONCE)
def test_what_is_done_at_once_is_done_or_refused_in_words(
    client: TestClient, hands: ThreadPoolExecutor, what: str
) -> None:
    do, found = AT_ONCE[what]
    for turn in range(many(1, 20)):
        together = threading.Barrier(8)

        def one(number: int, together: threading.Barrier = together) -> httpx.Response:
            together.wait()
            return do(client, number)

        answers = list(hands.map(one, range(8 * turn, 8 * turn + 8)))
        assert all(got.status_code < 500 for got in answers), [got.text for got in answers]
        refused = [got for got in answers if got.status_code >= 400]
        assert all(got.status_code == 409 and len(got.json()["detail"]) > 20 for got in refused)
        kept = [(n, got) for n, got in zip(count(8 * turn), answers) if got.status_code < 400]
        assert kept
        assert [n for n, got in kept if not found(client, n, got)] == []
        if what == "recordings":
            assert len(kept) == 1
        tidy(client)


def test_what_is_not_allowed_during_a_take_is_refused_in_words(client: TestClient) -> None:
    """What would change the take that is under way: the processor, what is in its slots, where the microphone is."""
    client.space.pace = 4.0  # type: ignore[attr-defined]
    before = state(client)
    assert client.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"}).status_code == 202
    elsewhere = before["rig"]["positions"][1]["name"]
    for method, path, body in [
        ("post", f"{BASE}/processor/send", None),
        ("post", f"{BASE}/processor/store", {"slot": 1, "name": "half"}),
        ("post", f"{BASE}/processor/recall", {"slot": 1}),
        ("post", f"{BASE}/neutral", None),
        ("patch", "/api/rig", {"rate": 44_100}),
        ("put", f"{BASE}/layout", before["layout"]),
        ("post", f"{BASE}/takes", {"channels": ["sub"], "purpose": "driver"}),
    ]:
        answer = client.request(method, path, json=body)
        assert answer.status_code == 409, f"{path}: {answer.status_code} {answer.text[:200]}"
        assert len(answer.json()["detail"]) > 20
    assert client.get("/api/progress").json()["stage"] in ("playing", "computing")
    # Where the microphone goes next is said while it still sounds: this take was made where it was.
    assert client.patch("/api/rig", json={"position": elsewhere}).status_code == 200
    client.app.state.recorder.wait(60)  # type: ignore[attr-defined]
    made = client.get("/api/progress").json()
    assert made["stage"] == "kept"
    take = next(one for one in state(client)["takes"] if one["id"] == made["take_id"])
    assert take["position"] == before["rig"]["position"]
    assert state(client)["rig"]["position"] == elsewhere


def test_of_recordings_that_are_brought_at_once_one_is_taken(client: TestClient, hands: ThreadPoolExecutor) -> None:
    client.patch("/api/rig", json={"device": "file"})
    stimulus = read_wav(client.get(f"{BASE}/stimulus.wav").content, 48_000)[:, 0]
    recorder = client.app.state.recorder  # type: ignore[attr-defined]
    client.post(f"{BASE}/takes", json={"channels": ["mid-l"], "purpose": "driver"})
    while recorder.progress.stage != "waiting":
        time.sleep(0.01)
    heard = write_wav(np.concatenate(list(client.space.standin.play_and_record(stimulus))), 48_000, "FLOAT")  # type: ignore[attr-defined]
    before = len(state(client)["takes"])
    together = threading.Barrier(8)

    def bring(_number: int) -> int:
        together.wait()
        return client.post(f"{BASE}/takes/bring", files={"file": ("a.wav", io.BytesIO(heard))}).status_code

    assert sorted(hands.map(bring, range(8))) == [200] + [409] * 7
    recorder.wait(30)
    assert len(state(client)["takes"]) == before + 1
