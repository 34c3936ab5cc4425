"""Seams of a project: their problem as it stands, and the search for settings that lose the least."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.align import figures
from imbrix.core.align.problem import System, net
from imbrix.core.align.propose import CHANGE_DB, SLOPE_DB, SLOPES
from imbrix.core.errors import ConflictError, InvalidError
from imbrix.core.predict.seam import Candidate, SeamProblem, distinct, search
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.system.layout import Seam
from imbrix.core.tune.apply import apply, relative_delay, relative_polarity
from imbrix.core.tune.edits import Edit, SetCrossover, SetSeam
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Crossover, Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import common_clock, predicted, scene
from imbrix.work.predict.system import timed_system
from imbrix.work.tune.revisions import head

SIDES_APART_S = 100e-6
"""Sides that come further apart by more than this are told of."""


@dataclass(frozen=True)
class Offer:
    """A setting of a seam that a search found: what it is, what it would lose, and the edits that set it."""

    delay_s: float
    inverted: bool
    change: str
    mean_db: float
    worst_db: float
    edits: tuple[Edit, ...]
    away_s: float | None = None
    """By how much the direct sound of the upper way comes later than that of the lower one then, where that is sure."""
    rank: float = 0.0
    """What offers are put in order by: what the seam costs in the alignment of the whole."""
    says: tuple[str, ...] = ()
    """What speaks against it, in a few words each."""


def two_sides(space: Workspace, now: Scene, seam: Seam, tune: Tune) -> tuple[ComplexArray, ComplexArray] | None:
    """Lower and upper way (n,) of a seam through the tune; None where a take is missing."""
    if not {*seam.lowers, *seam.uppers} <= set(now.ids):
        return None
    responses = predicted(space, now, tune)
    lower = sum((responses[now.ids.index(name)] for name in seam.lowers), np.zeros(space.grid.size, dtype=complex))
    upper = sum((responses[now.ids.index(name)] for name in seam.uppers), np.zeros(space.grid.size, dtype=complex))
    return lower, upper


def untimed(now: Scene, seam: Seam) -> list[str]:
    """Names of the drivers at a seam whose take does not keep time, or not by the clock that most others are
    counted by: their delay cannot be judged."""
    members = {name: now.takes[name] for name in (*seam.lowers, *seam.uppers) if name in now.ids}
    clock = common_clock(members.values())
    return [now.layout.driver(name).name for name, one in members.items() if not one.clock or one.clock != clock]


def offers(space: Workspace, slug: str, seam_id: str, most: int = 4) -> list[Offer]:
    """The best settings of a seam, the likeliest first: delay and polarity as it is, and with other slopes.

    Raises ConflictError where takes are missing or do not keep time.
    """
    now = scene(space, slug)
    tune = head(space, slug).tune
    seam = now.layout.seam(seam_id)
    late = untimed(now, seam)
    if late:
        raise ConflictError(f"{', '.join(late)}: the take keeps no time, so no delay can be found with it")
    at = _At(space, now, seam, tune, timed_system(space, slug, now))
    same = at.found(tune, (), "", 3)
    if same is None:
        raise ConflictError(_why_not(now, seam))
    other: list[Offer] = []
    for end in _alternatives(tune, seam, at.system.limits):
        edits = (SetCrossover(channel=seam.uppers[0], end="high_pass", **end.model_dump()),)
        words = {"linkwitz-riley": "LR", "butterworth": "BW", "bessel": "Bessel"}[end.shape]
        crossed = apply(tune, list(edits), now.layout, at.system.limits)
        other += at.found(crossed, edits, f"{words} {end.slope_db}", 1) or []
    other = sorted(other, key=lambda offer: offer.rank)[: most - len(same)]
    # What the processor cannot set is told, and never comes first; nor, as in the proposals for the whole, does another
    # slope that was judged at one spot.
    vague = at.system.one_spot
    return sorted([*same, *other], key=lambda offer: (not offer.edits, vague and bool(offer.change), offer.rank))


def _why_not(now: Scene, seam: Seam) -> str:
    missing = [now.layout.driver(name).name for name in (*seam.lowers, *seam.uppers) if name not in now.ids]
    if missing:
        return f"{', '.join(missing)}: no take yet, so nothing can be predicted here"
    return "the two do not overlap: nowhere are both within 10 dB of each other"


def _alternatives(tune: Tune, seam: Seam, model: Limits) -> list[Crossover]:
    """Other slopes at the same corner that are worth a look, of those that the processor has."""
    now = tune.channels[seam.uppers[0]].high_pass
    if seam.ways is None or seam.name not in tune.tied_ways or now is None or now.taps:
        return []
    return [
        Crossover(shape=shape, slope_db=slope, corner_hz=now.corner_hz)
        for shape, slope in SLOPES
        if (shape, slope) != (now.shape, now.slope_db) and slope in model.slopes_of(shape)
    ]


@dataclass(frozen=True)
class _At:
    """A seam as it stands in a tune, and the system that its settings are judged in."""

    space: Workspace
    now: Scene
    seam: Seam
    tune: Tune
    system: System

    @property
    def judged(self) -> System:
        """Where both sides arrive together that counts too; else the seam is judged by itself."""
        apart = figures.arrivals_apart(self.system, self.tune)
        together = apart is not None and abs(apart) <= SIDES_APART_S
        if together and not figures.unlike(self.system, self.tune):
            return self.system
        return self.system.among((*self.seam.lowers, *self.seam.uppers))

    def found(self, tune: Tune, edits: tuple[Edit, ...], change: str, most: int) -> list[Offer] | None:
        """The best settings with a tune's crossovers, which `edits` make; None where nothing can be predicted.

        They are sought as the channels will be once they are voiced, as the whole is; what they lose is told as they
        are now.
        """
        sought, shown = self._problem(self.system.expects(tune)), self._problem(tune)
        if sought is None:
            return None
        shown = shown or sought
        together = _together(self.system, self.seam, tune)
        step = self.system.step_s
        judged, offered = self.judged, {}
        # In a system that is aligned what stands may be best, though by itself the seam would lose less elsewhere.
        stands = [sought.candidate(0.0, invert=False)] if judged is self.system else []
        for one in (*stands, *search(sought, step, together_s=together or 0.0)):
            loses = shown.candidate(one.delay_s, one.invert)
            offered[one] = self._offer(judged, tune, edits, change, loses, together, sought.centre_hz)
        in_order = sorted(offered, key=lambda one: offered[one].rank)
        return [offered[one] for one in distinct(in_order, apart_s=0.1 / sought.centre_hz, most=most)]

    def _problem(self, tune: Tune) -> SeamProblem | None:
        sides = two_sides(self.space, self.now, self.seam, tune)
        try:
            return SeamProblem(*sides, self.space.grid) if sides else None
        except InvalidError:
            return None

    def _offer(
        self,
        judged: System,
        tune: Tune,
        edits: tuple[Edit, ...],
        change: str,
        one: Candidate,
        together: float | None,
        centre_hz: float,
    ) -> Offer:
        delay = relative_delay(tune, self.seam) + one.delay_s
        invert = relative_polarity(tune, self.seam) != one.invert
        setting = SetSeam(seam=self.seam.id, delay_s=delay, invert=invert)
        after = apply(tune, [setting], self.now.layout)
        away = None if together is None else one.delay_s - together
        says = _against(self.system, self.tune, after, abs(away or 0.0) * centre_hz)
        kept = apply(tune, [setting], self.now.layout, self.system.limits)
        can = abs(relative_delay(kept, self.seam) - delay) < 1.5 * self.system.step_s
        return Offer(
            delay_s=delay,
            inverted=invert,
            change=change,
            mean_db=one.mean,
            worst_db=one.worst,
            edits=(*edits, setting) if can else (),
            away_s=away,
            rank=net(judged, after, here=True).total(*judged.steps(after)) + self._slope_cost(after, change),
            says=(
                *([] if can else ["beyond the processor's delay"]),
                *(["judged at one spot"] if change and self.system.one_spot else []),
                *says,
            ),
        )

    def _slope_cost(self, tune: Tune, change: str) -> float:
        """What another slope costs beside what it loses, as in the proposals for the whole."""
        if not change:
            return 0.0
        slopes = [one.channels[self.seam.uppers[0]].high_pass for one in (self.tune, tune)]
        before, after = (SLOPE_DB.get(one.slope_db, 1.0) if one else 0.0 for one in slopes)
        return CHANGE_DB + after - before


def _together(system: System, seam: Seam, tune: Tune) -> float | None:
    """By how much later the upper way would have to be for both direct sounds to arrive at once, in seconds."""
    if not {*seam.lowers, *seam.uppers} <= set(system.ids):
        return None
    lower, upper = (
        sum(system.arrivals[name].seconds + tune.channels[name].late_s(system.limits.rate) for name in names)
        / len(names)
        for names in (seam.lowers, seam.uppers)
    )
    return lower - upper


def _against(system: System, now: Tune, tune: Tune, periods: float) -> tuple[str, ...]:
    """What speaks against a tune at a seam whose direct sounds come so many periods apart then."""
    said = []
    if periods > figures.FAR_PERIODS:
        said.append(f"{periods:.1f} periods off")
    unlike = [one for one in figures.unlike(system, tune) if one not in figures.unlike(system, now)]
    if unlike:
        said.append("sides unlike")
    before, apart = (abs(figures.arrivals_apart(system, one) or 0.0) for one in (now, tune))
    if apart > before + SIDES_APART_S:
        said.append(f"sides {apart * 1e3:.1f} ms apart")
    return tuple(said)
