"""Taps for a way, and what comes of them."""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.errors import InvalidError
from imbrix.core.fir.solve import Problem, solve
from imbrix.core.fir.wanted import Wanted, Way, wanted, way
from imbrix.core.fir.wish import Wish
from imbrix.core.signal.grid import between
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_power

PERIODS = 2.0
"""Taps reach as far down as so many periods fit into them."""
OUTSIDE = 0.03
"""What an error outside the span counts of one inside."""
LEAST_WEIGHT = 1e-3
CLEAR_DB = 10.0
"""In a dip deeper than this under its octave a phase means nothing."""
MARGIN = 0.04
"""Share of the taps that the main pulse stays away from their ends."""


@dataclass(frozen=True)
class Fault:
    """How far a way is from what is wanted, over the span: level in dB, phase in degrees, rms and worst."""

    level_db: float
    worst_db: float
    phase_deg: float
    worst_deg: float


@dataclass(frozen=True)
class Made:
    """Taps (t,) and by how many samples their main pulse is late; the span that they correct; faults before and after,
    how loud it is before the main pulse, how much is lifted at most, and the spans that were left alone as the places
    disagree there."""

    taps: FloatArray
    delay: int
    low_hz: float
    high_hz: float
    before: Fault
    after: Fault
    pre_db: float
    boost_db: float
    left_out_hz: tuple[tuple[float, float], ...]


def lowest_hz(count: int, rate: int) -> float:
    """How far down so many taps can correct."""
    return PERIODS * rate / count


def made(
    one: Way,
    frequencies: FloatArray,
    wish: Wish,
    rate: int,
    target_db: FloatArray,
    shift_s: float = 0.0,
    dips_db: FloatArray | float = 0.0,
) -> Made:
    """Taps for a way that is `shift_s` later than what it is to be together with; `dips_db` (n,) are not lifted.

    Raises InvalidError where the wish cannot be done: too few taps for the span, no room for the pulse in them.
    """
    low = max(wish.low_hz, lowest_hz(wish.taps, rate))
    if low * 2**0.5 > wish.high_hz:
        raise InvalidError(
            f"{wish.taps} taps at {rate} samples a second reach down to {low:.0f} Hz: for a span up to "
            f"{wish.high_hz:.0f} Hz take at least {int(PERIODS * rate / wish.low_hz)}"
        )
    wish = wish.model_copy(update={"low_hz": low})
    middle = _middle(wish, rate, shift_s)
    found = wanted(one, frequencies, wish, target_db, dips_db)
    problem = _problem(one, frequencies, wish, rate, found, middle)
    taps = solve(problem, wish.taps)
    gives = response(taps, frequencies, rate, middle)
    target = target_db if wish.magnitude else None
    aim = None if one.alone else one.aim
    before = fault(one.response, frequencies, wish, target, aim=aim)
    after = fault(one.response * gives, frequencies, wish, target, np.abs(one.response), aim)
    spectrum = np.abs(scipy.fft.rfft(taps, problem.size))
    return Made(
        taps,
        int(np.argmax(np.abs(taps))) if wish.phase == "keep" else round(middle),
        wish.low_hz,
        wish.high_hz,
        before,
        after,
        early_db(problem, taps),
        float(decibels(spectrum).max()),
        _spans(found.left_out, frequencies),
    )


def _middle(wish: Wish, rate: int, shift_s: float) -> float:
    """The sample of the main pulse. Raises InvalidError where it does not lie within the taps."""
    if wish.phase == "keep":
        return 0.0
    late = wish.latency_ms / 1e3 * rate if wish.latency_ms else (wish.taps - 1) / 2
    middle = late - shift_s * rate
    room = MARGIN * wish.taps
    if not 0 <= late <= wish.taps - 1:
        raise InvalidError(
            f"{wish.latency_ms:g} ms are {late:.0f} samples of {wish.taps} taps: take more taps or less time"
        )
    if wish.latency_ms and middle < min(room, late):
        needed = (shift_s * rate + min(room, late)) / rate * 1e3
        raise InvalidError(
            f"its sound comes {shift_s * 1e3:+.2f} ms against the others, more than a latency of {wish.latency_ms:g} "
            f"ms makes up: allow {needed:.2f} ms, set its delay first, or take a gentler crossover"
        )
    if not min(room, late) <= middle <= wish.taps - 1 - min(room, wish.taps - 1 - late):
        raise InvalidError(
            f"its sound comes {shift_s * 1e3:+.2f} ms against the others, more than {wish.taps} taps can make up: "
            "set its delay first, or take more taps"
        )
    return middle


