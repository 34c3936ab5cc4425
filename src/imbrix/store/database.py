"""The SQLite file: opened with write-ahead log and foreign keys, brought up to date by migrations."""

from pathlib import Path

from sqlalchemy import Engine, create_engine, event, inspect, text
from sqlalchemy.orm import Session, sessionmaker

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
    """Run the migrations that the file has not seen."""
    with engine.connect() as connection:
        known = inspect(connection).has_table("alembic_version")
        if known and connection.scalar(text("SELECT version_num FROM alembic_version")) == HEAD:
            return
    import alembic.command  # dear to import, and seldom needed
    import alembic.config

    config = alembic.config.Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        alembic.command.upgrade(config, "head")
