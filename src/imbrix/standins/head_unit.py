"""A simulated head unit: what a factory does to a track on its way to the wires, with a clock of its own."""

from dataclasses import dataclass, replace

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import soxr

from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune import biquad
from imbrix.core.tune.biquad import Section

RATE = 48_000
"""The rate at which it computes inside."""
CHIME_S = 2.9
"""How often a chime sounds where one does."""
RUN_IN = 24_000
"""Samples that its filters run in by, where it has been playing."""
STEPS = 40
"""Of its volume."""
FULL_DBFS = 12.0
"""What a full-scale track would come to at the recorder's input from a flat channel at full volume: more than it can.
"""


@dataclass(frozen=True)
class Wire:
    """One pair of its wires: how much of left and right it carries, and what the factory does to that.

    `bands` are bells and shelves as (kind, hertz, dB, Q), `passes` all-passes as (hertz, Q), of the first order where Q
    is 0, `delay_s` a delay, `high_pass_hz` a second-order Butterworth.
    """

    mix: tuple[float, float]
    gain_db: float = 0.0
    inverted: bool = False
    delay_s: float = 0.0
    high_pass_hz: float | None = None
    bands: tuple[tuple[str, float, float, float], ...] = ()
    passes: tuple[tuple[float, float], ...] = ()

    def sections(self, bass_db: float = 0.0) -> FloatArray:
        """Its filters (s, 6) at the inner rate."""
        rows: list[Section] = []
        made = {"bell": biquad.peaking, "low": biquad.low_shelf, "high": biquad.high_shelf}
        if self.high_pass_hz:
            rows += [tuple(row) for row in scipy.signal.butter(2, self.high_pass_hz, "high", fs=RATE, output="sos")]
        rows += [made[kind](hertz, gain, q, RATE) for kind, hertz, gain, q in self.bands]
        rows += [
            biquad.all_pass(hertz, q, RATE) if q else biquad.first_all_pass(hertz, RATE) for hertz, q in self.passes
        ]
        if bass_db:
            rows.append(biquad.low_shelf(90.0, bass_db, 0.7, RATE))
        return np.array(rows, dtype=float).reshape(-1, 6)


