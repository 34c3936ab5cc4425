"""A simulated DSP processor of any model: outputs with filters, delay, gain, registers and slots.

It keeps its registers until the power goes; what was stored in a slot comes back. It runs what the lowering
gives it, section by section, block by block, in the time domain.
"""

import json
import threading
from pathlib import Path
from typing import Any

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.errors import RefusedError
from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.lower import Lowered, lower
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.register import OutputRegister


class StandinProcessor:
    """The processor as a device: `write`, `read`, `store`, `recall`, `power_cycle`, and its sound.

    `memory` is the file that stands for its permanent memory.
    """

    def __init__(self, memory: Path | None = None, limits: Limits = STOCK) -> None:
        self.limits = limits
        self._memory = memory
        self._lock = threading.Lock()
        self._outputs: list[OutputRegister] = []
        self.active_slot: int | None = None
        self.power_cycle()

    def power_cycle(self) -> None:
        """Lose what was not stored: the slot that was stored or recalled last comes back, or all is mute."""
        saved = self._load()
        self.active_slot = saved.get("active")
        with self._lock:
            slot = saved.get("slots", {}).get(str(self.active_slot))
            self._outputs = (
                [OutputRegister.model_validate(one) for one in slot["outputs"]]
                if slot
                else [OutputRegister() for _ in range(self.limits.outputs)]
            )

    def write(self, output: int, register: OutputRegister) -> None:
        """Set one output (from 1). Raises RefusedError with what it cannot do; nothing is changed then."""
        if not 1 <= output <= self.limits.outputs:
            raise RefusedError(f"there is no output {output}: the processor has {self.limits.outputs}")
        refused = self.limits.refuse(register.channel, register.common)
        if refused:
            raise RefusedError(f"output {output}: {'; '.join(refused)}")
        with self._lock:
            self._outputs[output - 1] = register

    def read(self, output: int) -> OutputRegister:
        """Read one output (from 1) back, values on the processor's steps."""
        register = self._outputs[output - 1]
        return OutputRegister(
            channel=self.limits.settle(register.channel), common=tuple(map(self.limits.settle_band, register.common))
        )

    def store(self, slot: int, name: str) -> None:
        """Keep the present registers in a slot (from 1) through power-off."""
        self._check_slot(slot)
        saved = self._load()
        outputs = [one.model_dump(mode="json") for one in self._outputs]
        saved.setdefault("slots", {})[str(slot)] = {"name": name, "outputs": outputs}
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

    def slot_names(self) -> dict[int, str]:
        """Names of the slots that hold something."""
        return {int(number): slot["name"] for number, slot in self._load().get("slots", {}).items()}

    def stream(self, outputs: int) -> "ProcessorStream":
        """The running processor, which follows its registers."""
        return ProcessorStream(self, outputs)

    def registers(self, outputs: int) -> list[OutputRegister]:
        """The registers of the first outputs as they are now."""
        return self._outputs[:outputs]

    def _check_slot(self, slot: int) -> None:
        if not 1 <= slot <= self.limits.slots:
            raise RefusedError(f"there is no slot {slot}: the processor has {self.limits.slots}")

    def _load(self) -> dict[str, Any]:
        if self._memory is None or not self._memory.exists():
            return getattr(self, "_volatile", {})
        return json.loads(self._memory.read_text())

    def _save(self, saved: dict[str, Any]) -> None:
        if self._memory is None:
            self._volatile = saved
            return
        part = self._memory.with_suffix(".part")
        part.write_text(json.dumps(saved))
        part.replace(self._memory)  # a kill leaves the old memory or the new one, never half of it


class ProcessorStream:
    """The sound path of the processor: blocks (n,) in, blocks (n, outputs) out, with state between blocks.

    It follows the registers while it runs, as the device does: a mute keeps the filters' state, other changes
    start them from rest.
    """

    def __init__(self, processor: StandinProcessor, outputs: int) -> None:
        self._processor = processor
        self._count = outputs
        self._registers: list[OutputRegister | None] = [None] * outputs
        self._lowered: list[Lowered] = []
        self._filters: list[FloatArray] = []
        self._lines: list[FloatArray] = []

    def _follow(self) -> None:
        for n, register in enumerate(self._processor.registers(self._count)):
            held = self._registers[n]
            if held is register:
                continue
            self._registers[n] = register
            if held is not None and held.with_mute(False) == register.with_mute(False):
                continue
            one = lower(register.channel, register.common, self._processor.limits.rate)
            state, line = np.zeros((one.sos.shape[0], 2)), np.zeros(one.delay)
            if n < len(self._lowered):
                self._lowered[n], self._filters[n], self._lines[n] = one, state, line
            else:
                self._lowered.append(one)
                self._filters.append(state)
                self._lines.append(line)

    def process(self, block: FloatArray) -> FloatArray:
        self._follow()
        out = np.zeros((block.size, self._count))
        for n, one in enumerate(self._lowered):
            samples = block
            if one.sos.shape[0]:
                samples, self._filters[n] = scipy.signal.sosfilt(one.sos, samples, zi=self._filters[n])
            delayed = np.concatenate((self._lines[n], samples))
            self._lines[n] = delayed[block.size :]
            register = self._registers[n]
            if register is not None and not register.channel.muted:
                out[:, n] = np.clip(one.factor * delayed[: block.size], -1.0, 1.0)
        return out
