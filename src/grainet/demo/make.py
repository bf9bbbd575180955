"""Makes the demo shop through the session, edit by edit, like any user's."""

from __future__ import annotations

import os
from pathlib import Path

from grainet.demo.air import year_of_air
from grainet.demo.designs import DESIGNS
from grainet.demo.rack import CLAIMS, rack
from grainet.kit.shop_kit import ShopKit
from grainet.session.shop import Shop

SHOP_NAME = "Hollin and Wray"


def data_folder() -> Path:
    """Where shops live: the XDG data folder."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "grainet"


def demo_folder() -> Path:
    return data_folder() / "Demo.grainet"


def make_demo(folder: Path) -> Shop:
    """The demo shop, opened; made on first use, its edits kept afterwards."""
    shop = Shop.open(folder, create=True)
    if not shop.pieces(everything=True) and not shop.designs() and not shop.file.read_only:
        shop.apply(f"the shop of {SHOP_NAME}", ShopKit(name=SHOP_NAME, guessed=frozenset({"resaw kerf"})))
        for piece in rack():
            shop.apply(f"No. {piece.id} racked", piece)
        for design in DESIGNS:
            shop.apply(f"{design.name} drawn", design)
        shop.log_air(year_of_air())
        for claim in CLAIMS:
            shop.apply(f"No. {claim.piece} kept for {claim.claimed_for}", claim)
    return shop
