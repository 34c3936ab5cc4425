"""Levels as they are told, and a log of them: a row each second, on disk when the second is over."""

import csv
from contextlib import suppress
from dataclasses import asdict
from datetime import datetime
from itertools import count
from pathlib import Path
from typing import TextIO

import numpy as np

from imbrix.core.errors import NotHereError
from imbrix.core.signal.level import WEIGHTINGS, LevelMeter
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import rig
from imbrix.work.sound.results import Levels

SINE_DB = 10 * np.log10(2)
"""A sine of full scale is 0 dBFS: its mean square is half."""
ROW = ("time", "LAeq", "LCeq", "LZeq", "LAFmax", "LAFmin", "LASmax", "LASmin", "LCFmax", "LZFmax")


def scale_db(space: Workspace, number: int) -> float | None:
    """What turns the rms of an input over full scale, in dB, into dB SPL; None where no microphone is on it."""
    chosen = rig.rig(space)
    return rig.full_scale(space) if number == chosen.microphone_input else None


def levels_of(meter: LevelMeter, scale: float | None) -> Levels:
    """What a meter reads, as dB SPL or dBFS."""
    found = told(asdict(meter.levels()), scale)
    return Levels(
        equivalent=found["equivalent"],
        fast=found["fast"],
        slow=found["slow"],
        fast_most=found["fast_most"],
        fast_least=found["fast_least"],
        slow_most=found["slow_most"],
        slow_least=found["slow_least"],
    )


def told(values: dict[str, float], scale: float | None) -> dict[str, float]:
    """Mean squares as dB SPL or dBFS."""
    adds = SINE_DB if scale is None else scale
    return {name: round(float(power_decibels(np.array(value))) + adds, 2) for name, value in values.items()}


class LevelLog:
    """A row of levels each second, on disk when the second is over; memory does not grow."""

    def __init__(self, space: Workspace, scale: float | None) -> None:
        """Begin a log in the data folder; `scale` turns rms over full scale into dB SPL, None leaves dBFS."""
        self._rate = space.interface.rate
        self._scale = scale
        self._meters = {kind: LevelMeter(self._rate, kind) for kind in WEIGHTINGS}
        self._left = self._rate
        self._began = datetime.now()
        self._second = 0
        folder = space.folder / "logs"
        folder.mkdir(exist_ok=True)
        self.path, self._file = _fresh(folder, f"level-{self._began:%Y-%m-%d-%H%M%S}")
        self._writer = csv.writer(self._file)
        self._writer.writerow([*ROW, "dBFS" if self._scale is None else "dB SPL"])

    def feed(self, block: FloatArray) -> None:
        """Take a block (n,) in."""
        while block.size:
            part, block = block[: self._left], block[self._left :]
            for meter in self._meters.values():
                meter.feed(part)
            self._left -= part.size
            if not self._left:
                self._left = self._rate
                self._row()

    def _row(self) -> None:
        self._second += 1
        a, c, z = (told(asdict(self._meters[kind].restart()), self._scale) for kind in WEIGHTINGS)
        values = [a["equivalent"], c["equivalent"], z["equivalent"], a["fast_most"], a["fast_least"]]
        values += [a["slow_most"], a["slow_least"], c["fast_most"], z["fast_most"]]
        self._writer.writerow([self._second, *(f"{one:.2f}" for one in values)])
        self._file.flush()

    def close(self) -> None:
        """End the log; its rows are on disk already."""
        self._file.close()


def _fresh(folder: Path, name: str) -> tuple[Path, TextIO]:
    """A file that was not there: of two logs in one second each has its own."""
    for n in count(1):
        path = folder / f"{name}{f'-{n}' if n > 1 else ''}.csv"
        with suppress(FileExistsError):
            return path, path.open("x", newline="")
    raise AssertionError("there is always another name")


def logs(space: Workspace) -> list[str]:
    """The names of the logs there are, newest first."""
    return sorted((one.name for one in (space.folder / "logs").glob("level-*.csv")), reverse=True)


def log_file(space: Workspace, name: str) -> Path:
    """One log by its name. Raises NotHereError."""
    if name not in logs(space):
        raise NotHereError(f"there is no log {name!r}")
    return space.folder / "logs" / name
