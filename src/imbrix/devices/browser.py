"""The microphone and the output of a browser window, whose samples come and go over a link.

A window opens them, says what they are, and holds them until it closes: one window at a time. It plays and records in
one loop, so that the frame that is heard counts as the frame that is played; its two clocks may differ all the same,
where microphone and output are two devices, which is what a marker is for.

Frames on the link, both ways: uint32 number of the run, uint32 first frame, then float32 samples, the channels of one
frame beside each other, all little-endian.
"""

import itertools
import json
import queue
import struct
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError, DeviceLostError, GapError
from imbrix.core.signal.signal import FloatArray, Samples
from imbrix.core.value import Value
from imbrix.devices.spread import on_outputs

RATES = (44_100, 48_000, 96_000)
OUTPUTS = 2
MOST_INPUTS = 8
BLOCK = 4096
AHEAD_S = 1.5
"""How far what is to be played runs ahead of what was heard: a window that is busy for so long leaves no gap."""
SILENT_S = 8.0
"""After so many seconds without a sound from the window it is taken for stopped."""
BEHIND_S = 60.0
"""How much of what was heard may wait to be computed."""
HEAD = struct.Struct("<II")

Processing = Literal["echo cancelling", "noise suppression", "automatic gain"]
Lost = Literal["unplugged", "muted", "closed", "taken", "stopped"]
WHY: dict[Lost, str] = {
    "unplugged": "the browser's microphone was unplugged, or taken by another program",
    "muted": "the browser muted its microphone: bring its window to the front, and look at the switches of the "
    "microphone itself",
    "closed": "the window that held the microphone was closed",
    "taken": "another window has opened its microphone",
    "stopped": "the browser stopped its sound: bring its window to the front",
}

Send = Callable[[str | bytes], None]
"""Sends to the window, from any thread, without waiting."""


class Opened(Value):
    """What a window has opened. `processing` is what it could not put off; `latency_s` as it states it itself."""

    label: str = Field(max_length=200)
    output: str = Field(max_length=200)
    rate: int = Field(ge=8000, le=192_000)
    inputs: int = Field(ge=1, le=MOST_INPUTS)
    latency_s: float | None = Field(default=None, ge=0, le=10, allow_inf_nan=False)
    processing: tuple[Processing, ...] = Field(default=(), max_length=3)


class Gap(Value):
    """Frames that are missing: `of` what was recorded or played, from frame `at` on where that is known."""

    of: Literal["recorded", "played"]
    at: int | None = Field(default=None, ge=0, le=2**32)
    frames: int = Field(ge=1, le=2**32)


@dataclass
class _Run:
    """One play of a window: what came back of it, in order."""

    number: int
    came: queue.SimpleQueue[tuple[int, FloatArray] | Gap | Lost | None] = field(default_factory=queue.SimpleQueue)


class Window:
    """An open microphone and output, as the server holds them. What comes over the link is handed to it."""

    def __init__(self, opened: Opened, send: Send) -> None:
        self.opened = opened
        self.send = send
        self.run: _Run | None = None
        self.lost: Lost | None = None

    def heard(self, frame: bytes) -> None:
        """A block of what was recorded. One of an earlier run, or that makes no sense, is passed over."""
        run, inputs = self.run, self.opened.inputs
        if run is None or len(frame) < HEAD.size or (len(frame) - HEAD.size) % (4 * inputs):
            return
        number, first = HEAD.unpack_from(frame)
        if number == run.number:
            samples = np.frombuffer(frame, dtype="<f4", offset=HEAD.size).astype(float).reshape(-1, inputs)
            run.came.put((first, samples))

    def missing(self, number: int, gap: Gap) -> None:
        """The window noticed a gap in a run."""
        if self.run is not None and self.run.number == number:
            self.run.came.put(gap)

    def ended(self, number: int) -> None:
        """The window has sent all of a run, and has nothing more to say of it."""
        if self.run is not None and self.run.number == number:
            self.run.came.put(None)

    def lose(self, why: Lost) -> None:
        """There is nothing more to come."""
        self.lost = self.lost or why
        if self.run is not None:
            self.run.came.put(why)


