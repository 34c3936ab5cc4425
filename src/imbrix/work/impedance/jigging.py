"""The jig at hand: played through with the processor silent, calibrated step by step, its coefficients kept."""

from dataclasses import asdict

import numpy as np

from imbrix.core.errors import ConflictError, UnusableError
from imbrix.core.impedance.impedance import ohm_grid
from imbrix.core.measure.jig import (
    Calibration,
    Standard,
    calibration,
    heard,
    looks_like,
    nominal,
    plausible,
    ratio_of,
    read_sweeps,
)
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.stepped import Steps
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.signal.grid import between
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import silenced
from imbrix.work.rig import choices, devices, rig
from imbrix.work.rig.choices import jig_conditions as conditions
from imbrix.work.sound.recorder import Recorder

STANDARDS: tuple[Standard, ...] = ("open", "short", "resistor")


def steps_done(space: Workspace) -> list[Standard]:
    """Which steps of a calibration under way are there."""
    return [one for one in STANDARDS if one in _under_way(space)]


def _under_way(space: Workspace) -> documents.Document:
    """The steps of a calibration that was begun under the conditions that hold now, and these."""
    chosen = rig.rig(space)
    now = {**conditions(chosen), "known_ohm": chosen.jig.known_ohm}
    found = documents.read(space, "jig") or {}
    return found if found.get("conditions") == now else {"conditions": now}


def measure(recorder: Recorder, repeats: int | None = None) -> tuple[FloatArray, Schedule | Steps]:
    """Play through the jig with every output of the processor mute, and return both voltages (n, 2).

    So many sweeps as the rig says, where `repeats` says no other number.
    """
    space = recorder.space
    chosen = rig.rig(space)
    jig = chosen.jig
    rate = space.interface.rate
    parts: Schedule | Steps
    if jig.method == "stepped":
        parts = Steps(low_hz=10.0, high_hz=min(20_000.0, 0.45 * rate), per_octave=24, level_db=jig.level_db, rate=rate)
    else:
        high = min(23_000.0, 0.48 * rate)
        sweep = SweepSettings(4.0, high, 2**17 if rate < 90_000 else 2**18, jig.level_db, 0.8, rate)
        parts = Schedule(sweep, repeats or jig.repeats, quiet_s=0.1)
    with silenced(space):
        return recorder.play(parts.samples(), inputs=(jig.driver_input, jig.resistor_input)), parts


def ratios_of(recorded: FloatArray, parts: Schedule | Steps) -> tuple[FloatArray, ComplexArray]:
    """Frequencies (n,) and ratios (r, n) of a recording."""
    if isinstance(parts, Steps):
        heard(recorded)
        levels = parts.read(recorded, parts.lag(recorded.sum(axis=1)))
        return parts.frequencies, ratio_of(levels[:, 0], levels[:, 1])[None, :]
    grid = ohm_grid()
    grid = grid[(grid >= parts.sweep.low_hz) & (grid <= parts.sweep.high_hz)]
    return grid, read_sweeps(recorded, parts, grid)


def start_standard(recorder: Recorder, which: Standard, repeats: int | None = None) -> None:
    """Begin one step of the jig's calibration. Raises ConflictError."""
    ready(recorder.space)

    def job() -> None:
        space = recorder.space
        jig = rig.rig(space).jig
        frequencies, ratios = ratios_of(*measure(recorder, repeats))
        recorder.computing()
        mean = between(frequencies, ratios.mean(axis=0), ohm_grid())
        wrong = plausible(which, looks_like(mean, jig.sense_ohm, ohm_grid()), jig.known_ohm)
        if wrong:
            raise UnusableError(wrong, "jig")
        heard_now = [mean.real.tolist(), mean.imag.tolist()]
        with space.lock:
            kept = documents.change(space, "jig", lambda _: {**_under_way(space), which: heard_now})
        if all(one in kept for one in STANDARDS):
            _calibrated(space, kept)
        recorder.say(stage="done", message="", seconds_left=0.0, result={"standard": which})

    recorder.start("jig", job)


def _calibrated(space: Workspace, kept: documents.Document) -> None:
    chosen = rig.rig(space)
    opened, shorted, loaded = (np.array(kept[one][0]) + 1j * np.array(kept[one][1]) for one in STANDARDS)
    made = calibration(opened, shorted, loaded, chosen.jig.known_ohm)
    when = choices.now()
    parts = {name: [values.real.tolist(), values.imag.tolist()] for name, values in asdict(made).items()}
    documents.write(space, f"jig:{when}", parts)
    done = choices.JigDone(made=when, **conditions(chosen))
    rig.update(space, jig_done=done)
    documents.remove(space, "jig")


def forget(space: Workspace) -> None:
    """Begin the calibration anew; takes keep the one that they were made with."""
    documents.remove(space, "jig")
    rig.update(space, jig_done=None)


def ready(space: Workspace) -> None:
    """Refuse to begin where the device has no jig on it. Raises ConflictError."""
    chosen = rig.rig(space)
    if chosen.device == choices.FILE:
        raise ConflictError(
            "the jig needs a sound card; with files, bring a recording of it or an impedance curve as text"
        )
    found = devices.device(space, chosen.device)
    most = max(chosen.jig.driver_input, chosen.jig.resistor_input)
    if found is not None and most >= found.inputs:
        raise ConflictError(f"{found.name} has no input {most + 1}: choose the jig's inputs anew")


def coefficients(space: Workspace, made: str | None, sense_ohm: float, frequencies: FloatArray) -> Calibration:
    """The coefficients (n,) of the calibration of a time, or those of an ideal jig where there is none."""
    kept = documents.read(space, f"jig:{made}") if made else None
    if kept is None:
        return nominal(sense_ohm, frequencies.size)
    known = {name: np.array(real) + 1j * np.array(imag) for name, (real, imag) in kept.items()}
    return Calibration(**{name: between(ohm_grid(), values, frequencies) for name, values in known.items()})
