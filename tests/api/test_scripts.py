"""What a script asks of the API beside the page: curves, progress, problems, lists; each as it is described."""

import io
import json
import math
import zipfile

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.api.problems import RESPONSES, TITLES, Problem, told
from imbrix.core import errors
from imbrix.core.signal.grid import log_grid

BASE = "/api/projects/wren"


def curves(client: TestClient, **wanted: object) -> tuple[dict, dict[str, dict]]:
    answer = client.get(f"{BASE}/curves", params=wanted)
    assert answer.status_code == 200, answer.text
    body = answer.json()
    return body, {one["id"]: one for one in body["curves"]}


def edit(client: TestClient, *edits: dict) -> dict:
    return client.post(f"{BASE}/edits", json={"edits": list(edits)}).json()


def test_curves_are_had_as_numbers_on_the_grid(client: TestClient) -> None:
    grid = client.get("/api/grid").json()
    assert grid == pytest.approx(log_grid())
    assert client.get("/api/grid", params={"every": 4}).json() == pytest.approx(log_grid()[::4])
    body, found = curves(client, stage="drivers", smoothing=12)
    assert body["revision"] == client.get(BASE).json()["revision"]["id"]
    assert set(found) == {f"bare-{one}" for one in client.get(BASE).json()["drivers"]}
    tweeter = found["bare-tweeter-l"]
    assert len(tweeter["values"]) == len(grid)
    assert tweeter["values"][0] is None  # a tweeter shows nothing at 20 Hz
    assert all(math.isfinite(one) for one in tweeter["values"][-100:])
    assert tweeter["x"] is None
    assert (tweeter["pane"], tweeter["channel"], tweeter["label"]) == ("main", "tweeter-l", "Tweeter L")


def test_what_is_left_out_is_as_the_page_begins_with(client: TestClient) -> None:
    plain, smooth = curves(client, stage="drivers")[1], curves(client, stage="drivers", smoothing=6)[1]
    assert plain["bare-mid-l"]["values"] == smooth["bare-mid-l"]["values"]
    rough = curves(client, stage="drivers", smoothing=48)[1]
    assert rough["bare-mid-l"]["values"] != smooth["bare-mid-l"]["values"]


def test_a_tune_is_predicted_by_the_same_view_as_the_page_draws(client: TestClient) -> None:
    before = curves(client, stage="voice", selection="mid-l")[1]["corrected"]["values"]
    edit(client, {"do": "channel", "channel": "mid-l", "gain_db": -6})
    after = curves(client, stage="voice", selection="mid-l")[1]["corrected"]["values"]
    apart = [b - a for a, b in zip(before, after, strict=True) if a is not None and b is not None]
    assert apart == pytest.approx([-6.0] * len(apart), abs=1e-3)


def test_spans_are_read_off_over_http_as_well(client: TestClient) -> None:
    body, found = curves(client, stage="drivers", selection="mid-l", span_low_hz=500, span_high_hz=2000)
    rows = {one["label"]: one for one in body["facts"]["span"]["rows"]}
    grid = log_grid()
    inside = (grid >= 500) & (grid <= 2000)
    values = np.array(found["bare-mid-l"]["values"], dtype=float)[inside]
    assert rows["Mid L"]["mean"] == pytest.approx(values.mean(), abs=1e-3)
    assert rows["Mid L"]["plus_minus"] == pytest.approx((values.max() - values.min()) / 2, abs=1e-3)
    assert "Mid L − Mid R" in rows


@pytest.mark.parametrize(
    ("wanted", "status"),
    [
        ({"stage": "attic"}, 422),
        ({"smoothing": 0}, 422),
        ({"stage": "proof", "take": 999}, 404),
        ({"stage": "voice", "compare": 999}, 404),
        ({"span_low_hz": 1}, 422),
        ({"colour": "red"}, 422),
        ({"below": "inside out"}, 422),
    ],
)
def test_views_that_cannot_be_are_problems(client: TestClient, wanted: dict, status: int) -> None:
    answer = client.get(f"{BASE}/curves", params=wanted)
    assert answer.status_code == status
    problem = Problem.model_validate(answer.json())
    assert problem.status == status
    assert problem.title == TITLES[status]
    assert answer.headers["content-type"] == "application/problem+json"


def test_progress_is_had_without_a_socket(client: TestClient) -> None:
    idle = client.get("/api/progress").json()
    assert (idle["stage"], idle["take_id"], idle["result"]) == ("idle", None, None)
    begun = client.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"})
    assert begun.status_code == 202
    assert begun.json()["stage"] in ("playing", "computing", "kept")
    client.app.state.recorder.wait()  # type: ignore[attr-defined]
    done = client.get("/api/progress").json()
    assert (done["kind"], done["stage"], done["channels"], done["project"]) == ("take", "kept", ["sub"], "wren")
    assert done["version"] > idle["version"]
    assert done["result"] == {"doubt": False}
    assert client.get(BASE).json()["takes"][0]["id"] == done["take_id"]


