"""Looped samples are what numpy's tile would give, without its memory."""

import numpy as np

from imbrix.core.signal.signal import Looped, Rest, Sided


def test_slices_are_those_of_the_tiled_array() -> None:
    period = np.random.default_rng(0).standard_normal(1000)
    tiled = np.tile(period, 7)[:6500]
    looped = Looped(period, 6500)
    assert looped.size == 6500
    for piece in (slice(0, 10), slice(990, 2010), slice(6400, 9000), slice(3000, 3000), slice(None)):
        assert np.array_equal(looped[piece], tiled[piece])
    assert Looped(period, 10**12)[10**11 : 10**11 + 5].size == 5


def test_two_sides_go_round_by_a_factor_that_may_change() -> None:
    period = np.random.default_rng(1).standard_normal((1000, 2))
    tiled = np.tile(period, (4, 1))[:3500]
    both = Sided(period, 3500)
    assert np.array_equal(both[990:1010], tiled[990:1010])
    both.factor = 0.5
    assert np.array_equal(both[2000:9000], 0.5 * tiled[2000:])


def test_what_is_left_begins_where_it_should() -> None:
    whole = np.arange(100.0)
    rest = Rest(whole, 30)
    assert rest.size == 70
    for piece in (slice(0, 10), slice(5, 20, 3), slice(60, 900), slice(None)):
        assert np.array_equal(rest[piece], whole[30:][piece])
