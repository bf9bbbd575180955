"""The tree of wood: every stock part a strand along time, each joint a pair of jaws where strands come together, strokes that shrink while it
cures, a post where it may be planed. What is past is bright, what is to come is half pale."""

from __future__ import annotations

from datetime import datetime, timedelta
from itertools import pairwise
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT, Theme
from grainet.desk.screens.glue.time_axis import TimeAxis
from grainet.desk.services.pictures import plain_colour
from grainet.kit.shop_profile import FREE_DAYS
from grainet.present.glue_view import GlueTree, JointView, Strand
from grainet.session.making import called, letter_of
from grainet.wood.species import short_name

if TYPE_CHECKING:
    from grainet.desk.screens.glue.screen import Glue

NAMES_W, AXIS_H, MEANWHILE_H = 158, 34, 56
MOST_ROW, STRAND = 40.0, 13.0
BEND = 34.0  # px in which strands come together
JAWS_W, STROKES = 26, 14
NOW_W = 92.0  # of the words at this instant


class JointButton(QAbstractButton):
    """One joint on the tree; pressed it is the joint in hand."""

    def __init__(self, tree: TreeOfWood, joint: JointView) -> None:
        super().__init__(tree)
        self.tree, self.joint = tree, joint
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: tree.screen.choose(self.joint.id))

    def set(self, joint: JointView) -> None:
        """Show a joint."""
        self.joint = joint
        self.setObjectName(f"joint.{letter_of(joint.gives)}")
        state = "in clamps" if joint.done and not joint.off_done else "glued" if joint.done else f"on {joint.at:%a %d %b, %H:%M}"
        words = f"{joint.label[:1].upper()}{joint.label[1:]}: {', '.join(called(m) for m in joint.members)}, {state}"
        self.setAccessibleName(words)
        self.setToolTip(words)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, joint = self.tree.screen.state.theme, self.joint
        chosen = self.tree.screen.chosen == joint.id
        colour = theme.chalk if chosen else theme.ink if joint.done and not joint.off_done else theme.ink2
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        x, high = self.width() / 2, self.height()
        for top, head in ((0.0, 1), (high - 14.0, -1)):  # two heads, each a screw and its foot
            p.drawRect(QRectF(x - 2, top if head > 0 else top + 6, 4, 8))
            p.drawRect(QRectF(x - 6, top + 7 if head > 0 else top, 12, 7))
        p.setPen(QPen(colour, 1.4, Qt.PenStyle.SolidLine if joint.done else Qt.PenStyle.DashLine))
        p.drawLine(QPointF(x, 14), QPointF(x, high - 14))
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))


