"""The uses that wood is judged for, by name; what each is shipped as stands in ``uses.py``."""

from __future__ import annotations

from enum import StrEnum


class Use(StrEnum):
    """The uses that the house has a rule for, in the order in which they are shown. What a use is shipped as is one row of ``USES``."""

    BODY_HALF = "body_half"
    MATCHED_TOP = "matched_top"
    NECK = "neck"
    FRETBOARD = "fretboard"
    LAMINATE_STRIP = "laminate_strip"
    HEAD_PLATE = "head_plate"
    BINDING = "binding"
    CORE = "core"