@dataclass(frozen=True)
class HeadUnit:
    """A unit with its wires. Its clock runs faster than true by `ppm`; `lift_db` of bass go away above half volume."""

    name: str
    wires: tuple[Wire, ...]
    ppm: float = 0.0
    lift_db: float = 0.0
    noise_dbfs: float = -92.0

    def truth(self, wire: int, frequencies: FloatArray, volume: int = 28) -> np.ndarray:
        """What a wire (from 1) does (n,) with a signal on all that it carries, its level at that volume with it."""
        one = self.wires[wire - 1]
        sos = one.sections(self._lift(volume))
        values = np.ones(frequencies.size, dtype=complex)
        if sos.size:
            values = scipy.signal.sosfreqz(sos, 2 * np.pi * frequencies / RATE)[1]
        turned = np.exp(-2j * np.pi * frequencies * one.delay_s)
        return np.asarray(values * turned * self._factor(one, volume) * sum(one.mix))

    def _lift(self, volume: int) -> float:
        return self.lift_db * max(0.0, 1 - max(0, volume - STEPS // 2) / 8)

    def _factor(self, one: Wire, volume: int) -> float:
        # One decibel a step, as such units have it (common practice, no source).
        level = FULL_DBFS + one.gain_db - 1.0 * (STEPS - volume)
        return (-1.0 if one.inverted else 1.0) * 10 ** (level / 20)

    def _knobs(self, number: int, fader: int, balance: int) -> float:
        """What fader and balance leave of a wire: the first two are in front, the next two in the rear; ten steps from
        the middle to silence, the other end staying as it is."""
        left, right = self.wires[number - 1].mix
        away = max(0, fader) if number <= 2 else max(0, -fader) if number <= 4 else 0
        aside = max(0, balance) if left > right else max(0, -balance) if right > left else 0
        return float(np.prod([0.0 if each >= 10 else 10 ** (-each * 3 / 20) for each in (away, aside)]))

    def play(
        self,
        track: FloatArray,
        size: int,
        rate: int,
        wires: tuple[int, ...],
        random: np.random.Generator,
        volume: int = 28,
        stops_s: float | None = None,
        chime: bool = False,
        goes_on_s: float | None = None,
        fader: int = 0,
        balance: int = 0,
    ) -> FloatArray:
        """What a recorder (`rate`) hears in `size` samples of some of its wires (from 1) while it plays a track (m, 2)
        at the inner rate, round and round from anywhere, or on from `goes_on_s` after its start; (size, wires).
        """
        need = round(size / rate * RATE * (1 + 2e-4)) + 512
        begins = 0.0 if goes_on_s is None else goes_on_s * RATE * (1 + self.ppm * 1e-6)
        ran_in = 0 if goes_on_s is None else RUN_IN
        start = int(random.integers(track.shape[0])) if goes_on_s is None else int(begins) - ran_in
        need += ran_in
        sound = np.take(track, np.arange(start, start + need), axis=0, mode="wrap")
        if stops_s is not None:
            sound[round(stops_s * RATE) :] = 0.0
        if chime:
            at = np.mod(np.arange(need) / RATE, CHIME_S)
            ring = 0.3 * np.sin(2 * np.pi * 880 * at) * np.exp(-at / 0.3)
            sound = sound + ring[:, None]
        out = np.zeros((size, len(wires)))
        for n, number in enumerate(wires):
            one = self.wires[number - 1]
            mixed = sound @ np.array(one.mix)
            sos = one.sections(self._lift(volume))
            filtered = scipy.signal.sosfilt(sos, mixed) if sos.size else mixed
            level = self._factor(one, volume) * self._knobs(number, fader, balance) * filtered
            moments = np.arange(size) / rate * RATE * (1 + self.ppm * 1e-6)
            at_recorder = _at(level, moments + begins % 1 + ran_in - one.delay_s * RATE)
            out[:, n] = _limited(at_recorder)
        return out + 10 ** (self.noise_dbfs / 20) * random.standard_normal(out.shape)


RAIL, SOFT = 0.9, 0.6
"""Where its amplifier clips, and from where on it bends."""


def _limited(samples: FloatArray) -> FloatArray:
    """Soft from `SOFT` on, hard at `RAIL`."""
    over = np.abs(samples) - SOFT
    if over.max() <= 0:
        return samples
    room = RAIL - SOFT
    return np.where(over > 0, np.sign(samples) * (SOFT + room * np.tanh(np.maximum(over, 0) / room)), samples)


OVER = 4


def _at(samples: FloatArray, where: FloatArray) -> FloatArray:
    """Samples (m,) between their places: fourfold oversampled, then by quintic splines (-100 dB up to 20 kHz)."""
    fine = soxr.resample(np.concatenate((np.zeros(256), samples)), 1, OVER, quality="VHQ")
    return np.asarray(scipy.ndimage.map_coordinates(fine, [(where + 256) * OVER], order=5, mode="constant"))


def drawn(seed: int, count: int | None = None) -> HeadUnit:
    """A unit that nobody has seen before, with 4 or 6 wires: front, rear, perhaps centre and sub."""
    random = np.random.default_rng([seed, 7])
    count = count or int(random.choice([4, 4, 6]))
    sides = ((1.0, 0.0), (0.0, 1.0), (1.0, 0.0), (0.0, 1.0), (0.5, 0.5), (0.5, 0.5))
    made = [Wire(side, gain_db=float(random.uniform(-2, 2))) for side in sides[:count]]
    for first in range(0, count, 2):
        bands = tuple(
            (
                "bell",
                float(np.exp(random.uniform(np.log(60), np.log(9000)))),
                float(random.uniform(-7, 5)),
                float(random.uniform(0.7, 3.5)),
            )
            for _ in range(int(random.integers(1, 4)))
        )
        bands += (("high", float(random.uniform(3000, 8000)), float(random.uniform(-2, 6)), 0.7),)
        cut = float(random.uniform(45, 120)) if random.random() < 0.6 else None
        late = float(random.uniform(0.5e-3, 12e-3)) if first == 2 and random.random() < 0.6 else 0.0
        for n in range(first, min(first + 2, count)):
            made[n] = replace(made[n], bands=bands, high_pass_hz=cut, delay_s=late)
    turned = int(random.integers(count))
    if random.random() < 0.6:
        hertz = float(np.exp(random.uniform(np.log(120), np.log(2500))))
        made[turned] = replace(made[turned], passes=((hertz, float(random.uniform(0.5, 2.0))),))
    if random.random() < 0.3:
        wrong = int(random.integers(count))
        made[wrong] = replace(made[wrong], inverted=True)
    lift = float(random.uniform(4, 8)) if random.random() < 0.5 else 0.0
    return HeadUnit(f"Unit drawn from number {seed}", tuple(made), float(random.uniform(-60, 60)), lift)


def flat() -> HeadUnit:
    """A source without processing: two wires."""
    return HeadUnit("Flat source", (Wire((1.0, 0.0)), Wire((0.0, 1.0))), ppm=12.0)
