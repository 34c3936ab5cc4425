"""The ports through which work reaches devices. Stand-ins are one implementation; real devices come later."""

from collections.abc import Iterator
from typing import Protocol

from imbrix.core.limits import Limits
from imbrix.core.register import OutputRegister
from imbrix.core.signal import FloatArray


class PlayAndRecord(Protocol):
    """A sound card: play samples, record blocks of (n, inputs); input 0 is the microphone, 1 the loopback."""

    rate: int

    @property
    def full_scale_db_spl(self) -> float:
        """The sound level that reaches 0 dBFS at the microphone input."""
        ...

    def play_and_record(self, samples: FloatArray) -> Iterator[FloatArray]: ...


class Processor(Protocol):
    """A DSP processor: registers written and read back by output, slots that outlive the power."""

    limits: Limits
    active_slot: int | None

    def write(self, output: int, register: OutputRegister) -> None: ...

    def read(self, output: int) -> OutputRegister: ...

    def store(self, slot: int, name: str) -> None: ...

    def recall(self, slot: int) -> None: ...

    def slot_names(self) -> dict[int, str]: ...
