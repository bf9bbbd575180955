"""The verdict on one piece for one use: clear stretches along the board, what each gives, and why not elsewhere.

Places come from the fit field of the part that the use needs; conditions of the whole piece turn "gives" into "if" or bar it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from grainet.design.part import Part, Zone
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import OF_LENGTHS, Exact, Misfit, seats
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import Orientation, orientations_of
from grainet.fit.slide import slides
from grainet.grade.conditions import conditions
from grainet.grade.facts import Facts
from grainet.grade.verdict import Reason, Stretch, Verdict, Word
from grainet.kit.cut_kit import CutKit
from grainet.kit.shop_profile import ShopProfile
from grainet.kit.uses import UseRule
from grainet.wood.defects import label_of
from grainet.wood.flatness import flattening_links
from grainet.wood.piece import Piece
from grainet.wood.units import lengths_in

GRADE_STEP_MM = 2.0
TIGHT_MM = 8.0  # four pixels: what a guarded raster may lose of the room across or along
NAMED_GAP_MM = 12.0  # a shorter gap between two stretches carries the trouble's tag, not a sentence


def judge(
    piece: Piece, rule: UseRule, kit: ShopProfile, layers: Layers | Callable[[], Layers | None] | None = None, facts: Facts | None = None,
    part: Part | None = None,
) -> Verdict:  # fmt: skip
    """The verdict of one rule on one piece. A piece without length, width or thickness cannot be judged: all "if".

    ``layers`` are the piece's rasters, or what makes them: a piece that is too small or barred never needs them. With ``part``,
    the part of a build that is meant, places are those of its own outline and zones, as laying it out has them.
    """
    x0, _, x1, _ = piece.extents
    unread = _unread(piece)
    if unread is not None:
        return Verdict(
            piece=piece.id, use=rule.use, stretches=(Stretch(from_mm=x0, to_mm=max(x1, 1.0), verdict="if", reasons=(unread,)),)
        )
    whole = list(conditions(piece, rule, kit, facts))
    barred = tuple(reason for word, reason in whole if word == "wont")
    asked = tuple(reason for word, reason in whole if word == "if")
    own = part is not None
    part = part or part_for(rule)
    size = None if own and (part.tilt_deg or any(t % 180 for t in part.turns_deg)) else plainly_too_small(piece, part, kit.cuts)
    if size is None and not barred:
        layers = _layers(piece, None if own else rule, kit, layers)
        size = _size_trouble(layers.sheet, part)
    if size is not None or barred:
        reasons = (*((_in_house(_as_reason(size), kit),) if size else ()), *barred, *asked)
        return Verdict(piece=piece.id, use=rule.use, stretches=(Stretch(from_mm=x0, to_mm=x1, verdict="wont", reasons=reasons),))
    assert isinstance(layers, Layers)
    clear = _runs(layers, part)
    covered = _runs(layers, part_for(rule, hidden=True)) if rule.hides_bites and layers.sheet.hazards and not own else []
    stretches = [_stretch(layers.sheet, part, run, "if" if asked else "gives", asked) for run in clear]
    for run in _beyond(covered, stretches, part):
        stretches.append(_stretch(layers.sheet, part, run, "if", (_cover_reason(layers.sheet, run), *asked)))
    for gap in _gaps(layers.sheet, part, sorted(stretches, key=lambda s: s.from_mm)):
        stretches.append(gap.changed(reasons=tuple(_in_house(reason, kit) for reason in gap.reasons)))
    return Verdict(piece=piece.id, use=rule.use, stretches=tuple(sorted(stretches, key=lambda s: s.from_mm)))


def _layers(piece: Piece, rule: UseRule | None, kit: ShopProfile, layers: Layers | Callable[[], Layers | None] | None) -> Layers:
    """The rasters to judge on; where a use welcomes what only shows, of the piece without such marks."""
    welcome = (
        [d for d in piece.defects if d.family == "shows" and d.kind != "loose_knot"]
        if rule is not None and rule.welcomes_shows
        else []
    )
    if welcome:
        rest = piece.changed(defects=tuple(d for d in piece.defects if d not in welcome))
        return Layers(BoardGeometry(rest, kit.cuts), GRADE_STEP_MM)
    made = layers() if callable(layers) else layers
    return made or Layers(BoardGeometry(piece, kit.cuts), GRADE_STEP_MM)


def plainly_too_small(piece: Piece, part: Part, cuts: CutKit) -> Misfit | None:
    """What the extents alone rule out, before any geometry is made: the same words as the exact answer's."""
    x0, y0, x1, y1 = piece.extents
    length, width = _length(part), _width(part)
    inset, edge = cuts.trim_mm + cuts.margin_mm, cuts.edge_mm + cuts.margin_mm
    limit = cuts.machines.resaw_height_mm
    if part.leaves > 1 and limit is not None and width > limit + 1e-9:
        return Misfit("resaw", f"{width:.1f} high to resaw, the saw takes {limit:.0f}", width - limit)
    if (room := x1 - x0 - 2 * inset) < length - 1e-6:
        return Misfit("length", f"{room:.1f} long after trims, at least {length:.1f}", length - room)
    if (room := y1 - y0 - 2 * edge) < width - 1e-6:
        return Misfit("width", f"{room:.1f} wide after edging, at least {width:.1f}", width - room)
    flattening = sum(link.takes_mm for link in flattening_links(piece.flatness, length, width, x1 - x0, y1 - y0))
    stack = cuts.stack_mm(part.thickness_mm, part.leaves)
    left = max(piece.all_thicknesses_mm) - flattening - 2 * cuts.skim_mm
    if left < stack - 1e-9:
        return Misfit("thickness", f"{left:.1f} thick after flattening {length:.0f}, at least {stack:.1f}", stack - left)
    return None


