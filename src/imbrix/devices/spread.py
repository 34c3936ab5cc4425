"""What a signal means on several outputs."""

import numpy as np
from numpy.typing import NDArray

from imbrix.core.signal.signal import FloatArray


def spread(part: FloatArray, outputs: int) -> FloatArray:
    """Samples (n,) on so many outputs alike, or (n, 2) left and right by turns; one output gets both."""
    if part.ndim == 1:
        return part[:, None]
    if outputs == 1:
        return part.mean(axis=1, keepdims=True)
    return part[:, np.arange(outputs) % 2]


def on_outputs(part: FloatArray, outputs: int, chosen: int | None) -> NDArray[np.float32]:
    """Samples (n,) or (n, 2) as frames (n, outputs): on the `chosen` output alone, on all of them where it is None."""
    frames = np.zeros((part.shape[0], outputs), dtype=np.float32)
    playing = slice(None) if chosen is None else slice(chosen, chosen + 1)
    frames[:, playing] = spread(part, frames[:, playing].shape[1])
    return frames
