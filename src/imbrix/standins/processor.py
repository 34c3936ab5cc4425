"""A simulated DSP processor of any model: outputs with filters, delay, gain, registers and slots.

It keeps its registers until the power goes; what was stored in a slot comes back. It runs what the lowering
gives it, section by section, block by block, in the time domain.
"""

import json
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
from pydantic import BaseModel

from imbrix.core.errors import RefusedError
from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.controls import Remote
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.lower import lower
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Band, Channel, Input
from imbrix.standins.convolution import Convolution
from imbrix.standins.second_source import Switch


class _Slot(BaseModel):
    name: str
    outputs: list[OutputRegister]
    inputs: list[Input] = []
    second: SecondSource = SecondSource()


class _Memory(BaseModel):
    """What the file of a permanent memory holds."""

    slots: dict[int, _Slot] = {}
    active: int | None = None


class StandinProcessor:
    """The processor as a device: `write`, `read`, `store`, `recall`, `power_cycle`, and its sound.

    `memory` is the file that stands for its permanent memory.
    """

    def __init__(self, memory: Path | None = None, limits: Limits = STOCK) -> None:
        self.limits = limits
        self._memory = memory
        self._lock = threading.Lock()
        self._outputs: list[OutputRegister] = []
        self._inputs: list[Input] = []
        self._second = SecondSource()
        self.active_slot: int | None = None
        self.remote = Remote()
        """How its remote control stands: beside the registers, and gone with the power."""
        self.fed: Callable[[int], FloatArray] | None = None
        """What reaches its inputs in so many samples (n, inputs), where something is connected to them."""
        self.lost: Path | None = self._set_aside()
        """Where a permanent memory that could not be read is kept: it began anew with an empty one."""
        self.power_cycle()

    def power_cycle(self) -> None:
        """Lose what was not stored: the slot that was stored or recalled last comes back, or all is mute."""
        saved = self._load()
        self.remote = Remote()
        self.active_slot = saved.get("active")
        with self._lock:
            found = saved.get("slots", {}).get(str(self.active_slot))
            slot = _Slot.model_validate(found) if found else None
            self._outputs = slot.outputs if slot else [OutputRegister() for _ in range(self.limits.outputs)]
            self._inputs = (slot.inputs if slot else []) or [Input()] * self.limits.inputs
            self._second = slot.second if slot else SecondSource()

    def write(self, output: int, register: OutputRegister) -> None:
        """Set one output (from 1). Raises RefusedError with what it cannot do; nothing is changed then."""
        if not 1 <= output <= self.limits.outputs:
            raise RefusedError(f"there is no output {output}: the processor has {self.limits.outputs}")
        refused = self.limits.refuse(register.channel, register.common)
        if refused:
            raise RefusedError(f"output {output}: {'; '.join(refused)}")
        if len(register.sources or ()) > self.limits.inputs:
            raise RefusedError(
                f"output {output} cannot hear input {len(register.sources or ())}: there are {self.limits.inputs}"
            )
        with self._lock:
            self._outputs[output - 1] = register

    def write_input(self, number: int, wanted: Input) -> None:
        """Set one input (from 1). Raises RefusedError with what it cannot do; nothing is changed then."""
        if not 1 <= number <= self.limits.inputs:
            raise RefusedError(f"there is no input {number}: the processor has {self.limits.inputs}")
        refused = self.limits.refuse_input(wanted)
        if refused:
            raise RefusedError(f"input {number}: {'; '.join(refused)}")
        with self._lock:
            self._inputs[number - 1] = wanted

    def read_input(self, number: int) -> Input:
        """Read one input (from 1) back, values on the processor's steps."""
        return self.limits.settle_input(self._inputs[number - 1])

    def write_second(self, wanted: SecondSource) -> None:
        """Set the second source. Raises RefusedError with what it cannot do; nothing is changed then."""
        refused = self.limits.refuse_second(wanted)
        if refused:
            raise RefusedError(f"second source: {'; '.join(refused)}")
        with self._lock:
            self._second = wanted

    def read_second(self) -> SecondSource:
        """Read the second source back, its gain on the processor's steps."""
        return self.limits.settle_second(self._second)

    def read(self, output: int) -> OutputRegister:
        """Read one output (from 1) back, values on the processor's steps."""
        register = self._outputs[output - 1]
        return OutputRegister(
            channel=self.limits.settle(register.channel),
            common=tuple(map(self.limits.settle_band, register.common)),
            sources=register.sources,
            second=register.second,
        )

    def hear(self, size: int, block: int = 4096) -> Iterator[FloatArray]:
        """What reaches its inputs, block by block (m, inputs). Raises RefusedError where it cannot be read."""
        if not self.limits.reads_inputs:
            raise RefusedError("what reaches its inputs cannot be read")
        heard = np.zeros((size, self.limits.inputs)) if self.fed is None else self.fed(size)
        for first in range(0, size, block):
            yield heard[first : first + block]

    def turn(self, remote: Remote) -> None:
        """Turn the remote control."""
        self.remote = remote

    def store(self, slot: int, name: str) -> None:
        """Keep the present registers in a slot (from 1) through power-off."""
        self._check_slot(slot)
        saved = self._load()
        saved.setdefault("slots", {})[str(slot)] = self._running(name).model_dump(mode="json")
        saved["active"] = slot
        self._save(saved)
        self.active_slot = slot

    def recall(self, slot: int) -> None:
        """Load a slot into the registers. Raises RefusedError where it is empty."""
        self._check_slot(slot)
        saved = self._load()
        if str(slot) not in saved.get("slots", {}):
            raise RefusedError(f"slot {slot} is empty")
        saved["active"] = slot
        self._save(saved)
        self.power_cycle()

    def copy(self, slot: int, to: int) -> None:
        """Let another slot hold what one holds. What runs goes on. Raises RefusedError where it is empty."""
        self._check_slot(slot)
        self._check_slot(to)
        saved = self._load()
        if str(slot) not in saved.get("slots", {}):
            raise RefusedError(f"slot {slot} is empty")
        saved["slots"][str(to)] = saved["slots"][str(slot)]
        self._save(saved)

    def name(self, slot: int, name: str) -> None:
        """Call a slot otherwise. Raises RefusedError where it is empty."""
        self._check_slot(slot)
        saved = self._load()
        if str(slot) not in saved.get("slots", {}):
            raise RefusedError(f"slot {slot} is empty")
        saved["slots"][str(slot)]["name"] = name
        self._save(saved)

    def slot_names(self) -> dict[int, str]:
        """Names of the slots that hold something."""
        return {int(number): slot["name"] for number, slot in self._load().get("slots", {}).items()}

    def stored_in(self) -> int | None:
        """A slot that holds exactly what runs, the one in use first; None where none does."""
        slots = self._load().get("slots", {})
        numbers = sorted(map(int, slots), key=lambda number: (number != self.active_slot, number))
        running = self._running("")
        kept = ((n, _Slot.model_validate(slots[str(n)])) for n in numbers)
        return next((n for n, slot in kept if slot.model_copy(update={"name": ""}) == running), None)

    def _running(self, name: str) -> _Slot:
        return _Slot(name=name, outputs=self._outputs, inputs=self._inputs, second=self._second)

    def stream(self, outputs: int) -> "ProcessorStream":
        """The running processor, which follows its registers."""
        return ProcessorStream(self, outputs)

    def registers(self, outputs: int) -> list[OutputRegister]:
        """The registers of the first outputs as they are now."""
        return self._outputs[:outputs]

    def inputs(self) -> list[Input]:
        """The inputs as they are now."""
        return list(self._inputs)

    def second(self) -> SecondSource:
        """The second source as it is now."""
        return self._second

    def _check_slot(self, slot: int) -> None:
        if not 1 <= slot <= self.limits.slots:
            raise RefusedError(f"there is no slot {slot}: the processor has {self.limits.slots}")

    def _load(self) -> dict[str, Any]:
        if self._memory is None or not self._memory.exists():
            return getattr(self, "_volatile", {})
        return json.loads(self._memory.read_text())

    def _set_aside(self) -> Path | None:
        """Rename a memory that cannot be read, so that the processor works without it; what it is called now."""
        if self._memory is None or not self._memory.exists():
            return None
        try:
            _Memory.model_validate_json(self._memory.read_bytes())
        except ValueError:
            aside = self._memory.with_suffix(f".damaged-{time.strftime('%Y-%m-%d-%H%M%S')}")
            return self._memory.rename(aside)
        return None

    def _save(self, saved: dict[str, Any]) -> None:
        if self._memory is None:
            self._volatile = saved
            return
        part = self._memory.with_suffix(".part")
        try:
            part.write_text(json.dumps(saved))
            part.replace(self._memory)  # a kill leaves the old memory or the new one, never half of it
        except OSError:
            part.unlink(missing_ok=True)
            raise


