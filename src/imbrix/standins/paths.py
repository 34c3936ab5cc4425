"""Ways of the sound from a driver to the microphone: scattered arrivals, a room's image sources, an ear's tube.

Every path gives the pressure at a spot as an impulse response, over that at 1 m in free air.
"""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.look.directivity import piston
from imbrix.core.signal.signal import FloatArray
from imbrix.standins.sections import high_pass, low_pass

_SINC_HALF = 32
_NEAREST_M = 0.1
_STEPS = 64
"""Fractions of a sample that late arrivals are rounded to."""
Spot = tuple[float, float]
"""Where a microphone stands: metres to the right and forward of the middle of the head."""
MIDDLE: Spot = (0.0, 0.0)


@dataclass(frozen=True)
class Air:
    """What the sound runs through: impulse responses of `taps` samples at `rate`, `lead` samples of silence before
    them, and the speed of sound in m/s."""

    taps: int
    rate: int
    speed: float
    lead: int = 0


class Path(Protocol):
    """A way to the microphone. `turns` says whether turning the driver is in the path already."""

    @property
    def turns(self) -> bool: ...

    def impulse(
        self, spot: Spot, air: Air, random: np.random.Generator, radius_m: float, turned_deg: float
    ) -> FloatArray: ...


@dataclass(frozen=True)
class ScatteredPath:
    """From driver to microphone: distance and reflections (extra metres, dB, low-pass hertz).

    The direct sound comes from `from_deg`, clockwise from straight ahead; each reflection, and what has no such
    direction, from one of its own, drawn at random: the spot makes its way longer or shorter.
    """

    distance_m: float
    reflections: tuple[tuple[float, float, float], ...]
    from_deg: float | None = None
    turns = False

    def impulse(
        self, spot: Spot, air: Air, random: np.random.Generator, radius_m: float = 0.0, turned_deg: float = 0.0
    ) -> FloatArray:
        made = np.zeros(air.taps)
        turns = random.uniform(0, 2 * np.pi, len(self.reflections) + 1)
        if self.from_deg is not None:
            turns[0] = np.radians(90.0 - self.from_deg)
        nearer = spot[0] * np.cos(turns) + spot[1] * np.sin(turns)
        distance = max(_NEAREST_M, self.distance_m - float(nearer[0]))
        arrive(made, air.lead + distance / air.speed * air.rate, 1.0 / distance)
        for n, (extra, level_db, corner) in enumerate(self.reflections, 1):
            length = max(_NEAREST_M, self.distance_m + extra - float(nearer[n]))
            dulled = low_pass(1, corner, air.rate)
            # Its tail is followed until nothing of it is left in a double's precision.
            pole = max(1e-3, abs(float(dulled[0, 4])))
            at = air.lead + length / air.speed * air.rate
            first = min(max(0, int(at) - _SINC_HALF), air.taps - 1)
            echo = np.zeros(min(air.taps - first, 2 * _SINC_HALF + int(np.log(1e-18) / np.log(pole))))
            arrive(echo, at - first, 10 ** (level_db / 20) / length)
            made[first : first + echo.size] += scipy.signal.sosfilt(dulled, echo)
        return made


@dataclass(frozen=True)
class TubePath:
    """From a capsule through a short tube to the coupler's microphone: a wave that runs to and fro between both ends.

    `distance_m` is the tube's length; `ends` are the reflection coefficients at the microphone and at the capsule.
    A leak lets the pressure out below `leak_hz` (first order). The level does not fall with distance in a tube;
    that of the driver is meant for it.
    """

    distance_m: float
    ends: tuple[float, float] = (0.72, 0.55)
    bounce_hz: float = 9000.0
    leak_hz: float = 4.0
    turns = True

    def impulse(
        self, spot: Spot, air: Air, random: np.random.Generator, radius_m: float = 0.0, turned_deg: float = 0.0
    ) -> FloatArray:
        made = np.zeros(air.taps)
        once = low_pass(1, self.bounce_hz, air.rate)
        pulse = np.zeros(air.taps)
        # A probe that is not pushed quite so deep hears the same tube a little shorter.
        length = max(0.2 * self.distance_m, self.distance_m - 0.01 * spot[1])
        strength, both = 1.0, self.ends[0] * self.ends[1]
        runs = 0
        while strength > 1e-5:
            pulse[:] = 0
            arrive(pulse, air.lead + length * (2 * runs + 1) / air.speed * air.rate, strength * (1 + self.ends[0]))
            for _ in range(runs):
                pulse = scipy.signal.sosfilt(once, pulse)
            made += pulse
            strength, runs = strength * both, runs + 1
        return scipy.signal.sosfilt(high_pass(1, self.leak_hz, air.rate), made)


