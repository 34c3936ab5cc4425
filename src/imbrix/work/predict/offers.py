"""Seams of a project: their problem as it stands, and the search for settings that lose the least."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ConflictError, InvalidError
from imbrix.core.predict.seam import Candidate, SeamProblem, distinct, search
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.system.layout import Seam
from imbrix.core.tune.apply import apply, relative_delay, relative_polarity
from imbrix.core.tune.crossover import Shape
from imbrix.core.tune.edits import Edit, SetCrossover, SetSeam
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Crossover, Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import Scene, predicted, scene
from imbrix.work.takes.reading import onset_of
from imbrix.work.tune.revisions import head

PER_PERIOD_DB, AGAINST_DB, OTHER_SLOPE_DB = 8.0, 6.0, 1.0
"""What tells against an offer beside its loss: sounds apart, first movements against each other, and a slope that one
seam alone asks for (common practice, no source)."""


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
    """What offers are put in order by: the mean loss, and what tells against being far from arriving together."""


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
    clocks = {name: now.takes[name].clock for name in (*seam.lowers, *seam.uppers) if name in now.ids}
    known = [clock for clock in clocks.values() if clock]
    common = max(known, key=known.count) if known else ""
    return [now.layout.driver(name).name for name, clock in clocks.items() if not clock or clock != common]


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
    found = _search(space, slug, now, seam, tune, (), "", 3)
    if found is None:
        raise ConflictError(_why_not(now, seam))
    model = processors.model(space, slug)
    for end in _alternatives(tune, seam, model):
        edits = (SetCrossover(channel=seam.uppers[0], end="high_pass", **end.model_dump()),)
        tried = apply(tune, list(edits), now.layout, model)
        words = {"linkwitz-riley": "LR", "butterworth": "BW", "bessel": "Bessel"}[end.shape]
        found += _search(space, slug, now, seam, tried, edits, f"{words} {end.slope_db}", 1) or []
    found = [offer for offer in found if _can(model, now, seam, tune, offer)]
    same = [offer for offer in found if not offer.change][:3]
    other = sorted((offer for offer in found if offer.change), key=lambda offer: offer.rank)[: most - len(same)]
    return sorted([*same, *other], key=lambda offer: offer.rank)


def _can(model: Limits, now: Scene, seam: Seam, tune: Tune, offer: Offer) -> bool:
    """Whether the processor can set an offer as it stands: not a delay beyond what it has."""
    set_so = apply(tune, list(offer.edits), now.layout, model)
    return abs(relative_delay(set_so, seam) - offer.delay_s) < 1.5 / now.rate


def _why_not(now: Scene, seam: Seam) -> str:
    missing = [now.layout.driver(name).name for name in (*seam.lowers, *seam.uppers) if name not in now.ids]
    if missing:
        return f"{', '.join(missing)}: no take yet, so nothing can be predicted here"
    return "the two do not overlap: nowhere are both within 10 dB of each other"


def _alternatives(tune: Tune, seam: Seam, model: Limits) -> list[Crossover]:
    """Other slopes at the same corner that are worth a look, of those that the processor has."""
    now = tune.channels[seam.uppers[0]].high_pass
    if seam.ways is None or seam.name not in tune.tied_ways or now is None:
        return []
    tries: tuple[tuple[Shape, int], ...] = (
        ("linkwitz-riley", 24),
        ("linkwitz-riley", 48),
        ("linkwitz-riley", 12),
        ("butterworth", 18),
    )
    return [
        Crossover(shape=shape, slope_db=slope, corner_hz=now.corner_hz)
        for shape, slope in tries
        if (shape, slope) != (now.shape, now.slope_db) and slope in model.slopes_of(shape)
    ]


def _search(
    space: Workspace, slug: str, now: Scene, seam: Seam, tune: Tune, edits: tuple[Edit, ...], change: str, most: int
) -> list[Offer] | None:
    sides = two_sides(space, now, seam, tune)
    if sides is None:
        return None
    try:
        problem = SeamProblem(*sides, space.grid)
    except InvalidError:
        return None
    step = 1.0 / now.rate
    direct = _direct(space, slug, now, seam, tune)
    ranked = [
        (one, one.mean if direct is None else one.mean + direct.tells_against(one, problem.centre_hz))
        for one in search(problem, step, together_s=direct.together_s if direct else 0.0)
    ]
    ranks = dict(sorted(ranked, key=lambda one: one[1]))
    found = []
    for one in distinct(list(ranks), apart_s=0.1 / problem.centre_hz, most=most):
        delay = relative_delay(tune, seam) + one.delay_s
        invert = relative_polarity(tune, seam) != one.invert
        setting = SetSeam(seam=seam.id, delay_s=delay, invert=invert)
        away = None if direct is None else one.delay_s - direct.together_s
        rank = ranks[one] + (OTHER_SLOPE_DB if change else 0.0)
        found.append(Offer(delay, invert, change, one.mean, one.worst, (*edits, setting), away, rank))
    return found


@dataclass(frozen=True)
class _Direct:
    """What is known of the direct sounds of a seam: by how much the upper way has to come later so that both arrive at
    once, and whether it has to be inverted for their first movements to go with the crossover; None where any will do.
    """

    together_s: float
    invert: bool | None

    def tells_against(self, one: Candidate, centre_hz: float) -> float:
        """What a setting is put back by, in dB: for each period that the direct sounds are apart by then, and for
        first movements that go against each other.

        Where the sum is right at one spot with the sounds a period apart, or half of one and inverted, it is wrong at
        the next spot and in time.
        """
        against = self.invert is not None and one.invert != self.invert
        return PER_PERIOD_DB * abs(one.delay_s - self.together_s) * centre_hz + (AGAINST_DB if against else 0.0)


def _direct(space: Workspace, slug: str, now: Scene, seam: Seam, tune: Tune) -> _Direct | None:
    """The direct sounds of both sides through a tune; None where one is not likely known."""
    means: list[float] = []
    signs: list[set[int]] = []
    for names in (seam.lowers, seam.uppers):
        found = [one for name in names if (one := onset_of(space, slug, now.takes[name])) and one.likely]
        if len(found) < len(names):
            return None
        channels = [tune.channels[name] for name in names]
        arrivals = [one.seconds + channel.delay_s for one, channel in zip(found, channels, strict=True)]
        means.append(sum(arrivals) / len(arrivals))
        signs.append({-one.polarity if c.inverted else one.polarity for one, c in zip(found, channels, strict=True)})
    wanted = _opposite(tune, seam)
    known = wanted is not None and all(len(one) == 1 for one in signs)
    return _Direct(means[0] - means[1], (signs[0] != signs[1]) != wanted if known else None)


def _opposite(tune: Tune, seam: Seam) -> bool | None:
    """Whether the crossover at a seam wants its ways to move against each other; None where it wants neither.

    Between low- and high-pass of n-th order lie n quarter turns.
    """
    if seam.ways is None:
        return False
    low, high = tune.channels[seam.lowers[0]].low_pass, tune.channels[seam.uppers[0]].high_pass
    if low is None or high is None or low.slope_db != high.slope_db:
        return None
    return {0: False, 2: True}.get(high.slope_db // 6 % 4)
