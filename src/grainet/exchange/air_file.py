"""Readings of the shop's air from a CSV list: a time, a temperature and a humidity column, named in the header."""

from __future__ import annotations

import csv
import io
from datetime import datetime
from pathlib import Path

from pydantic import ValidationError

from grainet.exchange.json_file import Unusable
from grainet.wood.climate import AirReading
from grainet.wood.value import why_not

MOST_ROWS = 200_000
MOST_BYTES = 50_000_000
TIMES = (
    "%Y-%m-%dT%H:%M:%S",
    "%Y-%m-%d %H:%M:%S",
    "%Y-%m-%dT%H:%M",
    "%Y-%m-%d %H:%M",
    "%Y-%m-%d",
    "%d.%m.%Y %H:%M",
    "%d/%m/%Y %H:%M",
)


def read_air(path: Path) -> list[AirReading]:
    """All readings of a list. Columns are told by their names (time or date, temp, humid or RH); F in a header means Fahrenheit.

    Raises Unusable, one line per fault, and then nothing is kept.
    """
    try:
        if path.stat().st_size > MOST_BYTES:
            raise Unusable(
                [
                    f"{path.name}: {path.stat().st_size / 1e6:.0f} MB is too much for a list of readings; at most {MOST_BYTES / 1e6:.0f}"
                ]
            )
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault}"]) from None
    head = text.splitlines()[0] if text.strip() else ""
    parted = max(",;\t", key=head.count)
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=parted))
    except csv.Error as fault:
        raise Unusable([f"{path.name}: is no list: {fault}"]) from None
    if len(rows) < 2:
        raise Unusable([f"{path.name}: holds no readings; needs a header and rows such as 2026-11-02 08:30,20.5,46"])
    if len(rows) > MOST_ROWS:
        raise Unusable([f"{path.name}: {len(rows)} rows are too many; at most {MOST_ROWS}"])
    names = [h.strip().lower() for h in rows[0]]
    when, warm, damp = (_column(names, words) for words in (("time", "date", "when", "at"), ("temp",), ("hum", "rh")))
    lacking = [word for word, k in (("a time", when), ("a temperature", warm), ("a humidity", damp)) if k is None]
    if when is None or warm is None or damp is None:
        raise Unusable([f"{path.name}: row 1: no column for {' and '.join(lacking)}; found {', '.join(rows[0])}"])
    fahrenheit = "(f" in names[warm] or "°f" in names[warm] or names[warm].endswith("_f")
    found, faults = [], []
    for n, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            found.append(_reading(row[when], row[warm], row[damp], fahrenheit=fahrenheit, name=path.name))
        except (ValueError, IndexError) as fault:
            reason = why_not(fault) if isinstance(fault, ValidationError) else str(fault)
            faults.append(f"{path.name}: row {n}: {reason}")
    if faults:
        raise Unusable(faults)
    return found


def _column(names: list[str], words: tuple[str, ...]) -> int | None:
    return next(
        (k for k, name in enumerate(names) if any(name.startswith(w) or f" {w}" in name or f"_{w}" in name for w in words)), None
    )


def _reading(when: str, warm: str, damp: str, *, fahrenheit: bool, name: str) -> AirReading:
    text = when.strip().removesuffix("Z")
    time = None
    for form in TIMES:
        try:
            time = datetime.strptime(text, form)
            break
        except ValueError:
            continue
    if time is None:
        raise ValueError(f"“{when}” is not a time; needs 2026-11-02 08:30")
    temperature = float(warm.replace(",", ".").rstrip("°CF "))
    temperature = (temperature - 32) / 1.8 if fahrenheit else temperature
    humidity = float(damp.replace(",", ".").rstrip("% "))
    humidity = humidity / 100 if humidity > 1 else humidity
    return AirReading(
        at=time.strftime("%Y-%m-%dT%H:%M"), temperature_c=round(temperature, 2), humidity=round(humidity, 4), by=name
    )
