"""Timing of calls in turn, so that a machine whose speed drifts does not favour either."""

import os
import statistics
import time
from collections.abc import Callable

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the program sets it for itself


def in_turn(runs: int, *calls: Callable[[], object]) -> list[float]:
    """Median seconds of each call, run one after another `runs` times."""
    times: list[list[float]] = [[] for _ in calls]
    for call in calls:
        call()
    for _ in range(runs):
        for call, row in zip(calls, times, strict=True):
            begun = time.perf_counter()
            call()
            row.append(time.perf_counter() - begun)
    return [statistics.median(row) for row in times]


def report(what: str, ratio: float, limit: float, extra: str = "") -> None:
    """One line: the ratio against its reference and the limit that it is held to."""
    print(f"{what}: ratio {ratio:.3f} (limit {limit:g}) {'ok' if ratio <= limit else 'MISSED'} {extra}")
