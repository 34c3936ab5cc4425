"""What comes next, followed by a script through a whole job; troubles are named before they do harm."""

import importlib.util
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from imbrix.api.plan import request_of
from imbrix.core.plan.step import (
    Action,
    Align,
    CheckInterface,
    ExchangeInputs,
    LookForDevices,
    MatchSides,
    Record,
    Store,
    UseCorrection,
)
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.signal.loudness import pink_loudness
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict import fitting
from imbrix.work.predict.parting import parting
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.processor.link import send
from imbrix.work.rig import devices
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import moving, recording, shelf
from imbrix.work.tune.revisions import head, revisions
from tests.api.test_api import BASE, edit
from tests.work.test_kinds_of_takes import record

SPEC = importlib.util.spec_from_file_location("follow", Path(__file__).parents[2] / "docs/follow.py")
assert SPEC is not None
assert SPEC.loader is not None
FOLLOW = importlib.util.module_from_spec(SPEC)
SPEC.loader.exec_module(FOLLOW)


def coming(client: TestClient) -> dict:
    found = client.get(f"{BASE}/next").json()["step"]
    assert found is not None
    return found


def plan(client: TestClient) -> dict[str, dict]:
    return {one["key"]: one for one in client.get(f"{BASE}/plan").json()["steps"]}


def leave_out(client: TestClient, *keys: str) -> None:
    for key in keys:
        assert client.put(f"{BASE}/plan", json={"key": key}).status_code == 200


def press(client: TestClient) -> bool:
    return FOLLOW.sent(client, coming(client)["choices"][0]["request"])


@pytest.mark.walk
def test_a_script_that_only_presses_the_next_step_ends_with_a_stored_and_proven_tune(client: TestClient) -> None:
    pressed = list(FOLLOW.follow(client, "wren"))
    assert len(pressed) < 60
    # What only an ear can tell is left to it.
    assert {step["key"] for step, came in pressed if came != "done"} == {"image"}
    keys = [step["key"] for step, _ in pressed]
    assert keys[:3] == ["source", "straighten", "remedy:midbass-r"]  # its factory tone, and what hangs backwards
    assert keys.index("align") < keys.index("voice:mid-l") < keys.index("common") < keys.index("proof")
    assert keys[-1] == "store"
    state = client.get(BASE).json()
    assert state["link"]["unsent"] == []
    assert state["link"]["active_slot"] == 1
    assert max(one["gain_db"] for one in state["tune"]["channels"].values()) <= 0.05
    shown = client.get(f"{BASE}/curves", params={"stage": "proof"}).json()
    assert shown["facts"]["deviation"]["plus_minus"] < 3
    assert client.get(f"{BASE}/next").json()["step"] is None


@pytest.mark.walk
def test_a_step_is_left_out_taken_in_and_taken_back(client: TestClient) -> None:
    assert coming(client)["key"] == "source"
    leave_out(client, "source")
    assert plan(client)["source"]["state"] == "skipped"
    assert coming(client)["key"] == "remedy:midbass-r"
    client.put(f"{BASE}/plan", json={"key": "source", "skipped": False})
    assert coming(client)["key"] == "source"
    further = ("spot:", "each-moving", "moving:")
    leave_out(client, "source", *(key for key in plan(client) if key.startswith(further)))
    assert press(client)
    assert coming(client)["key"] == "align"
    client.post(f"{BASE}/undo")
    assert coming(client)["key"] == "remedy:midbass-r"
    client.post(f"{BASE}/redo")
    assert press(client)
    assert coming(client)["key"].startswith("voice:")
    assert client.get(BASE).json()["revision"]["summary"].startswith("Aligned: ")
    client.post(f"{BASE}/undo")
    assert coming(client)["key"] == "align"
    refused = client.put(f"{BASE}/plan", json={"key": "nothing of the kind"})
    assert (refused.status_code, refused.json()["detail"]) == (404, "the plan has no step 'nothing of the kind'")


def test_what_is_left_out_is_kept_by_project(client: TestClient) -> None:
    leave_out(client, "source")
    made = client.post("/api/projects", json={"name": "Another", "place": "van"}).json()["slug"]
    assert client.get(f"/api/projects/{made}/next").json()["step"]["key"] == "source"
    assert plan(client)["source"]["state"] == "skipped"


