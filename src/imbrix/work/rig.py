"""The rig: devices, inputs, microphone, interface check, level, reference level - what is set, and what is stale.

It belongs to the machine, not to a project, and survives restarts.
"""

from datetime import UTC, datetime
from typing import Any, Literal

import numpy as np
from pydantic import Field

from imbrix.core.layout import Value
from imbrix.core.loop import Line
from imbrix.core.moving import MovingSettings
from imbrix.core.signal import ComplexArray
from imbrix.core.sweep import SweepSettings
from imbrix.devices import soundcard
from imbrix.standins.interface import RATES, StandinInterface
from imbrix.standins.practice import Practice
from imbrix.work import corrections, documents
from imbrix.work.desk import NOMINAL_FULL_SCALE, ConflictError, Desk

Pointing = Literal["source", "ceiling"]
STANDIN, FILE = "stand-in", "file"


class Position(Value):
    """A named place of the microphone, centimetres right and forward of the middle of the head."""

    name: str = Field(min_length=1, max_length=40)
    x_cm: float = Field(ge=-100, le=100, allow_inf_nan=False)
    y_cm: float = Field(ge=-100, le=100, allow_inf_nan=False)


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
    """All choices and results. Inputs are counted from 0; `input_names` are the person's own."""

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
    timing: Literal["loopback", "marker", "none"] = "loopback"
    anchor: str = ""
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
    check: CheckDone | None = None
    level: LevelDone | None = None
    reference: ReferenceDone | None = None

    @property
    def correction(self) -> int | None:
        """The correction that new takes get."""
        return self.corrections.get(self.pointing)

    @property
    def place(self) -> tuple[float, float]:
        """Where the microphone is, in metres."""
        for one in self.positions:
            if one.name == self.position:
                return one.x_cm / 100, one.y_cm / 100
        return 0.0, 0.0

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


def rig(desk: Desk) -> Rig:
    """The rig as it was last set."""
    if desk.rig_kept is None:
        found = documents.read(desk, "rig")
        kept_before = Rig.model_validate(found) if found else Rig()
        if kept_before.device == STANDIN and kept_before.known_inputs < len(StandinInterface.inputs):
            names = standard_names(STANDIN, len(StandinInterface.inputs))
            names = kept_before.input_names + names[len(kept_before.input_names) :]
            kept_before = kept_before.model_copy(update={"known_inputs": len(names), "input_names": names})
        desk.rig_kept = kept_before
    kept: Rig = desk.rig_kept
    return kept


def keep(desk: Desk, wanted: Rig) -> Rig:
    """Make a rig the present one; on disk when this returns."""
    documents.write(desk, "rig", wanted.model_dump(mode="json"))
    desk.rig_kept = wanted
    return wanted


def change(desk: Desk, values: dict[str, Any]) -> Rig:
    """Change choices by name. Raises ValueError where a value is impossible, ConflictError while a take runs."""
    before = rig(desk)
    after = Rig.model_validate({**before.model_dump(), **values})
    if {"device", "rate", "microphone_input", "reference_input", "output"} & values.keys():
        if not desk.device.acquire(blocking=False):
            raise ConflictError("a recording is running: change the devices when it has ended")
        try:
            after = _with_device(desk, before, after, "input_names" in values)
        finally:
            desk.device.release()
    _ = after.sweep_settings, after.moving_settings  # raise ValueError where they do not fit the rate
    if after.jig.driver_input == after.jig.resistor_input:
        raise ValueError("the jig's two voltages cannot be on the same input")
    for wanted in after.corrections.values():
        if wanted is not None:
            corrections.correction(desk, wanted)
    if after.position not in {one.name for one in after.positions}:
        after = after.model_copy(update={"position": after.positions[0].name}) if after.positions else after
    return keep(desk, after)


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


def _with_device(desk: Desk, before: Rig, after: Rig, named: bool) -> Rig:
    found = device(desk, after.device)
    if found is None:
        raise ValueError(f"there is no device {after.device!r} on this machine")
    if after.device != FILE and after.rate not in found["rates"]:
        raise ValueError(f"{found['name']} does not run at {after.rate} Hz")
    inputs = found["inputs"]
    if after.device != before.device:
        names = standard_names(after.device, inputs)
        after = after.model_copy(
            update={
                "known_inputs": inputs,
                "input_names": after.input_names if named else names,
                "microphone_input": 0,
                "reference_input": 1 if inputs > 1 else None,
                "output": None,
                "output_names": ("To the processor", *[f"Output {n + 1}" for n in range(1, found["outputs"])]),
            }
        )
    for what, number in (("microphone", after.microphone_input), ("reference", after.reference_input)):
        if number is not None and not 0 <= number < inputs:
            raise ValueError(f"{found['name']} has {inputs} inputs: there is no input {number + 1} for the {what}")
    if after.output is not None and not 0 <= after.output < found["outputs"]:
        raise ValueError(f"{found['name']} has {found['outputs']} outputs: there is no output {after.output + 1}")
    if after.microphone_input == after.reference_input:
        raise ValueError("the microphone and the reference cannot be on the same input")
    desk.interface = _opened(desk, after, found)
    return after.model_copy(update={"known_inputs": inputs})


