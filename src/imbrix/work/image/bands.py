"""What each band says: the answers that still hold, left against right as the processor is set and as it is heard."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.image.heard import Earlier, Heard, Meaning, meaning
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.weighting import bands, nominal
from imbrix.core.system.layout import SIDES, Group
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.image.answers import answers
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted, scene, summed
from imbrix.work.tune.revisions import head, revision

OCTAVES_HZ = (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0)
"""Mid-bands of octaves that have a place; under them nothing has."""
CHANGED_DB, CHANGED_DEG = 0.5, 12.0
"""A band between whose sides a change did less sounds as it did."""


@dataclass(frozen=True)
class Between:
    """Left over right in a band: the level in dB, and the angle that left is ahead in degrees."""

    level_db: float
    angle_deg: float


@dataclass(frozen=True)
class BandImage:
    """A band: what its answers say that hold still, and what those say that a change of the tune made old."""

    hz: float
    octaves: float
    means: Meaning | None
    was: Meaning | None


@dataclass(frozen=True)
class Sides:
    """A tune, and by side what is predicted of it."""

    tune: Tune
    responses: dict[str, ComplexArray]


def mids(octaves: float) -> tuple[float, ...]:
    """Mid-band frequencies of bands so wide, an octave or a third of one (IEC 61260-1, nominal ones by ISO 266)."""
    if octaves == 1.0:
        return OCTAVES_HZ
    return tuple(nominal(float(hz)) for hz in bands(3, 100.0, 10_000.0))


def images(space: Workspace, slug: str) -> list[BandImage]:
    """All octaves, and those thirds of one that something was answered to, from low to high. Raises NotHereError."""
    at, now = scene(space, slug), head(space, slug)
    said: dict[tuple[float, float], tuple[list[Heard], list[tuple[Heard, Sides]]]] = {
        (hz, 1.0): ([], []) for hz in OCTAVES_HZ
    }
    present = Sides(now.tune, sides(space, at, now.tune))
    known: dict[int, Sides] = {now.id: present}
    for one in answers(space, slug):
        if one.revision not in known:
            tune = revision(space, slug, one.revision).tune
            known[one.revision] = Sides(tune, sides(space, at, tune))
        then = known[one.revision]
        hz, octaves = one.heard.hz, one.heard.octaves
        fresh, old = said.setdefault((hz, octaves), ([], []))
        if _alike(then, present, space.grid, hz, octaves):
            fresh.append(one.heard)
        else:
            old.append((one.heard, then))
    return [_image(*band, fresh, old, present, space.grid) for band, (fresh, old) in sorted(said.items())]


def _image(
    hz: float,
    octaves: float,
    fresh: list[Heard],
    old: list[tuple[Heard, Sides]],
    present: Sides,
    grid: FloatArray,
) -> BandImage:
    was = meaning([old[-1][0]]) if old else None
    if not fresh:
        return BandImage(hz, octaves, None, was)
    if len(present.responses) < 2:
        return BandImage(hz, octaves, meaning(fresh), was)
    seen_db = between(present.responses, grid, hz, octaves).level_db
    earlier = None
    if old and len(old[-1][1].responses) == 2 and not old[-1][0].split:
        before, then = old[-1]
        changed = seen_db - between(then.responses, grid, hz, octaves).level_db
        earlier = Earlier(sum(before.places) / 2, changed)
    return BandImage(hz, octaves, meaning(fresh, seen_db, earlier), was)


def _alike(one: Sides, other: Sides, grid: FloatArray, hz: float, octaves: float) -> bool:
    """Whether a band sounds alike between the sides of two tunes."""
    if one.tune.channels == other.tune.channels and one.tune.routing == other.tune.routing:
        return True
    if len(one.responses) < 2 or len(other.responses) < 2:
        return False
    was, now = (between(each.responses, grid, hz, octaves) for each in (one, other))
    turned = abs((was.angle_deg - now.angle_deg + 180) % 360 - 180)
    return abs(was.level_db - now.level_db) < CHANGED_DB and turned < CHANGED_DEG


def sides(space: Workspace, at: Scene, tune: Tune) -> dict[str, ComplexArray]:
    """Predicted responses (n,) of what plays on the left and on the right, those behind aside."""
    responses = predicted(space, at, tune)
    playing = [one for one in map(at.layout.driver, at.ids) if one.group != Group.REAR and tune.audible(one.id)]
    names = {side: {one.id for one in playing if one.side == side} for side in SIDES}
    return {side: summed(at, responses, tune, among) for side, among in names.items() if among}


def between(responses: dict[str, ComplexArray], grid: FloatArray, hz: float, octaves: float) -> Between:
    """Left over right in a band, of responses (n,) of both sides."""
    inside = span_mask(grid, hz * 2 ** (-octaves / 2), hz * 2 ** (octaves / 2))
    left, right = responses["left"][inside], responses["right"][inside]
    powers = power_decibels(np.array([np.mean(np.abs(one) ** 2) for one in (left, right)]))
    return Between(float(powers[0] - powers[1]), float(np.degrees(np.angle(np.sum(left * np.conj(right))))))
