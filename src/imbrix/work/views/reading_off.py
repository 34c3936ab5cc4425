"""What a person reads off the curves of a view: figures of a span, left minus right, the places of peaks and dips."""

from typing import Any

import numpy as np

from imbrix.core.signal.extremes import extremes
from imbrix.core.signal.measures import deviation
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.views.facts import SpanRow
from imbrix.work.views.picture import Curve, Picture


def add(
    space: Workspace,
    now: Scene,
    picture: Picture,
    selection: str,
    low_hz: float | None,
    high_hz: float | None,
    levels: bool = True,
) -> None:
    """What a person reads off the named curves: figures of a span, and the places of peaks and dips.

    `levels` says that they are in dB, so that a span has an energy.
    """
    named = [one for one in picture.curves if one.pane == "main" and one.label and one.values.size == space.grid.size]
    if low_hz is not None and high_hz is not None:
        low, high = sorted((low_hz, high_hz))
        rows: list[SpanRow] = []
        for one in named:
            found = deviation(one.values, np.zeros(space.grid.size), space.grid, low, high)
            if found is not None:
                rows.append(_figures(one.label, one.values, found, space.grid, low, high, levels))
        pair = _two_sides(now, selection, named)
        if pair:
            apart = pair[0].values - pair[1].values
            found = deviation(apart, np.zeros(space.grid.size), space.grid, low, high)
            if found is not None:
                rows.append(
                    {"label": f"{pair[0].label} − {pair[1].label}", "mean": found.mean, "plus_minus": found.plus_minus}
                )
        picture.facts["span"] = {"low_hz": low, "high_hz": high, "rows": rows}
    bold = next((one for one in named if one.role in ("bold", "sum")), None)
    if bold is not None:
        picture.facts["extremes"] = {
            "curve": bold.id,
            "at": [(float(space.grid[at]), float(bold.values[at]), peak) for at, peak in extremes(bold.values)],
        }


def _figures(
    label: str, values: FloatArray, found: Any, grid: FloatArray, low: float, high: float, levels: bool
) -> SpanRow:
    """Mean and plus/minus of a curve over a span, and its energy: the level of the span as a whole in pink noise."""
    if not levels:
        return {"label": label, "mean": found.mean, "plus_minus": found.plus_minus}
    inside = (grid >= low) & (grid <= high) & np.isfinite(values)
    energy = power_decibels(np.array([np.mean(10 ** (values[inside] / 10)) * max(np.log2(high / low), 1e-3)]))[0]
    return {"label": label, "mean": found.mean, "plus_minus": found.plus_minus, "energy_db": float(energy)}


def _two_sides(now: Scene, selection: str, named: list[Curve]) -> tuple[Curve, Curve] | None:
    """The selection's curve and that of the same way on the other side, left first."""
    if selection not in now.ids:
        return None
    driver = now.layout.driver(selection)
    partner = now.layout.partner(driver)
    found = {one.channel: one for one in named}
    if partner is None or not {driver.id, partner.id} <= found.keys():
        return None
    left, right = (driver, partner) if driver.side == "left" else (partner, driver)
    return found[left.id], found[right.id]
