"""A processor's model: what it has, ranges and steps that settings are settled to, and refusals in words."""

from typing import Literal

from pydantic import Field, model_validator

from imbrix.core.errors import InvalidError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.crossover import SLOPES, Shape
from imbrix.core.tune.fir import OFF_DB, needed_taps, off_db
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Band, Channel, Crossover, Input, Tune
from imbrix.core.value import Value

Screen = Literal["inputs", "routing", "crossovers", "gain", "polarity", "delay", "bands", "sound"]
"""What a screen of a device's own program shows of all outputs, or of all inputs."""


class Range(Value):
    """A closed range with the step in which the processor keeps the value (0: as it comes)."""

    least: float = Field(allow_inf_nan=False)
    most: float = Field(allow_inf_nan=False)
    step: float = Field(default=0.0, ge=0, allow_inf_nan=False)

    @model_validator(mode="after")
    def _leads_up(self) -> "Range":
        if self.least > self.most:
            raise InvalidError(f"a range from {self.least:g} to {self.most:g} leads downwards")
        return self

    def settle(self, value: float) -> float:
        """The value that the processor would keep: within the range, on its step."""
        if self.step:
            value = round(round(value / self.step) * self.step, 9)
        return min(max(value, self.least), self.most)

    def holds(self, value: float) -> bool:
        return self.least - 1e-9 <= value <= self.most + 1e-9


