"""Order: one shelf of steps, each the wood that it works on; strings carry the rules that hold two steps in order. A step is moved by dragging
it or by ``9 < 8``; where a rule forbids it, the rule and its reason stand below, and a reason of your own sets it aside."""

from __future__ import annotations

import re
from datetime import date

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QLineEdit, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT, font
from grainet.desk.screens.screen import Page
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, wrapped
from grainet.present.order_view import Shelf, ShelfStep, String, groups_of, shelf_of
from grainet.session.commands.command import Command
from grainet.session.making import AtTheBench, WhyNot, at_the_bench, bind_again, choose_way, put_before, said, why_not_before
from grainet.session.making import override as set_aside
from grainet.store.shop_file import ShopUnusable
from grainet.wood.value import BadEntry
from grainet.work.cut_plan import UnderWay
from grainet.work.holds import Held
from grainet.work.operation import Operation
from grainet.work.other_ways import BY_HAND, SHORT, WAYS

GROUPS_H, DAYS_H, STRINGS_H, BOX_H, FOOT_H = 52, 26, 158, 150, 166
SHOWN = 12  # steps on the shelf at once
NOTHING = (
    "Lay out a build and keep its plan (F5). Its steps then stand here in order, from the first cut to the last joint, with the rules that hold them.",
)


def day_words(day: str) -> str:
    """A day as it stands over the shelf: Thu 26 Nov."""
    return f"{date.fromisoformat(day):%a} {int(day[8:])} {date.fromisoformat(day):%b}" if day else ""


