"""A disk that is full: every write says so and changes nothing, and all is well again when there is room."""

import io
import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.formats.wav import write_wav
from imbrix.work.ground.workspace import open_workspace
from tests.helpers.disk import Disk, small_disk
from tests.helpers.server import BASE

CURVE = "\n".join(f"{f:.2f} {80 - n / 40:.2f}" for n, f in enumerate(20 * 2 ** (np.arange(3000) / 300))).encode()


@pytest.fixture
def disk(tmp_path: Path) -> Iterator[Disk]:
    with small_disk(tmp_path / "disk") as made:
        if made is None:
            pytest.skip("a disk of its own can be mounted by root only")
        yield made


@pytest.fixture
def client(disk: Disk, demo_folder: Path) -> Iterator[TestClient]:
    shutil.copytree(demo_folder, disk.at / "data")
    space = open_workspace(disk.at / "data", pace=0)
    with TestClient(create_app(space), base_url="http://127.0.0.1", raise_server_exceptions=False) as made:
        yield made
    space.close()


def sweep() -> bytes:
    heard = np.concatenate((np.zeros(900), exponential_sweep(SweepSettings()).samples, np.zeros(4800)))
    return write_wav(np.stack([heard, heard], 1), 48_000)


def upload(data: bytes, **fields: object) -> dict:
    return {"data": fields, "files": {"file": ("f", io.BytesIO(data))}}


WRITES = [
    ("post", "edits", {"json": {"edits": [{"do": "channel", "channel": "sub", "gain_db": -3}]}}),
    ("put", "name", {"json": {"name": "N" * 80}}),
    ("post", "takes/upload", upload(sweep(), channel="sub", kind="recording")),
    ("post", "targets", upload(CURVE)),
    ("post", "references", upload(CURVE)),
    ("post", "/api/rig/corrections", upload(CURVE, pointing="source")),
    ("patch", "/api/rig", {"json": {"output_names": ["n" * 40] * 256}}),
    ("put", "takes/1/note", {"json": {"note": "n" * 200}}),
    ("post", "notes", {"json": {"text": "n" * 900}}),
    ("post", "/api/projects", {"json": {"name": "Another", "ready": "front-3-sub"}}),
    ("post", "/api/songs", upload(sweep())),
    ("post", "processor/store", {"json": {"slot": 2, "name": "Two"}}),
    ("put", "plan", {"json": {"key": "image", "skipped": True}}),
    ("post", "/api/copies", {}),
]


@pytest.mark.walk
def test_a_full_disk_is_said_and_nothing_is_half_done(client: TestClient, disk: Disk) -> None:
    before = {**client.get(BASE).json(), "version": 0}
    songs = client.get("/api/songs").json()
    disk.fill()
    said = []
    for method, path, body in WRITES:
        answer = client.request(method, path if path.startswith("/") else f"{BASE}/{path}", **body)
        said.append((path, answer.status_code))
        assert answer.status_code in (200, 201, 204, 507), f"{path}: {answer.status_code} {answer.text}"
        if answer.status_code == 507:
            assert "disk is full" in answer.json()["detail"]
    print(said)
    assert sum(status == 507 for _path, status in said) >= 3
    assert {**client.get(BASE).json(), "version": 0} == before, said
    assert client.get("/api/songs").json() == songs
    leftovers = [one.name for one in (disk.at / "data").rglob("*") if one.suffix in (".part", ".tmp")]
    assert leftovers == []
    disk.empty()
    for method, path, body in WRITES:
        answer = client.request(method, path if path.startswith("/") else f"{BASE}/{path}", **body)
        assert answer.status_code < 300, f"{path}: {answer.text}"
