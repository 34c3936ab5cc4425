"""What has been computed and may be forgotten: caches with a limit, and one place that forgets."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Collection, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
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


@dataclass
class _Making:
    """A thing that is being made, and how many threads make or await it."""

    lock: threading.RLock = field(default_factory=threading.RLock)
    waiting: int = 0


class Memory:
    """The drawers of a workspace. Safe to use from several threads: who asks for what is being made waits for it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._making: dict[tuple[str, Hashable], _Making] = {}
        self._drawers: dict[str, OrderedDict[Any, tuple[Stamp, Any]]] = {}
        self._by_take: set[str] = set()

    def of(self, drawer: Drawer[K, V], key: K, make: Callable[[], V], stamp: Stamp = ()) -> V:
        """What is remembered under a key, made where it is not, or where it was made under another stamp."""
        found = self._found(drawer, key, stamp)
        if found is None:
            with self._alone(drawer, key):
                found = self._found(drawer, key, stamp)
                if found is None:
                    found = (make(),)
                    self.put(drawer, key, found[0], stamp)
        return found[0]

    def _found(self, drawer: Drawer[K, V], key: K, stamp: Stamp) -> tuple[V] | None:
        with self._lock:
            found = self._open(drawer).get(key)
            if found is None or found[0] != stamp:
                return None
            self._open(drawer).move_to_end(key)
            return (cast(V, found[1]),)

    @contextmanager
    def _alone(self, drawer: Drawer[K, V], key: K) -> Iterator[None]:
        """While no other thread makes the thing under this key."""
        name = (drawer.name, key)
        with self._lock:
            making = self._making.setdefault(name, _Making())
            making.waiting += 1
        try:
            with making.lock:
                yield
        finally:
            with self._lock:
                making.waiting -= 1
                if not making.waiting:
                    del self._making[name]

    def peek(self, drawer: Drawer[K, V], key: K) -> V | None:
        """What is remembered under a key, or None."""
        with self._lock:
            found = self._open(drawer).get(key)
            return None if found is None else cast(V, found[1])

    def stamped(self, drawer: Drawer[K, V], key: K) -> tuple[Stamp, V] | None:
        """What is remembered under a key with the stamp that it was made under, or None."""
        with self._lock:
            found = self._open(drawer).get(key)
            return None if found is None else cast("tuple[Stamp, V]", found)

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

    def copy(self, without: Collection[str] = ()) -> "Memory":
        """Another memory that begins with what this one remembers, for a workspace over the same content.

        Drawers named in `without` are left out: what they hold depends on more than the content.
        """
        other = Memory()
        with self._lock:
            kept = {name: opened for name, opened in self._drawers.items() if name not in without}
            other._drawers = {name: OrderedDict(opened) for name, opened in kept.items()}
            other._by_take = set(self._by_take)
        return other

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
