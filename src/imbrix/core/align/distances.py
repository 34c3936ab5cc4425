"""Distances by tape: the delays that follow from them, and where what was measured says something else."""

from collections.abc import Mapping

import numpy as np

from imbrix.core.signal.response import speed_of_sound
from imbrix.core.system.layout import Group, Layout
from imbrix.core.value import Value

APART_S = 0.3e-3
"""A tape and an arrival that differ by more than this (10 cm) are told of (common practice, no source)."""
SUB_APART_S = 1.5e-3
"""Of a sub, whose low notes say less of when they begin."""


class Apart(Value):
    """By how many seconds the sound of a driver comes later than its distance says, and what that may come from."""

    seconds: float
    says: str = ""


def delays(metres: Mapping[str, float], celsius: float) -> dict[str, float]:
    """Seconds by which each driver has to be late for all to arrive at once: the farthest gets none.

    >>> delays({"near": 1.0, "far": 1.3432}, 20.0)["near"]
    0.001
    """
    if not metres:
        return {}
    farthest = max(metres.values())
    return {name: round((farthest - one) / speed_of_sound(celsius), 9) for name, one in metres.items()}


def compare(
    layout: Layout, metres: Mapping[str, float], arrivals_s: Mapping[str, float], celsius: float
) -> dict[str, Apart]:
    """How far arrivals stray from distances, for the drivers of which both are known.

    What all have in common - the processor's latency, a loop that was left out - is no difference: the middle of all is
    taken off. Two are too few to say which is astray.
    """
    both = [name for name in metres if name in arrivals_s]
    if len(both) < 3:
        return {}
    away = {name: arrivals_s[name] - metres[name] / speed_of_sound(celsius) for name in both}
    middle = float(np.median(list(away.values())))
    off = {name: one - middle for name, one in away.items()}
    return {name: Apart(seconds=one, says=_cause(layout, name, off, metres, celsius)) for name, one in off.items()}


def _cause(layout: Layout, name: str, off: Mapping[str, float], metres: Mapping[str, float], celsius: float) -> str:
    driver, late = layout.driver(name), off[name]
    sub = driver.group == Group.SUB
    if abs(late) <= (SUB_APART_S if sub else APART_S):
        return ""
    mate = layout.partner(driver)
    if mate is not None and mate.id in off:
        # Exchanged wires make each come when the other should.
        exchanged = (metres[mate.id] - metres[name]) / speed_of_sound(celsius)
        if abs(late - exchanged) < APART_S / 2 and abs(off[mate.id] + exchanged) < APART_S / 2:
            return f"comes when {mate.name} should: the two may be exchanged"
    if late > 0:
        if sub:
            return "comes late: its amplifier may process too, or the tape was laid to the wrong place"
        return "comes late: its direct sound may be covered, a reflection counted, or the tape too short"
    return "comes early: another driver may be heard, or the tape is too long"
