"""The demonstration project, made once: the Wren book van with a first take of every driver."""

from typing import Literal

from sqlalchemy import select

from imbrix.core.jig import Standard
from imbrix.standins import wren
from imbrix.standins.microphones import MEASURING, Pointing
from imbrix.standins.practice import Practice
from imbrix.store.models import ProjectRow
from imbrix.work import checks, corrections, impedance, jigging, recording, rig, rounds
from imbrix.work.desk import Desk
from imbrix.work.player import Recorder
from imbrix.work.tuning import create_project


def load_demo(desk: Desk) -> bool:
    """Make the demo where the folder has none; whether it was made. Its takes are played through the stand-ins."""
    with desk.session() as session:
        if session.scalar(select(ProjectRow).where(ProjectRow.slug == wren.SLUG)) is not None:
            return False
    create_project(desk, wren.SLUG, wren.NAME, wren.layout())
    pace, desk.pace = desk.pace, 0.0
    recorder = Recorder(desk)
    set_up_rig(recorder)
    for driver in wren.layout().drivers:
        recording.start_sweep(recorder, wren.SLUG, (driver.id,), "driver")
        recorder.wait()
    rounds.restart(desk, wren.SLUG)
    measure_impedance(recorder)
    desk.pace = pace
    return True


def set_up_rig(recorder: Recorder) -> None:
    """Bring the microphone's sheets in, check the interface by its loop, and calibrate: as a person would."""
    desk = recorder.desk
    chosen: dict[str, int] = {}
    sides: tuple[Pointing, ...] = ("source", "ceiling")
    for pointing in sides:
        sheet = MEASURING.sheet(pointing).encode()
        chosen[pointing] = corrections.bring(desk, f"Stand-in, {pointing}", pointing, sheet)
    rig.change(desk, {"corrections": chosen, "pointing": "ceiling"})
    desk.standin.practice = Practice(plugged="loop")
    checks.start_interface_check(recorder)
    recorder.wait()
    desk.standin.practice = Practice(plugged="calibrator-94")
    checks.start_calibrate(recorder, 94.0)
    recorder.wait()
    desk.standin.practice = Practice()
    checks.start_level(recorder, wren.SLUG, "mid-r")
    recorder.wait()


CLIPS: dict[Standard, Literal["nothing", "joined", "resistor"]] = {
    "open": "nothing",
    "short": "joined",
    "resistor": "resistor",
}
"""What the clips hold for each step of the jig's calibration."""


def measure_impedance(recorder: Recorder) -> None:
    """Calibrate the jig and measure each driver's impedance: as a person would, clip by clip."""
    desk = recorder.desk
    jig = rig.rig(desk).jig
    rig.change(desk, {"jig": jig.model_copy(update={"repeats": 2})})
    for standard, clips in CLIPS.items():
        desk.standin.practice = Practice(clips=clips)
        jigging.start_standard(recorder, standard)
        recorder.wait()
    for driver in wren.layout().drivers:
        desk.standin.practice = Practice(clips="driver", clipped_output=driver.output)
        impedance.start(recorder, wren.SLUG, driver.id, impedance.LoadingIn())
        recorder.wait()
    rig.change(desk, {"jig": jig})
    desk.standin.practice = Practice()
