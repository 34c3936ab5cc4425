"""A closer look at the selection, under the main plot: phase, time, decay, distortion."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from imbrix.core.look.cycles import within_cycles
from imbrix.core.look.decay import DecayMap, DecayTimes, decay_times, spectrogram, waterfall
from imbrix.core.look.phase import excess_phase, group_delay, minimum_phase, unwrapped, without_arrival, wrapped_degrees
from imbrix.core.look.reflections import envelope_db, first_reflection, lowest_hz
from imbrix.core.signal.measures import usable_band, without_filters
from imbrix.core.signal.response import Gate, response, time_shift
from imbrix.core.signal.signal import ComplexArray, Impulse
from imbrix.core.signal.smoothing import Fraction, smooth
from imbrix.core.signal.weighting import bands, nominal
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.takes.bands import band
from imbrix.work.takes.reading import bare, filters, mended_impulse, reading
from imbrix.work.takes.shelf import Take
from imbrix.work.views import angles, distortion
from imbrix.work.views.lens import Lens
from imbrix.work.views.picture import MAP_EVERY, Picture, ticks

Below = Literal[
    "",
    "phase",
    "unwrapped",
    "group-delay",
    "minimum",
    "impulse",
    "envelope",
    "step",
    "waterfall",
    "spectrogram",
    "distortion",
    "difference",
    "angles",
    "sides",
]
IN_TIME = ("impulse", "envelope", "step")
MAPS = ("waterfall", "spectrogram")
OF_PHASE = ("phase", "unwrapped", "group-delay", "minimum")
EXPLAINS: dict[str, str] = {
    "phase": "Phase with the arrival taken out. Good: smooth through the band; left and right alike.",
    "unwrapped": "Phase without its jumps, arrival taken out. Good: falls gently, without kinks in the band.",
    "group-delay": "How much later each frequency comes. Good: flat from 200 Hz up; rises towards the bass.",
    "minimum": "Solid: what the level implies. Dotted: what is left, reflections and delay. Good: left near zero.",
    "impulse": "Pressure after the arrival. Good: one sharp start; what follows late and small are reflections.",
    "envelope": "The impulse's level. Good: falls 20 dB within the first milliseconds.",
    "step": "The sum of the impulse. Good: starts at once, in the right direction, and returns smoothly.",
    "waterfall": "What is left later and later. Good: all sinks together; a ridge that stays is a resonance.",
    "spectrogram": "When which frequency is there. Good: a narrow upright line; a tail to the top is a resonance.",
    "difference": "Shown takes less the one in force. Good: within half a decibel where nothing was changed.",
    "angles": angles.EXPLAINS,
    "sides": "Left over right. Good: within 1.5 dB from 200 Hz to 8 kHz, so that the image stays put.",
    "distortion": "Harmonics under the fundamental. Good: below −40 dB in the band; grey and faint are noise.",
}
DECAYS: Drawer[int, DecayMap] = Drawer("decay maps", 16, by_take=True)
TIMES: Drawer[int, list[tuple[float, DecayTimes]]] = Drawer("decay times", 16, by_take=True)
EARLIEST_S, LATEST_S = 0.003, 0.04
"""How much is shown before and after the arrival."""


@dataclass(frozen=True)
class Subject:
    """What is looked at closely: a take, or only a predicted response; `response` (n,) with NaN where nothing is
    known. Distortion is shown within `band_hz`, or where the response is strong."""

    response: ComplexArray
    label: str
    channel: str = ""
    take: Take | None = None
    name: str = ""
    band_hz: tuple[float, float] | None = None

    @property
    def key(self) -> str:
        """Part of the ids of its curves."""
        return self.name or self.channel or "sum"


def add(
    space: Workspace,
    picture: Picture,
    subject: Subject | None,
    beside: Subject | None,
    below: str,
    smoothing: Fraction,
    gate_ms: float,
    lens: Lens,
    other: Take | None = None,
) -> None:
    """Add what is asked for to a picture; its facts say where that is impossible, and why.

    `beside` is drawn faintly with it, `other` an older take whose distortion is laid beside.
    """
    if not below:
        return
    picture.facts["explains"] = EXPLAINS[below]
    if subject is None:
        picture.facts["lacking"] = "there is no take to look at yet: record one first"
        return
    one = subject.take
    if below in ("difference", "angles", "sides"):
        return  # drawn with the takes that are shown, by angle, or of both sides
    if (one is None or not one.has_impulse) and below not in OF_PHASE:
        picture.facts["lacking"] = "this shows levels only: record a sweep to see it in time"
        return
    if one is not None and one.levels_only:
        picture.facts["lacking"] = "a moving microphone has no phase: record a sweep"
        return
    if below in OF_PHASE:
        if beside and below != "minimum" and not (beside.take and beside.take.levels_only):
            _phase(space, picture, beside, below, smoothing, "faint", lens)
        _phase(space, picture, subject, below, smoothing, "bold", lens)
        return
    assert one is not None
    if below in MAPS:
        _map(space, picture, one, below, lens)
    elif below == "distortion":
        distortion.draw(space, picture, one, subject.channel, _strong(space, subject), lens.unit, other)
    else:
        start = arrival_of(space, one)
        if beside and beside.take and beside.take.has_impulse:
            _in_time(space, picture, beside.take, beside, below, "faint", start)
        _in_time(space, picture, one, subject, below, "bold", start)
        _gate(space, picture, one, gate_ms, lens)
        if beside and beside.take:
            _sides(space, picture, one, beside.take, beside.label)


def _strong(space: Workspace, subject: Subject) -> tuple[float, float]:
    """Where distortion of a subject is worth a look, from and to in hertz."""
    if subject.band_hz is not None:
        return subject.band_hz
    return usable_band(subject.response, space.grid) if np.isfinite(subject.response).any() else (20.0, 20_000.0)


def of_driver(space: Workspace, slug: str, now: Scene, selection: str) -> tuple[Subject | None, Subject | None]:
    """A driver's take in force as it is bare, and that of its partner."""
    found: list[Subject | None] = []
    for driver in (now.layout.driver(selection), now.layout.partner(now.layout.driver(selection))):
        one = now.takes.get(driver.id) if driver else None
        if driver is None or one is None:
            found.append(None)
            continue
        plays = band(space, slug, one, now.forces)
        found.append(Subject(bare(space, one), driver.name, driver.id, one, band_hz=plays))
    return found[0], found[1]


