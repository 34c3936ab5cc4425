"""Places and their demonstrations over HTTP: made once, whole or not at all, and predicted as they are measured."""

import re
import shutil
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.core.tune.models import MODELS
from imbrix.standins.places.shipped import SHIPPED
from imbrix.work.demo import Demos
from imbrix.work.ground import documents, places, processors
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.rig import change, rig
from imbrix.work.sound.recorder import Recorder
from tests.helpers.job import ended

CORNERS = {("sub", "midbass"): 80, ("midbass", "mid"): 350, ("mid", "tweeter"): 3500, ("midbass", "tweeter"): 2500}
CAPSULES = {("midbass", "mid"): 600, ("mid", "tweeter"): 4500}


@pytest.fixture
def api(demo: Workspace) -> Iterator[TestClient]:
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as made:
        yield made


def state(api: TestClient, key: str) -> dict:
    return next(one for one in api.get("/api/demos").json() if one["key"] == key)


def make(api: TestClient, key: str) -> dict:
    assert api.post(f"/api/demos/{key}").status_code == 202
    seen = []
    while (now := state(api, key))["state"] == "making":
        seen.append((now["done"], now["message"]))
        time.sleep(0.3)
    assert now["state"] == "made", now
    assert [done for done, _ in seen] == sorted(done for done, _ in seen)
    return {"seen": seen, **now}


def rear_by_the_front(api: TestClient, base: str) -> None:
    """The rear comes within what practice allows, where the front keeps its shape at least as well as by the rule."""
    found = api.get(f"{base}/fill").json()
    late, shape = found["says"][0], found["says"][-1]
    assert 7.9 <= float(re.search(r"Rear comes ([\d.]+) ms after the front$", late)[1]) <= 14.1
    kept = [float(one) for one in re.findall(r"(?:changes by|delays:) ([\d.]+)", shape)]
    assert kept
    assert kept == sorted(kept)
    assert kept[0] < 2.5
    assert api.post(f"{base}/edits", json={"edits": found["edits"]}).status_code == 200
    # As it comes now is as good as any: nothing moves again.
    again = api.get(f"{base}/fill").json()["edits"][0]["delays_s"]
    assert again == pytest.approx(found["edits"][0]["delays_s"], abs=2e-5)
    # Ends that were crossed by mistake, so that nothing lies between, leave a figure that is one.
    ends = [("high_pass", 3000), ("low_pass", 2382)]
    rears = [name for name in again if name.startswith("rear")]
    crossed = [{"do": "crossover", "channel": one, "end": end, "corner_hz": at} for one in rears for end, at in ends]
    assert rears
    assert api.post(f"{base}/edits", json={"edits": crossed}).status_code == 200
    assert re.search(r"changes by \d+\.\d dB rms", api.get(f"{base}/fill").json()["says"][-1])
    assert api.post(f"{base}/undo").status_code == 200


@pytest.mark.walk
@pytest.mark.parametrize("key", ["coach", "room", "helmet"])
def test_what_is_predicted_in_a_place_is_what_is_measured_there(api: TestClient, key: str) -> None:
    """The walk: a demonstration made, corners and delays set, fitted, sent, the whole recorded."""
    made = make(api, key)
    assert any("Measuring" in message for _, message in made["seen"])
    base = f"/api/projects/{made['slug']}"
    project = api.get(base).json()
    assert project["place"]["key"] == key
    assert len(project["takes"]) == 2 * len(project["layout"]["drivers"])
    assert set(project["drivers"]) == {one["id"] for one in project["layout"]["drivers"]}
    assert set(project["impedance"]) == set(project["drivers"])
    for seam in project["seams"]:
        if not seam["ways"]:
            continue
        hertz = (CAPSULES if key == "helmet" else CORNERS)[tuple(seam["ways"])]
        ends = [(one, "low_pass") for one in seam["lowers"]] + [(one, "high_pass") for one in seam["uppers"]]
        edits = [{"do": "crossover", "channel": one, "end": end, "corner_hz": hertz} for one, end in ends]
        assert api.post(f"{base}/edits", json={"edits": edits}).status_code == 200
    assert api.post(f"{base}/align").status_code == 200
    if key == "coach":
        rear_by_the_front(api, base)
    ids = [one["id"] for one in project["layout"]["drivers"]]
    for one in ids:
        assert api.post(f"{base}/fit", json={"channels": [one]}).status_code == 200
    assert api.post(f"{base}/processor/send").status_code == 200
    assert api.post(f"{base}/takes", json={"channels": ids, "purpose": "proof"}).status_code == 202
    ended(api)
    shown = api.get(f"{base}/curves", params={"stage": "proof", "low_hz": 30, "high_hz": 16_000}).json()
    assert shown["facts"]["prediction"]["rms"] < 0.5
    began = time.monotonic()
    assert api.post(f"/api/demos/{key}").status_code == 202
    assert state(api, key)["state"] == "made"
    assert time.monotonic() - began < 5


