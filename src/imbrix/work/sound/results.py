"""What jobs find, ready to be shown: each kind of job tells some of it."""

from typing import Literal

from typing_extensions import TypedDict


class Levels(TypedDict):
    """Levels of one weighting, in dB SPL or dBFS."""

    equivalent: float
    fast: float
    slow: float
    fast_most: float
    fast_least: float
    slow_most: float
    slow_least: float


class Volume(TypedDict):
    """A wire of the source while its volume is turned up: the input that it goes to, the level of a tone's peaks in
    dBFS, distortion as a share, and the highest clean and lowest distorted level so far; None where not known."""

    input: int
    level_db: float | None
    distortion: float | None
    distorts: bool
    clean_db: float | None
    over_db: float | None


class Result(TypedDict, total=False):
    """What a job has found. Which of it is there follows from the kind of job."""

    doubt: bool
    """A take: whether its verdict doubts it."""
    made: str
    """The interface check: when it was made."""
    wires: list[Volume]
    """The source turned up: each wire that is heard."""
    ends: list[str]
    """The source turned up: at which ends of its knobs it was heard."""
    sounding: list[Literal["wires", "second"]]
    """The change-over of sources: which of them is heard now."""
    looks: str
    """The jig while it is watched: what hangs on its clips, in words."""
    standard: str
    """The jig: which step of the calibration is done."""
    level_dbfs_c: float
    meter_db_c: float | None
    """Pink noise by a level meter: the input's level, and what the stand-in's meter shows."""
    ear: str
    """The channel check: which driver a person in the stand-in's cabin would hear."""
    places: list[float]
    """A band of the image: where a person in the stand-in's place would hear it."""
    sounds: Literal["a", "b", "x"]
    """Music: which of two tunes it comes through."""
    channel: str
    heard: bool
    positive: bool
    sure: float
    shape: list[float]
    """Polarity by pulse: of which channel, whether and how it moved, and the pulse as it came, its peak one."""
    delay_ms: float
    coherence: float
    settled: bool
    full: bool
    """The live analyser: delay taken out, median coherence, whether the delay is found, whether the count is full."""
    levels: dict[Literal["A", "C", "Z"], Levels]
    unit: Literal["dBFS", "dB SPL"]
    """An input as it is: its levels by weighting."""
