"""Ways out for a part that does not fit, as the contract writes them."""

from __future__ import annotations

import json
from pathlib import Path

from grainet.exchange.json_file import write_text
from grainet.plan.rescuing import Rescued


def write_rescue(path: Path, found: Rescued) -> None:
    """The answer to a file. Raises Unusable."""
    data = {
        "format": "grainet-rescue", "version": 1, "part": found.part, "piece": found.piece, "short_mm": found.short_mm,
        "ways": [
            {
                "kind": w.kind, "change": list(w.change), "seams": w.seams, "days": w.days, "wood": [{"piece": p, "length_mm": mm} for p, mm in w.wood],
                "margin_mm": w.margin_mm, "visible": w.visible,
            }
            for w in found.ways
        ],
        "x-tried": list(found.tried), "x-complete": found.complete,
    }  # fmt: skip
    write_text(path, json.dumps(data, indent=1) + "\n")
