"""Look over (F3): the board unrolled, and below it a lane for every use: gives, if, won't, each with its reason."""

from __future__ import annotations

import re
from datetime import date

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.cards.rules import RulesPanel
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.board import BoardView
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.screen import Screen
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of, left_words, wrapped
from grainet.grade.verdict import Stretch, Verdict, after_work
from grainet.kit.uses import UseRule
from grainet.wood.piece import Piece
from grainet.wood.rings import describe
from grainet.wood.units import LengthStyle, format_length, format_mark, tell_length, told_apart

LANE_H, KEY_H, WONT_H, MOIST_H, WHY_H = 40, 26, 48, 24, 52
MOST_LANES = 5  # more of them scroll; the board keeps its size


NOTHING_YET = (
    "Here a board lies unrolled: face 1, the near edge, face 2, with every defect where it is.",
    "Below it a lane for each use says what every stretch gives as it lies, what it gives if something is done first, and what it will not give, with the figure that fails.",
)


class Lane(QAbstractButton):
    """One use on the axis: slivers of wood where the board gives it."""

    def __init__(self, state: State, rule: UseRule, parent: LookOver) -> None:
        super().__init__(parent)
        self.state, self.rule, self.screen = state, rule, parent
        words = rule.use.split("_")
        self.setObjectName("lane." + words[0] + "".join(w.capitalize() for w in words[1:]))
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: state.choose_use(self.rule.use))

    @property
    def verdict(self) -> Verdict | None:
        """The verdict on the piece in hand; None while it is worked out."""
        piece = self.state.piece
        return self.state.verdict(piece.id, self.rule.use) if piece else None

    def refresh(self, rule: UseRule) -> None:
        """Show another rule, or the same anew."""
        self.rule = rule
        self.setChecked(self.state.use == rule.use)
        verdict, asked = self.verdict, self.state.wanted(rule.use).rule
        message = "being judged"
        if verdict is not None:
            more = f", {after_work(verdict.gives_if)}" if verdict.gives_if else ""
            message = f"gives {verdict.gives}{more}; {verdict.main_reason}"
        self.setAccessibleName(f"{self.state.wanted(rule.use).message}: {message}")
        lines = (
            []
            if verdict is None
            else [
                f"{self.state.told(s.from_mm)} to {self.state.told(s.to_mm)} {s.verdict}: " + "; ".join(r.text for r in s.reasons)
                for s in verdict.stretches
                if s.reasons
            ]
        )
        self.setToolTip(
            "\n".join(
                [
                    self.accessibleName(),
                    *lines,
                    f"needs {' × '.join(self.state.told(mm, 'g') for mm in (asked.length_mm, asked.width_mm, asked.thickness_mm))} ({asked.source})",
                ]
            )
        )
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(800, LANE_H)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        if self.isChecked():
            p.fillRect(self.rect(), theme.chalk_wash)
            p.fillRect(QRectF(0, 0, 6, self.height()), theme.chalk)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(LEFT, self.height() - 0.5), QPointF(self.width() - RIGHT, self.height() - 0.5))
        wanted = self.state.wanted(self.rule.use)
        if wanted.part is None:
            draw.text_at(p, LEFT, 20, self.rule.label, theme.ink, 15, 600)
            draw.text_at(p, LEFT, 34, "by size", theme.ink2, 13)
        else:
            draw.text_at(p, LEFT, 20, wanted.build, theme.ink, 15, 600, room=104)
            draw.text_at(p, LEFT, 34, wanted.part.shown_name, theme.ink2, 13, room=104)
        verdict, piece = self.verdict, self.state.piece
        if verdict is None or piece is None:
            draw.text_at(p, 128, 25, "...", theme.ink2, 15)
            return
        x = 164.0
        if verdict.gives_if and verdict.outcome == "if":
            count = str(verdict.gives_if)
            draw.text_at(p, x - draw.text_width(count, 18, 600, figures=True), 26, count, theme.ochre, 18, 600, figures=True)
        elif verdict.gives:
            draw.text_at(
                p,
                x - draw.text_width(str(verdict.gives), 18, 600, figures=True),
                26,
                str(verdict.gives),
                theme.ink,
                18,
                600,
                figures=True,
            )
        for stretch in verdict.stretches:
            after = [s.from_mm for s in verdict.stretches if s.from_mm > stretch.from_mm + 1e-6]
            self._stretch(p, piece, stretch, min(after, default=stretch.to_mm))
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))

    def _stretch(self, p: QPainter, piece: Piece, stretch: Stretch, next_mm: float) -> None:
        axis, theme = self.screen.board.axis, self.state.theme
        x0, x1 = axis.x(stretch.from_mm), axis.x(stretch.to_mm)
        if stretch.verdict == "wont":
            self._wont(p, x0, x1, stretch)
            return
        full = stretch.verdict == "gives"
        box = QRectF(x0, 4, x1 - x0, self.height() - 9) if full else QRectF(x0, self.height() - 12, x1 - x0, 8)
        shape = QPainterPath()
        shape.addRect(box)
        end = axis.x(piece.extents[2])
        draw.wood_texture(
            p,
            theme,
            shape,
            self.state.pictures.get(piece, "face1"),
            QRectF(axis.left, 4, end - axis.left, self.height() - 9),
            plain_colour(piece.species),
        )
        draw.outline(p, shape, theme.ink if full else theme.ochre, 1.5)
        if full:
            noun = (
                self.rule.counted_as
                if stretch.count == 1
                else {"half": "halves"}.get(self.rule.counted_as, self.rule.counted_as + "s")
            )
            told = [f"{stretch.count} {noun}", str(stretch.count)]
            if stretch.slides_mm >= 1:
                told.insert(0, f"{stretch.count} {noun}, free run {self.state.told(stretch.slides_mm)}")
            room = min(x1, axis.x(next_mm)) - x0 - 24  # stretches overlap; the next one's words have their place
            text = next((t for t in told if draw.text_width(t, 14, 500) <= room), told[-1])
            draw.label(p, theme, x0 + 8, 9, text, figures=False, px=14)
        elif stretch.reasons:
            more = f" (+{len(stretch.reasons) - 1})" if len(stretch.reasons) > 1 else ""
            room = min(x1, axis.x(next_mm)) - x0 - 6  # stretches overlap where one place or the other gives a part
            if room >= 44:
                draw.text_at(p, x0 + 2, self.height() - 18, stretch.reasons[0].text + more, theme.ochre, 14, 600, room=room)

    def _wont(self, p: QPainter, x0: float, x1: float, stretch: Stretch) -> None:
        """A span with end posts and the plain cause; no words where there is no room for them."""
        theme = self.state.theme
        y = self.height() / 2
        p.setPen(QPen(theme.edge, 1.2))
        text = stretch.reasons[0].text if stretch.reasons else ""
        wide = min(draw.text_width(text, 14), max(0.0, x1 - x0 - 34))
        if wide < 40:
            wide = 0.0
        for a, b in ((x0 + 3, (x0 + x1 - wide) / 2 - 6), ((x0 + x1 + wide) / 2 + 6, x1 - 3)) if wide else ((x0 + 3, x1 - 3),):
            p.drawLine(QPointF(a, y), QPointF(max(a, b), y))
        for x in (x0 + 3, x1 - 3):
            p.drawLine(QPointF(x, y - 6), QPointF(x, y + 6))
        if wide:
            draw.text_at(p, (x0 + x1 - wide) / 2, y + 5, text, theme.ink, 14, room=wide + 1)


