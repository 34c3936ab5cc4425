"""SciPy without the tables in its docstrings: writing them takes more than half of the time that it takes to load.

SciPy parses the docstring of every function that may run on other array libraries, to add a table of those. Nobody
reads it here. What does so is private to SciPy: where a version does it in another way, it loads as it always does.
"""

from collections.abc import Callable
from typing import TypeVar

F = TypeVar("F")


def load_quickly() -> None:
    """Call before any part of SciPy is loaded: what is there by then stays as it is."""
    try:
        from scipy._lib import _array_api
    except ImportError:
        return
    if hasattr(_array_api, "xp_capabilities"):
        _array_api.xp_capabilities = _as_it_is


def _as_it_is(*_tells: object, **_more: object) -> Callable[[F], F]:
    return lambda function: function
