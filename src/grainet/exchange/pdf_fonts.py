"""The shipped fonts for PDF pages, registered once."""

from __future__ import annotations

import io
from importlib.resources import files

NAMES = {
    "Words": "AtkinsonHyperlegibleNext_400Regular.ttf", "Words-Bold": "AtkinsonHyperlegibleNext_700Bold.ttf",
    "Figures-Bold": "BarlowSemiCondensed_700Bold.ttf",
}  # fmt: skip


def register_fonts() -> None:
    """Make Words, Words-Bold and Figures-Bold known to ReportLab."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    folder = files("grainet.data") / "fonts"
    for name, file in NAMES.items():
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, io.BytesIO((folder / file).read_bytes())))
