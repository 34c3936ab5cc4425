"""The interface check: output looped into the input, played five times."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.measure.sweep import deconvolve
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate, arrival, response
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels
from imbrix.core.value import Value

CABLE_HZ, CABLE_DB, CABLE_OVER_NOISE_DB = (200.0, 5000.0), 12.0, 30.0
"""What a cable does at most between these frequencies, and how far its peak is over the quiet at least: a tone control
in the way may do the one, a noisy input the other (common practice, no source)."""
GATE = Gate(before_s=0.02, after_s=0.2, fade=0.3)


class Line(Value):
    """One line of the verdict: what was looked at, what was found, whether it is good, what to try if not."""

    what: str
    found: str
    good: bool
    tries: str = ""


@dataclass(frozen=True)
class LoopCheck:
    """What a looped interface showed.

    `response` (n,) is the measuring input's own response against the stimulus, `against_reference` (n,) against
    the reference input (None where that was silent), both one at 1 kHz and without delay; `latencies` (r,) in
    samples; `noise_dbfs` the rms of the silence; `peak_dbfs` the loudest sample.
    """

    response: ComplexArray
    against_reference: ComplexArray | None
    latencies: FloatArray
    polarity: float
    noise_dbfs: float
    peak_dbfs: float
    rate: int

    @property
    def latency_spread_s(self) -> float:
        """From the earliest to the latest run, in seconds."""
        return float(np.ptp(self.latencies)) / self.rate


def read_loop(runs: list[FloatArray], stimulus: FloatArray, quiet: int, rate: int) -> LoopCheck:
    """Read recordings (n, 2) of a stimulus (n,) that is silent for its first `quiet` samples.

    Raises InvalidError where the measuring input is silent.
    """
    grid = log_grid()
    impulses = [deconvolve(run[:, 0], stimulus, rate, zero=2000) for run in runs]
    if max(np.abs(run[:, 0]).max() for run in runs) < 10 ** (-75 / 20):
        raise InvalidError(
            "the measuring input hears nothing of the output: plug the loop cable from the output into it"
        )
    latencies = np.array([arrival(one) * rate for one in impulses])
    own = np.mean(
        [_settled(response(one, grid, GATE), at / rate, grid) for one, at in zip(impulses, latencies, strict=True)],
        axis=0,
    )
    reference = None
    if all(np.abs(run[:, 1]).max() > 1e-4 for run in runs):
        pairs = [deconvolve(run[:, 0], run[:, 1], rate, zero=2000) for run in runs]
        reference = np.mean([_settled(response(one, grid, GATE), 0.0, grid) for one in pairs], axis=0)
    silent = np.concatenate([run[: round(0.8 * quiet), 0] for run in runs])
    peak = max(np.abs(run[:, 0]).max() for run in runs)
    noise = float(decibels(np.sqrt(np.mean(silent**2))))
    _is_a_cable(own, float(decibels(peak)) - noise, grid, rate)
    first = impulses[0]
    sign = float(np.sign(first.samples[int(np.argmax(np.abs(first.samples)))]))
    return LoopCheck(own, reference, latencies, sign, noise, float(decibels(peak)), rate)


def _is_a_cable(own: ComplexArray, over_noise_db: float, grid: FloatArray, rate: int) -> None:
    """Raise InvalidError where what came back is noise, or a room: it would be divided out of every take."""
    inside = (grid >= CABLE_HZ[0]) & (grid <= min(CABLE_HZ[1], 0.4 * rate)) & np.isfinite(own)
    swing = float(np.ptp(decibels(own[inside]))) if inside.any() else np.inf
    if over_noise_db < CABLE_OVER_NOISE_DB:
        raise InvalidError(
            f"what comes back lies only {over_noise_db:.0f} dB over the quiet: that is noise, no cable; plug the loop "
            "cable from the output into the measuring input"
        )
    if swing > CABLE_DB:
        raise InvalidError(
            f"what comes back differs by {swing:.0f} dB between {CABLE_HZ[0]:.0f} Hz and {CABLE_HZ[1] / 1000:.0f} kHz: "
            "that is a room, no cable; plug the loop cable from the output into the measuring input"
        )


def _settled(values: ComplexArray, delay_s: float, grid: FloatArray) -> ComplexArray:
    """Delay taken out, level one at 1 kHz."""
    values = values * np.exp(2j * np.pi * grid * delay_s)
    at = int(np.argmin(np.abs(grid - 1000.0)))
    return values / np.abs(values[at])


def verdict(check: LoopCheck) -> list[Line]:
    """Line by line: flat, phase, polarity, latency, noise, margin. Limits are common practice, no source."""
    grid = log_grid()
    inside = (grid >= 30) & (grid <= min(18_000, 0.42 * check.rate)) & np.isfinite(check.response)
    levels = decibels(check.response[inside])
    swing = float(np.ptp(levels))
    middle = (grid >= 200) & (grid <= 5000)
    turned = np.degrees(np.angle(check.response[middle]))
    phase = float(np.abs(turned).max()) if check.polarity > 0 else float(np.abs(180 - np.abs(turned)).max())
    spread = check.latency_spread_s * 1e6
    mean = float(check.latencies.mean())
    margin = -check.peak_dbfs
    return [
        Line(
            what="Response",
            found=f"{swing:.1f} dB from 30 Hz to 18 kHz",
            good=swing <= 1.0,
            tries="" if swing <= 1.0 else "it is divided out; look for tone controls or a filter on the input",
        ),
        Line(
            what="Phase",
            found=f"within {phase:.0f} degrees from 200 Hz to 5 kHz",
            good=phase <= 15.0,
            tries="" if phase <= 15.0 else "it is divided out; an effect may be on in the path",
        ),
        Line(
            what="Polarity",
            found="positive" if check.polarity > 0 else "inverted",
            good=check.polarity > 0,
            tries="" if check.polarity > 0 else "a cable is wired the wrong way round",
        ),
        Line(
            what="Latency",
            found=f"{mean:.1f} samples ({mean / check.rate * 1e3:.2f} ms), {spread:.1f} µs spread over "
            f"{check.latencies.size} runs",
            good=spread <= 5.0,
            tries="" if spread <= 5.0 else "it changes from run to run: keep time by loopback or marker",
        ),
        Line(
            what="Noise floor",
            found=f"{check.noise_dbfs:.0f} dBFS",
            good=check.noise_dbfs <= -80,
            tries="" if check.noise_dbfs <= -80 else "lower the input gain, look for a hum loop or a powered hub",
        ),
        Line(
            what="Clipping margin",
            found=f"{margin:.0f} dB",
            good=margin >= 6,
            tries="" if margin >= 6 else "lower the input gain",
        ),
    ]
