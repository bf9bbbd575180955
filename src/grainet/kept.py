"""A mapping that keeps what was used last and lets go of the rest, so that nothing grows for as long as the window is open."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from threading import Lock
from typing import Concatenate, Generic, ParamSpec, TypeVar

K = TypeVar("K")
V = TypeVar("V")
P = ParamSpec("P")
F = TypeVar("F")


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


def kept_per_value(most: int = 32) -> Callable[[Callable[Concatenate[F, P], V]], Callable[Concatenate[F, P], V]]:
    """For a function of frozen values alone: its last answers are kept by which value came first, not by what is in it, so that asking
    again costs nothing and no large value is ever compared; what follows the first must be small and hashable."""

    def wrap(function: Callable[Concatenate[F, P], V]) -> Callable[Concatenate[F, P], V]:
        kept: Kept[tuple[object, ...], tuple[object, V]] = Kept(most)

        @wraps(function)
        def ask(first: F, /, *rest: P.args, **named: P.kwargs) -> V:
            key = (id(first), *rest, *named.values())
            found = kept.get(key)
            if found is not None:
                return found[1]
            return kept.put(key, (first, function(first, *rest, **named)))[
                1
            ]  # the value is held, so that its id is not given twice

        return ask

    return wrap
