"""What straightening leaves of the sources of drawn vehicles, and whether a tone that moves with the volume is said.

    python benchmarks/survey_straightened.py [PLACES] [FIRST]

Through the API as a person would: every wire is recorded beside the first, all are straightened, and what the inputs do
to the wires is held against what the head unit knows of itself; then two wires are recorded at another volume.
"""

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
import tempfile
import time
from itertools import combinations
from pathlib import Path

import numpy as np
from counting import Wrong
from fastapi.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.core.predict.predict import Predictor
from imbrix.core.source.straighten import summing, tone
from imbrix.core.source.wires import GRID
from imbrix.core.system.layouts import ready
from imbrix.core.tune.models import LARGE
from imbrix.core.tune.routing import input_of
from imbrix.standins.head_unit import HeadUnit
from imbrix.work.ground import places, processors
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import open_workspace
from imbrix.work.source import undo
from imbrix.work.source.feeds import MOVES_DB
from imbrix.work.tune.revisions import head

SLUG = "wires"
MODEL = LARGE.model_copy(update={"name": "Eight by sixteen", "outputs": 16})
BASE = f"/api/projects/{SLUG}"
SUM_DB = 20 * np.log10(2)
NEAR_DB = 0.5
CLEAR = 4.0
"""A cut of the second order still turns by 20 degrees at so many times its end."""
VOLUME, QUIETER = 28, 20


def main(count: int, first: int) -> None:
    began, found = time.monotonic(), Wrong()
    for seed in range(first, first + count):
        with tempfile.TemporaryDirectory() as folder:
            _one(Path(folder), seed, found)
    found.show(f"{count} sources from {first} on, {time.monotonic() - began:.0f} s")


def _one(folder: Path, seed: int, found: Wrong) -> None:
    space = open_workspace(folder, pace=0)
    create_project(space, SLUG, "Wires", ready("whole-car", "left"))
    processors.give(space, SLUG, MODEL)
    places.put(space, SLUG, f"drawn-{seed}")
    place = places.place(space, SLUG)
    assert place is not None
    unit = place.head_unit
    try:
        with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
            for other in range(2, len(unit.wires) + 1):
                _record(client, (1, other), f"{seed}, wire {other}", found)
            now = client.get(f"{BASE}/source").json()
            for number, one in enumerate(unit.wires, 1):
                carries = "both" if min(one.mix) > 0 else ("left" if one.mix[0] else "right")
                feed = now["inputs"][number - 1]["feed"]
                found.count("carries", feed is None or feed["carries"] != carries, f"{seed}, wire {number}")
            for what in ("routes/bass-all", "straighten"):  # so that four wires are heard
                edits = client.get(f"{BASE}/source/{what}").json()
                assert client.post(f"{BASE}/edits", json={"edits": edits}).status_code == 200
            tune = head(space, SLUG).tune
            heard = sorted(undo.heard(space, SLUG))
            predictor = Predictor(GRID, processors.model(space, SLUG).rate)
            sent = [
                unit.truth(number, GRID, VOLUME) * predictor.channel(input_of(tune, number).channel)
                for number in range(1, len(unit.wires) + 1)
            ]
            _sums({n: sent[n - 1] for n in heard if n <= len(sent)}, seed, found)
            _moved(client, unit, seed, found)
    finally:
        space.close()


def _record(client: TestClient, inputs: tuple[int, int], name: str, found: Wrong) -> None:
    assert client.post(f"{BASE}/source/record", json={"inputs": inputs}).status_code == 202
    client.app.state.recorder.wait(60)
    ended = client.get("/api/progress").json()
    found.count("recorded", ended["stage"] != "kept", f"{name}: {ended['message']}")


def _sums(sent: dict[int, np.ndarray], seed: int, found: Wrong) -> None:
    """Every two straightened wires that some channel hears, where both are there: 6 dB over the mean of both.

    Front and rear are cut off at different ends by most factories: what turns there is part of that cut, and no band
    gives it back.
    """
    tones = {number: tone(one) for number, one in sent.items()}
    for n, m in combinations(sent, 2):
        alike = (n - 1) // 2 == (m - 1) // 2
        low = max(tones[n].low_hz, tones[m].low_hz) * (1.0 if alike else CLEAR)
        high = min(tones[n].high_hz, tones[m].high_hz)
        inside = (low <= GRID) & (high >= GRID)
        off = float(np.abs(summing(sent[n], sent[m])[inside] - SUM_DB).max())
        which = "left and right" if alike else "front and rear"
        found.count(f"{which}: within {NEAR_DB} dB of 6 dB", off > NEAR_DB, f"{seed}, wires {n} and {m}: {off:.2f} dB")


def _moved(client: TestClient, unit: HeadUnit, seed: int, found: Wrong) -> None:
    """A second recording, at a lower volume."""
    practice = client.get(BASE).json()["rig"]["practice"]
    client.put("/api/rig/practice", json={**practice, "source_volume": QUIETER})
    _record(client, (1, 2), f"{seed}, quieter", found)
    said = "the tone moves with the volume" in " ".join(client.get(f"{BASE}/source").json()["says"])
    tones = [tone(unit.truth(1, GRID, volume)) for volume in (VOLUME, QUIETER)]
    inside = (max(one.low_hz for one in tones) <= GRID) & (min(one.high_hz for one in tones) >= GRID)
    change = (tones[1].levels - tones[0].levels)[inside]
    moves = float(np.abs(change - np.median(change)).max())
    found.count(
        "a tone that moves is said, others are not", said != (moves >= MOVES_DB), f"{seed}: {moves:.1f} dB, {said}"
    )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 40, int(sys.argv[2]) if len(sys.argv) > 2 else 300)
