"""Findings: what Imbrix noticed, with its evidence and, where there is one, a remedy.

Pure functions over the state of a project; nothing is stored, so nothing goes stale.
"""

from collections.abc import Mapping

import numpy as np

from imbrix.core.evidence.onset import Onset
from imbrix.core.predict.headroom import peaks
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels
from imbrix.core.system.layout import Driver, Layout
from imbrix.core.tune.edits import Edit, SetChannel, SetTarget, ShiftGains
from imbrix.core.tune.tune import Tune
from imbrix.core.value import Value

LEAST_SURE = 0.15
"""By so much the two agreements of a pair differ before its phase alone says that one is reversed."""


class Finding(Value):
    """`about` is a driver id; `remedy` are edits that put it right, named by `action`."""

    kind: str
    about: str
    says: str
    evidence: str
    action: str | None = None
    remedy: tuple[Edit, ...] = ()


def opposite(first: ComplexArray, second: ComplexArray, frequencies: FloatArray) -> tuple[bool, float]:
    """Whether two like drivers move in opposite directions, and how sure that is, from 0 to 1.

    With the delay between them free within half a period of their band's middle, the cross-spectrum is
    brought into phase once as it is and once inverted; the better agreement wins. Sureness is the difference of
    the two agreements over their sum; where one of them shows nothing there is no telling.
    """
    weight = second * np.conjugate(first)
    if not weight.any():
        return False, 0.0
    weight = weight / (np.abs(weight).max() + 1e-300)
    span = 2j * np.pi * frequencies
    envelope = _coherent_delay(weight, frequencies)
    half = 0.5 / float(np.sqrt(frequencies[0] * frequencies[-1]))
    trial = envelope + np.linspace(-half, half, 241)
    agreement = np.real(np.exp(np.outer(trial, span)) @ weight) / np.abs(weight).sum()
    best, worst = float(agreement.max()), float(-agreement.min())
    return worst > best, abs(best - worst) / (abs(best) + abs(worst) + 1e-12)


def _coherent_delay(weight: ComplexArray, frequencies: FloatArray) -> float:
    """Delay at which the magnitude of the summed cross-spectrum is greatest: polarity does not matter to it."""
    span = 2j * np.pi * frequencies
    trial = np.arange(-0.008, 0.008, 1 / (8 * frequencies[-1]))
    level = np.abs(np.exp(np.outer(trial, span)) @ weight)
    return float(trial[int(np.argmax(level))])


def reversed_drivers(
    layout: Layout,
    tune: Tune,
    bare: Mapping[str, ComplexArray],
    bands_hz: Mapping[str, tuple[float, float]],
    onsets: Mapping[str, Onset],
    frequencies: FloatArray,
) -> list[Finding]:
    """Pairs whose left and right are wired to opposite polarity, judged on bare takes.

    `onsets` say by driver which way it moves first. Where both of a pair are likely that decides, and of two that
    differ the one is named that most other drivers differ from too; else the phase between the two is judged.
    """
    signs = {name: one.polarity for name, one in onsets.items() if one.likely}
    most = 1 if sum(signs.values()) >= 0 else -1
    found = []
    for driver in layout.drivers:
        partner = layout.partner(driver)
        if driver.side != "left" or partner is None or not {driver.id, partner.id} <= bare.keys():
            continue
        low = max(bands_hz[driver.id][0], bands_hz[partner.id][0])
        high = min(bands_hz[driver.id][1], bands_hz[partner.id][1])
        inside = span_mask(frequencies, low, min(high, low * 6))
        if inside.sum() < 24:
            continue
        if {driver.id, partner.id} <= signs.keys():
            differs = signs[driver.id] != signs[partner.id]
        else:
            differs, sure = opposite(bare[driver.id][inside], bare[partner.id][inside], frequencies[inside])
            differs = differs and sure >= LEAST_SURE
        if not differs or tune.channels[driver.id].inverted != tune.channels[partner.id].inverted:
            continue
        culprit: Driver = min((driver, partner), key=lambda one: most * signs.get(one.id, most))
        other = partner if culprit is driver else driver
        found.append(
            Finding(
                kind="reversed",
                about=culprit.id,
                says=f"{culprit.name} looks wired backwards",
                evidence=f"it moves against {other.name} from {low:.0f} to {min(high, low * 6):.0f} Hz",
                action=f"Invert {culprit.name}",
                remedy=(SetChannel(channel=culprit.id, inverted=not tune.channels[culprit.id].inverted),),
            )
        )
    return found


CLIPS_DB = 0.05
"""Less over full scale than this is rounding."""
NEAR_DB = 6.0


def brought_down(tune: Tune, by_db: float) -> tuple[Edit, ...]:
    """Edits that lower all channels alike, and the target with them."""
    return ShiftGains(by_db=-by_db), SetTarget(level_db=tune.target.level_db - by_db)


def clips(layout: Layout, tune: Tune, predictor: Predictor) -> list[Finding]:
    """Channels whose output goes over full scale when full scale comes in."""
    ids = [driver.id for driver in layout.drivers]
    # No sweep and no noise peaks so much higher than the worst sine: most channels need not be run in time.
    levels = decibels(predictor.through(tune, ids)).max(axis=1)
    over = {name: peaks(tune, name, predictor) for name, level in zip(ids, levels, strict=True) if level > -NEAR_DB}
    most = max((one.worst_db for one in over.values()), default=0.0)
    return [
        Finding(
            kind="clip",
            about=driver.id,
            says=f"{driver.name} can clip: {one.worst_db:+.1f} dB over full scale",
            evidence=f"a sine at {one.sine_hz:.0f} Hz peaks at {one.sine_db:+.1f} dB, a sweep at {one.sweep_db:+.1f}, "
            f"pink noise at {one.pink_db:+.1f}",
            action=f"Bring all gains down by {most:.1f} dB",
            remedy=brought_down(tune, most),
        )
        for driver in layout.drivers
        if (one := over.get(driver.id)) is not None and one.worst_db > CLIPS_DB
    ]


def boosts(layout: Layout, tune: Tune) -> list[Finding]:
    """Corrections beyond common practice: boost above 4 dB, any correction above 9 dB (no source)."""
    found = []
    for driver in layout.drivers:
        for n, band in enumerate(tune.channels[driver.id].bands, 1):
            if not band.has_gain or (band.gain_db <= 4.0 and band.gain_db >= -9.0):
                continue
            big = abs(band.gain_db) > 9.0
            found.append(
                Finding(
                    kind="correction" if big else "boost",
                    about=driver.id,
                    says=f"{driver.name} band {n} does {band.gain_db:+.1f} dB at {band.frequency_hz:.0f} Hz",
                    evidence="more than 9 dB points to polarity, overlap or placement"
                    if big
                    else "more than 4 dB of boost costs headroom and rarely fills a dip",
                )
            )
    return found
