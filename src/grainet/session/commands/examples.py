"""Examples of the words for a house that reads inches: a line that is put into the tape line as it stands must work there too."""

from __future__ import annotations

from grainet.session.commands.definition import Word
from grainet.wood.units import LengthStyle

IN_INCHES = {
    "760": "30", "plank 2390x231x52 white ash": "plank 94 1/8 x 9 1/8 x 2 1/16 white ash", "l 2390": "l 94 1/8", "w 231 230 231": "w 9 1/8 9 9 1/8",
    "e 148 186": "e 5 3/4 7 3/8", "t 52.4 52.1 51.6": "t 2 1/16 2 1/16 2", "part 700x90": "part 27 1/2 x 3 1/2", "mc 8.4 d 20": "mc 8.4 d 3/4",
    "heart 2 120": "heart 2 5", "bow 3 over 900 cup .8": "bow 1/8 over 36 cup 1/32", "cup .8": "cup 1/32", "crook 2 over 900": "crook 1/16 over 36",
    "twist 2 over 600": "twist 1/16 over 24", "k 24x18 y 40 d 12": "k 1 x 3/4 y 1 1/2 d 1/2", "crack 250x3 through": "crack 10 x 1/8 through", "m 6x6": "m 1/4 x 1/4",
    "groove 200x40x12": "groove 8 x 1 1/2 x 1/2", "wane 300x15 far": "wane 12 x 5/8 far", "inbark 20x10": "inbark 3/4 x 3/8", "pith 300x8": "pith 12 x 5/16",
    "stain 60x40": "stain 2 3/8 x 1 1/2", "curl 300x120 s .6": "curl 12 x 5 s .6", "depth k1 12": "depth k1 1/2",
    "c1 0 to 420": "c1 0 to 16 1/2", "knot 20 at 800 60, 12 deep": "knot 3/4 at 31 1/2 2 3/8, 1/2 deep",
    "rest 2.0 twist .4": "rest 1/16 twist 1/64", "ask 30 x 110 x 700 clear, quartered": "ask 1 1/4 x 4 3/8 x 27 1/2 clear, quartered",
    "bundle 5x760x58x12 4x700 3x620 black cherry": "bundle 5x30x2 1/4x1/2 4x27 1/2 3x24 black cherry", "cut 900": "cut 36", "rip 60": "rip 2 3/8", "resaw 12": "resaw 1/2",
    "layers 0.6 black cherry 18 lime across 0.6 black cherry": "layers 1/32 black cherry 3/4 lime across 1/32 black cherry",
}  # fmt: skip


def example_in(word: Word, style: LengthStyle) -> str:
    """The line that shows how a word is used, in the house's own measure."""
    return word.example if style == "mm" else IN_INCHES.get(word.example, word.example)
