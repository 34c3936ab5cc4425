"""Left and right played apart: through the stand-in's inputs, and on a sound card's outputs."""

import numpy as np

from imbrix.core.signal.signal import FloatArray, Sided
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Channel
from imbrix.devices.spread import spread
from imbrix.standins.interface import StandinInterface
from imbrix.standins.places import van
from imbrix.standins.processor import StandinProcessor
from imbrix.standins.stream import CabinStream

LEFT = np.stack((np.sin(2 * np.pi * 1000 / 48_000 * np.arange(4800)), np.zeros(4800)), axis=1) * 0.1


def played(samples: Sided, monkeypatch, rate: int = 48_000) -> FloatArray:
    """What comes to the amplifiers of outputs 1 and 2, which hear input 1 and input 2."""
    processor = StandinProcessor()
    for output, sources in ((1, (1.0, 0.0)), (2, (0.0, 1.0))):
        processor.write(output, OutputRegister(channel=Channel(), sources=sources))
    seen: list[FloatArray] = []
    sound = CabinStream.process
    monkeypatch.setattr(
        CabinStream, "process", lambda self, outputs: (seen.append(outputs.copy()), sound(self, outputs))[1]
    )
    card = StandinInterface(van.cabin(), processor, rate=rate)
    blocks = list(card.play_and_record(samples))
    assert sum(one.shape[0] for one in blocks) == samples.size
    return np.concatenate(seen)


def test_left_goes_to_the_odd_inputs_and_right_to_the_even_ones(monkeypatch) -> None:
    found = played(Sided(LEFT, 9600), monkeypatch)
    assert np.abs(found[:, 0]).max() > 0.05
    assert np.abs(found[:, 1]).max() == 0


def test_it_goes_round_and_is_converted_to_another_rate(monkeypatch) -> None:
    found = played(Sided(LEFT, 14_400), monkeypatch, rate=96_000)
    assert np.abs(found[:, 0]).max() > 0.05
    assert np.abs(found[:, 1]).max() < 1e-6
    once = Sided(LEFT, 14_400)
    assert np.array_equal(once[4800:9600], LEFT)
    assert once[14_000:20_000].shape == (400, 2)


def test_a_card_gets_both_by_turns_and_one_output_their_mean() -> None:
    part = np.array([[1.0, 0.0], [0.5, -0.5]])
    assert np.array_equal(spread(part, 4), [[1, 0, 1, 0], [0.5, -0.5, 0.5, -0.5]])
    assert np.array_equal(spread(part, 1), [[0.5], [0.0]])
    assert np.array_equal(spread(np.array([1.0, 2.0]), 2), [[1.0], [2.0]])
