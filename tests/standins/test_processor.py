"""The stand-in processor as a device: registers, refusals, slots, power."""

from pathlib import Path

import pytest

from imbrix.core.errors import RefusedError
from imbrix.core.tune.models import STOCK as LIMITS
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Band, Channel
from imbrix.standins.processor import StandinProcessor


def playing(gain: float = -3.0) -> OutputRegister:
    return OutputRegister(channel=Channel(gain_db=gain))


def test_it_starts_mute() -> None:
    processor = StandinProcessor()
    assert all(processor.read(output).channel.muted for output in range(1, 9))


def test_what_was_written_is_read_back_on_its_steps() -> None:
    processor = StandinProcessor()
    processor.write(3, OutputRegister(channel=Channel(gain_db=-3.14159, delay_s=0.001234)))
    back = processor.read(3).channel
    assert back.gain_db == -3.1
    assert back.delay_s * LIMITS.rate == pytest.approx(59)


@pytest.mark.parametrize(
    ("register", "says"),
    [
        (OutputRegister(channel=Channel(gain_db=12)), "gain of 12 dB"),
        (OutputRegister(channel=Channel(delay_s=0.021)), "20 ms"),
        (
            OutputRegister(channel=Channel(bands=(Band(frequency_hz=100),) * 8), common=(Band(frequency_hz=90),) * 5),
            "13",
        ),
        (OutputRegister(channel=Channel(bands=(Band(frequency_hz=10),))), "10 Hz"),
        (OutputRegister(channel=Channel(bands=(Band(frequency_hz=100, gain_db=15),))), "15 dB"),
        (OutputRegister(channel=Channel(bands=(Band(frequency_hz=100, q=50),))), "Q of 50"),
    ],
)
def test_what_it_cannot_do_is_refused_and_changes_nothing(register: OutputRegister, says: str) -> None:
    processor = StandinProcessor()
    processor.write(1, playing())
    with pytest.raises(RefusedError, match=says):
        processor.write(1, register)
    assert processor.read(1) == playing()
    with pytest.raises(RefusedError, match="no output 9"):
        processor.write(9, playing())


def test_power_off_loses_what_was_not_stored(tmp_path: Path) -> None:
    memory = tmp_path / "memory.json"
    processor = StandinProcessor(memory)
    processor.write(1, playing(-5))
    processor.store(2, "evening")
    processor.write(1, playing(-9))
    processor.power_cycle()
    assert processor.read(1).channel.gain_db == -5
    again = StandinProcessor(memory)
    assert again.read(1).channel.gain_db == -5
    assert again.slot_names() == {2: "evening"}
    assert again.active_slot == 2


def test_slots_are_recalled_and_empty_ones_refused() -> None:
    processor = StandinProcessor()
    processor.write(1, playing(-1))
    processor.store(1, "a")
    processor.write(1, playing(-2))
    processor.store(2, "b")
    processor.recall(1)
    assert processor.read(1).channel.gain_db == -1
    with pytest.raises(RefusedError, match="slot 3 is empty"):
        processor.recall(3)
    with pytest.raises(RefusedError, match="no slot 7"):
        processor.store(7, "x")
