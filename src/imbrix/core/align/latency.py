"""How long a signal takes through the processor: what that needs itself, the delays, and the filters."""

from collections.abc import Iterable
from typing import Literal

import numpy as np

from imbrix.core.predict.predict import Predictor
from imbrix.core.tune.tune import Tune
from imbrix.core.value import Value

Budget = Literal["none", "performer", "processor"]
"""What a chain may take: anything in a car; 5 ms where a performer hears himself; 1 ms of the processor itself (common
practice, no source)."""
BUDGET_S: dict[Budget, float] = {"performer": 5e-3, "processor": 1e-3}
LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0


class Latency(Value):
    """What a channel takes, in seconds: the processor itself, the delay that is set, the filters in its band."""

    channel: str
    processor_s: float
    delay_s: float
    filters_s: float

    @property
    def total_s(self) -> float:
        return self.processor_s + self.delay_s + self.filters_s


def latencies(predictor: Predictor, tune: Tune, names: Iterable[str], processor_s: float) -> list[Latency]:
    """What each channel takes."""
    return [
        Latency(
            channel=name,
            processor_s=processor_s,
            delay_s=tune.channels[name].delay_s,
            filters_s=group_delay(predictor, tune, name),
        )
        for name in names
    ]


def group_delay(predictor: Predictor, tune: Tune, name: str) -> float:
    """By how many seconds a channel's filters delay the middle of its band.

    The group delay: the slope of the phase against angular frequency, its sign turned.
    """
    channel = tune.channels[name]
    low = channel.high_pass.corner_hz if channel.high_pass else LOWEST_HZ
    high = channel.low_pass.corner_hz if channel.low_pass else HIGHEST_HZ
    still = channel.model_copy(update={"delay_s": 0.0})
    phase = np.unwrap(np.angle(predictor.channel(still, tune.common)))
    slope = -np.gradient(phase, 2 * np.pi * predictor.frequencies)
    return float(np.interp(np.sqrt(low * max(high, low)), predictor.frequencies, slope))


def over(found: list[Latency], budget: Budget) -> list[Latency]:
    """The channels that take longer than a budget allows."""
    if budget == "none":
        return []
    if budget == "processor":
        return [one for one in found if one.processor_s > BUDGET_S[budget]]
    return [one for one in found if one.total_s > BUDGET_S[budget]]
