"""A simulated cabin: drivers as electro-acoustic models, their paths to the microphone, noise.

Everything here turns blocks of samples into blocks of samples, with state, as air does. Nothing is taken from
the prediction: filters are scipy's time-domain ones, paths are impulse responses made of arrivals.
"""

from dataclasses import dataclass, field

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.response import speed_of_sound
from imbrix.core.signal import FloatArray

TAPS = 24_000
_SINC_HALF = 32


@dataclass(frozen=True)
class DriverModel:
    """A driver: closed-box resonance, roll-off of the moving mass or coil, break-up, sensitivity, distortion.

    `peak_db` bells are (hertz, dB, Q). `second` and `third` are the relative levels of the harmonics at full
    scale; they rise with level as a polynomial does. `sensitivity_db` is dB SPL at 1 m for 0 dBFS.
    """

    resonance_hz: float
    resonance_q: float
    roll_off_hz: float
    roll_off_order: int
    sensitivity_db: float
    peaks: tuple[tuple[float, float, float], ...] = ()
    second: float = 0.02
    third: float = 0.01


@dataclass(frozen=True)
class PathModel:
    """From driver to microphone: distance, reflections (extra metres, dB, low-pass hertz), seed of detail."""

    distance_m: float
    reflections: tuple[tuple[float, float, float], ...]


@dataclass(frozen=True)
class Mode:
    """A low-frequency resonance of the cabin."""

    hertz: float
    q: float
    level_db: float


@dataclass(frozen=True)
class Seat:
    """One driver, how it is wired, and its way to the microphone."""

    driver: DriverModel
    path: PathModel
    wired_backwards: bool = False
    mode_weights: tuple[float, ...] = ()


@dataclass
class Cabin:
    """All drivers of a system in one space; `seats[i]` hangs on processor output i + 1.

    `noise_db_spl` is the level of the background noise, falling 3 dB per octave above 100 Hz.
    """

    seats: tuple[Seat, ...]
    modes: tuple[Mode, ...]
    rate: int = 48_000
    celsius: float = 20.0
    gain_corner_hz: float = 50.0
    gain_db: float = 5.0
    noise_db_spl: float = 38.0
    seed: int = 7
    _paths: dict[int, FloatArray] = field(default_factory=dict, repr=False)

    def impulse(self, index: int) -> FloatArray:
        """The linear impulse response (TAPS,) from output `index` (from 0) to the microphone, in pascals."""
        if index not in self._paths:
            self._paths[index] = self._make_path(self.seats[index])
        return self._paths[index]

    def _make_path(self, seat: Seat) -> FloatArray:
        """Arrivals through the driver's own filters; modes and cabin gain added where the cabin is small."""
        speed = speed_of_sound(self.celsius)
        air = np.zeros(TAPS)
        _arrive(air, seat.path.distance_m / speed * self.rate, 1.0 / seat.path.distance_m)
        for extra, level_db, corner in seat.path.reflections:
            length = seat.path.distance_m + extra
            echo = np.zeros(TAPS)
            _arrive(echo, length / speed * self.rate, 10 ** (level_db / 20) / length)
            air += scipy.signal.sosfilt(scipy.signal.butter(1, corner, fs=self.rate, output="sos"), echo)
        low = np.zeros(TAPS)
        weights = seat.mode_weights or (1.0,) * len(self.modes)
        for mode, weight in zip(self.modes, weights, strict=True):
            low += weight * self._ring(air, mode)
        low += (10 ** (self.gain_db / 20) - 1) * scipy.signal.sosfilt(
            scipy.signal.butter(2, self.gain_corner_hz, fs=self.rate, output="sos"), air
        )
        return self._driver(seat, air + low)

    def _ring(self, air: FloatArray, mode: Mode) -> FloatArray:
        w = 2 * np.pi * mode.hertz / self.rate
        alpha = np.sin(w) / (2 * mode.q)
        height = 10 ** (mode.level_db / 20)
        band_pass = scipy.signal.tf2sos([alpha * height, 0, -alpha * height], [1 + alpha, -2 * np.cos(w), 1 - alpha])
        return scipy.signal.sosfilt(band_pass, air)

    def _driver(self, seat: Seat, samples: FloatArray) -> FloatArray:
        model = seat.driver
        w = 2 * np.pi * model.resonance_hz / self.rate
        alpha = np.sin(w) / (2 * model.resonance_q)
        c = np.cos(w)
        high_pass = scipy.signal.tf2sos([(1 + c) / 2, -(1 + c), (1 + c) / 2], [1 + alpha, -2 * c, 1 - alpha])
        samples = scipy.signal.sosfilt(high_pass, samples)
        samples = scipy.signal.sosfilt(
            scipy.signal.butter(model.roll_off_order, model.roll_off_hz, fs=self.rate, output="sos"), samples
        )
        for hertz, level_db, q in model.peaks:
            wp = 2 * np.pi * hertz / self.rate
            part = np.sin(wp) / (2 * q)
            height = 10 ** (level_db / 20) - 1
            bell = scipy.signal.tf2sos([part, 0, -part], [1 + part, -2 * np.cos(wp), 1 - part])
            samples = samples + height * scipy.signal.sosfilt(bell, samples)
        sign = -1.0 if seat.wired_backwards else 1.0
        pascals = 20e-6 * 10 ** (model.sensitivity_db / 20)
        return sign * pascals * samples

    def truth(self, index: int, frequencies: FloatArray) -> np.ndarray:
        """For tests: the exact linear response in pascals per unit of full scale, by a direct sum."""
        impulse = self.impulse(index)
        used = np.arange(TAPS)
        return np.array([np.exp(-2j * np.pi * f / self.rate * used) @ impulse for f in frequencies])


