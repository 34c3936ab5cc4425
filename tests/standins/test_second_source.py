"""The second source of a stand-in's processor: what is let in when, by samples."""

import numpy as np
import pytest

from imbrix.core.errors import RefusedError
from imbrix.core.system.layouts import ready
from imbrix.core.tune.models import SMALL, STOCK
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Channel, neutral
from imbrix.standins.processor import StandinProcessor
from imbrix.standins.second_source import Player, Switch

RATE = STOCK.rate


def processor(second: SecondSource) -> StandinProcessor:
    """Two outputs: the first hears input 1 and the left, the second input 2 and the right."""
    made = StandinProcessor()
    for output, sources, both in ((1, (1.0,), (1.0, 0.0)), (2, (0.0, 1.0), (0.0, 1.0))):
        made.write(output, OutputRegister(channel=Channel(), sources=sources, second=both))
    made.write_second(second)
    return made


def run(made: StandinProcessor, wires: np.ndarray, second: np.ndarray | None, block: int = 1000) -> np.ndarray:
    stream = made.stream(2)
    rows = []
    for at in range(0, wires.shape[0], block):
        beside = None if second is None else second[at : at + block]
        rows.append(stream.process(wires[at : at + block], beside))
    return np.concatenate(rows)


def signals(seconds: float = 3.0) -> tuple[np.ndarray, np.ndarray]:
    """Wires at 0.1 all the time on all inputs, the second source at 0.2 and 0.3 from one second to two."""
    size = round(seconds * RATE)
    at = np.arange(size) / RATE
    wires = np.full((size, STOCK.inputs), 0.1)
    return wires, ((at >= 1) & (at < 2))[:, None] * np.array([0.2, 0.3])


def test_never_heard_it_changes_nothing() -> None:
    wires, second = signals()
    assert np.array_equal(run(processor(SecondSource()), wires, second), wires[:, :2])
    # Nor does one that is not there.
    waiting = processor(SecondSource(priority="before"))
    np.testing.assert_allclose(run(waiting, wires, None), wires[:, :2], atol=1e-12)


@pytest.mark.parametrize("block", [256, 1000, 48_000])
def test_before_the_wires_it_takes_over_and_lets_go_after_its_hold(block: int) -> None:
    made = processor(SecondSource(priority="before", hold_s=0.5, gain_db=-6.0206))
    wires, second = signals()
    out = run(made, wires, second, block)
    at = np.arange(out.shape[0]) / RATE
    before, during, holds, after = at < 1, (at > 1.05) & (at < 2), (at > 2.05) & (at < 2.49), at > 2.55
    np.testing.assert_allclose(out[before], 0.1, atol=1e-9)
    np.testing.assert_allclose(out[during], np.tile([0.1, 0.15], (during.sum(), 1)), atol=1e-3)
    assert np.abs(out[holds]).max() < 1e-3  # a pause between songs is no end
    np.testing.assert_allclose(out[after], 0.1, atol=1e-3)


def test_after_the_wires_it_waits_until_they_are_silent() -> None:
    made = processor(SecondSource(priority="after", hold_s=0.5))
    wires, second = signals(4.0)
    at = np.arange(wires.shape[0]) / RATE
    second[:] = 0.2
    wires *= (at < 2)[:, None]
    out = run(made, wires, second)
    np.testing.assert_allclose(out[at < 2.49], (0.1 * (at < 2))[at < 2.49, None] * np.ones(2), atol=1e-3)
    np.testing.assert_allclose(out[at > 2.55], 0.2, atol=1e-3)


def test_what_stays_under_the_threshold_is_no_sound() -> None:
    made = processor(SecondSource(priority="before", over_dbfs=-10.0))
    wires, second = signals()
    np.testing.assert_allclose(run(made, wires, second), wires[:, :2], atol=1e-6)


def test_the_switch_does_not_depend_on_blocks() -> None:
    random = np.random.default_rng(4)
    second = np.abs(random.standard_normal(RATE)) * (random.random(RATE) < 2e-4)
    wanted = SecondSource(priority="before", hold_s=0.1, over_dbfs=-20.0)
    whole = Switch(RATE).share(second, second, wanted)
    by_parts, switch = [], Switch(RATE)
    for at in range(0, RATE, 777):
        by_parts.append(switch.share(second[at : at + 777], second[at : at + 777], wanted))
    np.testing.assert_allclose(np.concatenate(by_parts), whole, atol=1e-12)
    assert 0.05 < whole.mean() < 0.95


def test_a_slot_keeps_it_through_power_off_and_a_model_without_one_refuses() -> None:
    made = processor(SecondSource(priority="after", hold_s=2.0))
    made.store(1, "with it")
    assert made.stored_in() == 1
    made.write_second(SecondSource())
    assert made.stored_in() is None
    made.power_cycle()
    assert made.read_second().priority == "after"
    with pytest.raises(RefusedError, match="second source: it is to be heard, but this processor can have none"):
        StandinProcessor(limits=SMALL).write_second(SecondSource(priority="before"))
    StandinProcessor(limits=SMALL).write_second(SecondSource())
    layout = ready("bookshelf-2", "left")
    tune = neutral(layout).model_copy(update={"second": SecondSource(priority="before", gain_db=-2.04)})
    assert SMALL.refusals(tune, layout) == ["second source: it is to be heard, but this processor can have none"]
    assert SMALL.fitted(tune).second == SecondSource()
    assert STOCK.fitted(tune).second == SecondSource(priority="before", gain_db=-2.0)


def test_a_player_plays_between_its_times_at_its_volume_at_any_rate() -> None:
    player = Player(np.full((48_000, 2), 0.5), 0.5, 1.5)
    for rate in (44_100, 48_000, 96_000):
        out = player.plays(2 * rate, rate, 34)
        inside = slice(round(0.6 * rate), round(1.4 * rate))
        assert np.median(out[inside]) == pytest.approx(0.5 * 10 ** (-6 / 20), rel=1e-3)
        assert not out[: rate // 2].any()
        assert not out[round(1.5 * rate) :].any()
