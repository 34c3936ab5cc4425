"""Taps for several ways that are heard together: each made so that all come at one time, and what comes of the sum."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.fir.design import Fault, Made, fault, made, response
from imbrix.core.fir.wanted import SMOOTHING, Way, aim_of, way
from imbrix.core.fir.wish import Wish
from imbrix.core.patience import goes_on
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Side

OVERLAP = 0.02
"""Share of its energy that a way has to have in common with another for their seam to tell how both point."""
BEYOND = 2**0.5
HARM_DEG, HARM_DB = 3.0, 0.5
"""A place is harmed where its phase or its level strays by so much more than before."""


@dataclass(frozen=True)
class Part:
    """A way to be corrected, of one side or both: what is `heard` (p, n) of it without taps at the places, about when
    it arrives at each, its target (n,) in dB, its own span in hertz, and the dips (n,) in dB that belong to the place.
    `aside` (a, n) is heard about `aside_s` where it is looked at only, off the axis say.
    """

    name: str
    side: Side
    heard: ComplexArray
    about_s: tuple[float, ...]
    target_db: FloatArray
    span_hz: tuple[float, float]
    dips_db: FloatArray | float = 0.0
    aside: ComplexArray | None = None
    aside_s: tuple[float, ...] = ()

    def beside(self, other: "Part") -> bool:
        """Whether both are heard from one side, so that their phases at a seam mean something."""
        return "both" in (self.side, other.side) or self.side == other.side

    def still(self, frequencies: FloatArray) -> ComplexArray:
        """What is heard (p, n) with about when it arrives taken out."""
        return np.asarray(self.heard * np.exp(2j * np.pi * frequencies * np.array(self.about_s)[:, None]))


@dataclass(frozen=True)
class Spot:
    """By how many degrees and decibels rms phase and level stray at a place, before and after; whether that is worse.

    The level is looked at where taps do something to it, and 0 elsewhere.
    """

    place: int
    before_deg: float
    after_deg: float
    before_db: float = 0.0
    after_db: float = 0.0

    @property
    def harmed(self) -> bool:
        return self.after_deg > self.before_deg + HARM_DEG or self.after_db > self.before_db + HARM_DB


@dataclass(frozen=True)
class Together:
    """What was made by way, the latency in samples, the ways to be inverted first, those left out and why, the sum's
    faults before and after, what becomes of the other places, and by how much each way's gain changes, in dB."""

    made: Mapping[str, Made]
    late: int
    inverted: tuple[str, ...]
    left_out: Mapping[str, str]
    before: Fault | None
    after: Fault | None
    spots: tuple[Spot, ...]
    gains: Mapping[str, float] = field(default_factory=dict)


def alone(part: Part, frequencies: FloatArray, wish: Wish, rate: int) -> Together:
    """Taps for one way, about its own arrival. Raises InvalidError where nothing of the span is its own."""
    span = _span(part, wish)
    if span is None:
        raise InvalidError(
            f"it plays from {part.span_hz[0]:.0f} to {part.span_hz[1]:.0f} Hz: nothing of the span is its own"
        )
    mine = wish.model_copy(update={"low_hz": span[0], "high_hz": span[1]})
    still = part.still(frequencies)
    one = way(still, frequencies, span, wish.phase, smoothing=wish.smoothing)
    found = made(one, frequencies, mine, rate, part.target_db, dips_db=part.dips_db)
    gives = response(found.taps, frequencies, rate, found.delay)
    mine = mine.model_copy(update={"low_hz": found.low_hz})
    if part.aside is not None:
        still = np.concatenate((still, part.aside * np.exp(2j * np.pi * frequencies * np.array(part.aside_s)[:, None])))
    spots = _spots(still, still * gives, frequencies, mine, 10 ** (part.target_db / 20))
    return Together({part.name: found}, found.delay, (), {}, None, None, spots)


