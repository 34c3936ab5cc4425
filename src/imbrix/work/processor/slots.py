"""The processor's slots: tunes that outlive its power."""

from collections.abc import Iterator
from contextlib import contextmanager

from imbrix.core.errors import ConflictError, RefusedError
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace


def store(space: Workspace, slug: str, slot: int, name: str) -> None:
    """Keep what the processor runs in one of its slots. Raises ConflictError."""
    with _still(space, "a take is being recorded: store a slot when it has ended"):
        processors.processor(space, slug).store(slot, name)


def recall(space: Workspace, slug: str, slot: int) -> None:
    """Let the processor load a slot. Raises ConflictError."""
    with _still(space, "a take is being recorded: load a slot when it has ended"):
        processors.processor(space, slug).recall(slot)


@contextmanager
def _still(space: Workspace, says: str) -> Iterator[None]:
    """While nothing is recorded: a take holds the processor muted and guarded, which belongs in no slot."""
    with space.idle(says):
        try:
            yield
        except RefusedError as error:
            raise ConflictError(f"the processor refuses: {error}") from None
        finally:
            space.changed()
