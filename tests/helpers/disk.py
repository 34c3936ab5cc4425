"""A small disk of its own, to be filled to the last block (Linux, root)."""

import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest


class Disk:
    """What stands at `at` is all that there is room for."""

    def __init__(self, at: Path) -> None:
        self.at = at

    def fill(self) -> None:
        with (self.at / "filler").open("wb", buffering=0) as filler:
            try:
                while filler.write(b"\0" * 4096) == 4096:
                    pass
            except OSError:
                return

    def empty(self) -> None:
        (self.at / "filler").unlink(missing_ok=True)


@contextmanager
def small_disk(at: Path) -> Iterator[Disk]:
    """A disk of 64 MB in memory; the test is skipped where none can be mounted."""
    at.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=64m", "tmpfs", str(at)], capture_output=True)
    if mounted.returncode:
        pytest.skip("a disk of its own can be mounted by root only")
    try:
        yield Disk(at)
    finally:
        subprocess.run(["umount", "--lazy", str(at)], check=True)
