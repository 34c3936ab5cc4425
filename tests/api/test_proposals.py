"""Proposals for the whole, corners with their reasons, and the null of a seam: asked for as the page asks."""

import threading

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.core.tune.models import STOCK
from imbrix.formats.processor_model import write_model
from imbrix.standins.cabin import Cabin
from imbrix.work.ground import places
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.proposals import SLOPES_STAY
from imbrix.work.processor.link import send
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Recorder
from imbrix.work.source import taking
from imbrix.work.takes import recording
from tests.api.test_api import BASE, edit, picture

TIMING = {"slopes": False, "corners": False, "all_pass": False}
NEVER = {"slopes": True, "corners": True, "all_pass": False}


def propose(client: TestClient, **asked: object) -> dict:
    answer = client.post(f"{BASE}/proposals", json=asked)
    assert answer.status_code == 200, answer.text
    return answer.json()


def cabin(space: Workspace) -> Cabin:
    place = places.place(space, "wren")
    assert place is not None
    return place.cabin


@pytest.mark.walk
def test_the_first_proposal_sets_the_van_as_its_maker_would(client: TestClient) -> None:
    found = propose(client, allowed=NEVER)
    best = found["proposals"][0]
    assert best["title"] == "First crossovers, delays, polarity"
    assert found["before"]["mean_db"] > 2
    assert best["figures"]["mean_db"] < 0.3
    assert best["figures"]["sides"]["value"] < 0.1
    assert abs(best["figures"]["apart_us"]) <= 50
    assert found["doubts"] == [SLOPES_STAY]
    assert found["lacking"] == []
    assert found["places"] == ["Middle of the head"]
    before = client.get(BASE).json()
    assert before["tune"]["channels"]["mid-l"]["delay_s"] == 0  # nothing is applied unasked
    edit(client, *best["edits"])
    tune = client.get(BASE).json()["tune"]["channels"]
    assert [name for name, one in tune.items() if one["inverted"]] == ["midbass-r"]  # that hangs backwards there
    seats = cabin(client.space).seats  # type: ignore[attr-defined]
    outputs = {one["id"]: one["output"] for one in before["layout"]["drivers"]}
    speed = 343.2
    comes = {name: seats[outputs[name] - 1].path.distance_m / speed + one["delay_s"] for name, one in tune.items()}
    for way in ("mid", "tweeter"):
        assert comes[f"{way}-l"] == pytest.approx(comes[f"{way}-r"], abs=50e-6)
    again = propose(client, allowed=NEVER)
    assert all(one["figures"]["mean_db"] <= again["before"]["mean_db"] + 0.1 for one in again["proposals"])


@pytest.mark.walk
def test_what_a_proposal_says_is_what_the_seams_show_once_it_is_voiced(client: TestClient) -> None:
    best = propose(client, allowed=TIMING)["proposals"][0]
    edit(client, *best["edits"])
    for name in client.get(BASE).json()["work_order"]:
        assert client.post(f"{BASE}/fit", json={"channels": [name]}).status_code == 200
    for one in best["figures"]["seams"]:
        head, _ = picture(client, {"stage": "seams", "seam": one["seam"], "smoothing": 12})
        assert head["facts"]["loss"]["mean"] == pytest.approx(one["mean"]["value"], abs=0.05)
        assert head["facts"]["loss"]["worst"] == pytest.approx(one["worst"]["value"], abs=0.2)


@pytest.mark.walk
def test_a_seam_of_what_was_aligned_offers_what_stands_first(client: TestClient) -> None:
    edit(client, *propose(client, allowed=NEVER)["proposals"][0]["edits"])
    for seam in ("midbass-mid-left", "mid-tweeter-left", "mid-tweeter-right"):
        head, _ = picture(client, {"stage": "seams", "seam": seam, "smoothing": 12})
        first = client.get(f"{BASE}/seams/{seam}/offers").json()[0]
        assert first["delay_ms"] == pytest.approx(head["facts"]["delay_ms"], abs=1e-6)
        assert first["inverted"] == head["facts"]["inverted"]
        assert not first["change"]


