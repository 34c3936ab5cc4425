"""Looped samples are what numpy's tile would give, without its memory."""

import numpy as np

from imbrix.core.signal.signal import Looped


def test_slices_are_those_of_the_tiled_array() -> None:
    period = np.random.default_rng(0).standard_normal(1000)
    tiled = np.tile(period, 7)[:6500]
    looped = Looped(period, 6500)
    assert looped.size == 6500
    for piece in (slice(0, 10), slice(990, 2010), slice(6400, 9000), slice(3000, 3000), slice(None)):
        assert np.array_equal(looped[piece], tiled[piece])
    assert Looped(period, 10**12)[10**11 : 10**11 + 5].size == 5
