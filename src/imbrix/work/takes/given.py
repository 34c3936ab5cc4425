"""The sweeps that were given out to be played elsewhere: a recording that comes back is of one of them."""

from dataclasses import asdict

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
SILENT = 1e-4
"""A channel whose peak stays under this (-80 dBFS) carries nothing."""
LEAST_S = 0.2
"""No sweep is shorter."""


def package(space: Workspace, settings: SweepSettings) -> bytes:
    """The package of a sweep. It is remembered that it was given out, before it is."""
    figures = asdict(settings)

    def note(before: documents.Document) -> documents.Document:
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
    space: Workspace, data: bytes, described: SweepSettings | None = None
) -> tuple[FloatArray, int, SweepSettings | None]:
    """A recording (n, 1 or 2) from a WAV file, its rate in hertz, and the sweep in it: the one `described`, else
    the one that is recognised. With a loopback beside the microphone any sweep will do: None where none is described.

    Raises BadFileError, and UnusableError where the recording holds no such sweep.
    """
    rate = rig.rig(space).rate
    samples = wav.read_wav(data, rate)[:, :2]
    if described is None and samples.shape[1] > 1 and np.abs(samples[:, 1]).max() > SILENT:
        check_recording(samples[:, 0], rate, LEAST_S)
        return samples, rate, None
    found = held(space, data, described, channel=0)
    return wav.read_wav(data, found.rate)[:, :2], found.rate, found


def of_jig(space: Workspace, data: bytes, described: SweepSettings | None = None) -> tuple[FloatArray, SweepSettings]:
    """A recording (n, channels) of an impedance jig from a WAV file at the rate of its sweep, and that sweep.

    Raises as `recording` does.
    """
    found = held(space, data, described, channel=-1)
    return wav.read_wav(data, found.rate), found


def held(space: Workspace, data: bytes, described: SweepSettings | None, channel: int) -> SweepSettings:
    """The sweep that a channel of a recording holds, or another where that is silent."""
    made: dict[int, FloatArray] = {}

    def at(rate: int) -> FloatArray:
        if rate not in made:
            samples = wav.read_wav(data, rate)[:, :2]
            silent = np.abs(samples[:, channel]).max() <= SILENT
            made[rate] = samples[:, int(np.argmax(np.abs(samples).max(axis=0))) if silent else channel]
        return made[rate]

    sweeps = known(space) if described is None else (described,)
    first = sweeps[0].rate
    check_recording(at(first), first, min(one.length / one.rate for one in sweeps))
    found = recognised(at, sweeps)
    if found is not None:
        return found
    if described is None:
        raise UnusableError(
            "the recording holds none of the sweeps that were given out here: choose its sweep.json or sweep.zip "
            "together with it, or record the sweep from its start to its end"
        )
    raise UnusableError(
        f"the recording does not hold the sweep described ({described.length / described.rate:.2f} s from "
        f"{described.low_hz:g} to {described.high_hz:g} Hz at {described.rate} samples a second)"
    )
