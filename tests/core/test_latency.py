"""Latency of a chain: closed forms of group delay."""

import numpy as np
import pytest

from imbrix.core.align.latency import group_delay, latencies, over
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layouts import ready
from imbrix.core.tune.tune import Band, Crossover, neutral

PREDICTOR = Predictor(log_grid(), 48_000)
LAYOUT = ready("bookshelf-2", "left")
TUNE = neutral(LAYOUT)


def test_an_all_pass_of_second_order_delays_as_the_closed_form_says() -> None:
    """At its frequency w0 an all-pass of second order delays by 4 Q / w0."""
    middle = float(np.sqrt(20.0 * 20_000.0))
    band = Band(kind="all_pass", frequency_hz=round(middle, 1), q=2.0)
    tune = TUNE.with_channel("midbass-l", bands=(band,))
    assert group_delay(PREDICTOR, tune, "midbass-l") == pytest.approx(4 * 2.0 / (2 * np.pi * middle), rel=0.02)
    assert group_delay(PREDICTOR, TUNE, "midbass-l") == pytest.approx(0, abs=1e-9)


def test_a_low_pass_delays_far_below_its_corner_by_its_own_slope() -> None:
    """LR24: two Butterworth filters of second order, each sqrt(2) / w0 at zero."""
    low_pass = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=20_000)
    tune = TUNE.with_channel("midbass-l", low_pass=low_pass.model_copy(update={"corner_hz": 2000.0}))
    expected = 2 * 2**0.5 / (2 * np.pi * 2000)
    assert group_delay(PREDICTOR, tune, "midbass-l") == pytest.approx(expected, rel=0.03)


def test_budgets_are_held_against_the_whole_or_the_processor_itself() -> None:
    tune = TUNE.with_channel("midbass-l", delay_s=0.004)
    found = latencies(PREDICTOR, tune, ["midbass-l", "midbass-r"], 0.0021)
    assert [one.channel for one in over(found, "performer")] == ["midbass-l"]
    assert len(over(found, "processor")) == 2
    assert over(found, "none") == []
    assert found[0].total_s == pytest.approx(0.0061)
