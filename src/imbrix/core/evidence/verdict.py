"""The verdict on a take: what may be wrong with it, by which evidence, and what to try.

Limits are common practice without a source, set so that a clean take raises nothing.
"""

from typing import Literal

from imbrix.core.evidence.evidence import OWN, Agreement, Evidence
from imbrix.core.system.layout import Kind
from imbrix.core.value import Value

Weight = Literal["doubt", "note"]


class Trouble(Value):
    """`kind` names the cause; a "doubt" means the take may not show what it should, a "note" is good to know."""

    kind: str
    weight: Weight
    says: str
    evidence: str
    tries: str


EXCLUDED = 5.0
"""By so much another kind of driver has to fit a take better before it is doubted that the right one played."""
HUM_HARMS_DB = 45.0
"""A hum is good to know; it disturbs a take only where the quiet, it included, lies no farther under the peaks."""
PASSING = frozenset({"burst", "rumble", "slipped"})
"""What comes and goes: a take that has one is worth recording again as it is."""
FAR_MS = 12.0
"""Four metres of air between two drivers are in no car; a coach has them."""
FAR_LOW_MS, LOW = 20.0, (Kind.SUB, Kind.WOOFER)
"""The envelope of a low driver in a place with modes is late by its own; of one or two others both may be such."""
MANY = 3
AS_LIKELY = 3.0
"""What fits by no more worse than the best is named with it."""


def verdict(
    evidence: Evidence,
    kind: Kind | None,
    agrees: Agreement | None = None,
    timed: bool = True,
    others_ms: tuple[float, ...] = (),
    passive_to: Kind | None = None,
) -> list[Trouble]:
    """All that may be wrong, gravest first. `kind` is None for a take of several drivers; `others_ms` are arrivals
    of other drivers by the same clock; `passive_to` is the highest way behind a passive network."""
    found = [
        *_noise(evidence),
        *_driver(evidence, kind, passive_to),
        *_timing(evidence, kind, timed, others_ms),
        *_against(agrees),
    ]
    return sorted(found, key=lambda one: one.weight)


def _noise(evidence: Evidence) -> list[Trouble]:
    found = []
    poor = {band: over for band, over in evidence.over_noise_db.items() if over < 20}
    if poor:
        worst = min(poor, key=lambda band: poor[band])
        weak = poor[worst] < 10
        names = ", ".join(f"{float(band):g}" for band in poor)
        found.append(
            Trouble(
                kind="noisy",
                weight="doubt" if weak else "note",
                says=f"Only {poor[worst]:.0f} dB over the noise in the octave of {float(worst):g} Hz",
                evidence=f"under 20 dB in the octaves of {names} Hz; the quiet before the sweep is at "
                f"{evidence.noise_dbfs:.0f} dBFS",
                tries="close doors and windows, play louder on purpose, or repeat: each doubling gives 3 dB",
            )
        )
    if evidence.peak_dbfs < -40:
        found.append(
            Trouble(
                kind="weak",
                weight="note",
                says=f"The input is used to {evidence.peak_dbfs:.0f} dBFS only",
                evidence="peaks between −24 and −12 dBFS are the aim",
                tries="raise the input gain, then set the reference level again",
            )
        )
    if evidence.hum:
        found.append(
            Trouble(
                kind="hum",
                weight="doubt" if evidence.peak_dbfs - evidence.noise_dbfs < HUM_HARMS_DB else "note",
                says=f"Hum of {evidence.hum.base_hz} Hz",
                evidence=f"its lines stand up to {evidence.hum.over_db:.0f} dB out of the noise before the sweep",
                tries="run the laptop from its battery, part the grounds, lay the cable away from mains and charger",
            )
        )
    # What a device lost leaves a click behind, which is no noise of the place.
    for one in evidence.intrusions if evidence.slip_ms is None else ():
        name = "A rumble" if one.low else "A burst"
        found.append(
            Trouble(
                kind="rumble" if one.low else "burst",
                weight="doubt",
                says=f"{name} of {one.seconds:.1f} s at {one.at_s:.1f} s",
                evidence=f"{one.over_db:.0f} dB over the quiet, "
                + (
                    "below 120 Hz: a lorry, wind or a door"
                    if one.low
                    else "broad in frequency: a door, a voice, a knock"
                ),
                tries="record again when it is quiet"
                + (
                    f"; what comes back at the same moment is loose and rattles near {one.sweep_hz:.0f} Hz"
                    if one.sweep_hz
                    else ""
                ),
            )
        )
    if evidence.repeat_db is not None and evidence.repeat_db > -20:
        found.append(
            Trouble(
                kind="unrepeatable",
                weight="doubt",
                says=f"The repeats differ: {evidence.repeat_db:.0f} dB of what they share",
                evidence="less than −20 dB is usual",
                tries="hold the microphone still, and look for a loose part that rattles",
            )
        )
    return found


