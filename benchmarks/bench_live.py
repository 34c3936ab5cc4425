"""The live analyser: 2^16 points, two inputs, 20 frames a second, 1/48 octave, against its FFTs and half a core."""

from timing import in_turn, report  # isort: skip

import numpy as np
import scipy.fft

from imbrix.core.transfer import Transfer, TransferSettings

settings = TransferSettings(2**16)
transfer = Transfer(settings)
random = np.random.default_rng(0)
noise = random.standard_normal((settings.hop * 40, 2))
transfer.feed(np.tile(noise, (2, 1)))
block = noise[: settings.hop]
frame = noise[:, 0].astype(np.float32)[: settings.size]


def one_frame_ready_to_draw() -> None:
    transfer.feed(block)
    transfer.shown()


def bare_ffts() -> None:
    scipy.fft.rfft(frame, settings.size)
    scipy.fft.rfft(frame, settings.size)


own, ffts = in_turn(100, one_frame_ready_to_draw, bare_ffts)
report("live analyser, one frame / its two FFTs", own / ffts, 12, f"{own * 1e3:.2f} ms")
report("live analyser, share of one core at 20 frames a second", own * 20, 0.5)
