"""A whole job by files in a room of someone else's making (pyroomacoustics, image sources), where no stand-in knows.

A two-way front and a sub. The sweep is exported, played through driver models and the room, and brought back from four
places, with the loopback beside it or with a marker on the second output; what the plan advises is done; the whole is
judged by what the room itself would do over a head that moves. It absorbs as much as a cabin does.
"""

import io
import time
import zipfile
from collections.abc import Callable, Iterator

import numpy as np
import pyroomacoustics
import pytest
import soxr
from scipy.signal import fftconvolve, sosfilt
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import ComplexArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layouts import ready
from imbrix.core.tune.crossover import sections
from imbrix.formats.wav import read_wav, write_wav
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed
from tests.helpers.job import ended

SLUG, BASE = "room", "/api/projects/room"
RATE = 48_000
HEAD = (1.9, 2.2, 1.1)
WHERE = {
    "sub": (3.4, 0.6, 0.4),
    "midbass-l": (0.9, 3.6, 0.9),
    "midbass-r": (3.2, 3.7, 0.9),
    "tweeter-l": (0.9, 3.6, 1.1),
    "tweeter-r": (3.2, 3.7, 1.1),
}
PLAYS_HZ = {"sub": (25, 160), "midbass": (60, 5000), "tweeter": (1200, 21_000)}
"""Second-order ends of each driver."""
GAIN = {"sub": 1.4, "midbass": 1.0, "tweeter": 1.6}


PLACES = {"Middle of the head": (0, 0), "Left ear": (-0.09, 0), "Right ear": (0.09, 0), "Leaning forward": (0, 0.12)}
"""Where the microphone is held, by the rig's names, in metres right and forward."""
TOUR = [(x / 100, y / 100) for x in (-10, -5, 0, 5, 10) for y in (-8, 0, 8)]


def room(spots: list[tuple[float, float]]) -> list[dict[str, np.ndarray]]:
    """By spot what reaches the microphone of an impulse at each driver (n,), drivers and room together."""
    made = pyroomacoustics.ShoeBox((4.1, 5.0, 2.5), fs=RATE, materials=pyroomacoustics.Material(0.8), max_order=8)
    for place in WHERE.values():
        made.add_source(place)
    made.add_microphone_array(np.array([np.add(HEAD, (*spot, 0.0)) for spot in spots]).T)
    made.compute_rir()
    return [{name: driven(name, rir) for name, rir in zip(WHERE, row, strict=True)} for row in made.rir]


