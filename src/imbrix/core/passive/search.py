"""The values of a network's parts searched for: towards the shape of each way, the sum, and a load that is allowed.

Least squares of levels in decibels from several starts, then values that are sold, one part after another, the others
moving along; what the parts' tolerance makes of it by chance draws.
"""

from dataclasses import dataclass, field

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.passive.network import PARTS, Network, PartKind, load, through
from imbrix.core.passive.textbook import Series, around, nearest
from imbrix.core.patience import goes_on
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels

JUDGED_DB = -24.0
"""A way's own shape counts down to here."""
OWN, SUM, LOAD, LOSS = 0.5, 1.0, 30.0, 0.02
"""What a decibel of a way's own shape, of the sum, an ohm too little and a decibel of loss weigh."""
PULL = 0.03
"""What a part weighs that is e times what is usual: one that hardly does anything stays a part that can be bought."""
SAFE, MARGIN = 1.005, 1.03
"""The load is kept so much over what the amplifier allows, and aimed at by so much: between points it may dip."""
BARRED = 1000.0
REACH = np.log(5.0)
"""So far, up or down, a value may go from what is usual."""
STARTS = 6
DRAWS = 200


@dataclass(frozen=True)
class Scene:
    """What a network is judged by, on `frequencies` (n,): by driver its impedance in ohm and its bare response, both
    (n,) complex, and the level in dB that it shall have; that of the sum; the least ohms that the amplifier allows.

    `usual` (k,) are values of the parts that a search stays about, those of a textbook say; none where that is all the
    same.
    """

    frequencies: FloatArray
    ohms: dict[str, ComplexArray]
    bare: dict[str, ComplexArray]
    own_db: dict[str, FloatArray]
    sum_db: FloatArray
    span: np.ndarray
    least_ohm: float
    usual: FloatArray = field(default_factory=lambda: np.zeros(0))


@dataclass(frozen=True)
class Judged:
    """How far the sum is from its target in dB, rms and worst, how much softer or louder it is than the lowest driver
    alone, and what the amplifier sees at least, in ohm, where in hertz and by how many degrees there."""

    rms_db: float
    worst_db: float
    level_db: float
    least_ohm: float
    least_hz: float
    degrees: float


Place = tuple[int, int, PartKind]


def places(network: Network) -> list[Place]:
    """Where each part stands: branch, step, kind."""
    return [
        (b, n, kind)
        for b, branch in enumerate(network.branches)
        for n, step in enumerate(branch.steps)
        for kind in step.parts
    ]


def values(network: Network) -> FloatArray:
    """The values (k,) of all parts, in the order of `places`."""
    return np.array([getattr(network.branches[b].steps[n], kind) for b, n, kind in places(network)])


def with_values(network: Network, found: FloatArray) -> Network:
    """The network with other values (k,)."""
    left = iter(np.asarray(found, dtype=float).tolist())
    branches = []
    for branch in network.branches:
        steps = []
        for step in branch.steps:
            update: dict[str, object] = {kind: next(left) for kind in PARTS if getattr(step, kind) is not None}
            steps.append(step.model_copy(update=update))
        branches.append(branch.model_copy(update={"steps": tuple(steps)}))
    return network.model_copy(update={"branches": tuple(branches)})


def heard(scene: Scene, network: Network) -> dict[str, ComplexArray]:
    """What each way sounds like (n,) through its ladder."""
    return {
        one.driver: scene.bare[one.driver] * through(one, scene.ohms[one.driver], scene.frequencies)[0]
        for one in network.branches
    }


def residuals(scene: Scene, network: Network, level_db: float) -> FloatArray:
    """What is squared and summed: errors in dB of each way and of the sum, ohms too few, and loss."""
    sounds = heard(scene, network)
    points = np.sqrt(max(1, scene.frequencies.size))
    found = []
    for name, one in sounds.items():
        target = scene.own_db[name]
        judged = scene.span & (target - scene.sum_db > JUDGED_DB)
        error = (decibels(np.abs(one)) - target - level_db)[judged]
        found.append(OWN * np.clip(error, -40, 40) / points)
    whole = np.sum(list(sounds.values()), axis=0)
    found.append(SUM * np.clip(decibels(np.abs(whole)) - scene.sum_db - level_db, -40, 40)[scene.span] / points)
    ohms = np.abs(_load(scene, network))
    found.append(LOAD * np.maximum(0.0, scene.least_ohm * MARGIN - ohms) / points)
    found.append(np.array([LOSS * level_db]))
    if scene.usual.size:
        found.append(PULL * np.log(values(network) / scene.usual))
    return np.concatenate(found)


def _load(scene: Scene, network: Network) -> ComplexArray:
    siemens = np.sum(
        [1.0 / through(one, scene.ohms[one.driver], scene.frequencies)[1] for one in network.branches], axis=0
    )
    return np.asarray(1.0 / siemens)


def level(scene: Scene, network: Network) -> float:
    """The level in dB of the sum about its target that leaves least of it."""
    whole = np.sum(list(heard(scene, network).values()), axis=0)
    return float(np.mean((decibels(np.abs(whole)) - scene.sum_db)[scene.span]))


def cost(scene: Scene, network: Network) -> float:
    """What a search makes least, its level being the best. A load that is not allowed costs more than anything else."""
    lacks = max(0.0, 1.0 - float(np.abs(_load(scene, network)).min()) / (SAFE * scene.least_ohm))
    return float(np.sum(residuals(scene, network, level(scene, network)) ** 2)) + BARRED * lacks