def _problem(one: Way, frequencies: FloatArray, wish: Wish, rate: int, found: Wanted, middle: float) -> Problem:
    size = max(8192, 4 * 2 ** int(np.ceil(np.log2(wish.taps))))
    at = scipy.fft.rfftfreq(size, 1 / rate)
    inner = np.clip(at, frequencies[0], frequencies[-1])
    hz_low, hz_high = float(frequencies[0]), float(frequencies[-1])
    below, above = np.clip(at / hz_low, 0, 1), np.clip(2 - at / hz_high, 0, 1)
    lift = 10 ** (between(frequencies, found.lift_db, inner) / 20)
    # Below the grid and above it nothing is known: the phase goes to the whole turn that it is near.
    turn = 2 * np.pi * np.round(found.phase[-1] / (2 * np.pi))
    phase = between(frequencies, found.phase, inner) * below
    phase = turn * (at > hz_high) + (phase - turn * (at > hz_high)) * above
    wants = lift * np.exp(1j * (phase - 2 * np.pi * at / rate * middle))
    chain = between(frequencies, one.response, inner, beyond=0.0) * below * above**2
    wants[0], wants[-1], chain[0], chain[-1] = wants[0].real, wants[-1].real, 0.0, 0.0
    edge = (at >= wish.low_hz / 2**0.5) & (at <= wish.high_hz * 2**0.5)
    allowed = wish.limits_at(at)[0]
    boost = allowed if wish.magnitude else np.minimum(allowed, 1.0)
    most = 10 ** (np.where(edge, boost, wish.beyond_db) / 20)
    pulse = scipy.fft.irfft(chain * wants, size)
    before = round(middle - wish.pre_ms / 1e3 * rate)
    # Minimum-phase taps can bring nothing forward.
    quiet = 1.0 if wish.phase == "keep" else 10 ** (wish.pre_db / 20)
    return Problem(
        size, wants, _weight(at, np.abs(chain), wish), most, chain, before, quiet, float(np.abs(pulse).max())
    )


def _weight(at: FloatArray, chain: FloatArray, wish: Wish) -> FloatArray:
    """What an error counts at each frequency (k,): every octave of the span alike, less where the way hardly plays and
    outside, nowhere nothing."""
    even = 1.0 / np.maximum(at, 20.0)
    inside = (at >= wish.low_hz / 2**0.5) & (at <= wish.high_hz * 2**0.25)
    plays = np.clip(chain / max(float(chain.max()), 1e-12) / 0.1, 0.05, 1.0)
    weight = plays**2 * np.where(inside, 1.0, OUTSIDE) * even
    return np.asarray(np.maximum(weight / weight.max(), LEAST_WEIGHT * 20.0 * even))


def response(taps: FloatArray, frequencies: FloatArray, rate: int, late: float = 0.0) -> ComplexArray:
    """Response (n,) of taps at `frequencies`, their delay of `late` samples taken out."""
    through = scipy.signal.freqz(taps, worN=frequencies, fs=rate)[1]
    return np.asarray(through * np.exp(2j * np.pi * frequencies / rate * late))


def fault(
    heard: ComplexArray,
    frequencies: FloatArray,
    wish: Wish,
    target_db: FloatArray | None = None,
    was: FloatArray | None = None,
    aim: FloatArray | None = None,
) -> Fault:
    """How far a response (n,) is from a target's level (n,), the mean apart, and from the phase that is wanted.

    Without a target its level is held against that which it `was` (n,), or against itself; its phase against an `aim`
    (n,), or against what its own level asks for.
    """
    one = way(heard[None], frequencies, (wish.low_hz, wish.high_hz), wish.phase, aim=aim)
    inside = (frequencies >= wish.low_hz) & (frequencies <= wish.high_hz)
    has = power_decibels(smooth_power(one.response, frequencies, 6))
    if target_db is None:
        target_db = power_decibels(smooth_power(one.response if was is None else was, frequencies, 6))
    level = (has - target_db)[inside]
    level = level - np.mean(level)
    size = np.abs(one.response)
    turned = np.degrees(np.angle(one.strays))[inside]
    weight = size[inside] ** 2
    rms = float(np.sqrt(np.sum(weight * turned**2) / np.sum(weight)))
    clear = decibels(size) > power_decibels(smooth_power(one.response, frequencies, 1)) - CLEAR_DB
    worst = float(np.abs(turned)[clear[inside]].max())
    return Fault(float(np.sqrt(np.mean(level**2))), float(np.abs(level).max()), rms, worst)


def early_db(problem: Problem, taps: FloatArray) -> float:
    """How loud it is before the main pulse, earlier than the limit lets be, in dB under it."""
    pulse = scipy.fft.irfft(scipy.fft.rfft(taps, problem.size) * problem.chain, problem.size)
    first = min(0, problem.before - taps.size)
    early = np.abs(pulse[np.arange(first, max(first + 1, problem.before)) % problem.size])
    return float(decibels(np.maximum(early.max() / np.abs(pulse).max(), 1e-6)))


def _spans(mask: np.ndarray, frequencies: FloatArray) -> tuple[tuple[float, float], ...]:
    edges = np.flatnonzero(np.diff(np.concatenate(([False], mask, [False])).astype(int)))
    return tuple((float(frequencies[a]), float(frequencies[b - 1])) for a, b in edges.reshape(-1, 2))
