"""Colours, type and measures of the window, in one place; they feed QPalette and every paintEvent."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QGuiApplication, QPalette

WORDS, FIGURES = "Atkinson Hyperlegible Next", "Barlow Semi Condensed"
RACK_H, HEAD_H, RULER_H, RAIL_H = 84, 56, 34, 62
LEFT, AXIS_X, RIGHT = 20, 178, 26
VEIL, HALF_VEIL = 178, 105


@dataclass(frozen=True)
class Theme:
    """One set of colours."""

    dark: bool
    bench: QColor
    ground: QColor
    shelf: QColor
    ink: QColor
    ink2: QColor
    hair: QColor
    edge: QColor
    chalk: QColor
    chalk_wash: QColor
    on_chalk: QColor
    ochre: QColor
    ochre_wash: QColor
    wine: QColor
    wine_wash: QColor
    teal: QColor
    rail: QColor
    rail_ink: QColor
    rail_status: QColor
    rail_ochre: QColor
    slip: QColor


def _theme(dark: bool, text: str) -> Theme:
    return Theme(dark, *(QColor(f"#{code}") for code in text.split()))


LIGHT = _theme(
    False,
    "F6F8F7 E4EAE9 D2DBDA 13201E 41504D A9B6B3 6F7E7B 164A9C D5E1F3 FFFFFF 7D4E00 F3E3C3 7C1440 F4DAE3 00554F 22302E F1F5F4 B9C6C3 F2BC55 FFFFFF",
)
DARK = _theme(
    True,
    "1A2326 12191B 0C1113 EDF3F1 B2C0BC 435155 84948F 93B8FF 22365C 0B1526 F2BC55 40320F FF9DBB 4A1A2E 6FD3C7 05090A EDF3F1 A3B2AE F2BC55 10181A",
)


def load_fonts() -> None:
    """The two shipped families, so that nothing depends on the system's."""
    folder = files("grainet.data") / "fonts"
    for font in sorted(f.name for f in folder.iterdir() if f.name.endswith(".ttf")):
        QFontDatabase.addApplicationFontFromData((folder / font).read_bytes())


def font(pixels: float, weight: int = 400, figures: bool = False) -> QFont:
    """A font by its height in px; figures are tabular. One and the same is given each time, so nobody changes it."""
    return _font(max(13, round(pixels)), weight, figures)


@lru_cache(maxsize=256)
def _font(pixels: int, weight: int, figures: bool) -> QFont:
    made = QFont(FIGURES if figures else WORDS)
    made.setPixelSize(pixels)
    made.setWeight(QFont.Weight(weight))
    if figures:
        made.setFeature(QFont.Tag("tnum"), 1)
    return made


@lru_cache(maxsize=8192)
def width_of(text: str, pixels: float, weight: int, figures: bool) -> float:
    """How wide words come out, in px."""
    return QFontMetricsF(font(pixels, weight, figures)).horizontalAdvance(text)


def theme_for(choice: str) -> Theme:
    """Light, dark, or what the desktop has."""
    if choice == "desktop":
        scheme = QGuiApplication.styleHints().colorScheme()
        return DARK if scheme == Qt.ColorScheme.Dark else LIGHT
    return DARK if choice == "dark" else LIGHT


def palette(theme: Theme) -> QPalette:
    """The palette for stock controls."""
    made = QPalette()
    role = QPalette.ColorRole
    for key, colour in {
        role.Window: theme.bench, role.WindowText: theme.ink, role.Base: theme.slip, role.AlternateBase: theme.ground, role.Text: theme.ink,
        role.Button: theme.ground, role.ButtonText: theme.ink, role.Highlight: theme.chalk, role.HighlightedText: theme.on_chalk,
        role.PlaceholderText: theme.ink2, role.ToolTipBase: theme.slip, role.ToolTipText: theme.ink, role.Mid: theme.hair, role.Dark: theme.edge,
        role.Light: theme.bench, role.Link: theme.chalk,
    }.items():  # fmt: skip
        made.setColor(key, colour)
    return made
