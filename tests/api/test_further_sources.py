"""The source in further ways: a second one, inputs that the processor reads, a feed heard live."""

import time
from collections.abc import Callable

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.core.tune.apply import apply as apply_edits
from imbrix.core.tune.edits import SetInput
from imbrix.core.tune.models import LARGE, STOCK
from imbrix.core.tune.tune import Band, Input
from imbrix.standins.places import van
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import change, choices
from imbrix.work.source import recording
from imbrix.work.tune.revisions import head
from imbrix.work.views import growing
from imbrix.work.views.draw import draw
from imbrix.work.views.request import View
from tests.api.test_api import BASE, edit
from tests.api.test_source import SOURCE, feed, record, source


def wait_until(true: Callable[[], object], seconds: float = 60.0) -> None:
    ends = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < ends, "it did not come"
        time.sleep(0.02)


def test_the_second_source_is_set_tried_and_made_alike_by_requests(client: TestClient) -> None:
    assert client.get(BASE).json()["tune"]["second"]["priority"] == "never"
    refused = client.post(f"{BASE}/source/switch")
    assert (refused.status_code, "never heard" in refused.json()["detail"]) == (409, True)
    edit(client, {"do": "second", "priority": "before", "hold_s": 0.5})
    assert client.post(f"{BASE}/processor/send").status_code == 200
    assert client.post(f"{BASE}/source/switch").status_code == 202
    assert client.app.state.recorder.wait(60).stage == "done"
    second = client.get(f"{BASE}/source").json()["second"]
    assert len(second["says"]) >= 2
    edits = client.get(f"{BASE}/source/alike").json()
    assert edits[0]["gain_db"] == pytest.approx(-second["louder_db"], abs=0.06)
    for which in ("wires", "second"):
        answer = client.get(f"{BASE}/source/comb-{which}.wav", params={"rate": 48_000})
        assert answer.content[:4] == b"RIFF"
    assert client.get(f"{BASE}/source/comb-wires.wav", params={"rate": 22_050}).status_code == 409
    said = client.get(f"{BASE}/export/settings.json").json()["second_source"]
    assert (said["priority"], said["hold_s"]) == ("before", 0.5)
    assert "Second source,priority,before the wires" in client.get(f"{BASE}/export/settings.csv").text


@pytest.mark.walk
def test_a_processor_that_reads_its_inputs_tells_of_all_at_once(client: TestClient, demo: Workspace) -> None:
    refused = client.post(f"{SOURCE}/read")
    assert (refused.status_code, "clip the leads" in refused.json()["detail"]) == (409, True)
    record(client, 1, 2)
    beside = feed(client, 2)
    processors.give(demo, van.SLUG, LARGE)
    assert client.post(f"{SOURCE}/read").status_code == 202
    assert client.app.state.recorder.wait(120).stage == "kept"
    found = {one["number"]: one["feed"] for one in source(client)["inputs"] if one["feed"]}
    assert list(found) == [1, 2, 3, 4]  # the van's source has four wires; the other inputs are silent
    assert [one["inverted"] for one in found.values()] == [False, False, False, True]
    assert found[2]["passes"][0]["frequency_hz"] == pytest.approx(beside["passes"][0]["frequency_hz"], rel=0.01)
    assert found[3]["delay_ms"] - found[1]["delay_ms"] == pytest.approx(6.2, abs=0.005)
    assert found[1]["off_db"] == pytest.approx(feed(client, 1)["off_db"], abs=0.1)


def test_with_real_sound_nobody_is_linked_to_the_processor(client: TestClient, demo: Workspace) -> None:
    processors.give(demo, van.SLUG, LARGE)
    change.change(demo, {"device": choices.FILE})
    refused = client.post(f"{SOURCE}/read")
    assert (refused.status_code, "nobody is linked to it" in refused.json()["detail"]) == (409, True)
    step = client.get(f"{BASE}/next").json()["step"]
    assert "read-inputs" not in [one["action"] and one["action"]["do"] for one in step["choices"]]


def test_a_processor_that_hears_nothing_says_so(
    client: TestClient, demo: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    processors.give(demo, van.SLUG, LARGE)
    monkeypatch.setattr(recording.track, "track", lambda rate: np.zeros((rate, 2)))
    assert client.post(f"{SOURCE}/read").status_code == 202
    ended = client.app.state.recorder.wait(60)
    assert (ended.stage, ended.cause) == ("refused", "silent")
    assert "nothing reaches the inputs" in ended.message
    assert not [one for one in source(client)["inputs"] if one["feed"]]


def test_a_feed_is_heard_live_with_what_its_input_does_under_a_hand(client: TestClient, demo: Workspace) -> None:
    record(client, 1, 2)
    assert client.get(f"{SOURCE}/pink.wav").content[:4] == b"RIFF"
    assert client.get(f"{SOURCE}/pink.wav", params={"rate": 22_050}).status_code == 409
    recorder = client.app.state.recorder
    demo.pace = 20.0
    assert client.post(f"{SOURCE}/inputs/1/live", json={"window": "mine"}).status_code == 202

    def heard(averages: int) -> dict[str, np.ndarray]:
        wait_until(lambda: recorder.progress.averages > averages and recorder.growing is not None)
        drawn = growing.draw(demo, recorder.growing, 6.0)
        return {one.id: one.values for one in drawn.curves}

    plain = heard(60)
    # It lies on what was recorded: the same wire, by noise rather than by a sweep.
    shown = draw(demo, van.SLUG, View(stage="source"), head(demo, van.SLUG).tune)
    beside = next(one.values for one in shown.curves if one.id == "feed-1")
    inside = (demo.grid > 100) & (demo.grid < 8000)
    apart = (plain["live-comes"] - beside)[inside]
    assert np.sqrt(np.mean(apart**2)) < 0.7
    treble = (demo.grid > 6000) & (demo.grid < 16_000)
    # Lines do not lean. They are laid level by their median, which noise moves as a whole; a lean is what remains.
    middle = (demo.grid > 500) & (demo.grid < 4000)
    lean = np.mean((plain["live-comes"] - beside)[treble]) - np.mean((plain["live-comes"] - beside)[middle])
    assert abs(lean) < 0.15
    assert plain["live"] == pytest.approx(plain["live-comes"])
    # A draft that nobody has kept is heard at once.
    band = Band(frequency_hz=1000.0, gain_db=-9.0, q=1.0)
    now = head(demo, van.SLUG).tune
    edits = [SetInput(input=1, bands=(band,), gain_db=-2.0)]
    recorder.drafts[van.SLUG, "another"] = now.model_copy(update={"inputs": (Input(gain_db=-20.0),)})
    recorder.drafts[van.SLUG, "mine"] = apply_edits(now, edits, demo.layout(van.SLUG), STOCK)
    wait_until(lambda: np.ptp(recorder.growing.heard.does - recorder.growing.heard.comes) > 1)
    turned = heard(60)
    at = int(np.argmin(np.abs(demo.grid - 1000)))
    assert (turned["live"] - turned["live-comes"])[at] == pytest.approx(-11.0, abs=0.3)
    assert (turned["live"] - turned["live-comes"])[inside].max() == pytest.approx(-2.0, abs=0.3)
    recorder.abort(van.SLUG)
    assert recorder.wait(30).stage == "done"
