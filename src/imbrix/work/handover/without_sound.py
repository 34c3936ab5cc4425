"""Takes without their raw sound: the impulse response that was read of it stands in its place."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ImbrixError
from imbrix.core.measure.reading import EARLY_S
from imbrix.store.arrays import pack
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.reading import mended_impulse, sick
from imbrix.work.takes.shelf import Take, takes

KEPT_S = 1.0
"""So much of an impulse response is kept: longer than any room that sound is tuned in rings on."""
METHODS = ("sweep", "file", "source")


@dataclass(frozen=True)
class Light:
    """A take that shows the same with less: microphone and interface are divided out for good."""

    take: int
    impulse: bytes
    """The array as it is kept."""


def lightened(space: Workspace, slug: str) -> dict[int, Light]:
    """By take those that can do without their sound; what cannot be read, and what is no response, keeps it."""
    found: dict[int, Light] = {}
    for one in takes(space, slug):
        if one.method in METHODS and one.has_impulse and not sick(space, one):
            try:
                found[one.id] = Light(one.id, pack(_impulse(space, one)))
            except ImbrixError:
                continue
    return found


def _impulse(space: Workspace, one: Take) -> np.ndarray:
    """From a little before time zero on, as a response that comes as an impulse is kept."""
    shows = mended_impulse(space, one)
    early = round(EARLY_S * shows.rate)
    first = shows.zero - early
    samples = np.concatenate((np.zeros(max(0, -first)), shows.samples[max(0, first) :]))
    return samples[: early + round(KEPT_S * shows.rate)]
