"""Stock lists in and out: JSON with everything the shop knows, CSV with one row a piece and units in the header.

Each row is read by itself, so that broken ones can be named and the good ones still go in. A CSV's last column, ``more``, holds
what has no column of its own; a column that was edited in a spreadsheet wins over it.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from pydantic import ValidationError

from grainet.exchange.csv_cells import as_cell, from_cell
from grainet.exchange.json_file import LARGEST_BYTES, Unusable, parse_json, read_json, write_json, write_text
from grainet.wood.coating import FINISHES, TREATMENTS
from grainet.wood.piece import PIECE_KINDS, MoistureReading, Piece, WidthStation, with_readings
from grainet.wood.quantity import parse_figure
from grainet.wood.value import BadEntry, Value, why_not

WANTED = ("number", "length_mm", "width_mm", "thickness_mm")
FLAT = {"bow_mm": "bow_mm", "cup_mm": "cup_mm", "crook_mm": "crook_mm", "twist_mm": "rock_mm"}
NUMBERS: dict[str, str] = {
    "nominal_thickness_mm": "nominal_thickness_mm", "nominal_width_mm": "nominal_width_mm", "nominal_length_mm": "nominal_length_mm",
    "mass_kg": "mass_kg", "slope_deg": "grain_slope_deg", "runout_deg": "runout_deg",
}  # fmt: skip
TEXTS = {"species": "species", "place": "place", "origin": "origin", "arrived": "arrived", "bundle": "bundle", "note": "note"}
COLUMNS = (
    "number", "kind", "species", "length_mm", "width_mm", "thickness_mm", "nominal_thickness_mm", "nominal_width_mm", "nominal_length_mm",
    "mass_kg", "moisture_pct", "ring_start_deg", "ring_end_deg", "slope_deg", "runout_deg", *FLAT, "reclaimed", "finish", "treatment",
    "place", "origin", "arrived", "bundle", "note", "more",
)  # fmt: skip


class Stock(Value):
    """A stock list."""

    format: Literal["grainet-stock"] = "grainet-stock"
    version: Literal[1] = 1
    pieces: tuple[Piece, ...] = ()


FIGURES = frozenset((*WANTED[1:], *NUMBERS, *FLAT, "moisture_pct", "ring_start_deg", "ring_end_deg"))


@dataclass(frozen=True)
class StockRow:
    """One row of a list: its place in the file, the number it claims, and the piece or what is wrong with it."""

    where: str
    number: str
    piece: Piece | None
    fault: str = ""


def read_rows(path: Path) -> list[StockRow]:
    """Every row of a JSON or CSV list, each good or named as broken. Raises Unusable where the file as a whole is none."""
    rows = _csv_rows(path) if path.suffix.lower() in (".csv", ".tsv", ".txt") else _json_rows(path)
    seen: dict[str, str] = {}
    checked = []
    for row in rows:
        if row.piece is not None and row.number in seen:
            row = StockRow(row.where, row.number, None, f"number {row.number} stands in {seen[row.number]} already")
        elif row.piece is not None:
            seen[row.number] = row.where
        checked.append(row)
    return checked


def read_stock(path: Path) -> tuple[Piece, ...]:
    """Pieces of a list that is good as a whole. Raises Unusable, one line per fault."""
    rows = read_rows(path)
    faults = [f"{path.name}: {r.where}: {r.fault}" for r in rows if r.piece is None]
    if faults:
        raise Unusable(faults)
    return tuple(r.piece for r in rows if r.piece is not None)


def write_stock(path: Path, pieces: list[Piece]) -> None:
    """Write a list; the suffix tells the form."""
    if path.suffix.lower() == ".csv":
        write_text(path, to_csv(pieces))
    else:
        write_json(path, Stock(pieces=tuple(pieces)))


# JSON -----------------------------------------------------------------------------------------------------------------
def _json_rows(path: Path) -> list[StockRow]:
    data = read_json(path)
    if not isinstance(data, dict) or data.get("format") != "grainet-stock":
        found = data.get("format") if isinstance(data, dict) else type(data).__name__
        raise Unusable([f"{path.name}: format: found {found!r}, needs 'grainet-stock'"])
    if data.get("version") != 1:
        raise Unusable([f"{path.name}: version: found {data.get('version')!r}, this Grainet reads version 1"])
    unknown = sorted(set(data) - {"format", "version", "pieces"})
    if unknown:
        raise Unusable([f"{path.name}: {unknown[0]}: this key is not known"])
    pieces = data.get("pieces", [])
    if not isinstance(pieces, list):
        raise Unusable([f"{path.name}: pieces: needs a list"])
    return [_json_row(k, one) for k, one in enumerate(pieces)]


def _json_row(k: int, data: Any) -> StockRow:
    number = str(data.get("id", "")) if isinstance(data, dict) else ""
    try:
        return StockRow(f"pieces[{k}]", number, Piece.model_validate_json(json.dumps(data)))
    except ValidationError as faults:
        return StockRow(f"pieces[{k}]", number, None, why_not(faults))


# CSV ------------------------------------------------------------------------------------------------------------------
def _csv_rows(path: Path) -> list[StockRow]:
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise Unusable([f"{path.name}: {path.stat().st_size / 1e6:.0f} MB, at most {LARGEST_BYTES / 1e6:.0f}"])
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault}"]) from None
    head = text.splitlines()[0] if text.splitlines() else ""
    mark = max(",;\t", key=head.count)
    csv.field_size_limit(10_000_000)
    table = csv.DictReader(io.StringIO(text, newline=""), delimiter=mark)
    names = [(n or "").strip() for n in table.fieldnames or ()]
    missing = set(WANTED) - set(names)
    if missing:
        raise Unusable([f"{path.name}: the header lacks {', '.join(sorted(missing))}; it needs {', '.join(COLUMNS)}"])
    table.fieldnames = names
    rows = []
    try:
        for row in table:
            if any((v or "").strip() for v in row.values() if isinstance(v, str)):
                if mark != ",":  # then a comma in a figure is the decimal one, and cannot be a thousands comma
                    row = {k: _decimal(v) if k in FIGURES and isinstance(v, str) else v for k, v in row.items()}
                rows.append(_csv_row(f"row {table.line_num}", row))
    except csv.Error as fault:
        raise Unusable([f"{path.name}: row {table.line_num}: {fault}"]) from None
    return rows


def _csv_row(where: str, row: dict[Any, Any]) -> StockRow:
    number = _cell(row, "number")
    if None in row:
        return StockRow(where, number, None, f"has {len(row[None])} cells more than the header")
    try:
        return StockRow(where, number, _piece(row))
    except ValidationError as faults:
        return StockRow(where, number, None, why_not(faults))
    except (ValueError, Unusable) as fault:
        return StockRow(where, number, None, str(fault))


def _decimal(text: str) -> str:
    """A figure with its decimal comma as a point; anything else as it is."""
    return text.replace(",", ".") if text.count(",") == 1 and "." not in text else text


def _cell(row: dict[str, Any], name: str) -> str:
    return from_cell(str(row.get(name) or "").strip())


def _figure(row: dict[str, Any], name: str) -> float | None:
    text = _cell(row, name)
    if not text:
        return None
    sign, plain = (-1, text[1:]) if text.startswith("-") else (1, text)
    try:
        return sign * parse_figure(plain)
    except BadEntry as fault:
        raise ValueError(f"{name}: {fault}") from None


def _piece(row: dict[str, Any]) -> Piece:
    """The piece of a row: what ``more`` holds, and over it every column that says otherwise."""
    number = _cell(row, "number")
    if not number:
        raise ValueError("number is wanted")
    base = Piece(id=number)
    if _cell(row, "more"):
        data = parse_json(_cell(row, "more"), "more")
        if not isinstance(data, dict):
            raise ValueError("more: needs an object")
        base = Piece.model_validate_json(json.dumps({**data, "id": number}))
    as_it_was = row_of(base)
    told = [
        name
        for name in COLUMNS[1:-1]
        if name in row and _cell(row, name) != as_it_was[name].strip() and (_cell(row, name) or _cell(row, "more"))
    ]
    for name in told:
        base = _with_column(base, name, row)
    return base


def _with_column(piece: Piece, name: str, row: dict[str, Any]) -> Piece:
    """The piece with one column's figure or word taken over."""
    if name == "kind":
        return piece.changed(kind=_word(_cell(row, name) or "plank", PIECE_KINDS, name))
    if name in TEXTS:
        return piece.changed(**{TEXTS[name]: _cell(row, name) or ("unknown" if name == "species" else "")})
    if name in ("finish", "treatment"):
        allowed = ("", *(FINISHES if name == "finish" else TREATMENTS))
        return piece.changed(coating=piece.coating.changed(**{name: _word(_cell(row, name), allowed, name)}))
    if name == "reclaimed":
        return piece.changed(reclaimed=_word(_cell(row, name).lower() or "no", ("yes", "no"), name) == "yes")
    figure = _figure(row, name)
    if name in NUMBERS:
        return piece.changed(**{NUMBERS[name]: figure})
    if name in FLAT:  # a list has no spans: its figures are over the whole piece
        field, word = FLAT[name], name.removesuffix("_mm")
        flat = piece.flatness.changed(**{field: figure or 0.0, field.replace("_mm", "_span_mm"): None})
        others = tuple(w for w in piece.flat_read if w != word)
        return piece.changed(flatness=flat, flat_read=others if figure is None else (*others, word))
    return _with_size(piece, name, figure, row)