def part_for(rule: UseRule, *, hidden: bool = False) -> Part:
    """The rectangle that a use needs, all of it seen (or, to see what a cover would gain, all of it hidden)."""
    length, width = rule.length_mm, rule.width_mm
    zones = (
        (Zone(kind="hidden", polygon="rest"),)
        if hidden
        else ()
        if rule.allows_shows
        else (Zone(kind="critical", polygon="rest"),)
    )
    outline = ((0.0, 0.0), (length, 0.0), (length, width), (0.0, width))
    return Part(
        id=rule.use,
        role=rule.use,
        outline=outline,
        thickness_mm=rule.thickness_mm,
        leaves=rule.leaves,
        zones=zones,
        turns_deg=(0.0,),
    )


def _unread(piece: Piece) -> Reason | None:
    missing = [
        name
        for name, there in (("length and width", bool(piece.outline)), ("thickness", bool(piece.all_thicknesses_mm)))
        if not there
    ]
    return Reason(rule="size", text=f"if its {' and '.join(missing)} are read", remedy="F2") if missing else None


def _size_trouble(sheet: BoardGeometry, part: Part) -> Misfit | None:
    troubles = [Exact(sheet, way).size_trouble() for way in orientations_of(part)]
    return None if any(t is None for t in troubles) else troubles[0]


def _as_reason(trouble: Misfit) -> Reason:
    words = {"length": "too short", "width": "too narrow", "thickness": "too thin", "resaw": "too high to resaw"}
    return Reason(
        rule=trouble.rule,
        found=round(trouble.short_mm, 1),
        text=f"{words.get(trouble.rule, trouble.rule)}: {trouble.text}",
        source="the loss chain",
    )


def _in_house(reason: Reason, kit: ShopProfile) -> Reason:
    """The same with its lengths as the house reads them."""
    if kit.length_style == "mm" or reason.rule not in OF_LENGTHS:
        return reason
    return reason.changed(text=lengths_in(reason.text, kit.length_style))


Run = tuple[float, float]  # first and last place of the part's near end along the piece


