"""The data folder: damaged in many ways, of a newer version, copied daily, restored."""

import json
import os
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path

import alembic.command
import alembic.config
import pytest
from alembic.operations import Operations
from sqlalchemy import create_engine, text

from imbrix.core.errors import DataFolderError
from imbrix.standins.places.van import SLUG
from imbrix.standins.processor import StandinProcessor
from imbrix.store import database, folder
from imbrix.store.database import open_database
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.processor.link import send
from imbrix.work.tune.revisions import head

NOW = datetime(2031, 5, 1, 12)


def cut(path: Path) -> None:
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])


def overwrite(path: Path) -> None:
    whole = bytearray(path.read_bytes())
    whole[5000 : len(whole) - 5000] = b"\xa5" * (len(whole) - 10_000)
    path.write_bytes(whole)


def lose_a_table(path: Path) -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("DROP TABLE array")


def test_a_migration_that_is_cut_off_leaves_nothing_half(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / folder.DATABASE
    made = Operations.create_table

    def killed(self: Operations, name: str, *columns: object, **more: object) -> object:
        if name == "array":
            raise KeyboardInterrupt
        return made(self, name, *columns, **more)

    monkeypatch.setattr(Operations, "create_table", killed)
    with pytest.raises(KeyboardInterrupt):
        open_database(path)
    folder.check(tmp_path)
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("SELECT name FROM sqlite_master").fetchall() == []
    monkeypatch.setattr(Operations, "create_table", made)
    open_database(path).kw["bind"].dispose()
    folder.check(tmp_path)
    with closing(sqlite3.connect(path)) as connection:
        assert ("array",) in connection.execute("SELECT name FROM sqlite_master").fetchall()


@pytest.mark.parametrize("damage", [cut, overwrite, lose_a_table, lambda path: path.write_text("no database")])
def test_what_is_damaged_is_said_with_a_way_out_and_left_as_it_is(demo: Workspace, damage) -> None:
    at = demo.folder
    demo.close()
    copied = folder.copy(at, NOW)
    folder.check(at)
    damage(at / folder.DATABASE)
    before = (at / folder.DATABASE).read_bytes()
    with pytest.raises(DataFolderError, match=f"damaged .* it was left as it is.*{copied.name}"):
        folder.check(at)
    assert (at / folder.DATABASE).read_bytes() == before
    copied.unlink()
    with pytest.raises(DataFolderError, match="there is no copy of it"):
        folder.check(at)


def test_a_copy_is_made_once_a_day_and_the_oldest_go(demo: Workspace) -> None:
    made = []
    for day in range(8):
        at = NOW + timedelta(days=day)
        one = folder.copy_daily(demo.folder, at)
        assert one is not None
        made.append(one)
        for path, stamp in zip(made, (NOW + timedelta(days=n) for n in range(day + 1)), strict=True):
            if path.exists():
                os.utime(path, (stamp.timestamp(), stamp.timestamp()))
        assert folder.copy_daily(demo.folder, at + timedelta(hours=3)) is None
    assert folder.copies(demo.folder) == made[: -1 - folder.KEPT : -1]


def test_copies_of_the_same_moment_take_nothing_from_each_other(demo: Workspace) -> None:
    with ThreadPoolExecutor(8) as pool:
        made = list(pool.map(lambda _: folder.copy(demo.folder, NOW), range(8)))
    assert len({path.name for path in made}) == 8
    assert folder.copies(demo.folder) == sorted(made, reverse=True)
    assert not list((demo.folder / folder.COPIES).glob("*.part"))


def test_a_copy_that_is_restored_is_the_work_of_then(demo: Workspace) -> None:
    before = head(demo, SLUG)
    folder.copy(demo.folder, NOW)
    demo.close()
    cut(demo.folder / folder.DATABASE)
    folder.restore(demo.folder, None, NOW)
    again = open_workspace(demo.folder, pace=0)
    assert head(again, SLUG) == before
    again.close()


def test_a_copy_that_is_damaged_itself_takes_the_place_of_nothing(demo: Workspace) -> None:
    copied = folder.copy(demo.folder, NOW)
    demo.close()
    before = (demo.folder / folder.DATABASE).read_bytes()
    copied.write_text("no database")
    with pytest.raises(DataFolderError, match=r"is damaged itself .* nothing was changed"):
        folder.restore(demo.folder, None, NOW)
    assert (demo.folder / folder.DATABASE).read_bytes() == before
    assert not list(demo.folder.glob("damaged-*"))
    assert not list(demo.folder.glob("*.part"))


def test_a_copy_that_fails_leaves_nothing_half(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(_self: Path, _target: Path) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "replace", full)
    with pytest.raises(OSError, match="No space"):
        folder.copy(demo.folder, NOW)
    assert list((demo.folder / folder.COPIES).iterdir()) == []


def test_a_folder_of_a_newer_version_is_not_touched(tmp_path: Path) -> None:
    sessions = open_database(tmp_path / folder.DATABASE)
    with sessions() as session, session.begin():
        session.execute(text("UPDATE alembic_version SET version_num = '0999'"))
    sessions.kw["bind"].dispose()
    with pytest.raises(DataFolderError, match=r"written by a newer Imbrix .*version 0999"):
        open_database(tmp_path / folder.DATABASE)


def test_an_older_folder_is_copied_before_it_is_migrated(tmp_path: Path) -> None:
    config = alembic.config.Config()
    config.set_main_option("script_location", str(Path(database.__file__).parent / "migrations"))
    engine = create_engine(f"sqlite:///{tmp_path / folder.DATABASE}")
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        alembic.command.upgrade(config, "0001")
    engine.dispose()
    folder.check(tmp_path)
    open_database(tmp_path / folder.DATABASE).kw["bind"].dispose()
    (copied,) = folder.copies(tmp_path)
    with closing(sqlite3.connect(copied)) as connection:
        assert connection.execute("SELECT version_num FROM alembic_version").fetchall() == [("0001",)]


FOREIGN = json.dumps({"slots": {"1": {"name": 3}}}).encode()


@pytest.mark.parametrize("content", [b"", b"{", b"\x00\xff\x12", b"[]", FOREIGN])
def test_a_stand_in_whose_memory_is_damaged_works_with_an_empty_one(demo: Workspace, content: bytes) -> None:
    send(demo, SLUG)
    memory = demo.folder / "processor-memory.json"
    memory.write_bytes(content)
    demo.close()
    again = open_workspace(demo.folder, pace=0)
    assert again.processor.slot_names() == {}
    kept = again.processor.lost
    assert kept is not None
    assert kept.read_bytes() == content
    assert kept.name in again.notice
    send(again, SLUG)
    again.processor.store(1, "Anew")
    assert StandinProcessor(memory).slot_names() == {1: "Anew"}
    again.close()
