"""The link to the processor: send, read back, compare."""

import logging

from imbrix.core.errors import ConflictError, RefusedError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.changes import Change, changes
from imbrix.core.tune.edits import SetNeutral
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import Head, commit, head

LOG = logging.getLogger("imbrix.processor")


def registers(tune: Tune, layout: Layout) -> dict[int, OutputRegister]:
    """What each output has to be set to for a tune; a channel silenced by another's solo is muted."""
    return {
        driver.output: OutputRegister(
            channel=tune.channels[driver.id].model_copy(update={"muted": not tune.audible(driver.id)}),
            common=tune.common,
        )
        for driver in layout.drivers
    }


def write_all(space: Workspace, wanted: dict[int, OutputRegister]) -> None:
    """Write registers so that nothing sounds half set: mute, set, and only then let play."""
    for output in wanted:
        now = space.processor.read(output)
        space.processor.write(output, now.with_mute(True))
    for output, register in wanted.items():
        space.processor.write(output, register.with_mute(True))
    for output, register in wanted.items():
        space.processor.write(output, register)


def read_back(space: Workspace, layout: Layout, like: Tune) -> Tune:
    """The tune that the processor holds, its common bands joined to each channel's own where they differ."""
    found = {driver.id: space.processor.read(driver.output) for driver in layout.drivers}
    commons = {register.common for register in found.values()}
    if commons == {like.common}:
        channels = {name: register.channel for name, register in found.items()}
        return Tune(channels=channels, common=like.common)
    channels = {
        name: register.channel.model_copy(update={"bands": (*register.channel.bands, *register.common)})
        for name, register in found.items()
    }
    return Tune(channels=channels)


def unsent(space: Workspace, slug: str) -> list[Change]:
    """What the present revision says and the processor does not do yet, found by reading it back."""
    layout = space.layout(slug)
    tune = head(space, slug).tune
    return changes(read_back(space, layout, tune), tune, layout)


def send(space: Workspace, slug: str) -> list[Change]:
    """Send the present revision, read it back, and return what differs afterwards (nothing, when all is well).

    Raises ConflictError while a take runs, or with the processor's words where it refuses.
    """
    with space.idle("a take is being recorded: send when it has ended"):
        _send(space, slug)
    return unsent(space, slug)


def _send(space: Workspace, slug: str) -> None:
    try:
        write_all(space, registers(head(space, slug).tune, space.layout(slug)))
    except RefusedError as error:
        raise ConflictError(f"the processor refuses: {error}") from None
    finally:
        space.changed()
    LOG.info("%s: sent revision %d", slug, head(space, slug).number)


def make_neutral(space: Workspace, slug: str) -> Head:
    """Make the tune neutral and safe, send it, and silence every output: all of it or, while a take runs, nothing.

    Raises ConflictError.
    """
    with space.idle("a take is being recorded: make the processor neutral when it has ended"):
        made = commit(space, slug, [SetNeutral()], "Neutral and safe")
        _send(space, slug)
        for driver in space.layout(slug).drivers:
            space.processor.write(driver.output, space.processor.read(driver.output).with_mute(True))
        space.changed()
    return made
