"""Any input as it is: levels, spectra and recordings against the calibrator's and the stand-ins' truth; the log."""

import csv
import time
from collections.abc import Iterator

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, GapError, NotHereError
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.signal.signal import FloatArray, Samples
from imbrix.formats.wav import read_wav
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import change
from imbrix.work.sound import level_log
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.takes import forces, listening, shelf
from imbrix.work.takes.listening import Listen
from imbrix.work.tune import revisions
from imbrix.work.views import growing
from imbrix.work.views import input as one_input
from imbrix.work.views.draw import draw
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View


def record(space: Workspace, seconds: float, **choice: object) -> Progress:
    recorder = Recorder(space)
    listening.start(recorder, SLUG, Listen(record_s=seconds, **choice))  # type: ignore[arg-type]
    return recorder.wait()


def view(space: Workspace, take_id: int | None, **more: object) -> Picture:
    wanted = View(stage="rig", part="input", take=take_id, **more)  # type: ignore[arg-type]
    return draw(space, SLUG, wanted, revisions.head(space, SLUG).tune)


def test_a_calibrator_reads_its_own_level_everywhere(demo: Workspace) -> None:
    """94 dB at 1 kHz: equivalent, fast and slow, A, C and Z alike (IEC 61672-1: all weightings are one at 1 kHz)."""
    demo.standin.practice = Practice(plugged="calibrator-94")
    ended = record(demo, 4.0)
    assert ended.stage == "kept"
    facts = view(demo, ended.take_id, mark_from=1.5, mark_to=3.5).facts["raw"]
    assert facts["unit"] == "dB SPL"
    for kind in ("A", "C", "Z"):
        assert facts["levels"][kind]["equivalent"] == pytest.approx(94.0, abs=0.1)
        assert facts["levels"][kind]["fast_most"] == pytest.approx(94.0, abs=0.1)
    assert dict(facts["octaves"])[1000.0] == pytest.approx(94.0, abs=0.1)
    assert dict(facts["thirds"])[1000.0] == pytest.approx(94.0, abs=0.1)
    assert facts["stretch"]["strongest_hz"] == pytest.approx(1000.0, rel=1e-4)
    assert facts["stretch"]["crest_db"] == pytest.approx(3.01, abs=0.1)
    assert facts["stretch"]["seconds"] == pytest.approx(2.0, abs=1e-4)


def test_one_period_reads_its_frequency_and_zooming_ends_at_samples(demo: Workspace) -> None:
    demo.standin.practice = Practice(plugged="calibrator-94")
    ended = record(demo, 1.0)
    picture = view(demo, ended.take_id, raw_from=0.5, raw_to=0.505, mark_from=0.5, mark_to=0.501)
    assert picture.facts["raw"]["stretch"]["once_hz"] == pytest.approx(1000.0, rel=1e-3)
    wave = {one.id: one for one in picture.curves}
    assert wave["wave-least"].values.size == 240  # every sample of 5 ms at 48 kHz
    whole = {one.id: one for one in view(demo, ended.take_id).curves}
    assert whole["wave-least"].values.size == one_input.COLUMNS


def test_a_loopback_is_read_in_full_scale_where_a_sine_is_zero(demo: Workspace) -> None:
    ended = record(demo, 3.0, input=1, sound="pink", level_db=-20.0)
    facts = view(demo, ended.take_id, mark_from=0.5, mark_to=3.0).facts["raw"]
    assert facts["unit"] == "dBFS"
    played = shaped_noise(2**17, 48_000, -20.0)[:, 0]
    rms = 10 * np.log10(2 * np.mean(played**2))
    assert facts["levels"]["Z"]["equivalent"] == pytest.approx(rms, abs=0.4)
    thirds = np.array([level for hertz, level in facts["thirds"] if 100 <= hertz <= 8000])
    assert np.ptp(thirds) < 2.0  # pink: equal energy in each band


def test_what_was_recorded_comes_back_as_a_file_and_is_no_drivers_take(demo: Workspace) -> None:
    ended = record(demo, 0.7, input=1, sound="pink")
    one = shelf.take(demo, SLUG, ended.take_id or 0)
    assert (one.purpose, one.channels, one.details.input) == ("raw", (), 1)
    samples = read_wav(listening.as_wav(demo, SLUG, one.id), 48_000)
    assert samples.shape[0] == round(0.7 * 48_000)
    assert len(forces.in_force(demo, SLUG)) == 7
    with pytest.raises(NotHereError, match="no recording"):
        listening.as_wav(demo, SLUG, 1)
    assert "raw" not in view(demo, 1).facts


def test_stopping_early_keeps_what_was_heard(demo: Workspace) -> None:
    demo.pace = 1.0
    recorder = Recorder(demo)
    listening.start(recorder, SLUG, Listen(record_s=200.0))
    deadline = time.monotonic() + 20
    while not recorder.progress.averages:
        assert time.monotonic() < deadline
        time.sleep(0.01)
    recorder.abort()
    ended = recorder.wait()
    assert ended.stage == "kept"
    assert 0.3 < view(demo, ended.take_id).facts["raw"]["seconds"] < 30


