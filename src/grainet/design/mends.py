"""Mends at work: what a way out makes of an instrument's blanks, and how freely a part may then lie."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from grainet.design.allowances import Allowances
from grainet.design.blank import Blank, after_glue, thick_sum, wide_sum
from grainet.design.clip import area_mm2, clipped, moved
from grainet.design.instrument import Instrument
from grainet.design.mend import PLACING, Mend
from grainet.design.part import Part
from grainet.design.sums import Sum, given

TILT_DEG = 5.0  # how far a part may lie askew once that is allowed
LEAST_MM = 1.0  # of a piece that a cut leaves


def with_mend(g: Instrument, mend: Mend) -> Instrument:
    """The instrument with a part mended; of the kinds that lay it otherwise each counts once. Raises ValidationError."""
    others = tuple(m for m in g.mends if (m.part, m.kind) != (mend.part, mend.kind))
    return g.changed(mends=(*others, mend))


def mends_of(g: Instrument, component: str) -> tuple[Mend, ...]:
    """The ways out that were taken for a component's parts: body, cap, neck ..."""
    return tuple(m for m in g.mends if m.part.partition(".")[0] == component)


def without_mends(g: Instrument, component: str) -> Instrument:
    """The instrument with a component's parts as they are drawn again."""
    gone = mends_of(g, component)
    return g.changed(mends=tuple(m for m in g.mends if m not in gone))


def mended(blanks: Sequence[Blank], g: Instrument, kit: Allowances) -> list[Blank]:
    """The blanks as the instrument's mends leave them; a mend whose part is gone, or too small for it, changes nothing."""
    found = list(blanks)
    for mend in g.mends:
        if mend.kind in PLACING:
            continue
        mates = {b.mate for b in found if b.part == mend.part and b.mate}
        found = [
            made
            for blank in found
            for made in (_made(blank, mend, g, kit) if blank.part == mend.part or blank.part in mates else (blank,))
        ]
    return found


def laid_freely(part: Part, mends: Sequence[Mend]) -> Part:
    """A part with the freedom that its mends give it on the board."""
    for mend in mends:
        turns = tuple(sorted({*part.turns_deg, *((t + 180) % 360 for t in part.turns_deg)}))
        if mend.kind == "shift and tilt":
            part = part.changed(tilt_deg=max(part.tilt_deg, TILT_DEG))
        elif mend.kind == "swap or flip halves":
            part = part.changed(mirror=True, faces_up=("1", "2"), turns_deg=turns)
        elif mend.kind == "other end or face up":
            part = part.changed(turns_deg=turns, faces_up=("1", "2"))
    return part


def _made(blank: Blank, mend: Mend, g: Instrument, kit: Allowances) -> tuple[Blank, ...]:
    if not mend.at_mm:
        return (blank,)
    if mend.kind in ("extra layer", "skins"):
        return _layered(blank, mend, g, kit)
    high = max(y for _, y in blank.outline)
    low_cut, high_cut = mend.at_mm[0], mend.at_mm[-1]
    stretches = {
        "centre strip": (("", low_cut, high), ("strip", 0.0, low_cut)),
        "third piece": (("", low_cut, high), ("third piece", 0.0, low_cut)),
        "shorten or rip before flattening": (("", low_cut, high), ("ripped piece", 0.0, low_cut)),
        "split and insert": (("", high_cut, high), ("other side", 0.0, low_cut), ("insert", low_cut, high_cut)),
    }[mend.kind]
    pieces = tuple(p for name, a, b in stretches if (p := _piece(blank, name, (a, b), g, kit)) is not None)
    return pieces if len(pieces) == len(stretches) else (blank,)


def _piece(blank: Blank, name: str, stretch: tuple[float, float], g: Instrument, kit: Allowances) -> Blank | None:
    """What lies between two lines along a blank, counted from its joint's edge; None where it is nothing."""
    ring = blank.outline
    high = max(y for _, y in ring)
    low, top = (high - stretch[1], high - stretch[0]) if blank.joint_side == "high" else stretch
    cut = clipped(clipped(ring, 1, low, above=True), 1, top, above=False)
    if top - low < LEAST_MM or len(cut) < 3 or abs(area_mm2(cut)) < LEAST_MM:
        return None
    outline, (dx, dy) = moved(cut)
    shorter = max(x for x, _ in outline) - max(x for x, _ in ring)
    wide = max(y for _, y in outline)
    if name:
        width = wide_sum(kit, given(name, wide, "mended", "x-mends"))
    else:
        width = blank.width.plus(given("less what is cut off and joined", wide - high, "mended", "x-mends"))
    length = blank.length.plus(given("shorter here", round(shorter, 6), "the outline", "body.outline"))
    made = replace(
        blank, length=length, width=width, thickness=_glued(blank.thickness, g), outline=outline,
        frame_mm=(blank.frame_mm[0] + dx, blank.frame_mm[1] + dy),
    )  # fmt: skip
    return _named(made, name)


def _layered(blank: Blank, mend: Mend, g: Instrument, kit: Allowances) -> tuple[Blank, ...]:
    """A blank that is thinner by a layer, or by two skins, which are blanks of their own."""
    mm, two = mend.at_mm[0], mend.kind == "skins"
    left = blank.thickness.finished_mm - (2 * mm if two else mm)
    if left < LEAST_MM or blank.leaves != 1:
        return (blank,)
    less = given("less two skins" if two else "less a layer", -(2 * mm if two else mm), "mended", "x-mends")
    core = replace(blank, thickness=_glued(blank.thickness.plus(less), g))
    name = "skin" if two else "layer"
    thickness = thick_sum(kit, given(name, mm, "mended", "x-mends"), after_glue(g, 2))
    extra = replace(blank, thickness=thickness, count=blank.count * (2 if two else 1))
    return core, _named(extra, name)


def _glued(thickness: Sum, g: Instrument) -> Sum:
    """A thickness with what flattening takes after gluing, once."""
    glued = after_glue(g, 2)
    return thickness if any(t.figure == glued.figure for t in thickness.terms) else thickness.plus(glued)


def _named(blank: Blank, name: str) -> Blank:
    if not name:
        return blank
    word = name.replace(" ", "_")
    return replace(
        blank, part=f"{blank.part}_{word}", member=f"{blank.member}_{word}", mate=f"{blank.mate}_{word}" if blank.mate else "", cut=name
    )  # fmt: skip


def joints_of(blanks: Sequence[Blank]) -> Iterator[float]:
    """Where the joints of a body or top lie beside the centre line, mm: every long edge of a blank within the whole."""
    made = [b for b in blanks if b.component in ("body", "cap") and b.outline]
    edges = [(b.frame_mm[1], b.frame_mm[1] + max(y for _, y in b.outline)) for b in made]
    if edges:
        low, high = min(a for a, _ in edges), max(b for _, b in edges)
        yield from sorted({round(y, 1) for pair in edges for y in pair if low + LEAST_MM < y < high - LEAST_MM})
