"""What is wrong with a layout, and what could give way where a processor has too few outputs for it."""

import re
from collections.abc import Iterator

from imbrix.core.system.layout import RANK, SIDES, Driver, Group, Kind, Layout, Side
from imbrix.core.system.layouts import GROUP_NAMES, fits
from imbrix.core.value import Value

_ID = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
MOST_NAME = 40


class Way(Value):
    """A way out: what it does in words, and the layout that it leads to."""

    says: str
    layout: Layout


class Remark(Value):
    """Something about a layout; `bars` means that it cannot be used so. `ways_out` put it right, or help."""

    says: str
    bars: bool
    ways_out: tuple[Way, ...] = ()


def remarks(layout: Layout, outputs: int) -> list[Remark]:
    """Too many channels, two drivers on one output, outputs beyond the processor's, doubles, and outputs left over."""
    if not layout.drivers:
        return [Remark(says="there is no driver", bars=True)]
    found = list(_too_many(layout, outputs))
    for one in layout.drivers:
        found += [Remark(says=says, bars=True) for says in _badly_named(one)]
        found += [Remark(says=says, bars=True) for says in _misplaced(one)]
    found += _clashes(layout, outputs)
    left = sorted(set(range(1, outputs + 1)) - {one.output for one in layout.drivers})
    if left and not any(one.bars for one in found):
        names = ", ".join(map(str, left))
        found.append(Remark(says=f"output{'s' if len(left) > 1 else ''} {names} not used", bars=False))
    return found


def _badly_named(one: Driver) -> list[str]:
    found = []
    if not _ID.fullmatch(one.id):
        shown = one.id if len(one.id) <= 40 else f"{one.id[:40]}…"
        found.append(f"the id {shown!r} is not one: small letters, figures and hyphens, at most 40 of them")
    if not one.name.strip() or not one.name.isprintable() or len(one.name) > MOST_NAME:
        found.append(f"the driver {one.id[:40]!r} needs a name of 1 to {MOST_NAME} characters that can be read")
    return found


def _misplaced(one: Driver) -> list[str]:
    if fits(one.group, one.kind):
        return []
    if one.kind == Kind.SUB:
        return [f"{one.name} is a sub, so it belongs to the subs, not to the {GROUP_NAMES[one.group].lower()}"]
    return [f"{one.name} is no sub: it belongs to the front, the centre or the rear"]


def _clashes(layout: Layout, outputs: int) -> Iterator[Remark]:
    used: dict[int, str] = {}
    seen: dict[tuple[Group, Kind, Side], str] = {}
    for one in layout.drivers:
        if one.output in used:
            yield Remark(says=f"{used[one.output]} and {one.name} share output {one.output}", bars=True)
        used.setdefault(one.output, one.name)
        if not 1 <= one.output <= outputs and len(layout.drivers) <= outputs:  # too many is said once, for all
            yield Remark(says=f"{one.name} is on output {one.output}; the processor has 1 to {outputs}", bars=True)
        here = (one.group, one.kind)
        if one.group != Group.SUB:
            if (*here, one.side) in seen:
                yield Remark(says=f"there are two drivers {one.name}", bars=True)
            elif any((*here, side) in seen for side in _others(one.side)):
                yield Remark(says=f"{one.name} is there as a mono way and as a side", bars=True)
        seen[(*here, one.side)] = one.name
    if len({one.id for one in layout.drivers}) < len(layout.drivers):
        yield Remark(says="two drivers have the same id", bars=True)


def _others(side: Side) -> tuple[Side, ...]:
    return SIDES if side == "both" else ("both",)


def _too_many(layout: Layout, outputs: int) -> Iterator[Remark]:
    count = len(layout.drivers)
    if count <= outputs:
        return
    ways = [way for way in (_joined_subs(layout), *map(lambda g: _passive(layout, g), Group)) if way is not None]
    says = f"{count} drivers, but the processor has {outputs} outputs"
    yield Remark(says=says, bars=True, ways_out=tuple(ways))


def _joined_subs(layout: Layout) -> Way | None:
    """All subs on one output: they get the same signal, and their distances can no longer be made up for."""
    if len(layout.subs) < 2:
        return None
    first, *rest = layout.subs
    joined = first.model_copy(update={"name": "Subs", "side": "both"})
    left = [joined if one.id == first.id else one for one in layout.drivers if one not in rest]
    frees = _frees(len(rest))
    return Way(says=f"join the subs on one output (frees {frees})", layout=_renumbered(layout, left))


def _passive(layout: Layout, group: Group) -> Way | None:
    """All ways of a group and side behind a passive network on one output."""
    if group in (Group.SUB, layout.main):
        return None
    gone: set[str] = set()
    made: dict[str, Driver] = {}
    for side in dict.fromkeys(one.side for one in layout.drivers if one.group == group):
        ways = sorted(
            (one for one in layout.drivers if (one.group, one.side) == (group, side)), key=lambda one: RANK[one.kind]
        )
        if len(ways) > 1:
            lowest, *higher = ways
            made[lowest.id] = lowest.model_copy(update={"passive_to": higher[-1].kind})
            gone |= {one.id for one in higher}
    if not gone:
        return None
    left = [made.get(one.id, one) for one in layout.drivers if one.id not in gone]
    says = f"make the {GROUP_NAMES[group].lower()} passive (frees {_frees(len(gone))})"
    return Way(says=says, layout=_renumbered(layout, left))


def _frees(count: int) -> str:
    return f"{count} output{'s' if count > 1 else ''}"


def _renumbered(layout: Layout, drivers: list[Driver]) -> Layout:
    numbered = (one.model_copy(update={"output": n}) for n, one in enumerate(drivers, 1))
    return layout.model_copy(update={"drivers": tuple(numbered)})
