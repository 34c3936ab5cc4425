"""The figures that go with curves, by what they are of. Which of them a picture has follows from its view."""

from typing import Literal, NotRequired

from typing_extensions import TypedDict

from imbrix.work.sound.results import Levels
from imbrix.work.views.lens import Unit


class Loss(TypedDict):
    """What is lost at a seam in dB, over the stretch where both are within 10 dB, and its null when inverted."""

    mean: float
    worst: float
    worst_hz: float
    low_hz: float
    high_hz: float
    null_db: float
    null_hz: float


class Ranges(TypedDict):
    """The least and the most of figures in dB over all places that were recorded, and which these are, in words; of a
    seam's mean loss, and of plus/minus about a target."""

    says: str
    loss: NotRequired[tuple[float, float]]
    plus_minus: NotRequired[tuple[float, float]]


class Null(TypedDict):
    """How far under the sum a measured null lies: at most and where, and in the mean of the overlap, in dB.

    `right` says whether the polarity is, None where the difference is too small to tell."""

    depth_db: float
    hz: float
    mean_db: float
    right: bool | None


class Strays(TypedDict):
    """How a curve strays from its target over a span, in dB."""

    mean: float
    plus_minus: float
    worst: float
    rms: float
    low_hz: float
    high_hz: float


class Price(TypedDict):
    """Highest peak over and lowest dip under what is aimed at, in dB."""

    highest: float
    lowest: float


class Headroom(TypedDict):
    """Peaks of a channel's output over full scale when full scale comes in, in dB.

    Of the worst sine, with its frequency, of a sweep and of pink noise; with what the customer may turn up turned up,
    where that was said.
    """

    sine_db: float
    sine_hz: float
    sweep_db: float
    pink_db: float
    turned_up: bool


class Parted(TypedDict):
    """How far a proof is from its prediction (rms, dB), and what that looks like; empty where both are one thing."""

    rms_db: float
    says: str


class TakeShown(TypedDict):
    """The take of the whole that is shown."""

    id: int
    channels: list[str]
    made: str
    revision_id: int


class CameTrue(TypedDict):
    """Measured against predicted, in dB."""

    rms: float
    worst: float
    mean: float


class SpanRow(TypedDict):
    """A named curve over a span: mean, plus/minus, and for levels the energy in dB."""

    label: str
    mean: float
    plus_minus: float
    energy_db: NotRequired[float]


class Span(TypedDict):
    """A stretch read off, a row for each named curve."""

    low_hz: float
    high_hz: float
    rows: list[SpanRow]


class Extremes(TypedDict):
    """Peaks (true) and dips of a curve: hertz, level, which."""

    curve: str
    at: list[tuple[float, float, bool]]


class GateFacts(TypedDict):
    """Where the first reflection comes, what gate leaves it out, and the gate that is set."""

    reflection_ms: float | None
    before_ms: float | None
    gate_ms: float
    from_ms: float
    lowest_hz: float


class Sides(TypedDict):
    """How much later the other side arrives."""

    name: str
    ms: float
    samples: float
    cm: float


class MapFacts(TypedDict):
    """How the values of a map lie: row after row, a column for every so many points of the grid."""

    rows: int
    columns: int
    every: int
    unit: str
    floor: float
    ticks: list[float]
    window_ms: NotRequired[float]
    rise_ms: NotRequired[float]
    span_ms: NotRequired[float]


class DecayTime(TypedDict):
    """Decay times of a third of an octave in seconds; None where the decay is not straight."""

    hertz: float
    t20: float | None
    t30: float | None
    edt: float | None
    quality: float | None


class Parameter(TypedDict):
    """A parameter to be read: half its 95 % interval is None where there was one repeat only."""

    key: str
    name: str
    unit: str
    value: float
    half: float | None
    digits: int


class Least(TypedDict):
    """The least impedance."""

    ohms: float
    hertz: float


class Corner(TypedDict):
    """Impedance at a planned corner."""

    what: str
    hertz: float
    ohms: float
    degrees: float


class PairApart(TypedDict):
    """How the other side's driver differs, as shares; `much` more than samples do."""

    name: str
    fs: float
    qts: float
    re: float
    much: bool


class ImpedanceFacts(TypedDict):
    """What is read from the impedance of a driver."""

    take_id: int
    calibrated: bool
    repeats: int
    rows: list[Parameter]
    misfit: NotRequired[float]
    says: str
    least: Least | None
    allowed: float
    corners: list[Corner]
    mechanics: list[Parameter] | None
    mechanics_says: str
    pair: PairApart | None


class Stretch(TypedDict):
    """A stretch of a recording."""

    seconds: float
    once_hz: float
    strongest_hz: float
    peak_dbfs: float
    rms_dbfs: float
    crest_db: float


class Stretched(TypedDict):
    """The figures of a stretch of a recording, its levels by weighting and band."""

    stretch: Stretch
    levels: dict[Literal["A", "C", "Z"], Levels]
    unit: Literal["dBFS", "dB SPL"]
    octaves: list[tuple[float, float]]
    thirds: list[tuple[float, float]]


class Raw(Stretched):
    """A recorded input: how long, what of it is shown, and the figures of the stretch that is marked."""

    take_id: int
    seconds: float
    shown: tuple[float, float]
    rate: int


class Worst(TypedDict):
    """Where distortion is worst, and at which drive."""

    worst_db: float
    worst_percent: float
    worst_hz: float
    drive_dbfs: float


class DistortionFacts(Worst):
    """The same of the take that is shown, beside that of another."""

    unit: Unit
    other: Worst | None


class Agrees(TypedDict):
    """How two takes of a driver agree."""

    level_db: float
    shape_db: float
    later_us: float | None
    turned: bool


class Moving(TypedDict):
    """How sure a moving microphone's average is."""

    averages: int
    change_db: float | None
    band_db: float


class Facts(TypedDict, total=False):
    """All figures that a picture can have."""

    seam: str
    delay_ms: float
    path_mm: float
    sample_mm: float
    inverted: bool
    untimed: list[str]
    loss: Loss | None
    ranges: Ranges
    null: Null
    null_says: str
    pulse_says: str
    deviation: Strays
    price: Price
    most_boost_db: float
    headroom: Headroom
    parting: Parted
    sides_db: float
    sides_measured: bool
    target_level_db: float
    share_db: float
    measured_at: str
    take: TakeShown
    prediction: CameTrue
    span: Span
    extremes: Extremes
    explains: str
    lacking: str
    lowest_hz: float
    gate: GateFacts
    sides: Sides
    map: MapFacts
    angles_say: str
    decay: list[DecayTime]
    impedance: ImpedanceFacts
    raw: Raw
    distortion: DistortionFacts
    agreement: Agrees
    moving: Moving
    settled: bool
