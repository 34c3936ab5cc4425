"""Passive parts over HTTP, with the van's drivers: begun by the textbook, turned, searched for, kept, refused."""

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.core.passive.textbook import E12

BASE = "/api/projects/wren/passive"
BEGIN = {"drivers": ["tweeter-l", "mid-l"], "meetings": [{"hertz": 3200, "slope_db": 12}], "zobel": True}


@pytest.mark.walk
def test_a_network_is_begun_searched_for_and_kept(client: TestClient) -> None:
    nothing = client.get(BASE).json()
    assert nothing["bench"] is None
    assert all(one["lacks"] == "" for one in nothing["can"])
    begun = client.post(f"{BASE}/begin", json=BEGIN).json()
    assert [one["driver"] for one in begun["bench"]["network"]["branches"]] == ["mid-l", "tweeter-l"]  # low to high
    assert [one["inverted"] for one in begun["bench"]["network"]["branches"]] == [False, True]
    assert [one["name"] for one in begun["parts"]] == ["L1", "C1", "C2", "R1", "C3", "L2"]
    assert all(one["textbook"] == pytest.approx(one["value"]) for one in begun["parts"])
    assert any("amplifiers of their own" in one for one in begun["says"])
    client.put(BASE, json={**begun["bench"], "series": "E12"})
    found = client.post(f"{BASE}/search").json()
    # The van's tweeter is louder than its mid: with a pad both keep their shapes.
    assert "A pad before Tweeter L" in found[0]["title"]
    assert len(found) == 2  # a Zobel network is there
    assert found[0]["worth"]["rms_db"] < found[1]["worth"]["rms_db"]
    assert found[0]["worth"]["rms_db"] < begun["worth"]["rms_db"]
    assert all(one["worth"]["load"]["least_ohm"] >= 2.0 for one in found)
    kept = client.put(BASE, json=found[0]["bench"]).json()
    for part in kept["parts"]:
        mantissa = part["value"] / 10 ** np.floor(np.log10(part["value"] * 1.0000001))
        assert min(abs(mantissa - one) for one in E12) < 1e-6, part
        assert part["textbook"] is not None
    assert client.get(BASE).json() == kept
    curves = client.get("/api/projects/wren/curves", params={"stage": "drivers", "part": "passive"}).json()["curves"]
    shown = {one["id"]: one for one in curves}
    assert {"way-mid-l", "way-tweeter-l", "sum", "sure-low", "sure-high", "target", "load", "allowed"} <= set(shown)
    least = min(one for one in shown["load"]["values"] if one is not None)
    assert least == pytest.approx(kept["worth"]["load"]["least_ohm"], rel=0.01)
    gone = client.delete(BASE).json()
    assert gone["bench"] is None


def test_a_change_of_an_older_network_is_refused(client: TestClient) -> None:
    begun = client.post(f"{BASE}/begin", json=BEGIN).json()["bench"]
    assert client.put(BASE, json={**begun, "percent": 10}).json()["bench"]["percent"] == 10
    late = client.put(BASE, json={**begun, "percent": 1})
    assert late.status_code == 409
    assert "another window has changed the network" in late.json()["detail"]
    assert client.get(BASE).json()["bench"]["percent"] == 10


def test_leads_go_by_the_way_below(client: TestClient) -> None:
    meetings = [{"hertz": 350, "slope_db": 12}, {"hertz": 3200, "slope_db": 24}]
    body = {"drivers": ["midbass-l", "mid-l", "tweeter-l"], "meetings": meetings}
    begun = client.post(f"{BASE}/begin", json=body).json()["bench"]
    assert [one["inverted"] for one in begun["network"]["branches"]] == [False, True, True]
    body["meetings"][1]["slope_db"] = 12
    begun = client.post(f"{BASE}/begin", json=body).json()["bench"]
    assert [one["inverted"] for one in begun["network"]["branches"]] == [False, True, False]


@pytest.mark.walk
def test_where_no_values_keep_the_load_it_is_said(client: TestClient) -> None:
    client.post(f"{BASE}/begin", json=BEGIN)
    client.put("/api/projects/wren/about/mid-l", json={"least_ohm": 12})
    refused = client.post(f"{BASE}/search")
    assert refused.status_code == 409
    assert "keep the load at the 12 ohm" in refused.json()["detail"]


