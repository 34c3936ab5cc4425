"""The ports through which work reaches devices. Stand-ins are one implementation, sound cards another."""

from collections.abc import Iterator, Sequence
from typing import Protocol

from imbrix.core.signal.signal import FloatArray, Samples
from imbrix.core.tune.controls import Remote
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Input


class PlayAndRecord(Protocol):
    """A sound card: play samples, record blocks of (n, inputs).

    `place` is where the microphone is held (metres right and forward of the middle of the head), `moving` whether the
    person was asked to move it, `inputs` those that will be read: real devices pay no heed to any of these. `block` is
    how many samples are handed over at a time, where the device lets one choose. Raises
    OSError when the device is lost.
    """

    rate: int

    @property
    def inputs(self) -> Sequence[str]: ...

    def play_and_record(
        self,
        samples: Samples,
        place: tuple[float, float] = ...,
        moving: bool = ...,
        inputs: tuple[int, ...] = ...,
        block: int = ...,
    ) -> Iterator[FloatArray]: ...


class Processor(Protocol):
    """A DSP processor: registers written and read back by output, slots that outlive the power.

    `stored_in` is a slot that holds exactly what runs, None where none does.
    """

    limits: Limits
    active_slot: int | None

    def write(self, output: int, register: OutputRegister) -> None: ...

    def read(self, output: int) -> OutputRegister: ...

    def write_input(self, number: int, wanted: Input) -> None: ...

    def read_input(self, number: int) -> Input: ...

    def write_second(self, wanted: SecondSource) -> None: ...

    def read_second(self) -> SecondSource: ...

    def hear(self, size: int, block: int = ...) -> Iterator[FloatArray]:
        """What reaches its inputs in `size` samples at its own rate, block by block (m, inputs). Raises RefusedError
        where it cannot be read."""

    @property
    def remote(self) -> Remote: ...

    def turn(self, remote: Remote) -> None: ...

    def store(self, slot: int, name: str) -> None: ...

    def recall(self, slot: int) -> None: ...

    def copy(self, slot: int, to: int) -> None: ...

    def name(self, slot: int, name: str) -> None: ...

    def slot_names(self) -> dict[int, str]: ...

    def stored_in(self) -> int | None: ...
