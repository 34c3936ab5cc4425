"""The jig at hand: played through with the processor silent, calibrated step by step, its coefficients kept."""

from dataclasses import asdict
from typing import Any

import numpy as np

from imbrix.core.grid import between
from imbrix.core.impedance import ohm_grid
from imbrix.core.jig import (
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
from imbrix.core.reading import UnusableError
from imbrix.core.schedule import Schedule
from imbrix.core.signal import ComplexArray, FloatArray
from imbrix.core.stepped import Steps
from imbrix.core.sweep import SweepSettings
from imbrix.work import documents, rig
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.player import Recorder, silenced
from imbrix.work.rig import jig_conditions as conditions

STANDARDS: tuple[Standard, ...] = ("open", "short", "resistor")


def steps_done(desk: Desk) -> list[str]:
    """Which steps of a calibration under way are there."""
    return [one for one in STANDARDS if one in _under_way(desk)]


def _under_way(desk: Desk) -> dict[str, Any]:
    """The steps of a calibration that was begun under the conditions that hold now, and these."""
    chosen = rig.rig(desk)
    now = {**conditions(chosen), "known_ohm": chosen.jig.known_ohm}
    found = documents.read(desk, "jig") or {}
    return found if found.get("conditions") == now else {"conditions": now}


def measure(recorder: Recorder) -> tuple[FloatArray, Schedule | Steps]:
    """Play through the jig with every output of the processor mute, and return both voltages (n, 2)."""
    desk = recorder.desk
    chosen = rig.rig(desk)
    jig = chosen.jig
    rate = desk.interface.rate
    parts: Schedule | Steps
    if jig.method == "stepped":
        parts = Steps(low_hz=10.0, high_hz=min(20_000.0, 0.45 * rate), per_octave=24, level_db=jig.level_db, rate=rate)
    else:
        high = min(23_000.0, 0.48 * rate)
        sweep = SweepSettings(4.0, high, 2**17 if rate < 90_000 else 2**18, jig.level_db, 0.8, rate)
        parts = Schedule(sweep, jig.repeats, quiet_s=0.1)
    with silenced(desk):
        return recorder.play(parts.samples(), inputs=(jig.driver_input, jig.resistor_input)), parts


def ratios_of(recorded: FloatArray, parts: Schedule | Steps) -> tuple[FloatArray, ComplexArray]:
    """Frequencies (n,) and ratios (r, n) of a recording."""
    if isinstance(parts, Steps):
        heard(recorded)
        levels = parts.read(recorded, parts.lag(recorded.sum(axis=1)))
        return parts.frequencies, ratio_of(levels[:, 0], levels[:, 1])[None, :]
    return ohm_grid(), read_sweeps(recorded, parts, ohm_grid())


def start_standard(recorder: Recorder, which: Standard) -> None:
    """Begin one step of the jig's calibration. Raises ConflictError."""
    ready(recorder.desk)

    def job() -> None:
        desk = recorder.desk
        jig = rig.rig(desk).jig
        frequencies, ratios = ratios_of(*measure(recorder))
        recorder.computing()
        mean = between(frequencies, ratios.mean(axis=0), ohm_grid())
        wrong = plausible(which, looks_like(mean, jig.sense_ohm, ohm_grid()), jig.known_ohm)
        if wrong:
            raise UnusableError(wrong, "jig")
        kept = _under_way(desk)
        kept[which] = [mean.real.tolist(), mean.imag.tolist()]
        documents.write(desk, "jig", kept)
        if all(one in kept for one in STANDARDS):
            _calibrated(desk, kept)
        recorder.say(stage="done", message="", seconds_left=0.0, result={"standard": which})

    recorder.start("jig", job)


def _calibrated(desk: Desk, kept: dict[str, Any]) -> None:
    chosen = rig.rig(desk)
    opened, shorted, loaded = (np.array(kept[one][0]) + 1j * np.array(kept[one][1]) for one in STANDARDS)
    made = calibration(opened, shorted, loaded, chosen.jig.known_ohm)
    when = rig.now()
    parts = {name: [values.real.tolist(), values.imag.tolist()] for name, values in asdict(made).items()}
    documents.write(desk, f"jig:{when}", parts)
    done = rig.JigDone(made=when, **conditions(chosen))
    rig.keep(desk, chosen.model_copy(update={"jig_done": done}))
    documents.remove(desk, "jig")


def forget(desk: Desk) -> None:
    """Begin the calibration anew; takes keep the one that they were made with."""
    documents.remove(desk, "jig")
    rig.keep(desk, rig.rig(desk).model_copy(update={"jig_done": None}))


def ready(desk: Desk) -> None:
    """Refuse to begin where the device has no jig on it. Raises ConflictError."""
    chosen = rig.rig(desk)
    if chosen.device == rig.FILE:
        raise ConflictError("the jig needs a sound card; with files, bring an impedance curve as text")
    found = rig.device(desk, chosen.device)
    most = max(chosen.jig.driver_input, chosen.jig.resistor_input)
    if found is not None and most >= found["inputs"]:
        raise ConflictError(f"{found['name']} has no input {most + 1}: choose the jig's inputs anew")


def coefficients(desk: Desk, made: str | None, sense_ohm: float, frequencies: FloatArray) -> Calibration:
    """The coefficients (n,) of the calibration of a time, or those of an ideal jig where there is none."""
    kept = documents.read(desk, f"jig:{made}") if made else None
    if kept is None:
        return nominal(sense_ohm, frequencies.size)
    known = {name: np.array(real) + 1j * np.array(imag) for name, (real, imag) in kept.items()}
    return Calibration(**{name: between(ohm_grid(), values, frequencies) for name, values in known.items()})