@pytest.mark.parametrize("which", ["check", "calibrate"])
def test_what_belongs_to_the_machine_belongs_to_no_project(client: TestClient, which: str) -> None:
    body = {"level_db": 94} if which == "calibrate" else None
    assert client.post(f"/api/rig/{which}", json=body).status_code == 202
    client.app.state.recorder.wait()  # type: ignore[attr-defined]
    assert client.get("/api/progress").json()["project"] == ""
    assert client.post(f"{BASE}/takes/abort").status_code == 200  # so that any window may stop it


SAID = "6 rows of frequency and value, blanks between them, decimal points"


def test_uploads_answer_with_what_they_made(client: TestClient) -> None:
    rows = "\n".join(f"{hertz} {80 - n}" for n, hertz in enumerate((20, 100, 500, 2000, 8000, 20_000)))
    files = {"file": ("curve.one.txt", rows.encode())}
    take = client.post(f"{BASE}/takes/upload", data={"channel": "sub", "kind": "text"}, files=files)
    assert (take.status_code, take.json()) == (201, {"id": 15, "name": "curve.one.txt", "understood": SAID})
    line = client.post(f"{BASE}/references", files=files)
    assert (line.status_code, line.json()) == (201, {"id": 1, "name": "curve.one", "understood": SAID})
    target = client.post(f"{BASE}/targets", files=files)
    assert (target.status_code, target.json()) == (200, {"key": "own-1", "name": "curve.one", "understood": SAID})
    assert client.get(BASE).json()["takes"][0]["id"] == 15


def test_moments_say_their_zone(client: TestClient) -> None:
    state = client.get(BASE).json()
    assert all(one["made"].endswith("Z") for one in state["takes"])
    assert client.get(f"{BASE}/revisions").json()[0]["created"].endswith("Z")
    assert client.get("/api/projects").json()["projects"][0]["created"].endswith("Z")


def test_the_diagnostics_hold_no_sound_and_the_page_may_tell_of_its_faults(
    client: TestClient, caplog: pytest.LogCaptureFixture
) -> None:
    assert client.post("/api/diagnostics/page", json={"says": "it broke at Plot.tsx"}).status_code == 204
    assert "it broke at Plot.tsx" in caplog.text
    with zipfile.ZipFile(io.BytesIO(client.get("/api/diagnostics.zip").content)) as package:
        about = json.loads(package.read("about.json"))
    assert about["rows"]["project"] == 1
    assert about["rig"]["device"] == "stand-in"
    assert set(about["remembered"]) <= {name for name in about["remembered"] if isinstance(name, str)}
    assert client.post("/api/diagnostics/page", json={"says": "x" * 20_000}).status_code == 422


def test_every_error_of_ours_has_one_place_and_one_status() -> None:
    tree = [one for one in vars(errors).values() if isinstance(one, type) and issubclass(one, Exception)]
    assert all(issubclass(one, errors.ImbrixError) for one in tree)
    assert str(errors.NotHereError("there is no take 4")) == "there is no take 4"  # not as a KeyError shows itself
    assert isinstance(errors.InvalidError(""), ValueError)
    assert isinstance(errors.DeviceLostError("gone"), OSError)
    assert errors.StaleError("late", ("Sub: gain",)).changed == ("Sub: gain",)
    assert errors.UnusableError("silent", "muted").kind == "muted"
    assert told(errors.ConflictError("not now")) == "not now"
    assert "went wrong inside Imbrix" in told(ZeroDivisionError("division"))
    assert "disk is full" in told(OSError(28, "No space left on device"))
    assert set(RESPONSES) <= set(TITLES)


def test_a_full_disk_is_507_with_a_sentence_and_all_is_well_again(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_more: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("imbrix.api.tune.revisions.commit", full)
    body = {"edits": [{"do": "channel", "channel": "sub", "gain_db": -3}]}
    answer = client.post(f"{BASE}/edits", json=body)
    assert answer.status_code == 507
    assert "the disk is full: nothing was changed" in answer.json()["detail"]
    monkeypatch.undo()
    assert client.post(f"{BASE}/edits", json=body).status_code == 200


def test_documents_of_the_api_are_served_and_the_client_is_generated_from_them(client: TestClient) -> None:
    document = client.get("/api/openapi.json").json()
    assert document["info"]["title"] == "Imbrix"
    assert {"Problem", "ProjectState", "Curves", "Progress"} <= set(document["components"]["schemas"])
    assert "HTTPValidationError" not in document["components"]["schemas"]
    files = [
        one
        for path in document["paths"].values()
        for operation in path.values()
        for one in operation["responses"].get("200", {}).get("content", {})
        if one != "application/json"
    ]
    assert {"audio/wav", "text/plain", "text/csv", "application/zip"} <= set(files)