class LookOver(Screen):
    """The screen."""

    has_axis = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("lookOver")
        self.top = 0.0  # where the board ends, once it was laid out
        self.wont: list[Lane] = []
        self.hidden = 0
        self.board = BoardView(state, both=True)
        self.board.setParent(self)
        self.board.tapped.connect(state.move_cursor)
        self.board.reshaped.connect(lambda tag, ring: state.piece and state.reshape_mark(state.piece, tag, tuple(ring)))
        self.lanes = {rule.use: Lane(state, rule, self) for rule in state.shop.kit.every_use}
        self.first, self.hidden, self._use = 0, 0, ""
        self.rules = RulesPanel(state, self)
        self.rules.closed.connect(lambda: self.show_rules(on=False))
        self.more = WordButton(state, "Every rule", "Ctrl+U", chalk=False, parent=self, name="lookOver.rules")
        self.more.clicked.connect(lambda: self.show_rules(on=True))

    def show_rules(self, *, on: bool | None = None) -> None:
        """Lay every rule of the chosen lane over the lanes, or take it away again."""
        self.rules.setVisible(not self.rules.isVisible() if on is None else on)
        self.refresh()

    def axis(self, width: int, height: int) -> Axis:
        """The axis that fits the board into so many px."""
        piece = self.state.piece
        _x0, y0, x1, y1 = piece.extents if piece and piece.outline else (0, 0, 2400, 200)
        giving, wont = self._shown()
        lanes = 2 if height < 500 else 3 if height < 660 else MOST_LANES  # low windows scroll lanes rather than shrink the wood
        room = (
            height
            - min(len(giving), lanes) * 36
            - (WONT_H if wont else 0)
            - WHY_H
            - KEY_H
            - MOIST_H
            - self.board.gutter_px()
            - 14
        )
        across = 2 * (y1 - y0) + ((piece.least_thickness_mm if piece else None) or 40)
        scale = min((width - AXIS_X - RIGHT) / max(1, x1), max(60, room) / max(1.0, across))
        return Axis(0, (width - AXIS_X - RIGHT) / max(scale, 0.02), width)

    def set_axis(self, axis: Axis) -> None:
        """Show the board on an axis."""
        self.board.axis = axis
        flow.fill(self.board, 0, 0, self.width(), max(60, self.board.wanted_height()))
        self.refresh()

    def first_stop(self) -> QWidget | None:
        """The chosen lane."""
        return next((lane for use, lane in self.lanes.items() if use == self.state.use), None)

    def step_lane(self, by: int) -> None:
        """Up and down: another lane."""
        uses = list(self.lanes)
        self.state.choose_use(uses[max(0, min(len(uses) - 1, uses.index(self.state.use) + by))])

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.position().y() > self.top and self.hidden:
            self.first += -1 if event.angleDelta().y() > 0 else 1
            self.refresh()
        else:
            super().wheelEvent(event)

    def _shown(self) -> tuple[list[Lane], list[Lane]]:
        """Lanes that give something (or are still being judged), and those that will not."""
        giving, wont = [], []
        for lane in self.lanes.values():
            verdict = lane.verdict
            (wont if verdict is not None and verdict.outcome == "wont" and lane.rule.use != self.state.use else giving).append(
                lane
            )
        return giving, wont

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        piece = self.state.piece
        for rule in self.state.shop.kit.every_use:
            self.lanes[rule.use].refresh(rule)
        self.board.setVisible(piece is not None)
        self.board.refresh()
        giving, self.wont = self._shown()
        self.top = self.board.y() + self.board.height() + MOIST_H
        room = self.height() - self.top - KEY_H - WHY_H - (WONT_H if self.wont else 0)
        fit = max(1, min(len(giving), int(room // 36)))
        own = next((k for k, lane in enumerate(giving) if lane.rule.use == self.state.use), 0)
        self.first = max(0, min(self.first, len(giving) - fit))
        if self._use != self.state.use:  # the chosen lane stays in sight
            self._use = self.state.use
            self.first = max(min(self.first, own), own - fit + 1)
        shown = giving[self.first : self.first + fit]
        self.hidden = len(giving) - len(shown)
        each = int(max(36, min(52, room / fit)))
        for lane in self.lanes.values():
            lane.setVisible(lane in shown and piece is not None)
        flow.column(shown, 0, self.top + KEY_H, self.width(), high=each, gap=0)
        self.more.setVisible(piece is not None)
        why_top = self.height() - WHY_H - (WONT_H if self.wont else 0)
        flow.row_to_right([(self.more, 170)], self.width() - RIGHT, why_top + 4)
        if self.rules.isVisible():
            least = 76 + 24 * len(self.rules.lines())
            top = max(0, min(int(self.top), self.height() - least))
            flow.fill(self.rules, 0, top, self.width(), self.height())
            self.rules.raise_()
            self.rules.refresh()
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, piece = self.state.theme, self.state.piece
        p.fillRect(self.rect(), theme.bench)
        if piece is None:
            draw.empty(
                p,
                theme,
                QRectF(AXIS_X, 24, self.width() - AXIS_X - RIGHT, self.height() - 40),
                "Nothing on the rack yet. Measure a first piece: F2",
                NOTHING_YET,
            )
            return
        if not piece.outline:
            draw.text_at(p, AXIS_X, 80, "Its length and width are not read yet: F2", theme.ochre, 17, 600)
        p.fillRect(QRectF(0, self.top, self.width(), self.height() - self.top), theme.ground)
        self._words(p, piece)
        self._moisture(p, piece)
        self._key(p)
        self._why(p)
        if self.wont:
            self._will_not(p)

    def _words(self, p: QPainter, piece: Piece) -> None:
        theme = self.state.theme
        if not piece.outline:
            return
        face1, edge, face2 = self.board.boxes()
        lines = [
            (f"rings {describe(piece.ring_angle_deg)}", theme.ink2),
            (f"{count_of(len(piece.defects), 'defect')}, Tab steps", theme.ink2),
            *(
                [(f"{self.state.clear_share(piece):.0%} clear", theme.ink2)]
                if piece.defects and self.state.clear_share(piece) is not None
                else []
            ),
        ]
        if piece.live_metal:
            lines.append((", ".join(d.id for d in piece.live_metal) + " still in it", theme.wine))
        elif piece.reclaimed:
            lines.append(
                (
                    f"swept {piece.sweeps[-1].on}"
                    if piece.sweeps and not piece.unswept_faces
                    else f"face {'/'.join(piece.unswept_faces)} not swept",
                    theme.ink2 if not piece.unswept_faces else theme.ochre,
                )
            )
        ready = self.state.readiness(piece)
        if ready.word == "waits" and ready.latest:
            soonest, _, latest = ready.dates(self.state.today)
            lines.append((f"ready {_months(soonest, latest)}", theme.ochre))
        elif ready.word == "ready":
            lines.append(("ready for this air", theme.ink2))
        lines.sort(
            key=lambda line: (line[1] is not theme.wine, line[1] is not theme.ochre)
        )  # the gravest stay where room is short
        fit = max(0, int((face1.height - 8) // 20))
        left_words(p, self.state, face1.top - 8, "Face 1", lines[:fit])
        draw.text_at(p, LEFT, edge.center().y() + 5, "Near edge", theme.ink, 15, 700)
        draw.text_at(p, 130, edge.center().y() + 5, "thick", theme.ink2, 13)
        if face2 is not None:
            left_words(p, self.state, face2.top, "Face 2", [("rolled to you", theme.ink2)] if face2.height > 36 else [])

    def _moisture(self, p: QPainter, piece: Piece) -> None:
        theme, axis = self.state.theme, self.board.axis
        y = self.top - 8
        draw.text_at(p, 164 - draw.text_width("moisture", 14), y, "moisture", theme.ink2, 14)
        limit = self.state.shop.kit.target_moisture_pct + 1
        message, right = False, 0.0
        for reading in sorted(piece.moisture_now, key=lambda r: r.x_mm):
            over = reading.moisture_pct > limit
            text = f"{reading.moisture_pct:g} %" + (
                f" over {told_apart(reading.moisture_pct, limit, 1)[1]}" if over and not message else ""
            )
            message = message or over
            x = max(min(axis.x(reading.x_mm), axis.right - 90), right + 12)
            right = x + draw.text_at(p, x, y, text, theme.ochre if over else theme.ink, 15, 600 if over else 500, figures=True)
        flat = piece.flatness
        text = "   ".join(
            f"{word} {self.state.told(mm, 'g')}" + (f" over {self.state.told(span)}" if span else "")
            for word, mm, span in (
                ("bow", flat.bow_mm, flat.bow_span_mm), ("cup", flat.cup_mm, flat.cup_span_mm), ("crook", flat.crook_mm, flat.crook_span_mm),
                ("twist", flat.rock_mm, flat.rock_span_mm),
            )
            if mm or word in ("bow", "cup")
        )  # fmt: skip
        if right < axis.right - 230:
            draw.text_at(p, axis.right - draw.text_width(text, 15, 500, figures=True), y, text, theme.ink2, 15, 500, figures=True)

    def _key(self, p: QPainter) -> None:
        theme = self.state.theme
        y = self.top + 18
        draw.text_at(p, LEFT, y, "What it gives", theme.ink, 15, 700)
        x = float(AXIS_X)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.ink, 1.5))
        p.drawRect(QRectF(x, y - 13, 24, 15))
        x += 32 + draw.text_at(p, x + 32, y, "gives it as it lies", theme.ink2, 13.5) + 22
        p.setPen(QPen(theme.ochre, 1.5))
        p.drawRect(QRectF(x, y - 3, 24, 5))
        x += 32 + draw.text_at(p, x + 32, y, "if you first do what is written", theme.ink2, 13.5) + 22
        p.setPen(QPen(theme.edge, 1.2))
        p.drawLine(QPointF(x, y - 5), QPointF(x + 24, y - 5))
        for post in (x, x + 24):
            p.drawLine(QPointF(post, y - 10), QPointF(post, y))
        x += 32 + draw.text_at(p, x + 32, y, "will not, and by how much", theme.ink2, 13.5)
        more = f"{self.hidden} more lanes: wheel, or up and down" if self.hidden else "up and down pick a lane"
        for text in (f"{more}; the rack answers for it", more, f"{self.hidden} more" if self.hidden else ""):
            left = self.width() - RIGHT - draw.text_width(text, 13.5)
            if left > x + 24:
                draw.text_at(p, left, y, text, theme.ink2, 13.5)
                break

    def why_text(self) -> tuple[str, str]:
        """The chosen lane's verdict at the marker: what it needs and gives there, and every reason with its remedy."""
        first, second, _ = self.why()
        return first, second

    def why(self) -> tuple[str, str, bool]:
        """The same, and whether something is asked for or speaks against it."""
        wanted, verdict = self.state.wanted(), self.lanes[self.state.use].verdict  # type: ignore[index]
        rule = wanted.rule
        if verdict is None:
            return "", "", False
        style = self.state.shop.kit.length_style
        here = [s for s in verdict.stretches if s.from_mm <= self.state.cursor_mm <= s.to_mm]
        stretch = here[0] if here else min(verdict.stretches, key=lambda s: abs(s.from_mm - self.state.cursor_mm))
        told = format_length if style == "mm" else format_mark  # in inches as fine as the reasons are
        size = " × ".join(told(v, style).removesuffix(" in") for v in (rule.length_mm, rule.width_mm, rule.thickness_mm))
        word = {"gives": "gives it as it lies", "if": "gives it once what stands below is done", "wont": "will not give it"}[
            stretch.verdict
        ]
        span = f"{format_length(stretch.from_mm, style)} to {format_length(stretch.to_mm, style)}"
        of = f"{wanted.label}, by its outline," if wanted.part is not None else f"A {rule.label.lower()}, by size,"
        first = f"From {span} it {word}. {of} needs {size}{f', {rule.leaves} leaves' if rule.leaves > 1 else ''} ({_source(rule.source, style)})."
        rows = [r.text + (f" ({r.remedy})" if r.remedy else "") for r in stretch.reasons]
        slides = f"Its free run within that is {format_length(stretch.slides_mm, style)}." if stretch.verdict == "gives" else ""
        reasons = "; ".join(rows)
        return first, f"{reasons[:1].upper()}{reasons[1:]}." if reasons else slides, bool(rows)

    def _why(self, p: QPainter) -> None:
        theme = self.state.theme
        top = self.height() - WHY_H - (WONT_H if self.wont else 0)
        p.fillRect(QRectF(0, top, self.width(), WHY_H), theme.bench)
        draw.text_at(p, LEFT, top + 21, "Why, at the", theme.ink, 15, 700)
        draw.text_at(p, LEFT, top + 40, "marker", theme.ink, 15, 700)
        first, second, asks = self.why()
        room = self.width() - AXIS_X - RIGHT - 184
        draw.text_at(p, AXIS_X, top + 21, first, theme.ink, 14, room=room)
        draw.text_at(p, AXIS_X, top + 41, second, theme.ochre if asks else theme.ink2, 14, room=room)

    def _will_not(self, p: QPainter) -> None:
        theme = self.state.theme
        top = self.height() - WONT_H
        p.fillRect(QRectF(0, top, self.width(), WONT_H), theme.shelf)
        draw.text_at(p, LEFT, top + 20, "Will not give", theme.ink, 15, 700)
        draw.text_at(p, LEFT, top + 38, f"{count_of(len(self.wont), 'use')}, and why", theme.ink2, 13)
        each = (self.width() - AXIS_X - RIGHT) / max(3, len(self.wont))
        for k, lane in enumerate(self.wont):
            x = AXIS_X + k * each
            p.setPen(QPen(theme.ink, 2))
            p.drawLine(QPointF(x, top + 6), QPointF(x, top + WONT_H - 6))
            draw.text_at(p, x + 10, top + 20, self.state.wanted(lane.rule.use).label, theme.ink, 14, 600, room=each - 16)
            verdict = lane.verdict
            reason = verdict.main_reason if verdict else ""
            draw.text_at(p, x + 10, top + 38, wrapped(reason, 13.5, 2000)[0] if reason else "", theme.ink, 13.5, room=each - 16)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()


def _source(text: str, style: LengthStyle) -> str:
    """Where a use's sizes come from, with the sizes in it as the house reads them: a body of 344 wide, a head of 190 x 78, 648 scale."""
    sizes = re.compile(r"\b[0-9]+(?:\.[0-9]+)?(?= wide| scale| x [0-9])|(?<=[0-9] x )[0-9]+(?:\.[0-9]+)?")
    return sizes.sub(lambda found: tell_length(float(found[0]), style, "g"), text)


def _months(first: date, last: date) -> str:
    """Two days as months: "Nov to Jan 2027", "Nov 2026"."""
    if (first.year, first.month) == (last.year, last.month):
        return f"{last:%b %Y}"
    return f"{first:%b}{f' {first.year}' if last.year > first.year + 1 else ''} to {last:%b %Y}"