def of_proof(space: Workspace, one: Take) -> Subject:
    """A take of the whole, or of a seam, as it was measured."""
    return Subject(reading(space, one).response, "measured", take=one)


def arrival_of(space: Workspace, one: Take) -> float:
    return reading(space, one).arrival_s


def gated(space: Workspace, one: Take, gate_ms: float, lens: Lens) -> ComplexArray | None:
    """The response of a take (n,) through a gate of one's own, or so many cycles; None for takes without impulse."""
    if not one.has_impulse:
        return None
    impulse = mended_impulse(space, one)
    if lens.cycles >= 1:
        return within_cycles(impulse, space.grid, lens.cycles)
    before = lens.before_ms / 1e3 or min(0.02, gate_ms / 1e3)
    return response(impulse, space.grid, Gate(before_s=before, after_s=gate_ms / 1e3, shape=lens.shape))


def gated_bare(space: Workspace, one: Take, gate_ms: float, lens: Lens | None = None) -> ComplexArray | None:
    """The same of a driver, with the processor's filters divided out."""
    through = gated(space, one, gate_ms, lens or Lens())
    if through is None:
        return None
    return np.where(np.isfinite(bare(space, one)), without_filters(through, filters(space, one)), np.nan)


def _phase(
    space: Workspace, picture: Picture, subject: Subject, below: str, smoothing: Fraction, role: str, lens: Lens
) -> None:
    grid = space.grid
    late = 0.0
    if lens.unwound or below == "minimum":
        late = _lateness(space, subject)
    values = without_arrival(subject.response, grid, late)
    known = np.isfinite(values)
    if smoothing and known.any():
        values = np.where(known, smooth(np.where(known, values, 0), grid, smoothing), np.nan)
    named = {"pane": "lower", "label": subject.label, "channel": subject.channel}
    if below == "phase":
        picture.add(f"phase-{subject.key}", wrapped_degrees(values), role, **named)
    elif below == "unwrapped":
        picture.add(f"phase-{subject.key}", np.degrees(unwrapped(values)), role, **named)
    elif below == "group-delay":
        picture.add(f"delay-{subject.key}", group_delay(values, grid) * 1e3, role, **named)
    else:
        smallest = np.degrees(minimum_phase(np.abs(values), grid))
        rest = np.degrees(excess_phase(values, grid, 0.0))
        shown = (smallest + 180) % 360 - 180
        picture.add("minimum", shown, "bold", pane="lower", label="minimum", channel=subject.channel)
        picture.add("excess", rest, "own-target", pane="lower", label="excess")


