"""Seams of a project: their problem as it stands, and the search for settings that lose the least."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.align import figures
from imbrix.core.align.problem import System, net
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
from imbrix.work.predict.system import timed_system
from imbrix.work.tune.revisions import head

SIDES_APART_S = 100e-6
"""Sides that come further apart by more than this are told of."""
OTHER_SLOPE_DB = 1.0
"""What tells against a slope that one seam alone asks for (common practice, no source)."""


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
    clocks = {name: now.takes[name].clock for name in (*seam.lowers, *seam.uppers) if name in now.ids}
    known = [clock for clock in clocks.values() if clock]
    common = max(known, key=known.count) if known else ""
    return [now.layout.driver(name).name for name, clock in clocks.items() if not clock or clock != common]


def offers(space: Workspace, slug: str, seam_id: str, most: int = 3) -> list[Offer]:
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
    same = [offer for offer in found if not offer.change][:2]
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
    model = processors.model(space, slug)
    system = timed_system(space, slug, now)
    part = system.among((*seam.lowers, *seam.uppers))
    together = _together(system, seam, tune)
    ranked: dict[Candidate, tuple[float, SetSeam, tuple[str, ...]]] = {}
    for one in search(problem, 1.0 / now.rate, together_s=together or 0.0):
        delay = relative_delay(tune, seam) + one.delay_s
        setting = SetSeam(seam=seam.id, delay_s=delay, invert=relative_polarity(tune, seam) != one.invert)
        after = apply(tune, [setting], now.layout, model)
        costs = net(part, after, here=True).total(*part.steps(after))
        away = 0.0 if together is None else abs(one.delay_s - together) * problem.centre_hz
        ranked[one] = costs, setting, _against(system, tune, after, away)
    in_order = sorted(ranked, key=lambda one: ranked[one][0])
    found = []
    for one in distinct(in_order, apart_s=0.1 / problem.centre_hz, most=most):
        costs, setting, says = ranked[one]
        later = None if together is None else one.delay_s - together
        rank = costs + (OTHER_SLOPE_DB if change else 0.0)
        delay, invert = float(setting.delay_s or 0.0), bool(setting.invert)
        found.append(Offer(delay, invert, change, one.mean, one.worst, (*edits, setting), later, rank, says))
    return found


def _together(system: System, seam: Seam, tune: Tune) -> float | None:
    """By how much later the upper way would have to be for both direct sounds to arrive at once, in seconds."""
    if not {*seam.lowers, *seam.uppers} <= set(system.ids):
        return None
    lower, upper = (
        sum(system.arrivals[name].seconds + tune.channels[name].delay_s for name in names) / len(names)
        for names in (seam.lowers, seam.uppers)
    )
    return lower - upper


def _against(system: System, now: Tune, tune: Tune, periods: float) -> tuple[str, ...]:
    """What speaks against a tune at a seam whose direct sounds come so many periods apart then."""
    said = []
    if periods > 0.75:
        said.append(f"{periods:.1f} periods off")
    unlike = [one for one in figures.unlike(system, tune) if one not in figures.unlike(system, now)]
    if unlike:
        said.append("sides unlike")
    before, apart = (abs(figures.arrivals_apart(system, one) or 0.0) for one in (now, tune))
    if apart > before + SIDES_APART_S:
        said.append(f"sides {apart * 1e3:.1f} ms apart")
    return tuple(said)
