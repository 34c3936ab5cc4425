"""A simulated space: drivers as electro-acoustic models, their paths to the microphone, modes, noise.

Nothing here is taken from the prediction: filters are scipy's time-domain ones, paths are impulse responses made of
arrivals. `stream.py` turns blocks of samples into blocks of samples with it, as air does.
"""

from dataclasses import dataclass, field, replace

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.look.directivity import piston
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import FloatArray
from imbrix.standins.noise import Noise
from imbrix.standins.paths import MIDDLE, Air, Path, Spot
from imbrix.standins.sections import closed_box, high_pass, low_pass, resonance

TAPS_S = 0.5
"""How long the impulse responses of paths are."""
TOUR_S = 6.0
STOPS = 12


def tour() -> list[Spot]:
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

    def own_band(self, rate: int = 48_000) -> tuple[float, float]:
        """For tests: where it is 6 dB down, its bells aside, in hertz."""
        hertz = np.geomspace(5, 0.4999 * rate, 4000)
        ratio = 1j * hertz / self.resonance_hz
        high = ratio**2 / (1 + ratio / self.resonance_q + ratio**2)
        fall = low_pass(self.roll_off_order, self.roll_off_hz, rate)
        level = np.abs(high * scipy.signal.sosfreqz(fall, hertz, fs=rate)[1])
        inside = np.flatnonzero(level >= level.max() / 10 ** (6 / 20))
        return float(hertz[inside[0]]), float(hertz[inside[-1]])


@dataclass(frozen=True)
class Mode:
    """A low-frequency resonance of the space."""

    hertz: float
    q: float
    level_db: float


@dataclass(frozen=True)
class Buzz:
    """Something loose that rattles where the driver moves most: at `hertz`, once its swing is over `from_dbfs`.

    The rattle rings at `rings_hz`, as loud as `level_db` over the swing that sets it off.
    """

    hertz: float
    from_dbfs: float = -40.0
    rings_hz: float = 2200.0
    level_db: float = -6.0


@dataclass(frozen=True)
class Passive:
    """What a passive network feeds besides: a higher way from `hertz` on (second order, its own way round)."""

    hertz: float
    driver: DriverModel
    path: Path
    radius_m: float


@dataclass(frozen=True)
class Seat:
    """One driver, how it is wired, and its way to the microphone."""

    driver: DriverModel
    path: Path
    wired_backwards: bool = False
    mode_weights: tuple[float, ...] = ()
    radius_m: float = 0.05
    passive: Passive | None = None
    buzz: Buzz | None = None


