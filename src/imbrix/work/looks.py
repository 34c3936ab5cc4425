"""How the takes of a driver lie beside each other: shown, coloured, shifted, locked, averaged, aligned, in force."""

from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.averaging import complex_mean, level_apart, rms_mean
from imbrix.core.layout import Value
from imbrix.core.signal import FloatArray, decibels
from imbrix.core.smoothing import Fraction, smooth_db
from imbrix.work import documents
from imbrix.work.bringing import neutral_full
from imbrix.work.desk import ConflictError, Desk, NotHereError
from imbrix.work.forces import chosen, forces
from imbrix.work.picture import Picture
from imbrix.work.takes import Details, Take, bare, keep, take, takes

COLOURS = 6
MOST_AVERAGED = 64
Mean = Literal["rms", "complex"]


class Look(Value):
    """How a take is drawn: whether, in which of the colours (from 1), shifted by how much; and whether it is locked:
    not to be set aside, and in force until it is unlocked."""

    shown: bool = False
    colour: int = Field(default=1, ge=1, le=COLOURS)
    offset_db: float = Field(default=0.0, ge=-100, le=100, allow_inf_nan=False)
    locked: bool = False


def looks(desk: Desk, slug: str) -> dict[int, Look]:
    """The looks of all takes that were given one."""
    found = documents.read(desk, f"looks:{slug}") or {}
    return {int(number): Look.model_validate(value) for number, value in found.items()}


def give(desk: Desk, slug: str, take_id: int, look: Look) -> None:
    """Give a take a look. Raises NotHereError, ConflictError for a lock where another take is locked."""
    one = take(desk, slug, take_id)
    now = looks(desk, slug)
    if look.locked and one.discarded:
        raise ConflictError("this take is set aside: bring it back before it is locked")
    if look.locked and not now.get(take_id, Look()).locked:
        force(desk, slug, take_id)
    kept = {str(number): value.model_dump() for number, value in {**now, take_id: look}.items()}
    documents.write(desk, f"looks:{slug}", kept)


def force(desk: Desk, slug: str, take_id: int) -> None:
    """Let predictions go by this take, until a newer one is made. Raises NotHereError, ConflictError."""
    one = take(desk, slug, take_id)
    if one.purpose != "driver":
        raise ConflictError("only a driver's take can be in force")
    if one.discarded:
        raise ConflictError("this take is set aside: bring it back first")
    locked = [n for n, look in looks(desk, slug).items() if look.locked and n != take_id]
    for number in locked:
        other = take(desk, slug, number)
        if other.channels == one.channels and other.levels_only == one.levels_only:
            raise ConflictError(f"take {number} is locked in force: unlock it first")
    wanted = chosen(desk, slug)
    key = "moving" if one.levels_only else "fixed"
    wanted[one.channels[0]] = {**wanted.get(one.channels[0], {}), key: take_id}
    documents.write(desk, f"force:{slug}", wanted)


def without_moving(desk: Desk, slug: str, channel: str, without: bool) -> None:
    """Let a driver's magnitudes come from one spot although a moving microphone was there, or from that again."""
    desk.layout(slug).driver(channel)
    wanted = chosen(desk, slug)
    mine = {name: number for name, number in wanted.get(channel, {}).items() if name != "moving"}
    wanted[channel] = {**mine, "moving": 0} if without else mine
    documents.write(desk, f"force:{slug}", wanted)