def test_an_exchanged_microphone_is_named_at_the_first_take_and_put_right(client: TestClient, demo: Workspace) -> None:
    leave_out(client, "source", "remedy:midbass-r")
    devices.practise(demo, Practice(inputs_exchanged=True))
    step = coming(client)
    assert step["key"] == "spot:Left ear"
    request = {"channels": ["mid-l"], "purpose": "driver", "method": "sweep"}
    taken = {"method": "POST", "path": f"{BASE}/takes", "body": request, "waits": True}
    assert not FOLLOW.sent(client, taken)
    assert coming(client)["key"] == "exchanged"
    assert press(client)
    assert coming(client)["key"] == "reference"  # it was set with the microphone on the other input
    leave_out(client, "reference")
    assert coming(client)["key"] == step["key"]
    assert FOLLOW.sent(client, taken)


def test_hum_is_named_before_anything_is_built_on_it(client: TestClient, demo: Workspace) -> None:
    leave_out(client, "source", "remedy:midbass-r")
    devices.practise(demo, Practice(hum=True))
    record(demo, "mid-l")
    step = coming(client)
    assert step["key"] == "hum" or step["key"].startswith("doubt:")
    assert "hum" in (step["why"] + step["does"]).lower()


def looks_like(demo: Workspace) -> str:
    """What a proof that is recorded now looks like beside its prediction."""
    send(demo, "wren")
    recorder = Recorder(demo)
    recording.start_sweep(recorder, "wren", tuple(one.id for one in demo.layout("wren").drivers), "proof")
    recorder.finished()
    found = parting(demo, "wren", shelf.takes(demo, "wren")[0])
    assert found is not None
    return found.says


@pytest.mark.walk
def test_where_a_proof_parts_from_its_prediction_the_likely_cause_is_named(client: TestClient, demo: Workspace) -> None:
    client.post(f"{BASE}/proposals/first", json={})
    assert looks_like(demo) == ""
    devices.practise(demo, Practice(wired_backwards=True))
    assert "moved the other way: its polarity or its wires were turned" in looks_like(demo)
    devices.practise(demo, Practice(gain_changed=True))
    assert "a volume or an input gain was turned" in looks_like(demo)


@pytest.mark.walk
def test_a_side_that_takes_the_other_away_is_turned_and_taken_back(client: TestClient, demo: Workspace) -> None:
    client.post(f"{BASE}/proposals/first", json={})
    for name in client.get(BASE).json()["work_order"]:
        fitting.fit_channels(demo, "wren", (name,), FitLimits())
    # An all-pass on one whole side is what such a place does: the van's mids and midbass are turned by hand.
    band = {"kind": "all_pass", "frequency_hz": 200.0, "q": 3.0}
    channels = client.get(BASE).json()["tune"]["channels"]
    turned = [
        {"do": "bands", "channel": name, "bands": [band, *channels[name]["bands"]][:8]}
        for name in ("midbass-l", "mid-l")
    ]
    edit(client, *turned)
    assert client.get(f"{BASE}/turn").json() is None  # one spot does not tell what the head hears
    record(demo, "mid-l", "moving")
    found = client.get(f"{BASE}/turn").json()
    assert found["action"] == "Turn the right side"
    assert "take each other away at" in found["says"]
    assert {one["channel"] for one in found["edits"]} >= {"midbass-r", "mid-r"}
    edit(client, *found["edits"])
    assert client.get(f"{BASE}/turn").json() is None


@pytest.mark.walk
def test_the_common_correction_is_fitted_to_what_a_moving_microphone_heard(client: TestClient, demo: Workspace) -> None:
    refused = client.post(f"{BASE}/fit", json={"channels": [], "measured": True})
    assert refused.status_code == 409
    assert "moving microphone" in refused.json()["detail"]
    client.post(f"{BASE}/proposals/first", json={})
    edit(client, {"do": "target", "level_db": 72.0})
    for name in client.get(BASE).json()["work_order"]:
        fitting.fit_channels(demo, "wren", (name,), FitLimits())
    ids = tuple(one.id for one in demo.layout("wren").drivers)

    def strays() -> dict:
        send(demo, "wren")
        recorder = Recorder(demo)
        moving.start_moving(recorder, "wren", ids, "proof")
        recorder.finished()
        return client.get(f"{BASE}/curves", params={"stage": "proof"}).json()["facts"]["deviation"]

    before = strays()
    # What was recorded before a channel was set otherwise says nothing of what stands now.
    delay = client.get(BASE).json()["tune"]["channels"]["sub"]["delay_s"]
    edit(client, {"do": "channel", "channel": "sub", "delay_s": delay + 1e-3})
    stale = client.post(f"{BASE}/fit", json={"channels": [], "measured": True})
    assert (stale.status_code, "as they are set now" in stale.json()["detail"]) == (409, True)
    client.post(f"{BASE}/undo")
    answer = client.post(f"{BASE}/fit", json={"channels": [], "measured": True}).json()
    assert answer["fit"]["boost_db"] <= 3.1
    after = strays()
    assert after["rms"] < before["rms"] * 0.75
    assert after["plus_minus"] < before["plus_minus"] - 0.3
    assert "take" in answer["state"]["revision"]["summary"]


