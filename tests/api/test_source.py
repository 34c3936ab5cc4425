"""The stage from wires to routes over HTTP: recorded in turn, straightened, summed, routed, taken back."""

import io

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.core.source import track
from imbrix.formats.wav import read_wav_as_it_is, write_wav
from imbrix.standins.head_unit import RATE, HeadUnit, Wire
from imbrix.standins.places import van
from tests.api.test_api import BASE, edit, picture

SOURCE = f"{BASE}/source"


def record(client: TestClient, *inputs: int) -> dict:
    answer = client.post(f"{SOURCE}/record", json={"inputs": inputs})
    assert answer.status_code == 202, answer.text
    client.app.state.recorder.wait(60)
    return client.get("/api/progress").json()


def source(client: TestClient) -> dict:
    return client.get(SOURCE).json()


def feed(client: TestClient, number: int) -> dict:
    return source(client)["inputs"][number - 1]["feed"]


def hears(client: TestClient) -> dict:
    """By channel the factors of the inputs that it hears."""
    routing = client.get(BASE).json()["tune"]["routing"]
    return {name: {str(n): one for n, one in enumerate(factors, 1) if one} for name, factors in routing.items()}


def apply(client: TestClient, what: str) -> None:
    answer = client.get(f"{SOURCE}/{what}")
    assert answer.status_code == 200, answer.text
    edit(client, *answer.json())


def practise(client: TestClient, **switches: object) -> None:
    now = client.get(BASE).json()["rig"]["practice"]
    assert client.put("/api/rig/practice", json={**now, **switches}).status_code == 200


@pytest.fixture
def recorded(client: TestClient) -> TestClient:
    """The van's four wires, each measured against the first."""
    for other in (2, 3, 4):
        assert record(client, 1, other)["stage"] == "kept"
    return client


@pytest.mark.walk
def test_the_vans_radio_is_read_wire_by_wire(recorded: TestClient) -> None:
    true = van.HEAD_UNIT.wires
    for number, one in enumerate(true, 1):
        found = feed(recorded, number)
        assert found["carries"] == ("left" if one.mix[0] else "right")
        assert found["inverted"] is one.inverted
        assert found["delay_ms"] == pytest.approx(one.delay_s * 1e3, abs=0.005)
        assert [p["order"] for p in found["passes"]] == [2] * len(one.passes)
        for p, (hertz, q) in zip(found["passes"], one.passes, strict=True):
            assert (p["frequency_hz"], p["q"]) == (pytest.approx(hertz, rel=0.02), pytest.approx(q, rel=0.05))
    verdicts = {one["names"]: one["verdict"] for one in source(recorded)["sums"]}
    assert verdicts["Front left + front right"] == "an all-pass turns one of them"
    assert verdicts["Front left + rear left"] == "rear left comes 6.20 ms late"
    assert verdicts["Rear left + rear right"] == "one is inverted"
    assert recorded.get(BASE).json()["stages"]["source"] == "4 feeds"


@pytest.mark.walk
def test_straightened_all_feeds_are_flat_and_in_step(recorded: TestClient) -> None:
    apply(recorded, "straighten")
    now = source(recorded)
    for one in now["inputs"][:4]:
        assert one["straightens"]
        assert one["feed"]["left_db"] < 0.5 < one["feed"]["off_db"]
    sums = {one["names"]: one for one in now["sums"]}
    for names in ("Front left + front right", "Rear left + rear right"):
        assert sums[names]["before_db"][0] < -20
        assert sums[names]["after_db"] == pytest.approx([6.02, 6.02], abs=0.5)
    assert recorded.post(f"{BASE}/processor/send").status_code == 200
    assert recorded.get(BASE).json()["link"]["unsent"] == []
    apply(recorded, "as-it-comes")
    assert not any(one["straightens"] for one in source(recorded)["inputs"])


@pytest.mark.walk
def test_what_is_played_here_goes_in_without_the_straightening(recorded: TestClient) -> None:
    """The system's prediction stays what it was, and a proof through the inputs comes out as predicted."""
    view = {"stage": "proof", "smoothing": 12}
    before = picture(recorded, view)[1]["predicted"]
    apply(recorded, "straighten")
    assert picture(recorded, view)[1]["predicted"] == pytest.approx(before, abs=1e-3)
    assert recorded.post(f"{BASE}/processor/send").status_code == 200
    ids = [one["id"] for one in recorded.get(BASE).json()["layout"]["drivers"]]
    assert recorded.post(f"{BASE}/takes", json={"channels": ids, "purpose": "proof"}).status_code == 202
    recorded.app.state.recorder.wait(60)
    assert picture(recorded, view)[0]["facts"]["prediction"]["rms"] < 0.5
    assert recorded.get(BASE).json()["link"]["unsent"] == []


