"""How long the trials are: a quick form with every test run, a long one by `make trials`."""

import os
import random

LONG = os.environ.get("IMBRIX_TRIALS") == "long"
SEED = int(os.environ.get("IMBRIX_SEED", "1"))
"""What the trials of this run are drawn from; another seed makes other ones."""


def many(quick: int, long: int) -> int:
    """How many to try."""
    return long if LONG else quick


def dice(name: str) -> random.Random:
    """Numbers of chance of one trial, the same at every run with one seed."""
    return random.Random(f"{name} {SEED}")
