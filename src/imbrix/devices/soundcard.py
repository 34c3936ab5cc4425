"""Real sound cards through the optional package sounddevice (PortAudio).

Where the package, the library or any device is missing, that is a stated condition.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from imbrix.core.errors import DeviceLostError
from imbrix.core.signal.signal import FloatArray, Samples

BLOCK = 4096
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
        return None, "the package sounddevice is not installed (install Imbrix with the extra 'soundcard')"
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


def _spread(part: FloatArray, outputs: int) -> FloatArray:
    """Samples (n,) on so many outputs alike, or (n, 2) left and right by turns; one output gets both."""
    if part.ndim == 1:
        return part[:, None]
    if outputs == 1:
        return part.mean(axis=1, keepdims=True)
    return part[:, np.arange(outputs) % 2]


class SoundCard:
    """One card at one rate. `output` is the one that plays, counted from 0; None plays on all of them alike."""

    def __init__(self, card: Card, rate: int, output: int | None = None) -> None:
        self.card = card
        self.rate = rate
        self.output = output
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
        playing = slice(None) if self.output is None else slice(self.output, self.output + 1)
        try:
            with sound.Stream(
                samplerate=self.rate,
                device=self.card.name,
                channels=(self.card.inputs, self.card.outputs),
                blocksize=block,
                dtype="float32",
            ) as stream:
                for first in range(0, samples.size, block):
                    part = samples[first : first + block]
                    piece = np.zeros((part.shape[0], self.card.outputs), dtype=np.float32)
                    piece[:, playing] = _spread(part, piece[:, playing].shape[1])
                    underflowed = stream.write(piece)
                    heard, overflowed = stream.read(piece.shape[0])
                    if underflowed and first:  # before the first block there was nothing that could have been late
                        raise DeviceLostError(
                            "the computer was too slow for the sound card: there was a gap in what was played"
                        )
                    if overflowed:
                        raise DeviceLostError(
                            "the computer was too slow for the sound card: samples of the recording were lost"
                        )
                    yield np.asarray(heard, dtype=float)
        except DeviceLostError:
            raise
        except Exception as error:
            raise DeviceLostError(f"{self.card.name} stopped: {error}") from error