class BrowserSound:
    """Which window holds its microphone open, if any."""

    def __init__(self) -> None:
        self.window: Window | None = None
        self._numbers = itertools.count(1)
        self._lock = threading.Lock()

    @property
    def opened(self) -> Opened | None:
        """What is open, None where nothing is."""
        return None if self.window is None else self.window.opened

    def open(self, opened: Opened, send: Send) -> Window:
        """A window has opened its microphone; one that held it before has to let go.

        Raises ConflictError while the other one plays.
        """
        with self._lock:
            before = self.window
            if before is not None and before.run is not None:
                raise ConflictError("another window is recording with its microphone: wait until that has ended")
            self.window = Window(opened, send)
        if before is not None:
            before.lose("taken")
            before.send(json.dumps({"kind": "taken"}))
        return self.window

    def close(self, window: Window, why: Lost = "closed") -> None:
        """A window has let go of its microphone."""
        with self._lock:
            if self.window is window:
                self.window = None
        window.lose(why)

    def play_and_record(self, samples: Samples, output: int | None) -> Iterator[FloatArray]:
        """Play samples on one output, on both where it is None, and yield what was heard (m, inputs).

        Raises DeviceLostError.
        """
        window = self.window
        if window is None:
            raise DeviceLostError("no window has its microphone open")
        run = window.run = _Run(next(self._numbers))
        try:
            yield from _played(window, run, samples, output)
        finally:
            window.run = None
            window.send(json.dumps({"kind": "stop", "run": run.number}))


def _played(window: Window, run: _Run, samples: Samples, output: int | None) -> Iterator[FloatArray]:
    rate, total = window.opened.rate, samples.size
    window.send(json.dumps({"kind": "begin", "run": run.number, "frames": total}))
    sent = count = 0
    while count < total:
        while sent < min(total, count + AHEAD_S * rate):
            frames = on_outputs(samples[sent : sent + BLOCK], OUTPUTS, output)
            window.send(HEAD.pack(run.number, sent % 2**32) + frames.tobytes())
            sent += frames.shape[0]
        came = _next(window, run)
        if came is None:
            raise DeviceLostError("the browser ended the recording before all was played")
        first, heard = came
        if first != count % 2**32:
            raise GapError(_gap(Gap(of="recorded", at=count, frames=(first - count) % 2**32 or 1), rate))
        if run.came.qsize() * heard.shape[0] > BEHIND_S * rate:
            raise DeviceLostError("the computer was too slow for what the browser recorded")
        heard = heard[: total - count]
        count += heard.shape[0]
        yield heard
    while _next(window, run) is not None:  # a gap may be known only when all has come
        pass


def _next(window: Window, run: _Run) -> tuple[int, FloatArray] | None:
    """What came next, None at the end. Raises DeviceLostError for what is missing."""
    if window.lost is not None:
        raise DeviceLostError(WHY[window.lost])
    try:
        came = run.came.get(timeout=SILENT_S)
    except queue.Empty:
        raise DeviceLostError(WHY["stopped"]) from None
    if isinstance(came, Gap):
        raise GapError(_gap(came, window.opened.rate))
    if isinstance(came, str):
        raise DeviceLostError(WHY[came])
    return came


def _gap(gap: Gap, rate: int) -> str:
    """What is said of a gap."""
    where = "" if gap.at is None else f" at {gap.at / rate:.2f} s"
    return (
        f"the browser lost {max(gap.frames / rate * 1000, 0.1):.1f} ms of what it {gap.of}{where}: "
        "close what keeps the computer busy, and keep the window in front"
    )


class BrowserDevice:
    """A window's microphone and output as a device at one rate; `output` as in `BrowserSound.play_and_record`."""

    def __init__(self, sound: BrowserSound, rate: int, inputs: int, output: int | None = None) -> None:
        self.sound = sound
        self.rate = rate
        self.output = output
        self.inputs = tuple(f"Input {n + 1}" for n in range(inputs))

    def play_and_record(
        self,
        samples: Samples,
        place: tuple[float, float] = (0.0, 0.0),
        moving: bool = False,
        inputs: tuple[int, ...] = (0, 1),
        block: int = BLOCK,
    ) -> Iterator[FloatArray]:
        """Play (n,) samples and yield recorded blocks (m, inputs) as the window sends them; sums to n rows.

        Raises DeviceLostError.
        """
        del place, moving, inputs, block  # where the microphone is, the person sees to; the window chooses its blocks
        yield from self.sound.play_and_record(samples, self.output)
