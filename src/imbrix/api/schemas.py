"""What requests may hold. Unknown fields are refused."""

from typing import Annotated, Literal

from pydantic import Field, ValidationError

from imbrix.api.request import ChannelId, Number, Request
from imbrix.core.align.latency import Budget
from imbrix.core.align.propose import Allowed
from imbrix.core.errors import InvalidError
from imbrix.core.fir.wish import Wish
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.system.layout import Group, Kind, Layout, Side
from imbrix.core.tune.edits import Edit
from imbrix.work.impedance.impedance import LoadingIn
from imbrix.work.predict.proposals import Scope
from imbrix.work.rig.choices import JigChoice, MovingChoice, Position, SweepChoice
from imbrix.work.sound.signals import SignalChoice
from imbrix.work.takes.analyser import LiveChoice
from imbrix.work.views.closer import Below
from imbrix.work.views.request import Stage, View

FiniteLevel = Annotated[float, Field(ge=-200, le=200, allow_inf_nan=False)]


class EditsIn(Request):
    """Edits to keep as one revision, made on the revision `on`: what has come since must not touch the same."""

    edits: list[Edit] = Field(min_length=1, max_length=64)
    summary: str | None = Field(default=None, max_length=200)
    on: Number | None = None


class OnIn(Request):
    """The revision that is to be undone or left, as the asking window knows it."""

    on: Number | None = None


class NameIn(Request):
    name: str = Field(max_length=80)


class NamesIn(Request):
    """Names of files that are to be brought."""

    names: list[Annotated[str, Field(max_length=400)]] = Field(min_length=1, max_length=500)


class SweepIn(Request):
    """A sweep to be played elsewhere; what is left out is as the rig has it."""

    low_hz: float | None = Field(default=None, ge=1, le=20_000)
    high_hz: float | None = Field(default=None, ge=100, le=96_000)
    length: int | None = Field(default=None, ge=2**14, le=2**20)
    level_db: float | None = Field(default=None, ge=-80, le=0)
    rate: int | None = Field(default=None, ge=8000, le=192_000)


class RecordIn(Request):
    channels: list[ChannelId] = Field(min_length=1, max_length=32)
    purpose: Literal["driver", "proof"]
    method: Literal["sweep", "moving"] = "sweep"
    note: str = Field(default="", max_length=400)
    angle: float | None = Field(default=None, ge=-180, le=180)


class RecordEachIn(Request):
    """Drivers to be recorded one after another, those that wait in the round where none is named; `place` is a position
    of the microphone, empty where the rig says."""

    channels: list[ChannelId] = Field(default=[], max_length=32)
    method: Literal["sweep", "moving"] = "sweep"
    note: str = Field(default="", max_length=400)
    place: str = Field(default="", max_length=40)


class RigIn(Request):
    """Choices to change; what is left out stays."""

    device: str | None = Field(default=None, max_length=200)
    rate: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    microphone_input: int | None = Field(default=None, ge=0, le=255)
    reference_input: int | None = Field(default=None, ge=0, le=255)
    no_reference: bool = False
    input_names: list[Annotated[str, Field(max_length=40)]] | None = Field(default=None, max_length=256)
    output: int | None = Field(default=None, ge=0, le=255)
    all_outputs: bool = False
    output_names: list[Annotated[str, Field(max_length=40)]] | None = Field(default=None, max_length=256)
    plays: Literal["interface", "source"] | None = None
    timing: Literal["loopback", "marker", "none"] | None = None
    anchor: str | None = Field(default=None, max_length=40)
    marker_output: Literal["same", "second"] | None = None
    pointing: Literal["source", "ceiling"] | None = None
    corrections: dict[Literal["source", "ceiling"], Number | None] | None = None
    sweep: SweepChoice | None = None
    moving: MovingChoice | None = None
    jig: JigChoice | None = None
    positions: list[Position] | None = Field(default=None, min_length=1, max_length=40)
    position: str | None = Field(default=None, max_length=40)
    height_m: float | None = Field(default=None, gt=0, lt=100, allow_inf_nan=False)


class CalibrateIn(Request):
    level_db: FiniteLevel


class MeterIn(Request):
    reading_db_c: float = Field(ge=30, le=140)


class ChannelIn(Request):
    channel: ChannelId


class PairIn(Request):
    known: Number
    plain: Number
    name: str = Field(default="Plain microphone", min_length=1, max_length=80)


class CorrectionIn(Request):
    correction: Number | None


class NoteIn(Request):
    note: str = Field(max_length=400)


class PlayIn(Request):
    channels: list[ChannelId] = Field(default=[], max_length=32)
    signal: SignalChoice


class LiveIn(Request):
    """`window` is the window whose drafts are followed, as it names itself on the socket."""

    channels: list[ChannelId] = Field(default=[], max_length=32)
    choice: LiveChoice = LiveChoice()
    window: str = Field(default="", max_length=40)


class LiveFeedIn(Request):
    """`window` is the window whose drafts are followed, as it names itself on the socket."""

    window: str = Field(default="", max_length=40)


class ImpedanceIn(Request):
    channel: ChannelId
    loaded: LoadingIn = LoadingIn()
    note: str = Field(default="", max_length=400)


