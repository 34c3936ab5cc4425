"""In which order channels are voiced: common practice, no source."""

from imbrix.core.system.layout import Kind, Layout

_FIRST = (Kind.FULL, Kind.MID, Kind.TWEETER, Kind.MIDBASS, Kind.SUB)
"""The far side's mid sets the level of the system, then its tweeter; centre and rear follow what stands in front."""


def work_order(layout: Layout) -> tuple[str, ...]:
    """Ids of all drivers: the far side first, what is mono next, then the near side to match."""
    far = "right" if layout.seat == "left" else "left"
    ranks = {kind: n for n, kind in enumerate(_FIRST)}

    def rank(index: int) -> tuple[int, int, int]:
        one = layout.drivers[index]
        side = 0 if one.side == far else 1 if one.side == "both" else 2
        return side, ranks.get(one.kind, len(ranks)), index

    return tuple(layout.drivers[n].id for n in sorted(range(len(layout.drivers)), key=rank))
