"""Which program this is: what it computed is worth nothing to one that would compute something else."""

import hashlib
from functools import lru_cache
from importlib.metadata import version
from pathlib import Path

COMPUTE = ("numpy", "scipy")
"""Packages that what is computed depends on."""


@lru_cache
def fingerprint() -> str:
    """What tells this program from another: its own modules, and the versions of what it computes with. As it was when
    this was first asked for: files may have been exchanged since, what runs was not."""
    found = hashlib.sha256(" ".join(version(name) for name in COMPUTE).encode())
    for path in sorted(Path(__file__).parent.rglob("*.py")):
        found.update(path.read_bytes())
    return found.hexdigest()
