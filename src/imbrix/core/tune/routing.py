"""Which inputs of the processor each channel hears, and how much of each.

Until a person says otherwise that follows from the system: left hears the left input, right the right one, and what is
mono both at half, so that a signal on both keeps its level. What the measuring signal is played into reaches all
inputs alike.
"""

import math
from collections.abc import Iterable

from imbrix.core.system.layout import Driver, Layout
from imbrix.core.tune.tune import Input, Tune

Sources = tuple[float, ...]
"""Factors by which the inputs, in their order, are added up; those left out are not heard."""


def default_sources(driver: Driver, inputs: int) -> Sources:
    """What a channel hears where nothing else is said, on a processor with so many inputs."""
    if inputs < 2:
        return (1.0,)
    return {"left": (1.0,), "right": (0.0, 1.0), "both": (0.5, 0.5)}[driver.side]


def sources(tune: Tune, driver: Driver, inputs: int) -> Sources:
    """What a channel hears."""
    return trimmed(tune.routing.get(driver.id, default_sources(driver, inputs)))


def trimmed(factors: Sources) -> Sources:
    """The same without the inputs at the end that are not heard."""
    heard = [n for n, factor in enumerate(factors) if factor]
    return tuple(float(factor) for factor in factors[: heard[-1] + 1]) if heard else ()


def shared(numbers: Iterable[int]) -> Sources:
    """Several inputs (from 1) in equal parts, so that a signal on all of them keeps its level.

    >>> shared([1, 3])
    (0.5, 0.0, 0.5)
    """
    heard = set(numbers)
    return tuple(1 / len(heard) if n in heard else 0.0 for n in range(1, max(heard, default=0) + 1))


def routed(tune: Tune, layout: Layout, inputs: int) -> Tune:
    """The tune with the routing of every channel written down."""
    routing = {driver.id: sources(tune, driver, inputs) for driver in layout.drivers}
    return tune.model_copy(update={"routing": routing})


def input_of(tune: Tune, number: int) -> Input:
    """What an input (from 1) does; one that was never set does nothing."""
    return tune.inputs[number - 1] if number <= len(tune.inputs) else Input()


def words(factors: Sources) -> str:
    """`input 1`, `inputs 1 and 2, -6.0 dB each`, `input 1 at +3.0 dB, inverted and input 3`."""
    heard = [(n, factor) for n, factor in enumerate(factors, 1) if factor]
    if not heard:
        return "nothing"
    if len(heard) > 1 and len({factor for _, factor in heard}) == 1:
        numbers = " and ".join(str(n) for n, _ in heard)
        level = level_words(heard[0][1])
        return f"inputs {numbers}" + (f",{level} each" if level else "")
    return " and ".join(f"input {n}" + (f" at{level}" if (level := level_words(factor)) else "") for n, factor in heard)


def level_words(factor: float) -> str:
    """` -6.0 dB`, ` +0.0 dB, inverted`; empty for a factor of one."""
    if factor == 1:
        return ""
    level = f" {20 * math.log10(abs(factor)):+.1f} dB"
    return level + (", inverted" if factor < 0 else "")
