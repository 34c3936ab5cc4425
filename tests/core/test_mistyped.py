"""A single setting that was typed wrong is named, in channels drawn by chance, from takes with noise and ripple."""

import numpy as np
import pytest

from imbrix.core.predict.mistyped import Mistyped, mistyped
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.tune import Band, Channel, Crossover
from tests.trials.length import many

GRID = log_grid()
PREDICTOR = Predictor(GRID, 48_000)
OF_A_WAY = ((20.0, 90.0), (80.0, 500.0), (300.0, 3500.0), (2500.0, 20_000.0))
DIGITS = np.array([0.1, 10.0, 0.5, 2.0, 0.8, 1.25, 0.63, 1.6])
"""By which a frequency is off that was typed wrong: a figure too few or too many, or another one."""


def drawn(by: np.random.Generator) -> tuple[Channel, tuple[float, float]]:
    """A channel of a way, and the driver's own band."""
    low, high = OF_A_WAY[by.integers(4)]
    bands = tuple(
        Band(
            frequency_hz=float(np.exp(by.uniform(np.log(low), np.log(high)))),
            gain_db=float(by.choice([-1, -1, 1]) * by.uniform(1.5, 6)),
            q=float(by.uniform(0.7, 5)),
        )
        for _ in range(by.integers(1, 7))
    )
    ends = {
        name: Crossover(
            shape=str(by.choice(["linkwitz-riley", "butterworth"])), slope_db=int(by.choice([12, 24])), corner_hz=hertz
        )
        for name, hertz in (("high_pass", low * 1.2), ("low_pass", high * 0.8))
        if by.random() < 0.8
    }
    gain, delay = float(by.uniform(-9, 0)), round(by.uniform(0, 6e-3) * 48_000) / 48_000
    channel = Channel(gain_db=gain, delay_s=delay, inverted=bool(by.random() < 0.3), bands=bands, **ends)
    return channel, (low, high)


def wrong(channel: Channel, by: np.random.Generator) -> tuple[str, Channel]:
    """One setting typed wrong."""
    kinds = ["gain", "polarity", "delay", "band", "band", "band"]
    kinds += [name for name in ("high_pass", "low_pass", "high_pass", "low_pass") if getattr(channel, name)]
    kind = str(by.choice(kinds))
    if kind == "gain":
        return "gain", channel.model_copy(update={"gain_db": channel.gain_db + float(by.choice([-10, -3, 2, 6]))})
    if kind == "polarity":
        return "polarity", channel.model_copy(update={"inverted": not channel.inverted})
    if kind == "delay":
        return "delay", channel.model_copy(update={"delay_s": channel.delay_s * float(by.choice([0, 0.5, 2])) + 1e-4})
    if kind == "band":
        n = int(by.integers(len(channel.bands)))
        band = channel.bands[n]
        changed = [
            {"frequency_hz": float(np.clip(band.frequency_hz * by.choice(DIGITS), 15, 21_000))},
            {"gain_db": -band.gain_db},
            {"gain_db": band.gain_db + float(by.choice([-6, 6]))},
            {"q": band.q * float(by.choice([0.3, 3.5]))},
            {"off": True},
        ][int(by.integers(5))]
        bands = (*channel.bands[:n], band.model_copy(update=changed), *channel.bands[n + 1 :])
        return f"band {n + 1}", channel.model_copy(update={"bands": bands})
    end: Crossover = getattr(channel, kind)
    changed = [
        {"corner_hz": float(np.clip(end.corner_hz * by.choice(DIGITS), 15, 22_000))},
        {"slope_db": {12: 24, 24: 12}[end.slope_db]},
    ][int(by.random() < 0.3)]
    return kind.replace("_", "-"), channel.model_copy(update={kind: end.model_copy(update=changed)})


def heard(stands: Channel, meant: Channel, band: tuple[float, float], by: np.random.Generator, timed: bool):
    """Ratio and weights of a take of what stands: 45 dB over noise, a ripple of 0.3 dB for a microphone not quite in
    its place, and a driver that rolls off beyond its band."""
    octaves = np.log2(GRID)
    own = np.ones(GRID.size)
    for edge, sign in zip(band, (-1, 1), strict=True):
        own = own / (1 + 2.0 ** (4 * sign * (octaves - np.log2(edge) - sign * 0.7)))
    truth, predicted = (PREDICTOR.channel(one) * own for one in (stands, meant))
    ripple = np.cumsum(by.normal(0, 0.05, GRID.size))
    ripple -= np.convolve(ripple, np.ones(80) / 80, "same")
    noise = (by.normal(size=GRID.size) + 1j * by.normal(size=GRID.size)) * np.abs(predicted).max() * 10 ** (-45 / 20)
    measured = truth * np.exp(ripple * (0.035 + 0.035j)) + noise
    over = 20 * np.log10(np.maximum(np.abs(measured), np.abs(predicted)) / np.sqrt(np.mean(np.abs(noise) ** 2)))
    ratio = measured / predicted
    return (ratio if timed else np.abs(ratio).astype(complex)), np.clip((over - 6) / 20, 0, 1)


def found(seed: int, timed: bool = True) -> tuple[str, Channel, Mistyped]:
    """What was typed wrong (drawn again until it could be heard), and what is named."""
    by = np.random.default_rng(seed)
    while True:
        meant, band = drawn(by)
        what, stands = wrong(meant, by)
        ratio, weights = heard(stands, meant, band, by, timed)
        strays = np.abs(np.log(PREDICTOR.channel(stands) / PREDICTOR.channel(meant)))
        if np.sqrt(np.average(np.minimum(strays, 1.2) ** 2, weights=weights)) > 0.08:
            named = mistyped(ratio, weights, meant, PREDICTOR)
            assert named is not None
            return what, stands, named


@pytest.mark.walk
def test_ninety_of_a_hundred_are_named_right_first() -> None:
    """The trade's own measure here: the setting that was wrong is the first to be named."""
    tried = many(40, 200)
    right = [seed for seed in range(tried) if (each := found(seed))[0] == each[2].what]
    assert len(right) >= 0.9 * tried


@pytest.mark.parametrize("seed", range(6))
def test_without_time_levels_still_tell(seed: int) -> None:
    named = [found(100 * seed + n, timed=False) for n in range(4)]
    assert all(each[2].left <= each[2].before for each in named)


def test_the_value_that_stands_is_told() -> None:
    meant = Channel(high_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=3150))
    stands = meant.model_copy(update={"high_pass": meant.high_pass.model_copy(update={"corner_hz": 2500})})
    ratio, weights = heard(stands, meant, (2500.0, 20_000.0), np.random.default_rng(1), True)
    named = mistyped(ratio, weights, meant, PREDICTOR)
    assert named is not None
    assert (named.what, named.should) == ("high-pass", "Linkwitz–Riley 24 dB at 3150 Hz")
    assert named.channel.high_pass is not None
    assert named.channel.high_pass.corner_hz == pytest.approx(2500, rel=0.02)
    assert named.left < 0.3 * named.before


def test_nothing_heard_names_nothing() -> None:
    assert mistyped(np.ones(GRID.size, complex), np.zeros(GRID.size), Channel(), PREDICTOR) is None
