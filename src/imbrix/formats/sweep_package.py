"""The sweep as a zip with its description, to be played elsewhere; the description comes back with the recording."""

import io
import json
import zipfile
from dataclasses import asdict

from pydantic import Field

from imbrix.core.errors import BadFileError
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.value import Value
from imbrix.formats.json_lines import read_value
from imbrix.formats.wav import write_wav

MOST_BYTES = 20_000
DESCRIPTION = "sweep.json"


class Description(Value):
    """The description: what the package holds, the sweep's figures as in `SweepSettings`, and what to do with it."""

    what: str = ""
    low_hz: float = Field(gt=0, le=96_000, allow_inf_nan=False)
    high_hz: float = Field(gt=0, le=96_000, allow_inf_nan=False)
    length: int = Field(ge=2**12, le=2**20)
    level_db: float = Field(ge=-80, le=0, allow_inf_nan=False)
    tail_s: float = Field(ge=0, le=60, allow_inf_nan=False)
    rate: int = Field(ge=8000, le=192_000)
    how: str = ""


def write_package(settings: SweepSettings) -> bytes:
    """A zip with the sweep as WAV and its description."""
    sweep = exponential_sweep(settings)
    description = {
        "what": "Exponential sweep with faded ends and silence after it",
        **asdict(settings),
        "how": "Play sweep.wav through one driver and record it. Bring the recording together with this file; "
        "a second recorded channel with the loopback keeps time between takes.",
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("sweep.wav", write_wav(sweep.samples, sweep.rate))
        package.writestr(DESCRIPTION, json.dumps(description, indent=2))
    return out.getvalue()


def read_package(data: bytes) -> SweepSettings:
    """The sweep of a package, or of its description alone. Raises BadFileError, InvalidError."""
    if data[:2] == b"PK":
        data = _description(data)
    found = read_value(data, Description, "the description of a sweep", MOST_BYTES)
    return SweepSettings(**found.model_dump(exclude={"what", "how"}))


def _description(package: bytes) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(package)) as files, files.open(DESCRIPTION) as one:
            return one.read(MOST_BYTES + 1)
    except KeyError:
        raise BadFileError(f"the zip holds no {DESCRIPTION}: it is not a package of a sweep") from None
    except (zipfile.BadZipFile, zipfile.LargeZipFile, OSError, ValueError, NotImplementedError, RuntimeError):
        raise BadFileError("this zip cannot be read: it is damaged or was cut off") from None
