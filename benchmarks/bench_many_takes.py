"""A project with 500 takes against one with seven: opened from a fresh start, and answered once it is open."""

import os
import shutil
import tempfile
import time
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from sqlalchemy import text
from timing import in_turn, report

from imbrix.standins.places.van import SLUG
from imbrix.work.demo import load_demo
from imbrix.work.ground.workspace import open_workspace
from imbrix.work.state.project import project_state
from imbrix.work.tune.revisions import head
from imbrix.work.views.draw import draw
from imbrix.work.views.request import View

COLUMNS = "project_id, revision_id, channels, purpose, method, rate, timed, level_db, through, details, note, created"


def opened(folder: Path) -> float:
    """Seconds from opening the folder to the state and the first picture, the best of three."""
    best = 1e9
    for _ in range(3):
        begun = time.perf_counter()
        space = open_workspace(folder, pace=0)
        project_state(space, SLUG)
        draw(space, SLUG, View(stage="drivers"), head(space, SLUG).tune)
        best = min(best, time.perf_counter() - begun)
        space.close()
    return best


def answered(folder: Path) -> float:
    """Seconds that the server takes for a project's answer, as JSON, while it is open."""
    space = open_workspace(folder, pace=0)
    (seconds,) = in_turn(40, lambda: project_state(space, SLUG).model_dump_json())
    space.close()
    return seconds


few = Path(tempfile.mkdtemp())
space = open_workspace(few, pace=0)
load_demo(space)
with space.session() as session:
    session.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))
space.close()
many = Path(tempfile.mkdtemp()) / "many"
shutil.copytree(few, many)
space = open_workspace(many, pace=0)
with space.session() as session:
    for _ in range(71):
        for take in range(1, 8):
            session.execute(
                text(f"INSERT INTO take ({COLUMNS}, discarded) SELECT {COLUMNS}, 1 FROM take WHERE id = {take}")
            )
            last = session.scalar(text("SELECT max(id) FROM take"))
            copied = f"SELECT {last}, role, data FROM array WHERE take_id = {take}"
            session.execute(text(f"INSERT INTO array (take_id, role, data) {copied}"))
    count = session.scalar(text("SELECT count(*) FROM take"))
space.close()
size = sum(one.stat().st_size for one in many.iterdir()) / 1e6
short, long_ = opened(few), opened(many)
report(
    f"opening with {count} takes ({size:.0f} MB), more than with 7 / 1 s",
    long_ - short,
    1,
    f"{short:.2f} to {long_:.2f} s",
)
own, large = answered(few), answered(many)
report("a project's answer / 20 ms", own / 0.02, 1, f"{own * 1e3:.1f} ms")
report(f"the same with {count} takes / 20 ms", large / 0.02, 1, f"{large * 1e3:.1f} ms")
shutil.rmtree(few)
shutil.rmtree(many.parent)
