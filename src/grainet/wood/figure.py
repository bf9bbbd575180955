"""Figure zones: where the wood is curly, flamed, quilted or plain, how strongly, in measured facts beside the house's own word."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Name, Outline, Value

FigureKind = Literal["curl", "flame", "quilt", "birdseye", "ray_fleck", "burl", "spalt", "ribbon", "cathedral", "plain"]
FIGURE_KINDS: tuple[FigureKind, ...] = (
    "curl",
    "flame",
    "quilt",
    "birdseye",
    "ray_fleck",
    "burl",
    "spalt",
    "ribbon",
    "cathedral",
    "plain",
)
HOUSE_WORDS = ("quiet", "whisper", "lively", "loud", "wild")  # shipped scale, weakest first; a shop writes its own


class FigureZone(Value):
    """One stretch of figure.

    ``polygon`` in mm as seen on face 1; ``strength`` 0 to 1 of the full contrast; ``angle_deg`` of the bands off square across
    the grain; ``wavelength_mm`` from band to band. ``word`` is the house's; ``by`` says what measured it.
    """

    id: Name
    kind: FigureKind = "curl"
    face: Literal["1", "2", "through"] = "through"
    polygon: Outline
    strength: float | None = Field(default=None, ge=0, le=1)
    angle_deg: float = Field(default=0.0, ge=-90, le=90)
    wavelength_mm: float | None = Field(default=None, gt=0, le=500)
    word: str = Field(default="", max_length=40)
    by: str = ""


def house_word(strength: float | None, words: tuple[str, ...] = HOUSE_WORDS) -> str:
    """The word of an even scale for a measured strength; empty while it is unread."""
    if strength is None or not words:
        return ""
    return words[min(len(words) - 1, int(strength * len(words)))]


def next_figure_id(taken: set[str]) -> str:
    """The next free tag for a zone of figure."""
    return next(f"f{n}" for n in range(1, 10_000) if f"f{n}" not in taken)
