"""The image that ears of all kinds hear of a system that the button of the next step tuned, in drawn vehicles.

    python benchmarks/survey_image.py [PLACES] [FIRST] [EARS] [SYSTEM]

Each place is walked as in `survey_plan.py`; then the stand-in's listener sits down, with ears drawn from each of the
numbers up to EARS: all octaves are heard, what is proposed is taken and sent, and they are heard again, until nothing
is proposed. Printed by place: how many ears heard the centre in all octaves before, and after; how many turns of that
it took at most; and by octave how often it was not found.
"""

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

from fastapi.testclient import TestClient
from survey_plan import SLUG, begin, follow

from imbrix.api.app import create_app
from imbrix.standins.listener import hear
from imbrix.standins.practice import Practice
from imbrix.work.ground import places
from imbrix.work.ground.workspace import Workspace
from imbrix.work.image import answers
from imbrix.work.image.bands import OCTAVES_HZ
from imbrix.work.image.mending import mendings
from imbrix.work.processor.link import send
from imbrix.work.tune.revisions import commit, head, restore

CENTRE = 0.15
MOST_TURNS = 8


@dataclass
class Listened:
    """What came of one place: among so many `ears`, those that hear the centre in all octaves before, and after."""

    place: str
    ears: int
    before: int = 0
    after: int = 0
    turns: int = 0
    missed: Counter[float] = field(default_factory=Counter)
    seconds: float = 0.0


def listen(seed: int, key: str, ears: int) -> Listened:
    found = Listened(f"drawn-{seed}", ears)
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        space = begin(Path(folder), seed, key)
        try:
            with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
                for _step in follow(client, SLUG):
                    pass
            start = head(space, SLUG).id
            for one in range(1, ears + 1):
                sit(space, one, found)
                restore(space, SLUG, start)
                send(space, SLUG)
                answers.forget(space, SLUG)
        finally:
            space.close()
    found.seconds = time.monotonic() - began
    return found


def sit(space: Workspace, ears: int, found: Listened) -> None:
    """Hear, take what is proposed, hear again."""
    places.connect(space, SLUG)
    space.standin.practice = Practice(ears=ears)
    for turn in range(MOST_TURNS):
        heard = {hz: hear(space.standin, hz, 1.0, turn) for hz in OCTAVES_HZ}
        off = [hz for hz, at in heard.items() if at is not None and max(map(abs, at)) > CENTRE]
        if not turn:
            found.before += not off
        for hz, at in heard.items():
            if at is not None:
                answers.keep(space, SLUG, at, far=False, high=False, hz=hz, octaves=1.0)
        best = next((one for one in mendings(space, SLUG) if not one.lacks), None)
        if best is None:
            break
        commit(space, SLUG, best.edits)
        send(space, SLUG)
        found.turns = max(found.turns, turn + 1)
    found.after += not off
    found.missed.update(off)


def main(count: int, first: int, ears: int, key: str) -> None:
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(listen, range(first, first + count), [key] * count, [ears] * count))
    print(f"{key}: {count} places from {first} on, {ears} ears in each")
    print(f"{'place':>11}{'before':>8}{'after':>7}{'turns':>7}{'s':>6}  not found")
    for one in found:
        missed = ", ".join(f"{hz:.0f} Hz {times}" for hz, times in sorted(one.missed.items()))
        print(f"{one.place:>11}{one.before:>8}{one.after:>7}{one.turns:>7}{one.seconds:>6.0f}  {missed}")
    print(f"all: before {sum(o.before for o in found)}, after {sum(o.after for o in found)} of {count * ears}")


if __name__ == "__main__":
    main(
        int(sys.argv[1]) if len(sys.argv) > 1 else 4,
        int(sys.argv[2]) if len(sys.argv) > 2 else 700,
        int(sys.argv[3]) if len(sys.argv) > 3 else 12,
        sys.argv[4] if len(sys.argv) > 4 else "front-3-sub",
    )