def test_every_demonstration_is_offered_and_the_van_is_there(api: TestClient) -> None:
    listed = api.get("/api/demos").json()
    assert [(one["key"], one["state"]) for one in listed] == [
        ("van", "made"),
        ("coach", "missing"),
        ("room", "missing"),
        ("helmet", "missing"),
    ]
    assert api.post("/api/demos/moon").status_code == 404
    assert api.post("/api/demos/van").json() == listed


def test_one_that_is_being_made_is_not_shown_by_halves(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as api:
        api.post("/api/demos/helmet")
        while not state(api, "helmet")["done"]:
            time.sleep(0.01)
        assert state(api, "helmet")["state"] == "making"
        assert api.get("/api/projects/swift").status_code == 404
        assert [one["slug"] for one in api.get("/api/projects").json()["projects"]] == ["wren"]
        refused = api.post("/api/demos/room")
        assert refused.status_code == 409
        assert "another place" in refused.json()["detail"]
        refused = api.post("/api/projects/wren/takes", json={"channels": ["sub"], "purpose": "driver"})
        while refused.status_code == 202:  # between two of its takes the device is free for a moment
            ended(api)
            refused = api.post("/api/projects/wren/takes", json={"channels": ["sub"], "purpose": "driver"})
        assert refused.status_code == 409


@pytest.mark.walk
def test_one_that_fails_leaves_nothing_and_can_be_tried_again(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    demos = Demos(Recorder(demo))
    with demo.idle("the device is taken"):
        demos.begin("helmet")
        demos.wait()
    failed = next(one for one in demos.all() if one.key == "helmet")
    assert failed.state == "failed"
    assert "running already" in failed.message
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as api:
        assert api.get("/api/projects/swift").status_code == 404
        make(api, "helmet")


@pytest.mark.walk
def test_half_a_demonstration_is_cleared_at_the_next_start(demo: Workspace) -> None:
    demos = Demos(Recorder(demo))
    demos.begin("helmet")
    while not next(one for one in demos.all() if one.key == "helmet").done:
        time.sleep(0.01)
    folder = demo.folder.with_name("killed")
    with demo.lock:
        shutil.copytree(demo.folder, folder)  # as the disk is when the server is killed now
    demos.wait()
    again = open_workspace(folder, pace=0)
    assert documents.read(again, "place:swift") is not None
    with TestClient(create_app(again), base_url="http://127.0.0.1") as api:
        assert state(api, "helmet")["state"] == "missing"
        assert documents.read(again, "place:swift") is None
        assert api.get("/api/projects/wren").status_code == 200


def test_places_are_measured_with_the_stand_in_only(demo: Workspace) -> None:
    change.change(demo, {"device": "file"})
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as api:
        refused = api.post("/api/demos/room")
        assert refused.status_code == 409
        assert "stand-in" in refused.json()["detail"]


def begin(api: TestClient, **more: object) -> str:
    answer = api.post("/api/projects", json={"name": "Mine", "ready": "front-2-sub", **more})
    assert answer.status_code == 201, answer.text
    return answer.json()["slug"]


@pytest.mark.walk
def test_a_new_project_says_where_it_stands(api: TestClient) -> None:
    keys = [one["key"] for one in api.get("/api/places").json()]
    assert keys == [*SHIPPED, "drawn-", ""]
    for place in (*SHIPPED, "drawn-77"):
        slug = begin(api, place=place)
        assert api.get(f"/api/projects/{slug}").json()["place"]["key"] == place
        assert (
            api.post(f"/api/projects/{slug}/takes", json={"channels": ["midbass-l"], "purpose": "driver"}).status_code
            == 202
        )
        ended(api)
    assert api.post("/api/projects", json={"name": "Mine", "place": "moon"}).status_code == 404


def test_a_project_in_no_place_has_nothing_to_play_in(api: TestClient) -> None:
    slug = begin(api, place="")
    project = api.get(f"/api/projects/{slug}").json()
    assert project["place"]["name"] == "None: files or a sound card"
    device = next(one for one in project["rig"]["ready"] if one["key"] == "device")
    assert device["state"] == "stale"
    refused = api.post(f"/api/projects/{slug}/takes", json={"channels": ["midbass-l"], "purpose": "driver"})
    assert refused.status_code == 409
    assert "no simulated place" in refused.json()["detail"]
    assert api.put(f"/api/projects/{slug}/place", json={"place": "drawn-3"}).json()["place"]["key"] == "drawn-3"
    assert (
        api.post(f"/api/projects/{slug}/takes", json={"channels": ["midbass-l"], "purpose": "driver"}).status_code
        == 202
    )
    ended(api)
    assert api.put(f"/api/projects/{slug}/place", json={"place": "drawn-x"}).status_code == 404


def test_two_projects_sound_each_in_their_own_place(api: TestClient) -> None:
    slugs = [begin(api, place="drawn-1"), begin(api, place="drawn-2")]
    arrivals = []
    for slug in (*slugs, slugs[0]):
        api.post(f"/api/projects/{slug}/takes", json={"channels": ["tweeter-l"], "purpose": "driver"})
        ended(api)
        arrivals.append(api.get(f"/api/projects/{slug}").json()["drivers"]["tweeter-l"]["arrival_ms"])
    assert abs(arrivals[0] - arrivals[1]) > 0.05
    assert arrivals[2] == pytest.approx(arrivals[0], abs=0.005)


def test_wires_stay_when_a_channel_is_given_another_output(api: TestClient, demo: Workspace) -> None:
    """In the coach the rear pair is swapped: the channel check hears it, exchanged outputs mend it."""
    coach = SHIPPED["coach"]
    create_project(demo, coach.slug, coach.project, coach.layout())
    processors.give(demo, coach.slug, MODELS[coach.processor])
    places.put(demo, coach.slug, coach.key)
    base = f"/api/projects/{coach.slug}"
    layout = api.get(base).json()["layout"]
    outputs = {one["id"]: one["output"] for one in layout["drivers"]}

    def ear() -> str:
        api.post(f"{base}/burst", json={"channel": "rear-midbass-l"})
        return ended(api)["result"]["ear"]

    assert ear() == "Rear R"
    swap = {"rear-midbass-l": outputs["rear-midbass-r"], "rear-midbass-r": outputs["rear-midbass-l"]}
    layout["drivers"] = [{**one, "output": swap.get(one["id"], one["output"])} for one in layout["drivers"]]
    assert api.put(f"{base}/layout", json=layout).status_code == 200
    assert ear() == "Rear L"


def test_a_driver_that_is_added_hangs_where_nothing_hung(api: TestClient) -> None:
    slug = begin(api, place="drawn-4")
    layout = api.get(f"/api/projects/{slug}").json()["layout"]
    grown = api.post(
        "/api/layout/driver", json={"layout": layout, "group": "centre", "kind": "full", "side": "both"}
    ).json()
    assert api.put(f"/api/projects/{slug}/layout", json=grown).status_code == 200
    api.post(f"/api/projects/{slug}/takes", json={"channels": ["centre"], "purpose": "driver"})
    assert ended(api)["stage"] == "kept"


def test_the_reading_room_says_where_the_microphone_goes(demo: Workspace) -> None:
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as api:
        slug = begin(api, place="room")
        place = api.get(f"/api/projects/{slug}").json()["place"]
        assert place["nearest"]["distance_m"] == pytest.approx(1 / 1.5, abs=1e-3)
        assert [one["name"] for one in place["spots"]] == ["before the left one", "before the right one"]
        assert api.patch("/api/rig", json={"height_m": 0.9}).status_code == 200
        assert api.get(f"/api/projects/{slug}").json()["place"]["nearest"]["distance_m"] == pytest.approx(0.6)
        assert (
            api.patch("/api/rig", json={"position": "before the left one"}).json()["position"] == "before the left one"
        )
        arrivals = {}
        for where in ("before the left one", "Middle of the head"):
            api.patch("/api/rig", json={"position": where})
            api.post(f"/api/projects/{slug}/takes", json={"channels": ["tweeter-l"], "purpose": "driver"})
            ended(api)
            project = api.get(f"/api/projects/{slug}").json()
            assert project["takes"][0]["position"] == where
            arrivals[where] = project["drivers"]["tweeter-l"]["arrival_ms"]
        # 0.67 m before it, and about 2.4 m: in milliseconds at 343 m/s.
        assert arrivals["before the left one"] == pytest.approx(2.0, abs=0.3)
        assert arrivals["Middle of the head"] == pytest.approx(7.05, abs=0.4)
        # Elsewhere there is no such position: the first of the rig's is meant.
        api.patch("/api/rig", json={"position": "before the left one"})
        api.post("/api/projects/wren/takes", json={"channels": ["tweeter-l"], "purpose": "driver"})
        ended(api)
        assert api.get("/api/projects/wren").json()["takes"][0]["position"] == rig.rig(demo).positions[0].name


def test_a_project_of_before_places_stands_in_the_van_as_it_was(demo: Workspace, tmp_path: Path) -> None:
    documents.remove(demo, "place:wren")
    with TestClient(create_app(demo), base_url="http://127.0.0.1") as api:
        before = api.get("/api/projects/wren").json()
        assert before["place"]["key"] == "van"
        api.post("/api/projects/wren/takes", json={"channels": ["midbass-r"], "purpose": "driver"})
        ended(api)
        take = api.get("/api/projects/wren").json()["takes"][0]
        assert abs(take["agrees"]["level_db"]) < 0.1
        assert take["agrees"]["later_us"] == pytest.approx(0, abs=5)
