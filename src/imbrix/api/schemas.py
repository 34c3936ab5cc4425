"""What requests may hold. Unknown fields are refused."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from imbrix.core.edits import Edit
from imbrix.core.fit import FitLimits
from imbrix.core.layout import Kind, Layout, Side
from imbrix.work.analyser import LiveChoice
from imbrix.work.impedance import LoadingIn
from imbrix.work.rig import JigChoice, MovingChoice, Position, SweepChoice
from imbrix.work.signals import SignalChoice
from imbrix.work.view import View


class Request(BaseModel):
    model_config = ConfigDict(extra="forbid")


class EditsIn(Request):
    edits: list[Edit] = Field(min_length=1, max_length=64)
    summary: str | None = Field(default=None, max_length=200)


class NameIn(Request):
    name: str = Field(max_length=80)


class SweepIn(Request):
    low_hz: float = Field(default=10.0, ge=1, le=20_000)
    high_hz: float = Field(default=23_000.0, ge=100, le=96_000)
    length: int = Field(default=2**17, ge=2**14, le=2**20)
    level_db: float = Field(default=-24.0, ge=-80, le=0)


class RecordIn(Request):
    channels: list[str] = Field(min_length=1, max_length=32)
    purpose: Literal["driver", "proof"]
    method: Literal["sweep", "moving"] = "sweep"
    note: str = Field(default="", max_length=400)
    angle: float | None = Field(default=None, ge=-180, le=180)


class RigIn(Request):
    """Choices to change; what is left out stays."""

    device: str | None = Field(default=None, max_length=200)
    rate: int | None = None
    microphone_input: int | None = Field(default=None, ge=0, le=255)
    reference_input: int | None = Field(default=None, ge=0, le=255)
    no_reference: bool = False
    input_names: list[Annotated[str, Field(max_length=40)]] | None = Field(default=None, max_length=256)
    output: int | None = Field(default=None, ge=0, le=255)
    all_outputs: bool = False
    output_names: list[Annotated[str, Field(max_length=40)]] | None = Field(default=None, max_length=256)
    timing: Literal["loopback", "marker", "none"] | None = None
    anchor: str | None = Field(default=None, max_length=40)
    pointing: Literal["source", "ceiling"] | None = None
    corrections: dict[Literal["source", "ceiling"], int | None] | None = None
    sweep: SweepChoice | None = None
    moving: MovingChoice | None = None
    jig: JigChoice | None = None
    positions: list[Position] | None = Field(default=None, min_length=1, max_length=40)
    position: str | None = Field(default=None, max_length=40)


class CalibrateIn(Request):
    level_db: float


class MeterIn(Request):
    reading_db_c: float = Field(ge=30, le=140)


class ChannelIn(Request):
    channel: str = Field(max_length=40)


class PairIn(Request):
    known: int
    plain: int
    name: str = Field(default="Plain microphone", min_length=1, max_length=80)


class CorrectionIn(Request):
    correction: int | None


class NoteIn(Request):
    note: str = Field(max_length=400)


class PlayIn(Request):
    channels: list[str] = Field(default=[], max_length=32)
    signal: SignalChoice


class LiveIn(Request):
    channels: list[str] = Field(default=[], max_length=32)
    choice: LiveChoice = LiveChoice()


class ImpedanceIn(Request):
    channel: str = Field(max_length=40)
    loaded: LoadingIn = LoadingIn()
    note: str = Field(default="", max_length=400)


class ProjectIn(Request):
    name: str = Field(min_length=1, max_length=80)
    ready: str = Field(max_length=40)
    seat: Literal["left", "right"] = "left"


class DriverIn(Request):
    layout: Layout
    kind: Kind
    side: Side


class ReferenceIn(Request):
    shown: bool | None = None
    name: str | None = Field(default=None, min_length=1, max_length=60)
    shift_db: float | None = Field(default=None, ge=-200, le=200)


class AlignIn(Request):
    view: View
    curve: str = Field(max_length=60)
    low_hz: float = Field(ge=20, le=20_000)
    high_hz: float = Field(ge=20, le=20_000)


class FitIn(Request):
    channels: list[str] = Field(max_length=32)
    limits: FitLimits = FitLimits()


class DiscardIn(Request):
    discarded: bool


class AverageIn(Request):
    takes: list[int] = Field(min_length=2, max_length=64)
    kind: Literal["rms", "complex"]


class LevelIn(Request):
    channel: str = Field(max_length=40)
    low_hz: float = Field(ge=20, le=20_000)
    high_hz: float = Field(ge=20, le=20_000)


class WithoutIn(Request):
    channel: str = Field(max_length=40)
    without: bool


class AngleIn(Request):
    angle: float | None = Field(ge=-180, le=180)


class SlotIn(Request):
    slot: int = Field(ge=1, le=64)
    name: str = Field(default="", max_length=60)
