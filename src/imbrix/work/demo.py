"""The demonstration project, made once: the Wren book van with a first take of every driver."""

from typing import Literal

from sqlalchemy import select

from imbrix.core.measure.jig import Standard
from imbrix.standins import wren
from imbrix.standins.microphones import MEASURING, Pointing
from imbrix.standins.practice import Practice
from imbrix.store.models import ProjectRow
from imbrix.work.checks import interface, level, reference
from imbrix.work.ground import documents
from imbrix.work.ground.projects import create_project, remove_project
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import impedance, jigging
from imbrix.work.rig import change, choices, corrections, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import recording, rounds

UNDER_WAY = "demo"
"""A document that is there while the demo is made: after a kill in the middle, what there is of it is made anew."""


def load_demo(space: Workspace) -> bool:
    """Make the demo where the folder has none, or half of one; whether it was made.

    Its takes are played through the stand-ins. Raises ConflictError with the reason where one of them fails.
    """
    if documents.read(space, UNDER_WAY) is not None:
        remove_project(space, wren.SLUG)
        documents.remove(space, "rig")
    else:
        with space.session() as session:
            if session.scalar(select(ProjectRow.id).where(ProjectRow.slug == wren.SLUG)) is not None:
                return False
    documents.write(space, UNDER_WAY, {"begun": choices.now()})
    pace, space.pace = space.pace, 0.0
    try:
        create_project(space, wren.SLUG, wren.NAME, wren.layout())
        recorder = Recorder(space)
        set_up_rig(recorder)
        for driver in wren.layout().drivers:
            recording.start_sweep(recorder, wren.SLUG, (driver.id,), "driver")
            recorder.finished()
        rounds.restart(space, wren.SLUG)
        measure_impedance(recorder)
    finally:
        space.pace = pace
    documents.remove(space, UNDER_WAY)
    return True


def set_up_rig(recorder: Recorder) -> None:
    """Bring the microphone's sheets in, check the interface by its loop, and calibrate: as a person would."""
    space = recorder.space
    chosen: dict[str, int] = {}
    sides: tuple[Pointing, ...] = ("source", "ceiling")
    for pointing in sides:
        sheet = MEASURING.sheet(pointing).encode()
        chosen[pointing] = corrections.bring(space, f"Stand-in, {pointing}", pointing, sheet)
    change.change(space, {"corrections": chosen, "pointing": "ceiling"})
    space.standin.practice = Practice(plugged="loop")
    interface.start_interface_check(recorder)
    recorder.finished()
    space.standin.practice = Practice(plugged="calibrator-94")
    reference.start_calibrate(recorder, 94.0)
    recorder.finished()
    space.standin.practice = Practice()
    level.start_level(recorder, wren.SLUG, "mid-r")
    recorder.finished()


CLIPS: dict[Standard, Literal["nothing", "joined", "resistor"]] = {
    "open": "nothing",
    "short": "joined",
    "resistor": "resistor",
}
"""What the clips hold for each step of the jig's calibration."""


def measure_impedance(recorder: Recorder) -> None:
    """Calibrate the jig and measure each driver's impedance: as a person would, clip by clip."""
    space = recorder.space
    jig = rig.rig(space).jig
    change.change(space, {"jig": jig.model_copy(update={"repeats": 2})})
    for standard, clips in CLIPS.items():
        space.standin.practice = Practice(clips=clips)
        jigging.start_standard(recorder, standard)
        recorder.finished()
    for driver in wren.layout().drivers:
        space.standin.practice = Practice(clips="driver", clipped_output=driver.output)
        impedance.start(recorder, wren.SLUG, driver.id, impedance.LoadingIn())
        recorder.finished()
    change.change(space, {"jig": jig})
    space.standin.practice = Practice()