def test_listening_shows_levels_bands_and_the_highest(demo: Workspace) -> None:
    demo.pace = 8.0
    demo.standin.practice = Practice(plugged="calibrator-94")
    recorder = Recorder(demo)
    listening.start(recorder, SLUG, Listen(hold=True, fraction=3, seconds=0.3))
    deadline = time.monotonic() + 30
    while recorder.progress.averages < 20:
        assert time.monotonic() < deadline
        time.sleep(0.01)
    assert recorder.progress.result is not None
    assert recorder.progress.result["levels"]["A"]["fast"] == pytest.approx(94.0, abs=0.2)
    assert recorder.growing is not None
    drawn = {one.id: one for one in growing.draw(demo, recorder.growing, 6).curves}
    at = int(np.argmin(np.abs(demo.grid - 1000)))
    assert drawn["spectrum"].values[at] == pytest.approx(94.0, abs=0.2)
    assert drawn["held"].values[at] >= drawn["spectrum"].values[at] - 0.01
    assert drawn["wave-most"].pane == "wave"
    recorder.asked.add("reset")
    while recorder.progress.averages >= 20:
        time.sleep(0.01)
    recorder.abort()
    assert recorder.wait().stage == "done"


def test_a_log_has_a_row_for_every_second(demo: Workspace) -> None:
    demo.standin.practice = Practice(plugged="calibrator-94")
    demo.pace = 0
    recorder = Recorder(demo)
    listening.start(recorder, SLUG, Listen(log=True))
    deadline = time.monotonic() + 30
    while not level_log.logs(demo) or len(rows(demo)) < 12:
        assert time.monotonic() < deadline
        time.sleep(0.02)
    recorder.abort()
    recorder.wait()
    found = rows(demo)
    assert found[0] == [*level_log.ROW, "dB SPL"]
    assert [int(one[0]) for one in found[1:]] == list(range(1, len(found)))
    assert all(float(one[1]) == pytest.approx(94.0, abs=0.2) for one in found[3:])
    with pytest.raises(NotHereError, match="no log"):
        level_log.log_file(demo, "../imbrix.db")


def rows(space: Workspace) -> list[list[str]]:
    with level_log.log_file(space, level_log.logs(space)[0]).open() as file:
        return [one for one in csv.reader(file) if one]


def test_listening_goes_on_after_a_gap_and_a_recording_does_not(
    demo: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    runs, begins = [], demo.standin.play_and_record

    def gaps(samples: Samples, *more: object) -> Iterator[FloatArray]:
        runs.append(samples.size)
        for count, block in enumerate(begins(samples, *more)):
            if count == 5 and len(runs) < 3:
                raise GapError("the browser lost 2.0 ms of what it recorded")
            yield block

    monkeypatch.setattr(demo.standin, "play_and_record", gaps)
    recorder = Recorder(demo)
    listening.start(recorder, SLUG, Listen())
    deadline = time.monotonic() + 30
    while recorder.progress.averages < 3 or len(runs) < 3:
        assert time.monotonic() < deadline
        time.sleep(0.01)
    assert recorder.progress.message == "The browser lost 2.0 ms of what it recorded. It goes on."
    assert np.diff(runs) == pytest.approx([-5 * listening.BLOCK] * 2)
    recorder.abort()
    assert recorder.wait().stage == "done"
    assert recorder.progress.message == ""
    for whole in (Listen(record_s=2.0), Listen(log=True)):  # a log counts its seconds by what it heard
        runs.clear()
        listening.start(recorder, SLUG, whole)
        assert recorder.wait().stage == "refused"
    # Where nothing comes between two losses the device is lost.
    monkeypatch.setattr(demo.standin, "play_and_record", lambda *_: (_ for _ in ()).throw(GapError("lost 1 ms")))
    listening.start(recorder, SLUG, Listen())
    assert recorder.wait().stage == "refused"


def test_what_cannot_be_listened_to_is_said(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="no input 100"):
        listening.start(Recorder(demo), SLUG, Listen(input=99))
    with pytest.raises(ValueError, match="1000 points"):
        listening.start(Recorder(demo), SLUG, Listen(size=1000))
    change.change(demo, {"device": "file"})
    with pytest.raises(ConflictError, match="with files"):
        listening.start(Recorder(demo), SLUG, Listen())


def test_a_log_takes_the_same_memory_after_hours(demo: Workspace) -> None:
    log = level_log.LevelLog(demo, None)
    block = np.zeros(2048)

    def size() -> int:
        """Bytes of all arrays that the log holds on to."""
        held = [value for meter in log._meters.values() for value in vars(meter).values()]
        return sum(one.nbytes for one in held if isinstance(one, np.ndarray)) + sum(
            len(one) for one in held if isinstance(one, list)
        )

    log.feed(block)
    first = size()
    for _ in range(500):
        log.feed(block)
    assert size() == first
    log.close()
