"""Holding the processor for a while: what it held before comes back, after a crash at the next start."""

from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager

from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents, places, processors
from imbrix.work.ground.ports import Processor
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.link import registers, write_all


def measuring_through(space: Workspace, slug: str, tune: Tune) -> AbstractContextManager[None]:
    """A project's processor set to a tune for a while, with the sound running through it; what it held before comes
    back, after a crash at the next start."""
    processor = places.connect(space, slug)
    return _held(space, slug, processor, registers(processors.playable(space, slug, tune), space.layout(slug)))


def silenced(space: Workspace) -> AbstractContextManager[None]:
    """Every output of the processor that is connected mute for a while; what it held before comes back likewise."""
    slug, processor = processors.in_use(space)
    outputs = range(1, processor.limits.outputs + 1)
    return _held(space, slug, processor, {output: processor.read(output).with_mute(True) for output in outputs})


@contextmanager
def _held(space: Workspace, slug: str, processor: Processor, wanted: dict[int, OutputRegister]) -> Iterator[None]:
    before = {output: processor.read(output) for output in wanted}
    kept = {str(output): register.model_dump(mode="json") for output, register in before.items()}
    documents.write(space, "journal", {"project": slug, "outputs": kept})
    try:
        write_all(processor, wanted)
        yield
    finally:
        write_all(processor, before)
        documents.remove(space, "journal")


def restore_after_crash(space: Workspace) -> bool:
    """Write back what the processor held when a recording was cut off; whether there was anything to do."""
    kept = documents.read(space, "journal")
    if kept is None:
        return False
    slug = kept.get("project", "")
    outputs = kept.get("outputs", kept)  # until version 0.1 there was one processor, and outputs only
    processor = processors.processor(space, slug) if slug else space.processor
    write_all(processor, {int(output): OutputRegister.model_validate(value) for output, value in outputs.items()})
    documents.remove(space, "journal")
    space.notice = (
        "The server was stopped in the middle of a recording: that take was dropped, "
        "and the processor was put back to what it held before."
    )
    return True
