"""Which driver a file is of, by its name: what people call their recordings is all that is known of them."""

import re
import unicodedata
from collections.abc import Iterable

from imbrix.core.system.layout import Driver

SIDES = {"left": "left", "l": "left", "lh": "left", "right": "right", "r": "right", "rh": "right"}
KINDS = {
    "sub": "sub",
    "subwoofer": "sub",
    "woofer": "woofer",
    "bass": "midbass",
    "midbass": "midbass",
    "mid": "mid",
    "midrange": "mid",
    "tweeter": "tweeter",
    "treble": "tweeter",
    "full": "full",
}
OUTPUT = re.compile(r"(?:output|out|channel|ch)[ _-]?(\d{1,2})(?!\d)")


def words(text: str) -> list[str]:
    """The words of a name in small letters: `Mid-L (2)` has `mid`, `l` and `2`; `MidL` has `mid` and `l`."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    apart = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", plain)
    return re.findall(r"[a-z]+|\d+", apart.lower())


def driver_named(name: str, drivers: Iterable[Driver]) -> Driver | None:
    """The driver that a file's name tells of, None where it tells of none or of several.

    By the driver's own name or id as words of it, else by kind, side and group, else by the output (`out 3`).

    Parameters
    ----------
    name
        With or without an ending; folders before it do not count.
    drivers
        Those that it may be.

    Examples
    --------
    `Mid L, second try.wav`, `tweeter_right.wav` and `out3.wav` each tell of one driver of a three-way front;
    `left.wav` does not.
    """
    known = list(drivers)
    stem = re.split(r"[\\/]", name)[-1].rsplit(".", 1)[0]
    said = words(stem)
    by_name = [one for one in known if _within(words(one.name), said) or _within(words(one.id), said)]
    # A name may be part of another one: Mid L of Mid L rear.
    longest = max((len(words(one.name)) for one in by_name), default=0)
    by_name = [one for one in by_name if len(words(one.name)) == longest]
    if len(by_name) == 1:
        return by_name[0]
    kinds = {KINDS[one] for one in said if one in KINDS}
    if {"mid", "bass"} <= set(said):
        kinds = {"midbass"}
    sides = {SIDES[one] for one in said if one in SIDES}
    if len(kinds) == 1 and len(sides) <= 1:
        groups = {one.group for one in known if one.group in said}
        fits = [
            one
            for one in known
            if one.kind in kinds and one.side in (sides or {one.side}) and one.group in (groups or {one.group})
        ]
        if len(fits) == 1:
            return fits[0]
    output = OUTPUT.search(stem.lower())
    return next((one for one in known if output and one.output == int(output[1])), None)


def _within(name: list[str], said: list[str]) -> bool:
    """Whether the words of a name stand in a row among those that were said."""
    return bool(name) and any(said[n : n + len(name)] == name for n in range(len(said) - len(name) + 1))
