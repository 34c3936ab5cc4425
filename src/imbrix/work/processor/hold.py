"""Holding the processor for a while: what it held before comes back, after a crash at the next start."""

from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager

from imbrix.core.system.layout import Layout
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.link import registers, write_all


def measuring_through(space: Workspace, layout: Layout, tune: Tune) -> AbstractContextManager[None]:
    """The processor set to a tune for a while; what it held before comes back, after a crash at the next start."""
    return _held(space, registers(tune, layout))


def silenced(space: Workspace) -> AbstractContextManager[None]:
    """Every output of the processor mute for a while; what it held before comes back likewise."""
    outputs = range(1, space.processor.limits.outputs + 1)
    return _held(space, {output: space.processor.read(output).with_mute(True) for output in outputs})


@contextmanager
def _held(space: Workspace, wanted: dict[int, OutputRegister]) -> Iterator[None]:
    before = {output: space.processor.read(output) for output in wanted}
    kept = {str(output): register.model_dump(mode="json") for output, register in before.items()}
    documents.write(space, "journal", kept)
    try:
        write_all(space, wanted)
        yield
    finally:
        write_all(space, before)
        documents.remove(space, "journal")


def restore_after_crash(space: Workspace) -> bool:
    """Write back what the processor held when a recording was cut off; whether there was anything to do."""
    kept = documents.read(space, "journal")
    if kept is None:
        return False
    write_all(space, {int(output): OutputRegister.model_validate(value) for output, value in kept.items()})
    documents.remove(space, "journal")
    space.notice = (
        "The server was stopped in the middle of a recording: that take was dropped, "
        "and the processor was put back to what it held before."
    )
    return True
