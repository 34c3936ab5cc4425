"""Takes that the source plays: the same driver comes out as by the interface, whatever stands in between."""

import io
import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.core.errors import ConflictError
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.source import track
from imbrix.formats.wav import write_wav
from imbrix.standins.head_unit import RATE
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.processor.link import send
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.source import recording, taking, undo
from imbrix.work.takes import bands, forces, moving, reading, series, shelf
from imbrix.work.takes.asked import Asked
from imbrix.work.takes.verdicts import troubles_of
from imbrix.work.tune.revisions import commit, head
from tests.helpers.computed import Computed

ANCHOR = "mid-l"


# What all of them begin with takes as long as they do: one worker makes it.
pytestmark = [pytest.mark.walk, pytest.mark.xdist_group("taking")]


@pytest.fixture(scope="module")
def wired_folder(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The van with its takes by the interface and all wires of the radio recorded, made once."""
    folder = tmp_path_factory.mktemp("wired") / "data"
    shutil.copytree(demo_folder, folder)
    space = open_workspace(folder, pace=0)
    recorder = Recorder(space)
    for number in (2, 3, 4):
        recording.start(recorder, SLUG, (1, number))
        recorder.finished()
    change.change(space, {"plays": "source", "anchor": ANCHOR})
    space.close()
    return folder


@pytest.fixture(scope="module")
def looked(wired_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Computed:
    """What these takes and wires show, computed once."""
    return Computed(wired_folder, tmp_path_factory.mktemp("looked") / "data")


@pytest.fixture
def known(wired_folder: Path, looked: Computed, tmp_path: Path) -> Iterator[Workspace]:
    """The same, to be changed at will: from now on the radio plays."""
    shutil.copytree(wired_folder, tmp_path / "known")
    made = open_workspace(tmp_path / "known", pace=0)
    looked.begin(made)
    yield made
    made.close()


def ended(space: Workspace, channel: str, **how: object) -> Progress:
    recorder = Recorder(space)
    taking.start(recorder, SLUG, Asked((channel,), "driver", **how))
    return recorder.wait(60)


def newest(space: Workspace) -> shelf.Take:
    return shelf.takes(space, SLUG)[0]


def apart(space: Workspace, one: shelf.Take, other: shelf.Take) -> tuple[float, float]:
    """Level of one over another in its band, in dB, and how far their shapes are apart at most."""
    low, high = bands.band(space, SLUG, other)
    inside = (space.grid >= low) & (space.grid <= high)
    levels = [smooth_power(np.nan_to_num(reading.bare(space, each)), space.grid, 12)[inside] for each in (one, other)]
    off = 10 * np.log10(levels[0] / levels[1])
    return float(np.median(off)), float(np.abs(off - np.median(off)).max())


@pytest.mark.parametrize("straight", [False, True])
def test_drivers_come_out_as_by_the_interface(known: Workspace, straight: bool) -> None:
    """As the radio comes, and when its inputs are straightened: level, shape, and the times between them. Its volume is
    turned in between, which the anchor tells."""
    before = dict(forces.in_force(known, SLUG))
    if straight:
        commit(known, SLUG, undo.straightened(known, SLUG), "Straightened", head(known, SLUG).id)
        send(known, SLUG)
    late = {}
    for volume, channel in ((28, ANCHOR), (28, "tweeter-r"), (31, "midbass-r")):
        known.standin.practice = Practice(source_volume=volume)
        assert ended(known, channel).stage == "kept"
        one = newest(known)
        assert (one.method, one.timed, one.clock) == ("source", True, f"source:{ANCHOR}@Middle of the head")
        level, shape = apart(known, one, before[channel])
        assert abs(level) < 0.05
        assert shape < 0.3
        assert not [each for each in troubles_of(known, SLUG)[one.id] if each.weight == "doubt"]
        now, then = (reading.onset_of(known, SLUG, each) for each in (one, before[channel]))
        late[channel] = now.seconds - then.seconds
    assert np.ptp(list(late.values())) < 15e-6
    # It is read again from what is kept as it was read when it was made.
    shown = reading.bare(known, one)
    known.memory.forget_take(one.id)
    assert np.allclose(np.nan_to_num(shown), np.nan_to_num(reading.bare(known, one)), atol=1e-6)


def test_wires_that_move_against_each_other_take_nothing_away(known: Workspace) -> None:
    """The marker is on both sides: through one inverted wire it would cancel where both are heard alike. The other side
    is turned for the take, and the anchor plays alone."""
    known.standin.practice = Practice(wire_inverted=True)
    recorder = Recorder(known)
    recording.start(recorder, SLUG, (1, 2))
    recorder.finished()
    before = dict(forces.in_force(known, SLUG))
    late = {}
    for channel in (ANCHOR, "tweeter-l"):
        assert ended(known, channel).stage == "kept"
        now, then = newest(known), before[channel]
        late[channel] = reading.onset_of(known, SLUG, now).seconds - reading.onset_of(known, SLUG, then).seconds
        assert reading.onset_of(known, SLUG, now).polarity == reading.onset_of(known, SLUG, then).polarity
    assert np.ptp(list(late.values())) < 15e-6
    tune = shelf.through(known, newest(known))
    assert tune.routing[ANCHOR] == (0.0, -1.0)
    assert tune.routing["tweeter-l"] == (1.0,)


def test_what_the_take_went_through_comes_back_when_it_is_over(known: Workspace) -> None:
    held = [known.processor.read(n) for n in range(1, 9)]
    assert ended(known, "sub").stage == "kept"
    assert [known.processor.read(n) for n in range(1, 9)] == held
    assert not known.standin.source_plays


def test_a_row_a_null_and_a_moving_microphone_are_played_by_it_too(known: Workspace) -> None:
    before = dict(forces.in_force(known, SLUG))
    recorder = Recorder(known)
    series.start_series(recorder, SLUG, ("mid-r", "tweeter-l"), taking.take)
    assert recorder.wait(60).stage == "kept"
    assert [one.method for one in shelf.takes(known, SLUG)[:2]] == ["source", "source"]
    taking.start_null(recorder, SLUG, known.layout(SLUG).seam("mid-tweeter-left"))
    assert recorder.wait(60).stage == "kept"
    assert (newest(known).purpose, newest(known).method) == ("null", "source")
    taking.start_moving(recorder, SLUG, Asked(("mid-r",), "driver"))
    assert recorder.wait(60).stage == "kept"
    by_source = newest(known)
    assert (by_source.method, by_source.levels_only) == ("moving", True)
    change.change(known, {"plays": "interface"})
    moving.start_moving(recorder, SLUG, ("mid-r",), "driver")
    recorder.finished()
    low, high = bands.band(known, SLUG, before["mid-r"])
    inside = (known.grid >= low) & (known.grid <= high)
    both = [np.abs(reading.bare(known, one)[inside]) for one in (by_source, newest(known))]
    third = [10 * np.log10(smooth_power(one.astype(complex), known.grid[inside], 3)) for one in both]
    off = third[0] - third[1]
    assert np.sqrt(np.mean((off - off.mean()) ** 2)) < 0.7
    assert abs(off.mean()) < 1.5  # it lies where the fixed one lies, that of the interface by its own level


def test_what_cannot_be_is_told_before_anything_is_played(demo: Workspace) -> None:
    change.change(demo, {"plays": "source", "anchor": ANCHOR})
    recorder = Recorder(demo)
    with pytest.raises(ConflictError, match="no wire of it was recorded"):
        taking.start(recorder, SLUG, Asked(("sub",), "driver"))
    recording.start(recorder, SLUG, (1, 3))
    recorder.finished()
    with pytest.raises(ConflictError, match="the left and of the right side"):
        taking.start(recorder, SLUG, Asked(("sub",), "driver"))
    change.change(demo, {"anchor": "sub"})
    with pytest.raises(ConflictError, match="too low"):
        taking.start(recorder, SLUG, Asked(("sub",), "driver"))
    with pytest.raises(ConflictError, match="one driver at a time"):
        taking.start(recorder, SLUG, Asked(("sub", "mid-l"), "driver"))
    change.change(demo, {"anchor": ""})
    with pytest.raises(ConflictError, match="no anchor driver is chosen"):
        taking.start(recorder, SLUG, Asked(("sub",), "driver"))
    change.change(demo, {"timing": "none"})
    taking.start(recorder, SLUG, Asked(("sub",), "driver"))
    assert recorder.wait(60).stage == "kept"
    assert not newest(demo).timed


def test_a_muted_source_and_one_that_stops_are_refused(known: Workspace) -> None:
    count = len(shelf.takes(known, SLUG))
    for practice, says in ((Practice(source_muted=True), "track"), (Practice(track_stops=True), "track")):
        known.standin.practice = practice
        progress = ended(known, "mid-r")
        assert progress.stage == "refused"
        assert says in progress.message
    assert len(shelf.takes(known, SLUG)) == count


def test_a_track_in_the_place_of_the_noise_is_no_take(known: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(taking, "pink", track.track)
    recorder = Recorder(known)
    taking.start_moving(recorder, SLUG, Asked(("mid-r",), "driver"))
    progress = recorder.wait(60)
    assert progress.stage == "refused"
    assert "let the source play the pink noise" in progress.message


@pytest.mark.parametrize("purpose", ["driver", "proof"])
def test_with_files_a_recording_of_the_track_is_brought(known: Workspace, purpose: str) -> None:
    """As by any recorder: the radio plays, the processor is set, what was recorded comes in as a file."""
    send(known, SLUG)
    with TestClient(create_app(known), base_url="http://127.0.0.1") as client:
        known.standin.track, known.standin.source_plays = track.track(RATE), True
        change.change(known, {"device": "file"})
        answer = client.post(f"/api/projects/{SLUG}/takes", json={"channels": ["mid-r"], "purpose": purpose})
        assert answer.status_code == 202, answer.text
        while client.get("/api/progress").json()["stage"] != "waiting":
            pass
        size = round(2.1 * track.schedule(48_000).size)
        heard = np.concatenate(list(known.standin.play_and_record(np.zeros(size))))
        files = {"file": ("r.wav", io.BytesIO(write_wav(heard[:, :1], 48_000)))}
        assert client.post(f"/api/projects/{SLUG}/takes/bring", files=files).status_code == 200
        progress = client.app.state.recorder.wait(60)
        assert progress.stage == "kept", progress.message
        take = client.get(f"/api/projects/{SLUG}").json()["takes"][0]
        assert (take["method"], take["timed"], take["channels"]) == ("source", purpose == "driver", ["mid-r"])