def together(parts: list[Part], frequencies: FloatArray, wish: Wish, rate: int) -> Together:
    """Taps for all ways that reach into the span, so that they come at once and point one way.

    What cannot be corrected is left as it is, and said. Raises InvalidError where nothing can.
    """
    ways: dict[str, tuple[Part, Way, Wish]] = {}
    signs = _signs(parts, frequencies, wish)
    # Against what nothing is lost of, or against the targets where they are aimed at.
    sizes = [10 ** (part.target_db / 20) if wish.magnitude else np.abs(part.heard[0]) for part in parts]
    most = np.sum(sizes, axis=0)
    # What all ways shall have alike, so that they add up: the phase that belongs to the whole.
    aim = aim_of(most, frequencies, wish.phase, wish.smoothing)
    left: dict[str, str] = {}
    for part in parts:
        span = _span(part, wish)
        if span is None:
            left[part.name] = f"it plays from {part.span_hz[0]:.0f} to {part.span_hz[1]:.0f} Hz, beyond the span"
            continue
        mine = wish.model_copy(update={"low_hz": span[0], "high_hz": span[1]})
        still = part.still(frequencies)
        one = way(still, frequencies, span, wish.phase, points=signs[part.name], aim=aim, smoothing=wish.smoothing)
        ways[part.name] = part, one, mine
    if not ways:
        raise InvalidError(f"no way plays between {wish.low_hz:.0f} and {wish.high_hz:.0f} Hz")
    lead, first, _ = max(ways.values(), key=lambda one: one[2].high_hz)
    comes = lead.about_s[0] + first.arrival_s
    late = 0 if wish.phase == "keep" else round(wish.latency_ms / 1e3 * rate) or (wish.taps - 1) // 2
    found: dict[str, Made] = {}
    inverted = []
    for n, (name, (part, one, mine)) in enumerate(ways.items()):
        goes_on(n / len(ways))
        shift = part.about_s[0] + one.arrival_s - comes
        try:
            found[name] = made(one, frequencies, mine, rate, part.target_db, shift, part.dips_db)
        except InvalidError as error:
            left[name] = str(error)
            continue
        if one.inverted != first.inverted:
            inverted.append(name)
    if not found:
        raise InvalidError("; ".join(f"{name}: {why}" for name, why in left.items()))
    gains = _levels({name: ways[name] for name in found}, frequencies) if wish.magnitude and wish.here else {}
    at = np.exp(2j * np.pi * frequencies * np.array(lead.about_s)[:, None])
    before = np.sum([part.heard for part in parts], axis=0) * at
    after = np.zeros_like(before)
    for part in parts:
        sign = (-1.0 if part.name in inverted else 1.0) * 10 ** (gains.get(part.name, 0.0) / 20)
        through = response(found[part.name].taps, frequencies, rate, late) if part.name in found else 1.0
        after += sign * part.heard * through * at
    span = min(one.low_hz for one in found.values()), max(one.high_hz for one in found.values())
    whole = wish.model_copy(update={"low_hz": span[0], "high_hz": span[1]})
    return Together(
        found,
        late,
        tuple(inverted),
        left,
        fault(before[0], frequencies, whole, was=most, aim=aim),
        fault(after[0], frequencies, whole, was=most, aim=aim),
        _spots(before, after, frequencies, whole, most),
        gains,
    )


def _levels(ways: Mapping[str, tuple[Part, Way, Wish]], frequencies: FloatArray) -> dict[str, float]:
    """By how much each way's gain has to change for all to stand alike over their targets, in the mean of the places;
    the whole stays as loud, every octave counting alike."""
    needs, octaves = {}, {}
    for name, (part, one, mine) in ways.items():
        own = (frequencies >= max(mine.low_hz, part.span_hz[0])) & (frequencies <= min(mine.high_hz, part.span_hz[1]))
        heard = power_decibels(smooth_power(part.heard, frequencies, SMOOTHING).mean(axis=0))
        use = own & one.steady if (own & one.steady).any() else own
        needs[name] = float(np.median((part.target_db - heard)[use]))
        octaves[name] = float(use.sum())
    mean = float(np.average(list(needs.values()), weights=list(octaves.values())))
    return {name: needed - mean for name, needed in needs.items()}


def _signs(parts: list[Part], frequencies: FloatArray, wish: Wish) -> dict[str, int]:
    """Which way each part points, which all are to point alike: told from its seam with a part whose way is known, from
    the highest down; of the highest of a side from itself."""
    signs: dict[str, int] = {}
    known: list[Part] = []
    for part in sorted(parts, key=lambda one: -one.span_hz[1]):
        found = 0
        shared = [(float(np.sum(np.abs(part.heard[0] * one.heard[0]))), one) for one in known if part.beside(one)]
        own = float(np.sum(np.abs(part.heard[0]) ** 2))
        weight, other = max(shared, key=lambda one: one[0], default=(0.0, part))
        if weight > OVERLAP * own:
            agrees = float(np.sum((part.heard[0] * np.conj(other.heard[0])).real))
            found = signs[other.name] if agrees >= 0 else -signs[other.name]
        else:
            span = _span(part, wish) or part.span_hz
            found = -1 if way(part.still(frequencies), frequencies, span, wish.phase).inverted else 1
        signs[part.name] = found
        known.append(part)
    return signs


def _span(part: Part, wish: Wish) -> tuple[float, float] | None:
    """What of the span a way is corrected in: it is heard beyond its own still, some 20 dB down, enough to turn the
    sum. None where that is no half octave."""
    low, high = max(part.span_hz[0] / BEYOND, wish.low_hz), min(part.span_hz[1] * BEYOND, wish.high_hz)
    return (low, high) if low * 2**0.5 <= high else None


def _spots(
    before: ComplexArray, after: ComplexArray, frequencies: FloatArray, wish: Wish, wanted: FloatArray
) -> tuple[Spot, ...]:
    """How far each place (p, n) is from what is wanted, before and after: in level from `wanted` (n,), if that is to be
    corrected at all."""
    found = []
    for n, heard in enumerate(zip(before, after, strict=True)):
        was, now = (fault(one, frequencies, wish, was=wanted if wish.magnitude else None) for one in heard)
        found.append(Spot(n, was.phase_deg, now.phase_deg, was.level_db, now.level_db))
    return tuple(found)
