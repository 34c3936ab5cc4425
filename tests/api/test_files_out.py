"""Everything that leaves as a file: its media type, its name, and what is in it."""

import csv
import io
import json
import shutil
import subprocess
import zipfile

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.signal import decibels
from imbrix.formats.text_curve import read_curve
from imbrix.formats.wav import read_wav

BASE = "/api/projects/wren"


def file(client: TestClient, path: str, media: str, **wanted: object) -> bytes:
    answer = client.get(path, params=wanted)
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"].split(";")[0] == media
    assert answer.headers["content-disposition"].startswith("attachment; filename=")
    return answer.content


def take_of(client: TestClient, channel: str) -> int:
    return client.get(BASE).json()["drivers"][channel]["take_id"]


def test_settings_name_every_channel_and_every_setting(client: TestClient) -> None:
    edits = [
        {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3150},
        {"do": "band", "channel": None, "index": 0, "band": {"frequency_hz": 80, "gain_db": 2, "q": 1}},
    ]
    client.post(f"{BASE}/edits", json={"edits": edits})
    rows = list(csv.DictReader(io.StringIO(file(client, f"{BASE}/export/settings.csv", "text/csv").decode())))
    by_name = {(row["channel"], row["setting"]): row["value"] for row in rows}
    assert "3150" in by_name["Tweeter L", "high-pass"]
    assert "3150" in by_name["Mid R", "low-pass"]  # tied across the seam and the sides
    assert by_name["Sub", "band 1"].startswith("peaking 80 Hz")
    assert len({row["output"] for row in rows}) == 7
    whole = json.loads(file(client, f"{BASE}/export/settings.json", "application/json"))
    assert "Tweeter L" in json.dumps(whole)
    sections = json.loads(file(client, f"{BASE}/export/sections.json", "application/json"))
    assert "sign" in json.dumps(sections)
    assert "48000" in json.dumps(sections)


def test_a_response_and_an_impulse_of_one_take_say_the_same(client: TestClient) -> None:
    take = take_of(client, "mid-l")
    text = read_curve(file(client, f"{BASE}/takes/{take}/response.txt", "text/plain"))
    samples = read_wav(file(client, f"{BASE}/takes/{take}/impulse.wav", "audio/wav"), 48_000)[:, 0]
    spectrum = decibels(np.fft.rfft(samples, 2**17))
    hertz = np.fft.rfftfreq(2**17, 1 / 48_000)
    inside = (text.frequencies > 500) & (text.frequencies < 5000)
    apart = np.interp(text.frequencies[inside], hertz, spectrum) - text.levels[inside]
    assert np.std(apart) < 1.5  # the file is unsmoothed and ungated; the text is gated
    assert client.get(f"{BASE}/takes/{take}/impedance.txt").status_code == 404
    assert client.get(f"{BASE}/takes/{take}/input.wav").status_code == 404


def test_the_sweep_is_what_its_description_says(client: TestClient) -> None:
    data = file(client, f"{BASE}/sweep.zip", "application/zip", length=2**15, level_db=-12, low_hz=30, high_hz=15_000)
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        told = json.loads(package.read("sweep.json"))
        samples = read_wav(package.read("sweep.wav"), told["rate"])[:, 0]
    keys = ("low_hz", "high_hz", "length", "level_db", "tail_s", "rate")
    expected = exponential_sweep(SweepSettings(**{key: told[key] for key in keys})).samples
    assert samples == pytest.approx(expected, abs=2e-6)
    assert (told["low_hz"], told["high_hz"], told["level_db"]) == (30, 15_000, -12)


def test_what_a_take_plays_is_at_the_rate_and_level_of_the_rig(client: TestClient) -> None:
    samples = read_wav(file(client, f"{BASE}/stimulus.wav", "audio/wav"), 48_000)[:, 0]
    assert decibels(np.array(np.abs(samples).max())) == pytest.approx(-24.0, abs=0.05)
    client.patch("/api/rig", json={"sweep": {**client.get("/api/rig").json()["sweep"], "level_db": -30}})
    softer = read_wav(file(client, f"{BASE}/stimulus.wav", "audio/wav"), 48_000)[:, 0]
    assert decibels(np.array(np.abs(softer).max())) == pytest.approx(-30.0, abs=0.05)


