"""What a processor can do: ranges and steps that settings are settled to, and refusals in words."""

from imbrix.core.system.layout import Layout
from imbrix.core.tune.tune import Band, Channel, Crossover, Tune
from imbrix.core.value import Value


class Range(Value):
    """A closed range with the step in which the processor keeps the value (0: as it comes)."""

    least: float
    most: float
    step: float = 0.0

    def settle(self, value: float) -> float:
        """The value that the processor would keep: within the range, on its step."""
        if self.step:
            value = round(round(value / self.step) * self.step, 9)
        return min(max(value, self.least), self.most)

    def holds(self, value: float) -> bool:
        return self.least - 1e-9 <= value <= self.most + 1e-9


class Limits(Value):
    """Limits of one processor."""

    outputs: int
    rate: int
    slots: int
    bands: int
    slope_db: int
    gain_db: Range
    delay_s: Range
    corner_hz: Range
    band_hz: Range
    band_gain_db: Range
    q: Range

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

    def refusals(self, tune: Tune, layout: Layout) -> list[str]:
        """What of a tune this processor cannot do, each with what and why."""
        said = []
        for driver in layout.drivers:
            if driver.output > self.outputs:
                said.append(f"{driver.name} is on output {driver.output}, but there are only {self.outputs} outputs")
            said += [f"{driver.name}: {one}" for one in self.refuse(tune.channels[driver.id], tune.common)]
        return said

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
            if end and end.slope_db > self.slope_db:
                said.append(f"a {words} of {end.slope_db} dB per octave is beyond its {self.slope_db}")
        count = len(channel.bands) + len(common)
        if count > self.bands:
            said.append(f"{count} bands, the common ones included, are more than the {self.bands} it has")
        for band in (*channel.bands, *common):
            if not self.band_hz.holds(band.frequency_hz):
                said.append(_beyond("a band", band.frequency_hz, "Hz", self.band_hz))
            if not self.band_gain_db.holds(band.gain_db):
                said.append(_beyond("a band", band.gain_db, "dB", self.band_gain_db))
            if not self.q.holds(band.q):
                said.append(_beyond("a band's Q", band.q, "", self.q))
        return said


def _beyond(what: str, value: float, unit: str, allowed: Range) -> str:
    return f"{what} of {value:g} {unit} is outside {allowed.least:g} to {allowed.most:g} {unit}".replace("  ", " ")
