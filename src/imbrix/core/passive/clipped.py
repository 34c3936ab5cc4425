"""Which steps of a network hang on the clips, told by the impedance that is seen there."""

from dataclasses import dataclass
from itertools import product

import numpy as np

from imbrix.core.passive.network import Branch, Network, through
from imbrix.core.signal.signal import ComplexArray, FloatArray

MOST = 20_000
"""So many ways to clip are held against what is seen; of larger networks those alone that lack one step a way."""
AS_GOOD = 1.2
"""Of several that explain it about as well, the one with the least missing is named."""
Ways = tuple[tuple[bool, ...] | None, ...]


@dataclass(frozen=True)
class Clipped:
    """By way which of its steps are in, None where the whole way is out, and how far off the impedance is, rms, as a
    share of it."""

    ways: Ways
    off: float


def only(branch: Branch, steps: tuple[bool, ...]) -> Branch:
    """A way with some of its steps: of those that are out a series one is bridged, a shunt one open."""
    kept = tuple(step for step, there in zip(branch.steps, steps, strict=True) if there)
    return branch.model_copy(update={"steps": kept})


def recognise(network: Network, ohms: dict[str, ComplexArray], frequencies: FloatArray, seen: ComplexArray) -> Clipped:
    """What is clipped, of a network whose drivers have `ohms` (n,), by what is `seen` (n,) in ohm at `frequencies`."""
    all_of = [list(product((True, False), repeat=len(one.steps))) for one in network.branches]
    if np.prod([len(one) + 1 for one in all_of]) > MOST:
        all_of = [[each for each in one if each.count(False) <= 1] for one in all_of]
    siemens = [
        np.array(
            [
                np.zeros(frequencies.size),
                *(1 / through(only(one, each), ohms[one.driver], frequencies)[1] for each in some),
            ]
        )
        for one, some in zip(network.branches, all_of, strict=True)
    ]
    names: list[list[tuple[bool, ...] | None]] = [[None, *some] for some in all_of]
    found: list[tuple[float, int, Ways]] = []
    for others in product(*(range(len(one)) for one in names[1:])):
        beside = np.sum([one[k] for one, k in zip(siemens[1:], others, strict=True)], axis=0)
        whole = siemens[0] + beside
        off = np.abs(np.log(np.maximum(np.abs(whole * seen), 1e-9)) + 1j * np.angle(whole * seen))
        for k, error in enumerate(np.sqrt(np.mean(off**2, axis=1))):
            ways = (names[0][k], *(one[n] for one, n in zip(names[1:], others, strict=True)))
            missing = sum(
                len(b.steps) + 1 if w is None else w.count(False) for b, w in zip(network.branches, ways, strict=True)
            )
            found.append((float(error), missing, ways))
    best = min(found)[0]
    error, _, ways = min((one for one in found if one[0] <= AS_GOOD * best), key=lambda one: (one[1], one[0]))
    return Clipped(ways, error)
