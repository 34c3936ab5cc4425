"""A correction for a plain microphone, from a pair of takes with a corrected one, and its verification."""

from dataclasses import dataclass

from imbrix.core.errors import ConflictError
from imbrix.core.measure.microphone import disagreement, plain_correction
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import corrections
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import take


@dataclass(frozen=True)
class PairMade:
    """The id of a correction that was made, and the band in which both takes had signal."""

    id: int
    low_hz: float
    high_hz: float


@dataclass(frozen=True)
class PairAgrees:
    """How well two corrected takes agree: worst and rms difference in dB, and whether within 1 dB."""

    worst_db: float
    worst_hz: float
    rms_db: float
    agrees: bool


def make_correction(space: Workspace, slug: str, known_id: int, plain_id: int, name: str) -> PairMade:
    """A correction for a plain microphone from two takes of one driver at one spot: corrected, and plain.

    Raises ConflictError or InvalidError where they do not fit together.
    """
    known, plain = take(space, slug, known_id), take(space, slug, plain_id)
    if known.id == plain.id or known.channels != plain.channels:
        raise ConflictError(
            "choose two takes of the same driver: one with the corrected microphone, one with the plain"
        )
    if known.details.position != plain.details.position:
        raise ConflictError("the two takes were made at different places of the microphone")
    if known.details.correction is None:
        raise ConflictError("the first take has no microphone correction: nothing is known to compare with")
    first, second = reading(space, known), reading(space, plain)
    bare_plain = second.response
    if plain.details.correction is not None:
        bare_plain = bare_plain * corrections.on_grid(space, plain.details.correction)
    found = plain_correction(first.response, first.over_noise_db, bare_plain, second.over_noise_db, space.grid)
    pointing = plain.details.pointing or "source"
    new = corrections.add(space, name, pointing, "made here", found.correction)
    return PairMade(new, found.low_hz, found.high_hz)


def verify_correction(space: Workspace, slug: str, known_id: int, plain_id: int) -> PairAgrees:
    """Whether a fresh pair of corrected takes agrees within 1 dB, both as they are corrected now."""
    known, plain = take(space, slug, known_id), take(space, slug, plain_id)
    if plain.details.correction is None or known.details.correction is None:
        raise ConflictError("both takes need a correction: choose the new one for the plain microphone's take")
    kept = corrections.correction(space, plain.details.correction).curve
    first, second = reading(space, known).response, reading(space, plain).response
    flat = kept.on(space.grid)
    worst, where, rms = disagreement(first, second * flat, kept, space.grid)
    return PairAgrees(worst, where, rms, worst <= 1.0)
