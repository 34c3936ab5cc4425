"""What all checks by ear of the microphone need: a device with sound, and weighted levels."""

from collections.abc import Callable

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import FloatArray
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import choices, corrections, rig


def with_sound(space: Workspace) -> choices.Rig:
    chosen = rig.rig(space)
    if chosen.device == choices.FILE:
        raise ConflictError("with files there is nothing to listen to: choose a sound card under Device")
    return chosen


Weighting = Callable[[FloatArray], FloatArray]


def weighted_level(space: Workspace, samples: FloatArray, rate: int, weighting: Weighting) -> float:
    """Weighted level of the microphone input (n,) in dBFS rms, with the correction in use divided out."""
    spectrum = np.abs(np.fft.rfft(samples)) ** 2
    hertz = np.asarray(np.fft.rfftfreq(samples.size, 1 / rate), dtype=float)
    weight = np.zeros(hertz.size)
    weight[1:] = weighting(hertz[1:])
    correction = rig.rig(space).correction
    if correction is not None:
        weight[1:] /= np.abs(corrections.correction(space, correction).curve.on(hertz[1:]))
    inside = (hertz > 15) & (hertz < 20_000)
    return float(10 * np.log10(2 * np.sum((spectrum * weight**2)[inside]) / samples.size**2 + 1e-30))
