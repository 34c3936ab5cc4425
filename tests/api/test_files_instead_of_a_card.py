"""What a sound card would hear, brought as files: the jig, the level test, any input."""

import io

import numpy as np
import pytest
import soxr
from starlette.testclient import TestClient

from imbrix.core.impedance.impedance import impedance
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.passive.network import Branch
from imbrix.formats.sweep_package import read_package
from imbrix.formats.text_curve import TextCurve, read_curve
from imbrix.formats.wav import read_wav, write_wav
from imbrix.standins.jig import Hung, JigModel, JigStream
from imbrix.standins.places import van
from tests.api.test_api import BASE, picture

IDEAL = JigModel(sense_ohm=10.0, lead_ohm=0.0, lead_henry=0.0, gains=(0.5, 0.5), slower_hz=1e9, input_ohm=1e9)


def bring(client: TestClient, address: str, wav: bytes, **fields: object) -> object:
    return client.post(address, data=fields, files={"file": ("r.wav", io.BytesIO(wav))})


def curve_of(client: TestClient, take: int) -> TextCurve:
    return read_curve(client.get(f"{BASE}/takes/{take}/impedance.txt").content)


def jigged(settings: SweepSettings, ohms: float | None, model: JigModel = IDEAL, early: int = 9000) -> np.ndarray:
    """Both voltages (n, 2) of a jig with the sub of the demo, or so many ohm, on its clips."""
    sound = np.concatenate((np.zeros(early), exponential_sweep(settings).samples, np.zeros(48_000)))
    what = (Hung(1, van.MOTORS[0].circuit, Branch(driver="sub")),) if ohms == -1 else ohms
    return JigStream(model, what, sound.size, settings.rate).process(sound)[:, :2]


@pytest.mark.parametrize("asked", [{"low_hz": 4, "length": 2**18}, {"low_hz": 10, "rate": 96_000}], ids=str)
@pytest.mark.parametrize("drift", [48_000, 44_100], ids=["same", "other-rate"])
def test_a_recording_of_a_jig_shows_the_drivers_parameters(client: TestClient, asked: dict, drift: int) -> None:
    settings = read_package(client.get(f"{BASE}/sweep.zip", params=asked).content)
    both = jigged(settings, -1)
    wav = write_wav(soxr.resample(both, settings.rate, drift), drift)
    answer = bring(client, f"{BASE}/impedance/upload", wav, channel="sub", sense_ohm=10)
    assert answer.status_code == 201, answer.text
    assert client.get(BASE).json()["impedance"]["sub"]["take_id"] == answer.json()["id"]
    found = curve_of(client, answer.json()["id"])
    inside = (found.frequencies > 12) & (found.frequencies < 18_000)
    truth = np.abs(impedance(van.MOTORS[0].circuit, found.frequencies[inside]))
    assert np.abs(found.levels[inside] / truth - 1).max() < 0.01


@pytest.mark.parametrize(
    ("ohms", "says"), [(None, "clips hold nothing"), (0.05, "clips touch")], ids=["nothing", "short"]
)
def test_a_recording_of_a_jig_that_holds_no_driver_is_refused(client: TestClient, ohms: float, says: str) -> None:
    before = client.get(BASE).json()["takes"]
    settings = SweepSettings()
    answer = bring(client, f"{BASE}/impedance/upload", write_wav(jigged(settings, ohms), 48_000), channel="sub")
    assert answer.status_code == 422
    assert says in answer.json()["detail"]
    mono = write_wav(jigged(settings, -1)[:, 0], 48_000)
    assert "two channels" in bring(client, f"{BASE}/impedance/upload", mono, channel="sub").json()["detail"]
    assert client.get(BASE).json()["takes"] == before


def test_a_jigs_recording_without_the_resistor_stated_takes_the_rigs(client: TestClient) -> None:
    client.patch("/api/rig", json={"jig": {**client.get(BASE).json()["rig"]["jig"], "sense_ohm": 20.0}})
    wav = write_wav(jigged(SweepSettings(), 8.0), 48_000)
    made = bring(client, f"{BASE}/impedance/upload", wav, channel="sub").json()["id"]
    found = curve_of(client, made)
    middle = (found.frequencies > 100) & (found.frequencies < 1000)
    assert found.levels[middle] == pytest.approx(np.full(middle.sum(), 16.0), rel=0.005)


@pytest.mark.parametrize("late", [-1.0, 0.0, 3.5], ids=["late", "at-once", "early"])
def test_the_level_test_is_read_from_a_recording(client: TestClient, late: float) -> None:
    """Played at a tenth of its level over white noise 60 dB under full scale; begun by hand."""
    played = read_wav(client.get("/api/rig/level.wav").content, 48_000)[:, 0]
    heard = 0.1 * np.concatenate((np.zeros(round(max(0, late) * 48_000)), played, np.zeros(20_000)))
    heard = heard[round(max(0, -late) * 48_000) :]
    heard += 1e-3 * np.random.default_rng(3).standard_normal(heard.size)
    answer = bring(client, "/api/rig/level", write_wav(heard, 48_000))
    assert answer.status_code == 200, answer.text
    level = answer.json()["level"]
    assert level["noise_dbfs"] == pytest.approx(-60, abs=0.2)
    assert level["peak_dbfs"] == pytest.approx(20 * np.log10(0.1 * np.abs(played).max()), abs=1)
    # Pink noise and white meet: the octaves fall by 3 dB each.
    over = level["over_noise_db"]
    assert over["125"] - over["1000"] == pytest.approx(9, abs=2)


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda played: np.random.default_rng(0).standard_normal(played.size) * 0.1, "does not hold the noise"),
        (lambda played: played[round(1.8 * 48_000) :], "too late"),
        (lambda played: played[: round(2.6 * 48_000)], "stopped too early"),
    ],
    ids=["other", "cut-before", "cut-after"],
)
def test_a_recording_that_holds_no_level_test_is_refused(client: TestClient, make: object, says: str) -> None:
    before = client.get(BASE).json()["rig"]["level"]
    played = read_wav(client.get("/api/rig/level.wav").content, 48_000)[:, 0]
    answer = bring(client, "/api/rig/level", write_wav(make(played), 48_000))
    assert answer.status_code == 422
    assert says in answer.json()["detail"]
    assert client.get(BASE).json()["rig"]["level"] == before


def test_any_input_is_read_from_a_recording(client: TestClient) -> None:
    """A full-scale sine's peak at half: rms 6.02 dB under a full-scale sine's, at the file's own rate."""
    time = np.arange(3 * 44_100) / 44_100
    two = np.stack((0.5 * np.sin(2 * np.pi * 440 * time), 0.25 * np.sin(2 * np.pi * 1000 * time)), axis=1)
    answer = bring(client, f"{BASE}/listen/upload", write_wav(two, 44_100), input=3)
    assert answer.status_code == 201, answer.text
    view = {"stage": "rig", "part": "input", "take": answer.json()["id"]}
    takes = [one for one in client.get(BASE).json()["takes"] if one["purpose"] == "raw"]
    assert [one["note"] for one in takes] == ["r.wav, channel 1", "r.wav, channel 2"]
    facts = picture(client, view)[0]["facts"]["raw"]
    assert facts["rate"] == 44_100
    assert facts["stretch"]["strongest_hz"] == pytest.approx(440, abs=0.1)
    assert facts["stretch"]["peak_dbfs"] == pytest.approx(-6.02, abs=0.01)
    assert facts["unit"] == "dBFS"
    refused = bring(client, f"{BASE}/listen/upload", write_wav(two, 44_100), input=77)
    assert refused.status_code == 409