@pytest.mark.walk
def test_the_picture_shows_feeds_before_and_after_and_a_draft(recorded: TestClient) -> None:
    _, curves = picture(recorded, {"stage": "source"})
    assert {"feed-1", "feed-2", "feed-3", "feed-4"} <= set(curves)
    assert "comes-1" not in curves
    drafted = recorded.get(f"{SOURCE}/straighten").json()
    _, curves = picture(recorded, {"stage": "source"}, drafted)
    inside = slice(150, 900)
    assert np.ptp(curves["feed-1"][inside]) < 1.0 < np.ptp(curves["comes-1"][inside])
    # Of the input that is looked at, what its bands do: it is what its feed changes by.
    _, curves = picture(recorded, {"stage": "source", "part": "feeds-1"}, drafted)
    shape = curves["feed-1"] - curves["comes-1"] - curves["correction"]
    assert np.ptp(shape[inside]) < 0.1
    assert {"band-0", "band-1"} <= set(curves)
    for none in ("feeds-9", "feeds-", "feeds-x", "feeds"):
        assert "correction" not in picture(recorded, {"stage": "source", "part": none})[1]
    _, curves = picture(recorded, {"stage": "source", "part": "sum-1-2"})
    assert curves["aligned"][0] == pytest.approx(6.02, abs=0.01)
    assert curves["sum-1-2"].min() < -20


@pytest.mark.walk
def test_an_all_pass_of_the_first_order_is_undone_too(client: TestClient) -> None:
    unit = HeadUnit("turns", (Wire((1.0, 0.0)), Wire((0.0, 1.0), passes=((700.0, 0.0),))), ppm=20.0)
    heard = unit.play(track.track(RATE), 2 * track.track(RATE).shape[0], RATE, (1, 2), np.random.default_rng(5))
    files = {"file": ("wires.wav", io.BytesIO(write_wav(heard, RATE)))}
    assert client.post(f"{SOURCE}/upload", data={"first": 1, "second": 2}, files=files).status_code == 201
    (found,) = feed(client, 2)["passes"]
    assert found["order"] == 1
    assert found["frequency_hz"] == pytest.approx(700, rel=0.02)
    _, curves = picture(client, {"stage": "source", "part": "sum-1-2"})
    assert curves["sum-1-2"].min() < -6  # at 20 kHz the two stand against each other
    apply(client, "straighten")
    assert client.get(BASE).json()["tune"]["inputs"][0]["bands"][0]["kind"] == "all_pass_1"
    _, curves = picture(client, {"stage": "source", "part": "sum-1-2"})
    assert curves["sum-1-2"][:-24] == pytest.approx(np.full(curves["sum-1-2"].size - 24, 6.02), abs=0.5)


def test_exchanged_wires_are_said_and_put_right(client: TestClient) -> None:
    practise(client, wires_exchanged=True)
    record(client, 1, 2)
    now = source(client)
    assert now["exchanged"] == [1, 2]
    assert any("carries the right side" in one for one in now["says"])
    assert client.post(f"{SOURCE}/put-right").status_code == 200
    now = source(client)
    assert now["exchanged"] is None
    assert [one["name"] for one in now["inputs"][:2]] == ["Front right", "Front left"]
    assert hears(client)["mid-l"] == {"2": 1.0}
    assert hears(client)["sub"] == {"1": 0.5, "2": 0.5}
    assert client.post(f"{SOURCE}/put-right").status_code == 409


@pytest.mark.parametrize(("switch", "says"), [("track_stops", "track"), ("chime", "chime")], ids=["stopped", "chime"])
def test_a_trouble_is_named_and_nothing_is_kept(client: TestClient, switch: str, says: str) -> None:
    practise(client, **{switch: True})
    before = client.get(BASE).json()["takes"]
    ended = record(client, 1, 2)
    assert ended["stage"] == "refused"
    assert says in ended["message"]
    assert client.get(BASE).json()["takes"] == before


def test_an_inverted_wire_is_found_by_its_switch(client: TestClient) -> None:
    practise(client, wire_inverted=True)
    record(client, 1, 2)
    assert feed(client, 2)["inverted"] is True