class Limits(Value):
    """The model of a processor: how many there are of each thing, and what each can be set to.

    `rate` is in hertz, `bands` are those of one output, `input_bands` those of one input, `taps` those of an output's
    FIR filter. `second_source` says whether a digital one can be connected that takes over by itself, `reads_inputs`
    whether what reaches its inputs can be read by its link.
    `slope_db` is the steepest slope, `slopes` those of each family where it does not have all up to that.
    `screens` is the order in which its own program shows things, where it shows one thing of all outputs at a time:
    what is typed by hand comes in that order. Left out, it comes output by output.
    """

    name: str = Field(min_length=1, max_length=60)
    inputs: int = Field(default=2, ge=1, le=64)
    outputs: int = Field(ge=1, le=64)
    rate: int = Field(ge=32_000, le=384_000)
    slots: int = Field(ge=0, le=99)
    bands: int = Field(ge=0, le=31)
    input_bands: int = Field(default=0, ge=0, le=64)
    taps: int = Field(default=0, ge=0, le=65_536)
    second_source: bool = False
    reads_inputs: bool = False
    latency_s: float = Field(default=0.0, ge=0, le=1, allow_inf_nan=False)
    slope_db: int = Field(ge=6, le=96)
    slopes: dict[Shape, tuple[int, ...]] = Field(default_factory=dict)
    gain_db: Range
    delay_s: Range
    corner_hz: Range
    band_hz: Range
    band_gain_db: Range
    q: Range
    screens: tuple[Screen, ...] = Field(default=(), max_length=8)

    @model_validator(mode="after")
    def _can_be(self) -> "Limits":
        if not any(self.slopes_of(shape) for shape in SLOPES):
            raise InvalidError("there is no slope at all: a processor without crossovers can protect no tweeter")
        for shape, slopes in self.slopes.items():
            if strange := set(slopes) - set(SLOPES[shape]):
                raise InvalidError(f"{shape} has no slope of {min(strange)} dB per octave; it has {SLOPES[shape]}")
        for says, one, least, most in (
            ("the corner", self.corner_hz, 1.0, self.rate / 2),
            ("the band's frequency", self.band_hz, 1.0, self.rate / 2),
            ("the band's gain", self.band_gain_db, -200.0, 200.0),
            ("the gain", self.gain_db, -200.0, 200.0),
            ("the delay", self.delay_s, 0.0, 1.0),
            ("the Q", self.q, 0.01, 100.0),
        ):
            if not least <= one.least <= one.most <= most:
                raise InvalidError(
                    f"{says} goes from {one.least:g} to {one.most:g}; {least:g} to {most:g} is what can be computed"
                )
        return self

    def slopes_of(self, shape: Shape) -> tuple[int, ...]:
        """The slopes in dB per octave that a family has here, none where it is not offered."""
        if self.slopes:
            return self.slopes.get(shape, ())
        return tuple(slope for slope in SLOPES[shape] if slope <= self.slope_db)

    def _no_slope(self, words: str, end: Crossover) -> str:
        has = self.slopes_of(end.shape)
        if not has:
            families = ", ".join(shape for shape in SLOPES if self.slopes_of(shape))
            return f"a {words} of the {end.shape} family is beyond it: it has {families}"
        if end.slope_db > max(has):
            return f"a {words} of {end.slope_db} dB per octave is beyond its {max(has)}"
        return f"a {words} of {end.slope_db} dB per octave is none of its {', '.join(map(str, has))}"

    def settle(self, channel: Channel) -> Channel:
        """The channel as the processor would keep it, every value on its step and within its range."""
        delay = round(self.delay_s.settle(channel.delay_s) * self.rate) / self.rate
        return channel.model_copy(
            update={
                "gain_db": self.gain_db.settle(channel.gain_db),
                "delay_s": delay,
                "high_pass": self._settle_end(channel.high_pass),
                "low_pass": self._settle_end(channel.low_pass),
                "bands": tuple(self.settle_band(band) for band in channel.bands),
            }
        )

    def settle_input(self, one: Input) -> Input:
        """The input as the processor would keep it."""
        kept = self.settle(one.channel)
        return one.model_copy(update={name: getattr(kept, name) for name in ("gain_db", "delay_s", "bands")})

    def settle_band(self, band: Band) -> Band:
        """The band as the processor would keep it."""
        return band.model_copy(
            update={
                "frequency_hz": self.band_hz.settle(band.frequency_hz),
                "gain_db": self.band_gain_db.settle(band.gain_db),
                "q": self.q.settle(band.q),
            }
        )

    def _settle_end(self, end: Crossover | None) -> Crossover | None:
        return end and end.model_copy(update={"corner_hz": self.corner_hz.settle(end.corner_hz)})

    def fitted(self, tune: Tune) -> Tune:
        """The nearest tune that this processor can do: values within their ranges, slopes and families that it has,
        and of too many bands those that do most. The common bands keep their places before a channel's own."""
        common = self.strongest(tune.common, self.bands)
        room = self.bands - len(common)
        channels = {}
        for name, channel in tune.channels.items():
            ends = {end: (one := getattr(channel, end)) and self._fitting(one) for end in ("high_pass", "low_pass")}
            bands = self.strongest(channel.bands, room)
            kept = self.settle(channel.model_copy(update={**ends, "bands": bands}))
            channels[name] = kept.model_copy(update={"taps": None}) if self._refuse_taps(kept) else kept
        inputs = tuple(
            self.settle_input(one.model_copy(update={"bands": self.strongest(one.bands, self.input_bands)}))
            for one in tune.inputs[: self.inputs]
        )
        routing = {name: factors[: self.inputs] for name, factors in tune.routing.items()}
        return tune.model_copy(
            update={
                "channels": channels,
                "common": tuple(map(self.settle_band, common)),
                "inputs": inputs,
                "routing": routing,
                "second": self.settle_second(tune.second) if self.second_source else SecondSource(),
            }
        )

    def settle_second(self, second: SecondSource) -> SecondSource:
        """The second source as the processor would keep it."""
        return second.model_copy(update={"gain_db": self.gain_db.settle(second.gain_db)})

    def refuse_second(self, second: SecondSource) -> list[str]:
        """What of a second source this processor cannot do."""
        if second.priority == "never":
            return []
        if not self.second_source:
            return ["it is to be heard, but this processor can have none"]
        return [] if self.gain_db.holds(second.gain_db) else [_beyond("a gain", second.gain_db, "dB", self.gain_db)]

    def nearest(self, end: Crossover) -> Crossover:
        """The crossover with the nearest slope of its own family, or of the first family that is offered.

        One of linear phase stays where there are taps enough, else it becomes one of sections.
        """
        if 0 < end.taps <= self.taps:
            return end
        shape = end.shape if self.slopes_of(end.shape) else next(one for one in SLOPES if self.slopes_of(one))
        slope = min(self.slopes_of(shape), key=lambda one: abs(one - end.slope_db))
        return end.model_copy(update={"shape": shape, "slope_db": slope, "taps": 0})

    def _fitting(self, end: Crossover) -> Crossover:
        """The nearest crossover, of sections where its taps are too few at this rate."""
        kept = self.nearest(end)
        enough = not kept.taps or off_db(kept.slope_db, kept.corner_hz, kept.taps, self.rate) <= 2 * OFF_DB
        return kept if enough else self.nearest(kept.model_copy(update={"taps": self.taps + 1}))

    def strongest(self, bands: tuple[Band, ...], most: int) -> tuple[Band, ...]:
        """As many bands as there is room for, those that do most: decibels times octaves; an all-pass above all."""
        if len(bands) <= most:
            return bands
        by_weight = sorted(range(len(bands)), key=lambda n: -_weight(bands[n]))[:most]
        return tuple(bands[n] for n in sorted(by_weight))

    def refusals(self, tune: Tune, layout: Layout) -> list[str]:
        """What of a tune this processor cannot do, each with what and why."""
        said = []
        for driver in layout.drivers:
            if driver.output > self.outputs:
                said.append(f"{driver.name} is on output {driver.output}, but there are only {self.outputs} outputs")
            said += [f"{driver.name}: {one}" for one in self.refuse(tune.channels[driver.id], tune.common)]
            heard = len(tune.routing.get(driver.id, ()))
            if heard > self.inputs:
                said.append(f"{driver.name} hears input {heard}, but there are only {self.inputs} inputs")
        for number, one in enumerate(tune.inputs, 1):
            if number > self.inputs and one != Input():
                said.append(f"input {number} is set, but there are only {self.inputs} inputs")
            said += [f"input {number}: {words}" for words in self.refuse_input(one)]
        return said + [f"second source: {words}" for words in self.refuse_second(tune.second)]

    def refuse_input(self, one: Input) -> list[str]:
        """What of one input this processor cannot do."""
        said = self.refuse(one.channel.model_copy(update={"bands": ()}))
        if len(one.bands) > self.input_bands:
            said.append(f"{len(one.bands)} bands are more than the {self.input_bands} it has for an input")
        return said + [words for band in one.bands for words in self._refuse_band(band)]

    def refuse(self, channel: Channel, common: tuple[Band, ...] = ()) -> list[str]:
        """What of one channel this processor cannot do."""
        said = []
        if not self.gain_db.holds(channel.gain_db):
            said.append(_beyond("a gain", channel.gain_db, "dB", self.gain_db))
        if not self.delay_s.holds(channel.delay_s):
            said.append(
                f"a delay of {channel.delay_s * 1e3:.3f} ms is beyond the {self.delay_s.most * 1e3:g} ms it can do"
            )
        for end, words in ((channel.high_pass, "high-pass"), (channel.low_pass, "low-pass")):
            if end and not self.corner_hz.holds(end.corner_hz):
                said.append(_beyond(f"a {words} corner", end.corner_hz, "Hz", self.corner_hz))
            if end and not end.taps and end.slope_db not in self.slopes_of(end.shape):
                said.append(self._no_slope(words, end))
        said += self._refuse_taps(channel)
        count = len(channel.bands) + len(common)
        if count > self.bands:
            said.append(f"{count} bands, the common ones included, are more than the {self.bands} it has")
        return said + [words for band in (*channel.bands, *common) for words in self._refuse_band(band)]

    def _refuse_taps(self, channel: Channel) -> list[str]:
        """What of the taps of one channel this processor cannot do, and what would help."""
        count = channel.tap_count
        if not count:
            return []
        if count > self.taps:
            has = f"the {self.taps} it has" if self.taps else "it has: it knows no FIR filter"
            return [f"{count} taps are more than {has}"]
        if channel.taps is not None and channel.taps.rate != self.rate:
            return [
                f"its taps are for {channel.taps.rate} samples a second, and it runs at {self.rate}: make them anew"
            ]
        said = []
        for end, words in zip(channel.linear_ends, ("high-pass", "low-pass"), strict=True):
            if end is None:
                continue
            off = off_db(end.slope_db, end.corner_hz, end.taps, self.rate, words == "high-pass")
            if off > 2 * OFF_DB:
                said.append(
                    f"{end.taps} taps are too few for a linear-phase {words} of {end.slope_db} dB per octave at "
                    f"{end.corner_hz:g} Hz: {off:.1f} dB off. {self._instead(end)}"
                )
        return said

    def _instead(self, end: Crossover) -> str:
        """What would do in the place of a linear-phase end with too few taps."""
        needed = needed_taps(end.slope_db, end.corner_hz, self.rate)
        if needed <= self.taps:
            return f"It needs about {needed}"
        enough = end.corner_hz * needed / self.taps
        return f"Its {self.taps} taps are enough from about {enough:.0f} Hz up; below, sections are the way"

    def _refuse_band(self, band: Band) -> list[str]:
        said = []
        if not self.band_hz.holds(band.frequency_hz):
            said.append(_beyond("a band", band.frequency_hz, "Hz", self.band_hz))
        if not self.band_gain_db.holds(band.gain_db):
            said.append(_beyond("a band", band.gain_db, "dB", self.band_gain_db))
        if not self.q.holds(band.q):
            said.append(_beyond("a band's Q", band.q, "", self.q))
        return said


def _weight(band: Band) -> float:
    return float("inf") if not band.has_gain else abs(band.gain_db) / band.q


def _beyond(what: str, value: float, unit: str, allowed: Range) -> str:
    return f"{what} of {value:g} {unit} is outside {allowed.least:g} to {allowed.most:g} {unit}".replace("  ", " ")