class TreeOfWood(QWidget):
    """The upper half of Glue."""

    def __init__(self, screen: Glue) -> None:
        super().__init__(screen)
        self.screen = screen
        self.setObjectName("glue.tree")
        self.tree: GlueTree | None = None
        self.buttons: dict[str, JointButton] = {}

    # where things lie -----------------------------------------------------------------------------------------------
    @property
    def axis(self) -> TimeAxis:
        """Time across the widget."""
        tree = self.tree
        now = self.screen.now
        begins, ends = (tree.begins, tree.ends) if tree is not None else (now, now + timedelta(days=1))
        return TimeAxis(begins, ends, LEFT + NAMES_W, self.width() - RIGHT - 92)

    def _row(self) -> float:
        count = len(self.tree.strands) if self.tree is not None else 1
        return min(MOST_ROW, (self.height() - AXIS_H - MEANWHILE_H - 24) / max(1, count))

    def home_y(self, k: int) -> float:
        """The height of a strand before its first joint."""
        return AXIS_H + 22 + self._row() * (k + 0.4)

    def strand_high(self) -> float:
        """How thick a strand is drawn."""
        return min(STRAND, self._row() * 0.62)

    def _group(self, joint: JointView) -> list[int]:
        """The strands that a joint brings together, by number."""
        assert self.tree is not None
        return [k for k, s in enumerate(self.tree.strands) if joint.id in s.joints]

    def group_y(self, joint: JointView) -> float:
        """The middle height of a joint's strands."""
        some = self._group(joint)
        return sum(map(self.home_y, some)) / max(1, len(some))

    def strand_y(self, k: int, joint: JointView) -> float:
        """The height of a strand once a joint has brought it in."""
        some = self._group(joint)
        return self.group_y(joint) + (some.index(k) - (len(some) - 1) / 2) * self.strand_high()

    # shown ------------------------------------------------------------------------------------------------------------
    def show_tree(self, tree: GlueTree | None) -> None:
        """Show a tree."""
        self.tree = tree
        joints = tree.joints if tree is not None else ()
        for gone in set(self.buttons) - {j.id for j in joints}:
            self.buttons.pop(gone).deleteLater()
        axis, high = self.axis, self.strand_high()
        for joint in joints:
            button = self.buttons.get(joint.id)
            if button is None:
                button = self.buttons[joint.id] = JointButton(self, joint)
                button.show()
            tall = int(len(self._group(joint)) * high) + 34
            button.setGeometry(int(axis.x(joint.at) - JAWS_W / 2), int(self.group_y(joint) - tall / 2), JAWS_W, tall)
            button.set(joint)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, tree = self.screen.state.theme, self.tree
        if tree is None:
            return
        axis = self.axis
        self._days(p, theme, axis)
        for k, strand in enumerate(tree.strands):
            self._strand(p, theme, axis, k, strand)
        for joint in tree.joints:
            self._cure(p, theme, axis, joint)
        for joint in tree.joints:
            self._when(p, theme, axis, joint)
        self._names(p, theme, tree)
        self._meanwhile(p, theme, axis, tree)
        self._now(p, theme, axis)
        end = max((self.group_y(j) for j in tree.joints if len(self._group(j)) == len(tree.strands)), default=self.home_y(0))
        draw.text_at(p, self.width() - RIGHT - 84, end + 5, tree.name, theme.ink, 15, 700, room=92)
        if tree.joints:
            done = max(j.off for j in tree.joints)
            draw.text_at(p, self.width() - RIGHT - 84, end + 23, f"{done:%a %d %b}", theme.ink2, 13, room=92)

    def _days(self, p: QPainter, theme: Theme, axis: TimeAxis) -> None:
        p.setPen(QPen(theme.edge, 1))
        p.drawLine(QPointF(axis.left, AXIS_H), QPointF(axis.right, AXIS_H))
        last = -1e9
        each = (axis.right - axis.left) / max(1.0, (axis.ends - axis.begins).total_seconds() / 86400)
        now = axis.x(self.screen.now)
        for x, day in axis.days():
            if day.weekday() in FREE_DAYS[self.screen.state.shop.kit.free_days]:
                wash = QColor(theme.ground)
                p.fillRect(QRectF(x, AXIS_H, min(each, axis.right - x), self.height() - AXIS_H), wash)
            p.setPen(QPen(theme.edge, 1))
            p.drawLine(QPointF(x, AXIS_H - 8), QPointF(x, AXIS_H))
            words = f"{day:%a} {day.day}" if each < 120 else f"{day:%a} {day.day} {day:%b}"
            wide = draw.text_width(words, 14, 500, figures=True)
            under_now = x + 4 < now + NOW_W / 2 and now - NOW_W / 2 < x + 4 + wide
            if x - last > wide + 14 and x < axis.right - 30 and not under_now:
                draw.text_at(p, x + 4, AXIS_H - 12, words, theme.ink, 14, 500, figures=True)
                last = x

    def _strand(self, p: QPainter, theme: Theme, axis: TimeAxis, k: int, strand: Strand) -> None:
        """One part's wood from the left to where the instrument is whole."""
        tree = self.tree
        assert tree is not None
        high, y = self.strand_high(), self.home_y(k)
        x = axis.left
        spots: list[tuple[float, float]] = [(x, y)]
        for name in strand.joints:
            joint = tree.joint(name)
            if joint is None:
                continue
            to, new = axis.x(joint.at), self.strand_y(k, joint)
            spots += [(max(spots[-1][0], to - BEND), y), (to, new)]
            y = new
        spots.append((axis.right, y))
        path = QPainterPath(QPointF(spots[0][0], spots[0][1] - high / 2))
        _along(path, spots, -high / 2)
        path.lineTo(QPointF(spots[-1][0], spots[-1][1] + high / 2))
        _along(path, spots[::-1], high / 2)
        path.closeSubpath()
        wood = plain_colour(strand.species) if strand.species else theme.edge
        now = axis.x(self.screen.now)
        for left, right, share in ((axis.left - 2, now, 255), (now, axis.right + 2, 120)):
            p.save()
            p.setClipRect(QRectF(left, 0, max(0.0, right - left), self.height()))
            tone = QColor(wood)
            tone.setAlpha(share)
            p.fillPath(path, QBrush(tone))
            p.setPen(QPen(theme.ink if share == 255 else theme.ink2, 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(path)
            p.restore()

    def _cure(self, p: QPainter, theme: Theme, axis: TimeAxis, joint: JointView) -> None:
        """Strokes that shrink to where it may be planed, and a post there."""
        y = self.group_y(joint) + len(self._group(joint)) * self.strand_high() / 2 + 9
        x0, x1 = axis.x(joint.at) + 8, axis.x(joint.flush)
        for k in range(STROKES):
            x = x0 + (x1 - x0) * k / STROKES
            if x > axis.right:
                break
            tall = 10 * (1 - k / STROKES) + 2
            p.setPen(QPen(theme.ochre if joint.done or joint.id == self.screen.chosen else theme.edge, 2))
            p.drawLine(QPointF(x, y - tall / 2), QPointF(x, y + tall / 2))
        if x1 < axis.right and joint.operation.gives[0] in self.screen.planed_after:
            p.setPen(QPen(theme.ink if joint.done else theme.ink2, 1.6))
            p.drawLine(QPointF(x1, y - 30), QPointF(x1, y + 8))

    def _when(self, p: QPainter, theme: Theme, axis: TimeAxis, joint: JointView) -> None:
        """The instant of the joint in hand, and of clamps that are on, clear of the other joints' clamps."""
        chosen = joint.id == self.screen.chosen
        if not chosen and (joint.off_done or not joint.done):
            return
        words = f"{joint.at:%a %H:%M}"
        if joint.done:
            words = f"flush {joint.flush:%a %H:%M}" if joint.off_done else f"off {joint.off:%H:%M}"
        y = self.group_y(joint) + len(self._group(joint)) * self.strand_high() / 2 + 16
        box = QRectF(axis.x(joint.at) + 10, y, draw.text_width(words, 13, 600) + 12, 20)
        for other in sorted((j for j in self.buttons.values() if j.joint.id != joint.id), key=QWidget.x):
            at = QRectF(other.geometry())
            if at.intersects(box):
                box.moveLeft(at.right() + 2)
        draw.label(p, theme, box.x(), y, words, px=13, weight=600, ochre=not chosen, chosen=chosen)

    def _names(self, p: QPainter, theme: Theme, tree: GlueTree) -> None:
        small = self._row() < 18
        for k, strand in enumerate(tree.strands):
            y = self.home_y(k) + 5
            letter = letter_of(strand.workpiece.id)
            x = LEFT + draw.text_at(p, LEFT, y, letter, theme.ink, 12 if small else 15, 700, room=60) + 8
            board = f" {strand.workpiece.from_}" if strand.workpiece.from_ else ""
            words = f"{short_name(strand.species).lower() if strand.species else ''}{board}".strip()
            draw.text_at(p, x, y, words, theme.ink2, 11 if small else 13, room=LEFT + NAMES_W - x - 8)

    def _meanwhile(self, p: QPainter, theme: Theme, axis: TimeAxis, tree: GlueTree) -> None:
        top = self.height() - MEANWHILE_H
        p.setPen(QPen(theme.edge, 1))
        p.drawLine(QPointF(LEFT, top), QPointF(self.width() - RIGHT, top))
        draw.text_at(p, LEFT, top + 22, "Meanwhile", theme.ink, 14, 700)
        draw.text_at(p, LEFT, top + 41, "no busy clamp or part", theme.ink2, 13, room=NAMES_W)
        last = -1e9
        for at, words in tree.meanwhile:
            x = axis.x(at)
            if not axis.left <= x <= axis.right:
                continue
            p.fillRect(QRectF(x, top + 10, 8, 12), theme.chalk)
            if x > last and x + draw.text_width(words, 13, 600) < self.width() - RIGHT:
                last = x + draw.text_at(p, x, top + 41, words, theme.ink, 13, 600) + 12

    def _now(self, p: QPainter, theme: Theme, axis: TimeAxis) -> None:
        x = axis.x(self.screen.now)
        words = f"{self.screen.now:%a} {self.screen.now.day}, {self.screen.now:%H:%M}"
        p.setPen(QPen(theme.chalk, 2))
        p.drawLine(QPointF(x, AXIS_H - 2), QPointF(x, self.height() - MEANWHILE_H))
        draw.label(p, theme, x, 6, words, px=14, weight=600, centred=True)


def _along(path: QPainterPath, spots: list[tuple[float, float]], off: float) -> None:
    """A line through places, smooth between unlike heights."""
    for (ax, ay), (bx, by) in pairwise(spots):
        path.lineTo(QPointF(ax, ay + off)) if path.elementCount() > 1 else None
        if abs(ay - by) < 0.01:
            path.lineTo(QPointF(bx, by + off))
        else:
            middle = (ax + bx) / 2
            path.cubicTo(QPointF(middle, ay + off), QPointF(middle, by + off), QPointF(bx, by + off))


def clock_words(until: datetime, now: datetime) -> str:
    """How long it is until an instant: "38 min", "23 h 10"."""
    minutes = max(0, round((until - now).total_seconds() / 60))
    return f"{minutes} min" if minutes < 120 else f"{minutes // 60} h {minutes % 60:02d}"
