"""The jig watched while parts are clipped in and out, against the stand-in's truth: load, sound, what hangs there."""

import time

import numpy as np
import pytest

from imbrix.core.errors import ConflictError
from imbrix.core.impedance.impedance import impedance
from imbrix.core.passive.network import Network, load, through
from imbrix.core.signal.signal import decibels
from imbrix.standins.places import van
from imbrix.standins.practice import Practice, Wired
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance.impedance import LoadingIn, start
from imbrix.work.predict import passive, watching
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Recorder
from imbrix.work.state.passive import passive_state
from imbrix.work.views import growing

OUTPUTS = {"mid-l": 4, "tweeter-l": 6}


def until(true, seconds: float = 60.0) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline, "it did not come about"
        time.sleep(0.01)


@pytest.fixture
def begun(demo: Workspace) -> Workspace:
    meeting = passive.Meeting(hertz=3200.0)
    passive.begin_anew(demo, van.SLUG, passive.Begin(drivers=("mid-l", "tweeter-l"), meetings=(meeting,)))
    return demo


def clip(space: Workspace, out: tuple[str, ...] = ()) -> Network:
    """Hang the network on the stand-in's clips, all but some of its steps, named `driver step`, or ways."""
    kept = passive.bench(space, van.SLUG)
    assert kept is not None
    ways = []
    for branch in kept.network.branches:
        steps = tuple(step for n, step in enumerate(branch.steps) if f"{branch.driver} {n}" not in out)
        if branch.driver not in out:
            ways.append(branch.model_copy(update={"steps": steps}))
    network = Network(branches=tuple(ways))
    outputs = {one.id: one.output for one in space.layout(van.SLUG).drivers}
    wired = tuple(Wired(output=outputs[one.driver], steps=one.steps, inverted=one.inverted) for one in ways)
    space.standin.practice = Practice(clips="network", network=wired)
    return network


def shown(space: Workspace, recorder: Recorder) -> dict[str, np.ndarray]:
    assert recorder.growing is not None
    return {one.id: one.values for one in growing.draw(space, recorder.growing, 24).curves}


def looks(recorder: Recorder) -> str:
    return (recorder.progress.result or {}).get("looks", "")


def true_load(space: Workspace, network: Network) -> np.ndarray:
    outputs = {one.id: one.output for one in space.layout(van.SLUG).drivers}
    motors = space.standin.stands.motors
    ohms = {one.driver: impedance(motors[outputs[one.driver] - 1].circuit, space.grid) for one in network.branches}
    return np.abs(load(network, ohms, space.grid))


def test_parts_that_are_clipped_in_and_out_are_seen_heard_and_named(begun: Workspace) -> None:
    begun.pace = 8.0
    recorder = Recorder(begun)
    whole = clip(begun)
    watching.start(recorder, van.SLUG)
    until(lambda: "nothing is missing" in looks(recorder) and recorder.progress.averages > 8)
    inside = (begun.grid > 25) & (begun.grid < 18_000)
    now = shown(begun, recorder)
    assert np.abs(now["live-ohms"] / true_load(begun, whole) - 1)[inside].max() < 0.05
    before = now["live"]
    # The coil of the mid bridged: treble that it kept out comes through, and the load falls there.
    less = clip(begun, ("mid-l 0",))
    until(lambda: "without L1" in looks(recorder) and recorder.progress.averages > 8)
    now = shown(begun, recorder)
    assert np.abs(now["live-ohms"] / true_load(begun, less) - 1)[inside].max() < 0.05
    spared = (begun.grid > 300) & (begun.grid < 900)
    assert np.abs(np.mean((now["live"] - before)[spared])) < 1.5
    # One way alone: its level over the other's crossover is what the cabin's own truth says of its ladder.
    alone = clip(begun, ("mid-l",))
    until(lambda: "without Mid L" in looks(recorder) and recorder.progress.averages > 24)
    now = shown(begun, recorder)
    seen = true_load(begun, alone)
    assert np.abs(now["live-ohms"] / seen - 1)[inside].max() < 0.05
    clip(begun, ("mid-l", "tweeter-l 0", "tweeter-l 1"))
    until(lambda: "Tweeter L by itself" in looks(recorder) and recorder.progress.averages > 12)
    bare = shown(begun, recorder)["live"]
    outputs = {one.id: one.output for one in begun.layout(van.SLUG).drivers}
    motor = begun.standin.stands.motors[outputs["tweeter-l"] - 1]
    ladder = decibels(np.abs(through(alone.branches[0], impedance(motor.circuit, begun.grid), begun.grid)[0]))
    loud = (begun.grid > 1500) & (begun.grid < 12_000)
    apart = (now["live"] - bare - ladder)[loud]
    assert np.std(apart) < 0.5
    begun.standin.practice = Practice(clips="nothing")
    until(lambda: looks(recorder) == "Nothing hangs on the clips")
    recorder.abort()
    assert recorder.wait().stage == "done"


def test_a_foreign_driver_is_not_called_the_network(begun: Workspace) -> None:
    begun.pace = 8.0
    recorder = Recorder(begun)
    begun.standin.practice = Practice(clips="driver", clipped_output=1)
    watching.start(recorder, van.SLUG)
    until(lambda: "nothing of this network" in looks(recorder))
    recorder.abort()
    recorder.wait()


def test_a_cable_that_is_out_is_said(begun: Workspace) -> None:
    recorder = Recorder(begun)
    begun.standin.practice = Practice(jig_unplugged=True)
    watching.start(recorder, van.SLUG)
    ended = recorder.wait()
    assert ended.stage == "refused"
    assert "inputs of the jig are silent" in ended.message


def test_without_a_network_there_is_nothing_to_watch(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="begin one first"):
        watching.start(Recorder(demo), van.SLUG)


def test_the_load_behind_the_network_is_measured_and_is_not_the_drivers_own(begun: Workspace) -> None:
    recorder = Recorder(begun)
    before = passive_state(begun, van.SLUG)
    clip(begun)
    start(recorder, van.SLUG, "mid-l", LoadingIn(loading="network"))
    assert recorder.wait().stage == "kept"
    after = passive_state(begun, van.SLUG)
    assert any("is what was reckoned" in one for one in after.says)
    assert after.worth == before.worth
    clip(begun, ("tweeter-l 0",))
    start(recorder, van.SLUG, "mid-l", LoadingIn(loading="network"))
    assert recorder.wait().stage == "kept"
    assert any("is Mid L through L1, C1 and Tweeter L through L2; without C2" in one for one in said(begun))
    clip(begun, ("tweeter-l",))
    start(recorder, van.SLUG, "mid-l", LoadingIn(loading="network"))
    assert recorder.wait().stage == "kept"
    assert any("without Tweeter L" in one for one in said(begun))


def said(space: Workspace) -> list[str]:
    return passive_state(space, van.SLUG).says


def test_the_noise_is_no_louder_than_the_sweep_at_any_level(begun: Workspace) -> None:
    change.change(begun, {"jig": {"level_db": 0.0}})
    recorder = Recorder(begun)
    watching.start(recorder, van.SLUG)
    until(lambda: looks(recorder) != "")
    recorder.abort()
    assert recorder.wait().stage == "done"