def driven(name: str, impulse: np.ndarray) -> np.ndarray:
    """What a driver makes of it (n,)."""
    kind = name.split("-")[0]
    low, high = PLAYS_HZ[kind]
    ends = [*sections("butterworth", 12, low, "high_pass", RATE), *sections("butterworth", 12, high, "low_pass", RATE)]
    return GAIN[kind] * sosfilt(np.array(ends), np.asarray(impulse)[: RATE // 2])


@pytest.fixture
def job(tmp_path) -> Iterator[tuple[TestClient, Workspace]]:
    space = open_workspace(tmp_path / "data", pace=0)
    create_project(space, SLUG, "Room", ready("front-2-sub", "left"))
    with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
        client.patch("/api/rig", json={"device": "file"}).raise_for_status()
        yield client, space
    space.close()


def by_loopback(client: TestClient) -> None:
    """Bring recordings of the exported sweep, the loopback beside the microphone, of four places, sorted by name."""
    with zipfile.ZipFile(io.BytesIO(client.get(f"{BASE}/sweep.zip").content)) as package:
        sweep = read_wav(package.read("sweep.wav"), RATE)[:, 0]
    played = np.concatenate((np.zeros(RATE // 2), sweep, np.zeros(RATE)))
    noise = np.random.default_rng(9)
    # The middle first, which leads: what is recorded elsewhere afterwards changes nothing of that.
    for place, there in zip(PLACES, room(list(PLACES.values())), strict=True):
        client.patch("/api/rig", json={"position": place}).raise_for_status()
        names = {f"{name}, {place}.wav": name for name in there}
        told = client.post(f"{BASE}/takes/sorted", json={"names": list(names)}).json()
        assert [one["channel"] for one in told] == list(there)
        for file, name in names.items():
            heard = 2.0 * fftconvolve(played, there[name])[: played.size] + 1e-5 * noise.standard_normal(played.size)
            assert np.abs(heard).max() < 1
            files = {"file": (file, write_wav(np.stack((heard, played), axis=1), RATE), "audio/wav")}
            answer = client.post(f"{BASE}/takes/upload", data={"channel": name, "kind": "recording"}, files=files)
            assert answer.status_code == 201, answer.text


ANCHOR = "midbass-l"


def by_marker(client: TestClient) -> None:
    """Bring one take after another from a recorder with one microphone, a clock of its own and somebody who presses its
    button when he likes; the marker comes on the second output, wired to the anchor."""
    rig = {"timing": "marker", "anchor": ANCHOR, "marker_output": "second"}
    client.patch("/api/rig", json=rig).raise_for_status()
    noise = np.random.default_rng(9)
    for place, there in zip(PLACES, room(list(PLACES.values())), strict=True):
        client.patch("/api/rig", json={"position": place}).raise_for_status()
        for name in there:
            client.post(f"{BASE}/takes", json={"channels": [name], "purpose": "driver"}).raise_for_status()
            until_waiting(client)
            both = read_wav(client.get(f"{BASE}/stimulus.wav").content, RATE)
            sides = both if both.shape[1] == 2 else np.repeat(both, 2, axis=1) * (1, 0)
            size = sides.shape[0]
            heard = fftconvolve(sides[:, 0], there[name])[:size] + fftconvolve(sides[:, 1], there[ANCHOR])[:size]
            heard = np.concatenate((np.zeros(int(noise.integers(100, RATE))), heard, np.zeros(RATE)))
            heard = soxr.resample(heard, RATE, RATE * (1 + 50e-6), quality="VHQ")
            heard = 2.0 * heard + 1e-5 * noise.standard_normal(heard.size)
            assert np.abs(heard).max() < 1
            files = {"file": (f"{name}.wav", write_wav(heard[:, None], RATE), "audio/wav")}
            client.post(f"{BASE}/takes/bring", files=files).raise_for_status()
            ended(client, "kept")


def until_waiting(client: TestClient) -> None:
    deadline = time.monotonic() + 120
    while (job := client.app.state.recorder.progress).stage != "waiting":
        assert time.monotonic() < deadline, job
        assert job.stage != "refused", job.message
        time.sleep(0.02)


@pytest.mark.walk
@pytest.mark.parametrize("brought", [by_loopback, by_marker])
def test_the_walk_by_files_ends_within_three_db(
    job: tuple[TestClient, Workspace], brought: Callable[[TestClient], None]
) -> None:
    client, space = job
    brought(client)
    done = follow_advice(client)
    assert {"align", "common"} <= set(done)
    assert sum(one.startswith("voice:") for one in done) == 5

    layout, tune = space.layout(SLUG), head(space, SLUG).tune
    through = Predictor(space.grid, RATE).through(tune, [one.id for one in layout.drivers])
    powers = []
    for there in room(TOUR):
        rows = [at(there[one.id], space.grid) * row for one, row in zip(layout.drivers, through, strict=True)]
        powers.append(smooth_power(np.sum(rows, axis=0), space.grid, 6))
    inside = (space.grid >= 40) & (space.grid <= 16_000)
    away = (power_decibels(np.mean(powers, axis=0)) - placed(space, SLUG, tune))[inside]
    print("plus/minus", (away.max() - away.min()) / 2)
    assert (away.max() - away.min()) / 2 < 3.0


def at(impulse: np.ndarray, grid: np.ndarray) -> ComplexArray:
    """The response (m,) of an impulse (n,) at the points of the grid."""
    size = 2**17
    spectrum = np.fft.rfft(impulse, size)
    hertz = np.fft.rfftfreq(size, 1 / RATE)
    return np.interp(grid, hertz, spectrum.real) + 1j * np.interp(grid, hertz, spectrum.imag)


def follow_advice(client: TestClient) -> list[str]:
    """Do what the plan advises, but for what needs a device; the keys of what was done."""
    done: list[str] = []
    before = ""
    for _ in range(80):
        step = client.get(f"{BASE}/next").json()["step"]
        if step is None:
            return done
        key, choice = step["key"], step["choices"][0]
        action = (choice["action"] or {}).get("do")
        wanted = action in ("edits", "align", "fit") and key != before
        if wanted:
            request = choice["request"]
            wanted = not client.request(request["method"], request["path"], json=request["body"]).is_error
        if wanted:
            done.append(key)
        else:
            client.put(f"{BASE}/plan", json={"key": key})
        before = key
    raise AssertionError(f"no end: {done}")
