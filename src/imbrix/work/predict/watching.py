"""The jig watched while parts are clipped in and out: impedance and sound as they are now, and what hangs there."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.measure.jig import heard, looks_like, ohms
from imbrix.core.measure.watched import Watched
from imbrix.core.passive.clipped import Clipped, only, recognise
from imbrix.core.passive.network import Branch, Network, named
from imbrix.core.passive.search import Scene
from imbrix.core.passive.search import heard as sounding
from imbrix.core.signal.grid import between
from imbrix.core.signal.signal import ComplexArray, FloatArray, Looped, power_decibels
from imbrix.work.ground import places
from imbrix.work.impedance import jigging
from imbrix.work.predict.passive import EVERY, bench, scene_of
from imbrix.work.processor.hold import silenced
from imbrix.work.rig import corrections, readiness, rig
from imbrix.work.sound.recorder import Growing, Recorder, Stopped

LONGEST_S = 3600
SILENT_S = 2.0
SOFTER_DB = 14.0
"""The noise is so much under the level of the jig's sweep, rms under peak, that its peaks stay under those."""
BLOCK = 2048
TOLD_S = 0.3
"""What hangs there is worked out so often."""
KNOWN = 0.12
"""A network is named where its impedance is so near to what is seen, rms: parts of ten percent make it."""
THIN = 2
"""It is recognised on every so many points of those that a network is judged at."""
LOUD_DB = 12.0
"""Levels are laid onto each other where the network is so near to its loudest."""
OPEN_OHM, SHORT_OHM = 300.0, 0.3


@dataclass(frozen=True)
class HeardNetwork:
    """What the jig sees (n,) in ohm and what the microphone hears (n,) as power at the level of the network's own
    reckoning, on the common grid; `level_db` is what it takes to get there."""

    ohms: ComplexArray
    power: FloatArray
    level_db: float


@dataclass
class _Run:
    watched: Watched
    seen_s: float = 0.0
    loudest: float = 0.0
    level_db: float | None = None
    told_s: float = -1.0
    said: str = ""


def start(recorder: Recorder, slug: str) -> None:
    """Begin to watch what hangs on the clips, until it is stopped. Raises ConflictError, NotHereError."""
    space = recorder.space
    jigging.ready(space)
    wanted = bench(space, slug)
    if wanted is None:
        raise ConflictError("there is no network yet: begin one first")
    scene = scene_of(space, slug, wanted)
    names = {one.driver: space.layout(slug).driver(one.driver).name for one in wanted.network.branches}
    chosen = rig.rig(space)
    jig, rate = chosen.jig, space.interface.rate
    made = chosen.jig_done.made if chosen.jig_done and not readiness.jig_stale(space) else None
    run = _Run(Watched(rate, jig.level_db - SOFTER_DB))
    known = jigging.coefficients(space, made, jig.sense_ohm, run.watched.frequencies)
    correction = None if chosen.correction is None else np.abs(corrections.on_grid(space, chosen.correction)) ** 2

    def on_block(block: FloatArray) -> bool:
        run.loudest = max(run.loudest, float(np.abs(block[:, :2]).max()))
        run.seen_s += block.shape[0] / rate
        if run.seen_s > SILENT_S and run.loudest < 1e-4:
            heard(block[:, :2])  # refuses it, saying what to connect
        if not run.watched.feed(block):
            return False
        watched = run.watched
        ratio, grid = watched.ratio, space.grid
        now = between(watched.frequencies, ohms(ratio, known), grid)
        power = between(watched.frequencies, watched.level, grid)
        power = power if correction is None else power / correction
        middle = looks_like(ratio, jig.sense_ohm, watched.frequencies)
        if run.seen_s - run.told_s > TOLD_S:
            run.told_s = run.seen_s
            found = recognised(wanted.network, scene, now) if SHORT_OHM < middle < OPEN_OHM else None
            run.said = _says(wanted.network, found, names, middle)
            if found is not None and found.off < KNOWN:
                run.level_db = _level(wanted.network, found, scene, power) or run.level_db
        recorder.say(result={"looks": run.said}, averages=watched.count)
        shown = HeardNetwork(now, power, run.level_db or 0.0)
        recorder.growing = Growing(recorder.progress.version, tuple(names), shown)
        return False

    def job() -> None:
        places.connect(space, slug)
        sound = Looped(run.watched.stimulus, LONGEST_S * rate)
        inputs = (jig.driver_input, jig.resistor_input, chosen.microphone_input)
        try:
            with silenced(space):
                recorder.play(sound, on_block=on_block, inputs=inputs, per_block=BLOCK, goes_on=True)
        except Stopped:
            pass
        recorder.say(stage="done", message="", seconds_left=0.0)

    recorder.start("ohms", job, project=slug, channels=tuple(names), purpose="impedance")


def recognised(network: Network, scene: Scene, now: ComplexArray) -> Clipped:
    """What hangs there, of the network that is kept, by an impedance (n,) on the common grid."""
    thin = slice(None, None, THIN)
    wanted = {name: one[thin] for name, one in scene.ohms.items()}
    return recognise(network, wanted, scene.frequencies[thin], now[::EVERY][thin])


def _hung(network: Network, found: Clipped) -> list[Branch]:
    """The ways that hang there, with the steps that they hang through."""
    each = zip(network.branches, found.ways, strict=True)
    return [only(branch, steps) for branch, steps in each if steps is not None]


def _level(network: Network, found: Clipped, scene: Scene, power: FloatArray) -> float | None:
    """The level in dB that lays what is heard (n,) onto what is reckoned of what hangs there."""
    ways = _hung(network, found)
    if not ways:
        return None
    reckoned = power_decibels(
        np.abs(np.sum(list(sounding(scene, Network(branches=tuple(ways))).values()), axis=0)) ** 2
    )
    loud = scene.span & (reckoned > reckoned[scene.span].max() - LOUD_DB)
    return float(np.mean((reckoned - power_decibels(power[::EVERY]))[loud]))


def _says(network: Network, found: Clipped | None, names: dict[str, str], middle: float) -> str:
    """What hangs on the clips, in words."""
    if middle > OPEN_OHM:
        return "Nothing hangs on the clips"
    if middle < SHORT_OHM:
        return "The clips touch each other"
    if found is None or found.off > KNOWN:
        return "It is nothing of this network: another value, or another driver"
    return f"{hanging(network, found, names)}, within {100 * found.off:.0f} %"


def hanging(network: Network, found: Clipped, names: dict[str, str]) -> str:
    """Which ways hang there through which parts, and what is missing."""
    titles = iter(named(network))
    told, out = [], []
    for branch, steps in zip(network.branches, found.ways, strict=True):
        of_steps = ["+".join(next(titles) for _ in step.parts) for step in branch.steps]
        name = names[branch.driver]
        if steps is None:
            out.append(name)
            continue
        there = [one for one, there in zip(of_steps, steps, strict=True) if there]
        out += [one for one, there in zip(of_steps, steps, strict=True) if not there]
        told.append(f"{name} through {', '.join(there)}" if there else f"{name} by itself")
    lacks = f"; without {', '.join(out)}" if out else "; nothing is missing"
    return f"{' and '.join(told) or 'nothing'}{lacks}"
