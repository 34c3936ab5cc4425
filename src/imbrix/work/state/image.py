"""The image as the page shows it: each band with what was heard, and what would mend it."""

from typing import Literal

from pydantic import BaseModel

from imbrix.core.image.head import TIMED_HZ
from imbrix.core.image.heard import Meaning, Sounds
from imbrix.core.tune.edits import Edit
from imbrix.work.ground.workspace import Workspace
from imbrix.work.image import bands, mending
from imbrix.work.rig import rig


class Stands(BaseModel):
    """Where a band stands, from -1 at the far left to 1 at the far right: two places where it falls in two. `level_db`
    is by how much left seems louder, `angle_deg` by which angle it seems ahead; `spread` is how far answers differ, and
    `says` all that in words."""

    sounds: Sounds
    places: tuple[float, float]
    spread: float
    level_db: float
    angle_deg: float
    count: int
    says: str


class BandState(BaseModel):
    """A band: heard, not heard yet, or to be heard again as the tune was changed there: `was` says where it stood."""

    hz: float
    octaves: float
    state: Literal["unheard", "again", "heard"]
    stands: Stands | None
    was: Stands | None


class MendingState(BaseModel):
    """What mends the image: edits, why, where each heard band is expected after them, and why they cannot be made."""

    title: str
    says: str
    edits: list[Edit]
    expected: list[tuple[float, float]]
    lacks: str


class ImageState(BaseModel):
    """All bands from low to high, what mends them, and the thirds of an octave that can be asked for besides.

    `listener` says whether the stand-in has one, who answers for a person that hears nothing of a simulation.
    """

    bands: list[BandState]
    mendings: list[MendingState]
    thirds_hz: list[float]
    listener: bool


def image_state(space: Workspace, slug: str) -> ImageState:
    """The image of a project. Raises NotHereError."""
    return ImageState(
        bands=[
            BandState(
                hz=one.hz,
                octaves=one.octaves,
                state="heard" if one.means else "again" if one.was else "unheard",
                stands=_stands(one.means),
                was=_stands(one.was),
            )
            for one in bands.images(space, slug)
        ],
        mendings=[
            MendingState(
                title=one.title, says=one.says, edits=list(one.edits), expected=list(one.expected), lacks=one.lacks
            )
            for one in mending.mendings(space, slug)
        ],
        thirds_hz=list(bands.mids(1 / 3)),
        listener=rig.standin(space) is not None,
    )


def _stands(means: Meaning | None) -> Stands | None:
    if means is None:
        return None
    return Stands(
        sounds=means.sounds,
        places=means.places,
        spread=round(means.spread, 2),
        level_db=round(means.level_db, 1),
        angle_deg=round(means.angle_deg),
        count=means.count,
        says=_says(means),
    )


def _says(means: Meaning) -> str:
    """What a band says, in words."""
    if means.sounds == "centre":
        said = "stands in the centre"
    elif means.sounds == "split" and means.hz > TIMED_HZ:
        said = "falls in two: so high up no band mends that, reflections and delays do it"
    elif means.sounds == "split":
        said = f"falls in two: left sounds {abs(means.angle_deg):.0f}° {'ahead' if means.angle_deg > 0 else 'behind'}"
    else:
        said = f"off to the {means.sounds}: left sounds {means.level_db:+.1f} dB over right"
    beside = [word for word, on in (("far off", means.far), ("high", means.high)) if on]
    return ", ".join([said, *beside])
