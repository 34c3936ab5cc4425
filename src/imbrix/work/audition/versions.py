"""Tunes that can be heard against each other: the present one, revisions, slots; and how loud each is."""

from imbrix.core.audition.match import loudness
from imbrix.core.errors import NotHereError
from imbrix.core.tune.tune import Tune
from imbrix.core.value import Value
from imbrix.work.audition.songs import spectrum_of
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.processor import slots
from imbrix.work.tune.revisions import head, revision, revisions

NOW = "now"
MOST = 12
"""So many of the newest revisions can be chosen besides those with a name."""


class Version(Value):
    """A tune by its key, `now`, `revision-N` or `slot-N`, and its name."""

    key: str
    name: str


def versions(space: Workspace, slug: str) -> tuple[Version, ...]:
    """What can be heard: the tune as it is, slots whose content is known, revisions that have a name or are new."""
    found = [Version(key=NOW, name="as it is now")]
    found += [Version(key=f"slot-{n}", name=f"slot {n}: {name}") for n, name, _ in slots.known(space, slug)]
    for n, one in enumerate(revisions(space, slug)):
        if one.name or n < MOST:
            found.append(Version(key=f"revision-{one.id}", name=f"{one.number}: {one.name or one.summary}"))
    return tuple(found)


def tune_of(space: Workspace, slug: str, key: str) -> Tune:
    """The tune of a version. Raises NotHereError."""
    kind, _, number = key.partition("-")
    if key == NOW:
        return head(space, slug).tune
    if kind == "revision" and number.isdecimal() and len(number) < 12:
        return revision(space, slug, int(number)).tune
    if kind == "slot":
        for n, _name, tune in slots.known(space, slug):
            if str(n) == number:
                return tune
    raise NotHereError(f"there is no version {key!r} to be heard")


def loudness_of(space: Workspace, slug: str, tune: Tune, song: int) -> float:
    """How loud a piece is through a tune, in dB by ITU-R BS.1770, over something that is the same for all tunes.

    As the place hears what has a take; where nothing has one, as the processor puts it out.
    """
    at = scene(space, slug, spatial=True)
    music = spectrum_of(space, song)
    if at.ids:
        power = whole_power(at, space.grid, predicted(space, at, tune), tune, None)
    else:
        through = space.predictor_at(at.rate).through(tune, tune.channels)
        power = (abs(through) ** 2).sum(axis=0)
    return loudness(power, music, space.grid)
