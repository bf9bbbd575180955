"""Where the bench stands: the plan and the operation, kept beside the shop at every key, so that it stands there again after a power cut.

It is no edit of the shop: nothing is undone by it, and where it cannot be written the bench begins at what comes next.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

from grainet.exchange.json_file import Unusable, write_text

NAME = "bench-place.json"


@dataclass(frozen=True)
class BenchPlace:
    """A plan and one of its operations."""

    plan: str
    operation: str


def kept_place(folder: Path) -> BenchPlace | None:
    """Where the bench stood last; None where nothing that can be read says so."""
    try:
        data = json.loads((folder / NAME).read_text(encoding="utf-8"))
        return BenchPlace(str(data["plan"]), str(data["operation"]))
    except (OSError, ValueError, KeyError, TypeError):
        return None


def keep_place(folder: Path, place: BenchPlace) -> bool:
    """Keep where it stands; whether that could be written."""
    try:
        write_text(folder / NAME, json.dumps({"plan": place.plan, "operation": place.operation}) + "\n")
    except Unusable:
        return False
    return True
