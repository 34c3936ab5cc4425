"""Deconvolution of a sweep of 2^18 samples against the forward and inverse real FFTs that it needs."""

from timing import in_turn, report  # isort: skip

import numpy as np
import scipy.fft

from imbrix.core.measure.sweep import SweepSettings, deconvolve, exponential_sweep

reference = exponential_sweep(SweepSettings(length=2**18)).samples
recording = np.roll(reference, 300) * 0.5 + 1e-4 * np.random.default_rng(0).standard_normal(reference.size)
size = scipy.fft.next_fast_len(recording.size, real=True)


def bare_ffts() -> None:
    top = scipy.fft.rfft(recording, size)
    scipy.fft.rfft(reference, size)
    scipy.fft.irfft(top, size)


own, ffts = in_turn(40, lambda: deconvolve(recording, reference, 48_000), bare_ffts)
report("deconvolution / its FFTs", own / ffts, 2, f"{own * 1e3:.1f} ms")
