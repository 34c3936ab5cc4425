"""Where in a JSON text each value stands, so that what is wrong with one can be told with its line."""

import json
import re

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
