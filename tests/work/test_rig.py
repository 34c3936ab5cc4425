"""The rig: devices that come and go, inputs, checks, levels; it is on disk and stays."""

import contextlib
import itertools
import sys
import threading
import types
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest

from imbrix.core.errors import BadFileError, ConflictError, DeviceLostError
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import decibels
from imbrix.devices import soundcard
from imbrix.standins.microphones import MEASURING, PLAIN
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.checks import interface, plain
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.rig import change, checked, corrections, devices, readiness, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import forces, reading, shelf
from imbrix.work.takes.recording import start_sweep
from tests.helpers.job import run

GRID = log_grid()


class FakeCards(types.ModuleType):
    """A stand-in for the package sounddevice: what it lists and what it hears can be set."""

    def __init__(self, devices: list[dict]) -> None:
        super().__init__("sounddevice")
        self.devices = devices
        self.fails = False
        self.late_at = -1
        """Which block is written too late: what plays then has a gap."""
        self.loses = False
        """Whether what is late is what was recorded."""
        self.InputStream, self.OutputStream = self._hears, self._plays

    def query_devices(self) -> list[dict]:
        return self.devices

    def check_input_settings(self, device: str, samplerate: int) -> None:
        if samplerate > 96_000:
            raise ValueError("too fast")

    check_output_settings = check_input_settings

    def _hears(self, **wanted: object):
        """What records: its blocks are heard in step with those that play."""
        self.hears = wanted
        return contextlib.nullcontext(types.SimpleNamespace(latency=0.2))

    @contextlib.contextmanager
    def _plays(self, **wanted: object):
        """What plays, block by block in a thread: it is heard at half the level."""
        if self.fails:
            raise RuntimeError("device unavailable")
        over = threading.Event()

        def run() -> None:
            plays = np.zeros((wanted["blocksize"], wanted["channels"]), np.float32)
            heard = np.zeros((wanted["blocksize"], self.hears["channels"]), np.float32)
            for n in itertools.count():
                if over.wait(0.0005):
                    return
                late = 0 <= self.late_at <= n - soundcard.LEAD_IN
                status = types.SimpleNamespace(
                    output_underflow=late and not self.loses, input_overflow=late and self.loses
                )
                wanted["callback"](plays, plays.shape[0], None, status)
                heard[:] = plays[0, 0] * 0.5
                self.hears["callback"](heard, heard.shape[0], None, status)

        thread = threading.Thread(target=run, daemon=True)
        thread.start()
        yield types.SimpleNamespace(latency=0.2)
        over.set()
        thread.join()


def card(name: str, inputs: int = 2) -> dict:
    return {"name": name, "max_input_channels": inputs, "max_output_channels": 2}


@pytest.fixture
def cards(monkeypatch: pytest.MonkeyPatch) -> FakeCards:
    fake = FakeCards([card("Blue box"), {"name": "Speaker", "max_input_channels": 0, "max_output_channels": 2}])
    monkeypatch.setitem(sys.modules, "sounddevice", fake)
    return fake


