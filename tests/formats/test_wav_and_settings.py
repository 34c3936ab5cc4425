"""WAV in and out, and settings files that another tool can rely on."""

import csv
import io
import json

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import sosfilt

from imbrix.core.errors import BadFileError
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.apply import apply
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.tune import Tune, neutral
from imbrix.formats.coefficients import sections_json
from imbrix.formats.settings import settings_csv, settings_json
from imbrix.formats.wav import read_wav, write_wav
from imbrix.standins.places.van import layout

LAYOUT = layout()


def sine(hertz: float, rate: int, seconds: float = 0.5) -> np.ndarray:
    return 0.5 * np.sin(2 * np.pi * hertz * np.arange(round(seconds * rate)) / rate)


@pytest.mark.parametrize("count", [1, 2])
def test_less_than_a_sample_at_the_rate_wanted_is_refused(count: int) -> None:
    with pytest.raises(BadFileError, match="less than a sample at 48000 Hz"):
        read_wav(write_wav(np.full(count, 0.5), 384_000), 48_000)


def test_24_bit_round_trip() -> None:
    samples = sine(1000, 48_000)
    assert read_wav(write_wav(samples, 48_000), 48_000)[:, 0] == pytest.approx(samples, abs=2**-23)


@pytest.mark.parametrize("rate", [44_100, 96_000, 192_000])
def test_other_rates_are_converted(rate: int) -> None:
    found = read_wav(write_wav(sine(1000, rate), rate), 48_000)[:, 0]
    assert found.size == pytest.approx(24_000, abs=2)
    middle = slice(2000, 22_000)
    assert found[middle] == pytest.approx(sine(1000, 48_000)[middle], abs=1e-4)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "not a WAV file"),
        (b"hello, this is no sound at all, but a letter to somebody", "not a WAV file"),
        (b"RIFF\x00\x00\x00\x00WAVE" + b"\x00" * 60, "cannot be read|holds no samples"),
        (write_wav(np.zeros(0), 48_000), "holds no samples"),
        (write_wav(np.zeros((100, 12)), 48_000), "12 channels"),
        (write_wav(np.zeros(100), 4000), "sample rate of 4000"),
        (write_wav(np.zeros(125 * 8000), 8000), "lasts 125 s"),
        (write_wav(np.array([0.0, np.nan, 0.0]), 48_000, "FLOAT"), "sample 2 is not a number"),
    ],
    ids=lambda value: "file" if isinstance(value, bytes) else value,
)
def test_what_is_no_recording_is_refused(data: bytes, says: str) -> None:
    with pytest.raises(BadFileError, match=says):
        read_wav(data, 48_000)


def test_200_mb_are_refused() -> None:
    with pytest.raises(BadFileError, match="200 MB"):
        read_wav(b"RIFF" + bytes(200_000_000), 48_000)


