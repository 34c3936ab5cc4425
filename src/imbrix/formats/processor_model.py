"""A processor's model as a JSON file: read with the line of whatever is wrong with it, written without loss."""

import json
from typing import Any

from pydantic import Field, ValidationError

from imbrix.core.errors import BadFileError
from imbrix.core.tune.limits import Limits
from imbrix.core.value import Value
from imbrix.formats.json_lines import line_of

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
    if len(data) > MOST_BYTES:
        raise BadFileError(f"{len(data)} bytes are no processor model: at most {MOST_BYTES} are read")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise BadFileError(f"line {line}: not text in UTF-8") from None
    try:
        found = json.loads(text, parse_constant=_no_constant, object_pairs_hook=_once)
    except json.JSONDecodeError as error:
        raise BadFileError(f"line {error.lineno}: this is not JSON: {error.msg.lower()}") from None
    except (ValueError, RecursionError) as error:
        raise BadFileError(f"this is not a processor model: {error}") from None
    try:
        return ModelFile.model_validate(found).model
    except ValidationError as error:
        raise BadFileError(_first(text, error)) from None


def _first(text: str, error: ValidationError) -> str:
    """What is wrong, of several things the first in the file, and how many more there are."""
    wrong = sorted((line_of(text, one["loc"]), ".".join(map(str, one["loc"])), one["msg"]) for one in error.errors())
    line, name, says = wrong[0]
    says = says.removeprefix("Value error, ")
    more = f" ({len(wrong) - 1} more)" if len(wrong) > 1 else ""
    return f"line {line}: {name or 'the whole'}: {says[:1].lower()}{says[1:]}{more}"


def _no_constant(name: str) -> None:
    raise ValueError(f"{name} is no number here")


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object whose keys come once: of two values for one thing neither is to be trusted."""
    found = dict(pairs)
    if len(found) < len(pairs):
        keys = [key for key, _ in pairs]
        twice = next(key for key in keys if keys.count(key) > 1)
        raise ValueError(f"{twice!r} is there twice")
    return found
