"""What bands do, each by itself, as the lower plot of Voice and of Source shows it."""

from collections.abc import Iterable

import numpy as np

from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import ComplexArray, decibels
from imbrix.core.tune.lower import band_section
from imbrix.core.tune.tune import Band
from imbrix.work.views.picture import Picture


def add(predictor: Predictor, picture: Picture, bands: Iterable[Band], channel: str = "") -> ComplexArray:
    """Add the curve of every band that works; the response (n,) of all of them together."""
    together = np.ones(predictor.frequencies.size, dtype=complex)
    for n, one in enumerate(bands):
        if one.off:
            continue
        does = predictor.sections(np.array([[band_section(one, predictor.rate)]]))[0]
        together *= does
        picture.add(f"band-{n}", decibels(does), "band", pane="lower", channel=channel)
    return together
