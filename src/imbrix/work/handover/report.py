"""What the customer is told: before and after, what was done, how it is set, in plain words."""

from datetime import datetime

import numpy as np

import imbrix
from imbrix.core.signal.measures import Deviation, deviation
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Driver, Layout
from imbrix.core.tune.tune import Channel, neutral
from imbrix.formats.report import Line, Report, html
from imbrix.work.audition.notes import notes
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace, project_row
from imbrix.work.handover import logo
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.takes.proofs import of_the_whole
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take, takes
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed

SPAN_HZ = (40.0, 16_000.0)
SMOOTHING = 6.0
BASS_DB = 6.0
"""The bass reaches as far down as the level stays within this of the target."""
SPEED_OF_SOUND = 343.0
CLEAR = "A difference of three decibels is clearly heard."
"""Common practice, no source."""


def page(space: Workspace, slug: str, shop: str = "", customer: str = "", today: datetime | None = None) -> str:
    """The report as HTML. Raises NotHereError."""
    return html(_report(space, slug, shop, customer, today))


def document(space: Workspace, slug: str, shop: str = "", customer: str = "", today: datetime | None = None) -> bytes:
    """The same as a PDF. Raises NotHereError."""
    from imbrix.formats.report_pdf import pdf  # loads fonts and pictures: the start need not wait for it

    return pdf(_report(space, slug, shop, customer, today))


def _report(space: Workspace, slug: str, shop: str, customer: str, today: datetime | None) -> Report:
    layout = space.layout(slug)
    tune = head(space, slug).tune
    target = placed(space, slug, tune)
    before, after = _before(space, slug), _after(space, slug)
    lines = [Line(target, "aimed at", "#8a93a0", 1.4, "5 4")]
    if before is not None:
        lines.append(Line(before[0], f"before, {before[1]}", "#c98a4b", 1.2))
    if after is not None:
        lines.append(Line(after[0], f"now, {after[1]}", "#2b4c7e", 2.0))
    with space.session() as session:
        name = project_row(session, slug).name
    return Report(
        title=name,
        shop=shop,
        customer=customer,
        logo=logo.uri(space),
        made=today or datetime.now(),
        summary=_summary(space, target, before, after),
        done=_done(space, slug, layout),
        frequencies=space.grid,
        lines=tuple(lines),
        caption=(
            "The level in dB at the listener's place, from the lowest tones to the highest (in hertz). The dashed "
            "line is the balance that was aimed at; the closer the curve, the more even the sound."
        ),
        settings=_settings(layout, {one.id: tune.channels[one.id] for one in layout.drivers}),
        slots=tuple(f"Slot {n}: {held}" for n, held in sorted(processors.processor(space, slug).slot_names().items())),
        notes=tuple(one.text for one in reversed(notes(space, slug))),
        foot=f"Made with Imbrix {imbrix.__version__}, revision {head(space, slug).number}.",
    )


Heard = tuple[FloatArray, str]
"""A level (n,) in dB, and whether it was `measured` or `computed`."""


def _measured(space: Workspace, one: Take) -> Heard:
    shown = reading(space, one).response
    power = power_decibels(smooth_power(np.nan_to_num(shown), space.grid, SMOOTHING)) + space.offset_db
    return np.where(np.isfinite(shown), power, np.nan), "measured"


def _before(space: Workspace, slug: str) -> Heard | None:
    """The whole as it was: the first recording of it, else as the drivers' takes say it was without a tune."""
    whole = list(of_the_whole(space, slug))
    if len(whole) > 1:
        return _measured(space, whole[-1])
    return _computed(space, slug, as_it_came=True)


def _after(space: Workspace, slug: str) -> Heard | None:
    """The whole as it is: the last recording of it, else as it is predicted."""
    newest = next(of_the_whole(space, slug), None)
    return _measured(space, newest) if newest is not None else _computed(space, slug, as_it_came=False)


def _computed(space: Workspace, slug: str, as_it_came: bool) -> Heard | None:
    now = scene(space, slug, spatial=True)
    if not now.ids:
        return None
    tune = neutral(space.layout(slug)) if as_it_came else head(space, slug).tune
    power = whole_power(now, space.grid, predicted(space, now, tune), tune, SMOOTHING)
    return power_decibels(power) + space.offset_db, "computed"