@pytest.mark.walk
def test_a_side_by_itself_leaves_the_other_alone(client: TestClient) -> None:
    edit(client, *propose(client, allowed=TIMING)["proposals"][0]["edits"])
    aligned = client.get(BASE).json()["tune"]["channels"]
    delays = {name: one["delay_s"] + 0.0008 for name, one in aligned.items() if name.endswith("-l")}
    edit(client, {"do": "delays", "delays_s": delays})
    best = propose(client, scope="left", allowed=TIMING)["proposals"][0]
    assert {one["channel"] for one in best["changes"]} <= {"Midbass L", "Mid L", "Tweeter L"}
    edit(client, *best["edits"])
    after = client.get(BASE).json()["tune"]["channels"]
    for name in delays:
        assert after[name]["delay_s"] == pytest.approx(aligned[name]["delay_s"], abs=60e-6)


@pytest.mark.parametrize(
    ("body", "status", "says"),
    [
        ({"scope": "roof"}, 422, "scope"),
        ({"allowed": {"slopes": "perhaps"}}, 422, "slopes"),
        ({"colour": 1}, 422, "colour"),
    ],
)
def test_what_cannot_be_asked_is_refused_in_words(client: TestClient, body: dict, status: int, says: str) -> None:
    answer = client.post(f"{BASE}/proposals", json=body)
    assert answer.status_code == status
    assert says in answer.json()["detail"]


def test_without_a_take_or_without_time_nothing_is_proposed(client: TestClient) -> None:
    take = client.get(BASE).json()["drivers"]["mid-l"]["take_id"]
    client.put(f"{BASE}/takes/{take}/discarded", json={"discarded": True})
    answer = client.post(f"{BASE}/proposals", json={})
    assert (answer.status_code, answer.json()["detail"]) == (409, "Mid L: no take yet; record every driver first")
    text = "\n".join(f"{hertz:.1f} 80" for hertz in np.geomspace(20, 20_000, 200))
    files = {"file": ("mid.txt", text.encode(), "text/plain")}
    made = client.post(f"{BASE}/takes/upload", data={"channel": "mid-l", "kind": "text"}, files=files)
    assert made.status_code == 201
    answer = client.post(f"{BASE}/proposals", json={})
    assert answer.status_code == 409
    assert "Mid L: the take keeps no time" in answer.json()["detail"]


@pytest.mark.walk
def test_at_several_places_the_figures_say_how_they_spread(client: TestClient, demo: Workspace) -> None:
    change.change(demo, {"position": "Left ear"})
    recorder = Recorder(demo)
    for driver in demo.layout("wren").drivers:
        recording.start_sweep(recorder, "wren", (driver.id,), "driver")
        recorder.finished()
    found = propose(client, allowed=TIMING)
    assert found["places"] == ["Middle of the head", "Left ear"]
    means = [one["mean"] for one in found["proposals"][0]["figures"]["seams"]]
    assert all(one["least"] <= one["value"] <= one["most"] for one in means)
    assert max(one["most"] - one["least"] for one in means) > 0.05


@pytest.mark.walk
def test_a_delay_beyond_what_the_processor_has_is_told_and_not_proposed(client: TestClient) -> None:
    short = STOCK.model_copy(update={"name": "Short", "delay_s": STOCK.delay_s.model_copy(update={"most": 0.001})})
    files = {"file": ("short.json", write_model(short).encode(), "application/json")}
    key = client.post("/api/models", files=files).json()["key"]
    client.put(f"{BASE}/processor", json={"model": key})
    found = propose(client, allowed=TIMING)
    assert found["proposals"] == []
    assert any("is needed, the processor has 1 ms" in one for one in found["lacking"])
    # A seam by itself tells it of the setting, which cannot be used and does not come first.
    edit(client, {"do": "crossover", "channel": "midbass-l", "end": "high_pass", "corner_hz": 80})
    offers = client.get(f"{BASE}/seams/sub-midbass-left/offers").json()
    beyond = [one for one in offers if "beyond the processor's delay" in one["says"]]
    assert beyond
    assert all(one["edits"] == [] for one in beyond)
    assert [one["edits"] == [] for one in offers] == sorted(one["edits"] == [] for one in offers)


def test_a_fit_leaves_an_all_pass_where_it_is(client: TestClient) -> None:
    band = {"kind": "all_pass", "frequency_hz": 200.0, "q": 1.4, "gain_db": 0.0}
    edit(client, {"do": "bands", "channel": "midbass-l", "bands": [band]})
    client.post(f"{BASE}/fit", json={"channels": ["midbass-l"]})
    bands = client.get(BASE).json()["tune"]["channels"]["midbass-l"]["bands"]
    assert bands[0]["kind"] == "all_pass"
    assert len(bands) > 1


