"""What requests may hold. Unknown fields are refused."""

from pydantic import BaseModel, ConfigDict, Field

from imbrix.core.edits import Edit
from imbrix.core.fit import FitLimits


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
    purpose: str = Field(pattern="^(driver|proof)$")
    sweep: SweepIn = SweepIn()


class FitIn(Request):
    channels: list[str] = Field(max_length=32)
    limits: FitLimits = FitLimits()


class DiscardIn(Request):
    discarded: bool


class SlotIn(Request):
    slot: int = Field(ge=1, le=64)
    name: str = Field(default="", max_length=60)
