"""Rear and centre against the front: when they come, by common practice (no source).

A rear that fills comes some 10 ms after the front, so that the ear keeps the stage in front (the law of the first wave
front; H. Haas, Acustica 1, 1951, found 5 to 30 ms), and is 6 dB softer; a centre comes at once with the front. Their
levels are their shares of the target.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from imbrix.core.system.layout import Group, Layout
from imbrix.core.tune.edits import Edit, SetDelays
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Tune

LATE_S: dict[Group, float] = {Group.REAR: 10e-3, Group.CENTRE: 0.0}


@dataclass(frozen=True)
class Fill:
    """Edits that set the delays of rear and centre, and what they do in sentences."""

    edits: tuple[Edit, ...]
    says: tuple[str, ...]


def fill(layout: Layout, tune: Tune, arrivals_s: Mapping[str, float], limits: Limits) -> Fill:
    """Delays of rear and centre against the front as it stands; within a group nothing moves against each other.

    `arrivals_s` are those of the bare drivers. What the processor cannot delay any further, or what would have to come
    before its own sound, is said.
    """
    front = [one.id for one in layout.drivers if one.group == layout.main and one.id in arrivals_s]
    delays: dict[str, float] = {}
    said = []
    for group, late in LATE_S.items():
        mine = [one.id for one in layout.drivers if one.group == group and one.id in arrivals_s]
        if group == layout.main or not mine or not front:
            continue
        comes = max(arrivals_s[name] + tune.channels[name].late_s(limits.rate) for name in front)
        now = max(arrivals_s[name] + tune.channels[name].late_s(limits.rate) for name in mine)
        held = [tune.channels[name].delay_s for name in mine]
        wanted = comes + late - now
        shift = min(max(wanted, -min(held)), limits.delay_s.most - max(held))
        delays |= {name: tune.channels[name].delay_s + shift for name in mine}
        after = (now + shift - comes) * 1e3
        when = "at once with" if abs(after) < 0.05 else f"{abs(after):.1f} ms {'after' if after > 0 else 'before'}"
        line = f"{str(group).capitalize()} comes {when} the front"
        if abs(shift - wanted) > 50e-6:
            line += (
                f", {(wanted - shift) * 1e3:.1f} ms too soon: the processor has no more delay"
                if wanted > shift
                else f", {(shift - wanted) * 1e3:.1f} ms too late: its own way is the longer one, delay the front"
            )
        said.append(line)
    return Fill((SetDelays(delays_s=delays),) if delays else (), tuple(said))
