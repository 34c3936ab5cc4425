"""The SQLite file: opened with write-ahead log and foreign keys, brought up to date by migrations."""

from pathlib import Path

import alembic.command
import alembic.config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker


def open_database(path: Path) -> sessionmaker[Session]:
    """A factory of sessions on the file at `path`, made or migrated where needed."""
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _prepare)
    migrate(engine)
    return sessionmaker(engine, expire_on_commit=False)


def _prepare(connection: object, _record: object) -> None:
    cursor = connection.cursor()  # type: ignore[attr-defined]
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")  # what is shown as saved survives more than a killed process
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute("PRAGMA busy_timeout=5000")
    cursor.close()


def migrate(engine: Engine) -> None:
    """Run the migrations that the file has not seen."""
    config = alembic.config.Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        alembic.command.upgrade(config, "head")
