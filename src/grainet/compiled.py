"""Loops over single figures that NumPy cannot do at once: compiled when they are first called, and kept beside their source for the next program."""

from __future__ import annotations

from collections.abc import Callable
from typing import ParamSpec, TypeVar

from numba import njit

P = ParamSpec("P")
T = TypeVar("T")


def compiled(loop: Callable[P, T]) -> Callable[P, T]:
    """A function of figures and arrays alone, as machine code. Few arguments and few levels of calls keep the first call short; it may call others
    of its own file only, for it is compiled anew when that file has changed and no other."""
    try:
        return njit(cache=True, error_model="numpy", nogil=True)(loop)
    except RuntimeError:  # there is no place that may be written to: every program compiles it anew
        return njit(error_model="numpy", nogil=True)(loop)
