"""What FIR taps do, below the main plot in Voice: phase, group delay, impulse and step, without them and with them."""

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.fir.wanted import Way, way
from imbrix.core.look.phase import group_delay, unwrapped, wrapped_degrees
from imbrix.core.signal.grid import between
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels, ratio
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.fir import without_taps
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import acoustic_target
from imbrix.work.takes.seen import comes_bare, seen
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View

PART = "taps"
"""The part of Voice that shows them."""
CYCLES = 6.0
RATE, SIZE = 48_000, 16_384
EARLIEST_S, LATEST_S = 0.045, 0.030
SHOWN = ("phase", "unwrapped", "group-delay", "impulse", "envelope", "step")
EXPLAINS = {
    "phase": "Phase about the arrival. Faint: without taps; bold: with them. Linear phase: flat at zero in the span.",
    "unwrapped": "The same without its jumps. Linear phase: flat in the span.",
    "group-delay": "How much later each frequency comes than the arrival. Linear phase: zero in the span.",
    "impulse": "The main pulse stands at zero, before it is what the taps add. Dotted: the limit; drag its mark.",
    "envelope": "The impulse's level. Dotted: the limit for what comes before the main pulse; drag its mark.",
    "step": "The sum of the impulse. Good: up at once, without a swing before it. Dotted: the limit; drag its mark.",
}


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> bool:
    """Add what is asked for, of a channel or of all that is audible; whether this is a look that taps have."""
    if view.below not in SHOWN:
        return False
    picture.facts["explains"] = EXPLAINS[view.below]
    names = [view.selection] if view.selection else [name for name in now.ids if tune.audible(name)]
    if not names or any(name not in now.takes or not now.takes[name].has_impulse for name in names):
        picture.facts["lacking"] = "every driver that plays needs a sweep: there is no phase to look at without it"
        return True
    label = now.layout.driver(names[0]).name if view.selection else "all channels"
    if any(tune.channels[name].taps for name in names):
        plain = without_taps(tune, now.layout, processors.model(space, slug))
        _add(space.grid, view, _heard(space, slug, now, plain, names), "before", "faint", "", picture)
    _add(space.grid, view, _heard(space, slug, now, tune, names), "after", "bold", label, picture)
    if view.below in ("impulse", "envelope", "step") and view.pre_ms:
        at = np.linspace(-1e3 * EARLIEST_S, -view.pre_ms, 200)
        share = 100 * ratio(view.pre_db)
        limits = (view.pre_db,) if view.below == "envelope" else (share, -share)
        for n, limit in enumerate(limits):
            picture.add(f"limit-{n}", np.full(at.size, limit), "own-target", pane="time", x=at)
    return True


def _heard(space: Workspace, slug: str, now: Scene, tune: Tune, names: list[str]) -> Way:
    """What is heard of some channels together, about the arrival of the highest."""
    does = processors.predictor(space, slug).through(tune, names)
    whole = np.sum([seen(space, now.takes[name], CYCLES) * one for name, one in zip(names, does, strict=True)], axis=0)
    spans = {name: acoustic_target(space, slug, tune, now.layout.driver(name))[1:] for name in names}
    highest = max(names, key=lambda name: spans[name][1])
    about = comes_bare(space, now.takes[highest]) + tune.channels[highest].late_s(now.rate)
    span = min(one[0] for one in spans.values()), max(one[1] for one in spans.values())
    return way(whole[None], space.grid, span, "linear", about)


def _add(grid: FloatArray, view: View, one: Way, key: str, role: str, label: str, picture: Picture) -> None:
    if view.below in ("impulse", "envelope", "step"):
        x, values = _in_time(one.strays, grid, view.below)
        picture.add(f"time-{key}", values, role, pane="time", label=label, channel=view.selection, x=x)
        return
    size = np.abs(one.response)
    shown = np.where(size > size.max() * 10 ** (-30 / 20), one.strays, np.nan)
    if view.below == "phase":
        values = wrapped_degrees(shown)
    elif view.below == "unwrapped":
        values = np.degrees(unwrapped(shown))
    else:
        values = group_delay(shown, grid) * 1e3
    picture.add(f"taps-{key}", values, role, pane="lower", label=label, channel=view.selection)


def _in_time(response: ComplexArray, grid: FloatArray, what: str) -> tuple[FloatArray, FloatArray]:
    """Milliseconds from the arrival and what is heard then, in per cent of the peak or in dB under it."""
    at = scipy.fft.rfftfreq(SIZE, 1 / RATE)
    spectrum = between(grid, response, np.clip(at, grid[0], grid[-1]))
    spectrum = spectrum * np.clip(at / grid[0], 0, 1) * np.clip(2 - at / grid[-1], 0, 1)
    before, after = round(EARLIEST_S * RATE), round(LATEST_S * RATE)
    pulse = np.roll(scipy.fft.irfft(spectrum, SIZE), before)[: before + after]
    x = (np.arange(pulse.size) - before) / RATE * 1e3
    if what == "envelope":
        size = np.abs(scipy.signal.hilbert(pulse))
        return x, np.maximum(decibels(size / size.max()), -90)
    values = np.cumsum(pulse) if what == "step" else pulse
    return x, 100 * values / max(float(np.abs(values).max()), 1e-30)
