"""The demonstration project, made once: the Wren book van with a first take of every driver."""

from sqlalchemy import select

from imbrix.core.sweep import SweepSettings
from imbrix.standins import wren
from imbrix.store.models import ProjectRow
from imbrix.work.desk import Desk
from imbrix.work.recording import Recorder
from imbrix.work.tuning import create_project


def load_demo(desk: Desk) -> bool:
    """Make the demo where the folder has none; whether it was made. Its takes are played through the stand-ins."""
    with desk.session() as session:
        if session.scalar(select(ProjectRow).where(ProjectRow.slug == wren.SLUG)) is not None:
            return False
    create_project(desk, wren.SLUG, wren.NAME, wren.layout())
    pace, desk.pace = desk.pace, 0.0
    recorder = Recorder(desk)
    for driver in wren.layout().drivers:
        recorder.start(wren.SLUG, (driver.id,), "driver", SweepSettings())
        recorder.wait()
    desk.pace = pace
    return True