def _with_size(piece: Piece, name: str, figure: float | None, row: dict[str, Any]) -> Piece:
    if name in ("length_mm", "width_mm"):
        return _sized(piece, _figure(row, "length_mm"), _figure(row, "width_mm"))
    if name == "thickness_mm":
        return piece.changed(thickness_mm=figure, stations=())
    if name == "moisture_pct":
        x0, y0, x1, y1 = piece.extents
        deep = (piece.least_thickness_mm or 0.0) / 4
        made = (
            MoistureReading(x_mm=(x0 + x1) / 2, y_mm=(y0 + y1) / 2, depth_mm=deep, moisture_pct=figure)
            if figure is not None
            else None
        )
        return piece.changed(moisture=(made,) if made else ())
    angles = (_figure(row, "ring_start_deg"), _figure(row, "ring_end_deg"))
    return piece.changed(ring_angle_deg=None if angles == (None, None) else angles)


def _sized(piece: Piece, length: float | None, width: float | None) -> Piece:
    """Straight edges of the given size; a figure that is missing leaves that side unread."""
    if length is None:
        return piece.changed(length_mm=None, width_stations=(), outline=())
    if length <= 0 or (width is not None and width <= 0):
        raise ValueError(f"length_mm {length:g} and width_mm {width:g} want to be over 0")
    if width is None:
        return piece.changed(length_mm=length, width_stations=(), outline=())
    edges = (WidthStation(x_mm=0, far_mm=width), WidthStation(x_mm=length, far_mm=width))
    return with_readings(piece, length_mm=length, width_stations=edges)


