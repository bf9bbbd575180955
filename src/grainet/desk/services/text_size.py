"""How large everything is shown: this machine's own setting, kept beside its shops and read before the window is made.

Qt scales a whole program, words, wood and buttons alike, but only when it starts; so a change opens the window anew on the same shop.
"""

from __future__ import annotations

import os
from collections.abc import Mapping, MutableMapping
from pathlib import Path

from grainet.paths import state_folder

SIZES_PCT = (80, 90, 100, 110, 125, 150, 175, 200)
VARIABLE = "QT_SCALE_FACTOR"
OUTSIDE = "GRAINET_OUTER_SCALE"  # what the desktop asked for before our own size came on top


def size_file() -> Path:
    """Where it is kept."""
    return state_folder() / "text-size"


def text_size_pct() -> int:
    """The size that is kept, % ; 100 where none is, or none of ours."""
    try:
        kept = int(size_file().read_text("ascii"))
    except (OSError, ValueError):
        return 100
    return kept if kept in SIZES_PCT else 100


def next_size_pct(by: int) -> int:
    """The size one step larger (1) or smaller (-1), the last one where there is no further; 0 is back to 100 %."""
    if by == 0:
        return 100
    at = SIZES_PCT.index(text_size_pct())
    return SIZES_PCT[max(0, min(len(SIZES_PCT) - 1, at + by))]


def keep_text_size(pct: int) -> None:
    """Keep a size for the next start. Raises OSError."""
    size_file().parent.mkdir(parents=True, exist_ok=True)
    size_file().write_text(str(pct), "ascii")


def scale(environment: MutableMapping[str, str] | None = None) -> None:
    """Tell Qt the size, on top of what the desktop asks for. Before the application is made."""
    into = os.environ if environment is None else environment
    outer = into.setdefault(OUTSIDE, into.get(VARIABLE, "1"))
    factor = _factor(outer) * text_size_pct() / 100
    if factor != 1.0 or VARIABLE in into:
        into[VARIABLE] = f"{factor:g}"


def _factor(text: str) -> float:
    try:
        found = float(text)
    except ValueError:
        return 1.0
    return found if 0.25 <= found <= 8 else 1.0


def without_our_size(environment: Mapping[str, str]) -> dict[str, str]:
    """The environment as the desktop gave it, for a program that is started anew."""
    rest = {k: v for k, v in environment.items() if k not in (VARIABLE, OUTSIDE)}
    if environment.get(OUTSIDE, "1") != "1":
        rest[VARIABLE] = environment[OUTSIDE]
    return rest
