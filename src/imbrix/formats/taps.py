"""FIR taps as files: WAV and raw floats for programs, CSV and text for people, gain and delay stated."""

from typing import Literal

import numpy as np

from imbrix.core.signal.signal import FloatArray
from imbrix.formats.wav import write_wav

TapsKind = Literal["wav", "csv", "txt", "f32"]
"""Float WAV; a tap a line with its number; a tap a line; raw float32, little-endian."""


def write_taps(kind: TapsKind, taps: FloatArray, rate: int, delay: int, factor: float, late: int, name: str) -> bytes:
    """Taps (t,) as a file.

    `delay` is that of their main pulse in samples; `factor` and `late` are gain with polarity and delay in samples of
    the channel, which are not in them.
    """
    if kind == "wav":
        return write_wav(taps, rate, "FLOAT")
    if kind == "f32":
        return np.asarray(taps, dtype="<f4").tobytes()
    if kind == "csv":
        rows = [f"{n},{value:.9g}" for n, value in enumerate(taps)]
        return ("\n".join(["tap,value", *rows]) + "\n").encode()
    head = [
        f"# {name}: {taps.size} FIR taps for {rate} samples a second",
        f"# Their main pulse is {delay} samples late ({delay / rate * 1e3:.3f} ms).",
        f"# Not in them: factor {factor:.9g} (gain and polarity), delay {late} samples, second-order sections.",
    ]
    return ("\n".join([*head, *(f"{value:.9g}" for value in taps)]) + "\n").encode()
