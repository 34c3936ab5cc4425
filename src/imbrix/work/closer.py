"""A closer look at the selection, under the main plot: phase, time, decay, distortion."""

from typing import Literal

import numpy as np

from imbrix.core.decay import decay_times, spectrogram, waterfall
from imbrix.core.distortion import ORDERS, harmonics
from imbrix.core.layout import Driver
from imbrix.core.measures import without_filters
from imbrix.core.phase import excess_phase, group_delay, minimum_phase, unwrapped, without_arrival
from imbrix.core.recording import read_repeats
from imbrix.core.reflections import envelope_db, first_reflection, lowest_hz
from imbrix.core.response import Gate, response
from imbrix.core.signal import ComplexArray, FloatArray, Impulse, decibels
from imbrix.core.smoothing import Fraction, smooth
from imbrix.core.weighting import bands, nominal
from imbrix.work.desk import Desk
from imbrix.work.picture import Picture
from imbrix.work.prediction import Scene
from imbrix.work.takes import Take, arrays, band, bare, filters, mended_impulse, reading

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
]
IN_TIME = ("impulse", "envelope", "step")
MAPS = ("waterfall", "spectrogram")
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
    "distortion": "Harmonics under the fundamental. Good: below −40 dB in the band; grey and faint are noise.",
}
EARLIEST_S, LATEST_S = 0.003, 0.04
"""How much is shown before and after the arrival."""
CLEAR_DB = 3.0
"""A harmonic less than this over the noise is drawn as noise."""


def add(
    desk: Desk, picture: Picture, now: Scene, selection: str, below: str, smoothing: Fraction, gate_ms: float
) -> None:
    """Add what is asked for to a picture; its facts say where that is impossible, and why."""
    if not below or selection not in now.takes:
        return
    driver, one = now.layout.driver(selection), now.takes[selection]
    picture.facts["explains"] = EXPLAINS[below]
    if one.method in ("text", "moving") and below not in ("phase", "unwrapped", "group-delay", "minimum"):
        picture.facts["lacking"] = "this take shows levels only: record a sweep to see it in time"
        return
    if not one.timed and one.method == "moving":
        picture.facts["lacking"] = "a moving microphone has no phase: record a sweep"
        return
    partner = now.layout.partner(driver)
    if below in MAPS:
        _map(desk, picture, one, below)
    elif below == "distortion":
        _distortion(desk, picture, one, driver)
    elif below in IN_TIME:
        if partner and partner.id in now.takes and now.takes[partner.id].method not in ("text", "moving"):
            _in_time(desk, picture, now.takes[partner.id], partner, below, "faint", arrival_of(desk, one))
        _in_time(desk, picture, one, driver, below, "bold", arrival_of(desk, one))
        _gate(desk, picture, one, gate_ms)
        if partner and partner.id in now.takes:
            _sides(desk, picture, one, now.takes[partner.id], partner)
    else:
        if partner and partner.id in now.takes and below != "minimum" and now.takes[partner.id].method != "moving":
            _phase(desk, picture, now.takes[partner.id], partner, below, smoothing, "faint")
        _phase(desk, picture, one, driver, below, smoothing, "bold")


def arrival_of(desk: Desk, one: Take) -> float:
    return reading(desk, one).arrival_s


def gated_bare(desk: Desk, one: Take, gate_ms: float) -> ComplexArray | None:
    """The bare response of a take (n,) through a gate of one's own; None for takes that have no impulse."""
    if one.method in ("text", "moving"):
        return None
    gate = Gate(before_s=min(0.02, gate_ms / 1e3), after_s=gate_ms / 1e3)
    mine = without_filters(response(mended_impulse(desk, one), desk.grid, gate), filters(desk, one))
    return np.where(np.isfinite(bare(desk, one)), mine, np.nan)


def _phase(desk: Desk, picture: Picture, one: Take, driver: Driver, below: str, smoothing: Fraction, role: str) -> None:
    grid = desk.grid
    late = arrival_of(desk, one) if one.timed else 0.0
    values = without_arrival(bare(desk, one), grid, late)
    known = np.isfinite(values)
    if smoothing and known.any():
        values = np.where(known, smooth(np.where(known, values, 0), grid, smoothing), np.nan)
    if below == "phase":
        angle = np.degrees(np.angle(values))
        wraps = np.flatnonzero(np.abs(np.diff(angle)) > 180)
        angle[np.unique(np.clip([wraps, wraps + 1], 0, angle.size - 1))] = np.nan  # a gap, not a line
        picture.add(f"phase-{driver.id}", angle, role, pane="lower", label=driver.name, channel=driver.id)
    elif below == "unwrapped":
        shown = np.degrees(unwrapped(values))
        picture.add(f"phase-{driver.id}", shown, role, pane="lower", label=driver.name, channel=driver.id)
    elif below == "group-delay":
        delay = group_delay(values, grid) * 1e3
        picture.add(f"delay-{driver.id}", delay, role, pane="lower", label=driver.name, channel=driver.id)
    else:
        least = np.degrees(minimum_phase(np.abs(values), grid))
        rest = np.degrees(excess_phase(values, grid, 0.0))
        picture.add("minimum", (least + 180) % 360 - 180, "bold", pane="lower", label="minimum", channel=driver.id)
        picture.add("excess", rest, "own-target", pane="lower", label="excess")