def average(desk: Desk, slug: str, take_ids: tuple[int, ...], kind: Mean) -> int:
    """A new take of the takes' mean, bare. Raises ConflictError where they cannot be averaged."""
    if not 2 <= len(set(take_ids)) <= MOST_AVERAGED:
        raise ConflictError(f"an average needs two to {MOST_AVERAGED} takes: show them first")
    found = [take(desk, slug, number) for number in dict.fromkeys(take_ids)]
    channels = {one.channels for one in found}
    if len(channels) > 1 or any(one.purpose != "driver" for one in found):
        raise ConflictError("only takes of one driver can be averaged")
    timed = kind == "complex"
    if timed and (not all(one.timed for one in found) or len({one.clock for one in found}) > 1):
        raise ConflictError("a complex mean needs takes whose time was kept by one clock: take the rms mean")
    curves = np.array([bare(desk, one) for one in found])
    values = complex_mean(curves) if timed else rms_mean(curves).astype(complex)
    if np.isfinite(values).sum() < 12:
        raise ConflictError("these takes share next to no band")
    numbers = ", ".join(str(one.id) for one in found)
    return keep(
        desk,
        slug,
        channels=found[0].channels,
        purpose="driver",
        method="average",
        timed=timed,
        through=neutral_full(desk.layout(slug)),
        rate=found[0].rate,
        arrays={"response": np.stack((values.real, values.imag))},
        details=Details(averages=len(found), clock=found[0].details.clock if timed else "", of=take_ids),
        note=f"{kind} mean of takes {numbers}",
    )


def align(desk: Desk, slug: str, channel: str, low_hz: float, high_hz: float) -> None:
    """Shift the shown takes of a driver so that over a span their mean level is that of the one in force.

    Raises ConflictError where one shares nothing with it there; nothing is shifted then.
    """
    against = _in_force(desk, slug, channel)
    base = _levels(desk, against)
    now = looks(desk, slug)
    shifted = dict(now)
    for one in shown(desk, slug, channel):
        if one.id == against.id:
            continue
        try:
            offset = level_apart(_levels(desk, one), base, desk.grid, low_hz, high_hz)
        except ValueError as error:
            raise ConflictError(f"take {one.id}: {error}") from error
        shifted[one.id] = now[one.id].model_copy(update={"offset_db": round(float(np.clip(offset, -100, 100)), 2)})
    documents.write(desk, f"looks:{slug}", {str(number): look.model_dump() for number, look in shifted.items()})


def _in_force(desk: Desk, slug: str, channel: str) -> Take:
    found = forces(desk, slug).get(channel)
    if found is None:
        raise NotHereError(f"there is no take of {channel} in force")
    return found.take


def _levels(desk: Desk, one: Take) -> FloatArray:
    values = bare(desk, one)
    known = np.isfinite(values)
    return np.where(known, decibels(np.where(known, values, 1.0)), np.nan)


def shown(desk: Desk, slug: str, channel: str) -> list[Take]:
    """The takes of a driver that are to be drawn beside the one in force, oldest first."""
    now = looks(desk, slug)
    here = [one for one in takes(desk, slug) if one.purpose == "driver" and one.channels == (channel,)]
    return [one for one in reversed(here) if one.id in now and now[one.id].shown and not one.discarded]


def draw(desk: Desk, slug: str, picture: Picture, channel: str, smoothing: Fraction, difference: bool) -> None:
    """Add the shown takes of a driver in their colours; below, how each differs from the one in force."""
    now = looks(desk, slug)
    found = forces(desk, slug).get(channel)
    for one in shown(desk, slug, channel):
        if found is None or one.id == found.take.id:
            continue
        values = _smoothed(desk, one, smoothing) + now[one.id].offset_db
        label = f"take {one.id}" + (f" {now[one.id].offset_db:+.1f} dB" if now[one.id].offset_db else "")
        role = f"look-{now[one.id].colour}"
        picture.add(f"take-{one.id}", values + desk.offset_db, role, label=label)
        if difference:
            apart = values - _smoothed(desk, found.take, smoothing)
            picture.add(f"apart-{one.id}", apart, role, pane="lower", label=f"take {one.id} − take {found.take.id}")


def _smoothed(desk: Desk, one: Take, smoothing: Fraction) -> FloatArray:
    values = bare(desk, one)
    known = np.isfinite(values)
    return np.where(known, smooth_db(np.where(known, values, 0), desk.grid, smoothing), np.nan)
