"""Makes the demo shop through the session, edit by edit, like any user's."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from pathlib import Path

from grainet.clock import Clock, wall_clock
from grainet.demo.air import year_of_air
from grainet.demo.designs import merrow, plover
from grainet.demo.instruments import INSTRUMENTS
from grainet.demo.past import bring_past
from grainet.demo.rack import CLAIMS, rack
from grainet.design.instrument import Instrument
from grainet.kit.machine import machines_of
from grainet.kit.shop_profile import GUESSED_CUTS, ShopProfile
from grainet.paths import data_folder
from grainet.session.shop import Shop
from grainet.store.guard import FILE_NAME
from grainet.wood.value import Value

SHOP_NAME = "Hollin and Wray"
PAST = "what has happened here so far"


def demo_folder() -> Path:
    """Where the demo shop lives."""
    return data_folder() / "Demo.grainet"


def make_demo(folder: Path, clock: Clock = wall_clock, *, past: bool = False) -> Shop:
    """The demo shop, opened; made on first use, its edits kept afterwards. With ``past`` an instrument is whole in it, one in its clamps and
    one laid out.

    It is made aside and put in place whole, so that a demo that was killed while being made is made anew, never left half.
    """
    if (folder / FILE_NAME).exists() and not _half_made(folder):
        return Shop.open(folder, clock=clock)
    folder.parent.mkdir(parents=True, exist_ok=True)
    for old in folder.parent.glob(f".{folder.name}.making-*"):
        shutil.rmtree(old, ignore_errors=True)
    aside = folder.with_name(f".{folder.name}.making-{os.getpid()}")
    with Shop.open(aside, create=True, clock=clock) as shop:
        for label, make in _edits():
            make(shop, label)
        if past:
            bring_past(shop, PAST)
    shutil.rmtree(folder, ignore_errors=True)
    aside.rename(folder)
    return Shop.open(folder, clock=clock)


def _edits() -> list[tuple[str, Callable[[Shop, str], object]]]:
    """The edits that make the demo, in order, each with its label."""
    kit = ShopProfile(name=SHOP_NAME, machines=machines_of(GUESSED_CUTS, frozenset({"resaw.kerf_mm"})))
    values: list[tuple[str, Value]] = [(f"the shop of {SHOP_NAME}", kit)]
    values += [(f"No. {piece.id} racked", piece) for piece in rack()]
    claims = [(f"No. {claim.piece} kept for {claim.claimed_for}", claim) for claim in CLAIMS]
    air = year_of_air()
    return [
        *((label, _keeping(value)) for label, value in values),
        *((f"{make().shown_name} drawn up", _drawing_up(make)) for make in (plover, merrow)),
        (f"{len(air)} readings of the air", lambda shop, _label: shop.air.log(air)),
        *((label, _keeping(value)) for label, value in claims),
        *((f"{make().shown_name} drawn up", _drawing_up(make)) for make in INSTRUMENTS),
    ]


def _keeping(value: Value) -> Callable[[Shop, str], object]:
    return lambda shop, label: shop.apply(label, value)


def _drawing_up(make: Callable[[], Instrument]) -> Callable[[Shop, str], object]:
    return lambda shop, label: shop.instruments.keep(label, make())


def _half_made(folder: Path) -> bool:
    """Whether a demo's journal is a beginning of the making and nothing else: it was killed before it was done."""
    with Shop.open(folder, read_only=True) as shop:
        labels = [entry.label for entry in shop.file.journal(10_000)]
    wanted = [label for label, _ in _edits()]
    return len(labels) < len(wanted) and labels == wanted[: len(labels)]
