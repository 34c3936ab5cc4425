"""Rear and centre against the front: when they come, by common practice (no source), and where they take least from it.

A rear that fills comes some 10 ms after the front, so that the ear keeps the stage in front (the law of the first wave
front; H. Haas, Acustica 1, 1951, found 5 to 30 ms), and is 6 dB softer; a centre comes at once with the front. Their
levels are their shares of the target. Within what practice allows, what comes later adds to the front at some
frequencies and takes away at others: it is set where the front keeps its shape best.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import product

import numpy as np

from imbrix.core.predict.together import APART_HZ, as_a_place_hears
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Group, Layout, Side
from imbrix.core.tune.edits import Edit, SetDelays
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Tune

Sums = Mapping[tuple[Group, Side], ComplexArray]
"""By group and side, what its channels play together (p, n) at some places of the microphone, as it will be heard."""

STEP_S = 0.1e-3
NEAR_S = 50e-6
"""What is no farther off comes as it should."""
SPAN_HZ = (150.0, 1.5 * APART_HZ)
"""Where it is judged: below, neither plays beside the front; above, the least turn of a head changes all."""
SMOOTHING = 6.0
WORST_SHARE = 0.15
"""What the deepest dip counts beside the rms of what is changed."""
WORTH_DB = 0.3
"""A delay that is within what practice allows stays, unless another one is better by so much."""


@dataclass(frozen=True)
class Practice:
    """By how much a group comes after the front, in seconds: as a rule, at least and at most."""

    usual_s: float
    least_s: float
    most_s: float


LATE: dict[Group, Practice] = {Group.REAR: Practice(10e-3, 8e-3, 14e-3), Group.CENTRE: Practice(0.0, 0.0, 1e-3)}


@dataclass(frozen=True)
class Fill:
    """Edits that set the delays of rear and centre, and what they do in sentences."""

    edits: tuple[Edit, ...]
    says: tuple[str, ...]


@dataclass(frozen=True)
class _Beside:
    """A group beside the front: its channels, how late it comes now, and how late it can come."""

    group: Group
    channels: tuple[str, ...]
    late_s: float
    can_s: tuple[float, float]

    def nearest(self, late_s: float) -> float:
        return float(np.clip(late_s, *self.can_s))

    def tried(self) -> list[float]:
        """How late it may come, the usual first."""
        one = LATE[self.group]
        every = np.arange(one.least_s, one.most_s + STEP_S / 2, STEP_S)
        return list(dict.fromkeys(self.nearest(float(late)) for late in (one.usual_s, *every)))

    @property
    def as_practised(self) -> bool:
        one = LATE[self.group]
        return one.least_s - NEAR_S <= self.late_s <= one.most_s + NEAR_S


def fill(
    layout: Layout,
    tune: Tune,
    arrivals_s: Mapping[str, float],
    limits: Limits,
    sums: Sums | None = None,
    frequencies: FloatArray | None = None,
) -> Fill:
    """Delays of rear and centre against the front as it stands; within a group nothing moves against each other.

    `arrivals_s` are those of the bare drivers. Where `sums` are known, (p, n) at `frequencies` (n,), that delay is
    taken within common practice with which the front keeps its shape best; else the usual one. What the processor
    cannot delay any further, or what would have to come before its own sound, is said.
    """
    front = [one.id for one in layout.drivers if one.group == layout.main and one.id in arrivals_s]
    found = [one for one in (_beside(layout, tune, arrivals_s, limits, group, front) for group in LATE) if one]
    if not found:
        return Fill((), ())
    wanted = [one.nearest(LATE[one.group].usual_s) for one in found]
    kept = ""
    if sums is not None and frequencies is not None:
        wanted, kept = _gentlest(found, sums, frequencies)
    delays = {
        name: tune.channels[name].delay_s + late - one.late_s
        for one, late in zip(found, wanted, strict=True)
        for name in one.channels
    }
    said = [_said(one, late) for one, late in zip(found, wanted, strict=True)]
    return Fill((SetDelays(delays_s=delays),), (*said, kept) if kept else tuple(said))


def _beside(
    layout: Layout, tune: Tune, arrivals_s: Mapping[str, float], limits: Limits, group: Group, front: list[str]
) -> _Beside | None:
    mine = tuple(one.id for one in layout.drivers if one.group == group and one.id in arrivals_s)
    if group == layout.main or not mine or not front:
        return None
    comes, now = (
        max(arrivals_s[name] + tune.channels[name].late_s(limits.rate) for name in names) for names in (front, mine)
    )
    held = [tune.channels[name].delay_s for name in mine]
    late = now - comes
    return _Beside(group, mine, late, (late - min(held), late + limits.delay_s.most - max(held)))


def _said(one: _Beside, late_s: float) -> str:
    after = late_s * 1e3
    when = "at once with" if abs(after) < 0.05 else f"{abs(after):.1f} ms {'after' if after > 0 else 'before'}"
    line = f"{str(one.group).capitalize()} comes {when} the front"
    practice = LATE[one.group]
    if late_s < practice.least_s - NEAR_S:
        return f"{line}, {(practice.least_s - late_s) * 1e3:.1f} ms too soon: the processor has no more delay"
    if late_s > practice.most_s + NEAR_S:
        late = (late_s - practice.most_s) * 1e3
        return f"{line}, {late:.1f} ms too late: its own way is the longer one, delay the front"
    return line


def _gentlest(found: list[_Beside], sums: Sums, frequencies: FloatArray) -> tuple[list[float], str]:
    """How late each group comes so that the front keeps its shape best, and in words how well that is."""
    inside = span_mask(frequencies, *SPAN_HZ)
    at = frequencies[inside]
    shown = {key: heard[..., inside] for key, heard in sums.items()}
    groups = {one.group for one in found}
    fronts = [heard for (group, _side), heard in shown.items() if group not in groups]
    spots = len(fronts[0])
    fronts_power = np.array([smooth_power(heard, at, SMOOTHING).mean(axis=0) for heard in fronts])
    front = np.sum(fronts, axis=0)
    alone = as_a_place_hears(smooth_power(front, at, SMOOTHING).mean(axis=0), fronts_power, at, spots)
    beside = {
        one.group: np.sum([heard for key, heard in shown.items() if key[0] == one.group], axis=0) for one in found
    }
    apart = np.array([smooth_power(heard, at, SMOOTHING).mean(axis=0) for heard in shown.values()])

    def costs(lates: FloatArray) -> tuple[FloatArray, FloatArray]:
        """What each of some ways to come (k, groups) does to the front (k,): its cost, and the rms in dB."""
        whole = np.repeat(front[None], len(lates), axis=0)
        for n, one in enumerate(found):
            turns = np.exp(-2j * np.pi * np.outer(lates[:, n] - one.late_s, at))
            whole = whole + turns[:, None] * beside[one.group]
        heard = as_a_place_hears(smooth_power(whole, at, SMOOTHING).mean(axis=1), apart, at, spots)
        changed = power_decibels(heard / alone)
        changed = changed - np.median(changed, axis=-1, keepdims=True)
        rms = np.sqrt(np.mean(changed**2, axis=-1))
        return rms + WORST_SHARE * np.maximum(-changed.min(axis=-1), 0.0), rms

    tried = np.array(list(product(*(one.tried() for one in found))))
    cost, rms = costs(tried)
    best, usual = int(cost.argmin()), 0
    lates, changed = tried[best], rms[best]
    if all(one.as_practised for one in found):
        now = np.array([[one.late_s for one in found]])
        stands, as_it_is = costs(now)
        if stands[0] <= cost[best] + WORTH_DB:
            lates, changed = now[0], as_it_is[0]
    says = f"The front changes by {changed:.1f} dB rms"
    if rms[usual] > changed + WORTH_DB:
        says += f" (usual delays: {rms[usual]:.1f})"
    return [float(late) for late in lates], says
