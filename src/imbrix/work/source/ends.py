"""Which wire is which: what each lets through with fader and balance at their ends, and what that makes of it."""

from dataclasses import dataclass
from itertools import combinations
from typing import Literal, get_args

from pydantic import Field

from imbrix.core.system.layout import Group, Side
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.source.feeds import Meant, meant

End = Literal["front", "rear", "left", "right"]
ENDS: tuple[End, ...] = get_args(End)
"""The fader at the front and at the rear, the balance at the left and at the right."""
FALLS_DB = 10.0
"""A wire that loses so much at one end and not at the other hangs on that knob."""


class AtEnds(Value):
    """Levels of a feed in dBFS with the knobs at their ends; None where that was not tried."""

    front: float | None = Field(default=None, ge=-300, le=60)
    rear: float | None = Field(default=None, ge=-300, le=60)
    left: float | None = Field(default=None, ge=-300, le=60)
    right: float | None = Field(default=None, ge=-300, le=60)


@dataclass(frozen=True)
class Found:
    """What a wire turned out to be; None where its knob was not turned to both ends, or does nothing to it."""

    group: Group | None
    side: Side | None

    def is_not(self, what: Meant) -> bool:
        """Whether it speaks against what the input is for."""
        wrong_group = self.group is not None and what.group in (Group.FRONT, Group.REAR) and self.group != what.group
        wrong_side = self.side is not None and what.side != "both" and self.side != what.side
        return wrong_group or wrong_side

    def is_like(self, what: Meant) -> bool:
        """Whether it is what another input is for."""
        return (self.group or what.group, self.side or what.side) == (what.group, what.side)


def known(space: Workspace, slug: str) -> dict[int, AtEnds]:
    """By input what was heard at the ends."""
    found = (documents.read(space, f"source:{slug}") or {}).get("ends", {})
    return {
        int(number): stored(AtEnds, one, "what the knobs of the source do") for number, one in sorted(found.items())
    }


def keep(space: Workspace, slug: str, heard: dict[int, dict[End, float]]) -> None:
    """Keep levels at ends beside those that are known."""
    if not any(heard.values()):
        return

    def put(before: documents.Document) -> documents.Document:
        ends = dict(before.get("ends", {}))
        for number, levels in heard.items():
            ends[str(number)] = {**ends.get(str(number), {}), **levels}
        return {**before, "ends": ends}

    documents.change(space, f"source:{slug}", put)
    space.changed()


def found(space: Workspace, slug: str) -> dict[int, Found]:
    """By input what its wire turned out to be, for those whose knobs were turned to both ends of one at least."""
    told = {}
    for number, one in known(space, slug).items():
        rear = _falls(one.front, one.rear)
        right = _falls(one.left, one.right)
        if rear is None and right is None:
            continue
        group = None if rear is None or rear == 0 else Group.FRONT if rear < 0 else Group.REAR
        side: Side | None = None if right is None or right == 0 else "left" if right < 0 else "right"
        told[number] = Found(group, side)
    return told


def _falls(first: float | None, second: float | None) -> int | None:
    """-1 where a level falls towards the second end, 1 where it rises, 0 where it stays; None where one is unknown."""
    if first is None or second is None:
        return None
    rises = second - first
    return 0 if abs(rises) < FALLS_DB else 1 if rises > 0 else -1


def exchanged(space: Workspace, slug: str) -> tuple[int, int] | None:
    """Two inputs whose wires are each what the other is for, by the knobs; None where there are none."""
    there, are = meant(space, slug), found(space, slug)
    wrong = [number for number, one in are.items() if number in there and one.is_not(there[number])]
    for one, other in combinations(wrong, 2):
        if are[one].is_like(there[other]) and are[other].is_like(there[one]):
            return one, other
    return None


def says(space: Workspace, slug: str) -> list[str]:
    """What the knobs tell of each input, in sentences."""
    there = meant(space, slug)
    said = []
    doubled: dict[tuple[Group | None, Side | None], int] = {}
    for number, one in found(space, slug).items():
        if number not in there:
            continue
        words = " ".join(each for each in (str(one.group) if one.group else "", one.side or "") if each)
        name = there[number].name
        if one.is_not(there[number]):
            said.append(f"Input {number} is meant to be {name.lower()}, and its wire is {words} by the knobs")
        elif one.group is None and one.side is None:
            said.append(f"{name}: no knob does anything to it")
        else:
            said.append(f"{name}: {words} by the knobs, as it should be")
        if one.group and one.side:
            first = doubled.setdefault((one.group, one.side), number)
            if first != number:
                said.append(f"Inputs {first} and {number} both hang on {words}: one wire is there twice")
    return said
