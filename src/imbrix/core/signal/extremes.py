"""Peaks and dips of a curve, by how far they stand out."""

import numpy as np

from imbrix.core.signal.signal import FloatArray


def extremes(levels_db: FloatArray, least_db: float = 1.0) -> list[tuple[int, bool]]:
    """Indices of peaks (True) and dips (False) of a curve (n,) in order, that stand out by at least `least_db`.

    Stretches that are not known (NaN) have none.
    """
    known = np.isfinite(levels_db)
    if known.sum() < 8:
        return []
    filled = np.interp(np.arange(levels_db.size), np.flatnonzero(known), levels_db[known])
    found = [(at, True) for at in peaks(filled, least_db) if known[at]]
    found += [(at, False) for at in peaks(-filled, least_db) if known[at]]
    return sorted(found)


def peaks(values: FloatArray, least: float) -> list[int]:
    """Indices of the peaks of a curve (n,) whose prominence is at least `least`, as `scipy.signal.find_peaks` has them.

    A flat top counts once, at its middle; the ends of the curve are no peaks. The prominence is the height over the
    higher of the two lowest points between the peak and the next higher ground on either side. It stands here since
    every picture asks for it, and loading scipy.signal would make the first one wait.
    """
    firsts = np.flatnonzero(np.concatenate(([True], np.diff(values) != 0)))  # a flat stretch as one step
    steps = values[firsts]
    tops = np.flatnonzero((steps[1:-1] > steps[:-2]) & (steps[1:-1] > steps[2:])) + 1
    found = []
    for top in tops:
        higher = np.flatnonzero(steps > steps[top])
        split = int(np.searchsorted(higher, top))
        left = higher[split - 1] if split else 0
        right = higher[split] if split < higher.size else steps.size - 1
        base = max(steps[left : top + 1].min(), steps[top : right + 1].min())
        if steps[top] - base >= least:
            found.append(int(firsts[top] + firsts[top + 1] - 1) // 2)
    return found
