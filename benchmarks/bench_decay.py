"""A decay map from take to frame, as a share of the 200 ms in which it is to be drawn, and against its bare FFTs."""

from timing import in_turn, report  # isort: skip

import numpy as np
import scipy.fft

from imbrix.api.frames import encode
from imbrix.core.look.decay import waterfall
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import Impulse
from imbrix.work.views.picture import Picture

RATE = 48_000
random = np.random.default_rng(0)
samples = np.concatenate((np.zeros(2400), random.standard_normal(RATE) * np.exp(-np.arange(RATE) / 5000)))
impulse = Impulse(samples, RATE, 2400)
grid = log_grid()[::4]
SLICES, WINDOW_S = 60, 0.3
pieces = random.standard_normal((SLICES, round(WINDOW_S * RATE)))


def a_waterfall_as_a_frame() -> None:
    found = waterfall(impulse, grid, 0.4, WINDOW_S, 0.01, SLICES)
    drawn = Picture()
    drawn.add("map", found.levels.ravel(), "map", pane="map", x=found.seconds)
    encode(drawn, {})


def bare_ffts() -> None:
    scipy.fft.rfft(pieces, axis=1)


own, ffts = in_turn(20, a_waterfall_as_a_frame, bare_ffts)
report("decay map, take to frame / its FFTs", own / ffts, 6, f"{own * 1e3:.0f} ms")
report("decay map, share of 200 ms", own / 0.2, 1.0)
