"""Every trouble that the stand-ins can make is named right, and twenty clean takes raise none."""

import pytest

from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import change, readiness
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.state import project
from imbrix.work.takes import forces, reading, shelf
from imbrix.work.takes.recording import start_sweep
from imbrix.work.takes.verdicts import troubles_of


def record(space: Workspace, channel: str, **troubles: bool) -> Progress:
    space.standin.practice = Practice(**troubles)
    recorder = Recorder(space)
    start_sweep(recorder, SLUG, (channel,), "driver")
    return recorder.wait()


def named(space: Workspace, progress: Progress) -> list[str]:
    return [one.kind for one in troubles_of(space, SLUG)[progress.take_id]]


@pytest.mark.walk
def test_twenty_clean_takes_raise_nothing(demo: Workspace) -> None:
    names = [driver.id for driver in demo.layout(SLUG).drivers]
    for n in range(20):
        progress = record(demo, names[n % 7])
        assert progress.stage == "kept"
        assert named(demo, progress) == []


@pytest.mark.parametrize(
    ("trouble", "cause", "says"),
    [
        ("microphone_unplugged", "unplugged", "not even the room"),
        ("source_muted", "muted", "nothing of the sweep"),
        ("inputs_exchanged", "exchanged", "are exchanged"),
        ("device_vanishes", "device", "the sound card is gone"),
    ],
)
@pytest.mark.parametrize("channel", ["sub", "mid-l", "tweeter-r"])
def test_what_no_take_can_be_made_of_is_refused_by_its_name(
    demo: Workspace, channel: str, trouble: str, cause: str, says: str
) -> None:
    before = [demo.processor.read(output) for output in range(1, 8)]
    progress = record(demo, channel, **{trouble: True})
    assert (progress.stage, progress.cause) == ("refused", cause)
    assert says in progress.message
    assert sum(one.purpose == "driver" for one in shelf.takes(demo, SLUG)) == 7
    assert [demo.processor.read(output) for output in range(1, 8)] == before
    assert record(demo, channel).stage == "kept"


@pytest.mark.parametrize(
    ("trouble", "channel", "kind"),
    [
        *(("hum", channel, "hum") for channel in ("sub", "midbass-l", "tweeter-r")),
        *(("lorry", channel, "rumble") for channel in ("sub", "mid-r", "tweeter-r")),
        *(("door", channel, "burst") for channel in ("sub", "mid-r", "tweeter-r")),
        *(("gain_changed", channel, "gain") for channel in ("sub", "mid-l", "tweeter-r")),
        ("wrong_channel", "mid-l", "wrong-driver"),
        ("wrong_channel", "tweeter-l", "wrong-driver"),
        ("wired_backwards", "mid-l", "turned"),
        ("loopback_unplugged", "mid-l", "no-time"),
        ("buffer_lost", "sub", "slipped"),
        ("buffer_lost", "mid-l", "slipped"),
    ],
)
def test_what_can_be_kept_is_kept_with_the_trouble_named_first(
    demo: Workspace, trouble: str, channel: str, kind: str
) -> None:
    progress = record(demo, channel, **{trouble: True})
    assert progress.stage == "kept"
    assert named(demo, progress)[0] == kind
    assert {one for one in named(demo, progress)} <= {kind, "noisy", "moved"}


@pytest.mark.walk
def test_a_driver_wired_backwards_is_named_without_a_take_before(space: Workspace) -> None:
    for channel in ("mid-l", "mid-r"):
        record(space, channel, wired_backwards=True)
    found = [
        one
        for one in project.project_state(space, SLUG).model_dump(mode="json")["findings"]
        if one["kind"] == "reversed"
    ]
    assert [one["about"] for one in found] == ["mid-l"]


@pytest.mark.walk
def test_a_clock_of_its_own_is_named_and_taken_out_by_the_marker(demo: Workspace) -> None:
    change.change(demo, {"timing": "marker", "anchor": "mid-r"})
    arrivals = {}
    for channel in ("midbass-l", "tweeter-l"):
        progress = record(demo, channel, clock_drift=True)
        assert named(demo, progress) == ["drift"]
        one = shelf.take(demo, SLUG, progress.take_id)
        assert one.details.evidence.drift_ppm == pytest.approx(50, abs=1)
        assert one.clock.startswith("marker:mid-r")
        arrivals[channel] = reading.reading(demo, one).arrival_s
    # The same two by the loopback, clocks in step: their difference is the truth within ten microseconds.
    change.change(demo, {"timing": "loopback"})
    looped = {}
    for channel in arrivals:
        progress = record(demo, channel)
        looped[channel] = reading.reading(demo, shelf.take(demo, SLUG, progress.take_id)).arrival_s
    apart = arrivals["tweeter-l"] - arrivals["midbass-l"]
    assert apart == pytest.approx(looped["tweeter-l"] - looped["midbass-l"], abs=10e-6)


@pytest.mark.walk
@pytest.mark.parametrize("trouble", ["door", "lorry"])
def test_a_noise_is_named_by_whichever_clock(demo: Workspace, trouble: str) -> None:
    for clock in ({"timing": "marker", "anchor": "mid-r"}, {"timing": "none"}):
        change.change(demo, clock)
        named_noises = {"door": "burst", "lorry": "rumble"}
        assert named(demo, record(demo, "mid-l"))[:1] == ["no-time"] * (clock["timing"] == "none")
        assert named_noises[trouble] in named(demo, record(demo, "mid-l", **{trouble: True}))


@pytest.mark.walk
@pytest.mark.parametrize("channel", ["sub", "midbass-l", "tweeter-r"])
def test_by_markers_what_no_clock_does_is_no_take(demo: Workspace, channel: str) -> None:
    change.change(demo, {"timing": "marker", "anchor": "mid-r"})
    progress = record(demo, channel, buffer_lost=True)
    assert (progress.stage, progress.cause) == ("refused", "slipped")
    assert "shorter than what was played: samples were lost" in progress.message
    assert record(demo, channel).stage == "kept"


def test_a_changed_gain_makes_the_reference_level_stale_until_it_is_set_again(demo: Workspace) -> None:
    assert "reference" not in readiness.stale(demo)
    record(demo, "mid-l", gain_changed=True)
    assert "gain was changed" in readiness.stale(demo)["reference"]
    said = [
        one["says"]
        for one in project.project_state(demo, SLUG).model_dump(mode="json")["findings"]
        if one["kind"] == "rig"
    ]
    assert said == ["Reference level no longer holds"]
    # Set that take aside, and nothing speaks against the reference any more.
    shelf.discard(demo, SLUG, forces.in_force(demo, SLUG)["mid-l"].id, True)
    assert "reference" not in readiness.stale(demo)