def _summary(space: Workspace, target: FloatArray, before: Heard | None, after: Heard | None) -> tuple[str, ...]:
    if after is None:
        return ("Nothing was measured yet.",)
    now = _strays(space, target, after)
    then = _strays(space, target, before) if before is not None else None
    told = []
    if now is not None and then is not None:
        told.append(
            f"Before, the balance of the sound strayed by up to ±{then.plus_minus:.1f} dB from what was aimed at; "
            f"now it stays within ±{now.plus_minus:.1f} dB, from the deep bass at 40 Hz to the treble at 16 kHz. "
            f"{CLEAR}"
        )
    low = _reaches(space, target, after[0])
    if low is not None:
        told.append(f"The bass reaches down to {low:.0f} Hz.")
    return tuple(told) or ("What was measured does not cover the whole range.",)


def _strays(space: Workspace, target: FloatArray, heard: Heard) -> Deviation | None:
    return deviation(heard[0], target, space.grid, *SPAN_HZ)


def _reaches(space: Workspace, target: FloatArray, values: FloatArray) -> float | None:
    """The lowest frequency from which on the level stays near the target, up to 200 Hz; None where it never does."""
    bass = (space.grid <= 200) & np.isfinite(values)
    if not bass.any():
        return None
    far = np.flatnonzero(bass & (values < target - BASS_DB))
    if far.size == 0:
        return float(space.grid[np.flatnonzero(bass)[0]])
    return float(space.grid[far[-1] + 1]) if space.grid[far[-1] + 1] < 200 else None


def _done(space: Workspace, slug: str, layout: Layout) -> tuple[str, ...]:
    kept = [one for one in takes(space, slug) if not one.discarded]
    tune = head(space, slug).tune
    drivers = {one.channels[0] for one in kept if one.purpose == "driver"}
    ohms = {one.channels[0] for one in kept if one.purpose == "impedance"}
    wholes = sum(one.purpose == "proof" for one in kept)
    crossed = [one for one in layout.drivers if tune.channels[one.id].high_pass or tune.channels[one.id].low_pass]
    delayed = [one for one in layout.drivers if tune.channels[one.id].delay_s > 0]
    equalised = [one for one in layout.drivers if tune.channels[one.id].bands]
    told = [
        (len(drivers), f"{len(drivers)} of {len(layout.drivers)} loudspeakers were measured one by one."),
        (len(ohms), f"The electrical impedance of {len(ohms)} was measured."),
        (len(crossed), f"Each of {len(crossed)} loudspeakers plays the tones that it is made for, and no others."),
        (len(delayed), f"{len(delayed)} were delayed, so that all of them are heard at the same moment."),
        (len(equalised), f"{len(equalised)} were evened out by filters."),
        (len(tune.common), "The sound of all of them together was evened out once more."),
        (wholes, f"The whole was recorded {'once' if wholes == 1 else f'{wholes} times'} to prove it."),
    ]
    return tuple(says for count, says in told if count) or ("Nothing yet.",)


def _settings(layout: Layout, channels: dict[str, Channel]) -> tuple[tuple[str, ...], ...]:
    head_row = ("Loudspeaker", "Plays", "Level", "Delay", "Polarity", "Filters")
    return (head_row, *(_setting(one, channels[one.id]) for one in layout.drivers))


def _setting(driver: Driver, one: Channel) -> tuple[str, ...]:
    low = f"from {one.high_pass.corner_hz:.0f} Hz" if one.high_pass else ""
    high = f"up to {one.low_pass.corner_hz:.0f} Hz" if one.low_pass else ""
    delay = f"{one.delay_s * 1e3:.2f} ms ({one.delay_s * SPEED_OF_SOUND * 100:.0f} cm)" if one.delay_s else "none"
    return (
        driver.name,
        " ".join(filter(None, (low, high))) or "everything",
        f"{one.gain_db:+.1f} dB".replace("-", "−") if not one.muted else "silent",
        delay,
        "turned" if one.inverted else "as wired",
        str(sum(not band.off for band in one.bands)) if one.bands else "none",
    )