def _word(text: str, allowed: tuple[str, ...], name: str) -> str:
    tidy = text.lower().replace(" ", "_")
    if tidy not in allowed:
        raise ValueError(f"{name}: “{text}” is not known; needs one of {', '.join(a for a in allowed if a)}")
    return tidy


def row_of(piece: Piece) -> dict[str, str]:
    """The columns of a piece as texts, ``more`` left out."""
    x0, y0, x1, y1 = piece.extents
    rings = piece.ring_angle_deg or (None, None)
    length = x1 - x0 if piece.outline else piece.length_mm
    figures: dict[str, float | None] = {
        "length_mm": length, "width_mm": y1 - y0 if piece.outline else None, "thickness_mm": piece.least_thickness_mm,
        "moisture_pct": max((r.moisture_pct for r in piece.moisture_now), default=None), "ring_start_deg": rings[0], "ring_end_deg": rings[1],
        **{column: getattr(piece, field) for column, field in NUMBERS.items()},
        **{column: getattr(piece.flatness, field) or (0.0 if column.removesuffix("_mm") in piece.flat_read else None) for column, field in FLAT.items()},
    }  # fmt: skip
    words = {
        "number": piece.id, "kind": piece.kind, "reclaimed": "yes" if piece.reclaimed else "no", "finish": piece.coating.finish,
        "treatment": piece.coating.treatment, **{column: getattr(piece, field) for column, field in TEXTS.items()},
    }  # fmt: skip
    shown: Callable[[float | None], str] = lambda v: "" if v is None else f"{round(v, 6):.10g}"  # noqa: E731
    return {name: words[name] if name in words else shown(figures.get(name)) for name in COLUMNS[:-1]}


def to_csv(pieces: list[Piece]) -> str:
    """The list as CSV text, commas, one row a piece."""
    out = io.StringIO(newline="")
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    writer.writeheader()
    for piece in pieces:
        cells = {name: as_cell(text) for name, text in row_of(piece).items()}
        writer.writerow({**cells, "more": piece.model_dump_json(exclude_defaults=True, exclude={"id"})})
    return out.getvalue()
