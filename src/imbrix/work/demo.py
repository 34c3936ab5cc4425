"""The demonstrations: in each place that ships a project with a first take of every driver, made when asked for."""

import logging
import threading
from collections.abc import Callable
from typing import Literal

from sqlalchemy import select

from imbrix.core.errors import ConflictError, ImbrixError, NotHereError
from imbrix.core.measure.jig import Standard
from imbrix.core.value import Value
from imbrix.standins.microphones import MEASURING, Pointing
from imbrix.standins.places.shipped import SHIPPED, Shipped
from imbrix.standins.practice import Practice
from imbrix.store.models import DocumentRow, ProjectRow
from imbrix.work.checks import interface, level, reference
from imbrix.work.ground import documents, places, processors
from imbrix.work.ground.projects import create_project, remove_project, slugs
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import impedance, jigging
from imbrix.work.rig import change, choices, corrections, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import recording, rounds

REPEATS = 2
"""Sweeps through the jig for each impedance here: enough for an interval, and soon done."""
Tell = Callable[[float, str], None]

LOG = logging.getLogger("imbrix.demo")
UNDER_WAY = "demo"
"""What the key of a document begins with that is there while a demonstration is made: after a kill in the middle, what
there is of it is made anew."""
State = Literal["missing", "making", "made", "failed"]


class Demo(Value):
    """A demonstration: its place, its project, and whether that is there. `done` goes from 0 to 1 while it is made."""

    key: str
    name: str
    says: str
    slug: str
    project: str
    drivers: int
    state: State
    done: float = 0.0
    message: str = ""


class Demos:
    """The demonstrations of a workspace, made one at a time in a thread of their own."""

    def __init__(self, recorder: Recorder) -> None:
        self._recorder = recorder
        self._told: dict[str, tuple[State, float, str]] = {}
        self._thread: threading.Thread | None = None
        self._lock = threading.Lock()

    def all(self) -> list[Demo]:
        """All of them, in the order in which they ship."""
        space = self._recorder.space
        there = set(slugs(space))
        found = []
        for one in SHIPPED.values():
            told: tuple[State, float, str] = self._told.get(one.key, ("missing", 0.0, ""))
            if told[0] != "making":
                # What is on the disk counts: a project may have been made before, or be gone.
                told = ("made", 1.0, "") if one.slug in there else told if told[0] == "failed" else ("missing", 0.0, "")
            state, done, message = told
            found.append(
                Demo(
                    key=one.key,
                    name=one.name,
                    says=one.says,
                    slug=one.slug,
                    project=one.project,
                    drivers=len(one.layout().drivers),
                    state=state,
                    done=done,
                    message=message,
                )
            )
        return found

    def begin(self, key: str) -> None:
        """Begin to make one. Nothing happens where it is there or under way.

        Raises NotHereError, and ConflictError where another is being made or the device is not the stand-in.
        """
        shipped = SHIPPED.get(key)
        space = self._recorder.space
        if shipped is None:
            raise NotHereError(f"there is no place {key!r}")
        with self._lock:
            state = next(one.state for one in self.all() if one.key == key)
            if state in ("making", "made"):
                return
            if any(told[0] == "making" for told in self._told.values()):
                raise ConflictError("another place is being made: wait until it is there")
            if rig.standin(space) is None:
                raise ConflictError("the places that ship are measured with the stand-in: choose it under Rig, Device")
            space.making.add(shipped.slug)
            self._tell(key, "making", 0.0, "Beginning")
            self._thread = threading.Thread(target=self._make, args=(shipped,), daemon=True)
            self._thread.start()

    def wait(self, seconds: float = 120.0) -> None:
        """Wait until nothing is being made."""
        if self._thread:
            self._thread.join(seconds)

    def _tell(self, key: str, state: State, done: float, message: str) -> None:
        self._told[key] = state, done, message
        if state != "making":
            self._recorder.space.changed()

    def _make(self, shipped: Shipped) -> None:
        space = self._recorder.space
        try:
            _make(self._recorder, shipped, lambda done, says: self._tell(shipped.key, "making", done, says))
            space.making.discard(shipped.slug)
            self._tell(shipped.key, "made", 1.0, "")
        except Exception as error:
            remove_project(space, shipped.slug)
            space.making.discard(shipped.slug)
            documents.remove(space, _mark(shipped))
            if not isinstance(error, ImbrixError):
                LOG.exception("the demonstration %s failed", shipped.key)
            self._tell(shipped.key, "failed", 0.0, f"It could not be made: {error}")


