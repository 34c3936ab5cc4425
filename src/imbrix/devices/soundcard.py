"""Real sound cards through the optional package sounddevice (PortAudio).

Where the package, the library or any device is missing, that is a stated condition.
"""

import queue
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from imbrix.core.errors import DeviceLostError, GapError
from imbrix.core.signal.signal import FloatArray, Samples
from imbrix.devices.spread import on_outputs

BLOCK = 1024
LATENCY_S = 0.15
"""How much a card is asked to keep at hand."""
AHEAD_S = 1.0
"""How far what is to be played is made ahead of what was heard."""
SILENT_S = 5.0
"""After so many seconds without a block a card is taken for stopped."""
LEAD_IN = 24
"""So many blocks of silence come before the first that counts."""
RATES = (44_100, 48_000, 88_200, 96_000, 176_400, 192_000)


@dataclass(frozen=True, slots=True)
class Card:
    """A pair of devices that can play and record at once."""

    name: str
    inputs: int
    outputs: int
    rates: tuple[int, ...]


def library() -> tuple[Any | None, str]:
    """The package, or None and why it cannot be used."""
    try:
        import sounddevice
    except ImportError:
        return None, "the package sounddevice is not installed (`make soundcard` installs it)"
    except OSError as error:
        return None, f"PortAudio is not on this machine ({error})"
    return sounddevice, ""


def cards() -> tuple[list[Card], str]:
    """The cards with inputs and outputs, and what stands in the way where there are none."""
    sound, why = library()
    if sound is None:
        return [], why
    try:
        devices = list(sound.query_devices())
    except Exception as error:
        return [], f"the sound system does not answer ({error})"
    found = []
    for one in devices:
        if one["max_input_channels"] < 1 or one["max_output_channels"] < 1:
            continue
        rates = tuple(rate for rate in RATES if _runs_at(sound, one["name"], rate))
        found.append(Card(one["name"], one["max_input_channels"], one["max_output_channels"], rates))
    return found, "" if found else "no device with both an input and an output was found"


def _runs_at(sound: Any, name: str, rate: int) -> bool:
    try:
        sound.check_input_settings(device=name, samplerate=rate)
        sound.check_output_settings(device=name, samplerate=rate)
    except Exception:  # PortAudio's own error, or that the device was just taken away
        return False
    return True


class SoundCard:
    """One card at one rate. `output` is the one that plays, counted from 0; None plays on all of them alike."""

    def __init__(self, card: Card, rate: int, output: int | None = None) -> None:
        self.card = card
        self.rate = rate
        self.output = output
        self.latency_s: float | None = None
        """Of playing and recording together, as PortAudio states it, once it has run."""
        self.inputs = tuple(f"Input {n + 1}" for n in range(card.inputs))

    def play_and_record(
        self,
        samples: Samples,
        place: tuple[float, float] = (0.0, 0.0),
        moving: bool = False,
        inputs: tuple[int, ...] = (0, 1),
        block: int = BLOCK,
    ) -> Iterator[FloatArray]:
        """Play (n,) samples on the chosen output and yield recorded blocks (m, inputs); sums to n rows.

        Raises DeviceLostError.
        """
        del place, moving, inputs  # where the microphone is, the person sees to; all inputs are there anyway
        sound, why = library()
        if sound is None:
            raise DeviceLostError(why)
        del block  # the card is given its own: small ones would have gaps on a busy machine
        loop = _Loop(samples.size)
        of_both = {"samplerate": self.rate, "device": self.card.name, "blocksize": BLOCK, "dtype": "float32"}
        of_both["latency"] = LATENCY_S
        # Two streams rather than one for both ways: PortAudio drops frames of the latter without a word where a sound
        # server stands between it and the card (seen with PulseAudio).
        try:
            with (
                sound.InputStream(channels=self.card.inputs, callback=loop.record, **of_both) as records,
                sound.OutputStream(channels=self.card.outputs, callback=loop.play, **of_both) as plays,
            ):
                self.latency_s = float(records.latency + plays.latency)
                yield from self._run(loop, samples)
        except DeviceLostError:
            raise
        except Exception as error:
            raise DeviceLostError(f"{self.card.name} stopped: {error}") from error

    def _run(self, loop: "_Loop", samples: Samples) -> Iterator[FloatArray]:
        sent = count = 0
        while count < samples.size:
            while sent < min(samples.size, count + AHEAD_S * self.rate):
                loop.ahead.put(on_outputs(samples[sent : sent + BLOCK], self.card.outputs, self.output))
                sent += BLOCK
            loop.filled.set()
            try:
                heard = loop.heard.get(timeout=SILENT_S)
            except queue.Empty:
                raise DeviceLostError(f"{self.card.name} stopped: no sound for {SILENT_S:.0f} s") from None
            if loop.lost:
                raise GapError(f"the computer was too slow for the sound card: {loop.lost}")
            heard = heard[: samples.size - count]
            count += heard.shape[0]
            yield np.asarray(heard, dtype=float)


class _Loop:
    """What the sound card calls for every block, in threads of its own.

    The first blocks of both ways are silence and are not counted: a card that has just begun is late with them. What is
    heard counts from the block on that was the first to be handed over.
    """

    def __init__(self, size: int) -> None:
        self.ahead: queue.SimpleQueue[NDArray[np.float32]] = queue.SimpleQueue()
        self.heard: queue.SimpleQueue[NDArray[np.float32]] = queue.SimpleQueue()
        self.filled = threading.Event()
        self.lost = ""
        self._left = size
        self._begun = False
        self._records = 0
        self._plays = 0

    def play(self, plays: NDArray[np.float32], _frames: int, _time: Any, status: Any) -> None:
        """Fill a block (m, outputs) that is to be played."""
        plays[:] = 0
        self._plays += 1
        if not self.filled.is_set() or min(self._plays, self._records) < LEAD_IN or self._left <= 0:
            return
        if self._begun and status.output_underflow:
            self.lost = "there was a gap in what was played"
        try:
            piece = self.ahead.get_nowait()
        except queue.Empty:
            self.lost = "there was a gap in what was played"
            return
        plays[: piece.shape[0]] = piece
        self._left -= piece.shape[0]
        self._begun = True

    def record(self, heard: NDArray[np.float32], _frames: int, _time: Any, status: Any) -> None:
        """Take a block (m, inputs) that was heard."""
        self._records += 1
        if not self._begun:
            return
        if status.input_overflow:
            self.lost = "samples of the recording were lost"
        self.heard.put(heard.copy())
