"""In which order channels are voiced: common practice, no source."""

from imbrix.core.system.layout import Group, Kind, Layout

_FIRST = (Kind.FULL, Kind.MID, Kind.TWEETER, Kind.MIDBASS, Kind.WOOFER, Kind.SUB)
"""The far side's mid sets the level of the system, then its tweeter."""
_GROUPS = {Group.FRONT: 0, Group.SUB: 0, Group.CENTRE: 1, Group.REAR: 2}
"""Centre and rear follow what stands in front."""


def work_order(layout: Layout) -> tuple[str, ...]:
    """Ids of all drivers: the far side first, then what is mono, then the near side to match; each front first."""
    far = "right" if layout.seat == "left" else "left"

    def rank(index: int) -> tuple[int, int, int, int]:
        one = layout.drivers[index]
        side = 0 if one.side == far else 1 if one.side == "both" else 2
        return side, _GROUPS[one.group], _FIRST.index(one.kind), index

    return tuple(layout.drivers[n].id for n in sorted(range(len(layout.drivers)), key=rank))
