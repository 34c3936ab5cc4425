"""The store: migrations, pragmas, arrays."""

from pathlib import Path

import alembic.config
import alembic.script
import numpy as np
import pytest
from sqlalchemy import inspect, text
from sqlalchemy.exc import IntegrityError

from imbrix.store import database
from imbrix.store.arrays import pack, unpack
from imbrix.store.folder import FIRST_TABLES
from imbrix.store.models import ArrayRow, Base


def test_a_fresh_file_is_migrated_to_the_newest_and_holds_every_table(tmp_path: Path) -> None:
    sessions = database.open_database(tmp_path / "new" / "x.db")
    engine = sessions.kw["bind"]
    assert set(Base.metadata.tables) <= set(inspect(engine).get_table_names())
    config = alembic.config.Config()
    config.set_main_option("script_location", str(Path(database.__file__).parent / "migrations"))
    assert alembic.script.ScriptDirectory.from_config(config).get_current_head() == database.HEAD
    for table in Base.metadata.tables.values():
        columns = {column["name"] for column in inspect(engine).get_columns(table.name)}
        assert columns == set(table.columns.keys())


def test_a_folder_is_looked_through_for_the_tables_that_all_had() -> None:
    """They stand in words there: what the page waits for loads no SQLAlchemy."""
    assert set(Base.metadata.tables) - {"correction", "document"} == FIRST_TABLES


def test_opening_twice_changes_nothing(tmp_path: Path) -> None:
    for _ in range(2):
        sessions = database.open_database(tmp_path / "x.db")
    with sessions() as session:
        assert session.scalar(text("PRAGMA journal_mode")) == "wal"
        assert session.scalar(text("PRAGMA synchronous")) == 2


def test_foreign_keys_are_watched(tmp_path: Path) -> None:
    sessions = database.open_database(tmp_path / "x.db")
    with sessions() as session:
        session.add(ArrayRow(take_id=77, role="microphone", data=b""))
        with pytest.raises(IntegrityError):
            session.commit()


def test_arrays_come_back_as_float32_kept_them() -> None:
    array = np.random.default_rng(0).standard_normal((2, 1000))
    back = unpack(pack(array))
    assert back.shape == (2, 1000)
    assert back == pytest.approx(array, rel=1e-6)
    assert back.dtype == np.float64
