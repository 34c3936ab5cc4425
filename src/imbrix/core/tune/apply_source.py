"""Edits of what comes in applied to a tune: inputs, which of them a channel hears, the second source."""

from imbrix.core.system.layout import Layout
from imbrix.core.tune.edits import SetInput, SetSecond, SetSources
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.routing import input_of, routed, shared, trimmed
from imbrix.core.tune.tune import Tune


def set_input(tune: Tune, edit: SetInput, layout: Layout, limits: Limits | None) -> Tune:
    """Set an input. The routing is written down with it: from now on it matters which input a channel hears."""
    inputs = [input_of(tune, number) for number in range(1, max(edit.input, len(tune.inputs)) + 1)]
    values = edit.model_dump(exclude={"do", "input", "bands"}, exclude_none=True)
    if edit.bands is not None:
        values["bands"] = edit.bands
    inputs[edit.input - 1] = inputs[edit.input - 1].model_copy(update=values)
    there = limits.inputs if limits else 2
    return routed(tune, layout, there).model_copy(update={"inputs": tuple(inputs)})


def set_sources(tune: Tune, edit: SetSources, layout: Layout) -> Tune:
    """Set which inputs a channel hears. Raises NotHereError."""
    layout.driver(edit.channel)
    routing = {name: factors for name, factors in tune.routing.items() if name != edit.channel}
    factors = shared(edit.inputs) if edit.inputs is not None else edit.factors
    if factors is not None:
        routing[edit.channel] = trimmed(factors)
    return tune.model_copy(update={"routing": routing})


def set_second(tune: Tune, edit: SetSecond, limits: Limits | None) -> Tune:
    """Set the second source."""
    second = tune.second.model_copy(update=edit.model_dump(exclude={"do"}, exclude_none=True))
    return tune.model_copy(update={"second": limits.settle_second(second) if limits else second})
