"""Cells of a CSV file that a spreadsheet may open: a text that it would take for a formula is written so that it stays a text."""

from __future__ import annotations

import re

_FORMULA = re.compile(r"'*[=+\-@\t\r]")
_FIGURE = re.compile(r"[+-]?[0-9.]+(?:[eE][+-]?[0-9]+)?")


def as_cell(text: str) -> str:
    """The text as a cell: one that begins like a formula gets an apostrophe before it, as spreadsheets mark texts."""
    return f"'{text}" if _FORMULA.match(text) and not _FIGURE.fullmatch(text) else text


def from_cell(cell: str) -> str:
    """The text of a cell, without the apostrophe that kept it from being a formula."""
    return cell[1:] if cell.startswith("'") and _FORMULA.match(cell[1:]) else cell
