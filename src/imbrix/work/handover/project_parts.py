"""What the documents of a project file hold, part by part, with bounds for what comes in.

Numbers (`id`, `revision`, `head`) are those of the file: what opens it gives new ones.
"""

from datetime import datetime
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

Number = Field(ge=1, le=2**53)
Json = dict[str, Any]


class Part(BaseModel):
    model_config = ConfigDict(extra="ignore")  # what a later version adds to a row is passed over


class ProjectPart(Part):
    name: str = Field(min_length=1, max_length=80)
    layout: Json
    head: int = Number
    created: datetime


class RevisionPart(Part):
    id: int = Number
    number: int = Number
    parent: int | None = None
    next: int | None = None
    summary: str = Field(max_length=4000)
    name: str | None = Field(max_length=200)
    tune: Json
    created: datetime


class TakePart(Part):
    id: int = Number
    revision: int = Number
    channels: list[str] = Field(max_length=64)
    purpose: str
    method: str
    rate: int = Field(ge=1, le=1_000_000)
    timed: bool
    level_db: float = Field(ge=-1000, le=1000)
    through: Json
    details: Json
    note: str = Field(max_length=2000)
    discarded: bool
    created: datetime


class TargetPart(Part):
    id: int = Number
    name: str = Field(max_length=200)
    frequencies: list[float] = Field(min_length=2, max_length=200_000)
    levels: list[float] = Field(min_length=2, max_length=200_000)


class CorrectionPart(TargetPart):
    pointing: str = Field(max_length=20)
    origin: str = Field(max_length=20)
    degrees: list[float] | None
    sensitivity: str = Field(max_length=80)
    created: datetime


class DocumentsPart(Part):
    own: dict[str, Json] = Field(max_length=100)
    """Those of the project, by their kind."""
    shared: dict[str, Json] = Field(max_length=10_000)
    """Those that takes refer to: checks of the interface, calibrations of the jig."""
    rig: Json | None
    """How the rig was set, for whoever wants to know: the rig belongs to a machine and is not changed."""


SHARED = {"check": "check", "jig": "jig"}
"""Fields of a take's details that name a document, and the document's kind."""
