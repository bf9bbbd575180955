"""What has happened in the demo shop before it is opened: an instrument that is whole, one in its clamps, one laid out, with everything that was
learnt on the way. The values were made step by step by ``tools/demo_past.py``; their days are counted from a reference, and moved to today.
"""

from __future__ import annotations

import json
import lzma
import re
from collections.abc import Iterator
from datetime import date, datetime, timedelta
from importlib.resources import files
from typing import Any

from grainet.design.instrument import Instrument
from grainet.design.starting_points import begin
from grainet.session.kinds import KINDS
from grainet.session.shop import Shop
from grainet.wood.coating import Coating
from grainet.wood.piece import MoistureReading, Piece, Station, Sweep
from grainet.wood.record import Supply
from grainet.wood.value import Value

FILE = "demo_past.json.xz"
REFERENCE = datetime(2026, 11, 24, 9, 0)  # when the demo is opened, as the values are kept
FINISHED, IN_CLAMPS = datetime(2026, 9, 21, 8, 0), datetime(2026, 11, 23, 8, 0)  # when each was begun
_DAY = re.compile(r"(?<![\d-])(20\d\d-\d\d-\d\d)(?![\dT-])")
_INSTANT = re.compile(r"20\d\d-\d\d-\d\dT\d\d:\d\d:\d\d\+00:00")
BOUGHT = ("rod.depth_mm", "rod.width_mm", "rod.curve_mm", "tuner.shank_mm", "nut_mm", "spread_mm")


def heron_5() -> Instrument:
    """The one that is whole: a set neck, a two-piece body with a matched top."""
    return _in_hand(begin("set", "heron-5", "Heron 5"))


def heron_6() -> Instrument:
    """The one in its clamps: a bolt-on neck, a two-piece body."""
    return _in_hand(begin("bolt-on", "heron-6", "Heron 6"))


def _in_hand(g: Instrument) -> Instrument:
    return g.with_figures({path: g.figure(path) for path in BOUGHT})


def boards_of(build: str) -> list[Piece]:
    """The boards that were bought for one of them, invented."""
    first = build == "heron-5"
    rows = (
        (21 if first else 31, "Red alder" if first else "European ash", 1700, 220, 52, "Roof purlin of a boat shed" if first else "", "" if first else "Tarn and Sons", None if first else 84.0, 8.6),
        (22 if first else 32, "Sugar maple (hard)", 1500, 110, 42, "Stair string of a mill", "", 18.0, 8.3),
        (23 if first else 33, "Indian rosewood", 900, 90, 14, "Counter of a draper's shop, before 1960", "Wick yard", 30.0, 8.4),
        (24 if first else 34, "European sycamore maple", 700, 190, 34, "Table leaf of a school", "", 12.0, 8.7),
    )  # fmt: skip
    return [_board(*row) for row in (rows if first else rows[:3])]


def _board(number: int, species: str, long: float, wide: float, thick: float, origin: str, supplier: str, price: float | None, moisture: float) -> Piece:  # fmt: skip
    ring = ((0.0, 0.0), (float(long), 0.0), (float(long), float(wide)), (0.0, float(wide)))
    stations = tuple(Station(x_mm=float(x), y_mm=wide / 2, thickness_mm=float(thick)) for x in (60, long / 2, long - 60))
    swept = tuple(Sweep(face=f, on="2026-09-02") for f in ("1", "2"))
    reading = MoistureReading(x_mm=long / 2, y_mm=wide / 2, depth_mm=10, moisture_pct=moisture, on="2026-09-14")
    return Piece(
        id=str(number), kind="plank", species=species, outline=ring, length_mm=float(long), stations=stations, moisture=(reading,), ring_angle_deg=(70.0, 68.0), grain_slope_deg=1.0,
        origin=origin, arrived="2024-05-02", reclaimed=bool(origin), sweeps=swept if origin else (), coating=Coating(finish="none", treatment="none") if origin else Coating(), supply=Supply(supplier=supplier, price=price), place="A2", flat_read=("bow", "cup"),
    )  # fmt: skip


def bring_past(shop: Shop, label: str) -> None:
    """All of it in one edit, its days moved so that the last of them is today."""
    shop.apply(label, *past_values(shop.clock()))


def past_values(now: datetime) -> Iterator[Value]:
    """Every value of the past, as it would be if it had happened before this moment."""
    rows: list[dict[str, Any]] = json.loads(lzma.decompress((files("grainet.data") / FILE).read_bytes()))
    days = (now.date() - REFERENCE.date()).days
    for row in rows:
        late = timedelta(seconds=row["late_s"])
        if late:  # what is in its clamps has been there for less than half an hour, whatever the hour is
            late += datetime.combine(REFERENCE.date(), now.time()) - REFERENCE
        text = json.dumps(row["json"], ensure_ascii=False)
        text = _INSTANT.sub(lambda m, late=late: _moved(m[0], days, late), text)  # type: ignore[misc]
        text = _DAY.sub(lambda m: (date.fromisoformat(m[1]) + timedelta(days=days)).isoformat(), text)
        yield KINDS[row["kind"]].model.model_validate_json(text)


def _moved(instant: str, days: int, late: timedelta) -> str:
    return (datetime.fromisoformat(instant) + timedelta(days=days) + late).isoformat(timespec="seconds")
