"""The wires of a simulated source, with what is practised on them: at the processor's inputs, and at the leads."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from imbrix.core.signal.signal import FloatArray
from imbrix.standins.head_unit import HeadUnit
from imbrix.standins.practice import Practice

LONG_S, PIECE_S = 120, 0.5
"""What is listened to for longer is made piece by piece, at the volume that the source is turned to by then."""
STOPS_AT = 0.4
"""How far into a recording the source's track stops where it does."""


@dataclass(frozen=True)
class Unit:
    """A source, what is practised on it, the track (n, 2) that it plays round and round, and chance."""

    source: HeadUnit
    practice: Practice
    track: FloatArray
    random: np.random.Generator

    def plays(
        self,
        wires: tuple[int, ...],
        size: int,
        rate: int,
        stops_s: float | None = None,
        chime: bool = False,
        goes_on_s: float | None = None,
    ) -> FloatArray:
        """What some wires (from 1) carry (size, wires); which of them really hang there is a matter of practice."""
        practice = self.practice
        return self.source.play(
            self.track,
            size,
            rate,
            swapped(self.source, practice, wires),
            self.random,
            practice.source_volume,
            stops_s,
            chime,
            goes_on_s,
            practice.source_fader,
            practice.source_balance,
        )

    def once(self, wires: tuple[int, ...], size: int, rate: int) -> FloatArray:
        """The same of one recording, which the track may stop in, or a chime sound in."""
        stops = STOPS_AT * size / rate if self.practice.track_stops else None
        heard = self.plays(wires, size, rate, stops, self.practice.chime)
        if self.practice.wire_inverted:
            heard[:, [n for n, one in enumerate(wires) if one == 2]] *= -1
        return heard


def swapped(source: HeadUnit, practice: Practice, wires: tuple[int, ...]) -> tuple[int, ...]:
    """Which wires really hang where these should."""
    there = len(source.wires)
    exchanged = {1: 2, 2: 1} if practice.wires_exchanged and there > 1 else {}
    if practice.front_and_rear_exchanged and there > 3:
        exchanged = {1: 3, 2: 4, 3: 1, 4: 2}
    return tuple(exchanged.get(one, one) for one in wires)


def fed(unit: Unit, size: int, rate: int, inputs: int) -> FloatArray:
    """What the source puts on a processor's inputs (size, inputs)."""
    whole = np.zeros((size, inputs))
    wires = tuple(range(1, min(inputs, len(unit.source.wires)) + 1))
    whole[:, : len(wires)] = unit.once(wires, size, rate)
    return whole


def at_leads(
    unit: Callable[[], Unit], wires: tuple[int, ...], size: int, rate: int, blocks: Iterable[int]
) -> Iterator[FloatArray]:
    """What is recorded of some wires in blocks of so many samples; what is listened to for long goes on piece by piece
    as the unit stands by then."""
    if size > LONG_S * rate:
        yield from _goes_on(unit, wires, rate, blocks)
        return
    heard, first = unit().once(wires, size, rate), 0
    for count in blocks:
        yield heard[first : first + count]
        first += count


def _goes_on(
    unit: Callable[[], Unit], wires: tuple[int, ...], rate: int, blocks: Iterable[int]
) -> Iterator[FloatArray]:
    piece = np.zeros((0, len(wires)))
    made = 0
    for count in blocks:
        while piece.shape[0] < count:
            length = round(PIECE_S * rate)
            piece = np.concatenate((piece, unit().plays(wires, length, rate, goes_on_s=made / rate)))
            made += length
        yield piece[:count]
        piece = piece[count:]
