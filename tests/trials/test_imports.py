"""Files damaged by chance, brought at every door: refused in words or taken whole, and never a project unreadable."""

import io
import json
import random
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.tune.models import STOCK
from imbrix.formats.processor_model import write_model
from imbrix.formats.wav import read_wav, write_wav
from tests.trials.length import dice, many

BASE = "/api/projects/wren"
ODD = [
    b"",
    b"\x00",
    b"\xff\xfe",
    b"1e400",
    b"-1e308",
    b"1e-320",
    b"nan",
    b"\r",
    b"\xe2\x88\x92",
    b"99999999999999999999",
]


@dataclass(frozen=True)
class Door:
    """Where a kind of file comes in, one that is good, and what comes with it."""

    address: str
    good: bytes
    fields: tuple[tuple[str, str], ...] = ()


def doors(client: TestClient) -> list[Door]:
    """One of each kind."""
    track = read_wav(client.get(f"{BASE}/source/track.wav").content, 48_000)[:, 0]
    wires = write_wav(np.stack([np.roll(track, 900), np.roll(track, 900)], 1), 48_000)
    sweep = exponential_sweep(SweepSettings()).samples
    heard = np.concatenate((np.zeros(900), sweep, np.zeros(4800)))
    impulse = np.zeros(4800)
    impulse[[480, 560]] = 0.5, -0.2
    curve = "\n".join(f"{f:.2f} {80 - abs(n - 40) / 4:.3f} {-n}" for n, f in enumerate(20 * 2 ** (np.arange(80) / 8)))
    ohms = "\n".join(
        f"{f:.2f} {6 + 20 / (1 + (n - 20) ** 2):.3f} {n - 20}" for n, f in enumerate(np.arange(20, 2000, 25))
    )
    text = curve.encode()
    both = write_wav(np.stack([heard, heard], 1), 48_000)
    small = client.post("/api/projects", json={"name": "Small", "ready": "front-3-sub"}).json()["slug"]
    form = {"channel": "sub", "kind": "text"}
    client.post(f"/api/projects/{small}/takes/upload", data=form, files={"file": ("f", io.BytesIO(text))})
    return [
        Door("/api/project-files", client.get(f"/api/projects/{small}/project.imbrix").content),
        Door(f"{BASE}/targets", text),
        Door(f"{BASE}/references", text),
        Door("/api/rig/corrections", text, (("pointing", "source"),)),
        Door(f"{BASE}/impedance/upload", ohms.encode(), (("channel", "sub"),)),
        Door(f"{BASE}/impedance/upload", write_wav(np.stack([heard, heard / 2], 1), 48_000), (("channel", "sub"),)),
        Door(f"{BASE}/takes/upload", text, (("channel", "mid-l"), ("kind", "text"))),
        Door(f"{BASE}/takes/upload", write_wav(impulse, 48_000), (("channel", "mid-l"), ("kind", "impulse"))),
        Door(f"{BASE}/takes/upload", both, (("channel", "sub"), ("kind", "recording"))),
        Door(f"{BASE}/source/upload", wires, (("first", "1"), ("second", "2"))),
        Door("/api/signal", write_wav(heard, 48_000)),
        Door("/api/models", write_model(STOCK).encode()),
        Door("/api/songs", write_wav(np.tile(impulse, 20), 48_000)),
        Door(f"{BASE}/listen/upload", write_wav(heard, 48_000)),
    ]


def cut(data: bytearray, by: random.Random) -> None:
    del data[by.randrange(len(data) + 1) :]


def flip(data: bytearray, by: random.Random) -> None:
    for _ in range(by.choice([1, 1, 4, 64])):
        if data:
            data[by.randrange(len(data))] = by.randrange(256)


def flip_the_head(data: bytearray, by: random.Random) -> None:
    if data:
        data[by.randrange(min(len(data), 64))] = by.choice([0, 1, 127, 128, 255])


def put_in(data: bytearray, by: random.Random) -> None:
    at = by.randrange(len(data) + 1)
    data[at:at] = by.choice(ODD)


def twice(data: bytearray, by: random.Random) -> None:
    begin = by.randrange(len(data) + 1)
    data[begin:begin] = data[begin : begin + by.choice([1, 8, 200])]


def leave_out(data: bytearray, by: random.Random) -> None:
    begin = by.randrange(len(data) + 1)
    del data[begin : begin + by.choice([1, 8, 200])]


def odd_number(data: bytearray, by: random.Random) -> None:
    """Put an odd thing in the place of one word."""
    words = data.split(b" ")
    words[by.randrange(len(words))] = by.choice(ODD)
    data[:] = b" ".join(words)


CHANGES: list[Callable[[bytearray, random.Random], None]] = [
    cut, flip, flip_the_head, put_in, twice, leave_out, odd_number,
]  # fmt: skip


def damaged(good: bytes, by: random.Random) -> bytes:
    """The same file after one to three accidents."""
    data = bytearray(good)
    for _ in range(by.choice([1, 1, 2, 3])):
        by.choice(CHANGES)(data, by)
    return bytes(data)


def kept(client: TestClient) -> dict:
    """What a project holds, without the count of changes, and which others there are."""
    there = [one["slug"] for one in client.get("/api/projects").json()["projects"]]
    return {**client.get(BASE).json(), "version": 0, "projects": there}


def test_the_files_are_good_before_they_are_damaged(client: TestClient) -> None:
    for door in doors(client):
        answer = client.post(door.address, data=dict(door.fields), files={"file": ("f", io.BytesIO(door.good))})
        assert answer.status_code < 300, f"{door.address}: {answer.text}"


@pytest.mark.walk
def test_a_damaged_file_is_refused_in_words_or_taken_whole(client: TestClient) -> None:
    by = dice("imports")
    every = doors(client)
    views = [{"stage": stage} for stage in ("drivers", "seams", "voice", "proof", "handover")]
    before = kept(client)
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as live:
        for n in range(many(len(every) * 10, 10_000)):
            door = every[n % len(every)]
            data = damaged(door.good, by)
            where = f"{door.address}, file {n}"
            answer = client.post(door.address, data=dict(door.fields), files={"file": ("f", io.BytesIO(data))})
            assert answer.status_code < 500, where
            if answer.status_code >= 400:
                assert "object at 0x" not in answer.json()["detail"], where
                assert kept(client) == before, where
                continue
            before = kept(client)
            live.send_json({"seq": n, "view": views[n % len(views)]})
            while isinstance(message := live.receive().get("text"), str):
                assert "error" not in json.loads(message), f"{where}: {message}"
