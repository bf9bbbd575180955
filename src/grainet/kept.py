"""A mapping that keeps what was used last and lets go of the rest, so that nothing grows for as long as the window is open."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K")
V = TypeVar("V")


class Kept(Generic[K, V]):
    """At most ``most`` values by key, the least recently used let go first; safe to use from several threads."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._lock = Lock()
        self._values: OrderedDict[K, V] = OrderedDict()

    def get(self, key: K) -> V | None:
        """The value, which counts as used now; None where it is not kept."""
        with self._lock:
            if key not in self._values:
                return None
            self._values.move_to_end(key)
            return self._values[key]

    def put(self, key: K, value: V) -> V:
        """Keep a value and give it back."""
        with self._lock:
            self._values[key] = value
            self._values.move_to_end(key)
            while len(self._values) > self.most:
                self._values.popitem(last=False)
        return value

    def clear(self) -> None:
        """Let go of everything."""
        with self._lock:
            self._values.clear()

    def __len__(self) -> int:
        return len(self._values)