def _lateness(space: Workspace, subject: Subject) -> float:
    """The arrival of a subject: of its take, or of a predicted response the delay that explains its phase best."""
    if subject.take is not None:
        return arrival_of(space, subject.take) if subject.take.timed else 0.0
    known = np.isfinite(subject.response) & (np.abs(subject.response) > 0)
    if known.sum() < 24:
        return 0.0
    return time_shift(np.abs(subject.response[known]).astype(complex), subject.response[known], space.grid[known])


def _in_time(
    space: Workspace, picture: Picture, one: Take, subject: Subject, below: str, role: str, zero: float
) -> None:
    """The first milliseconds against time from the selection's arrival, in per cent of its peak or in dB."""
    impulse = mended_impulse(space, one)
    rate = impulse.rate
    start = round(zero * rate) + impulse.zero - round(EARLIEST_S * rate)
    stop = start + round((EARLIEST_S + LATEST_S) * rate)
    first = max(0, start)
    at = (np.arange(first, min(stop, impulse.samples.size)) - impulse.zero) / rate - zero
    if below == "envelope":
        values = np.maximum(envelope_db(impulse)[first:stop], -80)
    else:
        samples = np.cumsum(impulse.samples) if below == "step" else impulse.samples
        values = samples[first:stop]
        values = 100 * values / max(float(np.abs(values).max()), 1e-30)
    x = at[: values.size] * 1e3
    picture.add(f"time-{subject.key}", values, role, pane="time", label=subject.label, channel=subject.channel, x=x)


def _gate(space: Workspace, picture: Picture, one: Take, gate_ms: float, lens: Lens) -> None:
    found = first_reflection(mended_impulse(space, one))
    picture.facts["gate"] = {
        "reflection_ms": None if found is None else found * 1e3,
        "before_ms": None if found is None else max(0.5, np.floor(found * 9.5e3) / 10),
        "gate_ms": gate_ms,
        "from_ms": lens.before_ms or min(20.0, gate_ms),
        "lowest_hz": lowest_hz(gate_ms / 1e3) if gate_ms else 0.0,
    }


def _sides(space: Workspace, picture: Picture, one: Take, other: Take, name: str) -> None:
    """How much later the other side arrives, where both are counted by one clock."""
    if one.clock and one.clock == other.clock:
        later = arrival_of(space, other) - arrival_of(space, one)
        picture.facts["sides"] = {
            "name": name,
            "ms": later * 1e3,
            "samples": later * one.details.processor_rate,
            "cm": later * 34_320.0,
        }


def _map(space: Workspace, picture: Picture, one: Take, below: str, lens: Lens) -> None:
    """Level over time and frequency, as rows one after another, with the decay times by third octave; once a take.

    What is usual suits bass in a cabin: 0.4 s, seen through 0.3 s. A room wants more of both.
    """
    whole = mended_impulse(space, one)
    grid = space.grid[::MAP_EVERY]
    falls = below == "waterfall"
    usual = (1000.0, 500.0, 20.0) if lens.room else (400.0, 300.0, 10.0)
    seconds = (lens.decay_ms or (usual[0] if falls else usual[0] / 5)) / 1e3
    window = (lens.window_ms or (usual[1] if falls else 12.0)) / 1e3
    rise = min((lens.rise_ms or usual[2]) / 1e3, window / 2)
    cut = whole.zero + round((arrival_of(space, one) + max(1.2, seconds + window)) * whole.rate)
    impulse = Impulse(whole.samples[: max(cut, 1024)], whole.rate, whole.zero)

    def make() -> DecayMap:
        if falls:
            return waterfall(impulse, grid, seconds, window, rise)
        return spectrogram(impulse, grid, seconds, window)

    def times() -> list[tuple[float, DecayTimes]]:
        return [(float(mid), decay_times(impulse, mid)) for mid in bands(3, 40, 8000)]

    found = space.memory.of(DECAYS, one.id, make, (below, seconds, window, rise))
    top = float(found.levels.max())
    picture.add("map", np.maximum(found.levels - top, -80).ravel(), "map", pane="map", x=found.seconds * 1e3)
    picture.facts["map"] = {
        "rows": int(found.seconds.size),
        "columns": int(grid.size),
        "every": MAP_EVERY,
        "unit": "ms",
        "floor": -40.0,
        "ticks": ticks(float(found.seconds[0]) * 1e3, float(found.seconds[-1]) * 1e3),
        "window_ms": window * 1e3,
        "rise_ms": rise * 1e3,
        "span_ms": seconds * 1e3,
    }
    picture.facts["decay"] = [
        {
            "hertz": nominal(mid),
            "t20": _known(each.t20),
            "t30": _known(each.t30),
            "edt": _known(each.edt),
            "quality": _known(each.quality),
        }
        for mid, each in space.memory.of(TIMES, one.id, times)
    ]


def _known(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None
