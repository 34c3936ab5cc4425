"""What the interface itself does to the sound, by its check: kept, and divided out of takes."""

import numpy as np

from imbrix.core.signal.signal import ComplexArray
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig.choices import CheckDone
from imbrix.work.rig.rig import update

Pair = tuple[ComplexArray | None, ComplexArray | None]


def keep_check(space: Workspace, done: CheckDone, own: ComplexArray, reference: ComplexArray | None) -> None:
    """Keep the curves (n,) of an interface check; they are divided out of takes from now on."""
    value: documents.Document = {
        "own": _as_lists(own),
        "reference": None if reference is None else _as_lists(reference),
    }
    documents.write(space, f"check:{done.made}", value)
    update(space, check=done)


def _as_lists(values: ComplexArray) -> list[list[float]]:
    known = np.nan_to_num(values, nan=1.0)
    return [np.round(known.real, 7).tolist(), np.round(known.imag, 7).tolist()]


def check_curve(space: Workspace, made: str, against_reference: bool) -> ComplexArray | None:
    """The interface's own response (n,) by the check of a time, or None."""
    own, reference = documents.made(space, f"check:{made}", _read)
    return reference if against_reference else own


def _read(found: documents.Document | None) -> Pair:
    def curve(pair: list[list[float]] | None) -> ComplexArray | None:
        return None if pair is None else np.array(pair[0]) + 1j * np.array(pair[1])

    return curve((found or {}).get("own")), curve((found or {}).get("reference"))