def _in_time(desk: Desk, picture: Picture, one: Take, driver: Driver, below: str, role: str, zero: float) -> None:
    """The first milliseconds against time from the selection's arrival, in per cent of its peak or in dB."""
    impulse = mended_impulse(desk, one)
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
    label = driver.name
    picture.add(
        f"time-{driver.id}", values, role, pane="time", label=label, channel=driver.id, x=at[: values.size] * 1e3
    )


def _gate(desk: Desk, picture: Picture, one: Take, gate_ms: float) -> None:
    found = first_reflection(mended_impulse(desk, one))
    picture.facts["gate"] = {
        "reflection_ms": None if found is None else found * 1e3,
        "before_ms": None if found is None else max(0.5, np.floor(found * 9.5e3) / 10),
        "gate_ms": gate_ms,
        "lowest_hz": lowest_hz(gate_ms / 1e3) if gate_ms else 0.0,
    }


def _sides(desk: Desk, picture: Picture, one: Take, other: Take, partner: Driver) -> None:
    """How much later the other side arrives, where both are counted by one clock."""
    if one.clock and one.clock == other.clock:
        later = arrival_of(desk, other) - arrival_of(desk, one)
        picture.facts["sides"] = {
            "name": partner.name,
            "ms": later * 1e3,
            "samples": later * desk.processor.limits.rate,
            "cm": later * 34_320.0,
        }


def _map(desk: Desk, picture: Picture, one: Take, below: str) -> None:
    """Level over time and frequency, as rows one after another, with the decay times by third octave; once a take."""
    known = desk.maps.setdefault(one.id, {})
    whole = mended_impulse(desk, one)
    cut = whole.zero + round((arrival_of(desk, one) + 1.2) * whole.rate)
    impulse = Impulse(whole.samples[: max(cut, 1024)], whole.rate, whole.zero)
    grid = desk.grid[::4]
    if below not in known:
        known[below] = (
            waterfall(impulse, grid, 0.4, 0.3, 0.01)
            if below == "waterfall"
            else spectrogram(impulse, grid, 0.08, 0.012)
        )
    if "times" not in known:
        known["times"] = [(float(mid), decay_times(impulse, mid)) for mid in bands(3, 40, 8000)]
    found = known[below]
    top = float(found.levels.max())
    picture.add("map", np.maximum(found.levels - top, -60).ravel(), "map", pane="map", x=found.seconds * 1e3)
    picture.facts["map"] = {"rows": int(found.seconds.size), "columns": int(grid.size)}
    picture.facts["decay"] = [
        {"hertz": nominal(mid), "t20": _known(each.t20), "edt": _known(each.edt), "quality": _known(each.quality)}
        for mid, each in known["times"]
    ]


def _known(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _distortion(desk: Desk, picture: Picture, one: Take, driver: Driver) -> None:
    if one.method not in ("sweep", "file"):
        picture.facts["lacking"] = "distortion is read from a sweep: this take is none"
        return
    data, rate = arrays(desk, one.id)
    schedule = one.details.schedule(rate)
    if one.details.quiet_s or one.details.marker:
        looped = one.timed and one.details.clock == "loopback"
        impulse = read_repeats(data["microphone"], data["reference"] if looped else None, schedule).mean
    else:
        impulse = reading(desk, one).impulse
    found = harmonics(impulse, schedule.sweep, desk.grid)
    base = np.maximum(found.fundamental, 1e-12)

    def relative(values: FloatArray) -> FloatArray:
        known = np.isfinite(values)
        power = smooth(np.where(known, values / base, 0) ** 2, desk.grid, 12)
        return np.where(known, decibels(np.sqrt(np.maximum(power, 0))), np.nan)

    low, high = band(desk, one)
    inside = (desk.grid >= low) & (desk.grid <= high)
    picture.add("noise", np.where(inside, relative(found.noise), np.nan), "reference", pane="lower", label="noise")
    floor = relative(found.noise)
    power = np.zeros(desk.grid.size)
    for order, values in zip(ORDERS, found.orders, strict=True):
        shown = np.where(inside, relative(values), np.nan)
        clear = shown > floor + CLEAR_DB
        power += np.where(clear, 10 ** (np.nan_to_num(shown, nan=-200.0) / 10), 0.0)
        role, label = f"harmonic-{order}", f"{order}."
        picture.add(role, np.where(clear, shown, np.nan), role, pane="lower", label=label, channel=driver.id)
        picture.add(f"{role}-noise", np.where(clear, np.nan, shown), "edge", pane="lower")  # no more than noise
    total = np.where(power > 0, 10 * np.log10(np.maximum(power, 1e-20)), np.nan)
    picture.add("total", total, "sum", pane="lower", label="total")
    if np.isfinite(total).any():
        worst = int(np.nanargmax(total))
        picture.facts["distortion"] = {
            "worst_db": float(total[worst]),
            "worst_percent": float(100 * 10 ** (total[worst] / 20)),
            "worst_hz": float(desk.grid[worst]),
        }
