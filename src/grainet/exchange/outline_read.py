"""Outlines out of DXF and SVG files: every closed loop in mm, with the layer or class that names it, and what is not closed.

Curves are flattened to within 0.02 mm. Ends that lie within 0.1 mm of one another are joined; where a wider gap is left it is said where.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from grainet.design.clip import area_mm2
from grainet.exchange.json_file import Unusable
from grainet.wood.outline import MOST_POINTS
from grainet.wood.value import Point, Ring

FLAT_MM = 0.02  # how far a chord may lie from its curve
JOINS_MM = 0.1  # ends nearer than this are one point
LEAST_AREA_MM2 = 1.0
MOST_BYTES, MOST_STROKES = 40_000_000, 20_000


@dataclass(frozen=True)
class Stroke:
    """A run of points as it stands in the file, mm, with what names it."""

    points: tuple[Point, ...]
    name: str = ""


@dataclass(frozen=True)
class Loop:
    """A closed outline, counter-clockwise, mm, with what names it."""

    ring: Ring
    name: str = ""

    @property
    def area_mm2(self) -> float:
        """Its area."""
        return abs(area_mm2(self.ring))

    @property
    def size_mm(self) -> tuple[float, float]:
        """How long and wide it is."""
        xs, ys = zip(*self.ring)
        return max(xs) - min(xs), max(ys) - min(ys)


@dataclass(frozen=True)
class Gap:
    """Two ends that do not meet: where, and how far they are apart, mm."""

    at: Point
    wide_mm: float

    @property
    def text(self) -> str:
        """In words."""
        return f"open by {self.wide_mm:.2f} near {self.at[0]:.1f}, {self.at[1]:.1f}"


@dataclass(frozen=True)
class Drawing:
    """What a file holds: its loops, largest first, what is open, and how its units were read."""

    loops: tuple[Loop, ...]
    gaps: tuple[Gap, ...]
    units: str
    centre: tuple[Point, Point] | None = None  # a straight line on a layer or of a class that is called centre line


def read_outlines(path: Path) -> Drawing:
    """Every outline of a DXF or SVG file. Raises Unusable with a sentence."""
    try:
        if path.stat().st_size > MOST_BYTES:
            raise Unusable([f"{path.name}: {path.stat().st_size / 1e6:.0f} MB, at most {MOST_BYTES / 1e6:.0f}"])
    except OSError as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault.strerror or fault}"]) from None
    readers: dict[str, Callable[[Path], tuple[Iterator[Stroke], str]]] = {".dxf": _dxf, ".svg": _svg}
    reader = readers.get(path.suffix.lower())
    if reader is None:
        raise Unusable([f"{path.name}: is neither DXF nor SVG; an outline needs one of them"])
    strokes, units = reader(path)
    kept: list[Stroke] = []
    for stroke in strokes:
        if len(stroke.points) > 1:
            kept.append(stroke)
        if len(kept) > MOST_STROKES:
            raise Unusable([f"{path.name}: more than {MOST_STROKES} lines; save the outline alone"])
    centres = [one for one in kept if "cent" in one.name.lower() and len(one.points) == 2]
    loops, gaps = joined(one for one in kept if one not in centres)
    if not loops:
        where = f": {'; '.join(g.text for g in gaps[:4])}" if gaps else ": it holds no lines that are understood"
        raise Unusable([f"{path.name}: holds no closed outline{where}"])
    centre = (centres[0].points[0], centres[0].points[1]) if centres else None
    return Drawing(tuple(sorted(loops, key=lambda one: -one.area_mm2)), tuple(gaps), units, centre)


# joining ----------------------------------------------------------------------------------------------------------------
def joined(strokes: Iterable[Stroke]) -> tuple[list[Loop], list[Gap]]:
    """Loops out of strokes that meet end to end, each name for itself, and the gaps of what does not close."""
    loops: list[Loop] = []
    gaps: list[Gap] = []
    by_name: dict[str, list[list[Point]]] = {}
    for stroke in strokes:
        by_name.setdefault(stroke.name, []).append(list(stroke.points))
    for name, runs in by_name.items():
        for run in _chained(runs):
            apart = math.dist(run[0], run[-1])
            if len(run) > 3 and apart <= JOINS_MM:
                ring = _tidy(run[:-1])
                if len(ring) >= 3 and abs(area_mm2(ring)) >= LEAST_AREA_MM2:
                    loops.append(Loop(ring if area_mm2(ring) > 0 else tuple(reversed(ring)), name))
            else:
                gaps.append(Gap((round((run[0][0] + run[-1][0]) / 2, 2), round((run[0][1] + run[-1][1]) / 2, 2)), apart))
    return loops, gaps


def _chained(runs: list[list[Point]]) -> list[list[Point]]:
    """Runs joined where their ends meet, nearest ends first; closed ones are left alone."""
    done = [r for r in runs if len(r) > 3 and math.dist(r[0], r[-1]) <= JOINS_MM]
    left = [r for r in runs if not (len(r) > 3 and math.dist(r[0], r[-1]) <= JOINS_MM)]
    while left:
        run = left.pop(0)
        while math.dist(run[0], run[-1]) > JOINS_MM or len(run) < 4:
            k, turned = _next(run[-1], left)
            if k is None:
                k, turned = _next(run[0], left)
                if k is None:
                    break
                run.reverse()
            more = left.pop(k)
            run += (more[::-1] if turned else more)[1:]
        done.append(run)
    return done


def _next(end: Point, runs: list[list[Point]]) -> tuple[int | None, bool]:
    """The run that begins (or, turned, ends) nearest to an end, within reach."""
    best: tuple[float, int | None, bool] = (JOINS_MM, None, False)
    for k, run in enumerate(runs):
        for turned, p in ((False, run[0]), (True, run[-1])):
            apart = math.dist(end, p)
            if apart <= best[0]:
                best = (apart, k, turned)
    return best[1], best[2]


def _tidy(points: list[Point]) -> Ring:
    """Points without those that add nothing, rounded to a thousandth; thinned where there are too many."""
    kept: list[Point] = []
    for x, y in points:
        p = (round(x, 3), round(y, 3))
        if not kept or math.dist(p, kept[-1]) > 1e-3:
            kept.append(p)
    while len(kept) > 1 and math.dist(kept[0], kept[-1]) <= 1e-3:
        kept.pop()
    if len(kept) > MOST_POINTS:
        from shapely.geometry import Polygon

        tolerance = FLAT_MM / 2
        while len(kept) > MOST_POINTS and tolerance < 1:
            kept = [(float(x), float(y)) for x, y in Polygon(kept).simplify(tolerance).exterior.coords[:-1]]
            tolerance *= 2
    return tuple(kept)


# DXF --------------------------------------------------------------------------------------------------------------------
def _dxf(path: Path) -> tuple[Iterator[Stroke], str]:
    from ezdxf import recover, units
    from ezdxf.enums import InsertUnits
    from ezdxf.lldxf.const import DXFError

    try:
        document, auditor = recover.readfile(path)
    except OSError as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault.strerror or fault}"]) from None
    except (
        DXFError,
        ValueError,
        IndexError,
        KeyError,
        AttributeError,
        TypeError,
    ) as fault:  # what a damaged file makes of the reader
        raise Unusable([f"{path.name}: is no DXF that can be read: {str(fault)[:120] or type(fault).__name__}"]) from None
    if auditor.has_errors and not len(document.modelspace()):
        raise Unusable([f"{path.name}: is damaged: {auditor.errors[0].message[:120]}"])
    code = document.units
    if code:
        factor, said = units.conversion_factor(InsertUnits(code), InsertUnits(units.MM)), units.decode(code)
    elif document.header.get("$MEASUREMENT", 1) == 0:
        factor, said = 25.4, "inches (no unit in the file, but it measures in inches)"
    else:
        factor, said = 1.0, "mm (no unit in the file)"
    return _dxf_strokes(document.modelspace(), float(factor)), str(said)


def _dxf_strokes(layout: Any, factor: float, depth: int = 0) -> Iterator[Stroke]:
    from ezdxf import path as paths

    for entity in layout:
        kind = entity.dxftype()
        if kind == "INSERT":
            if depth < 12:
                yield from _dxf_strokes(entity.virtual_entities(), factor, depth + 1)
            continue
        try:
            made = paths.make_path(entity)
        except TypeError:  # words, hatches, measures: nothing that is cut
            continue
        for one in made.sub_paths() if made.has_sub_paths else [made]:
            points = [(p.x * factor, p.y * factor) for p in one.flattening(FLAT_MM / max(factor, 1e-9), segments=8)]
            if all(math.isfinite(v) for p in points for v in p):
                yield Stroke(tuple(points), str(entity.dxf.layer))


# SVG --------------------------------------------------------------------------------------------------------------------
PX_MM = 25.4 / 96  # the pixel of the standard


def _svg(path: Path) -> tuple[Iterator[Stroke], str]:
    from xml.etree import ElementTree

    import svgelements as svg

    try:
        text = path.read_text("utf-8")
        if "<!ENTITY" in text or ("<!DOCTYPE" in text and "[" in text.split("<!DOCTYPE", 1)[1].split(">", 1)[0]):
            raise Unusable([f"{path.name}: declares entities; save it as plain SVG"])
        root = ElementTree.fromstring(text)
        if not root.tag.endswith("svg"):
            raise Unusable([f"{path.name}: is no SVG; it begins with {root.tag[:40]}"])
        drawing = svg.SVG.parse(str(path), reify=True, ppi=96)
    except (OSError, UnicodeDecodeError) as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault}"]) from None
    except ElementTree.ParseError as fault:
        raise Unusable(
            [
                f"{path.name}: line {fault.position[0]}: is no SVG that can be read: {fault.msg if hasattr(fault, 'msg') else fault}"
            ]
        ) from None
    except (ValueError, TypeError, AttributeError, IndexError, ZeroDivisionError, RecursionError) as fault:
        raise Unusable([f"{path.name}: is no SVG that can be read: {str(fault)[:120]}"]) from None
    sized = any(c.isalpha() or c == "%" for c in (root.get("width") or ""))
    plain = not sized and not root.get("width")
    factor, said = (1.0, "mm (no size in the file: a unit of it is a millimetre)") if plain else (PX_MM, "as its page says")
    box = (root.get("viewBox") or "").replace(",", " ").split()
    if plain and len(box) == 4:
        drawing = svg.SVG.parse(str(path), reify=True, ppi=96, width=box[2], height=box[3])
    return _svg_strokes(drawing, factor), said


def _svg_strokes(drawing: Any, factor: float) -> Iterator[Stroke]:
    import svgelements as svg

    for element in drawing.elements():
        if (
            not isinstance(element, svg.Shape)
            or element.values.get("visibility") == "hidden"
            or element.values.get("display") == "none"
        ):
            continue
        name = str(element.values.get("class") or element.values.get("data-zone") or element.id or "")
        for part in svg.Path(element).as_subpaths():
            points: list[Point] = []
            for segment in svg.Path(part):
                points += _segment_points(segment, factor, begun=bool(points))
            if points and all(math.isfinite(v) for p in points for v in p):
                yield Stroke(tuple(points), name)


def _segment_points(segment: Any, factor: float, *, begun: bool) -> list[Point]:
    """The points of a segment, mm, y up; the first one only where nothing came before."""
    import svgelements as svg

    if isinstance(segment, svg.Move) or segment.start is None or segment.end is None:
        return []

    def at(t: float) -> Point:
        p = segment.point(t)
        return (float(p.x) * factor, -float(p.y) * factor)

    if isinstance(segment, svg.Line | svg.Close):
        ts = [0.0, 1.0]
    else:
        ts = _flattened(at)
    points = [at(t) for t in ts]
    return points[1:] if begun else points


def _flattened(at: Callable[[float], Point]) -> list[float]:
    """Parameters of a curve whose chords stay within the tolerance: cut in halves as often as that takes."""
    done: list[float] = [0.0]
    todo = [(k / 8, (k + 1) / 8, 0) for k in reversed(range(8))]
    while todo:
        a, b, depth = todo.pop()
        p, q, m = at(a), at(b), at((a + b) / 2)
        off = math.dist(m, ((p[0] + q[0]) / 2, (p[1] + q[1]) / 2))
        if off <= FLAT_MM / 2 or depth > 10:
            done.append(b)
        else:
            mid = (a + b) / 2
            todo += [(mid, b, depth + 1), (a, mid, depth + 1)]
    return done
