"""A data folder that an earlier version made opens, and nothing of it is lost."""

import zipfile
from pathlib import Path

import numpy as np
import pytest

from imbrix.core.signal.signal import decibels
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.processor.link import read_back
from imbrix.work.state.project import project_state
from imbrix.work.takes import forces, reading, shelf
from imbrix.work.tune import revisions

SLUG = "old-van"
FOLDER = Path(__file__).parent.parent / "data" / "folder-0.1.zip"


@pytest.fixture
def old(tmp_path: Path) -> Workspace:
    with zipfile.ZipFile(FOLDER) as package:
        package.extractall(tmp_path)
    return open_workspace(tmp_path, pace=0)


def test_takes_looks_and_choices_are_as_they_were(old: Workspace) -> None:
    state = project_state(old, SLUG)
    assert state.name == "Old van"
    assert [one.method for one in state.takes] == ["text", "impulse", "text", "text", "text", "text", "text"]
    assert len(state.drivers) == 5
    midbass = next(one for one in state.takes if one.id == 5)
    assert (midbass.look.shown, midbass.look.colour, midbass.look.offset_db) == (True, 3, 1.5)
    assert forces.forces(old, SLUG)["midbass-l"].take.id == 2  # the one that was chosen, not the newest
    one = shelf.take(old, SLUG, 1)
    at = int(np.argmin(np.abs(old.grid - 70)))
    assert decibels(reading.bare(old, one)[at]) + old.offset_db == pytest.approx(85, abs=0.2)
    assert state.impedance["sub"].re_ohm == 3.9
    assert state.impedance["sub"].take_id == 7
    assert state.round.method == "moving"
    assert [one.name for one in state.references] == ["sheet"]
    assert [one.name for one in state.targets][-1] == "my slope"


def test_revisions_rig_and_processor_are_as_they_were(old: Workspace) -> None:
    state = project_state(old, SLUG)
    assert state.revision.name == "as handed over"
    assert state.revision.can_redo
    assert state.tune.target.curve.startswith("own-")
    assert revisions.redo(old, SLUG).tune.channels["sub"].inverted
    revisions.undo(old, SLUG)
    assert state.rig.input_names[:2] == ("Mic", "Loop")
    assert state.rig.correction_list[0].name == "Old microphone"
    assert state.rig.pointing == "source"
    assert state.link.slots == {"2": "old slot"}
    held = read_back(old, SLUG, state.tune)
    assert held.channels["tweeter-l"].high_pass == state.tune.channels["tweeter-l"].high_pass
