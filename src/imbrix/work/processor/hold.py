"""Holding the processor for a while: what it held before comes back, after a crash at the next start."""

from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager

from imbrix.core.errors import NotHereError
from imbrix.core.tune.controls import Remote
from imbrix.core.tune.register import Registers
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents, places, processors
from imbrix.work.ground.ports import Processor
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.link import held, registers, write_all

TAKING = "taking"
"""The document that says of which channels a take is being made: one that is there at a start was cut off."""


def measuring_through(space: Workspace, slug: str, tune: Tune, follows: bool = False) -> AbstractContextManager[None]:
    """A project's processor set to a tune for a while, with the sound running through it; what it held before comes
    back, after a crash at the next start. Where the processor `follows` what is changed meanwhile, what it does counts
    as what it holds."""
    processor = places.connect(space, slug)
    wanted = registers(processors.playable(space, slug, tune), space.layout(slug), processor.limits.inputs)
    return _held(space, slug, processor, wanted, follows)


def silenced(space: Workspace) -> AbstractContextManager[None]:
    """Every output of the processor that is connected mute for a while; what it held before comes back likewise."""
    slug, processor = processors.in_use(space)
    outputs = range(1, processor.limits.outputs + 1)
    mute = Registers(outputs={output: processor.read(output).with_mute(True) for output in outputs})
    return _held(space, slug, processor, mute)


@contextmanager
def _held(
    space: Workspace, slug: str, processor: Processor, wanted: Registers, follows: bool = False
) -> Iterator[None]:
    before = held(processor, wanted)
    documents.write(space, "journal", {"project": slug, "follows": follows, **before.model_dump(mode="json")})
    remote = processor.remote  # from here on nobody turns it: what is put aside tells that a take runs
    try:
        write_all(processor, wanted)
        # What a customer has turned is in no take; music is heard with it.
        if not follows:
            processor.turn(Remote())
        yield
    finally:
        write_all(processor, before)
        if not follows:
            processor.turn(remote)
        documents.remove(space, "journal")


def _named(space: Workspace, taking: documents.Document) -> str:
    try:
        layout = space.layout(taking["project"])
        return ", ".join(layout.driver(one).name for one in taking["channels"])
    except NotHereError:
        return "a channel that is gone"


def restore_after_crash(space: Workspace) -> bool:
    """Write back what the processor held when a recording was cut off; whether there was anything to do."""
    cut_off = documents.read(space, TAKING)
    if cut_off is not None:
        documents.remove(space, TAKING)
    kept = documents.read(space, "journal")
    if kept is None:
        if cut_off is not None:
            space.notice = (
                f"The server was stopped while a take of {_named(space, cut_off)} was being computed: it was dropped. "
                "Record it once more."
            )
        return False
    slug = kept.get("project", "")
    outputs = kept.get("outputs", kept)  # until version 0.1 there was one processor, and outputs only
    processor = processors.processor(space, slug) if slug else space.processor
    before = {"outputs": outputs, "inputs": kept.get("inputs", {}), "second": kept.get("second")}
    write_all(processor, stored(Registers, before, "what the processor held"))
    documents.remove(space, "journal")
    space.notice = (
        "The server was stopped in the middle of a recording: that take was dropped, "
        "and the processor was put back to what it held before."
    )
    return True
