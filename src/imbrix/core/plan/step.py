"""Steps of the job: what each is for, why it is due, and what does it."""

from typing import Annotated, Literal

from pydantic import Field

from imbrix.core.tune.edits import Edit
from imbrix.core.value import Value

State = Literal["done", "next", "later", "skipped", "not needed"]
Stage = Literal["rig", "source", "drivers", "seams", "voice", "proof", "handover"]


class LookForDevices(Value):
    """Look for devices anew."""

    do: Literal["look"] = "look"


class UseCorrection(Value):
    """Use a microphone correction for a pointing."""

    do: Literal["correction"] = "correction"
    pointing: Literal["source", "ceiling"]
    id: int


class ExchangeInputs(Value):
    """Exchange the inputs of microphone and reference."""

    do: Literal["exchange"] = "exchange"


class TryLevel(Value):
    """Try the level with one driver."""

    do: Literal["level"] = "level"
    channel: str


class CheckInterface(Value):
    """Check the interface by its loop."""

    do: Literal["check"] = "check"


class RecordWires(Value):
    """Record wires of the source that lead to inputs of the processor (from 1)."""

    do: Literal["wires"] = "wires"
    inputs: tuple[int, ...]


class ReadInputs(Value):
    """Read by the processor what reaches its inputs."""

    do: Literal["read-inputs"] = "read-inputs"


class PutRight(Value):
    """Put exchanged inputs right."""

    do: Literal["put-right"] = "put-right"


class MakeEdits(Value):
    """Make edits one revision."""

    do: Literal["edits"] = "edits"
    edits: tuple[Edit, ...]
    summary: str


class Record(Value):
    """Record one driver, or several as a proof."""

    do: Literal["record"] = "record"
    channels: tuple[str, ...]
    purpose: Literal["driver", "proof"] = "driver"
    method: Literal["sweep", "moving"] = "sweep"


class RecordEach(Value):
    """Record several drivers one after another, each for itself, at a `place` of the microphone or where it is."""

    do: Literal["record-each"] = "record-each"
    channels: tuple[str, ...]
    method: Literal["sweep", "moving"] = "sweep"
    place: str = ""


class Align(Value):
    """Take the first proposal for the whole."""

    do: Literal["align"] = "align"


class FitTo(Value):
    """Fit channels to the target or to the one that they shall be `like`; without channels the common correction, to
    what is predicted or what was `measured`. By the takes in force, or by all `places` of the microphone."""

    do: Literal["fit"] = "fit"
    channels: tuple[str, ...] = ()
    like: str | None = None
    measured: bool = False
    places: bool = False


class MatchSides(Value):
    """Bring left and right together, as both were measured."""

    do: Literal["match"] = "match"


class Send(Value):
    """Send the tune to the processor."""

    do: Literal["send"] = "send"


class Store(Value):
    """Store what the processor runs in a slot."""

    do: Literal["store"] = "store"
    slot: int


class Listen(Value):
    """Play a band of noise from both sides, so that a person says where it stands."""

    do: Literal["listen"] = "listen"
    hz: float


Action = Annotated[
    LookForDevices
    | UseCorrection
    | ExchangeInputs
    | TryLevel
    | CheckInterface
    | RecordWires
    | ReadInputs
    | PutRight
    | MakeEdits
    | Record
    | RecordEach
    | Align
    | FitTo
    | MatchSides
    | Send
    | Store
    | Listen,
    Field(discriminator="do"),
]


class Choice(Value):
    """One of several ways to do a step: the first is what is advised. Without an action it is done by hand, or, where
    it `skips`, the step is left out."""

    name: str
    says: str = ""
    action: Action | None = None
    skips: bool = False


SKIP = Choice(name="Leave it out", skips=True)


class Step(Value):
    """A step: where it belongs, why it is due, what its first choice does, and how far it is.

    `channel` is the driver that it is about, `part` the part of its stage. `optional` ones lose little when left out.
    """

    key: str
    stage: Stage
    name: str
    why: str
    does: str
    choices: tuple[Choice, ...] = Field(min_length=1)
    channel: str = ""
    part: str = ""
    optional: bool = False
    state: State = "later"
