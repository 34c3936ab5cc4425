"""Long searches that can be stopped, and say how far they are.

What searches calls `goes_on` now and then; whoever waits runs it within `watched`. Without one that waits, that costs
nothing. Through a context variable, so that solvers need not hand it down through everything that they call.
"""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field

from imbrix.core.errors import StoppedError


@dataclass
class Search:
    """A search that runs: what for, the share that is done, and whether somebody asked it to stop."""

    what: str
    share: float = 0.0
    stopping: threading.Event = field(default_factory=threading.Event)


_RUNS: ContextVar[Search | None] = ContextVar("search", default=None)


@contextmanager
def watched(search: Search) -> Iterator[None]:
    """Let what goes on within be told to a search, in this thread."""
    token = _RUNS.set(search)
    try:
        yield
    finally:
        _RUNS.reset(token)


def goes_on(share: float | None = None) -> None:
    """Say that a search goes on, `share` of it done. Raises StoppedError where somebody asked it to stop."""
    now = _RUNS.get()
    if now is None:
        return
    if now.stopping.is_set():
        raise StoppedError("Stopped: nothing was changed")
    if share is not None:
        now.share = share
