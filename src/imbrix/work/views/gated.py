"""What a gate leaves of the main curve."""

import numpy as np

from imbrix.core.signal.signal import ComplexArray
from imbrix.work.ground.workspace import Workspace
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View, level


def gated(space: Workspace, picture: Picture, view: View, through: ComplexArray | None) -> None:
    """What a gate leaves of the main curve, and the lowest frequency that it still supports."""
    if through is None:
        return
    cycles = view.lens.cycles
    values = np.where(np.isfinite(through), level(space, np.nan_to_num(through), view), np.nan)
    label = f"{cycles:g} cycles" if cycles >= 1 else f"gate of {view.gate_ms:g} ms"
    picture.add("gated", values, "sum", label=label)
    # So many cycles always hold a period: nothing is out of reach but what the longest window leaves out.
    picture.facts["lowest_hz"] = 20.0 if cycles >= 1 else 1e3 / view.gate_ms