def load_demo(space: Workspace) -> bool:
    """Make the van's demonstration where the folder has none, or half of one; whether it was made.

    Its takes are played through the stand-ins. Raises ConflictError with the reason where one of them fails.
    """
    clear_halves(space)
    van = SHIPPED["van"]
    with space.session() as session:
        if session.scalar(select(ProjectRow.id).where(ProjectRow.slug == van.slug)) is not None:
            return False
    _make(Recorder(space), van)
    return True


def clear_halves(space: Workspace) -> None:
    """Remove what a kill left of demonstrations that were being made, the rig too where it was being set up."""
    with space.session() as session:
        marks = list(session.scalars(select(DocumentRow.key).where(DocumentRow.key.startswith(UNDER_WAY))))
    for mark in marks:
        half = next((one for one in SHIPPED.values() if _mark(one) == mark), SHIPPED["van"])
        remove_project(space, half.slug)
        if half.key == "van":
            documents.remove(space, "rig")
        documents.remove(space, mark)


def _mark(shipped: Shipped) -> str:
    return UNDER_WAY if shipped.key == "van" else f"{UNDER_WAY}:{shipped.key}"


def _make(recorder: Recorder, shipped: Shipped, tell: Tell = lambda done, says: None) -> None:
    """Make a demonstration with the rig as it is; in a folder whose rig was never set up, set it up first."""
    space = recorder.space
    layout = shipped.layout()
    documents.write(space, _mark(shipped), {"begun": choices.now()})
    pace, space.pace = space.pace, 0.0
    practised, space.standin.practice = space.standin.practice, Practice()
    try:
        create_project(space, shipped.slug, shipped.project, layout)
        if shipped.key != "van":  # the van is older than places and processors of a project's own
            processors.give(space, shipped.slug, processors.one_model(space, shipped.processor))
        places.put(space, shipped.slug, shipped.key)
        fresh = documents.read(space, "rig") is None
        steps = 2 * len(layout.drivers) + (1 if fresh else 0)
        if fresh:
            tell(0.0, "Setting the rig up")
            set_up_rig(recorder, shipped)
        for n, driver in enumerate(layout.drivers):
            tell((n + fresh) / steps, f"Measuring {driver.name}, {n + 1} of {len(layout.drivers)}")
            recording.start_sweep(recorder, shipped.slug, (driver.id,), "driver")
            recorder.finished()
        rounds.restart(space, shipped.slug)
        measure_impedance(
            recorder, shipped, fresh, lambda n, says: tell((len(layout.drivers) + fresh + n) / steps, says)
        )
    finally:
        space.pace = pace
        space.standin.practice = practised
    documents.remove(space, _mark(shipped))


def set_up_rig(recorder: Recorder, shipped: Shipped) -> None:
    """Bring the microphone's sheets in, check the interface by its loop, and calibrate: as a person would."""
    space = recorder.space
    chosen: dict[str, int] = {}
    sides: tuple[Pointing, ...] = ("source", "ceiling")
    for pointing in sides:
        sheet = MEASURING.sheet(pointing).encode()
        chosen[pointing] = corrections.bring(space, f"Stand-in, {pointing}", pointing, sheet)[0]
    change.change(space, {"corrections": chosen, "pointing": "ceiling"})
    space.standin.practice = Practice(plugged="loop")
    interface.start_interface_check(recorder)
    recorder.finished()
    space.standin.practice = Practice(plugged="calibrator-94")
    reference.start_calibrate(recorder, 94.0)
    recorder.finished()
    space.standin.practice = Practice()
    level.start_level(recorder, shipped.slug, shipped.level_with)
    recorder.finished()


CLIPS: dict[Standard, Literal["nothing", "joined", "resistor"]] = {
    "open": "nothing",
    "short": "joined",
    "resistor": "resistor",
}
"""What the clips hold for each step of the jig's calibration."""


def measure_impedance(recorder: Recorder, shipped: Shipped, fresh: bool, tell: Tell) -> None:
    """Measure each driver's impedance, the jig calibrated before on a fresh rig: as a person would, clip by clip."""
    space = recorder.space
    if fresh:
        for standard, clips in CLIPS.items():
            space.standin.practice = Practice(clips=clips)
            jigging.start_standard(recorder, standard, REPEATS)
            recorder.finished()
    for n, driver in enumerate(shipped.layout().drivers):
        tell(n, f"Impedance of {driver.name}")
        space.standin.practice = Practice(clips="driver", clipped_output=driver.output)
        impedance.start(recorder, shipped.slug, driver.id, impedance.LoadingIn(), repeats=REPEATS)
        recorder.finished()
    space.standin.practice = Practice()
