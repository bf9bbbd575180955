"""The blanks that an instrument asks for: each component by its way, rolled down through every joint and loss into sums.

A blank is stock: what the rack must give. Its sums hold the finished figure and everything that work takes away again. What a part of
a job carries is the finished figure only, since the kit's trim, edge and skim are counted there (``parts.py``).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from grainet.design import formulas
from grainet.design.allowances import Allowances
from grainet.design.blank import Blank, after_glue, box, long_sum, thick_sum, wide_sum
from grainet.design.clip import area_mm2, clipped, moved
from grainet.design.instrument import Instrument
from grainet.design.let_in import top_outline
from grainet.design.mends import mended
from grainet.design.sums import Sum, Term, given, sum_of, taken
from grainet.design.ways import FROM_ONE_BOARD, way_of
from grainet.kept import kept_per_value
from grainet.wood.value import Ring

SKIN_MM = 6.0  # a skin's finished thickness, shipped judgement
CENTRE_STRIP_MM = 30.0  # between two halves, shipped judgement


def blanks_of(instrument: Instrument, kit: Allowances) -> list[Blank]:
    """Every blank of an instrument, body first. Terms that the instrument has switched off count for nothing."""
    return list(_blanks_of(instrument, kit))


@kept_per_value()
def _blanks_of(instrument: Instrument, kit: Allowances) -> tuple[Blank, ...]:
    makers: tuple[Callable[[Instrument, Allowances], Iterator[Blank]], ...] = (
        _cap,
        _body,
        _neck,
        _fretboard,
        _plate,
        _binding,
        _plates,
        _heel_block,
        _stiffeners,
    )
    found = [blank for make in makers for blank in make(instrument, kit)]
    return tuple(_switched(instrument, blank) for blank in mended(found, instrument, kit))


def _switched(instrument: Instrument, blank: Blank) -> Blank:
    """A blank with the terms switched off that the instrument names as ``part.measure: term``."""
    changed = blank
    for name in instrument.off:
        place, _, what = name.partition(": ")
        part, _, measure = place.rpartition(".")
        if part == blank.part and measure in ("length", "width", "thickness"):
            changed = replace(changed, **{measure: getattr(changed, measure).without(what)})
    return changed


# body -----------------------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Slice:
    """A lengthwise slice of a body's outline, between two lines beside the centre line."""

    name: str
    low_mm: float
    high_mm: float
    ring: Ring


def slice_of(outline: Ring, name: str, low_mm: float, high_mm: float) -> Slice | None:
    """What of an outline lies between two lines along it; None where nothing does. Of several bits the largest."""
    ring = clipped(clipped(outline, 1, low_mm, above=True), 1, high_mm, above=False)
    if len(ring) < 3 or abs(area_mm2(ring)) < 1.0:
        return None
    return Slice(name, low_mm, high_mm, ring)


def body_slices(instrument: Instrument, way: str) -> list[Slice]:
    """The pieces that a body is joined from side by side, treble side first."""
    outline = instrument.body.outline
    low, high = min(y for _, y in outline), max(y for _, y in outline)
    core = neck_width_mm(instrument) / 2
    strip = CENTRE_STRIP_MM / 2
    third = (high - low) / 3
    cuts: dict[str, list[tuple[str, float, float]]] = {
        "one piece": [("whole", low, high)],
        "skins": [("whole", low, high)],
        "three": [("treble", low, low + third), ("middle", low + third, high - third), ("bass", high - third, high)],
        "wings": [("treble wing", low, -core), ("core", -core, core), ("bass wing", core, high)],
        "centre strip": [("treble", low, -strip), ("centre strip", -strip, strip), ("bass", strip, high)],
    }
    rows = cuts.get(way, [("treble", low, 0.0), ("bass", 0.0, high)])
    if instrument.kind == "through":
        rows = [("treble wing", low, -core), ("bass wing", core, high)]
    if instrument.hand == "left":  # drawn mirrored: its bass side lies below
        swap = {"treble": "bass", "bass": "treble"}
        rows = [(" ".join(swap.get(w, w) for w in name.split()), a, b) for name, a, b in rows]
    return [made for name, a, b in rows if b > a and (made := slice_of(outline, name, a, b)) is not None]


