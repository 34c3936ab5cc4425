"""A window with its microphone open, without a browser: it plays into the stand-in's cabin and hears there."""

import json
import threading
import time
from collections.abc import Callable

import numpy as np

from imbrix.core.signal.signal import FloatArray
from imbrix.devices.browser import HEAD, BrowserSound, Gap, Lost, Opened, Window
from imbrix.standins.interface import StandinInterface
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import change, devices

BLOCK = 2048


class Queued:
    """What a run plays, as far as it has come; who asks for more waits."""

    def __init__(self, size: int) -> None:
        self.size = size
        self._samples = np.zeros((size, 2))
        self._there = 0
        self._over = False
        self._more = threading.Condition()

    def put(self, frames: FloatArray) -> None:
        with self._more:
            self._samples[self._there : self._there + len(frames)] = frames
            self._there += len(frames)
            self._more.notify_all()

    def stop(self) -> None:
        """Nothing more will come: who waits gets silence."""
        with self._more:
            self._over = True
            self._more.notify_all()

    def __getitem__(self, piece: slice) -> FloatArray:
        last = piece.indices(self.size)[1]
        with self._more:
            assert self._more.wait_for(lambda: self._over or self._there >= last, 20), "the server sent nothing more"
            both = self._samples[piece]
        # What is the same on both outputs goes to all inputs of the processor alike.
        return both if (both[:, 0] != both[:, 1]).any() else both[:, 0]


class PretendedWindow:
    """Takes part in a run as a window does, one block at a time, no faster than it is listened to.

    `change` may do something to a block of a run before it is sent: give another first frame, other samples, a gap or
    a loss in its place; nothing at all where it gives None.
    """

    def __init__(
        self,
        sound: BrowserSound,
        plays_in: StandinInterface | None = None,
        change: Callable[[int, FloatArray], tuple[int, FloatArray] | Gap | Lost | None] = lambda *both: both,
        **opened: object,
    ) -> None:
        self.plays_in = plays_in
        self.change = change
        self.said: list[dict[str, object]] = []
        self.opened = Opened(**{"label": "Tabletop", "output": "", "rate": 48_000, "inputs": 1, **opened})
        self.window: Window = sound.open(self.opened, self.take)
        self._queued: Queued | None = None
        self._run = 0

    def take(self, message: str | bytes) -> None:
        """What the server sends."""
        if isinstance(message, bytes):
            assert self._queued is not None
            self._queued.put(np.frombuffer(message, "<f4", offset=HEAD.size).reshape(-1, 2).astype(float))
            return
        told = json.loads(message)
        self.said.append(told)
        if told["kind"] == "stop" and self._queued is not None:
            self._queued.stop()
        if told["kind"] == "begin":
            self._queued, self._run = Queued(told["frames"]), told["run"]
            threading.Thread(target=self._sound, args=(self._queued, self._run), daemon=True).start()

    def _sound(self, queued: Queued, number: int) -> None:
        first = 0
        for heard in self._heard(queued):
            while (run := self.window.run) is not None and run.came.qsize() > 1:
                time.sleep(0.0005)
            if run is None or run.number != number:
                return
            sends = self.change(first, heard)
            first += heard.shape[0]
            if isinstance(sends, Gap):
                self.window.missing(number, sends)
            elif isinstance(sends, str):
                self.window.lose(sends)
            elif sends is not None:
                self.window.heard(HEAD.pack(number, sends[0]) + sends[1].astype("<f4").tobytes())
        self.window.ended(number)

    def _heard(self, queued: Queued):
        inputs = self.opened.inputs
        if self.plays_in is not None:
            for block in self.plays_in.play_and_record(queued, block=BLOCK):
                yield block[:, :inputs]
            return
        for first in range(0, queued.size, BLOCK):
            block = queued[first : first + BLOCK]
            yield np.repeat((block if block.ndim == 1 else block[:, 0])[:, None], inputs, axis=1)


def open_window(space: Workspace, **values: object) -> PretendedWindow:
    """A window in the place that the stand-in stands in, chosen as the rig's device."""
    window = PretendedWindow(space.browser, space.standin, **values)
    devices.open_browser(space)
    change.change(space, {"device": "browser"})
    return window
