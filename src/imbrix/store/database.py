"""The SQLite file: opened with write-ahead log and foreign keys, brought up to date by migrations."""

from datetime import datetime
from pathlib import Path

from sqlalchemy import Engine, create_engine, event, inspect, text
from sqlalchemy.orm import Session, sessionmaker

from imbrix.core.errors import DataFolderError
from imbrix.store import folder

HEAD = "0002"
"""The newest migration: a file at it needs none."""


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
    """Run the migrations that the file has not seen, after a copy of it. Raises DataFolderError for a newer one."""
    with engine.connect() as connection:
        known = inspect(connection).has_table("alembic_version")
        version = connection.scalar(text("SELECT version_num FROM alembic_version")) if known else None
        if version == HEAD:
            return
    path = Path(str(engine.url.database))
    if version is not None and version > HEAD:
        raise DataFolderError(
            f"{path} was written by a newer Imbrix (its tables are of version {version}, this one knows {HEAD}): "
            "open it with that one; nothing was changed"
        )
    if known:
        folder.copy(path.parent, datetime.now())
    import alembic.command  # dear to import, and seldom needed
    import alembic.config

    config = alembic.config.Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.connect() as connection:
        # Python's sqlite3 opens no transaction for what makes tables: a kill would leave some of them.
        connection.connection.dbapi_connection.isolation_level = None  # type: ignore[union-attr]
        connection.exec_driver_sql("BEGIN IMMEDIATE")
        config.attributes["connection"] = connection
        alembic.command.upgrade(config, "head")
        connection.exec_driver_sql("COMMIT")
        connection.invalidate()
