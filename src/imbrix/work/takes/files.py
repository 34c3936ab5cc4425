"""Takes from material that was made elsewhere: recordings of the sweep, impulse responses, responses as text."""

import numpy as np

from imbrix.core.errors import UnusableError
from imbrix.core.measure.reading import EARLY_S, check_recording, read_impulse, read_recording
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.signal import FloatArray, Impulse, ratio
from imbrix.core.system.layout import Layout
from imbrix.core.tune.tune import Tune, neutral
from imbrix.formats.text_curve import TextCurve
from imbrix.store.arrays import as_kept
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import rig
from imbrix.work.rig.choices import FILE
from imbrix.work.takes.reading import untimed
from imbrix.work.takes.shelf import Details, Method, keep

LEAST_PEAK = 1e-7
"""An impulse that stays under this (-140 dB) holds no more than the rounding of the file that it came in."""


def add_recording(
    space: Workspace, slug: str, channel: str, samples: FloatArray, rate: int, sweep: SweepSettings | None, note: str
) -> int:
    """A take from a recording (n, 1 or 2) made elsewhere; column 1 is the loopback, without it the `sweep` is known.

    Raises UnusableError where no take can be made of it; nothing is stored then.
    """
    space.layout(slug).driver(channel)
    samples = as_kept(samples)
    microphone = samples[:, 0]
    if sweep is not None:
        check_recording(microphone, rate, sweep.length / rate)
    timed = samples.shape[1] > 1
    if timed:
        reference = samples[:, 1]
        if np.abs(reference).max() < 1e-4:
            raise UnusableError(
                "the second channel, which should be the loopback, is silent: leave it out or connect it"
            )
        read_recording(microphone, reference, rate, timed=True)
    else:
        assert sweep is not None
        reference = exponential_sweep(sweep).samples
        untimed(microphone, reference, rate)
    return _keep_from_outside(
        space, slug, channel, "file", timed, rate, {"microphone": microphone, "reference": reference}, note
    )


def add_impulse(space: Workspace, slug: str, channel: str, samples: FloatArray, rate: int, note: str) -> int:
    """A take from an impulse response (n,); its first sample is time zero."""
    space.layout(slug).driver(channel)
    early = as_kept(np.concatenate((np.zeros(round(EARLY_S * rate)), samples)))
    if not np.abs(early).max() > LEAST_PEAK:
        raise UnusableError("the impulse response is silent")
    read_impulse(Impulse(early, rate, round(EARLY_S * rate)), timed=True)
    return _keep_from_outside(space, slug, channel, "impulse", True, rate, {"impulse": early}, note)


def add_curve(space: Workspace, slug: str, channel: str, curve: TextCurve, note: str) -> int:
    """A take from a response as text, in dB SPL; without degrees it shows levels only."""
    space.layout(slug).driver(channel)
    where = np.log2(curve.frequencies)
    grid = np.log2(space.grid)
    levels = np.interp(grid, where, curve.levels, left=np.nan, right=np.nan)
    if np.isfinite(levels).sum() < 12:
        raise UnusableError(
            f"the curve runs from {curve.frequencies[0]:g} to {curve.frequencies[-1]:g} Hz: "
            "next to nothing of it lies between 20 Hz and 20 kHz"
        )
    phase = np.zeros(grid.size)
    if curve.degrees is not None:
        phase = np.interp(grid, where, np.unwrap(np.radians(curve.degrees)))
    values = ratio(levels - space.offset_db) * np.exp(1j * phase)
    return _keep_from_outside(
        space,
        slug,
        channel,
        "text",
        curve.degrees is not None,
        space.interface.rate,
        {"response": np.stack((values.real, values.imag))},
        note,
    )


def _keep_from_outside(
    space: Workspace,
    slug: str,
    channel: str,
    method: Method,
    timed: bool,
    rate: int,
    arrays: dict[str, FloatArray],
    note: str,
) -> int:
    # It was made where the rig says that the microphone is. A recording went through that microphone, where a person
    # works by files; a response may have been corrected by whoever made it.
    chosen = rig.rig(space)
    details = Details(position=rig.held_at(space, slug).name)
    if method == "file" and chosen.device == FILE:
        details = details.model_copy(update={"correction": chosen.correction, "pointing": chosen.pointing})
    return keep(
        space,
        slug,
        channels=(channel,),
        purpose="driver",
        method=method,
        timed=timed,
        through=neutral_full(space.layout(slug)),
        rate=rate,
        arrays=arrays,
        details=details,
        note=note,
    )


def neutral_full(layout: Layout) -> Tune:
    """Neutral without guards: what material from outside is taken to have come through."""
    tune = neutral(layout)
    for driver in layout.drivers:
        tune = tune.with_channel(driver.id, high_pass=None)
    return tune
