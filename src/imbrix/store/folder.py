"""The data folder as a start finds it: one server at a time, a database that is whole, and copies of it."""

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import datetime, timedelta
from pathlib import Path
from threading import Lock

from filelock import FileLock, Timeout

from imbrix.core.errors import DataFolderError

DATABASE = "imbrix.db"
LOCK = "imbrix.lock"
COPIES = "backups"
KEPT = 5
AGED = timedelta(hours=20)
"""A copy is made where the newest is older: one a day."""
COPYING = Lock()
FIRST_TABLES = {"array", "project", "revision", "take", "target"}
"""What every database of a data folder has had since the first one."""


@contextmanager
def claim(folder: Path) -> Iterator[None]:
    """The folder for this process alone, for a while or until it ends. Raises DataFolderError."""
    lock = FileLock(folder / LOCK, timeout=0)
    try:
        lock.acquire()
    except Timeout:
        raise DataFolderError(
            f"another Imbrix is running on the data folder {folder}: use that one, or end it first"
        ) from None
    try:
        yield
    finally:
        lock.release()


def check(folder: Path) -> None:
    """Look whether the database is whole, before anything is written. Raises DataFolderError, with the newest copy."""
    path = folder / DATABASE
    if not path.exists() or not path.stat().st_size:
        return
    try:
        found, tables = _looked_at(path)
    except sqlite3.DatabaseError as error:
        raise _damaged(folder, str(error)) from None
    if found != ["ok"]:
        raise _damaged(folder, "; ".join(found).replace("\n", ", "))
    if not tables:
        return  # a first start that was cut off before anything was kept
    # A table that a migration is still to make is missing in an older file only.
    lacking = sorted(FIRST_TABLES - tables) if "alembic_version" in tables else ["alembic_version"]
    if lacking:
        raise _damaged(folder, f"it lacks {', '.join(lacking)}")


def _looked_at(path: Path) -> tuple[list[str], set[str]]:
    """What SQLite finds wrong, `ok` where nothing is, and the names of the tables."""

    def look(address: str) -> tuple[list[str], set[str]]:
        with closing(sqlite3.connect(address, uri=True)) as connection:
            found = [row[0] for row in connection.execute("PRAGMA quick_check(3)")]
            names = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            return found, {row[0] for row in names}

    address = path.absolute().as_uri()
    try:
        return look(f"{address}?mode=ro")
    except sqlite3.OperationalError:  # a log without its index is read by one who may write only
        return look(f"{address}?mode=rw")


def _damaged(folder: Path, why: str) -> DataFolderError:
    newest = next(iter(copies(folder)), None)
    way = (
        f"the newest copy is {newest.relative_to(folder)}: `imbrix restore --folder {folder}` puts it in the place "
        "of the damaged file, which is kept"
        if newest
        else f"there is no copy of it in {COPIES}: put one there, or begin in another folder"
    )
    return DataFolderError(f"the database {folder / DATABASE} is damaged ({why}): it was left as it is; {way}")


def copies(folder: Path) -> list[Path]:
    """The copies of the database, the newest first."""
    return sorted((folder / COPIES).glob("imbrix-*.db"), reverse=True)


def copy_daily(folder: Path, now: datetime) -> Path | None:
    """Copy the database where the newest copy has aged, and drop the oldest ones; the copy that was made."""
    newest = next(iter(copies(folder)), None)
    if newest is not None and now - datetime.fromtimestamp(newest.stat().st_mtime) < AGED:
        return None
    made = copy(folder, now)
    drop_oldest(folder)
    return made


def drop_oldest(folder: Path) -> None:
    """Keep the newest copies only."""
    for old in copies(folder)[KEPT:]:
        old.unlink(missing_ok=True)


def copy(folder: Path, now: datetime) -> Path:
    """A copy of the database as it is, made while it is in use; whole, or none at all. One at a time, and never in the
    place of another, so that two windows and the copy of the day may ask in the same moment."""
    with COPYING:
        into = _free_name(folder / COPIES, now)
        into.parent.mkdir(exist_ok=True)
        part = into.with_suffix(".part")
        try:
            with closing(sqlite3.connect(folder / DATABASE)) as source, closing(sqlite3.connect(part)) as target:
                source.backup(target, pages=1000)
            part.replace(into)
        finally:
            part.unlink(missing_ok=True)
    return into


def _free_name(folder: Path, now: datetime) -> Path:
    """A name of the moment, to the millisecond; of a later one where there is such a copy."""
    while (into := folder / f"imbrix-{now:%Y-%m-%d-%H%M%S}-{now.microsecond // 1000:03d}.db").exists():
        now += timedelta(milliseconds=1)
    return into


def restore(folder: Path, wanted: Path | None, now: datetime) -> tuple[Path, Path]:
    """Put a copy, the newest one where none is named, in the place of the database; that copy, and where what was
    there is kept. Raises DataFolderError."""
    source = wanted or next(iter(copies(folder)), None)
    if source is None or not source.is_file():
        raise DataFolderError(f"there is no copy to be restored: {wanted or folder / COPIES}")
    # The copy is looked at and lies on the disk before what is there gives way to it.
    part = folder / f"{DATABASE}.part"
    shutil.copyfile(source, part)
    try:
        found, _ = _looked_at(part)
    except sqlite3.DatabaseError as error:
        found = [str(error)]
    if found != ["ok"]:
        part.unlink()
        raise DataFolderError(f"the copy {source} is damaged itself ({found[0]}): nothing was changed; try another")
    aside = folder / f"damaged-{now:%Y-%m-%d-%H%M%S}"
    aside.mkdir()
    for name in (DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm"):
        if (folder / name).exists():
            (folder / name).rename(aside / name)
    part.replace(folder / DATABASE)
    return source, aside