def test_a_recording_made_elsewhere_of_the_written_track(client: TestClient) -> None:
    """The file is 16 bit at 44.1 kHz, as for a stick; the recorder runs at 44.1 kHz too."""
    sound, rate = read_wav_as_it_is(client.get(f"{SOURCE}/track.wav").content)
    assert (sound.shape, rate) == (track.track(44_100).shape, 44_100)
    unit = HeadUnit("other", (Wire((1.0, 0.0)), Wire((0.0, 1.0), -4.0, delay_s=1e-3)), ppm=31.0)
    heard = unit.play(track.track(RATE), round(2.1 * sound.shape[0]), rate, (1, 2), np.random.default_rng(5))
    files = {"file": ("wires.wav", io.BytesIO(write_wav(heard, rate)))}
    answer = client.post(f"{SOURCE}/upload", data={"first": 1, "second": 2}, files=files)
    assert answer.status_code == 201, answer.text
    assert feed(client, 2)["delay_ms"] == pytest.approx(1.0, abs=0.005)
    assert feed(client, 2)["level_db"] == pytest.approx(-4.0, abs=0.05)


@pytest.mark.parametrize(
    ("data", "status", "says"),
    [
        ({"first": 1, "second": 1}, 409, "two that differ"),
        ({"first": 40}, 409, "inputs 1 to 6"),
        ({"first": 1, "second": 2}, 409, "1 channel"),
        ({"first": 1}, 422, "silent"),
    ],
    ids=["twice", "beyond", "mono", "silent"],
)
def test_a_bad_recording_gets_a_sentence(client: TestClient, data: dict, status: int, says: str) -> None:
    files = {"file": ("wires.wav", io.BytesIO(write_wav(np.zeros(800_000), 48_000)))}
    answer = client.post(f"{SOURCE}/upload", data=data, files=files)
    assert answer.status_code == status
    assert says in answer.json()["detail"]


def test_ready_routes_go_by_what_the_inputs_are_for(client: TestClient) -> None:
    apply(client, "routes/bass-all")
    assert hears(client)["sub"] == {str(n): 0.25 for n in (1, 2, 3, 4)}
    apply(client, "routes/mono")
    assert hears(client)["tweeter-r"] == {"1": 0.5, "2": 0.5}
    client.put(f"{SOURCE}/inputs/5", json={"group": "front", "side": "left"})
    client.put(f"{SOURCE}/inputs/1", json={"group": "rear", "side": "left"})
    apply(client, "routes/sides")
    assert hears(client)["mid-l"] == {"5": 1.0}
    edit(client, {"do": "sources", "channel": "mid-l", "factors": []})
    edit(client, {"do": "sources", "channel": "mid-r", "factors": [1, 1]})
    says = " ".join(source(client)["route_says"])
    assert "Mid L hears nothing" in says
    assert "Mid R hears 2 times a whole signal" in says
    client.put(f"{SOURCE}/inputs/2", json={"group": "rear", "side": "right"})
    refused = client.get(f"{SOURCE}/routes/sides")
    assert refused.status_code == 409
    assert "Front right" in refused.json()["detail"]


def test_leads_and_models_that_do_not_do_are_refused(client: TestClient) -> None:
    assert client.put(f"{SOURCE}/leads", json={"first": 3, "second": 3}).status_code == 409
    assert client.get(f"{SOURCE}/straighten").status_code == 409
    assert client.put(f"{SOURCE}/leads", json={"first": 77, "second": 3}).status_code == 200
    refused = client.post(f"{SOURCE}/record", json={"inputs": [1, 2]})
    assert refused.status_code == 409
    assert "no input 78" in refused.json()["detail"]
    client.put(f"{SOURCE}/leads", json={"first": 2, "second": 3})
    refused = client.post(f"{SOURCE}/record", json={"inputs": [1, 6]})
    assert refused.status_code == 409
    assert "4 wires" in refused.json()["detail"]


@pytest.mark.walk
def test_a_tone_that_moves_with_the_volume_is_said_and_levels_stay_those_of_one_volume(client: TestClient) -> None:
    """The van's radio lifts the bass by 5 dB below half of its volume; eight steps above that nothing is left of it."""

    def says() -> str:
        return " ".join(source(client)["says"])

    record(client, 1, 2)
    assert "once more at another volume" in says()
    practise(client, source_volume=35)
    record(client, 1, 2)
    assert "once more" not in says()
    assert "moves" not in says()
    practise(client, source_volume=18)
    record(client, 1, 3)
    assert "the tone moves with the volume (front left): +" in says()
    assert feed(client, 2)["level_db"] == pytest.approx(-0.6, abs=0.1)
    assert feed(client, 3)["level_db"] == pytest.approx(-3.7, abs=0.3)


