"""The log of what went wrong: a file under the user's state folder, kept small; nothing of a shop's contents is written to it."""

from __future__ import annotations

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

from grainet.paths import state_folder

MOST_BYTES, KEPT = 1_000_000, 3
LOG = logging.getLogger("grainet")


def log_path() -> Path:
    """Where the log lies: the XDG state folder."""
    return state_folder() / "grainet.log"


def begin_log() -> Path | None:
    """Write what goes wrong to the log from now on; where, or None where it cannot be written."""
    path = log_path()
    if any(isinstance(h, RotatingFileHandler) for h in LOG.handlers):
        return path
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(path, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8", delay=True)
    except OSError:
        return None
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    LOG.addHandler(handler)
    LOG.setLevel(logging.INFO)
    return path
