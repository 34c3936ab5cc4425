"""The link to the processor: send, read back, compare."""

import logging

from imbrix.core.errors import ConflictError, RefusedError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.changes import Change, changes
from imbrix.core.tune.edits import Replace, SetNeutral
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.ports import Processor
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


def write_all(processor: Processor, wanted: dict[int, OutputRegister]) -> None:
    """Write registers so that nothing sounds half set: mute, set, and only then let play."""
    for output in wanted:
        processor.write(output, processor.read(output).with_mute(True))
    for output, register in wanted.items():
        processor.write(output, register.with_mute(True))
    for output, register in wanted.items():
        processor.write(output, register)


def read_back(space: Workspace, slug: str, like: Tune) -> Tune:
    """The tune that the processor holds, its common bands joined to each channel's own where they differ."""
    processor = processors.processor(space, slug)
    found = {driver.id: processor.read(driver.output) for driver in space.layout(slug).drivers}
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
    return changes(read_back(space, slug, tune), tune, layout)


def send(space: Workspace, slug: str) -> list[Change]:
    """Send the present revision, read it back, and return what differs afterwards (nothing, when all is well).

    Raises ConflictError while a take runs, or with the processor's words where it refuses.
    """
    with space.idle("a take is being recorded: send when it has ended"):
        _send(space, slug)
    return unsent(space, slug)


def _send(space: Workspace, slug: str) -> None:
    try:
        write_all(processors.processor(space, slug), registers(head(space, slug).tune, space.layout(slug)))
    except RefusedError as error:
        raise ConflictError(f"the processor refuses: {error}") from None
    finally:
        space.changed()
    LOG.info("%s: sent revision %d", slug, head(space, slug).number)


def make_fit(space: Workspace, slug: str) -> Head:
    """Make the tune the nearest that the processor can do, as one revision. Raises ConflictError where it fits."""
    present = head(space, slug)
    model = processors.model(space, slug)
    misfits = model.refusals(present.tune, space.layout(slug))
    if not misfits:
        raise ConflictError("the tune fits the processor as it is")
    summary = f"Made to fit {model.name}: {len(misfits)} settings"
    return commit(space, slug, [Replace(tune=model.fitted(present.tune))], summary, present.id)


def make_neutral(space: Workspace, slug: str) -> Head:
    """Make the tune neutral and safe, send it, and silence every output: all of it or, while a take runs, nothing.

    Raises ConflictError.
    """
    with space.idle("a take is being recorded: make the processor neutral when it has ended"):
        made = commit(space, slug, [SetNeutral()], "Neutral and safe")
        _send(space, slug)
        processor = processors.processor(space, slug)
        for driver in space.layout(slug).drivers:
            processor.write(driver.output, processor.read(driver.output).with_mute(True))
        space.changed()
    return made