def _body(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    way = way_of(g, "body")
    slices, unlike = for_one_board(body_slices(g, way), way)
    joined = len(slices) > 1 or g.kind == "through"
    on_top = way_of(g, "cap") != "none" and not g.body.rim_mm  # a top that is let in lies within the body's own thickness
    cap = given("less the top", -g.body.cap_mm, "top", "body.cap_mm") if on_top else given("", 0.0, "")
    skins = given("less two skins", -2 * SKIN_MM, "skins", "ways.body") if way == "skins" else given("", 0.0, "")
    glued = joined or bool(cap.mm) or bool(skins.mm)
    thickness = thick_sum(
        kit, given("body", g.body.thickness_mm, "body thickness", "body.thickness_mm"), cap, skins,
        after_glue(g, 2) if glued else given("", 0.0, ""),
    )  # fmt: skip
    for one in slices:
        ring, frame = moved(one.ring)
        long, wide = max(x for x, _ in ring), max(y for _, y in ring)
        member = "body" if len(slices) == 1 else f"body.{one.name.replace(' ', '_')}"
        mates = {"treble": "body.bass", "bass": "body.treble", "treble wing": "body.bass_wing", "bass wing": "body.treble_wing"}
        yield Blank(
            part=member, member=member, component="body", way="wings" if g.kind == "through" else way,
            length=long_sum(g, kit, given(f"{one.name} of the body", long, "the outline", "body.outline")),
            width=wide_sum(kit, given(f"{one.name} of the body", wide, "the outline", "body.outline")), thickness=thickness,
            species=g.body.species, role="wing" if "wing" in one.name else "core" if one.name in ("core", "centre strip") else "body_half",
            outline=ring, frame_mm=frame, mate=mates.get(one.name, "") if len(slices) > 1 else "",
            joint_side=_joint_side(one), for_either=unlike,
        )  # fmt: skip
    if way == "skins":
        yield from _skins(g, kit)


def _joint_side(one: Slice) -> str:
    """The side of a slice that is glued to its neighbour: of one below the centre line the high one; none of a middle piece."""
    middle = one.low_mm < 0 < one.high_mm
    return "" if middle else "high" if one.high_mm <= 0 else "low"


def _skins(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    ring, frame = moved(g.body.outline)
    yield Blank(
        part="body.skin", member="body.skin", component="skins", way="skins", count=2,
        length=long_sum(g, kit, given("body", max(x for x, _ in ring), "the outline", "body.outline")),
        width=wide_sum(kit, given("body", max(y for _, y in ring), "the outline", "body.outline")),
        thickness=thick_sum(kit, given("skin", SKIN_MM, "skins", "ways.body"), after_glue(g, 2)), species=g.body.species, role="matched_top",
        outline=ring, frame_mm=frame,
    )  # fmt: skip


def _cap(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    way = way_of(g, "cap")
    if way == "none":
        return
    covered, of = top_outline(g), "the outline" if not g.body.rim_mm else "the outline within the rim"
    drawn = [s for s in (slice_of(covered, "treble", -1e4, 0.0), slice_of(covered, "bass", 0.0, 1e4)) if s is not None]
    halves, unlike = for_one_board(drawn, way)
    leaf = thick_sum(kit, given("top", g.body.cap_mm, "top", "body.cap_mm"), after_glue(g, 1))
    both = way == "resaw"  # two leaves from one footprint: it must hold either half
    for one in halves[:1] if both else halves:
        ring = _union_of_halves(halves) if both else moved(one.ring)[0]
        long, wide = max(x for x, _ in ring), max(y for _, y in ring)
        member = "cap" if both else f"cap.{one.name}"
        yield Blank(
            part=member, member=member, component="cap", way=way, leaves=2 if both else 1,
            length=long_sum(g, kit, given("half of the body", long, of, "body.outline")),
            width=wide_sum(kit, given("half of the body", wide, of, "body.outline")), thickness=leaf,
            footprint=_footprint(leaf, kit) if both else None, species=g.body.cap_species, role="matched_top", outline=ring,
            frame_mm=(min(x for h in halves for x, _ in h.ring), 0.0) if both else moved(one.ring)[1], mate="" if both else f"cap.{'bass' if one.name == 'treble' else 'treble'}",
            joint_side="low" if both else _joint_side(one), for_either=unlike or (both and len(halves) == 2 and not _same_folded(halves)),
        )  # fmt: skip


def for_one_board(halves: list[Slice], way: str) -> tuple[list[Slice], bool]:
    """Two halves as they are sawn from one board, mirrored or one behind the other, and whether that is not how they are drawn: where they
    differ, each is sawn to an outline that holds either, for only then do they lie beside one rip; each is shaped to its own once joined."""
    if way not in FROM_ONE_BOARD or len(halves) != 2 or _same_folded(halves):
        return halves, False
    hull = _hull([(x, abs(y)) for half in halves for x, y in half.ring])
    high = max(y for _, y in hull)
    below = tuple((x, -y) for x, y in reversed(hull))
    return [
        replace(half, ring=below if half.high_mm <= 0 else hull, low_mm=max(half.low_mm, -high), high_mm=min(half.high_mm, high))
        for half in halves
    ], True


def _union_of_halves(halves: list[Slice]) -> Ring:
    """An outline that holds either half once they are folded onto one another at the joint, joint at y 0: the leaves of a resawn pair
    open to both. Convex where the halves differ, so never too small."""
    folded = [(x, abs(y)) for h in halves for x, y in h.ring]
    if len(halves) == 2 and _same_folded(halves):
        return moved(tuple((x, abs(y)) for x, y in halves[1].ring))[0]
    return moved(_hull(folded))[0]


def _same_folded(halves: list[Slice]) -> bool:
    a, b = ({(round(x, 3), round(abs(y), 3)) for x, y in h.ring} for h in halves)
    return a == b


def _hull(points: list[tuple[float, float]]) -> Ring:
    """The convex hull, counter-clockwise (monotone chain)."""
    rows = sorted(set(points))

    def half(run: list[tuple[float, float]]) -> list[tuple[float, float]]:
        kept: list[tuple[float, float]] = []
        for p in run:
            while len(kept) > 1 and _turn(kept[-2], kept[-1], p) <= 0:
                kept.pop()
            kept.append(p)
        return kept[:-1]

    return tuple(half(rows) + half(rows[::-1]))


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _footprint(leaf: Sum, kit: Allowances) -> Sum:
    """The stock that two leaves are resawn from: both finished, the cut between them, a skim on the two outer faces."""
    inner = [t for t in leaf.terms if t.figure != "kit.skim_mm"]
    return sum_of(*(t.changed(mm=2 * t.mm, what=f"{t.what}, twice") for t in inner)).plus(
        taken("resaw and two sawn faces", kit.leaf_loss_mm, "kit: resaw kerf, skim of sawn faces", "kit.leaf_loss_mm"),
        taken("two faces skimmed", 2 * kit.skim_mm, "kit: skim, each face", "kit.skim_mm"),
    )


# neck -----------------------------------------------------------------------------------------------------------------
def board_end_mm(g: Instrument) -> float:
    """Nut to the end of the board."""
    return formulas.board_length_mm(g.scale_mm, g.frets, g.overhang_mm, g.perpendicular_fret)


def board_end_width_mm(g: Instrument) -> float:
    """The finished neck and board across at the board's end."""
    return formulas.board_width_mm(g.nut_mm, g.spread_mm, g.string_to_edge_mm, g.scale, board_end_mm(g))


def neck_width_mm(g: Instrument) -> float:
    """The neck's finished width where it enters the body: as it is told, else the board's at its end with a trim on both sides."""
    return g.neck.width_mm if g.neck.width_mm is not None else board_end_width_mm(g) + 2 * g.side_trim_mm


def neck_depth(g: Instrument) -> Term:
    """The deepest that the neck is asked for, with what asks for it."""
    asked = [
        given("neck at the nut", g.neck.depth_nut_mm, "neck depth", "neck.depth_nut_mm"),
        given("neck at the heel", g.neck.depth_heel_mm, "neck depth", "neck.depth_heel_mm"),
    ]
    if g.kind == "through":
        depth = formulas.through_depth_mm(g.body.thickness_mm, g.joint.length_mm, g.joint.angle_deg)
        asked.append(given("through the body", depth, "body thickness, run and angle", "body.thickness_mm"))
    else:
        asked.append(given("heel", g.joint.heel_mm, "heel", "joint.heel_mm"))
    if g.head.route == "solid":
        asked.append(given("pitched head", formulas.solid_head_mm(g.head.length_mm, g.head.thickness_mm, g.head.angle_deg),
                           "head length, thickness and angle", "head.angle_deg"))  # fmt: skip
    if g.head.route == "flat":
        asked.append(given("flat head", g.head.thickness_mm, "head thickness", "head.thickness_mm"))
    return max(asked, key=lambda t: t.mm)


def _neck_length(g: Instrument, kit: Allowances) -> Sum:
    head = g.head
    terms = []
    if g.kind == "through":
        terms += [given("scale", g.scale, "scale", "scale_mm"), given("tail", g.tail_mm, "tail", "tail_mm")]
    else:
        terms.append(given("nut to the end of the board", board_end_mm(g), "scale, frets, overhang", "frets"))
        if g.kind == "set":
            terms.append(given("tenon", g.joint.length_mm, "joint", "joint.length_mm"))
    if head.route == "scarf":
        run = formulas.scarf_run_mm(neck_depth(g).mm, head.angle_deg)
        terms.append(given("scarf on the back", run, "neck depth, head angle", "head.angle_deg"))
    elif head.route == "flat":
        terms.append(given("flat head", head.length_mm, "head length", "head.length_mm"))
    else:
        along = head.length_mm * math.cos(math.radians(head.angle_deg))
        terms.append(given("head along the blank", along, "head length and angle", "head.length_mm"))
    return long_sum(g, kit, *terms)


def _full_width(g: Instrument) -> tuple[Term, ...]:
    """The width of a neck out of one piece: as told, else what is widest, with a trim on both sides."""
    if g.neck.width_mm is not None:
        return (given("neck", g.neck.width_mm, "neck width", "neck.width_mm"),)
    end = board_end_width_mm(g)
    in_one = g.head.route != "scarf"
    if in_one and g.head.width_mm > end:
        return (given("head", g.head.width_mm, "head width", "head.width_mm"), _sides(g))
    return (given("board at its end", end, "nut, spread, scale", "spread_mm"), _sides(g))


def _sides(g: Instrument) -> Term:
    return given("side trim, both sides", 2 * g.side_trim_mm, "side trim", "side_trim_mm")


def _neck(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    way = way_of(g, "neck")
    length, depth = _neck_length(g, kit), neck_depth(g)
    if way == "strips":
        yield from _strips(g, kit, length, depth)
    elif way == "layers":
        yield from _layers(g, kit, length, depth)
    else:
        narrow = (given("board at its end", board_end_width_mm(g), "nut, spread, scale", "spread_mm"), _sides(g))
        width = wide_sum(kit, *(narrow if way == "ears" else _full_width(g)))
        yield _neck_blank(g, "neck", "neck", way, length, width, thick_sum(kit, depth))
    if way == "ears":
        yield from _ears(g, kit, depth)
    yield from _head_parts(g, kit, depth)


def _neck_blank(g: Instrument, part: str, role: str, way: str, length: Sum, width: Sum, thickness: Sum, count: int = 1) -> Blank:
    ring = box(length.finished_mm, width.finished_mm)
    species = g.neck.species
    return Blank(
        part=part, member=part, component="neck", way=way, count=count, length=length, width=width, thickness=thickness,
        species=species, role=role, outline=ring,
    )  # fmt: skip


def _ears(g: Instrument, kit: Allowances, depth: Term) -> Iterator[Blank]:
    """Two ears that make a narrow neck's head wide."""
    narrow = board_end_width_mm(g) + 2 * g.side_trim_mm
    ear = formulas.ear_mm(g.head.width_mm, narrow, g.side_trim_mm)
    if ear <= 0:
        return
    head = g.head.thickness_mm if g.head.route in ("flat", "scarf") else depth.mm
    yield Blank(
        part="neck.ear", member="neck.ear", component="ears", way="ears", count=2,
        length=long_sum(g, kit, given("head", g.head.length_mm, "head length", "head.length_mm")),
        width=wide_sum(kit, given("half of what the head is wider, and a side trim", ear, "head width, neck width", "head.width_mm")),
        thickness=thick_sum(kit, given("head", head, "head thickness", "head.thickness_mm"), after_glue(g, 2)), species=g.neck.species,
        role="ear", outline=box(g.head.length_mm, ear),
    )  # fmt: skip


def _strips(g: Instrument, kit: Allowances, length: Sum, depth: Term) -> Iterator[Blank]:
    """The strips of a laminated neck: as thick as they are told, as wide as the neck is deep; strips that are alike are one row."""
    kinds: dict[tuple[str, float, float | None, bool], int] = {}
    for strip in strips_of(g):
        key = (strip[0], strip[1], strip[2], strip[3])
        kinds[key] = kinds.get(key, 0) + 1
    for k, ((species, mm, taper, accent), count) in enumerate(kinds.items(), 1):
        wide = max(mm, taper or 0.0)
        more = g.spare.get("accent" if accent else "strip", 0)
        words = "accent" if accent else "strip"
        made = _neck_blank(
            g, f"neck.{words}{k}", "laminate_strip", "strips", length,
            wide_sum(kit, depth, after_glue(g, 2)), thick_sum(kit, given(words, wide, "strips", "strips")), count + more,
        )  # fmt: skip
        yield replace(made, species=(species,) if species else g.neck.species)


def strips_of(g: Instrument) -> list[tuple[str, float, float | None, bool]]:
    """(species, mm, taper, accent) of each strip, bass side first: as they are told, else five that make the neck's width."""
    if g.strips:
        return [(s.species, s.mm, s.taper_mm, s.accent) for s in g.strips]
    return [("", round(laminate_width_mm(g) / 5, 2), None, False)] * 5


def laminate_width_mm(g: Instrument) -> float:
    """What the strips of a laminated neck must make together: the head's width where neck and head are one blank."""
    return math.fsum(t.mm for t in _full_width(g)) if g.head.route != "scarf" else neck_width_mm(g)


def _layers(g: Instrument, kit: Allowances, length: Sum, depth: Term) -> Iterator[Blank]:
    """Layers that together reach the depth: two, or as many as the planed stock takes."""
    count = max(2, formulas.layers_wanted(depth.mm, g.neck.layer_mm)) if g.neck.layer_mm else 2
    share = {2: "half", 3: "a third", 4: "a quarter"}.get(count, f"one of {count}")
    one = depth.changed(what=f"{share} of the {depth.what}", mm=depth.mm / count)
    yield _neck_blank(
        g, "neck.layer", "neck", "layers", length, wide_sum(kit, *_full_width(g)), thick_sum(kit, one, after_glue(g, 2)), count
    )


def _head_parts(g: Instrument, kit: Allowances, depth: Term) -> Iterator[Blank]:
    """The head's own blank: of a scarf the head part, of a stacked head the block under it."""
    head = g.head
    narrow = way_of(g, "neck") == "ears"  # its ears make it as wide as a head
    end = given("board at its end", board_end_width_mm(g), "nut, spread, scale", "spread_mm")
    width = wide_sum(kit, end if narrow else given("head", head.width_mm, "head width", "head.width_mm"), _sides(g))
    if head.route == "scarf":
        face = formulas.scarf_face_mm(depth.mm, head.angle_deg)
        length = long_sum(
            g, kit, given("head", head.length_mm, "head length", "head.length_mm"), given("scarf's face", face, "neck depth, head angle", "head.angle_deg")
        )  # fmt: skip
        thickness = thick_sum(kit, given("head", head.thickness_mm, "head thickness", "head.thickness_mm"), after_glue(g, 1))
    elif head.route == "stacked":
        along = head.length_mm * math.cos(math.radians(head.angle_deg))
        block = formulas.solid_head_mm(head.length_mm, head.thickness_mm, head.angle_deg) - depth.mm
        if block <= 0:
            return
        length = long_sum(g, kit, given("head along the blank", along, "head length and angle", "head.length_mm"))
        thickness = thick_sum(kit, given("what the pitch is deeper than the neck", block, "head length, thickness and angle", "head.angle_deg"), after_glue(g, 1))  # fmt: skip
    else:
        return
    made = _neck_blank(g, "neck.head", "neck", head.route, length, width, thickness)
    yield replace(made, outline=box(length.finished_mm, width.finished_mm))


# board, plate, binding --------------------------------------------------------------------------------------------------
def _fretboard(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    end = given("board at its end", board_end_width_mm(g), "nut, spread, scale", "spread_mm")
    binding = given("less two bindings", -2 * g.fretboard.binding_mm, "binding", "fretboard.binding_mm")
    length = long_sum(g, kit, given("nut to the end of the board", board_end_mm(g), "scale, frets, overhang", "frets"))
    width = wide_sum(kit, end, binding)
    yield Blank(
        part="fretboard", member="fretboard", component="fretboard", way=way_of(g, "fretboard"), length=length, width=width,
        thickness=thick_sum(kit, given("board", g.fretboard.thickness_mm, "fretboard thickness", "fretboard.thickness_mm")),
        species=g.fretboard.species, role="fretboard", outline=box(length.finished_mm, width.finished_mm),
    )  # fmt: skip


def _plate(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    if not g.plate.thickness_mm:
        return
    folded = way_of(g, "plate") == "fold"
    length = long_sum(g, kit, given("head", g.head.length_mm, "head length", "head.length_mm"))
    across = given(
        "half of the head" if folded else "head", g.head.width_mm / (2 if folded else 1), "head width", "head.width_mm"
    )
    width = wide_sum(kit, across)
    yield Blank(
        part="plate", member="plate", component="plate", way=way_of(g, "plate"), count=2 if folded else 1, length=length, width=width,
        thickness=thick_sum(kit, given("plate", g.plate.thickness_mm, "head plate", "plate.thickness_mm")), species=g.plate.species,
        role="head_plate", outline=box(length.finished_mm, width.finished_mm),
    )  # fmt: skip


def _plates(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    """Plates that are let into the neck's back, each by its own size."""
    for plate in g.plates:
        name = plate.part_name
        yield Blank(
            part=name, member=name, component="plates", way="let in", length=long_sum(g, kit, given(plate.name, plate.length_mm, "plates", "plates")),
            width=wide_sum(kit, given(plate.name, plate.width_mm, "plates", "plates")),
            thickness=thick_sum(kit, given(plate.name, plate.thickness_mm, "plates", "plates")), species=plate.species, role="inlay",
            outline=box(plate.length_mm, plate.width_mm),
        )  # fmt: skip


def _heel_block(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    """The heel's block: one piece, or layers that make its height together."""
    block = g.heel_block
    if block is None:
        return
    one = given(
        "heel block" if block.layers == 1 else f"one of {block.layers} layers of the heel block",
        block.height_mm / block.layers,
        "heel block",
        "heel_block",
    )
    glued = after_glue(g, 2 if block.layers > 1 else 1)
    yield Blank(
        part="heel", member="heel", component="heel", way="one piece" if block.layers == 1 else "stacked", count=block.layers,
        length=long_sum(g, kit, given("heel block", block.length_mm, "heel block", "heel_block")),
        width=wide_sum(kit, given("heel block", block.width_mm, "heel block", "heel_block")), thickness=thick_sum(kit, one, glued),
        species=block.species or g.neck.species, role="heel", outline=box(block.length_mm, block.width_mm),
    )  # fmt: skip


def _stiffeners(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    """Rods of wood beside the truss rod, as wide as they lie across the neck."""
    rod = g.stiffener
    if rod is None:
        return
    yield Blank(
        part="stiffener", member="stiffener", component="stiffener", way="let in", count=rod.count,
        length=long_sum(g, kit, given("stiffener", rod.length_mm, "stiffener", "stiffener")),
        width=wide_sum(kit, given("stiffener's depth", rod.depth_mm, "stiffener", "stiffener")),
        thickness=thick_sum(kit, given("stiffener's width", rod.width_mm, "stiffener", "stiffener")), species=rod.species, role="stiffener",
        outline=box(rod.length_mm, rod.depth_mm),
    )  # fmt: skip


def _binding(g: Instrument, kit: Allowances) -> Iterator[Blank]:
    if not g.fretboard.binding_mm:
        return
    length = long_sum(g, kit, given("nut to the end of the board", board_end_mm(g), "scale, frets, overhang", "frets"))
    width = wide_sum(kit, given("board's thickness", g.fretboard.thickness_mm, "fretboard thickness", "fretboard.thickness_mm"))
    yield Blank(
        part="binding", member="fretboard.binding", component="binding", way="bound", count=2, length=length, width=width,
        thickness=thick_sum(kit, given("binding", g.fretboard.binding_mm, "binding", "fretboard.binding_mm")), role="binding",
        outline=box(length.finished_mm, width.finished_mm),
    )  # fmt: skip
