"""The link to the processor: send, read back, compare."""

import logging
from typing import Any

from imbrix.core.errors import ConflictError, RefusedError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.changes import Change, changes
from imbrix.core.tune.edits import Replace, SetNeutral
from imbrix.core.tune.register import OutputRegister, Registers
from imbrix.core.tune.routing import default_sources, input_of, sources
from imbrix.core.tune.tune import Input, Tune
from imbrix.work.ground import documents, processors
from imbrix.work.ground.documents import Document
from imbrix.work.ground.ports import Processor
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import deeds
from imbrix.work.processor.typed import left, rows
from imbrix.work.tune.revisions import Head, commit, head

LOG = logging.getLogger("imbrix.processor")


def registers(tune: Tune, layout: Layout, inputs: int) -> Registers:
    """What each output and each of so many inputs has to be set to; what another's solo silences is muted."""
    outputs = {
        driver.output: OutputRegister(
            channel=tune.channels[driver.id].model_copy(update={"muted": not tune.audible(driver.id)}),
            common=tune.common,
            sources=sources(tune, driver, inputs),
            second=default_sources(driver, 2),
        )
        for driver in layout.drivers
    }
    there = {number: input_of(tune, number) for number in range(1, max(inputs, len(tune.inputs)) + 1)}
    fed = {n: one for n, one in there.items() if n <= inputs or one != Input()}
    return Registers(outputs=outputs, inputs=fed, second=tune.second)


def held(processor: Processor, like: Registers) -> Registers:
    """What a processor holds where other registers would be written."""
    return Registers(
        outputs={output: processor.read(output) for output in like.outputs},
        inputs={number: processor.read_input(number) for number in like.inputs if number <= processor.limits.inputs},
        second=processor.read_second(),
    )


def put_aside(space: Workspace, slug: str) -> Registers:
    """What a project's processor held before a recording that sounds now; nothing where none does."""
    return documents.made(space, "journal", _put_aside).get(slug, Registers(outputs={}))


def _put_aside(found: Document | None) -> dict[str, Registers]:
    if not found or not found.get("project") or found.get("follows"):
        return {}
    return {
        found["project"]: stored(
            Registers, {key: found.get(key) for key in Registers.model_fields}, "what the processor held"
        )
    }


def write_all(processor: Processor, wanted: Registers) -> None:
    """Write registers so that nothing sounds half set: mute, set, and only then let play."""
    for output in wanted.outputs:
        processor.write(output, processor.read(output).with_mute(True))
    for number, one in wanted.inputs.items():
        processor.write_input(number, one)
    if wanted.second is not None:
        processor.write_second(wanted.second)
    for output, register in wanted.outputs.items():
        processor.write(output, register.with_mute(True))
    for output, register in wanted.outputs.items():
        processor.write(output, register)


def write_tune(space: Workspace, slug: str, tune: Tune) -> None:
    """Set a project's processor to a tune."""
    processor = processors.processor(space, slug)
    write_all(processor, registers(tune, space.layout(slug), processor.limits.inputs))


def read_back(space: Workspace, slug: str, like: Tune) -> Tune:
    """The tune that the processor holds, its common bands joined to each channel's own where they differ.

    While it is set to something else for a recording, what it held before and will hold again. Where all of the tune
    was typed in by hand, that is what the device holds, whatever the stand-in does.
    """
    if left(space, slug) == []:
        return _typed(space, slug)
    processor = processors.processor(space, slug)
    aside = put_aside(space, slug)
    found = {
        driver.id: aside.outputs.get(driver.output) or processor.read(driver.output)
        for driver in space.layout(slug).drivers
    }
    numbers = range(1, processor.limits.inputs + 1)
    inputs = [aside.inputs.get(number) or processor.read_input(number) for number in numbers]
    while inputs and inputs[-1] == Input():
        inputs.pop()
    routing = {}
    for driver in space.layout(slug).drivers:
        default = default_sources(driver, processor.limits.inputs)
        heard = found[driver.id].sources
        heard = default if heard is None else heard
        if driver.id in like.routing or heard != default:
            routing[driver.id] = heard
    second = aside.second or processor.read_second()
    fed: dict[str, Any] = {"inputs": tuple(inputs), "routing": routing, "second": second}
    commons = {register.common for register in found.values()}
    if commons == {like.common}:
        channels = {name: register.channel for name, register in found.items()}
        return Tune(channels=channels, common=like.common, **fed)
    channels = {
        name: register.channel.model_copy(update={"bands": (*register.channel.bands, *register.common)})
        for name, register in found.items()
    }
    return Tune(channels=channels, **fed)


def unsent(space: Workspace, slug: str) -> list[Change]:
    """What the present revision says and the processor does not do yet: found by reading it back or, where it is typed
    by hand, what was not ticked off."""
    by_hand = left(space, slug)
    if by_hand is not None:
        return by_hand
    layout = space.layout(slug)
    tune = head(space, slug).tune
    return changes(read_back(space, slug, tune), tune, layout)


def send(space: Workspace, slug: str) -> list[Change]:
    """Send the present revision, read it back, and return what differs afterwards (nothing, when all is well).

    Raises ConflictError while a take runs, where it is typed by hand, or with the processor's words where it refuses.
    """
    if rows(space, slug) is not None:
        raise ConflictError("this processor is typed by hand: tick the settings off under Handover as you type them in")
    with space.idle("a take is being recorded: send when it has ended"):
        _send(space, slug)
        deeds.note(space, slug, "sent", f"Revision {head(space, slug).number} sent to the processor")
    return unsent(space, slug)


def _send(space: Workspace, slug: str) -> None:
    try:
        write_tune(space, slug, head(space, slug).tune)
    except RefusedError as error:
        raise ConflictError(f"the processor refuses: {error}") from None
    finally:
        space.changed()
    LOG.info("%s: sent revision %d", slug, head(space, slug).number)


def mirror(space: Workspace, slug: str) -> None:
    """Let the stand-in do what was typed into the device that it stands for, where that is typed by hand.

    For a caller that holds the device. Raises ConflictError where something is not typed in yet.
    """
    rest = left(space, slug)
    if rest:
        raise ConflictError(f"{len(rest)} settings are not typed in yet: tick them off first")
    if rest is not None:
        _send(space, slug)


def _typed(space: Workspace, slug: str) -> Tune:
    """The present tune as a device holds it: what another's solo silences is muted."""
    tune = head(space, slug).tune
    channels = {name: one.model_copy(update={"muted": not tune.audible(name)}) for name, one in tune.channels.items()}
    return Tune(channels=channels, common=tune.common, inputs=tune.inputs, routing=tune.routing, second=tune.second)


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
