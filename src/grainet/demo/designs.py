"""Two invented instruments of the demo workshop: the Plover, a two-piece body, and the Merrow, with a matched top."""

from __future__ import annotations

from typing import Any

from grainet.design.clip import mirrored
from grainet.design.curve import box_ring, through
from grainet.design.instrument import Instrument
from grainet.design.parts import design_of
from grainet.wood.value import Ring

# One half of a body, its seam along y = 0, tail at the left; both halves are alike.
_RIM = (
    (0, 0), (2, 48), (18, 104), (58, 148), (112, 166), (168, 160), (222, 142), (276, 132), (328, 130), (376, 122),
    (416, 104), (442, 78), (449, 54), (440, 38), (420, 32), (402, 30), (394, 26), (394, 12), (394, 0),
)  # fmt: skip
HALF: Ring = through(tuple((float(x), float(y)) for x, y in _RIM), 5)
POCKET, BRIDGE, PICKUPS = box_ring(320, -29, 394, 29), box_ring(104, -44, 132, 44), box_ring(180, -22, 296, 22)
CONTROLS, BATTERY = box_ring(52, -128, 150, -74), box_ring(52, 74, 150, 128)
ZONES = [
    {"kind": "critical", "polygon": POCKET, "name": "neck pocket"}, {"kind": "critical", "polygon": BRIDGE, "name": "bridge"},
    {"kind": "removed", "polygon": PICKUPS, "name": "pickups"}, {"kind": "hidden", "polygon": CONTROLS, "name": "under the cover"},
    {"kind": "hidden", "polygon": BATTERY, "name": "under the cover"}, {"kind": "seen", "polygon": "rest", "name": "seen"},
]  # fmt: skip
BODY_WOODS = ("European ash", "Red alder", "European walnut", "Iroko", "Western redcedar")
NECK_WOODS = ("Sugar maple (hard)", "European beech", "European sycamore maple")
BOARD_WOODS = ("Indian rosewood", "Gabon ebony", "Sugar maple (hard)")

# What both have in common; the rod, the tuners and the nut lie here, bridge and pickups are on their way.
_FIGURES: dict[str, Any] = {
    "kind": "bolt-on", "scale_mm": [628.0], "frets": 22, "nut_mm": 42.0, "spread_mm": 52.5, "tail_mm": 118.0, "join_fret": 17.0,
    "head.route": "flat", "head.length_mm": 216.0, "head.width_mm": 78.0, "head.thickness_mm": 15.0, "joint.length_mm": 74.0, "joint.heel_mm": 22.0,
    "neck.width_mm": 78.0, "neck.species": NECK_WOODS, "rod.depth_mm": 9.5, "rod.curve_mm": 2.0, "tuner.shank_mm": 15.0,
    "fretboard.thickness_mm": 6.5, "fretboard.species": BOARD_WOODS, "plate.thickness_mm": 0.0, "body.species": BODY_WOODS,
    "body.outline": [*HALF, *(p for p in mirrored(HALF) if p[1] < 0)], "body.zones": ZONES, "skim_after_glue_mm": 0.5,
    "status": {
        "rod.depth_mm": "in hand", "rod.curve_mm": "in hand", "tuner.shank_mm": "in hand", "nut_mm": "in hand", "spread_mm": "ordered",
        "body.cavities": "in hand",
    },
}  # fmt: skip


def _hollows(controls_mm: float) -> list[dict[str, Any]]:
    return [
        {"name": "pickup", "depth_mm": 19.0, "polygon": PICKUPS},
        {"name": "controls", "depth_mm": controls_mm, "polygon": CONTROLS},
    ]


def plover() -> Instrument:
    """A two-piece body of 43, a bolt-on neck, 628 scale, 22 frets."""
    return Instrument(id="plover", name="Plover").with_figures(
        {**_FIGURES, "body.thickness_mm": 43.0, "body.cavities": _hollows(36.0), "ways": {"body": "halves"}}
    )


def merrow() -> Instrument:
    """A matched top of 6.5 on a core; the neck as the Plover's."""
    return Instrument(id="merrow", name="Merrow").with_figures(
        {
            **_FIGURES, "body.thickness_mm": 43.5, "body.cap_mm": 6.5, "body.cavities": _hollows(32.0),
            "body.cap_species": ["European sycamore maple", "European walnut", "European ash"], "ways": {"body": "halves", "cap": "resaw"},
        }
    )  # fmt: skip


PLOVER, MERROW = design_of(plover()), design_of(merrow())
DESIGNS = (PLOVER, MERROW)
