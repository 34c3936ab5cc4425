"""The report for the customer: true to the takes, in plain words, and nothing that was typed becomes markup."""

import re

import numpy as np
from starlette.testclient import TestClient

from imbrix.formats.report import Line, plot
from tests.helpers.server import BASE


def text_of(client: TestClient, **asked: str) -> str:
    answer = client.get(f"{BASE}/report.html", params=asked)
    assert answer.status_code == 200
    assert answer.headers["content-type"].startswith("text/html")
    return answer.text


def test_it_says_what_was_done_and_how_it_is_set(client: TestClient) -> None:
    first = text_of(client)
    assert "7 of 7 loudspeakers were measured one by one" in first
    assert "before, computed" in first
    assert "to prove it" not in first
    client.post(f"{BASE}/proposals/first", json={})
    for name in client.get(BASE).json()["work_order"]:
        assert client.post(f"{BASE}/fit", json={"channels": [name]}).status_code == 200
    client.post(f"{BASE}/processor/send")
    client.post(f"{BASE}/processor/store", json={"slot": 1, "name": "Daily"})
    names = [one["id"] for one in client.get(BASE).json()["layout"]["drivers"]]
    client.post(f"{BASE}/takes", json={"channels": names, "purpose": "proof"})
    client.app.state.recorder.wait(60)  # type: ignore[attr-defined]
    told = text_of(client)
    assert "The whole was recorded once to prove it." in told
    assert "now, measured" in told
    assert "Slot 1: Daily" in told
    tune = client.get(BASE).json()["tune"]["channels"]["tweeter-l"]
    assert f"from {tune['high_pass']['corner_hz']:.0f} Hz" in told
    before, now = map(float, re.findall(r"±([0-9.]+) dB", told)[:2])
    facts = client.get(f"{BASE}/curves?stage=proof").json()["facts"]["deviation"]
    assert now < before
    # The same figure as Proof shows for the same span.
    assert (facts["low_hz"], facts["high_hz"]) == (40, 16_000)
    assert abs(now - facts["plus_minus"]) < 0.06
    assert "—" not in told


def test_what_people_type_is_text(client: TestClient) -> None:
    evil = "<script>alert(1)</script>\"'&"
    client.put(f"{BASE}/name", json={"name": evil[:60]})
    client.post(f"{BASE}/notes", json={"text": evil})
    told = text_of(client, shop=evil, customer=evil)
    assert "<script" not in told
    assert told.count("&lt;script&gt;") >= 4


def test_a_plot_leaves_gaps_where_nothing_is_known() -> None:
    hertz = np.array([20.0, 40, 80, 160, 320])
    drawn = plot(hertz, [Line(np.array([80, 81, np.nan, 79, 78.0]), "a <b>", "#000")])
    path = re.findall(r"<path d='(M[^']*)' stroke='#000'", drawn)[0]
    assert (path.count("M"), path.count("L")) == (2, 2)
    assert "a &lt;b&gt;" in drawn


def test_a_logo_stands_on_reports_until_it_is_taken_away(client: TestClient) -> None:
    assert client.get("/api/logo").status_code == 404
    assert client.get("/api/logo/state").json() == {"kept": False}
    assert "your logo" in client.get("/api/projects/wren/report.html").text
    size = (40).to_bytes(4, "big") + (20).to_bytes(4, "big")
    picture = b"\x89PNG\r\n\x1a\n" + (13).to_bytes(4, "big") + b"IHDR" + size + bytes(20)

    def bring(data: bytes) -> tuple[int, str]:
        answer = client.post("/api/logo", files={"file": ("logo.png", data, "image/png")})
        return answer.status_code, answer.text

    assert bring(picture)[0] == 204
    assert client.get("/api/logo/state").json() == {"kept": True}
    found = client.get("/api/logo")
    assert (found.content, found.headers["content-type"]) == (picture, "image/png")
    page = client.get("/api/projects/wren/report.html", params={"shop": 'Sparrow "and" Sons'}).text
    assert "data:image/png;base64," in page
    assert 'alt="Sparrow &quot;and&quot; Sons"' in page
    for bad, says in (
        (b"<svg onload=alert(1)>", "PNG or a JPEG"),
        (picture + bytes(300_000), "at most 300 kB"),
        (picture[:20], "cut off"),
        (picture[:16] + (9000).to_bytes(4, "big") + picture[20:], "9000 by 20 pixels"),
    ):
        code, text = bring(bad)
        assert code == 422
        assert says in text
    assert client.get("/api/logo").content == picture  # what was refused took nothing's place
    assert client.delete("/api/logo").status_code == 204
    assert client.delete("/api/logo").status_code == 204
    assert "your logo" in client.get("/api/projects/wren/report.html").text
