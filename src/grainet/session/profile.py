"""The shop's profile: one and the same untold one where the shop has none yet, for verdicts rest on it."""

from __future__ import annotations

from grainet.kit.shop_profile import ShopProfile
from grainet.session.items import Items
from grainet.session.kinds import KIT

UNTOLD_KIT = ShopProfile()


def kit_of(items: Items) -> ShopProfile:
    """What the shop has and holds to."""
    return items.find(KIT, UNTOLD_KIT.id) or UNTOLD_KIT
