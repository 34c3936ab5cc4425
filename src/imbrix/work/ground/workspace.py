"""The workspace: one open data folder with its devices, its memory, and the count of its changes."""

import threading
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import event, select
from sqlalchemy.orm import Session, sessionmaker

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.patience import Search
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import FloatArray
from imbrix.core.system.layout import Layout
from imbrix.devices.browser import BrowserSound
from imbrix.standins.interface import StandinInterface
from imbrix.standins.places import van
from imbrix.standins.processor import StandinProcessor
from imbrix.store.database import open_database
from imbrix.store.models import DocumentRow, ProjectRow
from imbrix.work.ground.memory import Drawer, Memory
from imbrix.work.ground.ports import PlayAndRecord
from imbrix.work.ground.stored import stored

DRIVE_DBFS = -24.0
"""Output level to which all curves are referred: they show dB SPL at this drive."""
NOMINAL_FULL_SCALE = 112.0
"""The sound level in dB SPL taken to reach full scale where nothing else is known."""
LAYOUTS: Drawer[str, Layout] = Drawer("layouts", 64)

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
Kept = type[Any] | tuple[type[Any], Hashable]
"""What a remembered thing was read from: a table, or one row of it by its key."""


@dataclass
class Workspace:
    """One open data folder with its devices.

    `lock` is held while the tune, the takes or a document change; `device` while something plays or records;
    `large` while minutes of sound are made or read, a gigabyte each: one at a time.
    """

    sessions: sessionmaker[Session]
    interface: PlayAndRecord
    processor: StandinProcessor
    standin: StandinInterface
    pace: float = 1.0
    folder: Path = Path(".")
    lock: threading.RLock = field(default_factory=threading.RLock)
    device: threading.Lock = field(default_factory=threading.Lock)
    large: threading.Lock = field(default_factory=threading.Lock)
    memory: Memory = field(default_factory=Memory)
    browser: BrowserSound = field(default_factory=BrowserSound)
    own_signal: tuple[FloatArray, int] | None = None
    notice: str = ""
    search: tuple[str, Search] | None = None
    """The long search that runs, and for which project."""
    making: set[str] = field(default_factory=set)
    """Addresses of projects that are being made, and not to be shown before they are whole."""
    version: int = 0
    """Grows with every change that a window could show: of the store, of the processor, of what is plugged where."""

    def __post_init__(self) -> None:
        self.grid = log_grid()
        self.processors: dict[str, StandinProcessor] = {}
        self._predictors: dict[int, Predictor] = {}
        self.predictor = self.predictor_at(self.processor.limits.rate)
        self._counts: defaultdict[Kept, int] = defaultdict(int)
        event.listen(self.sessions, "after_flush", _note_writes)

    def predictor_at(self, rate: int) -> Predictor:
        """What predicts channels of a processor that runs at `rate` in hertz."""
        if rate not in self._predictors:
            self._predictors[rate] = Predictor(self.grid, rate)
        return self._predictors[rate]

    @property
    def offset_db(self) -> float:
        """What turns microphone over drive, in dB, into dB SPL at the common drive."""
        return NOMINAL_FULL_SCALE + DRIVE_DBFS

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: committed at the end, rolled back on an exception. What it wrote is counted as changed."""
        with self.sessions() as session:
            with session.begin():
                yield session
            wrote: set[Kept] = session.info.get("wrote", set())
        if wrote:
            for kept in wrote:
                self._counts[kept] += 1
            self.changed()

    @contextmanager
    def idle(self, says: str) -> Iterator[None]:
        """While nothing plays or records, and nothing begins to. Raises ConflictError with what it says otherwise."""
        if not self.device.acquire(blocking=False):
            raise ConflictError(says)
        try:
            yield
        finally:
            self.device.release()

    def changed(self) -> None:
        """Count a change, so that every window looks anew."""
        self.version += 1

    def recall(self, drawer: Drawer[K, V], key: K, since: tuple[Kept, ...], make: Callable[[], V]) -> V:
        """What is remembered under a key, made anew where a table or row that it was read from changed since."""
        return self.memory.of(drawer, key, make, tuple(self._counts[kept] for kept in since))

    def layout(self, slug: str) -> Layout:
        """The layout of a project. Raises NotHereError."""

        def read() -> Layout:
            with self.session() as session:
                return stored(Layout, project_row(session, slug).layout, "the system of the project")

        return self.recall(LAYOUTS, slug, (ProjectRow,), read)

    def close(self) -> None:
        """Let go of the data folder, and of what was computed of it."""
        self.sessions.kw["bind"].dispose()
        self.memory = Memory()


def _note_writes(session: Session, _context: object) -> None:
    wrote: set[Kept] = session.info.setdefault("wrote", set())
    for row in (*session.new, *session.dirty, *session.deleted):
        wrote.add((DocumentRow, row.key) if isinstance(row, DocumentRow) else type(row))


def project_row(session: Session, slug: str) -> ProjectRow:
    """The row of a project. Raises NotHereError."""
    row = session.scalar(select(ProjectRow).where(ProjectRow.slug == slug))
    if row is None:
        raise NotHereError(f"there is no project {slug!r}")
    return row


def open_workspace(folder: Path, pace: float = 1.0) -> Workspace:
    """Open a data folder with the stand-ins; `pace` is how many times faster than real time sound runs (0: at once)."""
    sessions = open_database(folder / "imbrix.db")
    processor = StandinProcessor(folder / "processor-memory.json")
    standin = StandinInterface(van.place({one.output: one for one in van.layout().drivers}, "right"), processor)
    return Workspace(sessions, standin, processor, standin, pace, folder, notice=lost_memory(processor))


def lost_memory(processor: StandinProcessor) -> str:
    """What is to be said of a stand-in whose permanent memory could not be read; empty where there is nothing."""
    if processor.lost is None:
        return ""
    return (
        "What the processor had stored could not be read: its slots are empty now, and it is mute until something is "
        f"sent. The projects are as they were. The old file is kept as {processor.lost.name}."
    )
