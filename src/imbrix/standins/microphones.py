"""Simulated microphones: what each adds to the sound, and the sheet that comes with the measuring one."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray

Pointing = Literal["source", "ceiling"]
FULL_SCALE_DB_SPL = 112.0
"""The sound level at 1 kHz that reaches 0 dBFS at an input gain of 0 dB, for every microphone here."""


@dataclass(frozen=True)
class MicrophoneModel:
    """First-order roll-offs and bells (hertz, dB, Q), the bells by the direction that it points to."""

    name: str
    high_pass_hz: float
    low_pass_hz: float | None
    at_source: tuple[tuple[float, float, float], ...]
    at_ceiling: tuple[tuple[float, float, float], ...]

    def sections(self, pointing: Pointing, rate: int) -> np.ndarray:
        """Second-order sections (s, 6) of all it adds."""
        stages = [scipy.signal.butter(1, self.high_pass_hz, "highpass", fs=rate, output="sos")]
        if self.low_pass_hz is not None and self.low_pass_hz < 0.45 * rate:
            stages.append(scipy.signal.butter(1, self.low_pass_hz, fs=rate, output="sos"))
        for hertz, level_db, q in self.at_source if pointing == "source" else self.at_ceiling:
            w = 2 * np.pi * hertz / rate
            part, height = np.sin(w) / (2 * q), 10 ** (level_db / 40)
            stages.append(
                scipy.signal.tf2sos(
                    [1 + part * height, -2 * np.cos(w), 1 - part * height],
                    [1 + part / height, -2 * np.cos(w), 1 - part / height],
                )
            )
        return np.concatenate(stages)

    def sheet(self, pointing: Pointing) -> str:
        """The correction file as its maker would send it: a heading, the sensitivity, hertz, dB and degrees."""
        hertz = 1000 * 2.0 ** (np.arange(-6 * 12, 4.5 * 12) / 12)
        # At the rate at which it sounds: what the sheet says is what the stand-in adds.
        response = scipy.signal.sosfreqz(self.sections(pointing, 48_000), worN=hertz, fs=48_000)[1]
        middle = np.abs(response[int(np.argmin(np.abs(hertz - 1000)))])
        lines = [
            f"# {self.name}, pointing at the {pointing}",
            f"# Sensitivity: {93.9794 - FULL_SCALE_DB_SPL:.2f} dBFS/Pa",
            "# Hz\tdB\tdegrees",
        ]
        for at, value in zip(hertz, response / middle, strict=True):
            level, phase = 20 * np.log10(np.abs(value)), np.degrees(np.angle(value))
            lines.append(f"{at:.5g}\t{level:.4f}\t{phase:.3f}")
        return "\n".join(lines) + "\n"


MEASURING = MicrophoneModel(
    "Measuring microphone of the stand-in",
    7.0,
    None,
    at_source=((13_500.0, 3.6, 0.9), (5200.0, 0.8, 1.2)),
    at_ceiling=((12_500.0, -2.4, 0.8), (6000.0, 0.7, 1.4)),
)
PLAIN = MicrophoneModel(
    "Plain microphone of the stand-in",
    55.0,
    15_500.0,
    at_source=((7400.0, 6.0, 1.1), (2600.0, 1.5, 1.0)),
    at_ceiling=((7400.0, 4.0, 1.1), (2600.0, 1.5, 1.0)),
)


def level_meter_db_c(pascals: FloatArray, rate: int) -> float:
    """What a level meter (C-weighted, slow) on the seat shows for a stretch of sound (n,)."""
    spectrum = np.abs(np.fft.rfft(pascals)) ** 2
    hertz = np.fft.rfftfreq(pascals.size, 1 / rate)
    square = hertz**2
    weight = 1.0072 * 12_194.217**2 * square / ((square + 20.598997**2) * (square + 12_194.217**2))
    mean = 2 * float(np.sum(spectrum * weight**2)) / pascals.size**2
    return 10 * np.log10(mean / (20e-6) ** 2 + 1e-30)
