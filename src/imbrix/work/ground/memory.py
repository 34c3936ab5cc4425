"""What has been computed and may be forgotten: caches with a limit, and one place that forgets."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar, cast

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
Stamp = tuple[int | float | str, ...]


@dataclass(frozen=True)
class Drawer(Generic[K, V]):
    """One kind of thing that is remembered, at most `most` of them: whoever computes them declares the drawer.

    The keys of a drawer `by_take` are ids of takes, so that `Memory.forget_take` reaches them.
    """

    name: str
    most: int
    by_take: bool = False


class Memory:
    """The drawers of a workspace. Safe to use from several threads: at worst a thing is computed twice."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._drawers: dict[str, OrderedDict[Any, tuple[Stamp, Any]]] = {}
        self._by_take: set[str] = set()

    def of(self, drawer: Drawer[K, V], key: K, make: Callable[[], V], stamp: Stamp = ()) -> V:
        """What is remembered under a key, made where it is not, or where it was made under another stamp."""
        with self._lock:
            found = self._open(drawer).get(key)
            if found is not None and found[0] == stamp:
                self._open(drawer).move_to_end(key)
                return cast(V, found[1])
        value = make()
        self.put(drawer, key, value, stamp)
        return value

    def peek(self, drawer: Drawer[K, V], key: K) -> V | None:
        """What is remembered under a key, or None."""
        with self._lock:
            found = self._open(drawer).get(key)
            return None if found is None else cast(V, found[1])

    def put(self, drawer: Drawer[K, V], key: K, value: V, stamp: Stamp = ()) -> None:
        """Remember a thing that is known already; the one used longest ago goes where there are too many."""
        with self._lock:
            opened = self._open(drawer)
            opened[key] = (stamp, value)
            opened.move_to_end(key)
            while len(opened) > drawer.most:
                opened.popitem(last=False)

    def forget(self, drawer: Drawer[K, V], key: K) -> None:
        """Forget one thing; one that is not there is no matter."""
        with self._lock:
            self._open(drawer).pop(key, None)

    def forget_take(self, take_id: int) -> None:
        """Forget everything that was computed of a take."""
        with self._lock:
            for name in self._by_take:
                self._drawers[name].pop(take_id, None)

    def sizes(self) -> dict[str, int]:
        """How many things each drawer holds."""
        with self._lock:
            return {name: len(opened) for name, opened in sorted(self._drawers.items())}

    def _open(self, drawer: Drawer[Any, Any]) -> OrderedDict[Any, tuple[Stamp, Any]]:
        if drawer.name not in self._drawers:
            self._drawers[drawer.name] = OrderedDict()
            if drawer.by_take:
                self._by_take.add(drawer.name)
        return self._drawers[drawer.name]
