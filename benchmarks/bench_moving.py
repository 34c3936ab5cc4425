"""Live averaging of a moving microphone: 65,536 points, 87.5 % overlap, 48 kHz, against its FFT and real time."""

from timing import in_turn, report  # isort: skip

import numpy as np
import scipy.fft

from imbrix.core.measure.moving import MovingAverage, MovingSettings, window_power
from imbrix.core.measure.stimuli import shaped_noise

settings = MovingSettings()
pink = shaped_noise(settings.size, settings.rate, -24.0)[:, 0]
average = MovingAverage(settings, window_power(pink, settings))
average.feed(np.tile(pink, 2))
block = pink[: settings.hop].copy()
frame = pink.astype(np.float32)


def one_hop_with_its_drawing() -> None:
    """What arrives, is averaged and is made ready to draw, as often as a new average is there."""
    for first in range(0, block.size, 4096):
        average.feed(block[first : first + 4096])
    average.running()


own, fft = in_turn(200, one_hop_with_its_drawing, lambda: scipy.fft.rfft(frame))
report("moving microphone, one average and its curve / its FFT", own / fft, 10, f"{own * 1e3:.2f} ms")
report("moving microphone, share of one core in real time", own / (settings.hop / settings.rate), 0.2)
