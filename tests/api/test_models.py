"""Models of processors and systems of any kind over HTTP."""

import pytest
from starlette.testclient import TestClient

from imbrix.core.tune.models import MODELS, SMALL
from imbrix.formats.processor_model import read_model, write_model

BASE = "/api/projects/wren"
DOWNWARDS = {"id": "a", "name": "A", "kind": "tweeter", "passive_to": "mid", "side": "both", "output": 1}
OWN = SMALL.model_copy(update={"name": "Mine", "outputs": 8})


def bring(client: TestClient, data: bytes) -> object:
    return client.post("/api/models", files={"file": ("model.json", data, "application/json")})


def test_an_own_model_is_brought_chosen_exported_and_removed(client: TestClient) -> None:
    assert [one["key"] for one in client.get("/api/models").json()] == list(MODELS)
    made = bring(client, write_model(OWN).encode()).json()
    assert made == {"key": "own-1", "name": "Mine"}
    exported = client.get("/api/models/own-1.json")
    assert read_model(exported.content) == OWN
    assert "own-1.json" in exported.headers["content-disposition"]
    state = client.put(f"{BASE}/processor", json={"model": "own-1"}).json()
    assert state["link"]["model"] == "own-1"
    assert state["link"]["limits"]["name"] == "Mine"
    assert state["link"]["slopes"] == {"butterworth": [6, 12, 18, 24], "linkwitz-riley": [12, 24]}
    assert client.delete("/api/models/own-1").status_code == 204
    assert client.get(BASE).json()["link"]["limits"]["name"] == "Mine"
    assert client.delete("/api/models/own-1").status_code == 404
    assert client.delete("/api/models/two-by-six").status_code == 409


def test_a_file_that_is_no_model_is_refused_with_its_line_and_nothing_is_kept(client: TestClient) -> None:
    data = write_model(OWN).replace('"bands": 10', '"bands": "ten"')
    line = next(n for n, row in enumerate(data.splitlines(), 1) if '"ten"' in row)
    answer = bring(client, data.encode())
    assert answer.status_code == 422
    assert answer.json()["detail"].startswith(f"line {line}: model.bands: ")
    assert len(client.get("/api/models").json()) == len(MODELS)


def test_a_tune_is_made_to_fit_in_one_revision(client: TestClient) -> None:
    edits = [{"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "slope_db": 48, "corner_hz": 3000}]
    client.post(f"{BASE}/edits", json={"edits": edits})
    key = bring(client, write_model(OWN).encode()).json()["key"]
    state = client.put(f"{BASE}/processor", json={"model": key}).json()
    assert any("48 dB per octave is beyond its 24" in one for one in state["link"]["misfits"])
    assert client.post(f"{BASE}/processor/send").status_code == 409
    fitted = client.post(f"{BASE}/processor/fit").json()
    assert fitted["link"]["misfits"] == []
    assert fitted["revision"]["number"] == state["revision"]["number"] + 1
    assert client.post(f"{BASE}/processor/send").json()["link"]["unsent"] == []
    assert client.post(f"{BASE}/processor/fit").status_code == 409


def test_a_whole_car_begins_once_something_gives_way(client: TestClient) -> None:
    ready = {one["key"]: one for one in client.get("/api/projects").json()["ready"]}
    whole = ready["whole-car"]["layout"]
    (said,) = client.post("/api/layout/remarks?outputs=12", json=whole).json()
    assert said["says"] == "14 drivers, but the processor has 12 outputs"
    body = {"name": "Whole", "ready": "whole-car", "processor": "eight-by-twelve"}
    refused = client.post("/api/projects", json=body)
    assert refused.status_code == 409
    assert "make the rear passive (frees 2 outputs)" in refused.json()["detail"]
    layout = next(way["layout"] for way in said["ways_out"] if "rear" in way["says"])
    slug = client.post("/api/projects", json={**body, "layout": layout}).json()["slug"]
    state = client.get(f"/api/projects/{slug}").json()
    assert len(state["layout"]["drivers"]) == 12
    assert {one["group"] for one in state["layout"]["drivers"]} == {"front", "centre", "rear", "sub"}
    assert state["tune"]["channels"]["rear-midbass-l"]["high_pass"]["corner_hz"] == 80
    assert state["work_order"][0] == "mid-r"
    for stage in ("source", "drivers", "seams", "voice", "proof", "handover"):
        assert client.get(f"/api/projects/{slug}/curves", params={"stage": stage}).status_code == 200


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("put", f"{BASE}/processor", {"model": "none"}, 404),
        ("put", f"{BASE}/processor", {"model": "two-by-six"}, 409),
        ("get", "/api/models/none.json", None, 404),
        ("post", "/api/projects", {"name": "x", "processor": "none"}, 404),
        ("post", "/api/layout/remarks?outputs=0", {"drivers": [], "seat": "left"}, 422),
        ("post", "/api/layout/remarks", {"drivers": [DOWNWARDS], "seat": "left"}, 422),
        ("put", f"{BASE}/layout", {"drivers": [DOWNWARDS], "seat": "left"}, 422),
    ],
)
def test_what_is_not_there_or_does_not_fit_is_said(
    client: TestClient, method: str, path: str, body: dict | None, status: int
) -> None:
    answer = client.request(method, path, json=body)
    assert answer.status_code == status
    assert answer.json()["detail"]