@dataclass(frozen=True)
class Shoebox:
    """A rectangular room: its size in metres (right, forward, up), and what its six surfaces keep of the pressure.

    `walls` are reflection coefficients in the order left, right, behind, before, floor, ceiling; each reflection
    loses its treble above `bounce_hz` (first order).
    """

    size: tuple[float, float, float]
    walls: tuple[float, float, float, float, float, float]
    bounce_hz: float = 9000.0
    until_s: float = 0.25


@dataclass(frozen=True)
class RoomPath:
    """From a loudspeaker in a room to the microphone, by image sources (J. B. Allen and D. A. Berkley, JASA 1979).

    `source` and `head` are metres from the left, rear, lower corner; the loudspeaker faces the head. It radiates as
    a piston does: the first reflections by their own angles, the later ones by the mean of all directions.
    """

    room: Shoebox
    source: tuple[float, float, float]
    head: tuple[float, float, float]
    turns = True

    @property
    def distance_m(self) -> float:
        """The direct way to the middle of the head."""
        return float(np.linalg.norm(np.subtract(self.head, self.source)))

    def impulse(
        self, spot: Spot, air: Air, random: np.random.Generator, radius_m: float = 0.0, turned_deg: float = 0.0
    ) -> FloatArray:
        there = np.array(self.head) + np.array([spot[0], spot[1], 0.0])
        images, mirrors, strength, bounces = self._images(there, air.speed)
        ways = there - images
        length = np.linalg.norm(ways, axis=1)
        late = bounces > 2
        at = air.lead + length / air.speed * air.rate
        groups = np.zeros((int(bounces.max()) + 1, air.taps))
        _scatter(groups, bounces[late], at[late], strength[late] / length[late])
        size = scipy.fft.next_fast_len(2 * air.taps, real=True)
        hertz = scipy.fft.rfftfreq(size, 1 / air.rate)
        dulled = 1 / (1 + 1j * hertz / self.room.bounce_hz)
        spectrum = np.zeros(hertz.size, dtype=complex)
        for one in scipy.fft.rfft(groups[:2:-1], size):  # Horner: those that bounced most are dulled most
            spectrum = (spectrum + one) * dulled
        spectrum = spectrum * dulled**2 * _everywhere(hertz, radius_m)
        facing = _turned(np.subtract(self.head, self.source), turned_deg)
        for n in np.flatnonzero(~late):
            pulse = np.zeros(air.taps)
            arrive(pulse, float(at[n]), float(strength[n] / length[n]))
            angle = _angle(ways[n] * mirrors[n], facing)
            spectrum += (
                scipy.fft.rfft(pulse, size) * dulled ** int(bounces[n]) * piston(hertz, min(angle, 90.0), radius_m)
            )
        return scipy.fft.irfft(spectrum, size)[: air.taps] * _faded(air, self.room.until_s)

    def _images(self, there: FloatArray, speed: float) -> tuple[FloatArray, FloatArray, FloatArray, np.ndarray]:
        """All images within reach: places (n, 3), mirrored axes (n, 3) of 1 or -1, strengths and bounces (n,)."""
        most = self.room.until_s * speed
        axes = []
        for axis, size in enumerate(self.room.size):
            deep = int(np.ceil(most / (2 * size))) + 1
            m, q = (one.ravel() for one in np.meshgrid(np.arange(-deep, deep + 1), (0, 1), indexing="ij"))
            low, high = np.abs(m - q), np.abs(m)
            keeps = self.room.walls[2 * axis] ** low * self.room.walls[2 * axis + 1] ** high
            axes.append(((1 - 2 * q) * self.source[axis] + 2 * m * size, 1.0 - 2 * q, keeps, low + high))
        near = [np.abs(place - there[axis]) <= most for axis, (place, *_) in enumerate(axes)]
        kept = [[part[mask] for part in one] for one, mask in zip(axes, near, strict=True)]
        squares = [(place[0] - there[axis]) ** 2 for axis, place in enumerate(kept)]
        distance = squares[0][:, None, None] + squares[1][None, :, None] + squares[2][None, None, :]
        i, j, k = np.nonzero(distance <= most**2)
        chosen = [[part[index] for part in one] for one, index in zip(kept, (i, j, k), strict=True)]
        images, mirrors = (np.stack([one[n] for one in chosen], axis=1) for n in (0, 1))
        return images, mirrors, np.prod([one[2] for one in chosen], axis=0), np.sum([one[3] for one in chosen], axis=0)