def test_without_the_package_that_is_a_stated_condition(space: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(sys.modules, "sounddevice", None)
    listed, why = devices.devices(space)
    assert [one.id for one in listed] == ["stand-in", "browser", "file"]
    assert "make soundcard" in why


def test_cards_with_inputs_and_outputs_are_listed_with_their_rates(space: Workspace, cards: FakeCards) -> None:
    listed, why = devices.devices(space)
    assert listed[-1].model_dump(mode="json") == {
        "id": "card:Blue box",
        "name": "Blue box",
        "inputs": 2,
        "outputs": 2,
        "rates": [44_100, 48_000, 88_200, 96_000],
    }
    assert not why
    with pytest.raises(ValueError, match="does not run at 192000"):
        change.change(space, {"device": "card:Blue box", "rate": 192_000})


def test_a_card_plays_and_records_and_its_loss_is_told(space: Workspace, cards: FakeCards) -> None:
    change.change(space, {"device": "card:Blue box"})
    blocks = list(space.interface.play_and_record(0.5 * np.ones(10_000)))
    assert sum(block.shape[0] for block in blocks) == 10_000
    assert np.concatenate(blocks)[-4000:] == pytest.approx(np.full((4000, 2), 0.25))
    change.change(space, {"output": 1, "output_names": ("Spare", "To the processor")})
    assert space.interface.output == 1
    heard = np.concatenate(list(space.interface.play_and_record(np.ones(100))))
    assert not heard.any()  # the loop of this card is on its first output
    change.change(space, {"output": 0})
    cards.fails = True
    progress = run(space, start_sweep, SLUG, ("sub",), "driver")
    assert (progress.stage, progress.cause) == ("refused", "device")
    assert "Blue box stopped: device unavailable" in progress.message
    assert "dropped, earlier ones are safe" in progress.message


def test_a_vanished_or_reordered_card_is_reported_before_any_take(
    space: Workspace, cards: FakeCards, tmp_path: Path
) -> None:
    change.change(space, {"device": "card:Blue box", "input_names": ("Left ear", "Wire")})
    cards.devices = [card("Blue box", inputs=4)]
    with pytest.raises(ConflictError, match="had 2 inputs and now has 4"):
        start_sweep(Recorder(space), SLUG, ("sub",), "driver")
    cards.devices = []
    again = open_workspace(tmp_path / "data", pace=0)  # the choice outlives a restart, and is checked
    devices.open_interface(again)
    assert rig.rig(again).input_names == ("Left ear", "Wire")
    assert "Blue box, the device chosen before, is not there" in devices.trouble(again)
    with pytest.raises(ConflictError, match="is not there"):
        start_sweep(Recorder(again), SLUG, ("sub",), "driver")
    assert not again.device.locked()
    assert readiness.ready_line(again)[0].state == "stale"


def test_impossible_choices_are_refused_and_change_nothing(space: Workspace) -> None:
    before = rig.rig(space)
    for values, says in (
        ({"device": "card:None"}, "no device"),
        ({"rate": 50_000}, "does not run at 50000"),
        ({"microphone_input": 9}, "there is no input 10"),
        ({"microphone_input": 1}, "cannot be on the same input"),
    ):
        with pytest.raises(ValueError, match=says):
            change.change(space, values)
    with pytest.raises(LookupError, match="no microphone correction 77"):
        change.change(space, {"corrections": {"source": 77, "ceiling": None}})
    assert rig.rig(space) == before


@pytest.mark.parametrize("rate", [44_100, 96_000, 192_000])
def test_takes_of_different_rates_live_together_and_agree(demo: Workspace, rate: int) -> None:
    first = reading.bare(demo, forces.in_force(demo, SLUG)["mid-l"])
    change.change(demo, {"rate": rate})
    assert "check" in readiness.stale(demo)
    progress = run(demo, start_sweep, SLUG, ("mid-l",), "driver")
    assert progress.stage == "kept"
    one = shelf.take(demo, SLUG, progress.take_id)
    assert one.rate == rate
    assert abs(one.details.agrees.level_db) < 0.1
    assert one.details.agrees.shape_db < 0.1
    assert one.details.agrees.later_us == pytest.approx(0, abs=5)
    inside = (GRID > 200) & (GRID < 9000)
    apart = np.abs(decibels(reading.bare(demo, one)[inside] / first[inside]))
    assert np.percentile(apart, 99) < 0.5  # both have their noise, deepest in a dip


def test_the_interface_is_checked_and_what_it_adds_is_divided_out(demo: Workspace) -> None:
    rig.keep(demo, rig.rig(demo).model_copy(update={"check": None}))
    demo.standin.practice = Practice(plugged="loop")
    assert run(demo, interface.start_interface_check).stage == "done"
    check = rig.rig(demo).check
    assert all(line.good for line in check.lines)
    assert check.latency == pytest.approx(734, abs=0.1)
    own = checked.check_curve(demo, check.made, against_reference=False)
    # The stand-in's input: first-order high-pass at 4 Hz.
    truth = 1 / np.sqrt(1 + (4 / GRID) ** 2)
    assert decibels(own)[GRID < 15_000] == pytest.approx(decibels(truth)[GRID < 15_000], abs=0.05)
    demo.standin.practice = Practice()
    progress = run(demo, start_sweep, SLUG, ("sub",), "driver")
    assert shelf.take(demo, SLUG, progress.take_id).details.check == check.made


def test_a_check_without_the_loop_is_refused_and_the_old_one_stays(demo: Workspace) -> None:
    before = rig.rig(demo).check
    demo.standin.practice = Practice(microphone_unplugged=True)
    progress = run(demo, interface.start_interface_check)
    assert (progress.stage, progress.cause) == ("refused", "exchanged")
    assert rig.rig(demo).check == before


@pytest.mark.walk
def test_exchanged_inputs_are_put_right_by_one_action(demo: Workspace) -> None:
    demo.standin.practice = Practice(inputs_exchanged=True)
    assert run(demo, start_sweep, SLUG, ("mid-l",), "driver").cause == "exchanged"
    change.exchange_inputs(demo)
    chosen = rig.rig(demo)
    assert (chosen.microphone_input, chosen.reference_input) == (1, 0)
    assert chosen.input_names[:2] == ("Loopback", "Microphone")
    progress = run(demo, start_sweep, SLUG, ("mid-l",), "driver")
    assert progress.stage == "kept"
    assert shelf.take(demo, SLUG, progress.take_id).details.agrees.shape_db < 0.1


def test_a_sheet_is_read_with_its_sensitivity_and_bad_ones_name_their_line(space: Workspace) -> None:
    new, _understood = corrections.bring(space, "Sheet", "source", MEASURING.sheet("source").encode())
    kept = corrections.correction(space, new)
    assert kept.sensitivity.startswith("-18.02 dBFS/Pa")
    assert kept.full_scale_db_spl == pytest.approx(112, abs=0.01)
    assert kept.curve.degrees is not None
    other, understood = corrections.bring(space, "Volts", "source", b'"Sensitivity = 12.5 mV/Pa"\n20 0.1\n20000 -1.5\n')
    assert "2 rows" in understood
    assert corrections.correction(space, other).sensitivity == "12.5 mV/Pa"
    assert corrections.correction(space, other).full_scale_db_spl is None
    with pytest.raises(BadFileError, match="line 2"):
        corrections.bring(space, "Bad", "source", b"20 0\n30 x\n40 0\n")
    assert len(corrections.corrections(space)) == 2


def test_the_correction_of_a_take_can_be_changed_afterwards(demo: Workspace) -> None:
    one = forces.in_force(demo, SLUG)["tweeter-r"]
    kept = rig.rig(demo).corrections
    first = reading.bare(demo, one)
    shelf.set_correction(demo, SLUG, one.id, kept["source"])
    second = reading.bare(demo, shelf.take(demo, SLUG, one.id))
    at = int(np.argmin(np.abs(GRID - 13_000)))
    adds = [corrections.on_grid(demo, kept[way]) for way in ("source", "ceiling")]
    assert decibels(first[at] / second[at]) == pytest.approx(decibels(adds[0][at] / adds[1][at]), abs=1e-6)
    assert decibels(first[at] / second[at]) > 5
    shelf.set_correction(demo, SLUG, one.id, None)
    assert shelf.take(demo, SLUG, one.id).details.correction is None


@pytest.mark.walk
def test_a_correction_for_a_plain_microphone_is_made_and_a_fresh_pair_agrees(demo: Workspace) -> None:
    def pair(correction: int | None) -> tuple[int, int]:
        found = []
        for microphone in ("measuring", "plain"):
            demo.standin.practice = Practice(microphone=microphone)
            found.append(run(demo, start_sweep, SLUG, ("tweeter-r",), "driver").take_id)
        shelf.set_correction(demo, SLUG, found[1], correction)
        return found[0], found[1]

    known, other = pair(None)
    made = plain.make_correction(demo, SLUG, known, other, "Plain")
    assert 300 < made.low_hz < 900
    assert made.high_hz > 15_000
    curve = corrections.correction(demo, made.id).curve
    inside = (GRID > 1000) & (GRID < 15_000)
    truth = decibels(_response(PLAIN, GRID[inside]))
    shown = decibels(curve.on(GRID[inside]))
    assert (shown - shown.mean()) == pytest.approx(truth - truth.mean(), abs=0.5)
    fresh = pair(made.id)
    agreed = plain.verify_correction(demo, SLUG, *fresh)
    assert agreed.agrees, agreed
    shelf.set_correction(demo, SLUG, fresh[1], rig.rig(demo).correction)
    assert not plain.verify_correction(demo, SLUG, *fresh).agrees
    with pytest.raises(ConflictError, match="same driver"):
        plain.make_correction(demo, SLUG, known, known, "Plain")


def _response(model, hertz: np.ndarray) -> np.ndarray:
    from scipy.signal import sosfreqz

    return sosfreqz(model.sections("ceiling", 48_000), worN=hertz, fs=48_000)[1]


def test_soundcard_says_when_samples_are_lost() -> None:
    made = soundcard.SoundCard(soundcard.Card("Box", 1, 1, (48_000,)), 48_000)
    assert made.inputs == ("Input 1",)


def test_a_gap_in_what_was_played_is_no_data(cards: FakeCards) -> None:
    made = soundcard.SoundCard(soundcard.Card("Blue box", 2, 2, (48_000,)), 48_000)
    assert sum(block.shape[0] for block in made.play_and_record(np.zeros(20_000))) == 20_000
    cards.late_at = 2
    with pytest.raises(DeviceLostError, match="gap in what was played"):
        list(made.play_and_record(np.zeros(20_000)))
    cards.loses = True
    with pytest.raises(DeviceLostError, match="samples of the recording were lost"):
        list(made.play_and_record(np.zeros(20_000)))


def test_a_refused_change_leaves_rig_and_interface_as_they_were(demo: Workspace) -> None:
    before = rig.rig(demo)
    for refused in (
        {"rate": 96_000, "corrections": {"source": 99, "ceiling": None}},
        {"rate": 96_000, "jig": {**before.jig.model_dump(), "driver_input": before.jig.resistor_input}},
        {"rate": 44_100, "moving": {**before.moving.model_dump(), "size": 1000}},
        {"rate": 96_000, "microphone_input": 40},
    ):
        with pytest.raises((ValueError, LookupError)):
            change.change(demo, refused)
        assert rig.rig(demo) == before
        assert demo.interface.rate == demo.standin.rate == before.rate
    assert not devices.trouble(demo)


def test_a_device_at_another_rate_than_the_rig_says_is_told_before_a_take(demo: Workspace) -> None:
    demo.standin.rate = 96_000
    with pytest.raises(ConflictError, match="runs at 96000 Hz, but the rig says 48000 Hz"):
        run(demo, start_sweep, SLUG, ("mid-l",), "driver")


def test_changes_of_the_rig_at_once_all_survive(demo: Workspace) -> None:
    wanted = [
        {"timing": "marker"},
        {"anchor": "mid-l"},
        {"pointing": "source"},
        {"position": "Left ear"},
        {"input_names": ("A", "B", "C", "D", "E", "F")},
        {"output_names": ("Out",)},
    ]
    with ThreadPoolExecutor(len(wanted)) as pool:
        list(pool.map(lambda values: change.change(demo, values), wanted))
    after = rig.rig(demo).model_dump()
    for values in wanted:
        for name, value in values.items():
            assert after[name] == value
