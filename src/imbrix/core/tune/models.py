"""The models of processors that ship, as stand-ins."""

from imbrix.core.tune.crossover import SLOPES
from imbrix.core.tune.limits import Limits, Range

STOCK = Limits(
    name="Six by eight",
    inputs=6,
    outputs=8,
    rate=48_000,
    slots=4,
    bands=12,
    input_bands=12,
    second_source=True,
    slope_db=48,
    gain_db=Range(least=-40, most=6, step=0.1),
    delay_s=Range(least=0, most=0.020),
    corner_hz=Range(least=20, most=20_000, step=0.1),
    band_hz=Range(least=20, most=20_000, step=0.1),
    band_gain_db=Range(least=-18, most=12, step=0.1),
    q=Range(least=0.3, most=20, step=0.01),
)
LARGE = Limits(
    name="Eight by twelve",
    inputs=8,
    outputs=12,
    rate=96_000,
    slots=8,
    bands=31,
    input_bands=30,
    second_source=True,
    reads_inputs=True,
    taps=512,
    latency_s=0.0021,
    slope_db=48,
    gain_db=Range(least=-60, most=12, step=0.05),
    delay_s=Range(least=0, most=0.040),
    corner_hz=Range(least=10, most=24_000, step=0.1),
    band_hz=Range(least=10, most=24_000, step=0.1),
    band_gain_db=Range(least=-24, most=15, step=0.05),
    q=Range(least=0.2, most=30, step=0.01),
)
SMALL = Limits(
    name="Two by six",
    inputs=2,
    outputs=6,
    rate=48_000,
    slots=2,
    bands=10,
    slope_db=24,
    slopes={
        shape: tuple(slope for slope in SLOPES[shape] if slope <= 24) for shape in ("butterworth", "linkwitz-riley")
    },
    gain_db=Range(least=-24, most=0, step=0.5),
    delay_s=Range(least=0, most=0.008),
    corner_hz=Range(least=30, most=16_000, step=1),
    band_hz=Range(least=25, most=16_000, step=1),
    band_gain_db=Range(least=-12, most=6, step=0.5),
    q=Range(least=0.5, most=10, step=0.1),
)
TAPS = Limits(
    name="Four by six, long taps",
    inputs=4,
    outputs=6,
    rate=48_000,
    slots=4,
    bands=12,
    input_bands=10,
    second_source=True,
    taps=4096,
    latency_s=0.0008,
    slope_db=48,
    gain_db=Range(least=-60, most=12, step=0.1),
    delay_s=Range(least=0, most=0.100),
    corner_hz=Range(least=10, most=20_000, step=0.1),
    band_hz=Range(least=10, most=20_000, step=0.1),
    band_gain_db=Range(least=-24, most=12, step=0.1),
    q=Range(least=0.2, most=30, step=0.01),
)
MODELS: dict[str, Limits] = {
    "six-by-eight": STOCK,
    "eight-by-twelve": LARGE,
    "two-by-six": SMALL,
    "four-by-six-taps": TAPS,
}
