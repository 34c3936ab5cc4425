"""Edits: what a person does to a tune, with the ties and the order in time that go with it.

Each edit is a small value; `apply.apply` gives the tune after it. The same edits serve a drag (a draft) and the
change that is kept.
"""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter, model_validator

from imbrix.core.tune.crossover import End, Shape
from imbrix.core.tune.fir import MOST_TAPS, Taps
from imbrix.core.tune.second import LEAST_DBFS, MOST_DBFS, Priority
from imbrix.core.tune.tune import Band, Bend, Factor, Hertz, Level, Tune, check_apart
from imbrix.core.value import Value


class SetChannel(Value):
    """Gain, delay, polarity or mute of one channel; what is left out stays."""

    do: Literal["channel"] = "channel"
    channel: str
    gain_db: Level | None = None
    delay_s: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] | None = None
    inverted: bool | None = None
    muted: bool | None = None


class SetCrossover(Value):
    """One end of a channel's band, followed by whatever is tied to it; `off` takes the filter away.

    With `taps` it is of linear phase in so many, with 0 of sections again; `linear` leaves it to the processor's model
    how many.
    """

    do: Literal["crossover"] = "crossover"
    channel: str
    end: End
    shape: Shape | None = None
    slope_db: int | None = None
    corner_hz: Hertz | None = None
    taps: Annotated[int, Field(ge=0, lt=MOST_TAPS)] | None = None
    linear: bool | None = None
    off: bool = False


class SetTie(Value):
    """Tie or free the two ways of a seam, or its left and right."""

    do: Literal["tie"] = "tie"
    ways: str
    what: Literal["ways", "sides"]
    tied: bool


class SetPair(Value):
    """Tie or free an aspect of a channel and its partner on the other side; tied bands are first those of `channel`."""

    do: Literal["pair"] = "pair"
    channel: str
    what: Literal["level", "bands"]
    tied: bool


class SetSeam(Value):
    """Time and polarity of the upper way against the lower one; all that lies above moves along.

    Time as a delay, or as the path that sound goes in it at 20 C.
    """

    do: Literal["seam"] = "seam"
    seam: str
    delay_s: Annotated[float, Field(ge=-0.05, le=0.05, allow_inf_nan=False)] | None = None
    path_m: Annotated[float, Field(ge=-17, le=17, allow_inf_nan=False)] | None = None
    invert: bool | None = None


class SetBand(Value):
    """Put, change or (with `band` left out) remove a band; `channel` None means the common correction."""

    do: Literal["band"] = "band"
    channel: str | None = None
    index: int = Field(ge=0, le=63)
    band: Band | None = None


class SetBands(Value):
    """All bands of a channel, and perhaps its gain, at once."""

    do: Literal["bands"] = "bands"
    channel: str | None = None
    bands: tuple[Band, ...] = Field(max_length=31)
    gain_db: Level | None = None


class SetTaps(Value):
    """FIR taps of a channel beside those of its linear-phase ends; None takes them away."""

    do: Literal["taps"] = "taps"
    channel: str
    taps: Taps | None = None


class ShiftGains(Value):
    """Raise or lower all channels alike."""

    do: Literal["gains"] = "gains"
    by_db: Level


class SetDelays(Value):
    """Delays of several channels at once."""

    do: Literal["delays"] = "delays"
    delays_s: dict[str, Annotated[float, Field(ge=-1, le=1, allow_inf_nan=False)]]


class SetSolo(Value):
    """One channel alone, or none."""

    do: Literal["solo"] = "solo"
    channel: str | None


class SetTarget(Value):
    """Which target curve, where, and how it is bent; what is left out stays."""

    do: Literal["target"] = "target"
    curve: str | None = None
    level_db: Level | None = None
    tilt_db: Annotated[float, Field(ge=-3, le=3, allow_inf_nan=False)] | None = None
    bass_db: Annotated[float, Field(ge=-12, le=18, allow_inf_nan=False)] | None = None
    bass_hz: Annotated[float, Field(ge=20, le=300, allow_inf_nan=False)] | None = None
    bends: tuple[Bend, ...] | None = Field(default=None, max_length=16)

    @model_validator(mode="after")
    def _bends_apart(self) -> "SetTarget":
        check_apart(self.bends or ())
        return self


class Step(Value):
    """A step of a channel's gain, delay or corner from wherever it stands: steps made at once add up.

    The corner is that of the high-pass where there is one, else of the low-pass, and moves by `octaves`.
    """

    do: Literal["step"] = "step"
    channel: str
    gain_db: Annotated[float, Field(ge=-24, le=24, allow_inf_nan=False)] = 0.0
    delay_s: Annotated[float, Field(ge=-0.01, le=0.01, allow_inf_nan=False)] = 0.0
    octaves: Annotated[float, Field(ge=-1, le=1, allow_inf_nan=False)] = 0.0


class StepSeam(Value):
    """A step in time of the upper way of a seam against the lower one."""

    do: Literal["step-seam"] = "step-seam"
    seam: str
    delay_s: Annotated[float, Field(ge=-0.01, le=0.01, allow_inf_nan=False)]


class StepTarget(Value):
    """A step of the level that is aimed at."""

    do: Literal["step-target"] = "step-target"
    level_db: Annotated[float, Field(ge=-24, le=24, allow_inf_nan=False)]


class SetInput(Value):
    """Gain, polarity, delay or bands of an input of the processor (from 1), and whether they undo the source; what is
    left out stays."""

    do: Literal["input"] = "input"
    input: Annotated[int, Field(ge=1, le=64)]
    gain_db: Level | None = None
    inverted: bool | None = None
    delay_s: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] | None = None
    bands: tuple[Band, ...] | None = None
    straightens: bool | None = None


class SetSources(Value):
    """Which inputs a channel hears: a factor for each in order, or `inputs` (from 1) in equal parts.

    Where neither is said, what follows from the system is put back.
    """

    do: Literal["sources"] = "sources"
    channel: str
    factors: tuple[Factor, ...] | None = Field(default=None, max_length=64)
    inputs: tuple[Annotated[int, Field(ge=1, le=64)], ...] | None = Field(default=None, max_length=64)


class SetSecond(Value):
    """When the second source is heard, its gain, what counts as sound, and how long it is waited for; what is left out
    stays."""

    do: Literal["second"] = "second"
    priority: Priority | None = None
    gain_db: Level | None = None
    over_dbfs: Annotated[float, Field(ge=LEAST_DBFS, le=MOST_DBFS, allow_inf_nan=False)] | None = None
    hold_s: Annotated[float, Field(ge=0.1, le=30, allow_inf_nan=False)] | None = None


class SetNeutral(Value):
    """Everything flat, fragile drivers behind their guard."""

    do: Literal["neutral"] = "neutral"


class Replace(Value):
    """The whole tune, as when going back to a revision."""

    do: Literal["replace"] = "replace"
    tune: Tune


Edit = Annotated[
    SetChannel
    | SetCrossover
    | SetTie
    | SetPair
    | SetSeam
    | SetBand
    | SetBands
    | SetTaps
    | ShiftGains
    | SetDelays
    | SetSolo
    | SetTarget
    | Step
    | StepSeam
    | StepTarget
    | SetInput
    | SetSources
    | SetSecond
    | SetNeutral
    | Replace,
    Field(discriminator="do"),
]
EDITS: TypeAdapter[list[Edit]] = TypeAdapter(list[Edit])
