"""What Seams shows: two neighbouring ways, what they add up to, and what timing costs."""

import numpy as np

from imbrix.core.look.phase import wrapped_degrees
from imbrix.core.predict.seam import SeamProblem, loss, sensible_delays
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import decibels, power_decibels
from imbrix.core.signal.smoothing import smooth, smooth_db, smooth_power
from imbrix.core.system.layout import Group, Seam
from imbrix.core.tune.apply import relative_delay, relative_polarity
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.moments import in_utc
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.offers import two_sides, untimed
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take
from imbrix.work.views import angles, closer, null, whole
from imbrix.work.views.facts import Facts
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View, level, shown


def bare_faint(space: Workspace, now: Scene, names: tuple[str, ...], view: View, picture: Picture) -> None:
    """Some drivers' bare curves, faintly."""
    for name in names:
        row = now.index(name)
        if row is not None:
            picture.add(f"bare-{name}", shown(space, now, row, now.rows[row], view), "faint", channel=name)


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    """Add both sides of a seam, their sum, its loss, the scan over delay, and what was measured of it."""
    seams = now.layout.seams()
    if not seams:
        picture.facts["lacking"] = "this system has one way and one side only: there is no seam in it"
        return
    if view.seam == whole.WHOLE:
        whole.draw(space, slug, view, tune, now, picture)
        return
    seam = now.layout.seam(view.seam or seams[0].id)
    delay = relative_delay(tune, seam)
    facts: Facts = {
        "seam": seam.id,
        "delay_ms": delay * 1e3,
        "path_mm": delay * speed_of_sound() * 1e3,
        "sample_mm": speed_of_sound() * 1e3 / now.rate,
        "inverted": relative_polarity(tune, seam),
        "loss": None,
        "untimed": untimed(now, seam),
    }
    picture.facts.update(facts)
    if seam.ways is not None:
        bare_faint(space, now, (*seam.lowers, *seam.uppers), view, picture)
    sides = two_sides(space, now, seam, tune)
    if view.below == "angles":
        angles.of_seam(space, slug, picture, seam, tune, view.smoothing)
    if sides is None:
        if view.below != "angles":
            closer.add(space, picture, None, None, view.below, view.smoothing, view.gate_ms, view.lens)
        return
    lower, upper = sides
    grid = space.grid
    first, second = smooth_power(lower, grid, view.smoothing), smooth_power(upper, grid, view.smoothing)
    total = smooth_power(lower + upper, grid, view.smoothing)
    names = (("lower", seam.lowers, first), ("upper", seam.uppers, second))
    for key, members, power in names:
        label = now.layout.driver(members[0]).name if len(members) == 1 else _group(now, members)
        picture.add(key, power_decibels(power) + space.offset_db, "bold", label=label, channel=members[0])
    picture.add("ideal", decibels(np.sqrt(first) + np.sqrt(second)) + space.offset_db, "ideal", label="ideal sum")
    picture.add("sum", power_decibels(total) + space.offset_db, "sum", label="sum")
    null.add(space, slug, view, now, seam, tune, sides, picture)
    measured = _measured_pair(space, slug, view, seam, picture)
    if view.below and view.below != "angles":
        subject = closer.of_proof(space, measured) if measured else closer.Subject(lower + upper, "predicted sum")
        closer.add(space, picture, subject, None, view.below, view.smoothing, view.gate_ms, view.lens)
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
    nulled = smooth_db(lower - upper, grid, view.smoothing) - decibels(np.sqrt(first) + np.sqrt(second))
    inside = (grid >= lost.low_hz) & (grid <= lost.high_hz)
    deepest = int(np.argmin(np.where(inside, nulled, 0.0)))
    picture.facts["loss"] = {
        "mean": lost.mean,
        "worst": lost.worst,
        "worst_hz": lost.worst_hz,
        "low_hz": lost.low_hz,
        "high_hz": lost.high_hz,
        "null_db": float(nulled[deepest]),
        "null_hz": float(grid[deepest]),
    }


def _group(now: Scene, members: tuple[str, ...]) -> str:
    drivers = [now.layout.driver(name) for name in members]
    sides = {driver.side for driver in drivers}
    if all(driver.group == Group.SUB for driver in drivers):
        return "Subs"
    if len({driver.kind for driver in drivers}) == 1:
        return f"{now.layout.driver(members[0]).name.rsplit(' ', 1)[0]} L + R"
    return "Left" if sides == {"left"} else "Right"


def _measured_pair(space: Workspace, slug: str, view: View, seam: Seam, picture: Picture) -> Take | None:
    """Add the latest take of a seam, and return it."""
    one = null.latest(space, slug, seam, "proof")
    if one is not None:
        values = level(space, np.nan_to_num(reading(space, one).response), view)
        picture.add("measured", values, "measured", label="measured")
        picture.facts["measured_at"] = in_utc(one.created).isoformat()
    return one
