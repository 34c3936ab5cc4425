"""Dips that no boost fills: what asks to fill them is taken out of what a fit is to do."""

import numpy as np

from imbrix.core.signal.signal import FloatArray
from imbrix.core.signal.smoothing import smooth


def bridge_cancellations(wanted_db: FloatArray, frequencies: FloatArray, deep_db: float = 4.0) -> FloatArray:
    """The wanted correction (n,) with what asks to fill narrow dips replaced by a straight line across them.

    No boost fills a cancellation: it only costs headroom. A dip counts where the wanted correction stands
    `deep_db` above its own one-octave mean; it reaches to where it falls back to that mean.
    """
    known = np.isfinite(wanted_db)
    if not known.any():
        return wanted_db
    filled = np.where(known, wanted_db, np.median(wanted_db[known]))
    above = filled - smooth(filled, frequencies, 1)
    octaves = np.log2(frequencies)
    result = filled.copy()
    at = 0
    while at < above.size:
        if above[at] <= deep_db:
            at += 1
            continue
        first = last = at
        while first > 0 and above[first] > 0:
            first -= 1
        while last < above.size - 1 and above[last] > 0:
            last += 1
        ends = [first, last]
        result[first : last + 1] = np.interp(octaves[first : last + 1], octaves[ends], filled[ends])
        at = last + 1
    return np.where(known, result, np.nan)


def part_filled(wanted_db: FloatArray, frequencies: FloatArray, most_db: float) -> FloatArray:
    """The wanted correction (n,) where no narrow dip is filled by more than `most_db` over a straight line across it.

    For dips that are there all over a place: a boost within its limit lifts them, what is deeper is left.
    """
    bridged = bridge_cancellations(wanted_db, frequencies)
    return np.asarray(np.minimum(wanted_db, bridged + most_db))


def without_dips(
    wanted_db: FloatArray, dips_db: FloatArray, frequencies: FloatArray, deep_db: float = 1.0
) -> FloatArray:
    """The wanted correction (n,) without what asks to fill dips (n,), zero or less, that belong to the place.

    Where they are deep their depth is known least: there nothing beyond a straight line across them is asked for.
    """
    octaves = np.log2(frequencies)
    result = wanted_db + dips_db
    deep = np.isfinite(wanted_db) & (dips_db < -deep_db)
    edges = np.flatnonzero(np.diff(np.concatenate(([0], deep.astype(int), [0]))))
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        ends = [max(0, first - 1), min(deep.size - 1, end)]
        across = np.interp(octaves[first:end], octaves[ends], np.nan_to_num(wanted_db[ends], nan=np.inf))
        result[first:end] = np.minimum(result[first:end], across)
    return result
