"""Every rule of the chosen use on the piece in hand, over the lanes: what was found, what is wanted, whose rule, what would help."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton

ROW_H = 30
WORDS = {"holds": "holds", "if": "if", "wont": "won't", "off": "not counted", "note": "note"}


class RulesPanel(QWidget):
    """The panel; it is there while it is asked for."""

    closed = Signal()

    def __init__(self, state: State, parent: QWidget) -> None:
        super().__init__(parent)
        self.state = state
        self.setObjectName("rules")
        self.away = WordButton(state, "Lanes again", "Ctrl+U", chalk=False, parent=self, name="rules.away")
        self.away.clicked.connect(self.closed)
        self.edit = WordButton(state, "Change the rule", "Ctrl+K", chalk=False, parent=self, name="rules.edit")
        self.edit.clicked.connect(self._edit)
        self.hide()

    def lines(self) -> Any:
        """The rule lines that are shown; a test and a screen reader can read them."""
        piece = self.state.piece
        return self.state.shop.judgements.rule_lines(piece.id, self.state.use, self.state.design_id) if piece else []

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        self.setAccessibleName("Every rule")
        self.setAccessibleDescription(
            "; ".join(f"{line.label} {WORDS[line.outcome]}: {line.reason.text}" for line in self.lines())
        )
        self.update()

    def _edit(self) -> None:
        window = self.window()
        if hasattr(window, "show_kit_page"):
            window.show_kit_page("uses")

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        flow.row_to_right([(self.away, 180), (self.edit, 180)], self.width() - RIGHT, 4, high=40)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.ground)
        found = self.lines()
        label = self.state.wanted().message
        draw.text_at(p, LEFT, 30, f"Every rule for a {label}", theme.ink, 17, 700)
        columns = (LEFT + 34, 150.0, 190.0 + (self.width() - 1280) * 0.3 + 330, self.width() * 0.66)
        for x, head in zip(columns[1:], ("found and wanted", "would help", "whose rule")):
            draw.text_at(p, x, 64, head, theme.ink2, 13)
        each = min(ROW_H, (self.height() - 72) / max(1, len(found)))
        for k, line in enumerate(found):
            y = 72 + k * each
            self._mark(p, line.outcome, QRectF(LEFT, y + 5, 20, each - 11))
            ink = {"if": theme.ochre, "wont": theme.wine, "off": theme.ink2, "note": theme.teal}.get(line.outcome, theme.ink)
            draw.text_at(p, columns[0], y + each / 2 + 5, line.label, theme.ink, 14.5, 600, room=columns[1] - columns[0] - 8)
            wanted = _wanted(line.reason.wanted)
            text = line.reason.text if not wanted or wanted in line.reason.text else f"{line.reason.text} (asked: {wanted})"
            draw.text_at(p, columns[1], y + each / 2 + 5, text, ink, 14, room=columns[2] - columns[1] - 14)
            draw.text_at(
                p,
                columns[2],
                y + each / 2 + 5,
                line.reason.remedy if line.outcome in ("if", "wont", "note") else "",
                theme.ink2,
                13.5,
                room=columns[3] - columns[2] - 14,
            )
            counts = f"; counts {line.weight:g}" if line.weight != 1 else ""
            draw.text_at(
                p,
                columns[3],
                y + each / 2 + 5,
                line.reason.source + counts,
                theme.ink2,
                13.5,
                room=self.width() - RIGHT - columns[3],
            )
            p.setPen(QPen(theme.hair, 0.8))
            p.drawLine(QPointF(LEFT, y + each), QPointF(self.width() - RIGHT, y + each))

    def _mark(self, p: QPainter, word: str, box: QRectF) -> None:
        """The same sign as in the lanes: full, a third, a bare line; dashed where it is not counted."""
        theme = self.state.theme
        p.setBrush(Qt.BrushStyle.NoBrush)
        if word == "holds":
            p.fillRect(box, theme.hair)
            p.setPen(QPen(theme.ink, 1.4))
            p.drawRect(box)
        elif word == "if":
            low = QRectF(box.left(), box.bottom() - box.height() / 3, box.width(), box.height() / 3)
            p.fillRect(low, theme.ochre_wash)
            p.setPen(QPen(theme.ochre, 1.4))
            p.drawRect(low)
        elif word == "wont":
            p.setPen(QPen(theme.wine, 1.8))
            p.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()))
            for x in (box.left(), box.right()):
                p.drawLine(QPointF(x, box.center().y() - 5), QPointF(x, box.center().y() + 5))
        else:
            pen = QPen(theme.edge, 1.2)
            pen.setDashPattern([3, 2])
            p.setPen(pen)
            p.drawRect(box)


def _wanted(value: object) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value) if value is not None else ""
