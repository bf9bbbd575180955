"""Two instruments of the demo workshop, drawn up: a laminated through-neck, and a left-handed bass."""

from __future__ import annotations

from grainet.design.instrument import Instrument
from grainet.design.outline_body import turned_body
from grainet.design.starting_points import begin

_STRIPS = [
    {"species": "Sugar maple (hard)", "mm": 13.0}, {"species": "European walnut", "mm": 3.0, "accent": True}, {"species": "Sugar maple (hard)", "mm": 20.0},
    {"species": "European walnut", "mm": 3.0, "accent": True}, {"species": "Sugar maple (hard)", "mm": 13.0},
]  # fmt: skip


def gannet() -> Instrument:
    """A through-neck of five strips, 640 scale, 24 frets; rod and tuners are in hand, the bridge is ordered."""
    return begin("through", "gannet", "Gannet").with_figures({
        "nut_mm": 42.0, "rod.depth_mm": 9.5, "tuner.shank_mm": 15.0, "spread_mm": 52.5, "strips": _STRIPS, "spare": {"accent": 1},
        "status": {"nut_mm": "in hand", "rod.depth_mm": "in hand", "tuner.shank_mm": "in hand", "spread_mm": "ordered"},
    })  # fmt: skip


def bittern() -> Instrument:
    """A left-handed four-string, 864 scale; most of it is still guessed."""
    return turned_body(begin("bass", "bittern", "Bittern"), "mirror").with_figures(
        {"hand": "left", "body.species": ["European ash", "Red alder"]}
    )


INSTRUMENTS = (gannet, bittern)