def _driver(evidence: Evidence, kind: Kind | None, passive_to: Kind | None) -> list[Trouble]:
    """Whether the evidence excludes that the right driver played. What it merely does not show is no doubt."""
    if kind is None or evidence.intrusions or not evidence.misfits:  # a noise in the take blurs its curve
        return []
    others = {Kind(name): fit for name, fit in evidence.misfits.items() if name != OWN}
    own = evidence.misfits[OWN] if passive_to or kind not in others else others[kind]
    best = min(others.values())
    if own - best < EXCLUDED:
        return []
    likes = [one.value for one, fit in others.items() if fit <= best + AS_LIKELY and one not in (kind, Kind.FULL)]
    says = f"This does not sound like a {_way(kind, passive_to)}"
    return [
        Trouble(
            kind="wrong-driver",
            weight="doubt",
            says=says + (f", but like a {' or '.join(likes)}" if likes else ""),
            evidence=f"the rise and the fall of the curve, {evidence.low_hz:.0f} to {evidence.high_hz:.0f} Hz at best, "
            "are those of another kind",
            tries="hear which driver this output plays: a cable may be exchanged",
        )
    ]


def _way(kind: Kind, passive_to: Kind | None) -> str:
    if passive_to is not None:
        return f"{kind} that a passive part joins to a {passive_to}"
    return "full-range driver" if kind == Kind.FULL else kind.value


def _timing(evidence: Evidence, kind: Kind | None, timed: bool, others_ms: tuple[float, ...]) -> list[Trouble]:
    found = []
    if evidence.slip_ms is not None:
        found.append(
            Trouble(
                kind="slipped",
                weight="doubt",
                says=f"The device {'lost' if evidence.slip_ms < 0 else 'doubled'} {abs(evidence.slip_ms):.1f} ms of "
                "sound within this take, without a word",
                evidence="the loopback jumps in time by so much",
                tries="close what keeps the computer busy, give the device longer buffers, and record again",
            )
        )
    if evidence.drift_ppm is not None and abs(evidence.drift_ppm) > 2:
        found.append(
            Trouble(
                kind="drift",
                weight="note",
                says=f"The recorder's clock runs {abs(evidence.drift_ppm):.0f} ppm "
                f"{'fast' if evidence.drift_ppm > 0 else 'slow'}",
                evidence="by the markers before and after the sweep; it has been taken out",
                tries="nothing: with the marker, delays can be trusted",
            )
        )
    if not timed:
        found.append(
            Trouble(
                kind="no-time",
                weight="note",
                says="This take keeps no time",
                evidence="neither a loopback nor an anchor was heard",
                tries="for delays, connect the loopback, or choose an anchor that keeps the time (Rig, Takes)",
            )
        )
    elif others_ms and evidence.drift_ppm is None and not evidence.intrusions:
        middle = sorted(others_ms)[len(others_ms) // 2]
        away = evidence.arrival_ms - middle
        far_ms = FAR_LOW_MS if kind in LOW or len(others_ms) < MANY else FAR_MS
        if evidence.arrival_ms < -0.2 or evidence.arrival_ms > 40 or abs(away) > far_ms:
            found.append(
                Trouble(
                    kind="delay",
                    weight="doubt",
                    says=f"A suspicious delay: the sound arrives after {evidence.arrival_ms:.1f} ms",
                    evidence=f"{abs(away):.1f} ms {'after' if away > 0 else 'before'} the other drivers, "
                    f"{abs(away) * 0.343:.1f} m of air",
                    tries="look for a delay in the source or another processor, or a wireless link on the way",
                )
            )
    return found


def gain_changed(agrees: Agreement) -> bool:
    """Whether two takes differ in level alone: all frequencies alike, and not turned."""
    return abs(agrees.level_db) > 1.0 and agrees.shape_db < 0.7 and not agrees.turned


def _against(agrees: Agreement | None) -> list[Trouble]:
    if agrees is None:
        return []
    if agrees.turned:
        return [
            Trouble(
                kind="turned",
                weight="doubt",
                says="The polarity is the other way round than in the take before",
                evidence="the two move against each other at every frequency",
                tries="look whether the driver's wires or a polarity switch were changed",
            )
        ]
    if gain_changed(agrees):
        return [
            Trouble(
                kind="gain",
                weight="doubt",
                says=f"{agrees.level_db:+.1f} dB against the take before, at all frequencies alike".replace("-", "−"),
                evidence=f"the shapes agree within {agrees.shape_db:.1f} dB",
                tries="a gain was changed: put it back, or set the reference level again",
            )
        ]
    if agrees.shape_db > 1.5:
        return [
            Trouble(
                kind="moved",
                weight="note",
                says=f"The shape differs from the take before by {agrees.shape_db:.1f} dB rms",
                evidence="at 1/12 octave over the usable band",
                tries="if nothing was changed on purpose, the microphone has moved",
            )
        ]
    return []
