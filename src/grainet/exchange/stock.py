"""Stock lists in and out: JSON with everything the shop knows, CSV with one row a piece and units in the header."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Literal

from pydantic import ValidationError

from grainet.exchange.json_file import Unusable, read_value, write_json, write_text
from grainet.wood.piece import Piece
from grainet.wood.value import Value

COLUMNS = (
    "number",
    "kind",
    "species",
    "length_mm",
    "width_mm",
    "thickness_mm",
    "mass_kg",
    "moisture_pct",
    "ring_start_deg",
    "ring_end_deg",
    "place",
    "origin",
)


class Stock(Value):
    """A stock list."""

    format: Literal["grainet-stock"] = "grainet-stock"
    version: Literal[1] = 1
    pieces: tuple[Piece, ...] = ()


def read_stock(path: Path) -> tuple[Piece, ...]:
    """Pieces of a JSON or CSV list. Raises Unusable, one line per fault."""
    if path.suffix.lower() == ".csv":
        return _from_csv(path)
    return read_value(path, Stock).pieces


def write_stock(path: Path, pieces: list[Piece]) -> None:
    """Write a list; the suffix tells the form."""
    if path.suffix.lower() == ".csv":
        write_text(path, _to_csv(pieces))
    else:
        write_json(path, Stock(pieces=tuple(pieces)))


def _from_csv(path: Path) -> tuple[Piece, ...]:
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault}"]) from None
    head = text.splitlines()[0] if text.splitlines() else ""
    rows = csv.DictReader(io.StringIO(text), delimiter=";" if head.count(";") > head.count(",") else ",")
    missing = {"number", "length_mm", "width_mm", "thickness_mm"} - set(rows.fieldnames or ())
    if missing:
        raise Unusable([f"{path.name}: the header lacks {', '.join(sorted(missing))}; it wants {', '.join(COLUMNS)}"])
    pieces, faults = [], []
    for n, row in enumerate(rows, 2):
        try:
            pieces.append(_piece(row))
        except (ValueError, ValidationError) as fault:
            first = fault.errors()[0]["msg"] if isinstance(fault, ValidationError) else str(fault)
            faults.append(f"{path.name}: row {n}: {first}")
    if faults:
        raise Unusable(faults)
    return tuple(pieces)


def _figure(row: dict[str, str], name: str) -> float | None:
    text = (row.get(name) or "").strip().replace(",", ".")
    if not text:
        return None
    try:
        return float(text)
    except ValueError:
        raise ValueError(f"{name}: “{row[name]}” is not a figure") from None


def _piece(row: dict[str, str]) -> Piece:
    length, width, thick = (_figure(row, n) for n in ("length_mm", "width_mm", "thickness_mm"))
    if not length or not width:
        raise ValueError("length_mm and width_mm are wanted")
    number = (row.get("number") or "").strip()
    if not number:
        raise ValueError("number is wanted")
    moisture = _figure(row, "moisture_pct")
    start, end = _figure(row, "ring_start_deg"), _figure(row, "ring_end_deg")
    reading = {"x_mm": length / 2, "y_mm": width / 2, "depth_mm": (thick or 0) / 4, "moisture_pct": moisture}
    from grainet.wood.piece import MoistureReading, WidthStation, outline_from_readings

    edges = (WidthStation(x_mm=0, far_mm=width), WidthStation(x_mm=length, far_mm=width))
    return Piece(
        id=number, kind=(row.get("kind") or "plank").strip().replace(" ", "_"), species=(row.get("species") or "unknown").strip(),  # type: ignore[arg-type]
        outline=outline_from_readings(length, edges), length_mm=length, width_stations=edges, thickness_mm=thick, mass_kg=_figure(row, "mass_kg"),
        moisture=(MoistureReading(**reading),) if moisture is not None else (),  # type: ignore[arg-type]
        ring_angle_deg=(start, end) if start is not None or end is not None else None, place=(row.get("place") or "").strip(), origin=(row.get("origin") or "").strip(),
    )  # fmt: skip


def _to_csv(pieces: list[Piece]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for piece in pieces:
        x0, y0, x1, y1 = piece.extents
        rings = piece.ring_angle_deg or (None, None)
        worst = max((r.moisture_pct for r in piece.moisture), default=None)
        writer.writerow(
            [
                piece.id,
                piece.kind,
                piece.species,
                x1 - x0,
                y1 - y0,
                piece.least_thickness_mm,
                piece.mass_kg,
                worst,
                *rings,
                piece.place,
                piece.origin,
            ]
        )
    return out.getvalue()
