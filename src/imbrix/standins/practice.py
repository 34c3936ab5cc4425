"""Trouble switches and plugs of the stand-ins: what a person can practise with, and tests can set."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from imbrix.core.passive.network import Step


class Wired(BaseModel):
    """A driver that hangs on the jig's clips through parts: by its output (from 1), its leads exchanged or not."""

    model_config = ConfigDict(extra="forbid", frozen=True, json_schema_serialization_defaults_required=True)

    output: int = Field(ge=1, le=64)
    steps: tuple[Step, ...] = Field(default=(), max_length=12)
    inverted: bool = False


class Practice(BaseModel):
    """What is plugged where, and what is wrong. The switches do to the samples what the trouble does.

    The jig's `clips` hold nothing, each other, the known resistor, the driver at `clipped_output` (from 1), which may
    be loaded with `loading_amount` grams on its cone or a box of so many litres, or the `network` of the parts box:
    some drivers beside each other, each through its parts. `turned_deg` is the angle by which the
    drivers are turned away from the microphone, `source_volume` where the knob of the source stands, of 40, its
    `source_fader` from the front (-10) to the rear (10), its `source_balance` from left to right;
    `second_volume` is the knob of the second source. `ears` are
    those of the stand-in's listener, drawn from a number: 0 hears what the place gives, others are off in some octaves.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, json_schema_serialization_defaults_required=True)

    plugged: Literal["microphone", "loop", "calibrator-94", "calibrator-114"] = "microphone"
    clips: Literal["nothing", "joined", "resistor", "driver", "network"] = "nothing"
    clipped_output: int = Field(default=1, ge=1, le=64)
    loading: Literal["as it is", "mass", "box", "leaking box"] = "as it is"
    loading_amount: float = Field(default=10.0, gt=0, le=1000, allow_inf_nan=False)
    network: tuple[Wired, ...] = Field(default=(), max_length=3)
    microphone: Literal["measuring", "plain"] = "measuring"
    pointing: Literal["source", "ceiling"] = "ceiling"
    turned_deg: float = Field(default=0.0, ge=-90, le=90, allow_inf_nan=False)
    microphone_unplugged: bool = False
    loopback_unplugged: bool = False
    inputs_exchanged: bool = False
    source_muted: bool = False
    wrong_channel: bool = False
    hum: bool = False
    lorry: bool = False
    door: bool = False
    clock_drift: bool = False
    gain_changed: bool = False
    wired_backwards: bool = False
    device_vanishes: bool = False
    buffer_lost: bool = False
    jig_unplugged: bool = False
    source_volume: int = Field(default=28, ge=1, le=40)
    source_fader: int = Field(default=0, ge=-10, le=10)
    source_balance: int = Field(default=0, ge=-10, le=10)
    front_and_rear_exchanged: bool = False
    wires_exchanged: bool = False
    wire_inverted: bool = False
    track_stops: bool = False
    chime: bool = False
    second_volume: int = Field(default=36, ge=1, le=40)
    second_unplugged: bool = False
    ears: int = Field(default=0, ge=0, le=9999)


SAYS: dict[str, str] = {
    "microphone_unplugged": "The microphone is unplugged",
    "loopback_unplugged": "The loopback cable is out",
    "inputs_exchanged": "Microphone and loopback cables are exchanged",
    "source_muted": "The source is muted",
    "hum": "Mains hum in the microphone cable",
    "lorry": "A lorry passes",
    "door": "A door slams",
    "clock_drift": "A USB microphone with a clock of its own (50 ppm fast, no loopback)",
    "gain_changed": "Somebody turned the input gain down by 7 dB",
    "jig_unplugged": "The impedance jig's cable is out",
    "device_vanishes": "The sound card is pulled out in the middle of a take",
    "second_unplugged": "The cable of the second source is out",
    "buffer_lost": "The sound card loses a buffer in a take, and says nothing",
}
"""The switches in words; those that differ from place to place are told by the place."""

DRIFT_PPM = 50.0
GAIN_CHANGE_DB = -7.0