def test_a_volume_at_which_the_source_distorts_is_refused(client: TestClient) -> None:
    practise(client, source_volume=40)
    ended = record(client, 1, 2)
    assert ended["stage"] == "refused"
    assert "distorts at this volume" in ended["message"]


@pytest.mark.walk
def test_the_whole_is_proven_by_the_source_itself(recorded: TestClient) -> None:
    """Through the radio it comes out as predicted, straightened or not: what the radio does is decibels in between, and
    straightened the whole is what it is without the radio, where that plays at all."""
    ids = [one["id"] for one in recorded.get(BASE).json()["layout"]["drivers"]]

    view = {"stage": "proof", "smoothing": 6}
    alone = picture(recorded, view)[1]["predicted"]

    def proof() -> np.ndarray:
        assert recorded.post(f"{BASE}/processor/send").status_code == 200
        assert recorded.post(f"{SOURCE}/proof", json={"channels": ids}).status_code == 202
        ended = recorded.app.state.recorder.wait(60)
        assert ended.stage == "kept", ended.message
        head, curves = picture(recorded, view)
        assert head["facts"]["prediction"]["rms"] < 0.1
        return (curves["measured"] - alone)[125:900]  # from 49 Hz to 13 kHz

    as_it_comes = proof()
    assert np.sqrt(np.nanmean(as_it_comes**2)) > 2
    apply(recorded, "straighten")
    assert np.sqrt(np.nanmean(proof() ** 2)) < 0.5
    assert recorded.get(BASE).json()["link"]["unsent"] == []
    kept = recorded.get(BASE).json()["takes"][0]
    assert (kept["purpose"], kept["method"], kept["timed"]) == ("proof", "source", False)
    for below in ("phase", "impulse", "group-delay", "distortion"):
        picture(recorded, {"stage": "proof", "below": below})


@pytest.mark.walk
def test_a_proof_by_a_source_that_stopped_is_refused(recorded: TestClient) -> None:
    practise(recorded, track_stops=True)
    before = recorded.get(BASE).json()["takes"]
    assert recorded.post(f"{SOURCE}/proof", json={"channels": ["mid-l"]}).status_code == 202
    ended = recorded.app.state.recorder.wait(60)
    assert ended.stage == "refused"
    assert "track" in ended.message
    assert recorded.get(BASE).json()["takes"] == before
    assert recorded.post(f"{SOURCE}/proof", json={"channels": ["nobody"]}).status_code == 404


def test_a_source_that_leaves_the_signal_alone_says_so(client: TestClient) -> None:
    answer = client.post("/api/projects", json={"name": "Plain", "ready": "front-2-sub", "place": "room"})
    base = f"/api/projects/{answer.json()['slug']}"
    assert client.post(f"{base}/source/record", json={"inputs": [1, 2]}).status_code == 202
    assert client.app.state.recorder.wait(60).stage == "kept"
    found = client.get(f"{base}/source").json()
    assert "this source leaves the signal as it is: there is nothing to straighten" in found["says"]
    assert found["sums"][0]["verdict"] == "aligned"
    edits = client.get(f"{base}/source/straighten").json()
    assert not any(one["straightens"] or one["bands"] for one in edits)


@pytest.mark.walk
def test_wires_that_were_not_recorded_with_the_first_have_no_delay(client: TestClient) -> None:
    record(client, 1, 2)
    record(client, 3, 4)
    assert feed(client, 3)["delay_ms"] is None
    assert feed(client, 3)["level_db"] == pytest.approx(-3.7, abs=0.3)
    assert any("input 3 was not recorded together with the first" in one for one in source(client)["says"])


@pytest.mark.walk
def test_a_feed_that_nobody_hears_holds_no_other_back(recorded: TestClient) -> None:
    """The rear comes 6.2 ms late and lower. As long as no channel hears it, the front neither waits nor is turned
    down for it."""

    def front() -> dict:
        return recorded.get(BASE).json()["tune"]["inputs"][0]

    assert any("no channel hears rear left or rear right" in one for one in source(recorded)["says"])
    apply(recorded, "straighten")
    assert front()["delay_s"] == 0
    alone_db = front()["gain_db"]
    apply(recorded, "routes/bass-all")
    assert not any("no channel hears" in one for one in source(recorded)["says"])
    apply(recorded, "straighten")
    assert front()["delay_s"] == pytest.approx(6.2e-3, abs=0.03e-3)
    assert front()["gain_db"] == pytest.approx(alone_db - 3.4, abs=0.5)
    sums = {one["names"]: one for one in source(recorded)["sums"]}
    assert sums["Front left + rear left"]["after_db"][0] > 4.5
    assert sums["Front left + front right"]["aligned"]