@pytest.mark.parametrize("kind", ["pink", "white", "multitone", "sine", "pulses", "centre", "sweep", "linear-sweep"])
@pytest.mark.parametrize(("rate", "bits"), [(44_100, 16), (96_000, 24), (48_000, 32)])
def test_every_test_signal_is_a_wav_of_the_rate_asked_for(client: TestClient, kind: str, rate: int, bits: int) -> None:
    import soundfile

    data = file(client, "/api/signal.wav", "audio/wav", kind=kind, rate=rate, bits=bits, seconds=1.0)
    with soundfile.SoundFile(io.BytesIO(data)) as sound:
        assert (sound.samplerate, sound.channels) == (rate, 2)
        assert sound.subtype == {16: "PCM_16", 24: "PCM_24", 32: "FLOAT"}[bits]
        samples = sound.read()
    assert np.isfinite(samples).all()
    assert 10 ** (-40 / 20) < np.abs(samples).max() < 10 ** (-8 / 20)


def test_a_microphone_correction_goes_out_as_it_came(client: TestClient) -> None:
    (first, *_) = client.get("/api/rig").json()["correction_list"]
    text = read_curve(file(client, f"/api/rig/corrections/{first['id']}.txt", "text/plain"), least_rows=2)
    again = client.post(
        "/api/rig/corrections",
        data={"pointing": "source"},
        files={"file": ("again.txt", client.get(f"/api/rig/corrections/{first['id']}.txt").content)},
    ).json()["correction_list"][-1]
    back = read_curve(client.get(f"/api/rig/corrections/{again['id']}.txt").content, least_rows=2)
    assert back.levels == pytest.approx(text.levels, abs=1e-3)
    assert again["name"] == "again"


@pytest.mark.parametrize(
    ("path", "status"),
    [
        ("export/secrets.txt", 422),
        ("takes/999/response.txt", 404),
        ("takes/999/impulse.wav", 404),
        ("takes/x/impulse.wav", 422),
        ("sweep.zip?length=5", 422),
        ("sweep.zip?low_hz=nan", 422),
    ],
)
def test_what_is_no_file_is_a_problem(client: TestClient, path: str, status: int) -> None:
    answer = client.get(f"{BASE}/{path}")
    assert answer.status_code == status
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json()["detail"]


@pytest.mark.parametrize("sign", ["subtract", "add"])
@pytest.mark.parametrize("a0", [False, True])
@pytest.mark.parametrize("fixed", ["", "1.30"])
def test_coefficients_say_how_they_are_to_be_read(client: TestClient, sign: str, a0: bool, fixed: str) -> None:
    """Every kind of file holds the same numbers, and read as it says they are the tune's sections."""
    edits = [
        {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 320},
        {"do": "band", "channel": "mid-l", "index": 0, "band": {"frequency_hz": 800, "gain_db": -4, "q": 2}},
    ]
    client.post(f"{BASE}/edits", json={"edits": edits})
    asked = {"sign": sign, "a0": a0, "fixed": fixed}
    whole = json.loads(file(client, f"{BASE}/coefficients.json", "application/json", **asked))
    mid = next(one for one in whole["channels"] if one["name"] == "Mid L")
    exact = json.loads(file(client, f"{BASE}/export/sections.json", "application/json"))
    plain = np.array(next(one for one in exact["channels"] if one["name"] == "Mid L")["sections"])
    assert whole["columns"] == ["b0", "b1", "b2", *(["a0"] if a0 else []), "a1", "a2"]
    rows = np.array(mid["sections"], dtype=float)
    if fixed:
        rows *= 2.0**-30
        rows[:, :3] *= 2.0 ** np.array(mid["shifts"])[:, None]
        assert "two's complement" in " ".join(whole["notes"])
    if sign == "add":
        rows[:, -2:] *= -1
    if not a0:
        rows = np.insert(rows, 3, 1.0, axis=1)
    assert rows == pytest.approx(plain, abs=1e-8)
    table = list(csv.DictReader(io.StringIO(file(client, f"{BASE}/coefficients.csv", "text/csv", **asked).decode())))
    first = next(row for row in table if row["name"] == "Mid L")
    assert [float(first[name]) for name in whole["columns"]] == pytest.approx(mid["sections"][0])
    text = file(client, f"{BASE}/coefficients.txt", "text/plain", **asked).decode()
    header = file(client, f"{BASE}/coefficients.h", "text/x-c", **asked).decode()
    for found in (text, header):
        assert f"x[n-2] {'-' if sign == 'subtract' else '+'} a1 y[n-1]" in found
        assert first["b0"] in found
    assert ("int32_t output_" in header) == bool(fixed)


