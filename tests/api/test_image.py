"""The image over the API: a band is played, placed, and what is proposed brings it to the centre."""

import pytest
from starlette.testclient import TestClient

from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import devices

BASE = "/api/projects/wren"
IMAGE = f"{BASE}/image"


def heard(client: TestClient, hz: float | None, **wanted: object) -> list[float]:
    """Where the stand-in's listener hears a band."""
    begun = client.post(f"{IMAGE}/play", json={"hz": hz, "seconds": 0.5, **wanted})
    assert begun.status_code == 202, begun.text
    client.app.state.recorder.wait()  # type: ignore[attr-defined]
    return client.get("/api/progress").json()["result"]["places"]


def bands(state: dict) -> dict[float, dict]:
    return {one["hz"]: one for one in state["bands"] if one["octaves"] == 1}


def sent(client: TestClient) -> None:
    assert client.post(f"{BASE}/processor/send").status_code == 200


def test_a_band_is_played_placed_mended_and_heard_again(client: TestClient, demo: Workspace) -> None:
    sent(client)
    fresh = client.get(IMAGE).json()
    assert {one["state"] for one in fresh["bands"]} == {"unheard"}
    assert fresh["listener"]
    assert fresh["mendings"] == []
    # The right side is the nearer one; now the left one is louder.
    softer = [{"do": "channel", "channel": f"{way}-r", "gain_db": -9} for way in ("midbass", "mid", "tweeter")]
    assert client.post(f"{BASE}/edits", json={"edits": softer}).status_code == 200
    sent(client)
    places = heard(client, 8000.0)
    assert max(places) < -0.2
    state = client.post(f"{IMAGE}/answers", json={"places": places}).json()
    band = bands(state)[8000.0]
    assert band["state"] == "heard"
    assert band["stands"]["sounds"] == "left"
    mending = state["mendings"][0]
    assert not mending["lacks"]
    assert max(map(abs, mending["expected"][0])) < 0.15
    made = client.post(f"{BASE}/edits", json={"edits": mending["edits"], "summary": mending["title"]})
    assert made.status_code == 200
    again = bands(client.get(IMAGE).json())[8000.0]
    assert (again["state"], again["was"]["sounds"]) == ("again", "left")
    sent(client)
    after = heard(client, 8000.0)
    assert max(map(abs, after)) < 0.2
    # What was undone sounds as it did: the answer holds again.
    client.post(f"{BASE}/undo")
    assert bands(client.get(IMAGE).json())[8000.0]["state"] == "heard"


def test_one_side_plays_alone_and_nothing_stays_changed(client: TestClient, demo: Workspace) -> None:
    sent(client)
    assert max(heard(client, 4000.0, side="left")) < -0.85
    assert min(heard(client, 4000.0, side="right")) > 0.85
    assert client.get(BASE).json()["link"]["unsent"] == []


def test_tones_and_pulses_stand_in_for_noise(client: TestClient) -> None:
    sent(client)
    for sound in ("tone", "pulses"):
        assert max(heard(client, 1000.0, side="left", sound=sound)) < -0.85
    assert client.post(f"{IMAGE}/play", json={"hz": 500, "sound": "song"}).status_code == 422


def test_how_far_and_high_it_stood_is_told(client: TestClient) -> None:
    client.post(f"{IMAGE}/answers", json={"places": [0.5, 0.5], "hz": 500, "far": True})
    state = client.post(f"{IMAGE}/answers", json={"places": [0.5, 0.5], "hz": 500, "far": True, "high": True}).json()
    says = bands(state)[500.0]["stands"]["says"]
    assert says.startswith("off to the right: left sounds -")
    assert says.endswith(", far off")  # high was said once of twice
    split = client.post(f"{IMAGE}/answers", json={"places": [-1, 1], "hz": 4000}).json()
    assert "no band mends that" in bands(split)[4000.0]["stands"]["says"]


@pytest.mark.walk
def test_blind_a_band_is_drawn_that_was_heard_least(client: TestClient, demo: Workspace) -> None:
    sent(client)
    for _ in range(7):
        places = heard(client, None)
        assert client.post(f"{IMAGE}/answers", json={"places": places}).status_code == 201
    state = client.get(IMAGE).json()
    assert {one["state"] for one in bands(state).values()} == {"heard"}
    thirds = heard(client, None, octaves=1 / 3)
    state = client.post(f"{IMAGE}/answers", json={"places": thirds, "octaves": 1 / 3, "far": True}).json()
    assert sum(one["octaves"] < 1 for one in state["bands"]) == 1


def test_answers_are_forgotten_one_by_one_or_all(client: TestClient) -> None:
    for place in (0.4, 0.6):
        client.post(f"{IMAGE}/answers", json={"places": [place, place], "hz": 500})
    found = bands(client.get(IMAGE).json())[500.0]["stands"]
    assert (found["count"], found["spread"]) == (2, 0.1)
    assert bands(client.delete(f"{IMAGE}/answers", params={"hz": 500}).json())[500.0]["stands"]["places"] == [0.4, 0.4]
    assert bands(client.delete(f"{IMAGE}/answers").json())[500.0]["state"] == "unheard"


def test_ears_of_the_listener_are_drawn_from_a_number(client: TestClient, demo: Workspace) -> None:
    sent(client)
    plain = heard(client, 8000.0)
    devices.practise(demo, Practice(ears=8))  # hears the right side 5.8 dB louder there
    assert heard(client, 8000.0)[0] > plain[0] + 0.2


def test_what_cannot_be_is_refused_in_words(client: TestClient) -> None:
    nothing = client.post(f"{IMAGE}/answers", json={"places": [0, 0]})
    assert (nothing.status_code, nothing.json()["detail"]) == (409, "nothing was played yet: play a band first")
    unsent = client.post(f"{BASE}/edits", json={"edits": [{"do": "channel", "channel": "mid-l", "gain_db": -3}]})
    assert unsent.status_code == 200
    refused = client.post(f"{IMAGE}/play", json={"hz": 500})
    assert refused.status_code == 409
    assert "send it before" in refused.json()["detail"]
    assert client.post(f"{IMAGE}/answers", json={"places": [0, 1.2]}).status_code == 422
    assert client.get("/api/projects/nowhere/image").status_code == 404
    assert client.delete("/api/projects/nowhere/image/answers").status_code == 404


def test_the_next_step_asks_for_it_and_offers_what_mends(client: TestClient) -> None:
    def steps() -> dict[str, dict]:
        return {one["key"]: one for one in client.get(f"{BASE}/plan").json()["steps"]}

    sent(client)
    step = steps()["image"]
    assert (step["stage"], step["part"], step["optional"]) == ("proof", "image", True)
    request = step["choices"][0]["request"]
    assert (request["path"], request["body"]["hz"], request["waits"]) == (f"{IMAGE}/play", 125.0, True)
    assert client.post(request["path"], json=request["body"]).status_code == 202
    client.app.state.recorder.wait()  # type: ignore[attr-defined]
    for hz in (125, 250, 500, 1000, 2000, 4000, 8000):
        at = 0.5 if hz == 2000 else 0.0
        client.post(f"{IMAGE}/answers", json={"places": [at, at], "hz": hz})
    found = steps()
    assert found["image"]["state"] == "done"
    assert found["image-mends"]["choices"][0]["request"]["body"]["summary"] == "Even out the level of both sides"
