"""SciPy's signal part without what it loads and never uses here: that is four fifths of the time that it takes.

There are three such things, all private to SciPy: it parses the docstring of every function that may run on other
array libraries, to add a table of those; it takes in all of NumPy by name, its Fortran compiler and its tests with it;
and it loads all of `scipy.stats` for one function of its search for peaks. Where a version of SciPy does any of it in
another way, it loads as it always does.
"""

import importlib
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import ModuleType
from typing import Any, TypeVar

F = TypeVar("F")
STATS = "scipy.stats"
TOOLS = ("f2py", "testing")


def load_quickly() -> None:
    """Load `scipy.signal`. Call before any part of SciPy is loaded: what is there by then stays as it is."""
    if "scipy.signal" in sys.modules:
        return
    with _without_tools(), _stats_later():
        try:
            from scipy._lib import _array_api
        except ImportError:
            pass
        else:
            if hasattr(_array_api, "xp_capabilities"):
                _array_api.xp_capabilities = _as_it_is
        importlib.import_module("scipy.signal")


def _as_it_is(*_tells: object, **_more: object) -> Callable[[F], F]:
    return lambda function: function


@contextmanager
def _without_tools() -> Iterator[None]:
    """While NumPy does not tell of those of its parts that are there to build and to test other programs."""
    import numpy as np

    as_ever = {"__all__": np.__all__, "__dir__": np.__dir__}
    names = [name for name in dir(np) if name not in TOOLS]
    vars(np).update(__all__=[name for name in np.__all__ if name not in TOOLS], __dir__=lambda: names)
    try:
        yield
    finally:
        vars(np).update(as_ever)


@contextmanager
def _stats_later() -> Iterator[None]:
    """While a function of `scipy.stats` that is asked for by name is one that loads the real one when it is called."""
    if STATS in sys.modules:
        yield
        return
    sys.modules[STATS] = _Later(STATS)
    try:
        yield
    finally:
        del sys.modules[STATS]


class _Later(ModuleType):
    def __getattr__(self, name: str) -> Callable[..., Any]:
        if name.startswith("_"):
            raise AttributeError(name)
        return lambda *args, **kwargs: getattr(importlib.import_module(STATS), name)(*args, **kwargs)
