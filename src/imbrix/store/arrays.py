"""Arrays as compressed float32 bytes with their shape ahead."""

import io
import zlib

import numpy as np

from imbrix.core.signal.signal import FloatArray


def pack(array: np.ndarray) -> bytes:
    """Compress an array of any shape to float32 bytes."""
    out = io.BytesIO()
    np.save(out, np.ascontiguousarray(array, dtype=np.float32), allow_pickle=False)
    return compress(out.getvalue())


def compress(data: bytes) -> bytes:
    """Compress what is mostly noise: matches farther off than the last byte are rare in it, and take half the time to
    look for."""
    made = zlib.compressobj(1, strategy=zlib.Z_RLE)
    return made.compress(data) + made.flush()


def as_kept(array: np.ndarray) -> FloatArray:
    """An array as it will come back: what is too small for float32 is zero, and is best judged before it is kept."""
    with np.errstate(under="ignore", over="ignore"):
        return np.asarray(array, dtype=np.float32).astype(np.float64)


def unpack(data: bytes) -> FloatArray:
    """The array that was packed, as float64."""
    return np.load(io.BytesIO(zlib.decompress(data)), allow_pickle=False).astype(np.float64)
