"""A simulated sound card with a measuring microphone and a loopback input.

Behind it hang the processor and the cabin. It plays a block and records a block: its own response, latency,
gain, 24-bit steps and clipping at full scale are all in the samples.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal import FloatArray
from imbrix.standins.cabin import Cabin, CabinStream
from imbrix.standins.processor import StandinProcessor

BLOCK = 4096


@dataclass
class InterfaceModel:
    """`full_scale_db_spl` is the sound level that reaches 0 dBFS at the microphone input at `gain_db` of 0."""

    full_scale_db_spl: float = 112.0
    gain_db: float = 0.0
    latency: int = 734
    high_pass_hz: float = 2.0
    noise_dbfs: float = -104.0
    microphone_connected: bool = True
    loopback_connected: bool = True


class StandinInterface:
    """Two inputs (microphone, loopback) and one output that feeds the processor; 48 kHz, 24 bit."""

    rate = 48_000
    inputs = ("Microphone", "Loopback")

    def __init__(
        self, cabin: Cabin, processor: StandinProcessor, model: InterfaceModel | None = None, seed: int = 11
    ) -> None:
        self.cabin = cabin
        self.processor = processor
        self.model = model or InterfaceModel()
        self._random = np.random.default_rng(seed)

    @property
    def full_scale_db_spl(self) -> float:
        """What the sensitivity sheet of the microphone says about level, at the gain that is set."""
        return self.model.full_scale_db_spl - self.model.gain_db

    def play_and_record(self, samples: FloatArray) -> Iterator[FloatArray]:
        """Play (n,) samples and yield recorded blocks (m, 2) as they come; sums to n rows.

        What the drivers do at the start of a run starts from rest: the latency is silence.
        """
        model = self.model
        running = self.processor.stream(len(self.cabin.seats))
        air = CabinStream(self.cabin, BLOCK, self._random)
        own = scipy.signal.butter(1, model.high_pass_hz, "highpass", fs=self.rate, output="sos")
        states = [np.zeros((1, 2)), np.zeros((1, 2))]
        line = np.zeros((model.latency, 2))
        pascal_to_full_scale = 10 ** (-(self.full_scale_db_spl - 93.9794) / 20)
        for first in range(0, samples.size, BLOCK):
            block = np.round(samples[first : first + BLOCK] * 2**23) / 2**23
            heard = air.process(running.process(block)) * pascal_to_full_scale
            both = np.stack(
                (
                    heard if model.microphone_connected else np.zeros(block.size),
                    block if model.loopback_connected else np.zeros(block.size),
                ),
                axis=1,
            )
            line = np.concatenate((line, both))
            out, line = line[: block.size], line[block.size :]
            for n in (0, 1):
                out[:, n], states[n] = scipy.signal.sosfilt(own, out[:, n], zi=states[n])
            out = out + 10 ** (model.noise_dbfs / 20) * self._random.standard_normal(out.shape)
            yield np.clip(np.round(out * 2**23) / 2**23, -1.0, 1.0)
