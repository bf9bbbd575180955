"""What is drawn of one board that is to be sawn: its outline and datum, defects, parts, every cut with its figures; lines and words in mm,
the same for paper, SVG and DXF. Words find room of their own, so no figure prints over another."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from shapely.geometry import LineString

from grainet.design.shape import as_array
from grainet.exchange.pdf_fonts import register_fonts
from grainet.exchange.tiles import MM
from grainet.fit.tear_out import stretches
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.wood.piece import Piece
from grainet.wood.planing import planing_direction
from grainet.wood.units import LengthStyle, format_mark
from grainet.wood.value import Ring
from grainet.work.steps import Step, steps_for

LAYERS = ("board", "datum", "defect", "part", "tears", "cut", "planing")
LARGE, SMALL = 5.6, 2.9  # of letters, mm
AIR = 0.6  # round words
ROUND = 24  # places that words try on each ring farther out


@dataclass(frozen=True)
class Stroke:
    """A line, or a ring where it is closed."""

    points: Ring
    layer: str
    closed: bool = False


@dataclass(frozen=True)
class Words:
    """Words from their lower left corner; ``high`` is the size of their letters."""

    text: str
    x: float
    y: float
    high: float
    layer: str

    @property
    def bold(self) -> bool:
        """Whether they are a part's name."""
        return self.layer == "part"

    @property
    def box(self) -> tuple[float, float, float, float]:
        """The room that they take: x0, y0, x1, y1."""
        return self.x, self.y - 0.25 * self.high, self.x + wide_of(self.text, self.high, bold=self.bold), self.y + 0.8 * self.high


@dataclass(frozen=True)
class CutDrawing:
    """Everything, with the room that it takes: its lower left and upper right corner."""

    title: str
    low: tuple[float, float]
    high: tuple[float, float]
    strokes: tuple[Stroke, ...]
    words: tuple[Words, ...]

    @property
    def size_mm(self) -> tuple[float, float]:
        """How wide and how high."""
        return self.high[0] - self.low[0], self.high[1] - self.low[1]


def wide_of(text: str, high: float, *, bold: bool = False) -> float:
    """How wide some words print, mm."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    register_fonts()
    return float(stringWidth(text, "Words-Bold" if bold else "Words", high * MM)) / MM


def drawing_of(job: Job, plan: Plan, piece: Piece, style: LengthStyle = "mm", title: str = "") -> CutDrawing:
    """A board's drawing, face 1 toward you, its marked end at the left."""
    steps = shown_steps(job, plan, piece, style)
    strokes = (*_board(piece), *_parts(plan, piece), *_cuts(steps))
    words = tuple(_with_room([*_names(job, plan, piece), *_figures(steps, style), *_notes(piece)]))
    boxes = [w.box for w in words]
    xs = [x for s in strokes for x, _ in s.points] + [x for b in boxes for x in (b[0], b[2])]
    ys = [y for s in strokes for _, y in s.points] + [y for b in boxes for y in (b[1], b[3])]
    return CutDrawing(
        f"{title}: No. {piece.id}, face 1".removeprefix(": "),
        (min(xs) - 2, min(ys) - 2),
        (max(xs) + 2, max(ys) + 2),
        strokes,
        words,
    )


# lines -----------------------------------------------------------------------------------------------------------------
def _board(piece: Piece) -> Iterator[Stroke]:
    x0, y0, _, y1 = piece.extents
    yield Stroke(piece.outline, "board", closed=True)
    yield Stroke(((x0, y0), (x0, y1)), "datum")
    for defect in piece.defects:
        yield Stroke(defect.polygon, "defect", closed=True)
    way = planing_direction(piece)
    for k in range(3) if way else ():  # chevrons at the marked end
        s = 1 if way == "far" or (way == "both_ways_tear" and k == 2) else -1
        tip, y = x0 + 8 + k * 3 + (3 if s > 0 else 0), y0 + 8
        yield Stroke(((tip - s * 3, y + 2.5), (tip, y), (tip - s * 3, y - 2.5)), "planing")


