"""How sure a person is who told two sounds apart so often."""

import scipy  # its special part loads at first use: the start need not wait for it

SURE = 0.05
"""What guessing does so rarely is taken for hearing (common practice)."""


def chance(right: int, count: int) -> float:
    """How likely it is to be right so often of `count` times, or more often, by guessing between two.

    The upper tail of the binomial distribution with one half; 1 where nothing was tried, or nothing told.
    """
    return float(scipy.special.bdtrc(right - 1, count, 0.5)) if right > 0 else 1.0


def needed(count: int) -> int | None:
    """How often one has to be right of `count` times so that it is no guessing; None where no number is enough."""
    return next((right for right in range(count + 1) if chance(right, count) <= SURE), None)


def verdict(right: int, count: int) -> str:
    """What so many trials say, in a sentence."""
    if not count:
        return "nothing was tried yet"
    told, by_chance = f"{right} of {count} right", chance(right, count)
    if by_chance <= SURE:
        return f"{told}: by guessing {100 * by_chance:.1g} times in a hundred, so there is a difference"
    more = next(n for n in range(1, 200) if chance(right + n, count + n) <= SURE)
    often = f"by guessing {100 * by_chance:.0f} times in a hundred"
    return f"{told}: {often}, which shows no difference yet; {more} more without a mistake would"
