"""A driver's response as a window looks at it: through so many cycles of each frequency, through a gate, or whole."""

import numpy as np

from imbrix.core.look.cycles import within_cycles
from imbrix.core.signal.measures import without_filters
from imbrix.core.signal.response import Gate, response
from imbrix.core.signal.signal import ComplexArray
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.reading import bare, filters, mended_impulse, reading
from imbrix.work.takes.shelf import Take, through

SEEN: Drawer[int, ComplexArray] = Drawer("windowed responses", 64, by_take=True)


def seen(space: Workspace, one: Take, cycles: float, gate_ms: float = 0.0) -> ComplexArray:
    """The bare response (n,) of a driver's take through a window, zero where it shows nothing."""

    def look() -> ComplexArray:
        known = bare(space, one)
        if cycles:
            found = without_filters(within_cycles(mended_impulse(space, one), space.grid, cycles), filters(space, one))
        elif gate_ms:
            gate = Gate(before_s=min(0.02, gate_ms / 1e3), after_s=gate_ms / 1e3)
            found = without_filters(response(mended_impulse(space, one), space.grid, gate), filters(space, one))
        else:
            found = known
        return np.asarray(np.where(np.isfinite(known) & np.isfinite(found), found, 0.0))

    return space.memory.of(SEEN, one.id, look, (cycles, gate_ms))


def comes_bare(space: Workspace, one: Take) -> float:
    """When the peak of a driver's take arrives, in seconds, without the delay of what it was made through."""
    channel = through(space, one).channels[one.channels[0]]
    return reading(space, one).arrival_s - channel.late_s(one.details.processor_rate)
