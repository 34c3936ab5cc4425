"""What the inputs of the simulated sound card do: the capsule, latency, converters, a clock of its own."""

from dataclasses import dataclass

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray
from imbrix.standins import practice as switches
from imbrix.standins.cabin import Cabin, at_rate
from imbrix.standins.microphones import FULL_SCALE_DB_SPL, MEASURING, PLAIN
from imbrix.standins.practice import Practice

CAPSULE_RATE = 48_000
"""The rate for which the microphone's capsule is designed, as its sheet is."""
_HALF = 24


@dataclass
class InterfaceModel:
    """`full_scale_db_spl` is the sound level that reaches 0 dBFS at the microphone input at `gain_db` of 0."""

    full_scale_db_spl: float = FULL_SCALE_DB_SPL
    gain_db: float = 0.0
    latency: int = 734
    high_pass_hz: float = 4.0
    low_pass_hz: float = 60_000.0
    noise_dbfs: float = -104.0
    colours: bool = True
    microphone_connected: bool = True
    loopback_connected: bool = True


class FirstTwo:
    """The microphone's and the loopback's input: the capsule, the latency, the converters, a clock of its own."""

    def __init__(
        self, model: InterfaceModel, practice: Practice, cabin: Cabin, random: np.random.Generator, rate: int
    ) -> None:
        self._model, self._random = model, random
        microphone = MEASURING if practice.microphone == "measuring" else PLAIN
        self._capsule = _Capsule(microphone.sections(practice.pointing, CAPSULE_RATE), CAPSULE_RATE, rate)
        converter = scipy.signal.butter(1, 2.0, "highpass", fs=rate, output="sos")
        own = scipy.signal.butter(1, model.high_pass_hz, "highpass", fs=rate, output="sos")
        self._filters = (own if model.colours else converter, converter)
        self._states = [np.zeros((1, 2)), np.zeros((1, 2))]
        drifting = practice.clock_drift
        self._clock = _Clock(1 + switches.DRIFT_PPM * 1e-6) if drifting else None
        self._looped = model.loopback_connected and not practice.loopback_unplugged and not drifting
        self._exchanged = practice.inputs_exchanged
        # The loop waits for what the models of space and capsule take, so that both inputs keep their time.
        in_models = self._capsule.late if model.colours else 0
        self._waiting = np.zeros(in_models + round(cabin.lead * rate / cabin.rate))
        self._line = np.zeros((model.latency + (int(random.integers(0, 9000)) if drifting else 0), 2))

    def heard(self, sound: FloatArray) -> FloatArray:
        """What the capsule makes of a block of sound (n,)."""
        return self._capsule.process(sound) if self._model.colours else sound

    def process(self, volts: FloatArray, played: FloatArray) -> FloatArray:
        """Blocks (n,) at the microphone's input and at the output as both are recorded (n, 2)."""
        both = np.zeros((played.size, 2))
        both[:, 0] = volts
        if self._looped:
            looped = np.concatenate((self._waiting, played))
            both[:, 1], self._waiting = looped[: played.size], looped[played.size :]
        if self._exchanged:
            both = both[:, ::-1]
        line = np.concatenate((self._line, both))
        out, self._line = line[: played.size], line[played.size :]
        for n, filters in enumerate(self._filters):
            out[:, n], self._states[n] = scipy.signal.sosfilt(filters, out[:, n], zi=self._states[n])
        if self._clock:
            out[:, 0] = self._clock.resampled(out[:, 0])
        return out + 10 ** (self._model.noise_dbfs / 20) * self._random.standard_normal(out.shape)


class _Capsule:
    """What the microphone adds: its sections at the rate that they were designed for, the same response at others."""

    _LONG_S = 0.5  # the lowest section, at 7 Hz, has died by then
    _EARLY = 96
    """So many samples of the first rate a pulse is let ring before it comes, when it is converted to another rate."""

    def __init__(self, sections: FloatArray, designed: int, rate: int) -> None:
        self._sections = sections if rate == designed else None
        self._state = np.zeros((sections.shape[0], 2))
        self.late = 0 if rate == designed else round(self._EARLY * rate / designed)
        if rate != designed:
            pulse = np.zeros(round(self._LONG_S * designed))
            pulse[self._EARLY] = 1
            self._taps = at_rate(scipy.signal.sosfilt(sections, pulse), designed, rate)
            self._past = np.zeros(self._taps.size - 1)

    def process(self, sound: FloatArray) -> FloatArray:
        """A block (n,) as the capsule turns it into a voltage."""
        if self._sections is not None:
            out, self._state = scipy.signal.sosfilt(self._sections, sound, zi=self._state)
            return out
        whole = np.concatenate((self._past, sound))
        self._past = whole[-self._past.size :]
        return scipy.signal.fftconvolve(whole, self._taps, "valid")


class Inputs:
    """Further inputs: the same latency and the same converters as the first two."""

    def __init__(self, count: int, model: InterfaceModel, rate: int) -> None:
        self._filters = scipy.signal.butter(1, 2.0, "highpass", fs=rate, output="sos")
        self._state = np.zeros((1, 2, count))
        self._line = np.zeros((model.latency, count))

    def process(self, block: FloatArray) -> FloatArray:
        """A block (n, inputs) as it is recorded."""
        self._line = np.concatenate((self._line, block))
        out, self._line = self._line[: block.shape[0]], self._line[block.shape[0] :]
        if out.shape[1]:
            out, self._state = scipy.signal.sosfilt(self._filters, out, axis=0, zi=self._state)
        return out


class _Clock:
    """A recorder's clock: `ratio` recorded samples for each one played, by a windowed sinc between samples."""

    def __init__(self, ratio: float) -> None:
        self._step = 1 / ratio
        self._past = np.zeros(2 * _HALF)
        self._at = 0.0

    def resampled(self, block: FloatArray) -> FloatArray:
        """As many samples as went in; what does not fit any more is left to the next block."""
        have = np.concatenate((self._past, block))
        where = self._at + self._step * np.arange(block.size) + _HALF
        whole = np.floor(where).astype(int)
        offset = np.arange(-_HALF + 1, _HALF + 1)
        distance = offset[None, :] - (where - whole)[:, None]
        weights = np.sinc(distance) * np.cos(np.pi * distance / (2 * _HALF + 1)) ** 2
        out = np.sum(have[np.clip(whole[:, None] + offset, 0, have.size - 1)] * weights, axis=1)
        self._at += self._step * block.size - block.size
        # The player is ahead of a fast recorder: what it has not asked for yet is kept.
        late = max(0, int(np.ceil(-self._at)))
        self._past = have[-self._past.size - late :]
        self._at += late
        return out