def _parts(plan: Plan, piece: Piece) -> Iterator[Stroke]:
    for one in _placed(plan, piece):
        yield Stroke(one.polygon, "part", closed=True)
        for stretch in stretches(as_array(one.polygon), piece.grain_slope_deg or 0.0, turned_over=one.face_up == "2"):
            if stretch.kind == "tears":
                yield Stroke(tuple((float(x), float(y)) for x, y in stretch.points), "tears")


def _cuts(steps: Sequence[Step]) -> Iterator[Stroke]:
    for step in steps:
        for line in _on_the_wood(step):
            yield Stroke(line, "cut")


def _on_the_wood(step: Step) -> list[Ring]:
    """A cut's line as far as it runs through the wood in hand then: what is cut out before is not cut again."""
    line = LineString(step.cut.line).intersection(step.worked_on.hand.polygon.buffer(1e-6))
    lines = [one for one in getattr(line, "geoms", (line,)) if one.geom_type == "LineString" and one.length > 0.1]
    return [tuple((float(x), float(y)) for x, y in one.coords) for one in lines] or [tuple(step.cut.line)]


def _placed(plan: Plan, piece: Piece) -> list[Placement]:
    return [p for p in plan.placements if p.piece == piece.id and p.leaf == 1]


def shown_steps(job: Job, plan: Plan, piece: Piece, style: LengthStyle = "mm") -> list[Step]:
    """A board's steps that show on its face, numbered as its list has them: all but resaws."""
    return [s for s in steps_for(job, plan, piece, style) if s.cut.tool != "resaw"]


# words -----------------------------------------------------------------------------------------------------------------
def _names(job: Job, plan: Plan, piece: Piece) -> Iterator[Words]:
    parts = {p.id: p for p in job.parts}
    for one in _placed(plan, piece):
        part = parts[one.part]
        leaves = f", {part.leaves} leaves" if part.leaves > 1 else ""
        over = ", face 2 up" if one.face_up == "2" else ""
        text = f"{part.letter or part.id} {part.shown_name}{leaves}{over}"
        xs, ys = zip(*one.polygon)
        middle = sum(xs) / len(xs) - wide_of(text, LARGE, bold=True) / 2
        yield Words(text, middle, sum(ys) / len(ys), LARGE, "part")


def _figures(steps: Sequence[Step], style: LengthStyle) -> Iterator[Words]:
    for step in steps:
        cut = step.cut
        figures = " | ".join(format_mark(m.mm, style) for m in sorted(cut.marks, key=lambda m: m.mm))
        told = f", {figures} from {cut.marks[0].from_}" if cut.marks else ""
        x, y = _on_the_wood(step)[0][0]
        yield Words(f"{step.n} {cut.tool}{told}", x + 1, y + 1, SMALL, "cut")


def _notes(piece: Piece) -> Iterator[Words]:
    for defect in piece.defects:
        x, y = max(x for x, _ in defect.polygon) + 1, min(y for _, y in defect.polygon)
        yield Words(defect.id, x, y, SMALL, "defect")
    if way := planing_direction(piece):
        told = "tears both ways" if way == "both_ways_tear" else "planes clean this way"
        yield Words(told, piece.extents[0] + 24, piece.extents[1] + 7, SMALL, "planing")


def _with_room(words: Iterable[Words]) -> Iterator[Words]:
    """The same words, each moved as little as it takes to print over no other."""
    taken: list[tuple[float, float, float, float]] = []
    for one in words:
        free = next(w for w in _nearby(one) if not any(_meet(w.box, b) for b in taken))
        taken.append(free.box)
        yield free


def _nearby(one: Words) -> Iterator[Words]:
    """Words where they are wanted, then round there farther and farther out."""
    yield one
    far = 0.0
    while True:
        far += one.high
        for k in range(ROUND):
            angle = 2 * math.pi * k / ROUND
            yield Words(one.text, one.x + far * math.cos(angle), one.y + far * math.sin(angle), one.high, one.layer)


def _meet(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> bool:
    return a[0] - AIR < b[2] and b[0] - AIR < a[2] and a[1] - AIR < b[3] and b[1] - AIR < a[3]
