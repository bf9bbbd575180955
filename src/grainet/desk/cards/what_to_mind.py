"""What to mind of a plan, over the lower half of Lay out: what it will weigh, which woods meet, and what each glue line asks for."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Signal
from PySide6.QtGui import QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.work.glue_ups import joint_warnings
from grainet.work.weights import PartMovement, movements_of, together, weights_of


class MindsPanel(QWidget):
    """The panel; it is there while it is asked for."""

    closed = Signal()

    def __init__(self, state: State, parent: QWidget) -> None:
        super().__init__(parent)
        self.state = state
        self.setObjectName("minds")
        self.weights: list[tuple[str, str]] = []
        self.moves: list[PartMovement] = []
        self.minds: list[tuple[str, str, str, str]] = []  # grade, glue-up, text, step
        self._of: object = None
        self.away = WordButton(state, "Boards again", "Ctrl+G", chalk=False, parent=self, name="minds.away")
        self.away.clicked.connect(self.closed)
        self.hide()

    def look(self, shown: tuple[Job, Plan] | None) -> None:
        """Work out what to mind of a plan; nothing without one."""
        kit, design = self.state.shop.kit, self.state.design
        basis = (shown[1] if shown else None, kit, self.state.shop.air.year, design)
        if basis == self._of:
            return
        self._of = basis
        self.weights, self.minds, self.moves = [], [], []
        if shown is None or not shown[1].placements:
            return
        rows = weights_of(*shown, kit, design.brief if design else ())
        self.weights = [
            (f"{r.name}, No. {', '.join(r.pieces)}", r.weight.message + (", by the species" if r.guessed else "")) for r in rows
        ]
        if rows:
            self.weights.append(("all its wood", together(rows).message))
        self.minds = [
            (m.warning.grade, m.name, m.warning.text, m.warning.step)
            for m in joint_warnings(*shown, kit, self.state.shop.air.year, self.state.today.isoformat())
        ]
        self.moves = movements_of(*shown, kit, self.state.shop.air.year)
        words = "; ".join([f"{name}: {kg}" for name, kg in self.weights] + [f"{name}: {text}" for _, name, text, _ in self.minds])
        self.setAccessibleDescription(words)
        self.update()

    @property
    def gravest(self) -> str:
        """The first thing to mind in one line, with how many more there are."""
        grave = [m for m in self.minds if m[0] in ("block", "warn")]
        if not grave:
            return ""
        more = f"; {len(self.minds) - 1} more: Ctrl+G" if len(self.minds) > 1 else ""
        return f"{grave[0][1]}: {grave[0][2]}{more}"

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        flow.row_to_right([(self.away, 180)], self.width() - RIGHT, 6, high=40)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.ground)
        draw.text_at(p, LEFT, 32, "What to mind", theme.ink, 17, 700)
        draw.text_at(
            p, LEFT + 130, 32, "finished weights, and what the glue lines ask for; glue labels and manuals win", theme.ink2, 14
        )
        y = 66.0
        for name, kg in self.weights:
            last = name == "all its wood"
            draw.text_at(p, LEFT, y, name, theme.ink, 14.5, 700 if last else 400, room=240)
            draw.text_at(p, LEFT + 250, y, kg, theme.ink, 16, 700 if last else 600, figures=True, room=180)
            y += 26
        y = self._moves(p, y + 18)
        x = LEFT + 450
        y = 66.0
        if not self.minds:
            draw.text_at(p, x, y, "Nothing stands against these glue lines.", theme.ink, 15)
        for grade, name, text, step in self.minds:
            if y > self.height() - 14:
                draw.text_at(p, x, y, "and more; make the window higher", theme.ink2, 14)
                break
            ink = {"block": theme.wine, "warn": theme.ochre}.get(grade, theme.ink)
            word = {"block": "do not glue yet: ", "warn": "", "note": ""}[grade]
            draw.text_at(p, x, y, f"{word}{text}", ink, 14.5, 600, room=self.width() - RIGHT - x)
            draw.text_at(p, x, y + 18, f"{name}: {step}" if step else name, theme.ink2, 13.5, room=self.width() - RIGHT - x)
            p.setPen(QPen(theme.hair, 0.8))
            p.drawLine(QPointF(x, y + 26), QPointF(self.width() - RIGHT, y + 26))
            y += 46

    def _moves(self, p: QPainter, y: float) -> float:
        """What each part does over a year, in small columns."""
        theme, air = self.state.theme, self.state.shop.air.year
        if not self.moves:
            return y
        draw.text_at(p, LEFT, y, f"Over a year, {air.driest_pct:.1f} to {air.dampest_pct:.1f} %", theme.ink, 15, 700)
        for x, head in ((LEFT + 250, "wider"), (LEFT + 312, "cup"), (LEFT + 366, "skew")):
            draw.text_at(p, x, y, head, theme.ink2, 13)
        for one in self.moves:
            y += 26
            rings = "" if one.rings_read else ", rings unread"
            draw.text_at(
                p,
                LEFT,
                y,
                f"{one.name}, No. {one.piece}, {self.state.told(one.width_mm)} wide{rings}",
                theme.ochre if one.over else theme.ink,
                14,
                room=240,
            )
            for x, text in (
                (LEFT + 250, f"{one.year.width_mm:.2f}"),
                (LEFT + 312, f"{one.year.cup_mm:.2f}"),
                (LEFT + 366, f"{one.year.out_of_square_deg:.2f}°"),
            ):
                draw.text_at(p, x, y, text, theme.ochre if one.over else theme.ink, 15, 600, figures=True)
        return y + 26