class _Line:
    """What one channel or input does to the sound: its filters, its delay, its factor, with state between blocks."""

    def __init__(self, channel: Channel, common: tuple[Band, ...], rate: int) -> None:
        self._lowered = lower(channel, common, rate)
        self._filters = np.zeros((self._lowered.sos.shape[0], 2))
        self._taps = Convolution(self._lowered.taps) if self._lowered.taps.size else None
        self._waiting = np.zeros(self._lowered.delay)

    @property
    def remembers(self) -> bool:
        """Whether what it does depends on what it was given before."""
        return bool(self._filters.size or self._waiting.size or self._taps)

    def process(self, block: FloatArray) -> FloatArray:
        if not self.remembers:
            return self._lowered.factor * block
        samples = block
        if self._lowered.sos.shape[0]:
            samples, self._filters = scipy.signal.sosfilt(self._lowered.sos, samples, zi=self._filters)
        if self._taps is not None:
            samples = self._taps.process(samples)
        delayed = np.concatenate((self._waiting, samples))
        self._waiting = delayed[block.size :]
        return self._lowered.factor * delayed[: block.size]


class ProcessorStream:
    """The sound path of the processor: blocks into its inputs, blocks (n, outputs) out.

    It follows the registers while it runs, as the device does: a mute or another routing keeps the filters' state,
    other changes start them from rest.
    """

    def __init__(self, processor: StandinProcessor, outputs: int) -> None:
        self._processor = processor
        self._count = outputs
        self._registers: list[OutputRegister | None] = [None] * outputs
        self._inputs: list[Input] = []
        self._outputs: list[_Line] = []
        self._feeds: list[_Line] = []
        self._lift: Band | None = None
        self._lifts: list[_Line] = []
        self._switch = Switch(processor.limits.rate)

    def _follow(self) -> None:
        rate = self._processor.limits.rate
        for n, register in enumerate(self._processor.registers(self._count)):
            held = self._registers[n]
            if held is register:
                continue
            self._registers[n] = register
            if held is None:
                self._outputs.append(_Line(register.channel, register.common, rate))
            elif held.sounding != register.sounding:
                self._outputs[n] = _Line(register.channel, register.common, rate)
        for n, one in enumerate(self._processor.inputs()):
            if n >= len(self._inputs):
                self._inputs.append(one)
                self._feeds.append(_Line(one.channel, (), rate))
            elif self._inputs[n] != one:
                self._inputs[n], self._feeds[n] = one, _Line(one.channel, (), rate)

    def _lifted(self, feeds: list[FloatArray], lift: Band | None) -> list[FloatArray]:
        """What comes of the inputs with the customer's lift."""
        if lift != self._lift or len(feeds) != len(self._lifts):
            bands = () if lift is None else (lift,)
            self._lift = lift
            self._lifts = [_Line(Channel(bands=bands), (), self._processor.limits.rate) for _ in feeds]
        return [line.process(one) for line, one in zip(self._lifts, feeds, strict=True)] if lift else feeds

    def process(self, block: FloatArray, second: FloatArray | None = None) -> FloatArray:
        """A block (n,) at all inputs alike, or (n, inputs) with what each has, and what the second source plays (n, 2);
        returns (n, outputs)."""
        self._follow()
        plain = Input()
        fed = zip(self._inputs, self._feeds, strict=True)
        at = block.T if block.ndim > 1 else [block] * len(self._inputs)
        feeds = [one if does == plain else line.process(one) for one, (does, line) in zip(at, fed, strict=True)]
        wires = len(feeds)
        feeds += self._second(feeds, block, second)
        remote = self._processor.remote
        feeds = self._lifted(feeds, remote.lift)
        out = np.zeros((block.shape[0], self._count))
        for n, line in enumerate(self._outputs):
            register = self._registers[n]
            assert register is not None
            if register.channel.muted and not line.remembers:
                continue
            heard = _mixed(feeds[:wires], register.sources)
            if len(feeds) > wires:
                heard = heard + _mixed(feeds[wires:], register.second)
            samples = line.process(heard)
            if not register.channel.muted:
                out[:, n] = np.clip(10 ** (remote.gain_db(n + 1) / 20) * samples, -1.0, 1.0)
        return out

    def _second(self, feeds: list[FloatArray], block: FloatArray, second: FloatArray | None) -> list[FloatArray]:
        """Left and right of the second source as far as it is let in, the wires turned down by as much; none where it
        is never heard."""
        wanted = self._processor.second()
        if wanted.priority == "never":
            return []
        played = np.zeros((block.shape[0], 2)) if second is None else second
        loudest = np.abs(block).max(axis=1) if block.ndim > 1 else np.abs(block)
        share = self._switch.share(loudest, np.abs(played).max(axis=1), wanted)
        feeds[:] = [(1 - share) * one for one in feeds]
        return list((10 ** (wanted.gain_db / 20) * share)[None, :] * played.T)


def _mixed(feeds: list[FloatArray], sources: tuple[float, ...] | None) -> FloatArray:
    """What an output hears of the inputs (n,)."""
    factors = (1 / len(feeds),) * len(feeds) if sources is None else sources
    if all(one is feeds[0] for one in feeds):
        return feeds[0] if sum(factors) == 1 or sources is None else sum(factors) * feeds[0]
    mixed = np.zeros_like(feeds[0])
    for factor, feed in zip(factors, feeds, strict=False):
        mixed += factor * feed
    return mixed
