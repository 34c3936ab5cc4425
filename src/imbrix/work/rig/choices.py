"""The choices and results of the rig as values: what is set, and what checks found."""

from datetime import UTC, datetime
from typing import Any, Literal

from pydantic import Field

from imbrix.core.measure.loop import Line
from imbrix.core.measure.moving import MovingSettings
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.value import Value
from imbrix.standins.interface import StandinInterface

Pointing = Literal["source", "ceiling"]
STANDIN, FILE, BROWSER = "stand-in", "file", "browser"


class Position(Value):
    """A named place of the microphone, centimetres right and forward of the middle of the head."""

    name: str = Field(min_length=1, max_length=40)
    x_cm: float = Field(ge=-1000, le=1000, allow_inf_nan=False)
    y_cm: float = Field(ge=-1000, le=1000, allow_inf_nan=False)


class SweepChoice(Value):
    """How sweep takes are made."""

    low_hz: float = Field(default=10.0, ge=1, le=20_000, allow_inf_nan=False)
    high_hz: float = Field(default=23_000.0, ge=100, le=96_000, allow_inf_nan=False)
    length: int = Field(default=2**17, ge=2**14, le=2**20)
    level_db: float = Field(default=-24.0, ge=-80, le=0, allow_inf_nan=False)
    repeats: int = Field(default=1, ge=1, le=32)
    countdown_s: int = Field(default=0, ge=0, le=60)


class MovingChoice(Value):
    """How moving-microphone takes are made; the defaults are common practice."""

    size: int = 65_536
    window: str = "hann"
    overlap: float = Field(default=0.875, ge=0, le=0.95, allow_inf_nan=False)
    averages: int = Field(default=100, ge=2, le=10_000)
    level_db: float = Field(default=-24.0, ge=-80, le=0, allow_inf_nan=False)


class JigChoice(Value):
    """How impedance is measured: which inputs, which resistors, stepped or swept, how often, how loud."""

    driver_input: int = Field(default=4, ge=0, le=255)
    resistor_input: int = Field(default=5, ge=0, le=255)
    sense_ohm: float = Field(default=10.0, gt=0.01, le=10_000, allow_inf_nan=False)
    known_ohm: float = Field(default=10.0, gt=0.01, le=10_000, allow_inf_nan=False)
    method: Literal["sweep", "stepped"] = "sweep"
    repeats: int = Field(default=3, ge=1, le=16)
    level_db: float = Field(default=-24.0, ge=-80, le=0, allow_inf_nan=False)


class JigDone(Value):
    """When the jig was calibrated, and under which conditions; its coefficients are kept beside it."""

    made: str
    device: str
    rate: int
    driver_input: int
    resistor_input: int
    sense_ohm: float


class CheckDone(Value):
    """What the interface check found; its curves are kept beside it."""

    made: str
    device: str
    rate: int
    lines: tuple[Line, ...]
    latency: float
    noise_dbfs: float


class LevelDone(Value):
    """What the level test found: peak and noise of the microphone input, signal over noise by octave, and how loud
    the quiet is in dB SPL, A-weighted."""

    made: str
    peak_dbfs: float
    noise_dbfs: float
    over_noise_db: dict[str, float]
    quiet_db_a: float | None = None


class ReferenceDone(Value):
    """The sound level that reaches full scale, how it was found, and under which conditions."""

    made: str
    full_scale_db_spl: float
    how: str
    device: str
    input: int
    correction: int | None


def _none_chosen() -> dict[Pointing, int | None]:
    return {"source": None, "ceiling": None}


class Rig(Value):
    """All choices and results. Inputs are counted from 0; `input_names` are the person's own.

    `plays` says what takes are made of: what the interface plays straight into the processor, or the track that the
    source plays. `marker_output` says how the marker comes to its anchor: as the sweep to its driver, the processor
    changing over in between, or on the second output of the device, which the person has wired to the anchor.
    """

    device: str = STANDIN
    rate: int = 48_000
    known_inputs: int = len(StandinInterface.inputs)
    microphone_input: int = 0
    reference_input: int | None = 1
    input_names: tuple[str, ...] = (
        "Microphone",
        "Loopback",
        "Left of it",
        "Right of it",
        "Jig, driver",
        "Jig, resistor",
    )
    output: int | None = None
    output_names: tuple[str, ...] = ("To the processor",)
    plays: Literal["interface", "source"] = "interface"
    timing: Literal["loopback", "marker", "none"] = "loopback"
    anchor: str = ""
    marker_output: Literal["same", "second"] = "same"
    pointing: Pointing = "ceiling"
    corrections: dict[Pointing, int | None] = Field(default_factory=_none_chosen)
    sweep: SweepChoice = SweepChoice()
    moving: MovingChoice = MovingChoice()
    jig: JigChoice = JigChoice()
    jig_done: JigDone | None = None
    positions: tuple[Position, ...] = (
        Position(name="Middle of the head", x_cm=0, y_cm=0),
        Position(name="Left ear", x_cm=-9, y_cm=0),
        Position(name="Right ear", x_cm=9, y_cm=0),
        Position(name="Leaning forward", x_cm=0, y_cm=12),
    )
    position: str = "Middle of the head"
    height_m: float | None = Field(default=None, gt=0, lt=100, allow_inf_nan=False)
    check: CheckDone | None = None
    level: LevelDone | None = None
    reference: ReferenceDone | None = None

    @property
    def correction(self) -> int | None:
        """The correction that new takes get."""
        return self.corrections.get(self.pointing)

    def held_at(self, further: tuple[Position, ...], name: str) -> Position:
        """The position of a name, if it is among the rig's or the `further` ones; else the first of the rig's."""
        known = (*self.positions, *further)
        return next((one for one in known if one.name == name), self.positions[0])

    @property
    def sweep_settings(self) -> SweepSettings:
        """The sweep at the rig's rate, its top kept under half of it."""
        chosen = self.sweep
        high = min(chosen.high_hz, 0.48 * self.rate)
        return SweepSettings(chosen.low_hz, high, chosen.length, chosen.level_db, rate=self.rate)

    @property
    def moving_settings(self) -> MovingSettings:
        return MovingSettings(rate=self.rate, **self.moving.model_dump())


def now() -> str:
    return datetime.now(UTC).replace(tzinfo=None, microsecond=0).isoformat()


def jig_conditions(chosen: Rig) -> dict[str, Any]:
    """What a calibration of the jig holds for."""
    jig = chosen.jig
    return {
        "device": chosen.device,
        "rate": chosen.rate,
        "driver_input": jig.driver_input,
        "resistor_input": jig.resistor_input,
        "sense_ohm": jig.sense_ohm,
    }


def standard_names(device_id: str, inputs: int) -> tuple[str, ...]:
    """What the inputs of a device are called until a person names them."""
    known = ("Microphone", "Loopback", "Left of it", "Right of it", "Jig, driver", "Jig, resistor")
    first = known if device_id == STANDIN else known[:2]
    return tuple([*first, *[f"Input {n + 1}" for n in range(len(first), inputs)]][:inputs])