def _arrive(air: FloatArray, at: float, amount: float) -> None:
    """Add an arrival at a fractional sample by a Blackman-windowed sinc."""
    whole = int(np.floor(at))
    n = np.arange(whole - _SINC_HALF + 1, whole + _SINC_HALF + 1)
    window = np.blackman(2 * _SINC_HALF + 2)[1:-1]
    window = np.interp(n - at, np.arange(-_SINC_HALF, _SINC_HALF) + 0.5, window, left=0, right=0)
    inside = (n >= 0) & (n < air.size)
    air[n[inside]] += amount * (np.sinc(n - at) * window)[inside]


class CabinStream:
    """The cabin at work: blocks (n, outputs) of amplifier samples in, blocks (n,) of pascals out.

    Each driver's harmonics arise before its linear path; the paths are convolved by overlap-add.
    """

    def __init__(self, cabin: Cabin, block: int, noise: np.random.Generator | None = None) -> None:
        self.cabin = cabin
        self.block = block
        self._noise = noise
        self._size = scipy.fft.next_fast_len(TAPS + block - 1, real=True)
        self._spectra = {}
        for index in range(len(cabin.seats)):
            self._spectra[index] = scipy.fft.rfft(cabin.impulse(index), self._size)
        self._pending = np.zeros(self._size)
        self._colour = scipy.signal.butter(1, 100.0, fs=cabin.rate, output="sos")
        self._colour_state = np.zeros((1, 2))

    def process(self, outputs: FloatArray) -> FloatArray:
        """One block (n, outputs) with n at most `block`; returns (n,) pascals at the microphone."""
        count = outputs.shape[0]
        total = np.zeros(self._size // 2 + 1, dtype=complex)
        for index, seat in enumerate(self.cabin.seats):
            drive = outputs[:, index]
            if not drive.any():
                continue
            moved = drive + seat.driver.second * drive**2 + seat.driver.third * drive**3
            total += scipy.fft.rfft(moved, self._size) * self._spectra[index]
        self._pending += scipy.fft.irfft(total, self._size)
        heard = self._pending[:count].copy()
        self._pending = np.concatenate((self._pending[count:], np.zeros(count)))
        if self._noise is not None:
            heard += self._background(count)
        return heard

    def _background(self, count: int) -> FloatArray:
        assert self._noise is not None
        white = self._noise.standard_normal(count)
        rumble, self._colour_state = scipy.signal.sosfilt(self._colour, white, zi=self._colour_state)
        # The rumble below 100 Hz carries most of the level; a tenth of it stays white.
        level = 20e-6 * 10 ** (self.cabin.noise_db_spl / 20)
        return level * (12.0 * rumble + 0.08 * white)
