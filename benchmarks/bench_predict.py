"""A system predicted and summed, against sosfreqz one channel after another: seven channels of ten bands, and fourteen
of thirty-one behind two inputs that are set."""

import itertools
from collections.abc import Callable

from timing import in_turn, report  # isort: skip

import numpy as np
from scipy.signal import sosfreqz

from imbrix.core.predict.predict import Predictor, combine
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.lower import lower
from imbrix.core.tune.tune import Band, Channel, Crossover, Input, Tune

RATE = 48_000
ALL, ONE = 1 / 5, 1 / 25
grid = log_grid()
random = np.random.default_rng(0)


def bands(count: int) -> tuple[Band, ...]:
    return tuple(
        Band(frequency_hz=random.uniform(50, 15_000), gain_db=random.uniform(-6, 6), q=random.uniform(0.5, 6))
        for _ in range(count)
    )


def channel(count: int) -> Channel:
    return Channel(
        gain_db=-3,
        delay_s=0.001,
        high_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=random.uniform(60, 3000)),
        low_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=random.uniform(3000, 9000)),
        bands=bands(count),
    )


def one_after_another(tune: Tune) -> Callable[[], None]:
    def run() -> None:
        total = np.zeros(grid.size, dtype=complex)
        for one in (*tune.channels.values(), *(one.channel for one in tune.inputs)):
            lowered = lower(one, (), RATE)
            response = sosfreqz(lowered.sos, worN=grid, fs=RATE)[1] * lowered.factor
            total += response * np.exp(-2j * np.pi * grid * lowered.delay / RATE)

    return run


def compare(words: str, channels: int, count: int, inputs: tuple[Input, ...], tunes: int) -> None:
    names = [f"channel-{n}" for n in range(channels)]
    routing = {name: ((1.0,), (0.0, 1.0), (0.5, 0.5))[n % 3] for n, name in enumerate(names)} if inputs else {}
    sets = [
        Tune(channels={name: channel(count) for name in names}, inputs=inputs, routing=routing) for _ in range(tunes)
    ]
    singles = [channel(count) for _ in range(tunes)]
    audible = [True] * channels
    counter = itertools.count()
    forgetful = Predictor(grid, RATE, remember=8)  # so that no set of channels is met again in memory

    def everything() -> None:
        combine(forgetful.through(sets[next(counter) % tunes], names), audible)

    ref, all_ = in_turn(40, one_after_another(sets[0]), everything)
    report(f"{words}, everything changed / sosfreqz", all_ / ref, ALL, f"{all_ * 1e3:.2f} ms")
    warm = Predictor(grid, RATE)
    warm.through(sets[0], names)

    def one_changed() -> None:
        now = {**sets[0].channels, names[3]: singles[next(counter) % tunes]}
        combine(warm.through(sets[0].model_copy(update={"channels": now}), names), audible)

    ref, one = in_turn(40, one_after_another(sets[0]), one_changed)
    report(f"{words}, one channel changed / sosfreqz", one / ref, ONE, f"{one * 1e3:.2f} ms")


compare("7 channels of 10 bands", 7, 10, (), 100)
compare(
    "14 channels of 31 bands behind 2 inputs",
    14,
    31,
    (Input(gain_db=-2, bands=bands(8)), Input(delay_s=0.001, bands=bands(8))),
    100,
)
