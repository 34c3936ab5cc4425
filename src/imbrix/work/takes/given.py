"""The sweeps that were given out to be played elsewhere: a recording that comes back is of one of them."""

from dataclasses import asdict
from typing import Any

import numpy as np

from imbrix.core.errors import UnusableError
from imbrix.core.measure.reading import check_recording
from imbrix.core.measure.recognise import recognised
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.signal.signal import FloatArray
from imbrix.formats import sweep_package, wav
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import rig

KEY = "sweeps-given"
MOST = 12


def package(space: Workspace, settings: SweepSettings) -> bytes:
    """The package of a sweep. It is remembered that it was given out, before it is."""
    figures = asdict(settings)

    def note(before: dict[str, Any]) -> dict[str, Any]:
        earlier = [one for one in before.get("sweeps", []) if one != figures]
        return {"sweeps": [figures, *earlier][:MOST]}

    documents.change(space, KEY, note)
    return sweep_package.write_package(settings)


def known(space: Workspace) -> tuple[SweepSettings, ...]:
    """What a recording may be of, the likeliest first: sweeps given out, the last first, then the rig's own
    and the one that the command line gives out."""
    given = (documents.read(space, KEY) or {}).get("sweeps", [])
    sweeps = (*(SweepSettings(**one) for one in given), rig.rig(space).sweep_settings, SweepSettings())
    return tuple(dict.fromkeys(sweeps))


def recording(
    space: Workspace, data: bytes, described: SweepSettings | None = None, either: bool = False
) -> tuple[FloatArray, SweepSettings]:
    """A recording (n, 1 or 2) from a WAV file at the rate of its sweep, and that sweep: the one `described`, else the
    one that is recognised. The first channel has to be heard, or `either`.

    Raises BadFileError, and UnusableError where the recording holds no such sweep.
    """
    made: dict[int, FloatArray] = {}

    def at(rate: int) -> FloatArray:
        if rate not in made:
            made[rate] = wav.read_wav(data, rate)[:, :2]
        return made[rate]

    def heard(rate: int) -> FloatArray:
        # The loopback holds the sweep without any place about it.
        samples = at(rate)
        return samples[:, -1] if abs(samples[:, -1]).max() > 1e-4 else samples[:, 0]

    sweeps = known(space) if described is None else (described,)
    first = sweeps[0].rate
    samples = at(first)
    judged = int(np.argmax(np.abs(samples).max(axis=0))) if either else 0
    check_recording(samples[:, judged], first, min(one.length / one.rate for one in sweeps))
    found = recognised(heard, sweeps)
    if found is None:
        if described is None:
            raise UnusableError(
                "the recording holds none of the sweeps that were given out here: choose its sweep.json or sweep.zip "
                "together with it, or record the sweep from its start to its end"
            )
        raise UnusableError(
            f"the recording does not hold the sweep described ({described.length / described.rate:.2f} s from "
            f"{described.low_hz:g} to {described.high_hz:g} Hz at {described.rate} samples a second)"
        )
    return at(found.rate), found
