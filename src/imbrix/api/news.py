"""One look-out for all windows: it wakes their sockets when there is something to tell, so that idle ones cost nothing.

What is told changes in threads that know no event loop (the recorder's, those of requests), so it is looked for. One
task does that for all sockets: three hundred that looked by themselves took a third of a core.
"""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Recorder

LOOK_S = 0.01
"""How often it is looked whether there is something to tell."""


class News:
    """Wakes every window that listens when the workspace or the recorder has changed. For one event loop."""

    def __init__(self, space: Workspace, recorder: Recorder) -> None:
        self._space = space
        self._recorder = recorder
        self._windows: set[asyncio.Event] = set()
        self._looking: asyncio.Task[None] | None = None

    @asynccontextmanager
    async def heard_by(self, window: asyncio.Event) -> AsyncIterator[None]:
        """While a window listens: its event is set at each change."""
        self._windows.add(window)
        if self._looking is None or self._looking.done():
            self._looking = asyncio.create_task(self._look(self._state()))
        try:
            yield
        finally:
            self._windows.discard(window)

    async def _look(self, known: tuple[int, int, int]) -> None:
        """Look for what differs from what is known, as long as anyone listens."""
        while self._windows:
            await asyncio.sleep(LOOK_S)
            now = self._state()
            if now != known:
                known = now
                for window in self._windows:
                    window.set()

    def _state(self) -> tuple[int, int, int]:
        heard = self._recorder.growing
        return self._space.version, self._recorder.progress.version, -1 if heard is None else heard.count
