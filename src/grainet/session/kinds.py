"""What a shop keeps: the kinds of items, one row each, with what of them is searched without reading the whole."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from grainet.design.design import Design
from grainet.design.instrument import Instrument
from grainet.kit.shop_profile import ShopProfile
from grainet.session.reservation import Reservation
from grainet.store.observations import KIND as OBSERVATION
from grainet.store.observations import OF_PIECES, apart
from grainet.wood.climate import AirLog
from grainet.wood.piece import Piece
from grainet.wood.value import Value
from grainet.work.bench_log import BenchLog
from grainet.work.cut_plan import CutPlan, Progress
from grainet.work.record import Learnt, Mishap, Record

V = TypeVar("V", bound=Value)


def _no_columns(_text: str) -> dict[str, object]:
    return {}


def _piece_columns(text: str) -> dict[str, object]:
    """What of a piece is searched in the file: species, place, sizes; nothing where the text cannot be read."""
    try:
        data = json.loads(text)
    except ValueError:  # kept as it is, and found by nothing
        return {}
    if not isinstance(data, dict):
        return {}
    thick = [s["thickness_mm"] for s in data.get("stations", [])] or [t for t in (data.get("thickness_mm"),) if t]
    found: dict[str, object] = {
        "species": data.get("species", "unknown"), "place": data.get("place", ""), "thickness_mm": min(thick, default=None),
    }  # fmt: skip
    if data.get("outline"):
        xs, ys = zip(*data["outline"])
        found |= {"length_mm": max(xs) - min(xs), "width_mm": max(ys) - min(ys)}
    return found


@dataclass(frozen=True)
class ItemKind(Generic[V]):
    """One kind: its name in the file, its model, what stands before an id of it there, and the columns beside its text."""

    name: str
    model: type[V]
    prefix: str
    columns: Callable[[str], dict[str, object]] = _no_columns
    as_told: bool = False  # kept with what was told and no more: what was never said must stay so
    grows: tuple[str, ...] = ()  # fields whose entries are items of their own: readings

    def key(self, item_id: str) -> str:
        """The name in the file of an item of this kind."""
        return self.prefix + item_id


PIECES = ItemKind("piece", Piece, "piece:", _piece_columns, grows=OF_PIECES)
DESIGNS = ItemKind("design", Design, "design:")
INSTRUMENTS = ItemKind("instrument", Instrument, "instrument:", as_told=True)
KIT = ItemKind("kit", ShopProfile, "")
CUT_PLANS = ItemKind("cut_plan", CutPlan, "cut_plan:")
PROGRESS = ItemKind("progress", Progress, "progress:")
AIR = ItemKind("air", AirLog, "air:")
BENCH = ItemKind("bench", BenchLog, "bench:")
RESERVATIONS = ItemKind("reservation", Reservation, "reservation:")
RECORDS = ItemKind("record", Record, "record:")
MISHAPS = ItemKind("mishap", Mishap, "mishap:")
LEARNT = ItemKind("learnt", Learnt, "")
ALL = (PIECES, DESIGNS, INSTRUMENTS, KIT, CUT_PLANS, PROGRESS, AIR, RESERVATIONS, BENCH, RECORDS, MISHAPS, LEARNT)
KINDS: dict[str, ItemKind] = {k.name: k for k in ALL}  # type: ignore[type-arg]
_BY_MODEL = {kind.model: kind for kind in KINDS.values()}


def kind_of(value: Value) -> ItemKind:  # type: ignore[type-arg]
    """The kind that a value is of."""
    return _BY_MODEL[type(value)]


def item_id(value: Value) -> str:
    """The name of a value in the file: its kind and its own id."""
    return kind_of(value).key(str(value.id))  # type: ignore[attr-defined]


def texts_of(value: Value) -> dict[str, tuple[str, str]]:
    """{name in the file: (kind, JSON)} of everything that keeps a value: its own text, and each of its readings."""
    kind = kind_of(value)
    if kind.as_told:
        return {item_id(value): (kind.name, value.model_dump_json(exclude_unset=True, by_alias=True))}
    own = value.model_dump_json(exclude=set(kind.grows), exclude_defaults=True, by_alias=True)
    grown = {
        field: [one.model_dump_json(exclude_defaults=True, by_alias=True) for one in getattr(value, field)]
        for field in kind.grows
    }
    readings = apart(str(value.id), grown) if kind.grows else {}  # type: ignore[attr-defined]
    return {item_id(value): (kind.name, own), **{name: (OBSERVATION, text) for name, text in readings.items()}}
