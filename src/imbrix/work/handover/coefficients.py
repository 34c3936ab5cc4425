"""The tune as coefficients for processors that are given them, in fixed point where asked for, and what that costs."""

from dataclasses import replace

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.tune.fixed_point import Format, error_db, rounded
from imbrix.core.tune.lower import lower
from imbrix.core.value import Value
from imbrix.formats.coefficients import Convention, Kind, lowered, written
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


def file(space: Workspace, slug: str, kind: Kind, convention: Convention, fixed: Format | None) -> str:
    """The present revision as a file of coefficients. Raises InvalidError where they do not fit the format."""
    now, model = head(space, slug), processors.model(space, slug)
    channels = []
    for one in lowered(now.tune, space.layout(slug), model.inputs, model.rate):
        if one.plain:
            continue
        words = None
        if fixed is not None:
            try:
                words = rounded(one.sos, fixed)
            except InvalidError as error:
                raise InvalidError(f"{one.name}: {error}") from None
        channels.append(replace(one, rounded=words))
    return written(kind, f"{slug}, revision {now.number}", model.rate, convention, channels)


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
