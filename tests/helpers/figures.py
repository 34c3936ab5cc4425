"""Figures that are kept: what the core makes of places, recordings and situations that never change.

Closed forms and outside libraries say whether a figure is right; these say whether it is still the same (a
characterization test: M. Feathers, Working Effectively with Legacy Code, 2004). Where one moves on purpose, write them
anew as docs/CONTRIBUTING.md says, and read in the diff what moved.
"""

import dataclasses
import json
import os
import re
from collections.abc import Mapping
from pathlib import Path

import numpy as np
import pytest
from pydantic import BaseModel

KEPT = Path(__file__).parents[1] / "data" / "figures.json"
POINTS = 9
"""Of a curve so many points are kept, evenly apart, with mean and spread of all of it."""
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
Leaf = list[float] | str
"""A figure or a few points of a curve; or words."""


def flat(value: object, at: str = "") -> dict[str, Leaf]:
    """Figures and words by where they stand in a result."""
    if isinstance(value, BaseModel):
        return flat(value.model_dump(mode="json"), at)
    if value is None or isinstance(value, str | bool | np.bool_):
        return {at: str(value)}
    if isinstance(value, complex | float | int | np.number):
        value = np.array([value])
    if isinstance(value, np.ndarray):
        some = value.ravel()[np.linspace(0, value.size - 1, min(POINTS, value.size)).round().astype(int)]
        points = [*some.real.tolist(), *(some.imag.tolist() if np.iscomplexobj(some) else ())]
        sizes = np.abs(value[np.isfinite(value)])
        return {
            at: [*points, *([float(sizes.mean()), float(sizes.std())] if value.size > POINTS and sizes.size else ())]
        }
    if isinstance(value, Mapping):
        pairs = list(value.items())
    elif dataclasses.is_dataclass(value):
        pairs = [(one.name, getattr(value, one.name)) for one in dataclasses.fields(value)]
    else:
        pairs = list(enumerate(value))  # type: ignore[call-overload]
    return {where: leaf for key, one in pairs for where, leaf in flat(one, f"{at}.{key}".lstrip(".")).items()}


def check(name: str, found: object) -> None:
    """Hold figures against those that are kept under a name, or keep them where that is asked for."""
    now = flat(found)
    kept = json.loads(KEPT.read_text()) if KEPT.exists() else {}
    if os.environ.get("IMBRIX_FIGURES") == "write":
        kept[name] = {where: leaf if isinstance(leaf, str) else _rounded(leaf) for where, leaf in now.items()}
        lines = json.dumps(dict(sorted(kept.items())), indent=1)
        KEPT.write_text(re.sub(r"\[[^]\"{}]*\]", lambda one: re.sub(r"\s+", " ", one[0]), lines) + "\n")
        return
    before = kept[name]
    assert now.keys() == before.keys()
    moved = [f"{where}: {before[where]} is {one}" for where, one in now.items() if not same(before[where], one)]
    assert not moved, "\n".join(moved)


def _rounded(leaf: list[float]) -> list[float]:
    return [float(f"{one:.6g}") for one in leaf]


def same(before: Leaf, now: Leaf) -> bool:
    """Curves within a thousandth of their greatest value; figures within words within a fiftieth: on other processors
    they may be rounded to other digits."""
    if isinstance(before, str) or isinstance(now, str):
        if NUMBER.sub("#", str(before)) != NUMBER.sub("#", str(now)):
            return False
        first, second = ([float(one) for one in NUMBER.findall(str(leaf))] for leaf in (before, now))
        return second == pytest.approx(first, rel=0.02, abs=0.02)
    most = np.abs(before)[np.isfinite(before)].max(initial=0.0)
    return now == pytest.approx(before, rel=1e-3, abs=1e-3 * most + 1e-9, nan_ok=True)
