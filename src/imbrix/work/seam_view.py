"""What Seams shows: two neighbouring ways, what they add up to, and what timing costs."""

from typing import Any

import numpy as np

from imbrix.core.edits import relative_delay, relative_polarity
from imbrix.core.phase import wrapped_degrees
from imbrix.core.response import speed_of_sound
from imbrix.core.seam import SeamProblem, loss, sensible_delays
from imbrix.core.signal import decibels, power_decibels
from imbrix.core.smoothing import smooth, smooth_db, smooth_power
from imbrix.core.tune import Tune
from imbrix.work import angles, closer
from imbrix.work.desk import Desk
from imbrix.work.picture import Picture
from imbrix.work.prediction import Scene
from imbrix.work.seams import two_sides, untimed
from imbrix.work.takes import Take, reading, takes
from imbrix.work.view import View, level, shown


def bare_faint(desk: Desk, now: Scene, names: tuple[str, ...], view: View, picture: Picture) -> None:
    """Some drivers' bare curves, faintly."""
    for name in names:
        row = now.index(name)
        if row is not None:
            picture.add(f"bare-{name}", shown(desk, now, row, now.rows[row], view), "faint", channel=name)


def draw(desk: Desk, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    """Add both sides of a seam, their sum, its loss, the scan over delay, and what was measured of it."""
    seam = now.layout.seam(view.seam or now.layout.seams()[0].id)
    delay = relative_delay(tune, seam)
    facts: dict[str, Any] = {
        "seam": seam.id,
        "delay_ms": delay * 1e3,
        "path_mm": delay * speed_of_sound() * 1e3,
        "inverted": relative_polarity(tune, seam),
        "loss": None,
        "untimed": untimed(now, seam),
    }
    picture.facts.update(facts)
    if seam.ways is not None:
        bare_faint(desk, now, (*seam.lowers, *seam.uppers), view, picture)
    sides = two_sides(desk, now, seam, tune)
    if view.below == "angles":
        angles.of_seam(desk, slug, picture, seam, tune, view.smoothing)
    if sides is None:
        if view.below != "angles":
            closer.add(desk, picture, None, None, view.below, view.smoothing, view.gate_ms, view.lens)
        return
    lower, upper = sides
    grid = desk.grid
    first, second = smooth_power(lower, grid, view.smoothing), smooth_power(upper, grid, view.smoothing)
    whole = smooth_power(lower + upper, grid, view.smoothing)
    names = (("lower", seam.lowers, first), ("upper", seam.uppers, second))
    for key, members, power in names:
        label = now.layout.driver(members[0]).name if len(members) == 1 else _group(now, members)
        picture.add(key, power_decibels(power) + desk.offset_db, "bold", label=label, channel=members[0])
    picture.add("ideal", decibels(np.sqrt(first) + np.sqrt(second)) + desk.offset_db, "ideal", label="ideal sum")
    picture.add("sum", power_decibels(whole) + desk.offset_db, "sum", label="sum")
    measured = _measured_pair(desk, slug, view, {*seam.lowers, *seam.uppers}, picture)
    if view.below and view.below != "angles":
        subject = closer.of_proof(desk, measured) if measured else closer.Subject(lower + upper, "predicted sum")
        closer.add(desk, picture, subject, None, view.below, view.smoothing, view.gate_ms, view.lens)
    angle = wrapped_degrees(smooth(upper * np.conjugate(lower), grid, view.smoothing or 24))
    apart = np.abs(power_decibels(first) - power_decibels(second))
    weak = np.maximum(first, second) < np.maximum(first, second).max() * 1e-4
    picture.add("phase", np.where((apart < 25) & ~weak, angle, np.nan), "phase", pane="lower")
    lost = loss(lower, upper, grid, view.smoothing)
    if lost is None:
        return
    centre = float(np.sqrt(lost.low_hz * lost.high_hz))
    reach = min(sensible_delays(centre), 1.5 / centre)
    trial = np.linspace(-reach, reach, 241)
    plus, minus = SeamProblem(lower, upper, grid, view.smoothing).both_polarities(trial)
    at = (trial + delay) * 1e3
    same, other = ("normal", "inverted") if not facts["inverted"] else ("inverted", "normal")
    picture.add(same, plus, "scan-now", pane="scan", x=at)
    picture.add(other, minus, "scan-other", pane="scan", x=at)
    null = smooth_db(lower - upper, grid, view.smoothing) - decibels(np.sqrt(first) + np.sqrt(second))
    inside = (grid >= lost.low_hz) & (grid <= lost.high_hz)
    deepest = int(np.argmin(np.where(inside, null, 0.0)))
    picture.facts["loss"] = {
        "mean": lost.mean,
        "worst": lost.worst,
        "worst_hz": lost.worst_hz,
        "low_hz": lost.low_hz,
        "high_hz": lost.high_hz,
        "null_db": float(null[deepest]),
        "null_hz": float(grid[deepest]),
    }


def _group(now: Scene, members: tuple[str, ...]) -> str:
    sides = {now.layout.driver(name).side for name in members}
    kinds = {now.layout.driver(name).kind for name in members}
    if len(kinds) == 1:
        return f"{now.layout.driver(members[0]).name.rsplit(' ', 1)[0]} L + R"
    return "Left" if sides == {"left"} else "Right"


def _measured_pair(desk: Desk, slug: str, view: View, members: set[str], picture: Picture) -> Take | None:
    """Add the latest take of a seam, and return it."""
    for one in takes(desk, slug):
        if one.purpose == "proof" and not one.discarded and set(one.channels) == members:
            values = level(desk, np.nan_to_num(reading(desk, one).response), view)
            picture.add("measured", values, "measured", label="measured")
            picture.facts["measured_at"] = one.created.isoformat()
            return one
    return None
