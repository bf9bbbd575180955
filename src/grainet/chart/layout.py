"""A chart laid out on a page: lines, fills and words in px from the top left, the same for screen, SVG and PDF."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from grainet.chart.figure import Band, Block, Chart, Dots, Ink, Line, Note, Points, Post
from grainet.wrapping import wrap

Measure = Callable[[str, float], float]  # words and px to their width in px
TITLE, WORDS, FIGURES = 20.0, 14.0, 14.0
TOP, BOTTOM, RIGHT = 84.0, 62.0, 26.0
SECOND_LINE = 18.0  # the sentence may take two lines; the chart then begins so much lower


@dataclass(frozen=True)
class Stroke:
    """A line through points in px."""

    points: Points
    ink: Ink
    width: float = 1.0
    dashed: bool = False
    closed: bool = False


@dataclass(frozen=True)
class Fill:
    """A filled shape in px; ``alpha`` 0..1."""

    points: Points
    ink: Ink
    alpha: float = 1.0


@dataclass(frozen=True)
class Words:
    """Words with their baseline at y."""

    x: float
    y: float
    text: str
    ink: Ink
    px: float = WORDS
    bold: bool = False
    figures: bool = False
    align: Literal["left", "middle", "right"] = "left"


Primitive = Stroke | Fill | Words


def laid_out(chart: Chart, width: float, height: float, measure: Measure) -> list[Primitive]:
    """Everything to draw, in order, on a page of ``width`` x ``height`` px."""
    return list(_Page(chart, width, height, measure).draw())


class _Page:
    def __init__(self, chart: Chart, width: float, height: float, measure: Measure) -> None:
        self.chart, self.width, self.height, self.measure = chart, width, height, measure
        names = [t.text for t in chart.y.ticks]
        widest = max((measure(n, WORDS if chart.y.rows else FIGURES) for n in names), default=0.0)
        self.left = min(0.34 * width, max(54.0, widest + 24.0))
        self.message = _wrapped(chart.message, width - 40, measure, 15)
        self.top = TOP + SECOND_LINE * (len(self.message) - 1)
        self.box = (self.left, self.top, width - RIGHT, height - BOTTOM)

    def x(self, value: float) -> float:
        low, high = self.chart.x.low, self.chart.x.high
        return self.left + (self.box[2] - self.left) * (value - low) / ((high - low) or 1)

    def y(self, value: float) -> float:
        low, high = self.chart.y.low, self.chart.y.high
        return self.box[3] - (self.box[3] - self.box[1]) * (value - low) / ((high - low) or 1)

    def draw(self) -> Iterator[Primitive]:
        chart = self.chart
        yield Words(20, 30, chart.title, "ink", TITLE, bold=True)
        for k, line in enumerate(self.message):
            yield Words(20, 53 + SECOND_LINE * k, line, "ink", 15)
        if not chart.marks:
            return
        yield from self._grid()
        for kind in (Band, Block, Line, Post, Dots, Note):
            for mark in chart.marks:
                if isinstance(mark, kind):
                    yield from self._mark(mark)
        yield from self._keys()
        if chart.source:
            yield Words(20, self.height - 8, _fitted(chart.source, self.width - 40, self.measure, 13), "ink2", 13)

    def _grid(self) -> Iterator[Primitive]:
        x0, y0, x1, y1 = self.box
        for tick in self.chart.y.ticks:
            y = self.y(tick.at)
            if self.chart.y.rows:
                yield Words(
                    self.left - 12,
                    y + 5,
                    _fitted_name(tick.text, self.left - 28, self.measure, WORDS),
                    "ink",
                    WORDS,
                    align="right",
                )
                yield Stroke(
                    ((x0, y + (y1 - y0) / max(1, self.chart.y.high) / 2),) * 1
                    + ((x1, y + (y1 - y0) / max(1, self.chart.y.high) / 2),),
                    "hair",
                    0.8,
                )
            else:
                yield Stroke(((x0, y), (x1, y)), "hair", 0.8)
                yield Words(self.left - 8, y + 5, tick.text, "ink2", FIGURES, figures=True, align="right")
        last = -1e9
        for tick in self.chart.x.ticks:
            x, half = self.x(tick.at), self.measure(tick.text, FIGURES) / 2
            yield Stroke(((x, y1), (x, y1 + 5)), "edge", 1)
            if x - half > last + 6 and x + half < self.width:
                yield Words(x, y1 + 20, tick.text, "ink2", FIGURES, figures=True, align="middle")
                last = x + half
        yield Stroke(((x0, y1), (x1, y1)), "edge", 1.2)
        if self.chart.x.label:
            yield Words(x1, y1 + 38, self.chart.x.label, "ink2", WORDS, align="right")
        if self.chart.y.label:
            yield Words(20, y0 - 10, self.chart.y.label, "ink2", WORDS)

    def _px(self, points: Points) -> Points:
        return tuple((self.x(x), self.y(y)) for x, y in points)

    def _mark(self, mark: Band | Block | Line | Post | Dots | Note) -> Iterator[Primitive]:
        if isinstance(mark, Band):
            yield Fill((*self._px(mark.upper), *reversed(self._px(mark.lower))), mark.ink, 0.55)
        elif isinstance(mark, Line):
            yield Stroke(self._px(mark.points), mark.ink, mark.width, mark.dashed)
        elif isinstance(mark, Dots):
            for k, (x, y) in enumerate(self._px(mark.points)):
                yield from _dot(x, y, mark)
                if k < len(mark.labels) and mark.labels[k]:
                    yield Words(x + 8, y - 7, mark.labels[k], mark.ink, 13, figures=True)
        elif isinstance(mark, Block):
            yield from self._block(mark)
        elif isinstance(mark, Post):
            x = self.x(mark.x)
            if self.left - 1 <= x <= self.box[2] + 1:
                yield Stroke(((x, self.box[1]), (x, self.box[3])), mark.ink, 1.4, mark.dashed)
                wide = self.measure(mark.text, 13)
                at_right = x + wide + 10 > self.width
                yield Words(
                    x - 5 if at_right else x + 5,
                    self.box[1] + 12,
                    mark.text,
                    mark.ink,
                    13,
                    bold=True,
                    align="right" if at_right else "left",
                )
        else:
            yield Words(self.x(mark.x), self.y(mark.y), mark.text, mark.ink, 13, align=mark.align)

    def _block(self, block: Block) -> Iterator[Primitive]:
        x0, y0, x1, y1 = self.x(block.x0), self.y(block.y0), self.x(block.x1), self.y(block.y1)
        outline = ((x0, y0), (x1, y0), (x1, y1), (x0, y1))
        top = y0 + (y1 - y0) * block.share
        if block.share > 0:
            yield Fill(((x0, y0), (x1, y0), (x1, top), (x0, top)), block.fill)
        yield Stroke(outline, block.rim, 1.2, block.dashed, closed=True)
        if block.label:
            if abs(x1 - x0) > self.measure(block.label, 13) + 6 and abs(y1 - y0) >= 15 and not 0 < block.share < 1:
                yield Words((x0 + x1) / 2, (y0 + y1) / 2 + 5, block.label, "ink", 13, figures=True, align="middle")
            else:
                yield Words(x1 + 4, (y0 + y1) / 2 + 5, block.label, "ink", 13, figures=True)

    def _keys(self) -> Iterator[Primitive]:
        """The key line, above the chart at the right, as many names as there is room for."""
        x, y = self.box[2], self.top - 14
        for mark in reversed(self.chart.legend):
            wide = self.measure(mark.name, 13)
            if x - wide - 34 < self.left + self.measure(self.chart.y.label, WORDS):
                break
            x -= wide
            yield Words(x, y, mark.name, "ink2", 13)
            x -= 28
            if isinstance(mark, Band):
                yield Fill(((x, y - 10), (x + 22, y - 10), (x + 22, y + 1), (x, y + 1)), mark.ink, 0.55)
            elif isinstance(mark, Line):
                yield Stroke(((x, y - 5), (x + 22, y - 5)), mark.ink, mark.width, mark.dashed)
            else:
                yield from _dot(x + 14, y - 5, mark)
            x -= 16


def _dot(x: float, y: float, mark: Dots) -> Iterator[Primitive]:
    r = 4.5
    shapes = {
        "diamond": ((x, y - r - 1), (x + r + 1, y), (x, y + r + 1), (x - r - 1, y)),
        "square": ((x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)),
        "tick": ((x - 1.5, y - 11), (x + 1.5, y - 11), (x + 1.5, y + 11), (x - 1.5, y + 11)),
        "round": tuple((x + r * c, y + r * s) for c, s in _CIRCLE),
    }
    shape = shapes[mark.shape]
    yield Fill(shape, mark.ink)
    yield Stroke(shape, "slip", 1.2, closed=True)


_CIRCLE = (
    (1.0, 0.0), (0.866, 0.5), (0.5, 0.866), (0.0, 1.0), (-0.5, 0.866), (-0.866, 0.5), (-1.0, 0.0), (-0.866, -0.5), (-0.5, -0.866), (0.0, -1.0),
    (0.5, -0.866), (0.866, -0.5),
)  # fmt: skip


def _wrapped(text: str, room: float, measure: Measure, px: float) -> list[str]:
    """Words on one line or two; whole words that find no room are left out."""
    first, *rest = wrap(text, room, lambda words: measure(words, px)) or [""]
    return [_fitted(line, room, measure, px) for line in (first, " ".join(rest)) if line]


def _fitted(text: str, room: float, measure: Measure, px: float) -> str:
    """Words short enough for a width: whole words go from the end, and nothing is cut with dots."""
    while " " in text and measure(text, px) > room:
        text = text.rpartition(" ")[0].rstrip(" ,;:")
    return text


def _fitted_name(text: str, room: float, measure: Measure, px: float) -> str:
    """A row's name and figure short enough for a width: what tells them apart comes last, so words go from the front."""
    while " " in text and measure(text, px) > room:
        text = text.partition(" ")[2]
    return text