@pytest.mark.walk
def test_tastes_are_fitted_and_stored_and_leave_the_tune_as_it_was(client: TestClient, demo: Workspace) -> None:
    tastes = {"tastes": [{"curve": "flat", "slot": 2}, {"curve": "tilt", "slot": 3}]}
    refused = client.post(f"{BASE}/processor/tastes", json=tastes)
    assert (refused.status_code, "send it before" in refused.json()["detail"]) == (409, True)
    client.post(f"{BASE}/proposals/first", json={})
    for name in client.get(BASE).json()["work_order"]:
        fitting.fit_channels(demo, "wren", (name,), FitLimits())
    fitting.fit_common(demo, "wren", FitLimits())
    edit(client, {"do": "gains", "by_db": -12.0})  # room to be louder
    client.post(f"{BASE}/processor/send")
    client.post(f"{BASE}/processor/store", json={"slot": 1, "name": "Warm"})
    before = client.get(BASE).json()
    twice = client.post(f"{BASE}/processor/tastes", json={"tastes": [{"curve": "flat", "slot": 2}] * 2})
    assert (twice.status_code, client.get(BASE).json()["tune"]) == (422, before["tune"])
    unknown = client.post(f"{BASE}/processor/tastes", json={"tastes": [{"curve": "nope", "slot": 2}]})
    assert unknown.status_code == 404
    state = client.post(f"{BASE}/processor/tastes", json=tastes).json()
    assert state["tune"] == before["tune"]
    assert state["link"]["unsent"] == []
    assert state["link"]["slots"] == {"1": "Warm", "2": "Flat", "3": "Even tilt"}
    assert state["link"]["active_slot"] == 1
    # All are equally loud, so that they can be compared (ITU-R BS.1770, on pink noise through the predicted whole).
    made = [one for one in revisions(demo, "wren") if one.summary.endswith("as loud")]
    now = scene(demo, "wren", spatial=True)
    first, *others = (
        pink_loudness(whole_power(now, demo.grid, predicted(demo, now, one.tune), one.tune, None), demo.grid)
        for one in (head(demo, "wren"), *made)
    )
    assert others == pytest.approx([first, first], abs=0.1)
    # Loaded, a taste differs from the tune by what is common to all, and by nothing else.
    loaded = client.post(f"{BASE}/processor/recall", json={"slot": 2}).json()
    assert loaded["link"]["unsent"]
    assert {one["what"].split()[0] for one in loaded["link"]["unsent"]} <= {"band", "gain"}


def test_every_step_names_a_request_that_the_api_has(client: TestClient) -> None:
    paths = client.get("/api/openapi.json").json()["paths"]
    steps = client.get(f"{BASE}/plan").json()["steps"]
    asked = [one["request"] for step in steps for one in step["choices"] if one["request"]]
    assert asked
    for one in asked:
        path = one["path"].replace("/projects/wren", "/projects/{slug}")
        assert one["method"].lower() in paths[path], path


@pytest.mark.parametrize(
    ("action", "method", "path", "waits"),
    [
        (LookForDevices(), "POST", "/api/rig/look", False),
        (UseCorrection(pointing="ceiling", id=7), "PATCH", "/api/rig", False),
        (ExchangeInputs(), "POST", "/api/rig/exchange", False),
        (CheckInterface(), "POST", "/api/rig/check", True),
        (Record(channels=("mid-l",)), "POST", f"{BASE}/takes", True),
        (Align(), "POST", f"{BASE}/proposals/first", False),
        (Store(slot=2), "POST", f"{BASE}/processor/store", False),
    ],
)
def test_actions_are_requests(action: Action, method: str, path: str, waits: bool) -> None:
    request = request_of("wren", action)
    assert (request.method, request.path, request.waits) == (method, path, waits)


def test_sides_are_matched_by_one_request_once_both_were_recorded(client: TestClient) -> None:
    asked = request_of("wren", MatchSides())
    answer = client.request(asked.method, asked.path, json=asked.body)
    assert answer.status_code == 409
    assert "record both sides with a moving microphone first" in answer.json()["detail"]
