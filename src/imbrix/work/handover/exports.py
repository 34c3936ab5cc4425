"""What leaves the project as files: curves, impulses, settings, coefficients, the sweep with its description."""

from typing import Literal

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.measure.reading import EARLY_S
from imbrix.core.signal.signal import decibels
from imbrix.formats.coefficients import sections_json
from imbrix.formats.settings import settings_csv, settings_json
from imbrix.formats.text_curve import write_curve
from imbrix.formats.wav import write_wav
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.reading import bare, mended_impulse, reading
from imbrix.work.takes.shelf import take
from imbrix.work.tune.revisions import head

Sheet = Literal["settings.json", "settings.csv", "sections.json"]


def sheet(space: Workspace, slug: str, which: Sheet) -> str:
    """The present revision as one of the settings files."""
    now = head(space, slug)
    layout = space.layout(slug)
    model = processors.model(space, slug)
    title = f"{slug}, revision {now.number}"
    if which == "settings.csv":
        return settings_csv(now.tune, layout, model.inputs)
    if which == "settings.json":
        return settings_json(now.tune, layout, model.inputs, title)
    return sections_json(now.tune, layout, model.inputs, model.rate, title)


def response_text(space: Workspace, slug: str, take_id: int) -> str:
    """The response of a take as text: of a driver bare, of a proof as it was measured."""
    one = take(space, slug, take_id)
    if not one.acoustic:
        raise ConflictError(f"take {take_id} is no response of a driver or of the whole")
    values = bare(space, one) if one.purpose == "driver" else reading(space, one).response
    known = np.isfinite(values)
    degrees = np.zeros(values.size)
    degrees[known] = np.degrees(np.angle(values[known]))
    levels = np.where(known, decibels(np.where(known, values, 1.0)) + space.offset_db, np.nan)
    names = ", ".join(space.layout(slug).driver(name).name for name in one.channels)
    phase = degrees if one.timed else None
    return write_curve(space.grid, levels, phase, f"{names}, take {take_id}, dB SPL at -24 dBFS drive")


def impulse_wav(space: Workspace, slug: str, take_id: int, seconds: float = 0.6) -> bytes:
    """The impulse response of a take as 32-bit float WAV, its first sample at time zero, filters included."""
    one = take(space, slug, take_id)
    if not one.has_impulse:
        raise ConflictError("this take shows levels only: it has no impulse response")
    shows = mended_impulse(space, one)
    first = shows.zero if one.timed else max(0, shows.zero - round(EARLY_S * shows.rate))
    return write_wav(shows.samples[first : first + round(seconds * shows.rate)], shows.rate, "FLOAT")
