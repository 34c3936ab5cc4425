"""What takes showed, kept for the next start: the same to the last digit, and never of other takes."""

import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.predict.scene import scene
from imbrix.work.rig import corrections
from imbrix.work.state.project import project_state
from imbrix.work.takes import harmonics, reading, remembered, shelf


@pytest.fixture
def again(demo_folder: Path, tmp_path: Path) -> Iterator[Workspace]:
    """The demo in a process that has not seen it yet."""
    shutil.copytree(demo_folder, tmp_path / "again")
    made = open_workspace(tmp_path / "again", pace=0)
    yield made
    made.close()


def driven(space: Workspace) -> shelf.Take:
    """A take of a driver."""
    return next(one for one in shelf.takes(space, SLUG) if one.purpose == "driver")


def drawers(space: Workspace) -> dict[str, int]:
    return {name: size for name, size in space.memory.sizes().items() if size}


def test_a_start_reads_no_take_anew_and_says_the_same(
    demo: Workspace, again: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    remembered.bring(again)
    for where in (reading, harmonics):
        monkeypatch.setattr(where, "arrays", lambda *_: pytest.fail("a recording was read"))
    assert project_state(again, SLUG) == project_state(demo, SLUG)
    monkeypatch.undo()
    for name, one in scene(demo, SLUG).takes.items():
        mine, theirs = reading.reading(demo, one), reading.reading(again, scene(again, SLUG).takes[name])
        assert np.array_equal(mine.response, theirs.response, equal_nan=True)
        assert np.array_equal(mine.over_noise_db, theirs.over_noise_db)
        assert (mine.arrival_s, mine.timed) == (theirs.arrival_s, theirs.timed)
        assert reading.raw_impulse(again, one).samples.size > 100_000


def test_what_is_as_it_was_is_not_written_again(again: Workspace) -> None:
    path = again.folder / remembered.NAME
    remembered.bring(again)
    before = path.stat().st_mtime_ns
    remembered.keep(again)
    assert path.stat().st_mtime_ns == before
    first = driven(again)
    again.memory.forget_take(first.id)
    remembered.keep(again)
    assert path.stat().st_mtime_ns > before
    assert [one.name for one in again.folder.glob("shown*")] == [remembered.NAME]


def test_nothing_is_kept_where_nothing_was_read(space: Workspace) -> None:
    remembered.keep(space)
    assert not (space.folder / remembered.NAME).exists()
    remembered.bring(space)


def test_a_take_with_another_correction_is_read_anew(again: Workspace) -> None:
    one = next(iter(scene(again, SLUG).takes.values()))
    other = corrections.bring(again, "Other", "source", b"20 0\n20000 1\n")[0]
    shelf.set_correction(again, SLUG, one.id, other)
    again.memory = type(again.memory)()
    remembered.bring(again)
    assert again.memory.peek(reading.SHOWN, one.id) is None
    assert again.memory.sizes()[reading.SHOWN.name] == len(scene(again, SLUG).takes) - 1


def test_another_take_under_the_same_number_is_read_anew(again: Workspace) -> None:
    """As it is where a copy of the database was put back, and takes were made after it."""
    one = driven(again)
    remembered.bring(again)
    assert again.memory.peek(reading.SHOWN, one.id) is not None
    again.memory = type(again.memory)()
    with sqlite3.connect(again.folder / "imbrix.db") as database:
        database.execute("UPDATE take SET created = '2031-05-01 12:00:00' WHERE id = ?", (one.id,))
    remembered.bring(again)
    assert again.memory.peek(reading.SHOWN, one.id) is None


def test_another_program_reads_everything_anew(again: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(remembered, "fingerprint", lambda: "another")
    remembered.bring(again)
    assert reading.SHOWN.name not in drawers(again)


@pytest.mark.parametrize("holds", [b"", b"no archive", None, b'{"takes": 3}', b"[]", b'{"program": "x"}'])
def test_a_damaged_file_is_passed_over_and_written_anew(again: Workspace, holds: bytes | None) -> None:
    path = again.folder / remembered.NAME
    if holds is None:
        path.write_bytes(path.read_bytes()[:-2000])
    elif holds[:1] in (b"{", b"["):
        np.savez(path, told=np.frombuffer(holds, np.uint8), responses=np.zeros((1, 2)), over=np.zeros((1, 2)))
    else:
        path.write_bytes(holds)
    remembered.bring(again)
    assert reading.SHOWN.name not in drawers(again)
    count = len(scene(again, SLUG).takes)
    remembered.keep(again)
    again.memory = type(again.memory)()
    remembered.bring(again)
    assert drawers(again)[reading.SHOWN.name] == count


def test_a_full_disk_costs_nothing_but_time(again: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    remembered.bring(again)
    again.memory.forget_take(driven(again).id)
    before = (again.folder / remembered.NAME).read_bytes()

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(np, "savez", full)
    remembered.keep(again)
    assert (again.folder / remembered.NAME).read_bytes() == before
    assert len(list(again.folder.glob("shown*"))) == 1
