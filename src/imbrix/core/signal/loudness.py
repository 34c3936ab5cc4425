"""Loudness of pink noise through a response, by the K-weighting of ITU-R BS.1770.

The weighting is a shelf for the head and a high-pass after the revised low-frequency curve. The recommendation gives
both as sections at 48 kHz; at other rates they are built from the analogue filters behind these (as in B. De Man,
"Evaluation of Implementations of the EBU R128 Loudness Measurement", AES 145, 2018).
"""

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray

SHELF_HZ, SHELF_Q, SHELF_DB = 1681.974450955533, 0.7071752369554196, 3.999843853973347
HIGH_PASS_HZ, HIGH_PASS_Q = 38.13547087602444, 0.5003270373238773


def k_weighting(rate: int) -> FloatArray:
    """Second-order sections (2, 6) of the K-weighting at a rate."""
    k = np.tan(np.pi * SHELF_HZ / rate)
    top = 10.0 ** (SHELF_DB / 20.0)
    bend = top**0.4996667741545416
    scale = 1.0 + k / SHELF_Q + k * k
    shelf = [
        (top + bend * k / SHELF_Q + k * k) / scale,
        2.0 * (k * k - top) / scale,
        (top - bend * k / SHELF_Q + k * k) / scale,
        1.0,
        2.0 * (k * k - 1.0) / scale,
        (1.0 - k / SHELF_Q + k * k) / scale,
    ]
    k = np.tan(np.pi * HIGH_PASS_HZ / rate)
    scale = 1.0 + k / HIGH_PASS_Q + k * k
    high_pass = [1.0, -2.0, 1.0, 1.0, 2.0 * (k * k - 1.0) / scale, (1.0 - k / HIGH_PASS_Q + k * k) / scale]
    return np.array([shelf, high_pass])


def pink_loudness(power: FloatArray, frequencies: FloatArray, rate: int = 48_000) -> float:
    """K-weighted level in dB of pink noise through a response of so much `power` (n,) on a logarithmic grid.

    On such a grid pink noise has the same energy in every cell; only differences between two of these mean anything.
    """
    weights = np.abs(scipy.signal.sosfreqz(k_weighting(rate), 2 * np.pi * frequencies / rate)[1]) ** 2
    return float(10.0 * np.log10(np.mean(power * weights)))
