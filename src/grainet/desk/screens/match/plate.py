"""The instrument's outline over a photo of its pair: taken and slid along the seam, with what it leaves at the ends and what it costs."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.present.on_plate import OnPlate, cost_of, rings_of
from grainet.work.matching import OpenedPhoto

if TYPE_CHECKING:
    from grainet.desk.screens.match.opened import OpenedPage

MOVED_MM = 0.05


class PlateOutline:
    """The outline of the pair in hand over the page's photo. ``before_mm`` is where its tail lay when the photo was opened."""

    def __init__(self, page: OpenedPage) -> None:
        self.page = page
        self.on: OnPlate | None = None
        self.before_mm = 0.0
        self.slid = False  # by hand, now or when the photo was kept
        self.back = False

    def begin(self, again: OpenedPhoto | None) -> None:
        """A new photo: nothing is slid on it yet, or what was kept of it."""
        self.on, self.slid, self.back = None, False, again.back if again is not None else False
        if again is not None and again.tail_mm is not None:
            self.slid, self.before_mm = True, again.tail_mm

    def fit(self, seam_mm: float) -> None:
        """Stand on a seam of another length; in its middle as long as nobody slid it."""
        screen = self.page.screen
        if screen.pair is None or not screen.ways:
            self.on = None
            return
        guitar = screen.state.shop.instruments.find(screen.state.design_id or "")
        new = OnPlate(*rings_of(guitar, screen.pair.part), seam_mm, 0.0, screen.shown.tail_left, self.back)
        if not self.slid:
            self.before_mm = new.centred_mm
        self.on = new.at(self.on.tail_mm if self.slid and self.on is not None else self.before_mm)

    def turn_over(self) -> None:
        """The photo shows the other side of the pair."""
        self.back = not self.back
        self.page.reckon()

    def slide(self, right_mm: float) -> None:
        """Along the seam, to the right as one sees it."""
        if self.on is None:
            return
        self.slid = True
        tail = self.on.tail_mm + (right_mm if self.on.tail_left else -right_mm)
        self.on = self.on.at(round(max(-self.on.long_mm, min(self.on.seam_mm, tail)), 2))
        self.page.place()

    @property
    def is_moved(self) -> bool:
        """Whether it lies elsewhere than it lay."""
        return self.on is not None and abs(self.on.tail_mm - self.before_mm) > MOVED_MM

    @property
    def kept_mm(self) -> float | None:
        """Where its centre line is to begin; None while nobody slid it."""
        return self.on.tail_mm if self.on is not None and self.slid else None

    # on the photo -------------------------------------------------------------------------------------------------
    def path(self, on: OnPlate) -> QPainterPath:
        """The outline on the screen."""
        page = self.page
        a, b = page.at(0), page.at(1)
        per_mm = math.hypot(b.x() - a.x(), b.y() - a.y()) / max(1.0, on.seam_mm)
        turn = math.atan2(b.y() - a.y(), b.x() - a.x())
        cos, sin = math.cos(turn) * per_mm, math.sin(turn) * per_mm
        path = QPainterPath()
        for ring in on.beside_seam():
            corners = [QPointF(a.x() + x * cos + y * sin, a.y() + x * sin - y * cos) for x, y in ring.tolist()]
            path.moveTo(corners[0])
            for corner in corners[1:]:
                path.lineTo(corner)
            path.closeSubpath()
        return path

    def holds(self, at: QPointF) -> bool:
        """Whether a place on the screen lies inside it."""
        return self.on is not None and self.path(self.on).contains(at)

    def drag(self, by: QPointF) -> None:
        """Follow the pointer along the seam."""
        if self.on is None:
            return
        a, b = self.page.at(0), self.page.at(1)
        long = math.hypot(b.x() - a.x(), b.y() - a.y()) or 1.0
        along = (by.x() * (b.x() - a.x()) + by.y() * (b.y() - a.y())) / long
        self.slide(along * self.on.seam_mm / long)

    def paint(self, p: QPainter, *, held: bool) -> None:
        """Where it lies, and pale where it lay."""
        if self.on is None:
            return
        theme, view = self.page.state.theme, self.page.view()
        p.save()
        p.setClipRect(view)
        p.setBrush(Qt.BrushStyle.NoBrush)
        if self.is_moved:
            pen = QPen(theme.slip, 1.4)
            pen.setDashPattern([5, 4])
            p.setPen(pen)
            p.setOpacity(0.7)
            p.drawPath(self.path(self.on.at(self.before_mm)))
            p.setOpacity(1.0)
        path = self.path(self.on)
        for pen in (QPen(theme.slip, 4), QPen(theme.chalk, 2.4 if held else 1.4)):
            p.setPen(pen)
            p.drawPath(path)
        p.restore()
        if self.back:
            draw.text_at(p, view.x() + 10, view.bottom() - 12, "back, mirrored", theme.slip, 17, 700)

    def paint_words(self, p: QPainter, y: float) -> None:
        """What it leaves at both ends, and how the lines meet along it, beside where it lay."""
        if self.on is None:
            return
        page = self.page
        theme = page.state.theme
        at_tail, at_end = self.on.left_mm
        one, other = (1, 2) if self.on.tail_left else (2, 1)
        short = min(at_tail, at_end) < -MOVED_MM
        x = AXIS_X + draw.text_at(p, AXIS_X, y, "Its centre line ends", theme.ink, 15, 600) + 6
        told = f"{self._from(at_tail, one)} at the tail and {self._from(at_end, other)}"
        x += draw.text_at(p, x, y, told, theme.ochre if short else theme.ink, 15, 600, figures=True) + 14
        draw.text_at(p, x, y, self.cost_words(), theme.ink2, 14, room=page.width() - RIGHT - x)
        draw.text_at(p, LEFT, y, "Outline", theme.ink, 14, 600)

    def _from(self, mm: float, mark: int) -> str:
        far = self.page.state.told(abs(mm), ".1f")
        return f"{far} from {mark}" if mm >= -MOVED_MM else f"{far} beyond {mark}"

    def cost_words(self) -> str:
        """How alike the leaves are along the outline, now and where it lay."""
        lines = self.page.told.lines
        if self.on is None or lines is None:
            return ""
        cost = cost_of(lines, self.on, self.before_mm)
        off = self.on.off_mm2 if self.is_moved else None
        told = f"{off / 100:.0f} cm² of it lie off the wood; " if off is not None and off >= 50 else ""
        if cost.now is None:
            return f"{told}no lines are seen along it"
        told += f"along it {100 * cost.now.alike:.0f} % alike, a miss of {cost.now.miss_mm:.1f}"
        if self.is_moved and cost.before is not None:
            told += f"; where it lay {100 * cost.before.alike:.0f} %, {cost.before.miss_mm:.1f}"
        return told
