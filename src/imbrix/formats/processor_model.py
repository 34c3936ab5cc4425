"""A processor's model as a JSON file: read with the line of whatever is wrong with it, written without loss."""

import json

from pydantic import Field

from imbrix.core.tune.limits import Limits
from imbrix.core.value import Value
from imbrix.formats.json_lines import read_value

FORMAT = "imbrix processor model 1"
MOST_BYTES = 100_000


class ModelFile(Value):
    """The file: what it is, and the model. Its JSON schema stands in `docs/processor-model.schema.json`."""

    format: str = Field(pattern=f"^{FORMAT}$")
    model: Limits


def write_model(model: Limits) -> str:
    """The model as the text of a file, which reads back as the same model."""
    return json.dumps({"format": FORMAT, "model": model.model_dump(mode="json")}, indent=2) + "\n"


def read_model(data: bytes) -> Limits:
    """The model in a file. Raises BadFileError with the line and what is wrong there."""
    return read_value(data, ModelFile, "a processor model", MOST_BYTES).model
