"""SciPy without what it loads and never uses here: that is four fifths of the time that its signal part takes.

There are three such things, all private to SciPy: it parses the docstring of every function that may run on other
array libraries, to add a table of those; it takes in all of NumPy by name, its Fortran compiler and its tests with it;
and it loads all of `scipy.stats` for one function of its search for peaks. Where a version of SciPy does any of it in
another way, it loads as it always does.
"""

import importlib
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib.machinery import ModuleSpec, PathFinder, SourceFileLoader
from types import ModuleType
from typing import Any, TypeVar

F = TypeVar("F")
SIGNAL, STATS = "scipy.signal", "scipy.stats"
TOOLS = ("f2py", "testing")


def load_quickly() -> None:
    """Have `scipy.signal` load quickly, when it is used first: a page is drawn before anything needs it.

    Call before any part of SciPy is loaded: what is there by then stays as it is.
    """
    if SIGNAL in sys.modules:
        return
    with _without_tools():
        try:
            from scipy._lib import _array_api
        except ImportError:
            pass
        else:
            if hasattr(_array_api, "xp_capabilities"):
                _array_api.xp_capabilities = _as_it_is
    sys.meta_path.insert(0, _First)


class _First:
    """Finds `scipy.signal` as ever, the first time that it is asked for, and has it loaded without its statistics."""

    @staticmethod
    def find_spec(name: str, path: Any = None, _target: object = None) -> ModuleSpec | None:
        if name != SIGNAL:
            return None
        sys.meta_path.remove(_First)
        spec = PathFinder.find_spec(name, path)
        if spec is not None and spec.origin is not None and isinstance(spec.loader, SourceFileLoader):
            spec.loader = _Loader(name, spec.origin)
        return spec


class _Loader(SourceFileLoader):
    def exec_module(self, module: ModuleType) -> None:
        with _without_tools(), _stats_later():
            super().exec_module(module)


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