class StepBox(QAbstractButton):
    """One step: the wood that it works on, its number, its words. Pressed it is chosen; dragged it is moved."""

    def __init__(self, screen: Order) -> None:
        super().__init__(screen)
        self.screen = screen
        self.step: ShelfStep | None = None
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.clicked.connect(lambda: screen.choose(self.step.number) if self.step is not None else None)
        self._from: QPointF | None = None

    def set(self, step: ShelfStep) -> None:
        """Show a step."""
        self.step = step
        self.setObjectName(f"step.{step.number}")
        self.setAccessibleName(f"{step.number} {step.title}, {'made' if step.done else step.day}")
        self.setToolTip(f"{step.number} {said(step.operation)}")
        self.update()

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.globalPosition()
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        event.accept()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """It is lifted along the shelf."""
        if self._from is not None and self.step is not None:
            self.screen.lift(self.step.number, event.globalPosition().x() - self._from.x())

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go: where it was lifted to, or pressed."""
        start, self._from = self._from, None
        if start is None or self.step is None:
            return
        away = event.globalPosition().x() - start.x()
        if abs(away) < 12:
            self.screen.lift(0, 0.0)
            self.click()
        else:
            self.screen.drop(self.step.number, away)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        step = self.step
        if step is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.screen.state.theme
        chosen = step.number == self.screen.chosen
        if chosen:
            p.fillRect(self.rect(), theme.chalk_wash)
        self._wood(p, step, QRectF(8, 4, self.width() - 16, 78))
        box = QRectF(4, 88, 30, 22)
        p.setPen(QPen(theme.chalk if chosen else theme.ink, 1.4))
        p.setBrush(theme.chalk if chosen and not step.done else theme.slip)
        p.drawRoundedRect(box, 2, 2)
        if step.done:
            p.setPen(QPen(theme.chalk, 2.2))
            p.drawPolyline(QPolygonF([QPointF(11, 99), QPointF(16, 104), QPointF(27, 92)]))
        else:
            words = str(step.number)
            ink = theme.on_chalk if chosen else theme.ink
            draw.text_at(
                p, box.center().x() - draw.text_width(words, 14, 600, figures=True) / 2, 104, words, ink, 14, 600, figures=True
            )
        y = 126.0
        for line in wrapped(step.title, 12.5, self.width() - 8, 600)[:2]:
            draw.text_at(p, 4, y, line, theme.ink2 if step.done else theme.ink, 12.5, 600, room=self.width() - 6)
            y += 15
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))

    def _wood(self, p: QPainter, step: ShelfStep, box: QRectF) -> None:
        """What it works on, as standing boards of their woods."""
        woods = self.screen.woods(step.operation)
        each = min(20.0, box.width() / max(1, len(woods)))
        x = box.center().x() - each * len(woods) / 2
        gap = 0.0 if step.operation.kind in ("glue", "cure") else 2.0
        for wood in woods:
            colour = QColor(plain_colour(wood)) if wood else QColor(self.screen.state.theme.edge)
            colour.setAlpha(110 if step.done else 255)
            p.setPen(QPen(self.screen.state.theme.ink2 if step.done else self.screen.state.theme.ink, 1))
            p.setBrush(colour)
            p.drawRect(QRectF(x, box.y(), each - gap, box.height()))
            x += each


class Order(Page):
    """The screen."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("order")
        self.bench: AtTheBench | None = None
        self.groups: dict[str, list[Operation]] = {}
        self.group = ""
        self.shelf: Shelf | None = None
        self.first = 0
        self.chosen = 0  # the number of the step in hand
        self.why: WhyNot | None = None  # why the last move was forbidden
        self.asked: tuple[int, int] | None = None  # that move: which before which
        self.string: String | None = None  # the string that was pressed
        self.lifted: tuple[int, float] = (0, 0.0)
        self.buttons: list[WordButton] = []
        self.boxes: list[StepBox] = []
        self.reason = QLineEdit(self)
        self.reason.setObjectName("order.reason")
        self.reason.setPlaceholderText("why it may be so here: it is kept and printed")
        self.reason.setAccessibleName("Why the rule is set aside here; it is kept and printed")
        self.reason.setMaxLength(200)
        self.reason.setFont(font(15))
        self.reason.setTextMargins(8, 0, 8, 0)
        self.reason.returnPressed.connect(self.set_aside)
        self.back_it = WordButton(state, "Put it back", "Esc", chalk=True, parent=self, name="order.back")
        self.back_it.clicked.connect(self.put_back)
        self.over_it = WordButton(state, "Go on so", "Enter", parent=self, name="order.over")
        self.over_it.clicked.connect(self.set_aside)
        self.bench_it = WordButton(state, "Bench", "Ctrl+Alt+B", parent=self, name="order.bench")
        self.bench_it.clicked.connect(self.primary_action)
        self.ways: list[WordButton] = []
        for way, words in SHORT.items():
            button = WordButton(state, words, "", parent=self, name=f"order.way.{way}")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, w=way: self.choose_way(w))
            self.ways.append(button)
        state.changed.connect(self.refresh)

    # what is shown ------------------------------------------------------------------------------------------------
    @property
    def under_way(self) -> UnderWay | None:
        """The plan of the build in hand, else the first that was accepted."""
        return self.state.shop.plans.in_hand(self.state.design_id)

    def woods(self, one: Operation) -> list[str]:
        """The species of the stock that an operation works on."""
        assert self.bench is not None
        pieces = {w.id: w for w in self.bench.making.workpieces}
        boards = {b.id: b.species for b in self.bench.under_way.job.pieces}
        found: list[str] = []
        todo = list(one.works_on)
        while todo:
            name = todo.pop(0)
            piece = pieces.get(name)
            if piece is not None and piece.members:
                todo = [*piece.members, *todo]
            else:
                found.append(boards.get(piece.from_ if piece is not None else one.board, ""))
        return found[:12]

    def _load(self) -> None:
        under_way = self.under_way
        self.bench = at_the_bench(self.state.shop, under_way.id) if under_way is not None else None
        if self.bench is None or under_way is None:
            self.groups, self.shelf = {}, None
            return
        build = self.state.design_id if self.state.design_id in under_way.designs else under_way.designs[0]
        self.groups = groups_of(self.bench, build or "")
        if self.group not in self.groups:
            upcoming = self.bench.next
            self.group = next((g for g, some in self.groups.items() if upcoming in some), next(iter(self.groups), ""))
            self.first = 0
        self.shelf = shelf_of(self.bench, self.group, self.groups[self.group]) if self.group else None
        steps = self.shelf.steps if self.shelf is not None else ()
        if steps and self.chosen not in {s.number for s in steps}:
            self.chosen = next((s.number for s in steps if not s.done), steps[0].number)
            self._bring(self.chosen)
        self.first = max(0, min(self.first, len(steps) - SHOWN))

    def _bring(self, number: int) -> None:
        """Scroll the shelf so that a step is on it."""
        assert self.shelf is not None
        at = next((k for k, s in enumerate(self.shelf.steps) if s.number == number), 0)
        if not self.first <= at < self.first + SHOWN:
            self.first = max(0, at - 3)

    def step(self, number: int) -> ShelfStep | None:
        """A step of the shelf by its number."""
        return next((s for s in self.shelf.steps if s.number == number), None) if self.shelf is not None else None

    @property
    def shown(self) -> list[ShelfStep]:
        """The steps on the shelf now."""
        return list(self.shelf.steps[self.first : self.first + SHOWN]) if self.shelf is not None else []

    # acts -----------------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """The bench at the chosen step; with nothing to make, Lay out."""
        step = self.step(self.chosen)
        if step is None:
            self.state.screen_wanted.emit("lay_out")
        else:
            self.state.bench_wanted.emit(step.id)

    def show_group(self, group: str) -> None:
        """Another member's steps, or another board's."""
        self.group, self.first, self.chosen = group, 0, 0
        self.put_back()

    def choose(self, number: int) -> None:
        """A step is in hand."""
        self.chosen, self.string = number, None
        self.why = self.asked = None
        self.refresh()

    def step_lane(self, by: int) -> None:
        """Up and down: another group."""
        names = list(self.groups)
        if names:
            self.show_group(names[max(0, min(len(names) - 1, names.index(self.group) + by))])

    def walk(self, by: int) -> None:
        """The step before or after on the shelf."""
        if self.shelf is None or not self.shelf.steps:
            return
        numbers = [s.number for s in self.shelf.steps]
        at = numbers.index(self.chosen) if self.chosen in numbers else 0
        self.choose(numbers[max(0, min(len(numbers) - 1, at + by))])
        self._bring(self.chosen)
        self.refresh()

    def move(self, later: int, first: int) -> None:
        """Put one step before another, or say which rule forbids it."""
        a, b = self.step(later), self.step(first)
        if self.bench is None or a is None or b is None or a is b:
            return
        self.why = why_not_before(self.bench, a.operation, b.operation)
        self.asked = (later, first) if self.why is not None else None
        self.string = None
        if self.why is None:
            try:
                put_before(self.bench, a.operation, b.operation)
                self.state.notify(f"{a.title} comes before {b.title}")
            except (Held, ShopUnusable) as fault:
                self.state.warn(str(fault))
            self.chosen = 0
        self.refresh()

    def lift(self, number: int, away: float) -> None:
        """A step is dragged along the shelf."""
        self.lifted = (number, away)
        self._place_boxes()
        self.update()

    def drop(self, number: int, away: float) -> None:
        """A dragged step is let go over another one."""
        self.lifted = (0, 0.0)
        numbers = [s.number for s in self.shown]
        wide = self._wide()
        at = numbers.index(number) if number in numbers else 0
        to = max(0, min(len(numbers) - 1, at + round(away / wide)))
        if to < at:
            self.move(number, numbers[to])
        elif to > at:
            self.move(numbers[to], number)
        else:
            self.refresh()

    def put_back(self) -> None:
        """Leave the order as it is."""
        self.why = self.asked = self.string = None
        self.reason.clear()
        self.refresh()

    def set_aside(self) -> None:
        """Set the rule aside that stands below, with the reason; or let it bind again."""
        bench = self.bench
        tie = self.string.tie if self.string is not None else self.why.tie if self.why is not None else None
        if bench is None or tie is None:
            return
        try:
            if tie.over:
                bind_again(bench, tie)
                self.state.notify(f"{tie.rule}: it binds again")
            else:
                bench = set_aside(bench, tie, self.reason.text())
                if self.asked is not None:
                    self._move_on(bench)
        except (Held, ShopUnusable) as fault:
            self.state.warn(str(fault))
            return
        self.put_back()

    def _move_on(self, bench: AtTheBench) -> None:
        """After a rule was set aside: the move that was asked for, unless another rule forbids that."""
        assert self.asked is not None
        a, b = (self.step(n) for n in self.asked)
        if a is None or b is None:
            return
        by = {o.id: o for o in bench.making.operations}
        if (why := why_not_before(bench, by[a.id], by[b.id])) is None:
            put_before(bench, by[a.id], by[b.id])
        else:
            self.state.warn(why.text)

    def choose_way(self, way: str) -> None:
        """The step in hand, which no machine takes, is done in another legal way; the steps are written anew."""
        step = self.step(self.chosen)
        if self.bench is None or step is None:
            return
        try:
            bench = choose_way(self.bench, step.operation, way)
            order = [o.id for o in bench.making.operations]
            self.chosen = order.index(step.id) + 1 if step.id in order else 0  # steps before it may have come or gone
            self.refresh()
            self._bring(self.chosen)
            self.state.notify(f"{step.title}: {WAYS[way]}")
        except (Held, ShopUnusable) as fault:
            self.state.warn(str(fault))
        self.refresh()

    @property
    def ways_here(self) -> tuple[str, ...]:
        """The ways of the step in hand, where no machine takes it and it is not made yet."""
        step = self.step(self.chosen) if self.why is None and self.string is None else None
        return tuple(step.operation.settings.get("ways", ())) if step is not None and not step.done else ()

    def press_string(self, string: String) -> None:
        """A string is pressed: its rule stands below."""
        self.string, self.why, self.asked = string, None, None
        self.refresh()

    # the tape line ------------------------------------------------------------------------------------------------
    @override
    def reads(self, line: str) -> Command | None:
        """``9 < 8`` puts step 9 before step 8; ``over`` and a reason sets the rule aside that stands below. Raises BadEntry."""
        found = re.fullmatch(r"\s*(\d+)\s*<\s*(\d+)\s*", line)
        if found is not None:
            later, first = int(found[1]), int(found[2])
            a, b = self.step(later), self.step(first)
            if a is None or b is None:
                raise BadEntry(f"{line.strip()}: both steps must stand on this shelf; {self.group} has {self._numbers()}.")
            return Command(f"{a.title} would come before {b.title}", does=lambda: self.move(later, first))
        if line.lower().startswith("way "):
            return self._reads_way(line[4:].strip().lower())
        if line.lower().startswith("over "):
            if self.why is None and self.string is None:
                raise BadEntry("over sets a rule aside that stands below; move a step, or press a string first.")
            told = line[5:].strip()
            return Command(f"the rule is set aside: {told}", does=lambda: self._over(told))
        return None

    def _reads_way(self, way: str) -> Command:
        ways = self.ways_here
        if way not in ways:
            needs = f"needs {' or '.join(ways)}" if ways else "its machine takes the step in hand as it is"
            raise BadEntry(f"way: found “{way}”; {needs}.")
        return Command(f"it is done {SHORT[way].lower()}", does=lambda: self.choose_way(way))

    def _over(self, told: str) -> None:
        self.reason.setText(told)
        self.set_aside()

    def _numbers(self) -> str:
        numbers = [s.number for s in self.shelf.steps] if self.shelf is not None else []
        return f"{numbers[0]} to {numbers[-1]}" if numbers else "none"

    # placing --------------------------------------------------------------------------------------------------------
    @override
    def heads(self) -> tuple[str, list[tuple[str, str]]] | None:
        """What the head says: the instrument, the group, how far it is."""
        if self.bench is None or self.shelf is None:
            return None
        design = self.state.design
        made = sum(s.done for s in self.shelf.steps)
        name = design.name if design is not None else self.bench.under_way.designs[0]
        return name, [(self.group, ""), (str(len(self.shelf.steps)), "steps"), (str(made), "made")]

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right walk the shelf, with Alt they move the step in hand; Esc puts it back."""
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if by is not None and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            numbers = [s.number for s in self.shelf.steps] if self.shelf is not None else []
            at = numbers.index(self.chosen) if self.chosen in numbers else 0
            if 0 <= at + by < len(numbers):
                self.move(*((numbers[at], numbers[at - 1]) if by < 0 else (numbers[at + 1], numbers[at])))
        elif by is not None:
            self.walk(by)
        elif event.key() == Qt.Key.Key_Escape and (self.why is not None or self.string is not None):
            self.put_back()
        else:
            super().keyPressEvent(event)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A press near a string takes it up."""
        near = min(
            self._strings(),
            key=lambda row: abs(row[1].x() - event.position().x()) + abs(row[1].y() - event.position().y()),
            default=None,
        )
        if near is not None and abs(near[1].x() - event.position().x()) < 90 and abs(near[1].y() - event.position().y()) < 14:
            self.press_string(near[0])

    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [
            ("step < step", "puts a step before another one, where no rule forbids it", "9 < 8"),
            ("way name", "does a step that no machine takes in another legal way", "way sled"),
            ("over reason", "sets the rule aside that stands below, with a reason that stays", "over the slot runs in a jig"),
        ]

    def first_stop(self) -> QWidget | None:
        """The step in hand."""
        return (
            next((b for b in self.boxes if b.step is not None and b.step.number == self.chosen and b.isVisibleTo(self)), None)
            or super().first_stop()
        )

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self._load()
        while len(self.buttons) < len(self.groups):
            button = WordButton(self.state, "", "", parent=self, name=f"order.group.{len(self.buttons) + 1}")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, b=button: self.show_group(str(b.property("group"))))
            self.buttons.append(button)
        names = list(self.groups)
        for k, button in enumerate(self.buttons):
            button.setVisible(k < len(names))
            if k < len(names):
                button.setProperty("group", names[k])
                button.say(names[k])
                button.setChecked(names[k] == self.group)
        flow.wrapped(
            [(b, max(64, b.sizeHint().width())) for b in self.buttons[: len(names)]], LEFT, 6, self.width() - RIGHT, gap=6
        )
        self._place_boxes()
        self._place_foot()
        self.update()

    def _wide(self) -> float:
        return (self.width() - LEFT - RIGHT) / SHOWN

    @property
    def _shelf_y(self) -> float:
        return GROUPS_H + DAYS_H + STRINGS_H

    def _place_boxes(self) -> None:
        shown, wide = self.shown, self._wide()
        while len(self.boxes) < len(shown):
            self.boxes.append(StepBox(self))
        for k, box in enumerate(self.boxes):
            box.setVisible(k < len(shown))
            if k < len(shown):
                away = self.lifted[1] if self.lifted[0] == shown[k].number else 0.0
                flow.row([(box, int(wide) - 4)], LEFT + k * wide + away, self._shelf_y - (12 if away else 0), high=BOX_H)
                box.set(shown[k])
                if away:
                    box.raise_()

    def _place_foot(self) -> None:
        tie = self.string.tie if self.string is not None else self.why.tie if self.why is not None else None
        told = self.why is not None or self.string is not None
        y = self.height() - 58
        self.reason.setVisible(tie is not None and not tie.over)
        self.over_it.setVisible(tie is not None)
        self.over_it.say("It binds again" if tie is not None and tie.over else "Go on so")
        self.back_it.setVisible(told)
        self.bench_it.setVisible(not told)
        self.bench_it.say("Bench" if self.shelf is not None else "Lay out")
        middle = LEFT + (self.width() - LEFT - RIGHT) * 0.5
        some = [b for way, b in zip(SHORT, self.ways) if way in self.ways_here]
        step = self.step(self.chosen)
        for way, button in zip(SHORT, self.ways):
            button.setVisible(button in some)
            button.setChecked(step is not None and step.operation.settings.get("way", BY_HAND) == way)
        flow.row([(b, max(90, b.sizeHint().width())) for b in some], LEFT, y, gap=6)
        flow.row([(self.back_it, 170)], LEFT, y)
        flow.row([(self.reason, max(120, int(self.width() - RIGHT - middle - 150)))], middle, y)
        flow.row_to_right([(self.over_it, 140)], self.width() - RIGHT, y)
        flow.row_to_right([(self.bench_it, 190)], self.width() - RIGHT, y)

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        if self.shelf is None:
            draw.empty(
                p,
                theme,
                QRectF(LEFT, 40, self.width() - LEFT - RIGHT, self.height() - 120),
                "Nothing to put in order yet.",
                NOTHING,
            )
            return
        shown, wide = self.shown, self._wide()
        self._days(p, shown, wide)
        strings = self._strings()
        for string, middle in strings:
            self._draw_string(p, string, middle)
        for string, middle in strings:  # over every line
            self._string_words(p, string, middle)
        y = self._shelf_y + 86
        p.setPen(QPen(theme.edge, 2))
        p.drawLine(QPointF(LEFT, y), QPointF(self.width() - RIGHT, y))
        for number, words in self.shelf.waits:
            at = next((k for k, s in enumerate(shown) if s.number == number), None)
            if at is not None:
                self._post(p, LEFT + (at + 1) * wide - 3, words)
        self._foot(p)

    def _days(self, p: QPainter, shown: list[ShelfStep], wide: float) -> None:
        theme, last = self.state.theme, ""
        more = len(self.shelf.steps) - len(shown) - self.first if self.shelf is not None else 0
        for k, step in enumerate(shown):
            day = "made" if step.done else day_words(step.day)
            if day and day != last:
                x = LEFT + k * wide
                p.setPen(QPen(theme.edge, 1))
                p.drawLine(QPointF(x, GROUPS_H + 8), QPointF(x, GROUPS_H + DAYS_H))
                draw.text_at(p, x + 5, GROUPS_H + 20, day, theme.ink, 13.5, 600, figures=True)
                last = day
        if self.first or more > 0:
            words = f"{self.first} before, {more} after: arrows"
            draw.text_at(p, self.width() - RIGHT - draw.text_width(words, 13), GROUPS_H + 20, words, theme.ink2, 13)

    def _strings(self) -> list[tuple[String, QPointF]]:
        """The strings between steps on the shelf, each with the middle of its words; spread so that words do not meet."""
        if self.shelf is None:
            return []
        shown, wide = self.shown, self._wide()
        at = {s.number: LEFT + k * wide + wide / 2 for k, s in enumerate(shown)}
        rows: list[tuple[String, QPointF]] = []
        ends: list[float] = []
        for string in sorted(self.shelf.strings, key=lambda s: (s.to_number - s.from_number, s.from_number)):
            if string.from_number not in at or string.to_number not in at:
                continue
            middle = (at[string.from_number] + at[string.to_number]) / 2
            half = draw.text_width(string.tie.rule, 13, 600) / 2 + 8
            level = next((k for k, end in enumerate(ends) if end < middle - half), len(ends))
            if level > 5:
                continue
            if level == len(ends):
                ends.append(0.0)
            ends[level] = middle + half
            rows.append((string, QPointF(middle, self._shelf_y - 16 - 20 * level)))
        return rows

    def _draw_string(self, p: QPainter, string: String, middle: QPointF) -> None:
        theme, wide = self.state.theme, self._wide()
        at = {s.number: LEFT + k * wide + wide / 2 for k, s in enumerate(self.shown)}
        a, b, foot = at[string.from_number], at[string.to_number], self._shelf_y + 2
        taut = self.why is not None and self.why.tie == string.tie
        held = self.string is not None and self.string.tie == string.tie
        colour = theme.wine if taut else theme.chalk if held else theme.ochre if string.tie.over else theme.ink2
        pen = QPen(colour, 2.4 if taut or held else 1.4)
        if string.tie.over or not string.tie.blocks:
            pen.setDashPattern([4, 3])
        p.setPen(pen)
        p.setBrush(Qt.BrushStyle.NoBrush)
        words = string.tie.rule
        half = draw.text_width(words, 13, 600) / 2
        left, right = min(middle.x() - half - 6, middle.x()), max(middle.x() + half + 6, middle.x())
        path = QPainterPath(QPointF(a, foot))
        path.cubicTo(QPointF(a, middle.y()), QPointF(a, middle.y()), QPointF(max(a, left), middle.y()))
        path.moveTo(QPointF(min(b, right), middle.y()))
        path.cubicTo(QPointF(b, middle.y()), QPointF(b, middle.y()), QPointF(b, foot))
        p.drawPath(path)
        p.setBrush(colour)
        for x in (a, b):
            p.drawEllipse(QPointF(x, foot), 3, 3)

    def _colour(self, string: String) -> QColor:
        """Wine where it forbids the last move, chalk where it is pressed, ochre where it is set aside."""
        theme = self.state.theme
        taut = self.why is not None and self.why.tie == string.tie
        held = self.string is not None and self.string.tie == string.tie
        return theme.wine if taut else theme.chalk if held else theme.ochre if string.tie.over else theme.ink

    def _string_words(self, p: QPainter, string: String, middle: QPointF) -> None:
        theme, words = self.state.theme, string.tie.rule
        half = draw.text_width(words, 13, 600) / 2
        p.fillRect(QRectF(middle.x() - half - 4, middle.y() - 8, 2 * half + 8, 18), theme.bench)
        draw.text_at(p, middle.x() - half, middle.y() + 5, words, self._colour(string), 13, 600)

    def _post(self, p: QPainter, x: float, words: str) -> None:
        """A hold: a post with strokes, and how long."""
        theme = self.state.theme
        top, bottom = self._shelf_y + 2, self._shelf_y + 84
        p.setPen(QPen(theme.ochre, 2))
        p.drawLine(QPointF(x, top), QPointF(x, bottom))
        for k in range(6):
            y = top + 8 + k * 13
            p.drawLine(QPointF(x - 5, y), QPointF(x, y))
        draw.text_at(p, x - draw.text_width(words, 12.5, 600) - 7, top + 6, words, theme.ochre, 12.5, 600)

    def _foot(self, p: QPainter) -> None:
        theme = self.state.theme
        top = self.height() - FOOT_H
        p.fillRect(QRectF(0, top, self.width(), FOOT_H), theme.ground)
        room = self.width() - LEFT - RIGHT
        step = self.step(self.chosen)
        if self.why is not None:
            head, text, colour = "Why not", self.why.text, theme.wine
        elif self.string is not None:
            head, text, colour = self.string.tie.rule.capitalize(), self.string.why, theme.ink
            if self.string.tie.over:
                text = f"Set aside: {self.string.tie.over}. {text}"
        else:
            head, text, colour = (
                (f"{step.number}  {step.title}", said(step.operation), theme.ink) if step is not None else ("", "", theme.ink)
            )
        draw.text_at(p, LEFT, top + 28, head, colour, 17, 700, room=room)
        y = top + 52
        for line in wrapped(text, 14.5, room)[:2]:
            draw.text_at(p, LEFT, y, line, theme.ink2, 14.5, room=room)
            y += 20
        if self.ways_here:
            assert step is not None
            beyond = next((c.text.partition(" Ways:")[0] for c in step.operation.cautions if c.code == "beyond_machine"), "")
            draw.text_at(p, LEFT, self.height() - 68, f"{beyond} How it is done:", theme.ink, 14, 600, room=room)
        elif self.why is None and self.string is None:
            hint = "drag a step, or type 9 < 8; a string that is pressed says why. Alt with the arrows moves the step in hand"
            draw.text_at(p, LEFT, self.height() - 26, hint, theme.ink2, 13.5, room=room - 220)
        elif self.over_it.isVisibleTo(self) and self.reason.isVisibleTo(self):
            middle = LEFT + room * 0.5
            draw.text_at(p, middle, self.height() - 68, "Or go on, and say why:", theme.ink, 14, 600)
