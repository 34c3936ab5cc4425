"""Reading what is kept, by whichever version it was written: unknown fields are passed over, the rest is said."""

import copy
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from imbrix.core.errors import ConflictError

M = TypeVar("M", bound=BaseModel)
ADDED = ("extra_forbidden", "unexpected_keyword_argument")
"""What pydantic says of a field that a model or a dataclass does not have."""


def stored(model: type[M], value: object, what: str) -> M:
    """A kept value as a model of ours. What a later version has added stands in the file as it was, and is not seen.

    Raises ConflictError, with `what` it is, where the value means something that this version does not know.
    """
    try:
        return model.model_validate(value)
    except ValidationError as error:
        unknown = [one["loc"] for one in error.errors() if one["type"] in ADDED]
    known = copy.deepcopy(value)
    for path in unknown:
        _take_out(known, path)
    try:
        return model.model_validate(known)
    except ValidationError as error:
        first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"])
    raise ConflictError(
        f"{what} cannot be read ({where}: {first['msg']}): it was kept by a newer Imbrix, or is damaged. Open it with "
        "the version that kept it; it is left as it is, and everything else works"
    )


def _take_out(value: Any, path: tuple[int | str, ...]) -> None:
    """Take a field out; parts of the path that the value does not have only say which of several models it is."""
    *parts, last = path
    for part in parts:
        inside = part in value if isinstance(value, dict) else isinstance(part, int) and part < len(value)
        value = value[part] if inside else value
    if isinstance(value, dict):
        value.pop(last, None)
