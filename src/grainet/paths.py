"""Where Grainet keeps what is its own on this machine, by the XDG rules: shops, caches, the log."""

from __future__ import annotations

import os
from pathlib import Path

NAME = "grainet"


def _under(variable: str, usual: tuple[str, ...]) -> Path:
    told = os.environ.get(variable, "")
    base = Path(told) if told.startswith("/") else Path.home().joinpath(*usual)  # the rules ask for an absolute path
    return base / NAME


def data_folder() -> Path:
    """Where shops live that nobody put elsewhere."""
    return _under("XDG_DATA_HOME", (".local", "share"))


def cache_folder() -> Path:
    """What can be worked out again: pictures, rows."""
    return _under("XDG_CACHE_HOME", (".cache",))


def state_folder() -> Path:
    """The log."""
    return _under("XDG_STATE_HOME", (".local", "state"))
