"""Pictures as binary frames: a JSON head, then float32 arrays.

Layout: uint32 length of the head (little-endian), the head, filled with blanks up to a multiple of four, the
arrays. In the head each curve says where its values begin and how many they are, counted in floats.
"""

import json
import struct
from typing import Any

import numpy as np

from imbrix.core.tune.tune import Tune
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View


def frame(picture: Picture, view: View, tune: Tune, revision: int, seq: int = 0, draft: bool = False) -> bytes:
    """The frame of a view's picture. `seq` is that of the request; 0 for what nobody asked the socket for."""
    return encode(
        picture,
        {
            "seq": seq,
            "view": view.model_dump(),
            "tune": tune.brief.model_dump(mode="json"),
            "draft": draft,
            "revision": revision,
        },
    )


def encode(picture: Picture, head: dict[str, Any]) -> bytes:
    """One frame."""
    arrays: list[np.ndarray] = []
    offset = 0

    def put(values: np.ndarray) -> tuple[int, int]:
        nonlocal offset
        arrays.append(np.ascontiguousarray(values, dtype="<f4"))
        place = (offset, values.size)
        offset += values.size
        return place

    curves = [
        {
            "id": curve.id,
            "role": curve.role,
            "label": curve.label,
            "pane": curve.pane,
            "channel": curve.channel,
            "values": put(curve.values),
            "x": None if curve.x is None else put(curve.x),
        }
        for curve in picture.curves
    ]
    text = json.dumps({**head, "facts": picture.facts, "curves": curves}).encode()
    text += b" " * (-len(text) % 4)
    return b"".join((struct.pack("<I", len(text)), text, *(array.tobytes() for array in arrays)))
