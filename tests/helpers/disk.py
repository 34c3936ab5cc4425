"""A small disk of its own, to be filled to the last block (Linux, root)."""

import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


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
def small_disk(at: Path) -> Iterator[Disk | None]:
    """A disk of 64 MB in memory; where none can be mounted, None, and `at` is an ordinary folder."""
    at.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=64m", "tmpfs", str(at)], capture_output=True)
    if mounted.returncode:
        yield None
        return
    try:
        yield Disk(at)
    finally:
        subprocess.run(["umount", "--lazy", str(at)], check=True)
