"""The tune as coefficients for processors that are given them, in fixed point where asked for, and what that costs."""

from collections.abc import Iterator

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.tune.fixed_point import Format, error_db, rounded
from imbrix.core.tune.lower import lower
from imbrix.core.tune.routing import input_of
from imbrix.core.tune.tune import Input, Tune
from imbrix.core.value import Value
from imbrix.formats.coefficients import Coefficients, Convention, Kind, written
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import head


class Effect(Value):
    """What rounding does to an output: the largest error in dB and where, the largest shift, or why it cannot be."""

    channel: str
    worst_db: float
    worst_hz: float
    shift: int
    refused: str = ""


def _lowered(space: Workspace, slug: str, tune: Tune) -> Iterator[Coefficients]:
    layout, model = space.layout(slug), processors.model(space, slug)
    for driver in layout.drivers:
        made = lower(tune.channels[driver.id], tune.common, model.rate)
        yield Coefficients(driver.name, driver.output, "output", made.factor, made.delay, made.sos)
    for number in range(1, model.inputs + 1):
        one = input_of(tune, number)
        if one != Input():
            made = lower(one.channel, (), model.rate)
            yield Coefficients(f"Input {number}", number, "input", made.factor, made.delay, made.sos)


def file(space: Workspace, slug: str, kind: Kind, convention: Convention, fixed: Format | None) -> str:
    """The present revision as a file of coefficients. Raises InvalidError where they do not fit the format."""
    now = head(space, slug)
    channels = []
    for one in _lowered(space, slug, now.tune):
        words = None
        if fixed is not None:
            try:
                words = rounded(one.sos, fixed)
            except InvalidError as error:
                raise InvalidError(f"{one.name}: {error}") from None
        channels.append(Coefficients(one.name, one.number, one.of, one.factor, one.delay_samples, one.sos, words))
    rate = processors.model(space, slug).rate
    return written(kind, f"{slug}, revision {now.number}", rate, convention, channels)


def effects(space: Workspace, slug: str, fixed: Format) -> list[Effect]:
    """What rounding does to each output, from 20 Hz to 20 kHz."""
    tune, layout, model = head(space, slug).tune, space.layout(slug), processors.model(space, slug)
    found = []
    for driver in layout.drivers:
        made = lower(tune.channels[driver.id], tune.common, model.rate)
        try:
            words = rounded(made.sos, fixed)
        except InvalidError as error:
            found.append(Effect(channel=driver.id, worst_db=0.0, worst_hz=0.0, shift=0, refused=str(error)))
            continue
        away = np.abs(error_db(made.sos, words, space.grid, model.rate))
        at = int(np.argmax(away))
        shift = int(words.shifts.max(initial=0))
        found.append(Effect(channel=driver.id, worst_db=float(away[at]), worst_hz=float(space.grid[at]), shift=shift))
    return found
