"""Peaks and dips of a curve, by how far they stand out."""

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.signal import FloatArray


def extremes(levels_db: FloatArray, least_db: float = 1.0) -> list[tuple[int, bool]]:
    """Indices of peaks (True) and dips (False) of a curve (n,) in order, that stand out by at least `least_db`.

    Stretches that are not known (NaN) have none.
    """
    known = np.isfinite(levels_db)
    if known.sum() < 8:
        return []
    filled = np.interp(np.arange(levels_db.size), np.flatnonzero(known), levels_db[known])
    found = [(int(at), True) for at in scipy.signal.find_peaks(filled, prominence=least_db)[0] if known[at]]
    found += [(int(at), False) for at in scipy.signal.find_peaks(-filled, prominence=least_db)[0] if known[at]]
    return sorted(found)
