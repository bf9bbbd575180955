"""Colours, type and measures of the window, in one place; they feed QPalette and every paintEvent."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QGuiApplication, QPalette

from grainet.chart import colours

WORDS, FIGURES = "Atkinson Hyperlegible Next", "Barlow Semi Condensed"
RACK_H, HEAD_H, RULER_H, RAIL_H = 84, 56, 34, 62
CLAMPS_SHOW_FROM = 700  # px of height below which the joint in hand needs the clamps' room
RACK_SHOWS_FROM = 470  # px of height below which the wood in hand needs the rack's room
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


def _theme(*, dark: bool, codes: dict[str, str]) -> Theme:
    return Theme(dark, **{name: QColor(code) for name, code in codes.items()})


LIGHT, DARK = _theme(dark=False, codes=colours.LIGHT), _theme(dark=True, codes=colours.DARK)


def contrast(a: QColor, b: QColor) -> float:
    """How far two colours stand apart, 1 to 21, by their relative luminance (WCAG 2)."""

    def light(colour: QColor) -> float:
        parts = (
            c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in (colour.redF(), colour.greenF(), colour.blueF())
        )
        return float(sum(share * part for share, part in zip((0.2126, 0.7152, 0.0722), parts)))

    brighter, darker = sorted((light(a), light(b)), reverse=True)
    return (brighter + 0.05) / (darker + 0.05)


def told_apart(ground: QColor, *choices: QColor) -> QColor:
    """The first of some colours that stands out from a ground by 3 to 1, the furthest where none does."""
    return next((c for c in choices if contrast(c, ground) >= 3), max(choices, key=lambda c: contrast(c, ground)))


def load_fonts() -> None:
    """The two shipped families, so that nothing depends on the system's."""
    folder = files("grainet.data") / "fonts"
    for font in sorted(f.name for f in folder.iterdir() if f.name.endswith(".ttf")):
        QFontDatabase.addApplicationFontFromData((folder / font).read_bytes())


def font(pixels: float, weight: int = 400, *, figures: bool = False) -> QFont:
    """A font by its height in px; figures are tabular. One and the same is given each time, so nobody changes it."""
    return _font(max(13, round(pixels)), weight, figures=figures)


@lru_cache(maxsize=256)
def _font(pixels: int, weight: int, *, figures: bool) -> QFont:
    made = QFont(FIGURES if figures else WORDS)
    made.setPixelSize(pixels)
    made.setWeight(QFont.Weight(weight))
    if figures:
        made.setFeature(QFont.Tag("tnum"), 1)
    return made


@lru_cache(maxsize=8192)
def width_of(text: str, pixels: float, weight: int, *, figures: bool) -> float:
    """How wide words come out, in px."""
    return QFontMetricsF(font(pixels, weight, figures=figures)).horizontalAdvance(text)


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
