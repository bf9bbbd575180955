"""The colours by name, light and dark, as plain hex: the window, files and printed pages take them from here."""

from __future__ import annotations

NAMES = (
    "bench", "ground", "shelf", "ink", "ink2", "hair", "edge", "chalk", "chalk_wash", "on_chalk", "ochre", "ochre_wash", "wine", "wine_wash", "teal", "rail",
    "rail_ink", "rail_status", "rail_ochre", "slip",
)  # fmt: skip


def _named(codes: str) -> dict[str, str]:
    return {name: f"#{code}" for name, code in zip(NAMES, codes.split(), strict=True)}


LIGHT = _named(
    "F6F8F7 E4EAE9 D2DBDA 13201E 41504D A9B6B3 6F7E7B 164A9C D5E1F3 FFFFFF 7D4E00 F3E3C3 7C1440 F4DAE3 00554F 22302E F1F5F4 B9C6C3 F2BC55 FFFFFF"
)
DARK = _named(
    "1A2326 12191B 0C1113 EDF3F1 B2C0BC 435155 84948F 93B8FF 22365C 0B1526 F2BC55 40320F FF9DBB 4A1A2E 6FD3C7 05090A EDF3F1 A3B2AE F2BC55 10181A"
)
# a printed page is light whatever the window is; its hairlines are paler, for ink spreads
ON_PAPER = {**LIGHT, "hair": "#C9D2D0", "wood": "#D9BE93"}
