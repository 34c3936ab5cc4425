"""The desk: everything a person works with at once - the store, the devices, and what is remembered of them."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from imbrix.core.grid import log_grid
from imbrix.core.layout import Layout
from imbrix.core.predict import Predictor
from imbrix.core.reading import Reading
from imbrix.core.signal import ComplexArray, FloatArray, Impulse
from imbrix.core.tune import Tune
from imbrix.standins import wren
from imbrix.standins.interface import StandinInterface
from imbrix.standins.processor import StandinProcessor
from imbrix.store.database import open_database
from imbrix.store.models import ProjectRow
from imbrix.work.ports import PlayAndRecord, Processor

DRIVE_DBFS = -24.0
"""Output level to which all curves are referred: they show dB SPL at this drive."""
NOMINAL_FULL_SCALE = 112.0
"""The sound level in dB SPL taken to reach full scale where nothing else is known."""


class NotHereError(LookupError):
    """What was asked for does not exist; the message says what."""


class ConflictError(RuntimeError):
    """What was asked for cannot be done now; the message says why."""


@dataclass
class Desk:
    """One open data folder with its devices. `lock` is held while the tune or the takes change."""

    sessions: sessionmaker[Session]
    interface: PlayAndRecord
    processor: Processor
    standin: StandinInterface
    pace: float = 1.0
    folder: Path = Path(".")
    lock: threading.RLock = field(default_factory=threading.RLock)
    device: threading.Lock = field(default_factory=threading.Lock)
    readings: dict[int, Reading] = field(default_factory=dict)
    bare: dict[int, ComplexArray] = field(default_factory=dict)
    layouts: dict[str, Layout] = field(default_factory=dict)
    impulses: dict[int, Impulse] = field(default_factory=dict)
    maps: dict[int, dict[str, Any]] = field(default_factory=dict)
    raw: dict[int, tuple[FloatArray, int]] = field(default_factory=dict)
    ohms: dict[int, Any] = field(default_factory=dict)
    through: dict[int, Tune] = field(default_factory=dict)
    details: dict[int, tuple[dict[str, Any], Any]] = field(default_factory=dict)
    corrections: dict[int, ComplexArray] = field(default_factory=dict)
    checks: dict[str, dict[str, Any]] = field(default_factory=dict)
    rig_kept: Any = None
    cards: tuple[list[Any], str] | None = None
    own_signal: tuple[FloatArray, int] | None = None
    notice: str = ""

    def __post_init__(self) -> None:
        self.grid = log_grid()
        self.predictor = Predictor(self.grid, self.processor.limits.rate)

    @property
    def offset_db(self) -> float:
        """What turns microphone over drive, in dB, into dB SPL at the common drive."""
        return NOMINAL_FULL_SCALE + DRIVE_DBFS

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: committed at the end, rolled back on an exception."""
        with self.sessions() as session, session.begin():
            yield session

    def layout(self, slug: str) -> Layout:
        """The layout of a project. Raises NotHereError."""
        if slug not in self.layouts:
            with self.session() as session:
                self.layouts[slug] = Layout.model_validate(project_row(session, slug).layout)
        return self.layouts[slug]


def project_row(session: Session, slug: str) -> ProjectRow:
    """The row of a project. Raises NotHereError."""
    row = session.scalar(select(ProjectRow).where(ProjectRow.slug == slug))
    if row is None:
        raise NotHereError(f"there is no project {slug!r}")
    return row


def open_desk(folder: Path, pace: float = 1.0) -> Desk:
    """Open a data folder with the stand-ins; `pace` is how many times faster than real time sound runs (0: at once)."""
    sessions = open_database(folder / "imbrix.db")
    processor = StandinProcessor(folder / "processor-memory.json")
    standin = StandinInterface(wren.cabin(), processor, motors=wren.MOTORS)
    return Desk(sessions, standin, processor, standin, pace, folder)