def test_coefficients_tell_what_an_output_hears_and_whether_it_sounds(client: TestClient) -> None:
    edits = [{"do": "channel", "channel": "sub", "gain_db": -3, "muted": True}]
    client.post(f"{BASE}/edits", json={"edits": edits})
    table = list(csv.DictReader(io.StringIO(file(client, f"{BASE}/coefficients.csv", "text/csv").decode())))
    assert {row["number"] for row in table if row["of"] == "output"} == {str(n) for n in range(1, 8)}
    (sub,) = (row for row in table if row["name"] == "Sub")  # without filters it is there all the same
    assert (sub["muted"], sub["section"], float(sub["factor"])) == ("yes", "", pytest.approx(10 ** (-3 / 20)))
    whole = json.loads(file(client, f"{BASE}/coefficients.json", "application/json"))
    told = next(one for one in whole["channels"] if one["name"] == "Sub")
    assert told["muted"]
    assert [float(one) for one in sub["hears"].split()] == pytest.approx(told["hears"], abs=1e-8)
    for kind, media in (("txt", "text/plain"), ("h", "text/x-c")):
        text = file(client, f"{BASE}/coefficients.{kind}", media).decode()
        assert text.count("muted") == 1
        assert f"hears {sub['hears']}" in text


def test_a_header_for_c_compiles(client: TestClient, tmp_path) -> None:
    compiler = shutil.which("cc") or shutil.which("gcc")
    if compiler is None:
        pytest.skip("there is no C compiler on this machine")
    for fixed in ("", "1.30"):
        header = file(client, f"{BASE}/coefficients.h", "text/x-c", fixed=fixed)
        (tmp_path / "sections.h").write_bytes(header)
        (tmp_path / "main.c").write_text('#include "sections.h"\nint main(void) { return OUTPUT_1_SECTIONS > 99; }\n')
        done = subprocess.run([compiler, "-std=c99", "-o", tmp_path / "main", tmp_path / "main.c"], capture_output=True)
        assert done.returncode == 0, done.stderr


def test_what_a_format_cannot_hold_is_refused_and_named(client: TestClient) -> None:
    edits = [{"do": "crossover", "channel": "sub", "end": "high_pass", "corner_hz": 20, "slope_db": 24}]
    assert client.post(f"{BASE}/edits", json={"edits": edits}).status_code == 200
    effects = client.get(f"{BASE}/coefficients/effect", params={"fixed": "1.10"}).json()
    sub = next(one for one in effects if one["channel"] == "sub")
    assert "stable" in sub["refused"]
    answer = client.get(f"{BASE}/coefficients.h", params={"fixed": "1.10"})
    assert answer.status_code == 422
    assert answer.json()["detail"].startswith("Sub: section")
    fine = client.get(f"{BASE}/coefficients/effect", params={"fixed": "1.30"}).json()
    assert max(one["worst_db"] for one in fine) < 0.1
    assert not any(one["refused"] for one in fine)
    assert client.get(f"{BASE}/coefficients/effect", params={"fixed": "99.99"}).status_code == 422
