"""The tune: everything set in the processor, as one immutable document."""

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from imbrix.core.errors import InvalidError
from imbrix.core.system.layout import FRAGILE_GUARD_HZ, Driver, Layout
from imbrix.core.tune.crossover import SLOPES, Shape
from imbrix.core.tune.fir import LINEAR_SLOPES, MOST_TAPS, Taps
from imbrix.core.tune.second import SecondSource
from imbrix.core.value import Value

BandKind = Literal["peaking", "low_shelf", "high_shelf", "all_pass", "all_pass_1", "notch"]
Hertz = Annotated[float, Field(gt=0, lt=100_000, allow_inf_nan=False)]
Level = Annotated[float, Field(ge=-200, le=200, allow_inf_nan=False)]


class Crossover(Value):
    """One end of a channel's band: of second-order sections, or of linear phase in so many `taps` (an odd number)."""

    shape: Shape
    slope_db: int
    corner_hz: Hertz
    taps: int = Field(default=0, ge=0, lt=MOST_TAPS)

    @model_validator(mode="after")
    def _family_has_slope(self) -> "Crossover":
        if self.taps:
            if self.shape != "linkwitz-riley" or self.slope_db not in LINEAR_SLOPES:
                has = ", ".join(map(str, LINEAR_SLOPES))
                raise InvalidError(f"of linear phase there is linkwitz-riley with {has} dB per octave")
            if self.taps % 2 == 0:
                raise InvalidError(f"{self.taps} taps of linear phase have no middle: take an odd number")
            return self
        if self.slope_db not in SLOPES[self.shape]:
            has = ", ".join(map(str, SLOPES[self.shape]))
            raise InvalidError(f"{self.shape} has no slope of {self.slope_db} dB per octave; it has {has}")
        return self


class Band(Value):
    """One correction band; `off` keeps it without effect, to hear what it does."""

    kind: BandKind = "peaking"
    frequency_hz: Hertz
    gain_db: Level = 0.0
    q: Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)] = 1.0
    off: bool = False

    @property
    def turns(self) -> bool:
        """Whether it only turns phase: an all-pass, of second order or of first, which has no Q."""
        return self.kind in ("all_pass", "all_pass_1")

    @property
    def has_gain(self) -> bool:
        """Whether its gain says what it does."""
        return not self.turns and self.kind != "notch"


class Channel(Value):
    """Settings of one processor output."""

    gain_db: Level = 0.0
    inverted: bool = False
    delay_s: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.0
    muted: bool = False
    high_pass: Crossover | None = None
    low_pass: Crossover | None = None
    bands: tuple[Band, ...] = ()
    taps: Taps | None = None

    @property
    def linear_ends(self) -> tuple[Crossover | None, Crossover | None]:
        """High-pass and low-pass where they are of linear phase."""
        high, low = (one if one is not None and one.taps else None for one in (self.high_pass, self.low_pass))
        return high, low

    @property
    def linear_taps(self) -> int:
        """How many taps its linear-phase ends take together."""
        return max((one.taps for one in self.linear_ends if one is not None), default=0)

    @property
    def tap_count(self) -> int:
        """How many taps it needs: of linear-phase ends and of what it keeps, one run into the other."""
        kept = self.taps.count if self.taps is not None else 0
        return self.linear_taps + kept - 1 if self.linear_taps and kept else self.linear_taps + kept

    @property
    def tap_delay(self) -> int:
        """By how many samples its taps delay the main pulse."""
        return max(0, self.linear_taps - 1) // 2 + (self.taps.delay if self.taps is not None else 0)

    def late_s(self, rate: int) -> float:
        """By how many seconds its delay and its taps make it late."""
        return self.delay_s + self.tap_delay / rate

    @property
    def all_passes(self) -> tuple[Band, ...]:
        """Bands that only turn phase: they belong to the alignment."""
        return tuple(band for band in self.bands if band.turns)

    @property
    def voicing(self) -> tuple[Band, ...]:
        """Bands that change the level."""
        return tuple(band for band in self.bands if not band.turns)

    @property
    def voiced(self) -> bool:
        """Whether its level or its correction was set."""
        return bool(self.gain_db) or len(self.all_passes) < len(self.bands)


class Input(Value):
    """Settings of one processor input.

    Where it `straightens`, it undoes what the source does to the feed: both together do nothing. What is played here
    rather than by the source goes in without it, and prediction leaves it out.
    """

    gain_db: Level = 0.0
    inverted: bool = False
    delay_s: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.0
    bands: tuple[Band, ...] = ()
    straightens: bool = False

    @property
    def heard_straight(self) -> "Input":
        """What it does to a signal that needs no straightening."""
        return Input() if self.straightens else self

    @property
    def channel(self) -> Channel:
        """The channel that does the same: the two are lowered by the same function."""
        return Channel(gain_db=self.gain_db, inverted=self.inverted, delay_s=self.delay_s, bands=self.bands)


LEAST_APART = 2 ** (1 / 3) * 0.999
Factor = Annotated[float, Field(ge=-16, le=16, allow_inf_nan=False)]


Lift = Annotated[float, Field(ge=-24, le=24, allow_inf_nan=False)]