def test_corners_come_with_a_range_and_with_reasons(client: TestClient) -> None:
    corners = client.get(BASE).json()["corners"]
    for name, ends in corners.items():
        for one in ends.values():
            assert one["least_hz"] <= one["hertz"] <= one["most_hz"], name
            assert one["says"]
    # The van's impedances are known: the tweeter is kept above twice its resonance as the jig found it.
    assert any("by its impedance" in one for one in corners["tweeter-l"]["high_pass"]["says"])


def test_the_whole_shows_both_sides_and_what_stands_behind_a_draft(client: TestClient) -> None:
    view = {"stage": "seams", "seam": "whole", "smoothing": 6}
    _, plain = picture(client, view)
    assert {"left", "right", "sum", "ideal", "both", "phase", "target"} <= set(plain)
    assert "present" not in plain
    _, drafted = picture(client, view, propose(client, allowed=TIMING)["proposals"][0]["edits"])
    inside = np.isfinite(plain["sum"])
    assert drafted["present"][inside] == pytest.approx(plain["sum"][inside], abs=0.01)
    heard = np.isfinite(drafted["ideal"])
    assert np.mean((drafted["ideal"] - drafted["both"])[heard]) < np.mean((plain["ideal"] - plain["both"])[heard])


@pytest.mark.walk
@pytest.mark.parametrize("turned", [False, True])
def test_a_null_tells_which_polarity_is_right(client: TestClient, demo: Workspace, turned: bool) -> None:
    edit(client, *propose(client, allowed=TIMING)["proposals"][0]["edits"])
    if turned:
        edit(client, {"do": "channel", "channel": "tweeter-l", "inverted": True})
    send(demo, "wren")
    held = client.get(BASE).json()["link"]
    recorder = Recorder(demo)
    taking.start_null(recorder, "wren", demo.layout("wren").seam("mid-tweeter-left"))
    recorder.finished()
    after = client.get(BASE).json()
    assert after["link"]["unsent"] == held["unsent"] == []  # the processor was put back
    assert after["takes"][0]["purpose"] == "null"
    view = {"stage": "seams", "seam": "mid-tweeter-left", "smoothing": 6}
    head, curves = picture(client, view)
    null = head["facts"]["null"]
    assert null["right"] is not turned
    assert (null["mean_db"] > 3) is not turned
    assert "null" in curves
    same = "move the same way" in head["facts"]["pulse_says"]
    assert same is not turned
    # What was measured as it is set counts before what is predicted: here both agree.
    recording.start_sweep(recorder, "wren", ("mid-l", "tweeter-l"), "proof")
    recorder.finished()
    beside = picture(client, view)[0]["facts"]["null"]
    assert beside["mean_db"] == pytest.approx(null["mean_db"], abs=0.3)
    assert beside["mean_db"] != null["mean_db"]
    # Where something is set anew the old null no longer says anything.
    edit(client, {"do": "channel", "channel": "tweeter-l", "delay_s": 0.004})
    facts = picture(client, view)[0]["facts"]
    assert "null" not in facts
    assert "other settings" in facts["null_says"]


def test_distances_are_kept_compared_and_made_into_delays(client: TestClient, demo: Workspace) -> None:
    seats = cabin(demo).seats
    drivers = demo.layout("wren").drivers
    metres = {one.id: round(seats[one.output - 1].path.distance_m, 3) for one in drivers}  # type: ignore[union-attr]
    answer = client.post(f"{BASE}/distances/apply")
    assert (answer.status_code, "no distance yet" in answer.json()["detail"]) == (409, True)
    state = client.put(f"{BASE}/distances", json={"metres": metres, "celsius": cabin(demo).celsius}).json()
    rows = {one["channel"]: one for one in state["distances"]["rows"]}
    for name, one in rows.items():
        assert one["metres"] == metres[name]
        assert abs(one["apart_ms"]) < (1.0 if name == "sub" else 0.1), name
        assert one["says"] == ""
    # Half a metre too much on the tape is told of, of that driver and no other.
    wrong = client.put(f"{BASE}/distances", json={"metres": {"mid-l": metres["mid-l"] + 0.5}}).json()["distances"]
    assert [one["channel"] for one in wrong["rows"] if one["says"]] == ["mid-l"]
    client.put(f"{BASE}/distances", json={"metres": {"mid-l": metres["mid-l"]}})
    tune = client.post(f"{BASE}/distances/apply").json()["tune"]["channels"]
    farthest = max(metres, key=lambda name: metres[name])
    assert tune[farthest]["delay_s"] == 0
    for name, one in rows.items():
        assert tune[name]["delay_s"] * 1e3 == pytest.approx(one["delay_ms"], abs=0.02)
    gone = client.put(f"{BASE}/distances", json={"metres": {"mid-l": None}}).json()["distances"]["rows"]
    assert {one["channel"] for one in gone if one["metres"] is None} == {"mid-l"}