def _opened(desk: Desk, wanted: Rig, found: dict[str, Any]) -> Any:
    if wanted.device in (STANDIN, FILE):
        desk.standin.rate = wanted.rate
        return desk.standin
    card = next(card for card in (desk.cards or soundcard.cards())[0] if card.name == found["name"])
    return soundcard.SoundCard(card, wanted.rate, wanted.output)


def devices(desk: Desk) -> tuple[list[dict[str, Any]], str]:
    """All devices of the audio port, and why there are no sound cards where there are none."""
    if desk.cards is None:
        desk.cards = soundcard.cards()
    cards, why = desk.cards
    listed = [
        {
            "id": STANDIN,
            "name": "Stand-in (simulated van)",
            "inputs": len(StandinInterface.inputs),
            "outputs": 1,
            "rates": list(RATES),
        },
        {"id": FILE, "name": "Files: play and record elsewhere", "inputs": 2, "outputs": 1, "rates": list(RATES)},
        *[
            {
                "id": f"card:{card.name}",
                "name": card.name,
                "inputs": card.inputs,
                "outputs": card.outputs,
                "rates": list(card.rates),
            }
            for card in cards
        ],
    ]
    return listed, why


def device(desk: Desk, wanted: str) -> dict[str, Any] | None:
    """One device, or None."""
    return next((one for one in devices(desk)[0] if one["id"] == wanted), None)


def trouble(desk: Desk, again: bool = False) -> str:
    """What is wrong with the chosen device, before any take; empty when all is as it was left. `again`: look anew."""
    chosen = rig(desk)
    if again and chosen.device.startswith("card:"):
        desk.cards = None
    found = device(desk, chosen.device)
    if found is None:
        name = chosen.device.removeprefix("card:")
        return f"{name}, the device chosen before, is not there: plug it in, or choose another"
    if chosen.device.startswith("card:") and found["inputs"] != chosen.known_inputs:
        return (
            f"{found['name']} had {chosen.known_inputs} inputs and now has {found['inputs']}: "
            "look at which input is which and choose them again"
        )
    if chosen.device != FILE and chosen.rate not in found["rates"]:
        return f"{found['name']} no longer runs at {chosen.rate} Hz: choose another sample rate"
    return ""


def open_interface(desk: Desk) -> None:
    """Open the device that was chosen before; where it is gone, the stand-in stays and `trouble` says so."""
    chosen = rig(desk)
    found = device(desk, chosen.device)
    if found is not None and not trouble(desk):
        desk.interface = _opened(desk, chosen, found)


def look_again(desk: Desk) -> None:
    """Look for devices anew, and open the one that was chosen where it is there again."""
    desk.cards = None
    open_interface(desk)


def practise(desk: Desk, wanted: Practice) -> None:
    """Set the stand-in's plugs and troubles. Raises ConflictError where another device is in use."""
    simulated = standin(desk)
    if simulated is None:
        raise ConflictError("the practice switches belong to the stand-in: choose it under Device")
    simulated.practice = wanted


def exchange_inputs(desk: Desk) -> Rig:
    """Take the microphone for the reference and the reference for the microphone. Raises ConflictError."""
    now_set = rig(desk)
    if now_set.reference_input is None:
        raise ConflictError("there is no reference input to exchange with")
    names = list(now_set.input_names)
    a, b = now_set.microphone_input, now_set.reference_input
    if max(a, b) < len(names):
        names[a], names[b] = names[b], names[a]
    return change(desk, {"microphone_input": b, "reference_input": a, "input_names": tuple(names)})


def full_scale(desk: Desk) -> float:
    """The sound level that reaches full scale: by calibration, by the microphone's sheet, or nominal."""
    now_set = rig(desk)
    if now_set.reference:
        return now_set.reference.full_scale_db_spl
    if now_set.correction is not None:
        sheet = corrections.correction(desk, now_set.correction).full_scale_db_spl
        if sheet is not None:
            return sheet
    return NOMINAL_FULL_SCALE


def keep_check(desk: Desk, done: CheckDone, own: ComplexArray, reference: ComplexArray | None) -> None:
    """Keep the curves of an interface check; they are divided out of takes from now on."""
    value: dict[str, Any] = {"own": _as_lists(own), "reference": None if reference is None else _as_lists(reference)}
    documents.write(desk, f"check:{done.made}", value)
    keep(desk, rig(desk).model_copy(update={"check": done}))


def _as_lists(values: ComplexArray) -> list[list[float]]:
    known = np.nan_to_num(values, nan=1.0)
    return [np.round(known.real, 7).tolist(), np.round(known.imag, 7).tolist()]


def check_curve(desk: Desk, made: str, against_reference: bool) -> ComplexArray | None:
    """The interface's own response (n,) by the check of a time, or None."""
    known = desk.checks.get(made)
    if known is None:
        known = desk.checks[made] = documents.read(desk, f"check:{made}") or {}
    pair = known.get("reference" if against_reference else "own")
    return None if pair is None else np.array(pair[0]) + 1j * np.array(pair[1])


def standin(desk: Desk) -> StandinInterface | None:
    """The stand-in where it is the device in use."""
    return desk.standin if rig(desk).device == STANDIN else None
