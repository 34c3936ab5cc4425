"""How the takes of a driver lie beside each other: shown, coloured, shifted, locked, averaged, aligned, in force."""

from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError, InvalidError, NotHereError
from imbrix.core.signal.averaging import complex_mean, level_apart, rms_mean
from imbrix.core.signal.signal import FloatArray, decibels
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.files import neutral_full
from imbrix.work.takes.forces import forces
from imbrix.work.takes.reading import bare
from imbrix.work.takes.shelf import Details, Take, keep, take, takes

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


def looks(space: Workspace, slug: str) -> dict[int, Look]:
    """The looks of all takes that were given one."""
    return dict(documents.made(space, f"looks:{slug}", _read))


def _read(found: documents.Document | None) -> dict[int, Look]:
    kept = {int(number): value for number, value in (found or {}).items() if number.isdigit()}
    return {number: stored(Look, value, "how the takes are drawn") for number, value in kept.items()}


def give(space: Workspace, slug: str, take_id: int, look: Look) -> None:
    """Give a take a look. Raises NotHereError, ConflictError for a lock where another take is locked."""
    with space.lock:
        one = take(space, slug, take_id)
        now = looks(space, slug)
        if look.locked and one.discarded:
            raise ConflictError("this take is set aside: bring it back before it is locked")
        if look.locked and not now.get(take_id, Look()).locked:
            force(space, slug, take_id)
        documents.change(space, f"looks:{slug}", lambda kept: {**kept, str(take_id): look.model_dump()})


def force(space: Workspace, slug: str, take_id: int) -> None:
    """Let predictions go by this take, until a newer one is made. Raises NotHereError, ConflictError."""
    one = take(space, slug, take_id)
    if one.purpose != "driver":
        raise ConflictError("only a driver's take can be in force")
    if one.discarded:
        raise ConflictError("this take is set aside: bring it back first")
    locked = [n for n, look in looks(space, slug).items() if look.locked and n != take_id]
    for number in locked:
        other = take(space, slug, number)
        if other.channels == one.channels and other.levels_only == one.levels_only:
            raise ConflictError(f"take {number} is locked in force: unlock it first")
    key, channel = "moving" if one.levels_only else "fixed", one.channels[0]
    documents.change(space, f"force:{slug}", lambda kept: {**kept, channel: {**kept.get(channel, {}), key: take_id}})


def without_moving(space: Workspace, slug: str, channel: str, without: bool) -> None:
    """Let a driver's magnitudes come from one spot although a moving microphone was there, or from that again."""
    space.layout(slug).driver(channel)

    def do(kept: documents.Document) -> documents.Document:
        mine = {name: number for name, number in kept.get(channel, {}).items() if name != "moving"}
        return {**kept, channel: {**mine, "moving": 0} if without else mine}

    documents.change(space, f"force:{slug}", do)


def average(space: Workspace, slug: str, take_ids: tuple[int, ...], kind: Mean) -> int:
    """A new take of the takes' mean, bare. Raises ConflictError where they cannot be averaged."""
    if not 2 <= len(set(take_ids)) <= MOST_AVERAGED:
        raise ConflictError(f"an average needs two to {MOST_AVERAGED} takes: show them first")
    found = [take(space, slug, number) for number in dict.fromkeys(take_ids)]
    channels = {one.channels for one in found}
    if len(channels) > 1 or any(one.purpose != "driver" for one in found):
        raise ConflictError("only takes of one driver can be averaged")
    timed = kind == "complex"
    if timed and (not all(one.timed for one in found) or len({one.clock for one in found}) > 1):
        raise ConflictError("a complex mean needs takes whose time was kept by one clock: take the rms mean")
    curves = np.array([bare(space, one) for one in found])
    values = complex_mean(curves) if timed else rms_mean(curves).astype(complex)
    if np.isfinite(values).sum() < 12:
        raise ConflictError("these takes share next to no band")
    numbers = ", ".join(str(one.id) for one in found)
    return keep(
        space,
        slug,
        channels=found[0].channels,
        purpose="driver",
        method="average",
        timed=timed,
        through=neutral_full(space.layout(slug)),
        rate=found[0].rate,
        arrays={"response": np.stack((values.real, values.imag))},
        details=Details(averages=len(found), clock=found[0].details.clock if timed else "", of=take_ids),
        note=f"{kind} mean of takes {numbers}",
    )


def align(space: Workspace, slug: str, channel: str, low_hz: float, high_hz: float) -> None:
    """Shift the shown takes of a driver so that over a span their mean level is that of the one in force.

    Raises ConflictError where one shares nothing with it there; nothing is shifted then.
    """
    against = _in_force(space, slug, channel)
    base = _levels(space, against)
    offsets: dict[int, float] = {}
    for one in shown(space, slug, channel):
        if one.id == against.id:
            continue
        try:
            offset = level_apart(_levels(space, one), base, space.grid, low_hz, high_hz)
        except InvalidError as error:
            raise ConflictError(f"take {one.id}: {error}") from error
        offsets[one.id] = round(float(np.clip(offset, -100, 100)), 2)

    def do(kept: documents.Document) -> documents.Document:
        return {**kept, **{str(n): {**kept.get(str(n), {}), "offset_db": db} for n, db in offsets.items()}}

    documents.change(space, f"looks:{slug}", do)


def _in_force(space: Workspace, slug: str, channel: str) -> Take:
    found = forces(space, slug).get(channel)
    if found is None:
        raise NotHereError(f"there is no take of {channel} in force")
    return found.take


def _levels(space: Workspace, one: Take) -> FloatArray:
    values = bare(space, one)
    known = np.isfinite(values)
    return np.where(known, decibels(np.where(known, values, 1.0)), np.nan)


def shown(space: Workspace, slug: str, channel: str) -> list[Take]:
    """The takes of a driver that are to be drawn beside the one in force, oldest first."""
    now = looks(space, slug)
    here = [one for one in takes(space, slug) if one.purpose == "driver" and one.channels == (channel,)]
    return [one for one in reversed(here) if one.id in now and now[one.id].shown and not one.discarded]