@pytest.mark.parametrize(
    ("body", "says"),
    [({"metres": {"mid-l": -1}}, "mid-l"), ({"metres": {"horn": 1}}, "horn"), ({"celsius": 400}, "celsius")],
)
def test_a_distance_that_cannot_be_is_refused_and_nothing_kept(client: TestClient, body: dict, says: str) -> None:
    answer = client.put(f"{BASE}/distances", json=body)
    assert answer.status_code in (404, 422)
    assert says in answer.json()["detail"]
    assert all(one["metres"] is None for one in client.get(BASE).json()["distances"]["rows"])


def test_the_latency_of_the_chain_is_held_against_a_budget(client: TestClient) -> None:
    edit(client, {"do": "channel", "channel": "mid-l", "delay_s": 0.006})
    found = client.get(BASE).json()["latency"]
    assert (found["budget"], found["channel"], found["over"]) == ("none", "mid-l", [])
    assert found["total_ms"] == pytest.approx(6 + found["processor_ms"] + found["filters_ms"])
    assert client.put(f"{BASE}/latency", json={"budget": "performer"}).json()["latency"]["over"] == ["mid-l"]
    assert client.put(f"{BASE}/latency", json={"budget": "noon"}).status_code == 422


def test_rear_and_centre_are_set_by_the_front_where_there_are_any(client: TestClient) -> None:
    refused = client.get(f"{BASE}/fill")
    assert (refused.status_code, refused.json()["detail"]) == (
        409,
        "this system has no rear and no centre beside its front",
    )


@pytest.mark.walk
def test_a_fit_of_one_of_two_tied_channels_is_of_both(client: TestClient) -> None:
    client.post(f"{BASE}/proposals/first", json={})
    edit(client, {"do": "pair", "channel": "mid-l", "what": "bands", "tied": True})
    fitted = client.post(f"{BASE}/fit", json={"channels": ["mid-r"]}).json()
    channels = fitted["state"]["tune"]["channels"]
    assert channels["mid-l"]["bands"] == channels["mid-r"]["bands"]
    assert channels["mid-l"]["gain_db"] == channels["mid-r"]["gain_db"]
    assert fitted["fit"]["bands"] > 0
    assert channels["midbass-l"]["bands"] == []


@pytest.mark.walk
def test_a_search_for_an_alignment_tells_how_far_it_is_and_is_stopped(client: TestClient) -> None:
    came: list = []
    waits = threading.Thread(target=lambda: came.append(client.post(f"{BASE}/proposals", json={})))
    before = client.get(BASE).json()["revision"]
    waits.start()
    shares = []
    while not shares or shares[-1] < 0.2:
        assert waits.is_alive()
        now = client.get(f"{BASE}/search").json()
        if now["what"] == "an alignment":
            shares.append(now["share"])
    assert shares == sorted(shares)
    client.post(f"{BASE}/search/stop")
    # Asking anew need not wait for the one that ends.
    assert client.post(f"{BASE}/proposals", json={"allowed": {"corners": False, "slopes": False}}).status_code == 200
    waits.join(60)
    assert (came[0].status_code, came[0].json()["detail"]) == (409, "Stopped: nothing was changed")
    assert client.get(BASE).json()["revision"] == before


@pytest.mark.walk
def test_another_slope_that_was_judged_at_one_spot_is_offered_last(client: TestClient) -> None:
    client.post(f"{BASE}/proposals/first", json={})
    for seam in ("mid-tweeter-left", "midbass-mid-left"):
        offered = client.get(f"{BASE}/seams/{seam}/offers").json()
        assert [bool(one["change"]) for one in offered] == sorted(bool(one["change"]) for one in offered)
        assert all(("judged at one spot" in one["says"]) is bool(one["change"]) for one in offered)
        assert any(one["change"] for one in offered)