class ModelIn(Request):
    """The key of a processor's model."""

    model: str = Field(max_length=60)


class DriverOfLayout(Request):
    """A driver as the layout editor has it: what is wrong with it the remarks say."""

    id: str = Field(max_length=200)
    name: str = Field(max_length=200)
    kind: Kind
    group: Group | None = None
    side: Side
    passive_to: Kind | None = None
    output: int = Field(ge=-(2**31), le=2**31)


class PlaceIn(Request):
    """The key of a place; empty for none."""

    place: str = Field(max_length=60)


class LayoutIn(Request):
    """A layout as the layout editor has it."""

    drivers: list[DriverOfLayout] = Field(max_length=64)
    seat: Literal["left", "right"]

    def layout(self) -> Layout:
        """The layout as a value. Raises InvalidError where a driver contradicts itself."""
        try:
            return Layout.model_validate(self.model_dump(exclude_none=True))
        except ValidationError as error:
            raise InvalidError(error.errors()[0]["msg"].removeprefix("Value error, ")) from None


class ProjectIn(Request):
    """A project to begin: from the ready system, or from the layout where one is given."""

    name: str = Field(min_length=1, max_length=80)
    ready: str = Field(default="front-3-sub", max_length=40)
    seat: Literal["left", "right"] = "left"
    layout: LayoutIn | None = None
    processor: str = Field(default="six-by-eight", max_length=60)
    place: str = Field(default="van", max_length=60)


class DriverIn(Request):
    layout: LayoutIn
    group: Group
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


class CurvesIn(Request):
    """Which curves are asked for; what is left out is as the page begins with."""

    stage: Stage = "drivers"
    selection: str | None = Field(default=None, max_length=60)
    seam: str | None = Field(default=None, max_length=120)
    smoothing: Annotated[float, Field(gt=0, le=96)] | None = None
    take: Number | None = None
    compare: Number | None = None
    below: Below | None = None
    part: str | None = Field(default=None, max_length=20)
    pre_ms: float | None = Field(default=None, ge=0, le=100)
    pre_db: float | None = Field(default=None, ge=-120, le=0)
    span_low_hz: float | None = Field(default=None, ge=20, le=20_000)
    span_high_hz: float | None = Field(default=None, ge=20, le=20_000)
    low_hz: float | None = Field(default=None, ge=20, le=20_000)
    high_hz: float | None = Field(default=None, ge=20, le=20_000)


class FitIn(Request):
    """Channels are fitted to the target, or to what the channel `like` does. Without channels the common correction is
    fitted: to the predicted whole, or to what was `measured` of it. By the takes in force, or by those of all `places`
    of the microphone together."""

    channels: list[ChannelId] = Field(max_length=32)
    like: ChannelId | None = None
    measured: bool = False
    places: bool = False
    limits: FitLimits = FitLimits()


class ProposeIn(Request):
    """What an alignment is asked for, and what it may change besides delays and polarities."""

    scope: Scope = "whole"
    allowed: Allowed = Allowed()


class FirIn(Request):
    """What FIR taps are wanted: for a channel, or for all together where none is named."""

    channel: ChannelId = ""
    wish: Wish = Wish()


class BudgetIn(Request):
    """What the chain may take."""

    budget: Budget


class TapeIn(Request):
    """Distances in metres by driver, none to take one away; what is left out stays."""

    metres: dict[ChannelId, Annotated[float, Field(ge=0, le=50, allow_inf_nan=False)] | None] = Field(
        default_factory=dict, max_length=64
    )
    celsius: float | None = Field(default=None, ge=-40, le=60, allow_inf_nan=False)


class DiscardIn(Request):
    discarded: bool


class AverageIn(Request):
    takes: list[Number] = Field(min_length=2, max_length=64)
    kind: Literal["rms", "complex"]


class LevelIn(Request):
    channel: ChannelId
    low_hz: float = Field(ge=20, le=20_000)
    high_hz: float = Field(ge=20, le=20_000)


class WithoutIn(Request):
    channel: ChannelId
    without: bool


class AngleIn(Request):
    angle: float | None = Field(ge=-180, le=180)


class SlotIn(Request):
    slot: int = Field(ge=1, le=64)
    name: str = Field(default="", max_length=60)


class CopyIn(Request):
    """The slot that is to hold it too."""

    to: int = Field(ge=1, le=64)


class LockIn(Request):
    """Whether nothing is to be stored in it."""

    locked: bool


class ByHandIn(Request):
    """Whether the processor is typed by hand; into one that is as it came, or one that holds what was sent."""

    by_hand: bool
    as_sent: bool = False


class TickIn(Request):
    """A setting that was typed: of which output or input, what, and what it says now."""

    channel: str = Field(max_length=80)
    what: str = Field(max_length=40)
    after: str = Field(max_length=200)


class TasteIn(Request):
    """A target by its key, and the slot that it goes to."""

    curve: str = Field(max_length=60)
    slot: int = Field(ge=1, le=64)


class TastesIn(Request):
    tastes: list[TasteIn] = Field(min_length=1, max_length=16)
