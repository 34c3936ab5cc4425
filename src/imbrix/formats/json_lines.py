"""JSON files read into values; what is wrong in one is told with the line it stands in."""

import json
import re
from typing import Any, TypeVar

from pydantic import ValidationError

from imbrix.core.errors import BadFileError
from imbrix.core.value import Value

V = TypeVar("V", bound=Value)
Path = tuple[str | int, ...]
_TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+')


def lines(text: str) -> dict[Path, int]:
    """The line, from 1, of every value in a JSON text that parses, by its path from the whole (the empty path).

    >>> lines('{"a": [1,\\n 2]}')[("a", 1)]
    2
    """
    found: dict[Path, int] = {}
    tokens = [(one.group(), text.count("\n", 0, one.start()) + 1) for one in _TOKEN.finditer(text)]
    path: list[str | int] = []
    nests: list[str] = []
    key_next = False
    for n, (token, line) in enumerate(tokens):
        if token in "{[" or token[0] not in "}],:":
            is_key = bool(nests) and nests[-1] == "{" and key_next
            if is_key:
                path[-1] = str(json.loads(token))
                key_next = False
                continue
            found[tuple(path)] = line
            if token in "{[":
                nests.append(token)
                path.append(0 if token == "[" else "")
                key_next = token == "{" and tokens[n + 1][0] != "}"
        elif token in "}]":
            nests.pop()
            path.pop()
        elif token == ",":
            if nests[-1] == "[":
                path[-1] = int(path[-1]) + 1
            else:
                key_next = True
    return found


def line_of(text: str, path: Path) -> int:
    """The line of the value at a path, or of the nearest that holds it where it is not there."""
    found = lines(text)
    while path and path not in found:
        path = path[:-1]
    return found.get(path, 1)


def read_value(data: bytes, kind: type[V], what: str, most: int) -> V:
    """The value of a `kind` in a file of at most `most` bytes. Raises BadFileError with the line and what is wrong
    there; `what` the file should be is said in words, as in "a processor model"."""
    if len(data) > most:
        raise BadFileError(f"{len(data)} bytes are not {what}: at most {most} are read")
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
        raise BadFileError(f"this is not {what}: {error}") from None
    try:
        return kind.model_validate(found)
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