@given(st.binary(max_size=300))
def test_a_damaged_file_gives_samples_or_a_sentence(tail: bytes) -> None:
    whole = write_wav(sine(100, 8000, 0.05), 8000)
    try:
        read_wav(whole[: 44 + len(tail) // 2] + tail, 8000)
    except BadFileError as error:
        assert str(error)


def tuned() -> Tune:
    edits = EDITS.validate_python(
        [
            {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3100},
            {"do": "crossover", "channel": "midbass-l", "end": "high_pass", "corner_hz": 70, "shape": "bessel"},
            {"do": "channel", "channel": "mid-r", "gain_db": -6.5, "delay_s": 0.00125, "inverted": True},
            {"do": "bands", "channel": "mid-r", "bands": [{"frequency_hz": 800, "gain_db": -4, "q": 3}]},
            {"do": "bands", "channel": None, "bands": [{"kind": "high_shelf", "frequency_hz": 6000, "gain_db": -2}]},
            {"do": "solo", "channel": "mid-r"},
        ]
    )
    return apply(neutral(LAYOUT), edits, LAYOUT)


def test_exported_sections_through_sosfilt_give_the_drawn_curve() -> None:
    tune = tuned()
    document = json.loads(sections_json(tune, LAYOUT, 2, 48_000, "t"))
    assert "subtracts" in document["convention"]
    grid = log_grid()
    for driver, row in zip(LAYOUT.drivers, document["channels"], strict=True):
        impulse = np.zeros(2**17)
        impulse[row["delay_samples"]] = row["factor"]
        samples = sosfilt(np.array(row["sections"]), impulse) if row["sections"] else impulse
        hertz = np.fft.rfftfreq(impulse.size, 1 / 48_000)
        inside = (hertz >= grid[0]) & (hertz <= grid[-1])
        drawn = Predictor(hertz[inside], 48_000).channel(tune.channels[driver.id], tune.common)
        found = np.fft.rfft(samples)[inside]
        audible = np.abs(drawn) > 1e-4
        assert np.abs(20 * np.log10(np.abs(found[audible] / drawn[audible]))).max() < 1e-6


def test_settings_as_json_and_csv_say_the_same() -> None:
    tune = tuned()
    channels = {one["name"]: one for one in json.loads(settings_json(tune, LAYOUT, 2, "t"))["channels"]}
    assert channels["Mid R"]["delay_ms"] == 1.25
    assert channels["Mid R"]["polarity"] == "inverted"
    assert channels["Sub"]["muted"] is True
    assert len(channels["Mid R"]["bands"]) == 2
    rows = list(csv.DictReader(io.StringIO(settings_csv(tune, LAYOUT, 2))))
    mine = {row["setting"]: row["value"] for row in rows if row["channel"] == "Mid R"}
    assert mine["gain dB"] == "-6.5"
    assert mine["delay ms"] == "1.2500"
    assert mine["muted"] == "no"
    assert mine["band 1"] == "peaking 800 Hz, -4.0 dB, Q 3.00"
    assert mine["low-pass"] == "Linkwitz–Riley 24 dB at 3100 Hz"


def test_a_wav_of_two_channels_keeps_them_apart() -> None:
    both = np.stack((sine(100, 48_000), sine(200, 48_000)), axis=1)
    data = write_wav(both, 48_000)
    assert soundfile.info(io.BytesIO(data)).channels == 2
    assert read_wav(data, 48_000)[:, 1] == pytest.approx(both[:, 1], abs=2**-23)


@pytest.mark.parametrize("size", [b"\x00\x00\x00\x00", b"\xff\xff\xff\xff"])
def test_what_a_recorder_left_open_is_read_to_its_end(size: bytes) -> None:
    samples = np.random.default_rng(2).uniform(-0.5, 0.5, 4800)
    data = bytearray(write_wav(samples, 48_000, "PCM_16"))
    at = data.index(b"data")
    data[4:8] = size
    data[at + 4 : at + 8] = size
    assert read_wav(bytes(data), 48_000)[:, 0] == pytest.approx(samples, abs=1 / 32768)
    # One that holds nothing but what stands after the samples is not read as samples.
    data[at + 4 : at + 8] = bytes(4)
    with pytest.raises(ValueError, match="no samples"):
        read_wav(bytes(data[: at + 8]) + b"LIST\x04\x00\x00\x00abcd", 48_000)


def test_what_no_converter_gives_is_refused_in_words() -> None:
    with pytest.raises(ValueError, match=r"1e\+30 times full scale"):
        read_wav(write_wav(np.array([0.0, 1e30, 0.0] * 20), 48_000, "DOUBLE"), 48_000)
    broken = bytearray(write_wav(np.zeros(480), 48_000, "PCM_16"))
    broken[20:22] = b"\x77\x77"
    with pytest.raises(ValueError, match="cannot be read") as refused:
        read_wav(bytes(broken), 48_000)
    assert "BytesIO" not in str(refused.value)