def _runs(layers: Layers, part: Part) -> list[Run]:
    """Runs of places along the piece, from the field; where it finds none, exact flush places are tried."""
    across: NDArray[np.bool_] | None = None
    ways = orientations_of(part)
    if part.zones and part.zones[0].kind == "critical":
        ways = ways[:1]  # what must be sound all through is so whichever face is up
    plain = slides(layers.sheet, ways)
    if plain is not None:
        return plain
    for way in ways:
        fits = fit_field(layers, way, want_covered=False)
        if fits.fits.size:
            line = np.atleast_1d(fits.fits.any(axis=0))
            across = line if across is None else across | line
            if across.all():
                break  # it fits wherever it could; another way up adds nothing
    if across is None or not across.any():
        return _exact_runs(layers.sheet, ways)
    padded = np.concatenate([[False], across, [False]]).astype(np.int8)
    change = np.diff(padded)
    grid = layers.grid
    return [
        (grid.x0 + a * grid.step, grid.x0 + (b - 1) * grid.step)
        for a, b in zip(np.flatnonzero(change == 1), np.flatnonzero(change == -1))
    ]


def _exact_runs(sheet: BoardGeometry, ways: Sequence[Orientation]) -> list[Run]:
    """Flush places tried exactly, where so little room is left over that a raster could miss them."""
    if sheet.usable.is_empty:
        return []
    x0, y0, x1, y1 = sheet.usable.bounds
    found: list[float] = []
    for way in ways:
        if min(x1 - x0 - way.length, y1 - y0 - way.width) > TIGHT_MM:
            continue
        exact = Exact(sheet, way)
        xs = np.linspace(x0, max(x0, x1 - way.length), 13)
        ys = sorted({y0, y1 - way.width, (y0 + y1 - way.width) / 2})
        shifts = np.array([(x - way.bounds[0], y - way.bounds[1]) for x in xs for y in ys])
        found += [float(x) for (x, _), seat in zip(shifts, seats(exact, shifts)) if seat is not None]
    return [(min(found), max(found))] if found else []


def _stretch(sheet: BoardGeometry, part: Part, run: Run, word: Word, reasons: tuple[Reason, ...]) -> Stretch:
    from_mm, to_mm = run[0], run[1] + _length(part)
    return Stretch(
        from_mm=round(from_mm, 1), to_mm=round(to_mm, 1), verdict=word, count=_count(sheet, part, from_mm, to_mm),
        slides_mm=round(run[1] - run[0], 1), reasons=reasons,
    )  # fmt: skip


def _length(part: Part) -> float:
    xs = [x for x, _ in part.outline]
    return max(xs) - min(xs)


def _width(part: Part) -> float:
    ys = [y for _, y in part.outline]
    return max(ys) - min(ys)


def _count(sheet: BoardGeometry, part: Part, from_mm: float, to_mm: float) -> int:
    """How many stand one after another and, on a wide clear stretch, side by side; each ripped side is cleaned up."""
    kit, length, width = sheet.kit, _length(part), _width(part)
    along = math.floor((to_mm - from_mm + kit.kerf_mm.crosscut + 1e-6) / (length + kit.kerf_mm.crosscut))
    room = sheet.least_chord(from_mm, to_mm) - 2 * (kit.edge_mm + kit.margin_mm)
    in_the_way = sum(
        h.polygon.bounds[3] - h.polygon.bounds[1]
        for h in sheet.hazards
        if h.polygon.bounds[0] < to_mm and h.polygon.bounds[2] > from_mm
    )
    between = kit.kerf_mm.rip + 2 * kit.edge_mm
    across = math.floor((room - in_the_way + between + 1e-6) / (width + between))
    return int(max(1, along) * max(1, across))


def _beyond(covered: list[Run], stretches: list[Stretch], part: Part) -> Iterator[Run]:
    """Runs that only a cover makes possible, cut short where a clear stretch lies."""
    for run in covered:
        pieces = [run]
        for clear in stretches:
            low, high = clear.from_mm, clear.to_mm - _length(part)
            pieces = [r for a, b in pieces for r in ((a, min(b, low - 1)), (max(a, high + 1), b)) if r[1] - r[0] > 4]
        for a, b in pieces:
            taken = [s for s in stretches if s.from_mm < b + _length(part) and s.to_mm > a]
            low = max([s.to_mm for s in taken if s.from_mm <= a], default=a)
            high = min([s.from_mm for s in taken if s.to_mm >= b + _length(part)], default=b + _length(part))
            if high - low >= _length(part):
                yield low, high - _length(part)