def search(scene: Scene, network: Network, seed: int = 0) -> Network:
    """The network with the values that cost least. The same from the same."""
    begin = np.log(scene.usual if scene.usual.size else values(network))
    drawn = np.random.default_rng(seed)
    starts = [
        np.log(values(network)),
        begin,
        *(begin + drawn.uniform(-0.7, 0.7, begin.size) for _ in range(STARTS - 2)),
    ]
    best, least = network, cost(scene, network)
    for start in starts:
        found = _refined(scene, network, start, begin, np.ones(begin.size, bool))
        now = cost(scene, found)
        if now < least:
            best, least = found, now
    return best


def _refined(
    scene: Scene, network: Network, start: FloatArray, begin: FloatArray, free: np.ndarray, most: int = 60
) -> Network:
    """From a start (k,) of logarithms to the nearest minimum, those that are `free` moving."""
    if not free.any():
        return with_values(network, np.exp(start))

    def made(x: FloatArray) -> Network:
        every = start.copy()
        every[free] = x[:-1]
        return with_values(network, np.exp(every))

    first = np.clip(start[free], begin[free] - REACH + 1e-6, begin[free] + REACH - 1e-6)
    low = np.append(begin[free] - REACH, -80.0)
    high = np.append(begin[free] + REACH, 80.0)
    x0 = np.append(first, np.clip(level(scene, made(np.append(first, 0.0))), -79, 79))
    goes_on()
    found = scipy.optimize.least_squares(
        lambda x: residuals(scene, made(x), float(x[-1])), x0, bounds=(low, high), max_nfev=most, x_scale=0.3
    )
    return made(found.x)


def sold(scene: Scene, network: Network, series: Series) -> Network:
    """The network with values that are sold: part by part the one that costs less, the others moving along; then each
    is tried a step up and down until nothing is better."""
    if series == "any":
        return network
    at = np.log(values(network))
    begin = np.log(scene.usual) if scene.usual.size else at.copy()
    free = np.ones(at.size, bool)
    for n in range(at.size):
        tried = []
        for value in around(float(np.exp(at[n])), series):
            now = at.copy()
            now[n] = np.log(value)
            rest = free.copy()
            rest[n] = False
            found = _refined(scene, network, now, begin, rest, most=12)
            tried.append((cost(scene, found), np.log(values(found))))
        at = min(tried, key=lambda one: one[0])[1]
        free[n] = False
    best = np.exp(at)
    best = np.array([nearest(one, series) for one in best])
    return with_values(network, _stepped(scene, network, best, series, begin))


def _stepped(scene: Scene, network: Network, best: FloatArray, series: Series, begin: FloatArray) -> FloatArray:
    least = cost(scene, with_values(network, best))
    better = True
    while better:
        better = False
        for n in range(best.size):
            for value in around(float(best[n]), series):
                if abs(np.log(value) - begin[n]) > REACH:
                    continue
                now = best.copy()
                now[n] = value
                costs = cost(scene, with_values(network, now))
                if costs < least - 1e-9:
                    best, least, better = now, costs, True
    return best


def judged(scene: Scene, network: Network) -> Judged:
    """What a network is worth. Raises InvalidError where it is a short circuit."""
    whole = np.sum(list(heard(scene, network).values()), axis=0)
    error = (decibels(np.abs(whole)) - scene.sum_db)[scene.span]
    seen = load(network, scene.ohms, scene.frequencies)
    at = int(np.argmin(np.abs(seen)))
    return Judged(
        float(np.std(error)),
        float(np.abs(error - error.mean()).max()),
        float(error.mean()) - _alone_db(scene, network.branches[0].driver),
        float(np.abs(seen[at])),
        float(scene.frequencies[at]),
        float(np.degrees(np.angle(seen[at]))),
    )


def _alone_db(scene: Scene, name: str) -> float:
    """The level in dB of a driver alone about the target, where it plays without its neighbour."""
    mine = scene.span & (scene.own_db[name] - scene.sum_db > -3.0)
    if not mine.any():
        mine = scene.span
    return float(np.mean((decibels(np.abs(scene.bare[name])) - scene.sum_db)[mine]))


def tolerance(scene: Scene, network: Network, percent: float) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Between which levels in dB the sum (n,) lies for 90 of 100 boards whose parts are off by up to so many percent,
    and by how many dB rms each part (k,) alone moves it when it is off by so much."""
    drawn = np.random.default_rng(1)
    true = values(network)

    def summed(these: FloatArray) -> FloatArray:
        return decibels(np.abs(np.sum(list(heard(scene, with_values(network, these)).values()), axis=0)))

    draws = np.array(
        [summed(true * (1 + percent / 100 * drawn.uniform(-1, 1, true.size))) for _ in range(DRAWS)]
    ).reshape(DRAWS, -1)
    plain = summed(true)
    moves = []
    for n in range(true.size):
        now = true.copy()
        now[n] *= 1 + percent / 100
        moves.append(float(np.sqrt(np.mean((summed(now) - plain)[scene.span] ** 2))))
    low, high = np.percentile(draws, [5, 95], axis=0)
    return low, high, np.array(moves)


def turned(network: Network, n: int) -> Network:
    """The network with the leads of one way exchanged."""
    branches = list(network.branches)
    branches[n] = branches[n].model_copy(update={"inverted": not branches[n].inverted})
    return network.model_copy(update={"branches": tuple(branches)})
