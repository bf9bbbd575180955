"""Two invented builds of the demo workshop: the Plover, a two-piece body, and the Merrow, with a matched top."""

from __future__ import annotations

from grainet.design.brief import Hardware
from grainet.design.curve import box_ring, through
from grainet.design.design import Design
from grainet.design.part import Part, Zone
from grainet.design.recipe import Recipe
from grainet.wood.value import Ring

# One half of a body, its seam along y = 0, tail at the left; both halves are alike.
_RIM = (
    (0, 0), (2, 48), (18, 104), (58, 148), (112, 166), (168, 158), (214, 136), (258, 124), (302, 130), (346, 150),
    (388, 163), (424, 156), (446, 130), (448, 102), (430, 84), (408, 74), (396, 56), (394, 30), (394, 0),
)  # fmt: skip
HALF: Ring = through(tuple((float(x), float(y)) for x, y in _RIM), 5)
POCKET = Zone(kind="critical", polygon=box_ring(320, 0, 394, 29), name="neck pocket")
BRIDGE = Zone(kind="critical", polygon=box_ring(104, 0, 132, 44), name="bridge")
PICKUPS = Zone(kind="removed", polygon=box_ring(180, 0, 296, 22), name="pickups")
CONTROLS = Zone(kind="hidden", polygon=box_ring(52, 74, 150, 128), name="under the cover")
SEEN = Zone(kind="seen", polygon="rest", name="seen")
BODY_ZONES = (POCKET, BRIDGE, PICKUPS, CONTROLS, SEEN)

_NECK: Ring = (
    (0, 11), (0, 67), (96, 67), (480, 60.5), (498, 64), (520, 78), (690, 78), (690, 0), (520, 0), (498, 14), (480, 17.5), (96, 11),
)  # fmt: skip
BODY_WOODS = ("European ash", "Red alder", "European walnut", "Iroko", "Western redcedar")
NECK_WOODS = ("Sugar maple (hard)", "European beech", "European sycamore maple")


def _half(part_id: str, letter: str, thickness: float, value: float) -> Part:
    return Part(
        id=part_id, label="body halves", letter=letter, role="body_half", outline=HALF, thickness_mm=thickness, value=value,
        tilt_deg=2.0, zones=BODY_ZONES, pin=(118.0, 0.0), pin_name="bridge pin", species_wish=BODY_WOODS,
    )  # fmt: skip


def _neck(part_id: str, letter: str) -> Part:
    return Part(
        id=part_id, label="neck", letter=letter, role="neck", outline=_NECK, thickness_mm=22, value=30, tilt_deg=1.0,
        zones=(Zone(kind="critical", polygon="rest"),), pin=(20.0, 39.0), pin_name="heel", ring_wish_deg=60, species_wish=NECK_WOODS,
    )  # fmt: skip


def _fretboard(part_id: str, letter: str) -> Part:
    return Part(
        id=part_id, label="fretboard", letter=letter, role="fretboard", outline=box_ring(0, 0, 485, 62), thickness_mm=6.5, value=20,
        pin=(0.0, 31.0), pin_name="nut end", species_wish=("Indian rosewood", "Gabon ebony", "Sugar maple (hard)"),
    )  # fmt: skip


PLOVER = Design(
    id="plover", name="Plover",
    parts=(_half("plover.half", "A", 44, 40), _neck("plover.neck", "B"), _fretboard("plover.board", "C")),
    recipes=(
        Recipe(id="two-piece", value=100, needs={"plover.half": 2, "plover.neck": 1, "plover.board": 1}, same_piece=("plover.half",)),
        Recipe(id="two boards", value=80, needs={"plover.half": 2, "plover.neck": 1, "plover.board": 1}),
    ),
    note="Two halves from one board, bolt-on neck, 628 scale.",
)  # fmt: skip

MERROW = Design(
    id="merrow", name="Merrow",
    parts=(
        Part(
            id="merrow.top", label="matched top", letter="A", role="matched_top", outline=HALF, thickness_mm=7, leaves=2, value=60,
            zones=(BRIDGE, PICKUPS, SEEN), pin=(118.0, 0.0), pin_name="bridge pin",
            species_wish=("European sycamore maple", "European walnut", "European ash"),
        ),
        _half("merrow.half", "B", 38, 40), _neck("merrow.neck", "C"), _fretboard("merrow.board", "D"),
    ),
    recipes=(
        Recipe(id="matched top", value=140, needs={"merrow.top": 1, "merrow.half": 2, "merrow.neck": 1, "merrow.board": 1}, same_piece=("merrow.half",)),
        Recipe(id="plain", value=90, needs={"merrow.half": 2, "merrow.neck": 1, "merrow.board": 1}, same_piece=("merrow.half",)),
    ),
    note="Matched top of 7 on a core of 38.",
)  # fmt: skip
BRIEF = (
    Hardware(kind="rod_depth", mm=9.5, status="in hand"), Hardware(kind="rod_curve", mm=2, status="in hand"), Hardware(kind="tuner_shank", mm=15, status="in hand"),
    Hardware(kind="nut_width", mm=42, status="in hand"), Hardware(kind="bridge_spread", mm=52.5, status="ordered"), Hardware(kind="pickup_depth", mm=19, status="ordered"),
    Hardware(kind="cavity_depth", mm=36, status="in hand"),
)  # fmt: skip
PLOVER, MERROW = (
    PLOVER.changed(brief=BRIEF),
    MERROW.changed(brief=BRIEF[:-1] + (Hardware(kind="cavity_depth", mm=32, status="in hand"),)),
)
DESIGNS = (PLOVER, MERROW)
