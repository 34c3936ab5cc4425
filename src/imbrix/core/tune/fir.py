"""Taps of an output's FIR filter: kept ones, and those of linear-phase crossovers.

A linear-phase crossover has the magnitude of the Linkwitz-Riley family, 1 / (1 + x^n) with x the frequency over the
corner and n the slope over 6 dB, and no phase but a delay. Low-pass and high-pass of one corner add up to one, so that
the taps of both, windowed alike, add up to a delayed pulse.
"""

import base64
import binascii
import hashlib
from functools import lru_cache
from typing import Annotated

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft
from pydantic import Field, field_validator

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import FloatArray, decibels
from imbrix.core.value import Value

MOST_TAPS = 65_536
LINEAR_SLOPES = (12, 24, 36, 48, 60, 72, 96, 120, 144, 192)
"""Slopes of linear phase in dB per octave: beyond 48 sections would ring and turn, these only ring."""
FEWEST_TAPS = 15
WINDOW_BETA = 5.0
"""Of the Kaiser window that ends the taps of a linear-phase crossover: side lobes some 50 dB down."""
OFF_DB = 0.5
"""A linear-phase crossover that is off by more than this where it passes has too few taps."""
_JUDGED_DB = -12.0


class Taps(Value):
    """FIR taps as a processor keeps them: float32, little-endian, in base64, for `rate` samples a second.

    `delay` is by how many samples the main pulse comes late; `says` is what the taps do. In the state of a project
    `data` is left empty: it comes as a file.
    """

    data: str = Field(max_length=4 * MOST_TAPS * 4 // 3 + 8)
    rate: Annotated[int, Field(ge=8_000, le=768_000)]
    delay: Annotated[int, Field(ge=0, lt=MOST_TAPS)] = 0
    says: str = Field(default="", max_length=120)

    @field_validator("data")
    @classmethod
    def _can_be_read(cls, data: str) -> str:
        try:
            raw = base64.b64decode(data, validate=True)
        except (binascii.Error, ValueError):
            raise InvalidError("taps are float32 numbers in base64") from None
        if len(raw) % 4 or not raw or len(raw) > 4 * MOST_TAPS:
            raise InvalidError(f"taps are 1 to {MOST_TAPS} float32 numbers in base64")
        values = np.frombuffer(raw, "<f4")
        if not np.isfinite(values).all() or np.abs(values).max() > 1e3:
            raise InvalidError("a tap is not a number that a processor could keep")
        return data

    @classmethod
    def of(cls, values: FloatArray, rate: int, delay: int, says: str = "") -> "Taps":
        """Taps of an array (t,)."""
        data = base64.b64encode(np.asarray(values, dtype="<f4").tobytes()).decode()
        return cls(data=data, rate=rate, delay=delay, says=says)

    @property
    def count(self) -> int:
        """How many there are."""
        return (3 * len(self.data) // 4 - self.data[-2:].count("=")) // 4

    @property
    def values(self) -> FloatArray:
        """The taps (t,), read-only."""
        return _decoded(self.data)

    @property
    def words(self) -> str:
        """How many they are, by how much they delay, and what tells them from others."""
        digest = hashlib.sha256(self.data.encode()).hexdigest()[:6]
        return f"{self.count} taps, {self.delay / self.rate * 1e3:.2f} ms, #{digest}"


@lru_cache(maxsize=256)
def _decoded(data: str) -> FloatArray:
    values = np.frombuffer(base64.b64decode(data), "<f4").astype(float)
    values.flags.writeable = False
    return values


def linear_magnitude(slope_db: int, corner_hz: float, high: bool, frequencies: FloatArray) -> FloatArray:
    """Magnitude (n,) of a linear-phase crossover at `frequencies` (n,) in hertz."""
    with np.errstate(divide="ignore"):
        octaves = np.log2(np.maximum(frequencies, 1e-9) / corner_hz)
    power = np.exp2(np.clip((slope_db / 6) * (-octaves if high else octaves), -200, 200))
    return np.asarray(1.0 / (1.0 + power))


@lru_cache(maxsize=256)
def linear_taps(high: tuple[int, float] | None, low: tuple[int, float] | None, count: int, rate: int) -> FloatArray:
    """Taps (count,) of a band between two ends, each a slope in dB per octave and a corner in hertz, at `rate`.

    `count` is odd; the delay is (count - 1) / 2 samples. The wanted magnitude is sampled finely, and its impulse ended
    by a Kaiser window (J. F. Kaiser 1974).
    """
    size = scipy.fft.next_fast_len(8 * count, real=True)
    f = scipy.fft.rfftfreq(size, 1 / rate)
    wanted = np.ones(f.size)
    for end, is_high in ((high, True), (low, False)):
        if end is not None:
            wanted *= linear_magnitude(end[0], end[1], is_high, f)
    half = (count - 1) // 2
    pulse = np.roll(scipy.fft.irfft(wanted, size), half)[:count] * np.kaiser(count, WINDOW_BETA)
    pulse.flags.writeable = False
    return pulse


@lru_cache(maxsize=512)
def off_db(slope_db: int, corner_hz: float, count: int, rate: int, high: bool = True) -> float:
    """By how many dB so many taps miss the magnitude of a linear-phase crossover at worst, where it passes."""
    f = np.geomspace(max(10.0, corner_hz / 16), min(corner_hz * 16, 0.45 * rate), 257)
    end = (slope_db, corner_hz)
    taps = linear_taps(end if high else None, None if high else end, count, rate)
    wanted = linear_magnitude(slope_db, corner_hz, high, f)
    made = np.abs(scipy.signal.freqz(taps, worN=f, fs=rate)[1])
    judged = decibels(wanted) > _JUDGED_DB
    return float(np.abs(decibels(made) - decibels(wanted))[judged].max())


def needed_taps(slope_db: int, corner_hz: float, rate: int) -> int:
    """About how many taps a linear-phase crossover needs to be off by half a decibel at most where it passes. Odd.

    They are as many periods of the corner, whatever that is: a kernel is stretched with it.
    """
    return int(np.ceil(_periods(slope_db) * rate / corner_hz)) // 2 * 2 + 1


@lru_cache(maxsize=32)
def _periods(slope_db: int) -> float:
    """How many periods of its corner the taps of a slope have to last."""
    corner, rate, count = 1000.0, 48_000, FEWEST_TAPS
    while max(off_db(slope_db, corner, count, rate, high) for high in (True, False)) > OFF_DB:
        count = int(count * 1.0625 + 1) // 2 * 2 + 1
    return count * corner / rate