def test_a_single_driver_gets_a_zobel_network(client: TestClient) -> None:
    begun = client.post(f"{BASE}/begin", json={"drivers": ["mid-l"], "meetings": []}).json()
    assert [one["name"] for one in begun["parts"]] == ["C1", "R1"]
    curves = client.get("/api/projects/wren/curves", params={"stage": "drivers", "part": "passive"}).json()["curves"]
    load = np.array(next(one for one in curves if one["id"] == "load")["values"], dtype=float)
    alone = np.array(next(one for one in curves if one["id"] == "ohms-mid-l")["values"], dtype=float)
    assert load[-100:].max() < 0.75 * alone[-100:].max()  # the rise of the coil is gone


@pytest.mark.walk
def test_what_the_jig_saw_behind_it_is_held_against_what_was_reckoned(client: TestClient) -> None:
    client.post(f"{BASE}/begin", json={**BEGIN, "zobel": False})
    offered = {one["title"] for one in client.post(f"{BASE}/search").json()}
    assert "A Zobel network on Mid L" in offered
    asked = {"stage": "drivers", "part": "passive"}
    hertz = client.get("/api/grid").json()
    load = next(one for one in curves_of(client, asked) if one["id"] == "load")["values"]
    assert len(hertz) == len(load)

    def bring(factor: float) -> list[str]:
        rows = "\n".join(f"{f:.4f} {factor * ohm:.5f} 0" for f, ohm in zip(hertz, load, strict=True))
        sent = client.post(
            "/api/projects/wren/impedance/upload",
            files={"file": ("behind.txt", f"Hz ohm degrees\n{rows}\n".encode(), "text/plain")},
            data={"channel": "mid-l", "loading": "network"},
        )
        assert sent.status_code == 201, sent.text
        return client.get(BASE).json()["says"]

    assert any("is what was reckoned" in one for one in bring(1.0))
    assert any("off by 50 %" in one for one in bring(1.5))
    assert any(one["id"] == "measured" for one in curves_of(client, asked))


def curves_of(client: TestClient, asked: dict) -> list[dict]:
    return client.get("/api/projects/wren/curves", params=asked).json()["curves"]


@pytest.mark.walk
def test_the_network_travels_with_the_project_file(client: TestClient) -> None:
    kept = client.post(f"{BASE}/begin", json=BEGIN).json()["bench"]
    data = client.get("/api/projects/wren/project.imbrix").content
    opened = client.post("/api/project-files", files={"file": ("wren.imbrix", data, "application/zip")}).json()
    assert client.get(f"/api/projects/{opened['slug']}/passive").json()["bench"] == kept


@pytest.mark.parametrize(
    ("body", "code", "says"),
    [
        ({"drivers": ["mid-l", "tweeter-l"], "meetings": []}, 422, "meeting for each"),
        ({"drivers": ["nobody"], "meetings": []}, 404, "nobody"),
        ({"drivers": ["mid-l", "tweeter-l"], "meetings": [{"hertz": 3000, "slope_db": 48}]}, 422, "up to 24"),
        ({"drivers": [], "meetings": []}, 422, "drivers"),
    ],
)
def test_what_cannot_be_begun_is_said(client: TestClient, body: dict, code: int, says: str) -> None:
    refused = client.post(f"{BASE}/begin", json=body)
    assert refused.status_code == code, refused.text
    assert says in refused.text
    assert client.get(BASE).json()["bench"] is None


@pytest.mark.walk
def test_a_short_circuit_and_a_missing_impedance_are_said(client: TestClient) -> None:
    begun = client.post(f"{BASE}/begin", json=BEGIN).json()["bench"]
    assert client.post(f"{BASE}/search").status_code == 200
    begun["network"]["branches"][0]["steps"] = [{"stands": "shunt", "coil": 1e-4}]
    short = client.put(BASE, json=begun).json()
    assert "a short circuit" in short["trouble"]
    assert short["worth"] is None
    takes = client.get("/api/projects/wren").json()["takes"]
    mine = next(one for one in takes if one["purpose"] == "impedance" and one["channels"] == ["mid-l"])
    client.put(f"/api/projects/wren/takes/{mine['id']}/discarded", json={"discarded": True})
    state = client.get(BASE).json()
    assert (
        next(one for one in state["can"] if one["driver"] == "mid-l")["lacks"]
        == "no impedance is measured, do so in Impedance"
    )
    assert "impedance is not measured" in state["trouble"]
    client.delete(BASE)
    refused = client.post(f"{BASE}/search")
    assert refused.status_code == 409
    assert "begin one first" in refused.json()["detail"]
