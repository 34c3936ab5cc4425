"""Recordings of sweeps that were played elsewhere: which sweep they hold is described, or recognised, or refused."""

import io
import zipfile

import numpy as np
import pytest
import scipy.signal
import soxr
from starlette.testclient import TestClient

from imbrix.core.measure.recognise import compactness, recognised
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.system.layouts import READY, make
from imbrix.formats.sweep_package import read_package, write_package
from imbrix.formats.wav import read_wav, write_wav
from imbrix.standins.places import drawn
from tests.api.test_api import BASE, picture

ASKED = [
    {"level_db": -12},
    {"rate": 96_000, "high_hz": 40_000, "length": 2**18},
    {"rate": 44_100, "high_hz": 21_000},
    {"low_hz": 20, "high_hz": 20_000, "length": 2**16},
]


def package(client: TestClient, asked: dict) -> bytes:
    answer = client.get(f"{BASE}/sweep.zip", params=asked)
    assert answer.status_code == 200, answer.text
    return answer.content


def recorded(data: bytes, rate: int, loopback: bool) -> bytes:
    """A package's sweep, played half as loud, 40 ms late, and recorded at a rate of the recorder's own."""
    with zipfile.ZipFile(io.BytesIO(data)) as files:
        samples = read_wav(files.read("sweep.wav"), rate)[:, 0]
    played = np.concatenate((np.zeros(rate // 5), samples, np.zeros(2 * rate)))
    heard = 0.5 * np.roll(played, rate // 25) + 1e-5 * np.random.default_rng(2).standard_normal(played.size)
    return write_wav(np.stack((heard, played), axis=1) if loopback else heard, rate)


def bring(client: TestClient, wav: bytes, sweep: bytes | None = None) -> dict:
    files = {"file": ("r.wav", io.BytesIO(wav))} | ({"sweep": ("sweep", io.BytesIO(sweep))} if sweep else {})
    return client.post(f"{BASE}/takes/upload", data={"channel": "mid-l", "kind": "recording"}, files=files)


def read_level(client: TestClient) -> np.ndarray:
    """Levels from 100 Hz to 10 kHz, in dB, over the half that was played."""
    curve = picture(client, {"stage": "drivers", "smoothing": 12})[1]["bare-mid-l"]
    return curve[225:865] - client.get(BASE).json()["offset_db"] + 20 * np.log10(2)


@pytest.mark.parametrize("loopback", [True, False], ids=["loopback", "no-loopback"])
@pytest.mark.parametrize("asked", ASKED, ids=str)
def test_a_sweep_given_out_is_recognised(client: TestClient, asked: dict, loopback: bool) -> None:
    package(client, {"length": 2**17})
    wav = recorded(package(client, asked), 48_000, loopback)
    client.patch("/api/rig", json={"rate": 96_000})
    answer = bring(client, wav)
    assert answer.status_code == 201, answer.text
    assert np.abs(read_level(client)).max() < 0.1


@pytest.mark.parametrize("asked", ASKED, ids=str)
def test_a_sweep_of_which_only_the_description_is_known(client: TestClient, asked: dict) -> None:
    own = write_package(SweepSettings(**{"low_hz": 11, "length": 2**15, **asked}))
    wav = recorded(own, 48_000, False)
    refused = bring(client, wav)
    assert refused.status_code == 422
    assert "none of the sweeps" in refused.json()["detail"]
    with zipfile.ZipFile(io.BytesIO(own)) as files:
        description = files.read("sweep.json")
    for sweep in (own, description):
        answer = bring(client, wav, sweep)
        assert answer.status_code == 201, answer.text
        assert np.abs(read_level(client)).max() < 0.1


def test_with_a_loopback_any_sweep_will_do(client: TestClient) -> None:
    """Of a sweep that nobody knows here, recorded at 44.1 kHz while the rig runs at 48."""
    own = write_package(SweepSettings(low_hz=13, high_hz=21_500, length=2**15, level_db=-9))
    answer = bring(client, recorded(own, 44_100, True))
    assert answer.status_code == 201, answer.text
    assert np.abs(read_level(client)).max() < 0.1


def test_the_recording_of_another_sweep_than_described_is_refused(client: TestClient) -> None:
    before = client.get(BASE).json()["takes"]
    wav = recorded(write_package(SweepSettings()), 48_000, False)
    answer = bring(client, wav, write_package(SweepSettings(rate=96_000)))
    assert answer.status_code == 422
    assert "at 96000 samples a second" in answer.json()["detail"]
    assert client.get(BASE).json()["takes"] == before


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"PK\x03\x04 cut off", "damaged"),
        (b'{"low_hz": 10}', "high_hz"),
        (write_package(SweepSettings()).replace(b"sweep.json", b"other.json"), "no sweep.json"),
        (
            b'{"low_hz": 900, "high_hz": 90, "length": 65536, "level_db": -24, "tail_s": 1, "rate": 48000}',
            "900 to 90 Hz",
        ),
        (
            b'{"low_hz": 10, "high_hz": 90,\n "length": 1e12, "level_db": -24, "tail_s": 1, "rate": 48000}',
            "line 2: length",
        ),
    ],
    ids=["cut", "missing", "other", "turned", "endless"],
)
def test_a_description_that_is_none_gets_a_sentence(client: TestClient, data: bytes, says: str) -> None:
    answer = bring(client, recorded(write_package(SweepSettings()), 48_000, False), data)
    assert answer.status_code == 422
    assert says in answer.json()["detail"]


def test_a_package_reads_back_as_its_sweep() -> None:
    settings = SweepSettings(12.5, 30_000, 2**15, -18.5, 0.25, 88_200)
    assert read_package(write_package(settings)) == settings


def test_the_package_is_of_the_rigs_own_sweep_at_any_rate(client: TestClient) -> None:
    client.patch("/api/rig", json={"rate": 44_100, "sweep": {"low_hz": 15}})
    found = read_package(package(client, {}))
    assert (found.rate, found.low_hz) == (44_100, 15)
    assert found.high_hz <= 22_050


@pytest.mark.parametrize("number", [0, 1, 3, 5], ids=["sub", "midbass", "mid", "tweeter"])
@pytest.mark.parametrize("seed", [11, 12, 13])
def test_in_drawn_places_sweeps_are_told_apart(seed: int, number: int) -> None:
    """15 dB over noise, the true sweep among others that share its length, its rate or its band."""
    layout = make(next(one for one in READY if one.key == "front-3-sub").ways)
    place = drawn.place(seed, {one.output: one for one in layout.drivers}, "left")
    true = SweepSettings()
    heard = scipy.signal.fftconvolve(exponential_sweep(true).samples, place.cabin.impulse(number))
    if number == 0:
        heard = scipy.signal.sosfilt(scipy.signal.butter(4, 100, fs=true.rate, output="sos"), heard)
    heard += np.std(heard) * 10 ** (-15 / 20) * np.random.default_rng(seed).standard_normal(heard.size)
    others = [
        SweepSettings(length=2**16),
        SweepSettings(length=2**18),
        SweepSettings(rate=96_000),
        SweepSettings(low_hz=20),
    ]

    def at(rate: int) -> np.ndarray:
        return heard if rate == true.rate else soxr.resample(heard, true.rate, rate)

    assert recognised(at, [*others, true]) == true
    assert recognised(at, others[:3]) is None
    together, _ = compactness(heard, true)
    assert together > 0.8
