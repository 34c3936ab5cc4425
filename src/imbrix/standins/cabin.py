"""A simulated cabin: drivers as electro-acoustic models, their paths to the microphone, noise.

Everything here turns blocks of samples into blocks of samples, with state, as air does. Nothing is taken from
the prediction: filters are scipy's time-domain ones, paths are impulse responses made of arrivals.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import FloatArray

TAPS_S = 0.5
"""How long the impulse responses of paths are."""
_SINC_HALF = 32


Place = tuple[float, float]
"""Metres to the right and forward of the middle of the head."""
MIDDLE: Place = (0.0, 0.0)
TOUR_S = 6.0
STOPS = 12


def tour() -> list[Place]:
    """The stops of a hand that moves the microphone round both ears."""
    angles = 2 * np.pi * np.arange(STOPS) / STOPS
    return [(0.11 * float(np.cos(a)), 0.07 * float(np.sin(a))) for a in angles]


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
    _paths: dict[tuple[int, Place], FloatArray] = field(default_factory=dict, repr=False)

    @property
    def taps(self) -> int:
        """How many samples a path's impulse response has."""
        return round(TAPS_S * self.rate)

    def impulse(self, index: int, place: Place = MIDDLE) -> FloatArray:
        """The linear impulse response (taps,) from output `index` (from 0) to a place, in pascals."""
        key = (index, (round(place[0], 4), round(place[1], 4)))
        if key not in self._paths:
            self._paths[key] = self._make_path(index, key[1])
        return self._paths[key]

    def _make_path(self, index: int, place: Place) -> FloatArray:
        """Arrivals through the driver's own filters; modes and cabin gain added where the cabin is small.

        Each arrival comes from a direction of its own: the place, in metres from the middle of the head, makes its
        way longer or shorter.
        """
        seat = self.seats[index]
        speed = speed_of_sound(self.celsius)
        air = np.zeros(self.taps)
        turns = np.random.default_rng([self.seed, index]).uniform(0, 2 * np.pi, len(seat.path.reflections) + 1)
        nearer = place[0] * np.cos(turns) + place[1] * np.sin(turns)
        distance = seat.path.distance_m - float(nearer[0])
        _arrive(air, distance / speed * self.rate, 1.0 / distance)
        for n, (extra, level_db, corner) in enumerate(seat.path.reflections, 1):
            length = seat.path.distance_m + extra - float(nearer[n])
            echo = np.zeros(self.taps)
            _arrive(echo, length / speed * self.rate, 10 ** (level_db / 20) / length)
            air += scipy.signal.sosfilt(scipy.signal.butter(1, corner, fs=self.rate, output="sos"), echo)
        low = np.zeros(self.taps)
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

    def truth(self, index: int, frequencies: FloatArray, place: Place = MIDDLE) -> np.ndarray:
        """For tests: the exact linear response in pascals per unit of full scale, by a direct sum."""
        impulse = self.impulse(index, place)
        used = np.arange(self.taps)
        return np.array([np.exp(-2j * np.pi * f / self.rate * used) @ impulse for f in frequencies])

    def true_mean(self, index: int, frequencies: FloatArray) -> FloatArray:
        """For tests: the exact mean power (n,) over the tour of a moving microphone.

        Between two stops the response is (1 - a) H1 + a H2 with a from 0 to 1; the mean of its square is
        (|H1|^2 + |H2|^2 + Re(H1 H2*)) / 3.
        """
        stops = [self.truth(index, frequencies, place) for place in tour()]
        legs = zip(stops, stops[1:] + stops[:1], strict=True)
        mean = [(np.abs(a) ** 2 + np.abs(b) ** 2 + np.real(a * np.conjugate(b))) / 3 for a, b in legs]
        return np.mean(mean, axis=0)


def _arrive(air: FloatArray, at: float, amount: float) -> None:
    """Add an arrival at a fractional sample by a Blackman-windowed sinc."""
    whole = int(np.floor(at))
    n = np.arange(whole - _SINC_HALF + 1, whole + _SINC_HALF + 1)
    window = np.blackman(2 * _SINC_HALF + 2)[1:-1]
    window = np.interp(n - at, np.arange(-_SINC_HALF, _SINC_HALF) + 0.5, window, left=0, right=0)
    inside = (n >= 0) & (n < air.size)
    air[n[inside]] += amount * (np.sinc(n - at) * window)[inside]


