"""The report for the customer: true to the takes, in plain words, and nothing that was typed becomes markup."""

import re
from html import unescape
from io import BytesIO

import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader
from starlette.testclient import TestClient

from imbrix.formats.report import Line, plot
from tests.helpers.server import BASE


def text_of(client: TestClient, **asked: str) -> str:
    answer = client.get(f"{BASE}/report.html", params=asked)
    assert answer.status_code == 200
    assert answer.headers["content-type"].startswith("text/html")
    return answer.text


@pytest.mark.walk
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


def pages_of(client: TestClient, **asked: str) -> PdfReader:
    """The report as a PDF, read by a reader that did not write it."""
    answer = client.get(f"{BASE}/report.pdf", params=asked)
    assert answer.status_code == 200
    assert answer.headers["content-type"] == "application/pdf"
    return PdfReader(BytesIO(answer.content))


def words(text: str) -> str:
    """Text without the places where its lines break."""
    return re.sub(r"\s+", " ", text)


@pytest.mark.walk
def test_the_pdf_says_what_the_page_says(client: TestClient) -> None:
    client.post(f"{BASE}/proposals/first", json={})
    client.post(f"{BASE}/processor/send")
    client.post(f"{BASE}/processor/store", json={"slot": 1, "name": "Daily"})
    client.post(f"{BASE}/notes", json={"text": "Άνοιξη, весна: rattles at 80 Hz"})
    found = pages_of(client, shop="Larch & Sons", customer="Żaneta Ågren")
    told = words(" ".join(page.extract_text() for page in found.pages))
    page = text_of(client, shop="Larch & Sons", customer="Żaneta Ågren")
    said = re.findall(r"<(?:p|li|h2|td|th)[^>]*>([^<]+)</", page)
    assert len(said) > 30
    for one in said:
        assert words(unescape(one)) in told, one
    assert "Larch & Sons" in told
    assert "for Żaneta Ågren" in told
    assert 1 <= len(found.pages) <= 3
    assert f"1 / {len(found.pages)}" in told
    for number in (20, 50, 100, 200, 500, "1k", "2k", "5k", "10k", "20k"):
        assert str(number) in told
    assert found.metadata["/Title"] == "Wren book van"


def test_the_pdf_takes_a_logo_and_whatever_people_type(client: TestClient) -> None:
    assert len(pages_of(client).pages[0].images) == 0
    picture = BytesIO()
    Image.new("RGB", (300, 120), "#336699").save(picture, "PNG")
    client.post("/api/logo", files={"file": ("logo.png", picture.getvalue(), "image/png")})
    first = pages_of(client, shop="a" * 80, customer="漢字 \U0001f600 <b>" + "w" * 60).pages[0]
    assert len(first.images) == 1
    assert "<b>" in first.extract_text()
    # What only begins like a picture leaves the rest as it is.
    client.post("/api/logo", files={"file": ("logo.jpg", b"\xff\xd8\xff" + bytes(50), "image/jpeg")})
    broken = pages_of(client).pages[0]
    assert len(broken.images) == 0
    assert "Wren book van" in broken.extract_text()
