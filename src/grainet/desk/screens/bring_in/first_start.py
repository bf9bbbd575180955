"""The first start of an empty shop: the two sides of the tape, a ghost piece numbered in the order to measure, other ways in."""

from __future__ import annotations

from collections.abc import Callable
from typing import Self

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen, QResizeEvent
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.screen import Desk, Screen
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, left_words
from grainet.kit.machine import Work, machine_for
from grainet.wood.units import format_length


class FirstStart(Screen):
    """Shown in Bring in while nothing is on the rack."""

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        return cls(desk.state, desk.bring_list, desk.open_demo)

    def __init__(self, state: State, open_list: Callable[[], None], open_demo: Callable[[], None]) -> None:
        super().__init__(state)
        self.setObjectName("firstStart")
        self.mm = WordButton(state, "millimetres", "", chalk=False, parent=self, name="first.mm")
        self.inches = WordButton(state, "inches", "", chalk=False, parent=self, name="first.inches")
        for button, style in ((self.mm, "mm"), (self.inches, "fraction")):
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, s=style: state.keep("the tape's side", state.shop.kit.changed(length_style=s)))
        self.begin = WordButton(state, "Measure your first piece", "Ctrl+Enter", chalk=True, parent=self, name="first.begin")
        self.begin.clicked.connect(self.primary_action)
        self.from_list = WordButton(
            state, "A list that you kept (CSV or JSON)", "Ctrl+O", chalk=False, parent=self, name="first.list"
        )
        self.from_list.clicked.connect(open_list)
        self.demo = WordButton(state, "The demo shop, to look around", "", chalk=False, parent=self, name="first.demo")
        self.demo.clicked.connect(open_demo)
        state.changed.connect(self.refresh)

    def primary_action(self) -> None:
        """What its chalk-filled button does."""
        self.state.new_piece()
        self.state.tape_wanted.emit("")

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        inches = self.state.shop.kit.length_style != "mm"
        self.mm.setChecked(not inches)
        self.inches.setChecked(inches)
        right = self.width() - RIGHT
        flow.column([self.mm, self.inches], right - 130, 10, 130, gap=4)
        x = flow.row([(self.begin, 320), (self.from_list, 320)], AXIS_X, 330, gap=16)
        flow.row([(self.demo, max(220, min(320, right - x)))], x, 330)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        right = self.width() - RIGHT - 140
        self._tape(p, right)
        self._first_piece(p, right)
        left_words(p, self.state, 326, "Begin", [])
        self._machines(p)
        self._how_it_answers(p)

    def _tape(self, p: QPainter, right: float) -> None:
        """A tape with both scales, to choose between them."""
        theme = self.state.theme
        left_words(p, self.state, 6, "Which side of the", [])
        draw.text_at(p, LEFT, 40, "tape do you read?", theme.ink, 16, 700)
        p.setPen(QPen(theme.ink, 1.4))
        p.setBrush(theme.slip)
        p.drawRect(QRectF(AXIS_X, 10, right - AXIS_X, 92))
        scale = (right - AXIS_X) / 2400
        p.setPen(QPen(theme.edge, 1))
        for mm in range(0, 2400, 50):
            x = AXIS_X + mm * scale
            p.drawLine(QPointF(x, 56), QPointF(x, 56 - (18 if mm % 200 == 0 else 8)))
            if mm % 200 == 0 and mm:
                draw.text_at(p, x - 14, 32, str(mm), theme.ink, 15, 500, figures=True)
                p.setPen(QPen(theme.edge, 1))
        for inch in range(94):
            x = AXIS_X + inch * 25.4 * scale
            p.drawLine(QPointF(x, 56), QPointF(x, 56 + (18 if inch % 12 == 0 else 8)))
            if inch % 12 == 0 and inch:
                draw.text_at(p, x - 14, 92, f"{inch} in", theme.ink, 15, 500, figures=True)
                p.setPen(QPen(theme.edge, 1))

    def _first_piece(self, p: QPainter, right: float) -> None:
        """A board that nobody has read yet, with what to read in which order."""
        theme = self.state.theme
        left_words(
            p,
            self.state,
            128,
            "Your first piece",
            [("Lay it down. Chalk a bar on the left end. Read it in the order of the numbers.", theme.ink2)],
        )
        box = QRectF(AXIS_X, 132, right - AXIS_X, 170)
        pen = QPen(theme.ochre, 1.6)
        pen.setDashPattern([5, 3])
        p.setPen(pen)
        p.setBrush(theme.ground)
        p.drawRect(box)
        p.fillRect(QRectF(AXIS_X - 7, 132, 6, 170), theme.chalk)
        draw.label(
            p,
            theme,
            box.center().x(),
            146,
            "1  length: type it, 2390, 94 1/8 or 7 ft 10",
            centred=True,
            figures=False,
            chosen=True,
            height=28,
        )
        for k, text in enumerate(
            (
                "2  width, at three places",
                "3  thickness, at three places",
                "4  weight, if you have scales",
                "5  moisture, if you have a meter",
            )
        ):
            draw.label(
                p,
                theme,
                box.center().x() + (-150 if k % 2 == 0 else 150),
                192 + 40 * (k // 2),
                text,
                centred=True,
                figures=False,
                dashed=True,
                px=14,
            )
        draw.text_at(
            p,
            box.x() + 12,
            box.bottom() - 10,
            "dashed ochre: not read yet; 1 to 3 are enough for a first answer",
            theme.ochre,
            13.5,
        )

    def _machines(self, p: QPainter) -> None:
        """The machines as they are guessed."""
        theme, kit = self.state.theme, self.state.shop.kit
        draw.text_at(p, LEFT, 424, "Your machines", theme.ink, 16, 700)
        draw.text_at(p, LEFT, 444, "guessed until you say", theme.ink2, 13)
        x = float(AXIS_X)
        for name, work, figure, word in (
            ("table saw kerf", Work.RIP, "kerf_mm", ""),
            ("band saw kerf", Work.RESAW, "kerf_mm", ""),
            ("band saw takes", Work.RESAW, "highest_mm", " high"),
            ("thicknesser", Work.THICKNESS, "widest_mm", " wide"),
            ("planer", Work.FACE, "widest_mm", " wide"),
        ):
            machine = machine_for(kit.machines, work)
            mm = getattr(machine, figure) if machine is not None else None
            value = "not known" if mm is None else format_length(mm, kit.length_style) + word
            draw.text_at(p, x, 420, name, theme.ink2, 14)
            draw.label(p, theme, x, 428, value, dashed=machine is None or mm is None or figure in machine.guessed, height=26)
            x += 150
        draw.text_at(p, AXIS_X, 480, "The kit book (Ctrl+K) takes yours. Nothing waits for it.", theme.ink2, 14)

    def _how_it_answers(self, p: QPainter) -> None:
        """The signs of the answers."""
        theme = self.state.theme
        draw.text_at(p, LEFT, 520, "How it will answer", theme.ink, 15, 700)
        p.setBrush(theme.slip)
        p.setPen(QPen(theme.ink, 1.6))
        p.drawRect(QRectF(AXIS_X, 504, 44, 20))
        draw.text_at(p, AXIS_X + 54, 520, "this stretch gives it", theme.ink, 14)
        p.setPen(QPen(theme.ochre, 1.6))
        p.drawRect(QRectF(AXIS_X + 240, 517, 44, 7))
        draw.text_at(p, AXIS_X + 294, 520, "gives it if you first do something", theme.ink, 14)
        p.setPen(QPen(theme.edge, 1.4))
        p.drawLine(QPointF(AXIS_X + 560, 514), QPointF(AXIS_X + 604, 514))
        draw.text_at(p, AXIS_X + 614, 520, "will not, and by how much", theme.ink, 14)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()