def _turned(facing: FloatArray, degrees: float) -> FloatArray:
    """A direction turned about the upright."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([c * facing[0] - s * facing[1], s * facing[0] + c * facing[1], facing[2]])


def _angle(one: FloatArray, other: FloatArray) -> float:
    cosine = one @ other / np.linalg.norm(one) / np.linalg.norm(other)
    return float(np.degrees(np.arccos(np.clip(cosine, -1, 1))))


def _everywhere(hertz: FloatArray, radius_m: float) -> FloatArray:
    """The pressure (n,) of a piston in the mean of all directions before it, by power."""
    angles = np.arange(2.5, 90, 5.0)
    weights = np.sin(np.radians(angles))
    power = sum(weight * piston(hertz, angle, radius_m) ** 2 for weight, angle in zip(weights, angles, strict=True))
    return np.sqrt(power / weights.sum())


def _faded(air: Air, until_s: float) -> FloatArray:
    """One (n,) that fades out over the last fifth of what the images reach to."""
    since = (np.arange(air.taps) - air.lead) / air.rate / until_s
    return np.cos(np.pi / 2 * np.clip((since - 0.8) / 0.2, 0, 1)) ** 2


def _scatter(groups: FloatArray, which: np.ndarray, at: FloatArray, amounts: FloatArray) -> None:
    """Add many arrivals (n,) to rows of `groups` (g, taps), each at the nearest 1/64 of a sample."""
    steps = np.round(at * _STEPS).astype(int)
    whole, part = np.divmod(steps, _STEPS)
    offsets = np.arange(-_SINC_HALF + 1, _SINC_HALF + 1)
    table = np.array([_pulse(np.asarray(offsets - fraction / _STEPS, dtype=float)) for fraction in range(_STEPS)])
    taps = groups.shape[1]
    padded = np.zeros((groups.shape[0], taps + 2 * _SINC_HALF))
    inside = (whole >= 0) & (whole < taps)
    for some in np.array_split(np.flatnonzero(inside), max(1, inside.sum() // 20_000)):
        places = which[some, None] * padded.shape[1] + whole[some, None] + offsets + _SINC_HALF
        added = np.bincount(places.ravel(), (amounts[some, None] * table[part[some]]).ravel(), padded.size)
        padded += added.reshape(padded.shape)
    groups += padded[:, _SINC_HALF:-_SINC_HALF]


def _pulse(away: FloatArray) -> FloatArray:
    """A Blackman-windowed sinc (n,) at so many samples from its middle."""
    window = np.blackman(2 * _SINC_HALF + 2)[1:-1]
    shape = np.interp(away, np.arange(-_SINC_HALF, _SINC_HALF) + 0.5, window, left=0, right=0)
    return np.sinc(away) * shape


def arrive(air: FloatArray, at: float, amount: float) -> None:
    """Add an arrival at a fractional sample by a Blackman-windowed sinc."""
    whole = int(np.floor(at))
    n = np.arange(whole - _SINC_HALF + 1, whole + _SINC_HALF + 1)
    inside = (n >= 0) & (n < air.size)
    air[n[inside]] += amount * _pulse(np.asarray(n - at, dtype=float))[inside]