def _cover_reason(sheet: BoardGeometry, run: Run) -> Reason:
    names = [h.id for h in sheet.hazards if h.polygon.bounds[0] < run[1] + 1 and h.polygon.bounds[2] > run[0]]
    names = names or [h.id for h in sheet.hazards]
    return Reason(
        rule="cover",
        text=f"if {' and '.join(names[:2])} goes under the cover",
        source="hidden zones allow all but metal, rot and shake",
    )


def _gaps(sheet: BoardGeometry, part: Part, ordered: list[Stretch]) -> list[Stretch]:
    """The stretches that give nothing, each with its plain cause."""
    gaps: list[Stretch] = []
    at = sheet.x0
    for stretch in [*ordered, None]:
        end = sheet.x1 if stretch is None else stretch.from_mm
        if end - at > NAMED_GAP_MM:
            gaps.append(
                Stretch(from_mm=round(at, 1), to_mm=round(end, 1), verdict="wont", reasons=(_gap_reason(sheet, part, at, end),))
            )
        if stretch is not None:
            at = max(at, stretch.to_mm)
    return gaps


def _gap_reason(sheet: BoardGeometry, part: Part, low: float, high: float) -> Reason:
    length = _length(part)
    metal = [d for d in sheet.piece.live_metal if min(x for x, _ in d.polygon) < high and max(x for x, _ in d.polygon) > low]
    if metal:
        return Reason(
            rule="metal",
            text=f"{metal[0].id} is live metal",
            source="no cut near metal",
            remedy="draw it out, then mark it drawn",
        )
    inside = [h for h in sheet.hazards if h.polygon.bounds[0] < high and h.polygon.bounds[2] > low]
    biting = [h for h in inside if h.family not in ("shows", "moves")] or inside
    if inside:
        worst = max(biting, key=lambda h: h.polygon.area)
        return Reason(rule="defect", text=f"{label_of(worst.kind)} {worst.id} in the way", source="zones of the part")
    if high - low < length:
        found, wanted = figures_apart(high - low, length)
        return Reason(
            rule="length",
            found=round(high - low, 1),
            wanted=length,
            text=f"too short: {found}, at least {wanted}",
            source="what is left between the others",
        )
    return _too_thin_or_narrow(sheet, part, low, high)


def _too_thin_or_narrow(sheet: BoardGeometry, part: Part, low: float, high: float) -> Reason:
    """Why a stretch without troubles that is long enough gives nothing."""
    exact, length = Exact(sheet, orientations_of(part)[0]), _length(part)
    x0, y0, x1, _ = sheet.usable.bounds
    first, last = max(x0, low), max(x0, min(x1, high) - length)
    for spot in ((first + last) / 2, first, last):
        trouble = exact.seat(spot - exact.orientation.bounds[0], y0 - exact.orientation.bounds[1])
        if isinstance(trouble, Misfit) and trouble.rule in ("thickness", "crook"):
            return _as_reason(trouble)
    kit, width = sheet.kit, exact.orientation.width
    narrow = sheet.least_chord(max(low, x0), min(high, x1)) - 2 * (kit.edge_mm + kit.margin_mm)
    if narrow < width:
        found, wanted = figures_apart(narrow, width)
        return Reason(
            rule="width",
            found=round(narrow, 1),
            wanted=round(width, 1),
            text=f"narrows to {found}, at least {wanted}",
            source="the board's width there, its edges cleaned",
        )
    return Reason(
        rule="outline",
        text="its outline finds no place: the edges leave no room for it",
        source="what is left between the others",
    )


def figures_apart(found: float, wanted: float) -> tuple[str, str]:
    """Two figures that differ, whole where they can be told apart so."""
    whole = f"{found:.0f}", f"{wanted:.0f}"
    return whole if whole[0] != whole[1] else (f"{found:.1f}", f"{wanted:.1f}")