@dataclass
class Cabin:
    """All drivers of a system in one space; `seats[i]` hangs on processor output i + 1, where one hangs there.

    `lead` are samples that impulse responses are late by, for spaces so small that a pulse would ring before its
    beginning; who plays takes them away again. `unsteady_m` is how far a microphone is off its spot, take for take.
    """

    seats: tuple[Seat | None, ...]
    modes: tuple[Mode, ...] = ()
    rate: int = 48_000
    celsius: float = 20.0
    gain_corner_hz: float = 50.0
    gain_db: float = 5.0
    noise: Noise = field(default_factory=Noise)
    seed: int = 7
    lead: int = 0
    unsteady_m: float = 0.0
    _paths: dict[tuple[int, Spot, float], FloatArray] = field(default_factory=dict, repr=False)

    @property
    def taps(self) -> int:
        """How many samples a path's impulse response has."""
        return round(TAPS_S * self.rate)

    def seat(self, index: int) -> Seat:
        """The driver on output `index` (from 0). Raises LookupError where none hangs there."""
        found = self.seats[index]
        if found is None:
            raise LookupError(f"nothing hangs on output {index + 1}")
        return found

    def turned_backwards(self, index: int) -> "Cabin":
        """The same space with the wires of one driver exchanged."""
        seats = list(self.seats)
        seat = self.seat(index)
        seats[index] = replace(seat, wired_backwards=not seat.wired_backwards)
        return replace(self, seats=tuple(seats), _paths={})

    def impulse(self, index: int, spot: Spot = MIDDLE, turned_deg: float = 0.0) -> FloatArray:
        """The linear impulse response (taps,) from output `index` (from 0) to a spot, in pascals, `lead` late.

        `turned_deg` is how far the driver is turned about the upright, where its path knows of it.
        """
        key = (index, (round(spot[0], 4), round(spot[1], 4)), turned_deg)
        if key not in self._paths:
            self._paths[key] = self._make(index, *key[1:])
        return self._paths[key]

    def _make(self, index: int, spot: Spot, turned_deg: float) -> FloatArray:
        """Arrivals through the driver's own filters; modes and cabin gain added where the space is small."""
        seat = self.seat(index)
        made = self._way(seat, seat.driver, seat.path, seat.radius_m, index, spot, turned_deg)
        if seat.passive is not None:
            above = seat.passive
            high = self._way(seat, above.driver, above.path, above.radius_m, index, spot, turned_deg)
            made = scipy.signal.sosfilt(low_pass(2, above.hertz, self.rate), made)
            made -= scipy.signal.sosfilt(high_pass(2, above.hertz, self.rate), high)
        return -made if seat.wired_backwards else made

    def _way(
        self, seat: Seat, driver: DriverModel, path: Path, radius_m: float, index: int, spot: Spot, turned_deg: float
    ) -> FloatArray:
        air = Air(self.taps, self.rate, speed_of_sound(self.celsius), self.lead)
        heard = path.impulse(spot, air, np.random.default_rng([self.seed, index]), radius_m, turned_deg)
        if turned_deg and not path.turns:
            size = 2 * scipy.fft.next_fast_len(self.taps, real=True)
            fallen = piston(scipy.fft.rfftfreq(size, 1 / self.rate), turned_deg, radius_m)
            heard = scipy.fft.irfft(scipy.fft.rfft(heard, size) * fallen, size)[: self.taps]
        low = np.zeros(self.taps)
        weights = seat.mode_weights or (1.0,) * len(self.modes)
        for mode, weight in zip(self.modes, weights, strict=True):
            rings = resonance(mode.hertz, mode.q, self.rate, height=10 ** (mode.level_db / 20))
            low += weight * scipy.signal.sosfilt(rings, heard)
        low += (10 ** (self.gain_db / 20) - 1) * scipy.signal.sosfilt(
            low_pass(2, self.gain_corner_hz, self.rate), heard
        )
        return self._driver(driver, heard + low)

    def _driver(self, model: DriverModel, samples: FloatArray) -> FloatArray:
        sections = [
            closed_box(model.resonance_hz, model.resonance_q, self.rate),
            low_pass(model.roll_off_order, model.roll_off_hz, self.rate),
            *(
                resonance(hertz, q, self.rate, through=1.0, height=10 ** (level_db / 20) - 1)
                for hertz, level_db, q in model.peaks
            ),
        ]
        return 20e-6 * 10 ** (model.sensitivity_db / 20) * scipy.signal.sosfilt(np.concatenate(sections), samples)

    def truth(self, index: int, frequencies: FloatArray, spot: Spot = MIDDLE, turned_deg: float = 0.0) -> np.ndarray:
        """For tests: the exact linear response in pascals per unit of full scale, by the sum that defines it.

        The sum is taken row by row of a square of samples: so the turns within a row are made once for all rows.
        """
        impulse = self.impulse(index, spot, turned_deg)
        row = int(np.ceil(np.sqrt(impulse.size)))
        square = np.pad(impulse, (0, row * row - impulse.size)).reshape(row, row)
        turns = -2j * np.pi / self.rate * np.asarray(frequencies)[:, None]
        within = np.exp(turns * np.arange(row)) @ square.T
        begins = np.exp(turns * (row * np.arange(row) - self.lead))
        return np.asarray(np.sum(within * begins, axis=1))

    def true_mean(self, index: int, frequencies: FloatArray) -> FloatArray:
        """For tests: the exact mean power (n,) over the tour of a moving microphone, by the gains of its crossfades."""
        stops = [self.truth(index, frequencies, spot) for spot in tour()]
        legs = zip(stops, stops[1:] + stops[:1], strict=True)
        own, shared = crossfaded(together(frequencies))
        mean = [own * (np.abs(a) ** 2 + np.abs(b) ** 2) + 2 * shared * np.real(a * np.conjugate(b)) for a, b in legs]
        return np.mean(mean, axis=0)


def crossfaded(together: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Of the gains of two stops over a leg between them: the mean square of each, and the mean product of both (n,).

    The gains are t (1 - a) + (1 - t) cos(pi a / 2), and the same from the other end, with a from 0 to 1.
    """
    t, rest = together, 1.0 - together
    own = t**2 / 3 + rest**2 / 2 + 2 * t * rest * 4 / np.pi**2
    shared = t**2 / 6 + rest**2 / np.pi + 2 * t * rest * (2 / np.pi - 4 / np.pi**2)
    return own, shared


def together(frequencies: FloatArray) -> FloatArray:
    """How much of the crossfade between two stops goes by pressure (n,), the rest by power: so that in a diffuse field
    no power is lost on the way.

    In such a field two points d apart are coherent by sin(k d) / (k d) (R. K. Cook et al., JASA 27, 1955).
    """
    spots = np.array(tour())
    apart = float(np.linalg.norm(np.diff(spots, axis=0), axis=1).mean())
    alike = np.sinc(2 * frequencies * apart / speed_of_sound(20.0))
    trial, known = np.linspace(0.0, 1.0, 201), np.linspace(alike.min(), 1.0, 201)
    own, shared = crossfaded(trial)
    # By power alone too much comes through where both are alike, by pressure alone too little where they are not.
    power = 2 * (own[None, :] + known[:, None] * shared[None, :])
    found = trial[np.abs(power - 1.0).argmin(axis=1)]
    return np.interp(alike, known, found)


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