class Bend(Value):
    """A point that the target is bent by, in dB over the curve as it comes."""

    frequency_hz: Annotated[float, Field(ge=10, le=30_000, allow_inf_nan=False)]
    level_db: Lift


def check_apart(bends: tuple[Bend, ...]) -> None:
    """Raise InvalidError where two points are nearer than a third of an octave: a target has no steps."""
    hertz = sorted(one.frequency_hz for one in bends)
    for low, high in pairwise(hertz):
        if high < low * LEAST_APART:
            raise InvalidError(
                f"the target is bent at {low:.0f} and at {high:.0f} Hz: points are a third of an octave apart at least"
            )


class Placement(Value):
    """Which target curve is aimed at, its level at 1 kHz in dB, and how it is bent.

    `tilt_db` are dB an octave, turned about 1 kHz; `bass_db` is a lift of the bass, half of which is left at `bass_hz`;
    `bends` are points, smooth between them, at least a third of an octave apart.
    """

    curve: str = "warm"
    level_db: Level = 76.0
    tilt_db: Annotated[float, Field(ge=-3, le=3, allow_inf_nan=False)] = 0.0
    bass_db: Annotated[float, Field(ge=-12, le=18, allow_inf_nan=False)] = 0.0
    bass_hz: Annotated[float, Field(ge=20, le=300, allow_inf_nan=False)] = 80.0
    bends: tuple[Bend, ...] = Field(default=(), max_length=16)

    @model_validator(mode="after")
    def _bends_apart(self) -> "Placement":
        check_apart(self.bends)
        return self


class Tune(Value):
    """Channels by driver id, the correction common to all, what is tied, and the target aimed at.

    `inputs` are those of the processor in order, as many as were ever set; `routing` gives by driver id the factors by
    which they are added up, for those that do not hear what their side says; `second` is the second source.
    `tied_ways` names seams ("mid-tweeter") whose two sides follow each other; `tied_sides` those set alike left and
    right. `tied_levels` and `tied_bands` are channels whose level moves along with that of their partner on the other
    side, or whose bands are the same.
    """

    channels: dict[str, Channel]
    common: tuple[Band, ...] = ()
    inputs: tuple[Input, ...] = ()
    routing: dict[str, tuple[Factor, ...]] = Field(default_factory=dict)
    second: SecondSource = SecondSource()
    solo: str | None = None
    tied_ways: tuple[str, ...] = ()
    tied_sides: tuple[str, ...] = ()
    tied_levels: tuple[str, ...] = ()
    tied_bands: tuple[str, ...] = ()
    target: Placement = Placement()

    @property
    def brief(self) -> "Tune":
        """The same with the data of its taps left out: what a page needs to know of it."""
        kept = {name: one.taps for name, one in self.channels.items() if one.taps is not None}
        if not kept:
            return self
        short = {
            name: self.channels[name].model_copy(update={"taps": taps.model_copy(update={"data": ""})})
            for name, taps in kept.items()
        }
        return self.model_copy(update={"channels": {**self.channels, **short}})

    def audible(self, driver_id: str) -> bool:
        """Whether the channel plays: not muted, and no other stands alone."""
        return not self.channels[driver_id].muted and self.solo in (None, driver_id)

    def with_channel(self, driver_id: str, **values: object) -> "Tune":
        """The tune with some settings of one channel changed."""
        channel = self.channels[driver_id].model_copy(update=values)
        return self.model_copy(update={"channels": {**self.channels, driver_id: channel}})


def guard(driver: Driver) -> Crossover | None:
    """The protective high-pass of a fragile driver while it is measured."""
    corner = FRAGILE_GUARD_HZ.get(driver.kind)
    if corner is None:
        return None
    return Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=corner)


def way_pairs(layout: Layout) -> tuple[str, ...]:
    """Names of neighbouring ways, as `tied_ways` and `tied_sides` use them."""
    return tuple(dict.fromkeys(seam.name for seam in layout.seams() if seam.name))


def neutral(layout: Layout, before: Tune | None = None) -> Tune:
    """Gains, delays and correction flat, crossovers off, fragile drivers behind their guard."""
    channels = {driver.id: Channel(high_pass=guard(driver)) for driver in layout.drivers}
    target = before.target if before else Placement()
    ties = way_pairs(layout)
    return Tune(channels=channels, target=target, tied_ways=ties, tied_sides=ties)


def measuring(tune: Tune, layout: Layout, playing: set[str]) -> Tune:
    """The tune with only `playing` audible, every fragile driver behind a guard or its own high-pass, and nothing that
    straightens the source or lets the second one in: the measuring signal does not come from there."""
    channels = {}
    for driver in layout.drivers:
        channel = tune.channels[driver.id]
        if channel.high_pass is None and driver.fragile:
            channel = channel.model_copy(update={"high_pass": guard(driver)})
        channels[driver.id] = channel.model_copy(update={"muted": driver.id not in playing})
    inputs = tuple(one.heard_straight for one in tune.inputs)
    return tune.model_copy(update={"channels": channels, "solo": None, "inputs": inputs, "second": SecondSource()})
