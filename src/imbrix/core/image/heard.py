"""What a person heard of a band, and what that says of left against right."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from imbrix.core.image.head import ANGLES_DEG, LEVELS_DB, TIMED_HZ, table
from imbrix.core.value import Value

NEAR = 0.1
"""A sound no farther from the centre than this share of the way to a loudspeaker stands there."""
LEAST_DEG = 40.0
"""A sound that stands in one place, by an angle no greater, is told by level alone."""
SPLIT = 0.2
"""Marks that are no farther apart are one place."""
LEVEL_DB, ANGLE_DEG, UNLIKE_COSTS = 4.0, 90.0, 0.5
"""Of causes that sound alike those are likelier whose level is nearer to what the microphone saw, and whose angle is
smaller, by so much each; one that would not fall in two does not explain what does."""
LEAST_CHANGE_DB, AT_SIDE, PER_DB = 0.8, 0.95, (-0.4, -0.03)
"""What a change of level tells: no less than so much, of what is not at one side altogether, by so much a dB."""
PLAIN = 0.5
"""What level alone explains so well has no angle."""
DOUBT = 0.01
"""The square of how far off people put marks."""
Sounds = Literal["centre", "left", "right", "split"]
Place = Annotated[float, Field(ge=-1, le=1, allow_inf_nan=False)]


class Heard(Value):
    """One answer: the place of the sound of a band, from -1 at the far left to 1 at the far right, or the two places
    that it fell in. `far` and `high` say that it stood behind or above the others."""

    hz: Annotated[float, Field(ge=20, le=20_000, allow_inf_nan=False)]
    octaves: Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)] = 1.0
    places: tuple[Place, Place]
    far: bool = False
    high: bool = False

    @property
    def split(self) -> bool:
        """Whether it fell in two."""
        return abs(self.places[1] - self.places[0]) > SPLIT


@dataclass(frozen=True)
class Meaning:
    """What a band's answers say: where it sounds, by how much left is louder than right, in dB, and by which angle it
    is ahead, in degrees, each no surer than `spread` in places tells; `count` answers say it, and most of them whether
    it stood `far` off or `high`."""

    hz: float
    octaves: float
    sounds: Sounds
    places: tuple[float, float]
    spread: float
    level_db: float
    angle_deg: float
    count: int
    far: bool = False
    high: bool = False

    @property
    def place(self) -> float:
        """The middle of its places."""
        return sum(self.places) / 2

    @property
    def sure(self) -> bool:
        """Whether it stands farther off than its answers stand from each other."""
        return self.sounds in ("centre", "split") or abs(self.place) > self.spread


@dataclass(frozen=True)
class Earlier:
    """Where a band stood before a change made left louder by `changed_db`, over right."""

    place: float
    changed_db: float

    def per_db(self, place: float) -> float | None:
        """How far the sound goes for each dB that left is louder; None where what was heard does not tell."""
        if abs(self.changed_db) < LEAST_CHANGE_DB or max(abs(place), abs(self.place)) >= AT_SIDE:
            return None
        slope = (place - self.place) / self.changed_db
        return slope if PER_DB[0] <= slope <= PER_DB[1] else None


def meaning(answers: Sequence[Heard], seen_db: float = 0.0, earlier: Earlier | None = None) -> Meaning:
    """What the answers to one band say together, at least one: the median of their places.

    `seen_db` is by how much the microphone saw left louder there. What stood elsewhere `earlier` tells how far a dB
    moves it, which depends on phase; else a head in the middle does. Up to `TIMED_HZ` a sound that falls in two tells
    of phase; above, and where it stands in one place, of level.
    """
    places = np.sort([one.places for one in answers], axis=1)
    hz, octaves = answers[0].hz, answers[0].octaves
    low, high = (float(one) for one in np.median(places, axis=0))
    middles = places.mean(axis=1)
    spread = float((middles.max() - middles.min()) / 2)
    split = sum(one.split for one in answers) * 2 > len(answers)
    if not split:
        low = high = (low + high) / 2
    far, high_up = (
        sum(each) * 2 > len(answers) for each in zip(*((one.far, one.high) for one in answers), strict=True)
    )
    sounds: Sounds = "split" if split else "left" if low < 0 else "right"
    level, angle = 0.0, 0.0
    if not split and abs(low) <= NEAR:
        sounds = "centre"
    else:
        level, angle = cause(hz, octaves, (low, high), seen_db)
        moved = earlier.per_db(low) if earlier is not None and not split else None
        if moved is not None:
            level, angle = low / moved, 0.0
    return Meaning(hz, octaves, sounds, (low, high), spread, level, angle, len(answers), far, high_up)


def cause(hz: float, octaves: float, places: tuple[float, float], seen_db: float = 0.0) -> tuple[float, float]:
    """By how much left is louder than right, in dB, and by which angle it is ahead, in degrees, where a band stands in
    two places (low, high), or twice in the same one.

    The mean of all levels and angles of `head.table`, by how likely they are to have sounded so.
    """
    known = np.sort(table(hz, octaves), axis=2)
    off = np.sum((known - np.array(places)) ** 2, axis=2)
    unlike = (known[..., 1] - known[..., 0] > SPLIT) != (places[1] - places[0] > SPLIT)
    rare = ((LEVELS_DB - seen_db)[:, None] / LEVEL_DB) ** 2 + (ANGLES_DEG / ANGLE_DEG) ** 2
    cost = (off + UNLIKE_COSTS * unlike) / DOUBT + rare
    likely = np.exp((cost.min() - cost) / 2)
    plain = np.abs(ANGLES_DEG) <= LEAST_DEG
    alone = places[1] - places[0] <= SPLIT
    if hz > TIMED_HZ or (alone and likely[:, plain].sum() > PLAIN * likely.sum()):
        likely = likely * plain
        return float((likely.sum(axis=1) @ LEVELS_DB) / likely.sum()), 0.0
    level = float((likely.sum(axis=1) @ LEVELS_DB) / likely.sum())
    return level, float(np.degrees(np.angle(likely.sum(axis=0) @ np.exp(1j * np.radians(ANGLES_DEG)))))