def at_rate(impulse: FloatArray, rate: int, wanted: int) -> FloatArray:
    """An impulse response (n,) at another rate, the same up to 11/12 of half the lower rate and fading out from there:
    what rings before a sharp edge would come round at the far end."""
    if wanted == rate:
        return impulse
    size = round(impulse.size * wanted / rate)
    spectrum = np.zeros(size // 2 + 1, dtype=complex)
    own = scipy.fft.rfft(impulse)
    shared = min(own.size, spectrum.size)
    fade = np.clip((np.arange(shared) / (shared - 1) - 11 / 12) * 12, 0, 1)
    spectrum[:shared] = own[:shared] * np.cos(np.pi / 2 * fade) ** 2
    return scipy.fft.irfft(spectrum, size)


class CabinStream:
    """The cabin at work: blocks (n, outputs) of amplifier samples in, blocks (n, 1 + others) of pascals out.

    Each driver's harmonics arise before its linear path; the paths are convolved by overlap-save. A moving
    microphone travels from stop to stop of its tour; between two of them their sounds are crossfaded. `others` are
    further microphones, metres from `place`; `turned` what each driver loses off its axis, evenly from 0 Hz up to half
    the cabin's rate. `rate` is that of the samples, where it is not the cabin's own: the cabin stays the same.
    """

    def __init__(
        self,
        cabin: Cabin,
        block: int,
        noise: np.random.Generator | None = None,
        place: Place = MIDDLE,
        moving: bool = False,
        others: Sequence[Place] = (),
        turned: Sequence[FloatArray] = (),
        rate: int | None = None,
    ) -> None:
        self.cabin = cabin
        self.rate = rate or cabin.rate
        taps = round(TAPS_S * self.rate)
        self.block = block
        self._noise = noise
        self._places = tour() if moving else [place]
        self._fixed = len(self._places)
        self._places += [(place[0] + x, place[1] + y) for x, y in others]
        self._moving = moving
        self._time = 0
        self._size = scipy.fft.next_fast_len(taps + block - 1, real=True)
        self._turned = turned
        self._spectra: dict[tuple[int, int], np.ndarray] = {}
        self._history = np.zeros((len(cabin.seats), taps - 1 + block))
        self._sounding = [False] * len(cabin.seats)
        self._colour = scipy.signal.butter(1, 100.0, fs=self.rate, output="sos")
        self._colour_state = np.zeros((1, 2))

    def process(self, outputs: FloatArray) -> FloatArray:
        """One block (n, outputs) with n at most `block`; returns (n, 1 + others) pascals at the microphones."""
        count = outputs.shape[0]
        stops, weights = self._where(count)
        others = range(self._fixed, len(self._places))
        totals = {stop: np.zeros(self._size // 2 + 1, dtype=complex) for stop in [*stops, *others]}
        for index, seat in enumerate(self.cabin.seats):
            drive = outputs[:, index]
            past = self._history[index]
            self._sounding[index] = bool(drive.any()) or (self._sounding[index] and bool(past[count:].any()))
            if not self._sounding[index]:
                continue
            past[:-count] = past[count:]
            past[-count:] = drive + seat.driver.second * drive**2 + seat.driver.third * drive**3
            spectrum = scipy.fft.rfft(past, self._size)
            for stop, total in totals.items():
                total += spectrum * self._path(index, stop)
        heard = np.zeros((count, 1 + len(others)))
        end = self._history.shape[1]
        for stop, weight in zip(stops, weights, strict=True):
            heard[:, 0] += weight * scipy.fft.irfft(totals[stop], self._size)[end - count : end]
        for column, stop in enumerate(others, 1):
            heard[:, column] = scipy.fft.irfft(totals[stop], self._size)[end - count : end]
        self._time += count
        if self._noise is not None:
            heard += self._background(count)[:, None]
        return heard

    def _path(self, index: int, stop: int) -> np.ndarray:
        if (index, stop) not in self._spectra:
            impulse = at_rate(self.cabin.impulse(index, self._places[stop]), self.cabin.rate, self.rate)
            path = scipy.fft.rfft(impulse, self._size)
            if index < len(self._turned):
                hertz = scipy.fft.rfftfreq(self._size, 1 / self.rate)
                path = path * np.interp(
                    hertz, np.linspace(0, self.cabin.rate / 2, self._turned[index].size), self._turned[index]
                )
            self._spectra[index, stop] = path
        return self._spectra[index, stop]

    def _where(self, count: int) -> tuple[list[int], list[FloatArray]]:
        """The stops that this block is heard at, and the share (count,) of each over the block."""
        if not self._moving:
            return [0], [np.ones(count)]
        way = (self._time + np.arange(count)) / self.rate / TOUR_S * STOPS
        first, last = int(np.floor(way[0])), int(np.floor(way[-1])) + 1
        numbers = range(first, last + 1)
        return [n % STOPS for n in numbers], [np.clip(1 - np.abs(way - n), 0, 1) for n in numbers]

    def _background(self, count: int) -> FloatArray:
        assert self._noise is not None
        white = self._noise.standard_normal(count)
        rumble, self._colour_state = scipy.signal.sosfilt(self._colour, white, zi=self._colour_state)
        # The rumble below 100 Hz carries most of the level; a tenth of it stays white.
        level = 20e-6 * 10 ** (self.cabin.noise_db_spl / 20)
        return level * (12.0 * rumble + 0.08 * white)
