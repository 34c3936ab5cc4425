"""What is looked at, and how levels are drawn for it."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.tune.tune import Tune
from imbrix.core.value import Value
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import whole_power
from imbrix.work.views.closer import Below
from imbrix.work.views.lens import Lens

Stage = Literal["rig", "source", "drivers", "seams", "voice", "proof", "handover"]


class View(Value):
    """What is looked at. `selection` is a driver id, or empty for the whole; `compare` a revision to lay beside;
    where it is `ranged`, the least and the most that any place shows is drawn about every curve."""

    stage: Stage
    smoothing: Annotated[float, Field(gt=0, le=96)] | Literal["hearing"] | None = 6.0
    selection: str = ""
    seam: str = ""
    take: int | None = None
    compare: int | None = None
    before: bool = False
    ranged: bool = False
    part: str = Field(default="", max_length=20)
    below: Below = ""
    gate_ms: float = Field(default=0, ge=0, le=2000)
    lens: Lens = Lens()
    span_low_hz: float | None = Field(default=None, ge=20, le=20_000)
    span_high_hz: float | None = Field(default=None, ge=20, le=20_000)
    pre_ms: float = Field(default=0, ge=0, le=100)
    pre_db: float = Field(default=0, ge=-120, le=0)
    raw_from: float = Field(default=0, ge=0, le=100_000, allow_inf_nan=False)
    raw_to: float = Field(default=0, ge=0, le=100_000, allow_inf_nan=False)
    mark_from: float = Field(default=0, ge=0, le=100_000, allow_inf_nan=False)
    mark_to: float = Field(default=0, ge=0, le=100_000, allow_inf_nan=False)
    low_hz: float = Field(default=40, ge=20, le=20_000)
    high_hz: float = Field(default=16_000, ge=20, le=20_000)


def level(space: Workspace, response: ComplexArray, view: View) -> FloatArray:
    """A response (n,) as level in dB SPL at the common drive, smoothed as the view asks."""
    return smooth_db(response, space.grid, view.smoothing) + space.offset_db


def together(
    space: Workspace, now: Scene, responses: ComplexArray, tune: Tune, view: View, among: set[str] | None = None
) -> FloatArray:
    """The level (n,) of what is audible, or of `among` only, together, smoothed as the view asks."""
    power = whole_power(now, space.grid, responses, tune, view.smoothing, among)
    return power_decibels(power) + space.offset_db


def shown(space: Workspace, now: Scene, row: int, response: ComplexArray, view: View) -> FloatArray:
    """The same of one row of a scene, NaN where that shows nothing."""
    return np.where(now.known[row], level(space, response, view), np.nan)
