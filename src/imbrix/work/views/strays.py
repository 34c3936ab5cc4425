"""How a curve strays from what it aims at, as a fact."""

from imbrix.core.signal.measures import Deviation
from imbrix.work.views.picture import Picture


def strays(picture: Picture, found: Deviation | None, low: float, high: float) -> None:
    if found is not None:
        picture.facts["deviation"] = {
            "mean": found.mean,
            "plus_minus": found.plus_minus,
            "worst": found.worst,
            "rms": found.rms,
            "low_hz": low,
            "high_hz": high,
        }
