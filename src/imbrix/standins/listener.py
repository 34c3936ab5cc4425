"""A listener in the stand-ins' place: two ears, and where a band of noise stands for them.

What comes first tells where a sound stands, so that only the direct sound of each driver counts (H. Wallach et al.,
"The precedence effect in sound localization", American Journal of Psychology 62, 1949). It is heard through the
processor as it stands, sample by sample. The head is not the one that the advice reckons with.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.signal.signal import FloatArray
from imbrix.core.system.layout import Group
from imbrix.standins.cabin import Cabin, Seat
from imbrix.standins.interface import StandinInterface
from imbrix.standins.paths import RoomPath, ScatteredPath
from imbrix.standins.places.place import Wiring

BOTH_EARS_S, FAR_EAR_HZ, FAR_EAR_LEAST = 0.27e-3, 1000.0, 0.24
"""How much later the far ear hears, from where on it hears less treble, and what is left of that."""
WAVE_HZ = 800.0
LATEST_S = 0.7e-3
ODD_DB, EASED_HZ, ASIDE_DB = 2.0, 700.0, 10.0
ALIKE = 0.12
HAND = 0.04
"""How far off marks are put, as a standard deviation."""
SIZE = 2**15
SILENT = 1e-24
PULSE_HELD_S = 0.3


@dataclass(frozen=True)
class Ears:
    """How the ears of a listener differ from a microphone: by octave, how much louder the left side is for them, in dB,
    and by which angle it is ahead, in degrees; each fades out over an octave to both sides."""

    louder: tuple[tuple[float, float], ...] = ()
    ahead: tuple[tuple[float, float], ...] = ()

    def left_over_right(self, hertz: FloatArray) -> np.ndarray:
        """What they add to the left side over the right one (n,)."""
        level = sum((db * _about(hertz, hz) for hz, db in self.louder), np.zeros(hertz.size))
        angle = sum((deg * _about(hertz, hz) for hz, deg in self.ahead), np.zeros(hertz.size))
        return np.asarray(10 ** (level / 20) * np.exp(1j * np.radians(angle)))


def drawn(seed: int) -> Ears:
    """Ears drawn from a number, from 1; 0 are those of a head in the middle. One to three octaves are 1 to 6 dB off, or
    one is 60 to 180 degrees, by turns, every third has both."""
    if not seed:
        return Ears()
    random = np.random.default_rng([seed, 20])
    octaves = random.choice([125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0], random.integers(1, 4), replace=False)
    louder = tuple((float(hz), float(random.choice([-1, 1]) * random.uniform(1, 6))) for hz in octaves)
    ahead = ((float(random.choice([250.0, 500.0])), float(random.choice([-1, 1]) * random.uniform(60, 180))),)
    return Ears(louder if seed % 3 != 1 else (), ahead if seed % 3 != 2 else ())


def hear(interface: StandinInterface, hz: float, octaves: float, seed: int = 0) -> tuple[float, float] | None:
    """Where noise an octave wide, or a part of one, stands for a person in the place, from -1 at the left loudspeakers
    to 1 at the right ones: two places where it falls in two, twice the same where it does not.

    None where nothing sounds. `seed` moves the hand that puts the marks.
    """
    rate = interface.inner_rate
    pulse = np.zeros(SIZE)
    pulse[0] = 1e-3
    outputs = interface.processor.stream(len(interface.cabin.seats)).process(pulse) / pulse[0]
    spectra = scipy.fft.rfft(outputs, axis=0).T
    hertz = scipy.fft.rfftfreq(SIZE, 1 / rate)
    sides = _sides(_dry(interface.wired()), interface.stands.wiring, interface.sounding, spectra, hertz)
    ears = drawn(interface.practice.ears).left_over_right(hertz)
    left, right = sides["left"] * np.sqrt(ears), sides["right"] / np.sqrt(ears)
    return stands(left, right, sides["both"], rate, hz, octaves, seed)


def stands(
    left: np.ndarray, right: np.ndarray, middle: np.ndarray, rate: int, hz: float, octaves: float, seed: int = 0
) -> tuple[float, float] | None:
    """Where a band stands that comes from left, right and middle by spectra (n,) of `SIZE` samples at `rate`."""
    hertz = scipy.fft.rfftfreq(SIZE, 1 / rate)
    inside = (hertz >= hz * 2 ** (-octaves / 2)) & (hertz <= hz * 2 ** (octaves / 2))
    pink = np.where(inside, 1 / np.sqrt(np.maximum(hertz, 1.0)), 0.0)
    random = np.random.default_rng([seed, round(hz)])
    noise = pink * np.exp(2j * np.pi * random.uniform(size=hertz.size))
    dulled = FAR_EAR_LEAST + (1 - FAR_EAR_LEAST) / (1 + 1j * hertz / FAR_EAR_HZ)
    far = dulled * np.exp(-2j * np.pi * hertz * BOTH_EARS_S)
    at_left = scipy.fft.irfft(noise * (left + far * right + middle), SIZE)
    at_right = scipy.fft.irfft(noise * (right + far * left + middle), SIZE)
    if max(np.mean(at_left**2), np.mean(at_right**2)) < SILENT:
        return None
    natural_db = float(-10 * np.log10(np.sum(np.abs(noise * far) ** 2) / np.sum(np.abs(noise) ** 2)))
    if hz > WAVE_HZ:
        each = [np.sum(np.abs(noise * one) ** 2) for one in (left, right, far * left, far * right, middle)]
        unlike = float(10 * np.log10((each[1] + each[2] + each[4]) / (each[0] + each[3] + each[4])))
        places = (unlike / natural_db, unlike / natural_db)
    else:
        alone_s = float(-np.angle(np.interp(hz, hertz, far)) / (2 * np.pi * hz))
        places = _by_wave(at_left, at_right, rate, hz, alone_s, natural_db)
    off = random.normal(0, HAND)
    marks = [float(np.clip(one + off * (abs(one) < 1), -1, 1)) for one in places]
    return marks[0], marks[1]


def _by_wave(
    left: FloatArray, right: FloatArray, rate: int, hz: float, alone_s: float, natural_db: float
) -> tuple[float, float]:
    """Where the time between two ears, and their levels, put a sound; a loudspeaker alone makes `alone_s` and
    `natural_db`."""
    most = round(LATEST_S * rate)
    lags = np.arange(-most, most + 1)
    agree = np.array([np.dot(right, np.roll(left, lag)) for lag in lags])
    agree /= np.linalg.norm(left) * np.linalg.norm(right)
    first = int(agree.argmax())
    place = float(np.clip(-lags[first] / rate / alone_s, -1, 1))
    if abs(place) > 0.9 and agree[agree.size - 1 - first] > agree[first] - ALIKE:
        return place, -place
    unlike = 10 * np.log10(np.dot(right, right) / np.dot(left, left))
    if abs(unlike - natural_db * place) > ODD_DB * (1 + hz / EASED_HZ):
        return place, float(np.clip(unlike / ASIDE_DB, -1, 1))
    return place, place


def _sides(
    cabin: Cabin, wiring: Wiring, sounding: Callable[[int], int], spectra: np.ndarray, hertz: FloatArray
) -> Mapping[str, np.ndarray]:
    """The direct sound (n,) of each side's drivers; what stands behind comes too late to count."""
    total = {side: np.zeros(hertz.size, dtype=complex) for side in ("left", "right", "both")}
    lead = np.exp(2j * np.pi * hertz * cabin.lead / cabin.rate)
    for output in range(1, len(cabin.seats) + 1):
        hangs = wiring.get(sounding(output))
        if hangs is None or hangs.group == Group.REAR or not spectra[output - 1].any():
            continue
        impulse = cabin.impulse(sounding(output) - 1)[: round(PULSE_HELD_S * cabin.rate)]
        at = np.abs(scipy.fft.rfftfreq(SIZE, 1 / cabin.rate))
        way = scipy.fft.rfft(impulse, SIZE)
        there = np.interp(hertz, at, way.real) + 1j * np.interp(hertz, at, way.imag)
        total[hangs.side] += spectra[output - 1] * there * lead
    return total


def _dry(cabin: Cabin) -> Cabin:
    """The space without its reflections and modes."""
    return replace(cabin, seats=tuple(one and _bare(one) for one in cabin.seats), modes=(), gain_db=0.0, _paths={})


def _bare(seat: Seat) -> Seat:
    path = seat.path
    if isinstance(path, ScatteredPath):
        path = replace(path, reflections=())
    if isinstance(path, RoomPath):
        path = replace(path, room=replace(path.room, walls=(0.0,) * 6, until_s=0.05))
    return replace(seat, path=path, mode_weights=())


def _about(hertz: FloatArray, hz: float) -> FloatArray:
    return np.exp(-0.5 * (np.log2(np.maximum(hertz, 1.0) / hz) / 0.4) ** 2)
