"""How closely one looks: the gate's ends and shape, cycles, unit of distortion, time and window of a decay."""

from typing import Annotated, Literal

from pydantic import Field

from imbrix.core.signal.response import Shape
from imbrix.core.value import Value

Unit = Literal["db", "percent", "spl"]
Milliseconds = Annotated[float, Field(ge=0, le=2000, allow_inf_nan=False)]


class Lens(Value):
    """Zero stands for the usual: a gate from 20 ms before the arrival, no cycles, and for a decay what suits it.

    `cycles` gates each frequency by so many of its periods, and takes the place of a gate in milliseconds.
    """

    before_ms: Milliseconds = 0
    shape: Shape = "half-cosine"
    cycles: float = Field(default=0, ge=0, le=200, allow_inf_nan=False)
    unwound: bool = True
    unit: Unit = "db"
    decay_ms: Milliseconds = 0
    window_ms: Milliseconds = 0
    rise_ms: Milliseconds = 0
    room: bool = False
