"""The FIR taps of a channel as a file."""

from imbrix.core.errors import ConflictError
from imbrix.core.tune.lower import lower
from imbrix.formats.taps import TapsKind, write_taps
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import head


def taps_file(space: Workspace, slug: str, channel: str, kind: TapsKind) -> bytes:
    """All taps of a channel of the present revision, as the processor runs them: of linear-phase ends and of its own.

    Raises NotHereError, and ConflictError where it has none.
    """
    driver = space.layout(slug).driver(channel)
    tune, rate = head(space, slug).tune, processors.model(space, slug).rate
    one = tune.channels[driver.id]
    runs = lower(one, tune.common, rate)
    if not runs.taps.size:
        raise ConflictError(f"{driver.name} has no FIR taps")
    return write_taps(kind, runs.taps, rate, one.tap_delay, runs.factor, runs.delay, driver.name)
