"""The one long search that runs at a time: begun, looked at, stopped by whoever is tired of it."""

import time
from collections.abc import Iterator
from contextlib import contextmanager

from imbrix.core.errors import ConflictError
from imbrix.core.patience import Search, watched
from imbrix.work.ground.workspace import Workspace

ENDS_S = 20.0
"""So long at most a search that was stopped is waited for."""


@contextmanager
def searching(space: Workspace, slug: str, what: str) -> Iterator[None]:
    """While a search takes a core, and for thousands of taps some 0.3 GB. Raises ConflictError where one runs that
    nobody stops."""
    mine = Search(what)
    deadline = time.monotonic() + ENDS_S
    while True:
        with space.lock:
            now = space.search
            if now is None:
                space.search = slug, mine
                break
        if not now[1].stopping.is_set() or time.monotonic() > deadline:
            raise ConflictError(f"a search runs already ({now[1].what}): stop it, or wait for it")
        time.sleep(0.01)
    try:
        with watched(mine):
            yield
    finally:
        space.search = None


def search_of(space: Workspace, slug: str) -> Search | None:
    """What is searched for a project now."""
    space.layout(slug)
    now = space.search
    return now[1] if now is not None and now[0] == slug else None


def stop(space: Workspace, slug: str) -> None:
    """Ask the search of a project to end without a result; nothing where there is none."""
    now = search_of(space, slug)
    if now is not None:
        now.stopping.set()
