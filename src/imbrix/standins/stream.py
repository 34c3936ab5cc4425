"""A space at work: blocks of amplifier samples in, blocks of sound pressure at the microphones out."""

from collections.abc import Sequence

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.signal.signal import FloatArray
from imbrix.standins.cabin import STOPS, TAPS_S, TOUR_S, Buzz, Cabin, at_rate, together, tour
from imbrix.standins.noise import NoiseStream
from imbrix.standins.paths import MIDDLE, Spot


class CabinStream:
    """Blocks (n, outputs) of amplifier samples in, blocks (n, 1 + others) of pascals out.

    Each driver's harmonics arise before its linear path; the paths are convolved by overlap-save. A moving
    microphone travels from stop to stop of its tour; between two of them their sounds are crossfaded so that no power
    is lost: by pressure where the two still hear the same, by power where they do not. `others` are
    further microphones, metres from `spot`; `turned_deg` is how far the drivers are turned away. `rate` is that of
    the samples, where it is not the cabin's own: the cabin stays the same.
    """

    def __init__(
        self,
        cabin: Cabin,
        block: int,
        noise: np.random.Generator | None = None,
        spot: Spot = MIDDLE,
        moving: bool = False,
        others: Sequence[Spot] = (),
        turned_deg: float = 0.0,
        rate: int | None = None,
    ) -> None:
        self.cabin = cabin
        self.rate = rate or cabin.rate
        taps = round(TAPS_S * self.rate)
        self.block = block
        self._noise = None if noise is None else NoiseStream(cabin.noise, self.rate, noise)
        self._spots = tour() if moving else [spot]
        self._fixed = len(self._spots)
        self._spots += [(spot[0] + x, spot[1] + y) for x, y in others]
        self._moving = moving
        self._time = 0
        self._size = scipy.fft.next_fast_len(taps + block - 1, real=True)
        self._together = together(scipy.fft.rfftfreq(self._size, 1 / self.rate)) if moving else None
        self._turned_deg = turned_deg
        self._spectra: dict[tuple[int, int], np.ndarray] = {}
        self._history = np.zeros((len(cabin.seats), taps - 1 + block))
        self._sounding = [False] * len(cabin.seats)
        self._rattles = {
            index: _Rattle(seat.buzz, self.rate) for index, seat in enumerate(cabin.seats) if seat and seat.buzz
        }

    def process(self, outputs: FloatArray) -> FloatArray:
        """One block (n, outputs) with n at most `block`; returns (n, 1 + others) pascals at the microphones."""
        count = outputs.shape[0]
        stops, weights = self._where(count)
        others = range(self._fixed, len(self._spots))
        totals: dict[int, np.ndarray | float] = dict.fromkeys([*stops, *others], 0.0)
        for index, seat in enumerate(self.cabin.seats[: outputs.shape[1]]):
            if seat is None:
                continue
            drive = outputs[:, index]
            past = self._history[index]
            self._sounding[index] = bool(drive.any()) or (self._sounding[index] and bool(past[count:].any()))
            if not self._sounding[index]:
                continue
            past[:-count] = past[count:]
            past[-count:] = drive + seat.driver.second * drive**2 + seat.driver.third * drive**3
            if index in self._rattles:
                past[-count:] += self._rattles[index].process(drive)
            spectrum = scipy.fft.rfft(past, self._size)
            for stop in totals:
                totals[stop] = totals[stop] + spectrum * self._path(index, stop)
        heard = np.zeros((count, 1 + len(others)))
        if any(self._sounding):
            end = self._history.shape[1]
            for stop, share in zip(stops, weights, strict=True):
                if self._together is None:
                    heard[:, 0] += scipy.fft.irfft(totals[stop], self._size)[end - count : end]
                    continue
                both = np.stack((totals[stop] * self._together, totals[stop] * (1.0 - self._together)))
                near, far = scipy.fft.irfft(both, self._size)[:, end - count : end]
                heard[:, 0] += share * near + np.sin(np.pi / 2 * share) * far
            for column, stop in enumerate(others, 1):
                heard[:, column] = scipy.fft.irfft(totals[stop], self._size)[end - count : end]
        self._time += count
        if self._noise is not None:
            heard += self._noise.block(count)[:, None]
        return heard

    def _path(self, index: int, stop: int) -> np.ndarray:
        if (index, stop) not in self._spectra:
            impulse = self.cabin.impulse(index, self._spots[stop], self._turned_deg)
            self._spectra[index, stop] = scipy.fft.rfft(at_rate(impulse, self.cabin.rate, self.rate), self._size)
        return self._spectra[index, stop]

    def _where(self, count: int) -> tuple[list[int], list[FloatArray]]:
        """The stops that this block is heard at, and the share (count,) of each over the block."""
        if not self._moving:
            return [0], [np.ones(count)]
        way = (self._time + np.arange(count)) / self.rate / TOUR_S * STOPS
        first, last = int(np.floor(way[0])), int(np.floor(way[-1])) + 1
        numbers = range(first, last + 1)
        return [n % STOPS for n in numbers], [np.clip(1 - np.abs(way - n), 0, 1) for n in numbers]


class _Rattle:
    """What is loose knocks once a swing, as hard as the swing goes beyond what it can bear."""

    def __init__(self, buzz: Buzz, rate: int) -> None:
        self._from = 10 ** (buzz.from_dbfs / 20)
        self._level = 10 ** (buzz.level_db / 20)
        self._swing = scipy.signal.butter(1, (buzz.hertz / 1.15, buzz.hertz * 1.15), "bandpass", fs=rate, output="sos")
        self._rings = scipy.signal.butter(
            1, (buzz.rings_hz / 1.3, buzz.rings_hz * 1.3), "bandpass", fs=rate, output="sos"
        )
        self._states = [np.zeros((self._swing.shape[0], 2)), np.zeros((self._rings.shape[0], 2))]

    def process(self, drive: FloatArray) -> FloatArray:
        """A block (n,) of what the driver is given; returns the rattle (n,) as if the driver had been given it."""
        swing, self._states[0] = scipy.signal.sosfilt(self._swing, drive, zi=self._states[0])
        knock = np.maximum(swing - self._from, 0.0)
        made, self._states[1] = scipy.signal.sosfilt(self._rings, knock, zi=self._states[1])
        return self._level * made * 8.0
