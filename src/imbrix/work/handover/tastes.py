"""Tastes: several targets on one alignment, each in a slot of the processor, switched while listening."""

from dataclasses import dataclass

from imbrix.core.errors import ConflictError, InvalidError, NotHereError
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.headroom import peaks
from imbrix.core.signal.loudness import pink_loudness
from imbrix.core.tune.edits import Edit, SetTarget, ShiftGains
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.fitting import fit_common, fit_measured, last_whole
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.processor import slots
from imbrix.work.processor.controls import at_most
from imbrix.work.processor.link import send, unsent
from imbrix.work.tune.revisions import commit, head, restore
from imbrix.work.tune.targets import targets

AS_LOUD_DB = 0.1


@dataclass(frozen=True)
class Taste:
    """A target by its key, and the slot that it goes to."""

    curve: str
    slot: int


def make(space: Workspace, slug: str, tastes: tuple[Taste, ...]) -> None:
    """Fit the correction common to all channels to each target, and store each in its slot; then all is as it was.

    All are as loud as the tune that they are made of, so that they can be compared: louder is taken for better.
    What a moving microphone measured of the whole is fitted, where it was recorded, else what is predicted: alignment
    and channels stay, so that the image does. Raises NotHereError for a target that there is not, InvalidError for a
    slot twice, ConflictError where something is unsent or a take runs.
    """
    known = targets(space, slug)
    for one in tastes:
        if one.curve not in known:
            raise NotHereError(f"there is no target curve {one.curve!r}")
    if len({one.slot for one in tastes}) < len(tastes):
        raise InvalidError("each taste needs a slot of its own")
    kept = {one.slot for one in tastes} & slots.locked(space, slug)
    if kept:
        raise ConflictError(f"slot {min(kept)} is locked: unlock it first, or use another")
    if unsent(space, slug):
        raise ConflictError("the processor does not do the tune yet: send it before tastes are made of it")
    processor = processors.processor(space, slug)
    before, in_slot = head(space, slug), processor.stored_in()
    try:
        for one in tastes:
            _one(space, slug, one, known[one.curve].name, before.tune)
    finally:
        if head(space, slug).id != before.id:
            restore(space, slug, before.id)
        send(space, slug)
        if in_slot is not None and all(one.slot != in_slot for one in tastes):
            slots.recall(space, slug, in_slot)


def _one(space: Workspace, slug: str, taste: Taste, name: str, like: Tune) -> None:
    edits: list[Edit] = [SetTarget(curve=taste.curve)]
    commit(space, slug, edits, f"Taste: {name}")
    if last_whole(space, slug, head(space, slug).tune) is not None:
        fit_measured(space, slug, FitLimits())
    else:
        fit_common(space, slug, FitLimits())
    _as_loud(space, slug, like, name)
    send(space, slug)
    slots.store(space, slug, taste.slot, name)


def _as_loud(space: Workspace, slug: str, like: Tune, name: str) -> None:
    """Shift all gains so that pink noise is as loud (ITU-R BS.1770) as with another tune, as far as nothing clips."""
    now, tune = scene(space, slug, spatial=True), head(space, slug).tune
    louder = _loudness(space, now, tune) - _loudness(space, now, like)
    most = at_most(space, slug, tune)
    room = -max(peaks(most, driver.id, space.predictor_at(now.rate)).worst_db for driver in now.layout.drivers)
    by_db = min(-louder, max(room, 0.0))
    short = -louder - by_db
    says = "as loud" if short < AS_LOUD_DB else f"{short:.1f} dB softer: louder it would clip"
    commit(space, slug, [ShiftGains(by_db=by_db)], f"Taste: {name}, {says}")


def _loudness(space: Workspace, now: Scene, tune: Tune) -> float:
    return pink_loudness(whole_power(now, space.grid, predicted(space, now, tune), tune, None), space.grid)
