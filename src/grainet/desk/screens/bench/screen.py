"""The bench: one operation on the whole window, readable at two metres, with four keys: back, the next thing, measure, trouble.

A caution of grade A, and each letter of a glue-up, is ticked by a press of its own after it has stood a second; a held key, a bouncing
switch or a press elsewhere ticks nothing. Where the bench stands is kept at every key.
"""

from __future__ import annotations

from time import monotonic
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QHideEvent, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF, QShowEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.screens.bench.digits import Digits
from grainet.desk.screens.bench.wood import paint_wood
from grainet.desk.widgets.controls import wrapped
from grainet.instruments.reading import InstrumentFault, Reading
from grainet.present.bench_view import BenchStep, Tick, bench_step
from grainet.session.bench_place import BenchPlace, keep_place, kept_place
from grainet.session.learning import board_of
from grainet.session.making import AtTheBench, at_the_bench, do, measure_again
from grainet.session.resting import read_straight
from grainet.store.shop_file import ShopUnusable
from grainet.wood.units import LengthStyle, tell_gap
from grainet.wood.value import BadEntry
from grainet.work.holds import Held
from grainet.work.operation import Operation

if TYPE_CHECKING:
    from grainet.desk.main_window import Window

STRIP_H, BAND_H, KEYS_H = 84, 96, 176
LEAST_PX, TITLE_PX, NUMBER_PX = 34, 60, 236
STANDS_S = 1.0  # how long a caution has stood before a press may tick it
BOUNCE_S = 0.35  # two presses nearer than this are one
GAPS = ("fit", "trial")  # steps that measure a gap
NOT_BY_CALLIPERS = (*GAPS, "flatten", "joint", "rest")  # a gap, or what was taken off: no size that they could be held to
SHOWN = 9  # steps in the strip
TROUBLES = (
    ("a crack", "crack "), ("metal", "nail "), ("a cut went elsewhere", "went "), ("a part is lost", "lost "), ("tear-out", "mishap tear-out "),
    ("something else", "mishap "),
)  # fmt: skip


class BenchKey(QAbstractButton):
    """One of the four keys, large enough for a dusty hand."""

    def __init__(self, bench: Bench, name: str, arrow: str) -> None:
        super().__init__(bench)
        self.bench, self.arrow, self.word, self.main = bench, arrow, name, name == "next"
        self.setObjectName(f"bench.{name}")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def say(self, word: str) -> None:
        """What it does now."""
        self.word = word
        self.setAccessibleName(word)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.bench.state.theme
        box = QRectF(1.5, 1.5, self.width() - 3, self.height() - 3)
        p.setPen(QPen(theme.chalk if self.main else theme.rail_status, 3))
        p.setBrush(theme.chalk if self.main else theme.rail)
        p.drawRoundedRect(box, 8, 8)
        ink = theme.on_chalk if self.main else theme.rail_ink
        px = 40 if draw.text_width(self.word, 40, 600) < self.width() - 110 else LEAST_PX
        wide = draw.text_at(p, 22, self.height() / 2 + 14, self.arrow, ink, 44, 600)
        draw.text_at(p, 22 + wide + 14, self.height() / 2 + 13, self.word, ink, px, 600, room=self.width() - wide - 44)


def _agreed_word(tick: Tick) -> str:
    """What a press says to a tick: yes to a caution, the letter to one that is read off the wood."""
    return f"it is {tick.code.removeprefix('letter ')}" if tick.code.startswith("letter ") else "agreed"


class Bench(QWidget):
    """Covers the whole window while it is open."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self.window_, self.state = window, window.state
        self.setObjectName("bench")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.bench: AtTheBench | None = None
        self.step: BenchStep | None = None
        self.plan_id = ""
        self.at = ""  # the operation that is shown
        self.ticked: set[str] = set()
        self.digits: Digits | None = None
        self.troubles = -1  # which trouble is chosen; -1: none are shown
        self.said = ""
        self._stands_since = monotonic()
        self._pressed_at = 0.0
        self.keys = {
            name: BenchKey(self, name, arrow)
            for name, arrow in (("back", "←"), ("measure", "↑"), ("trouble", "↓"), ("next", "→"))
        }
        for name, key in self.keys.items():
            key.clicked.connect(lambda _=False, name=name: self.press(name))
        self.minute = QTimer(self)
        self.minute.setInterval(20_000)
        self.minute.timeout.connect(self.refresh)
        self.state.changed.connect(self.refresh)
        self.hide()

    # opening ------------------------------------------------------------------------------------------------------
    def open_at(self, operation: str = "") -> None:
        """Open at an operation; without one where it stood, else at what comes next."""
        shop = self.state.shop
        under_way = shop.plans.in_hand(self.state.design_id)
        place = kept_place(shop.file.folder)
        if not operation and place is not None and any(u.id == place.plan for u in shop.plans.accepted()):
            under_way = shop.plans.under_way(place.plan)
        if under_way is None:
            self.state.warn("There is nothing to make yet: lay out a build and keep its plan (F5).")
            return
        self.plan_id = under_way.id
        self.bench = at_the_bench(shop, under_way.id)
        known = {o.id for o in self.bench.making.operations} if self.bench is not None else set()
        last = place.operation if place is not None and place.plan == under_way.id and place.operation in known else ""
        upcoming = self.bench.next if self.bench is not None else None
        self._stand_at(operation if operation in known else last or (upcoming.id if upcoming is not None else ""))
        self.setGeometry(self.window_.rect())
        self.show()
        self.raise_()
        self.setFocus()

    def leave(self) -> None:
        """Back to the window."""
        self.hide()
        self.window_.setFocus()

    def _stand_at(self, operation: str) -> None:
        self.at, self.ticked, self.digits, self.troubles, self.said = operation, set(), None, -1, ""
        self._stands_since = monotonic()
        if operation:
            keep_place(self.state.shop.file.folder, BenchPlace(self.plan_id, operation))
        self.refresh()

    # keys -----------------------------------------------------------------------------------------------------------
    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The four keys; Esc leaves. A held key does nothing more."""
        names = {Qt.Key.Key_Left: "back", Qt.Key.Key_Right: "next", Qt.Key.Key_Up: "measure", Qt.Key.Key_Down: "trouble"}
        if event.isAutoRepeat():
            return
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        elif (name := names.get(Qt.Key(event.key()))) is not None:
            self.press(name)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A press on the strip of steps leaves; anywhere else it does nothing."""
        if event.position().y() < STRIP_H:
            self.leave()

    def press(self, name: str) -> None:
        """One key, unless the one before was only just pressed: a switch bounces."""
        now = monotonic()
        if self.digits is None and self.troubles < 0 and now - self._pressed_at < BOUNCE_S:
            return
        self._pressed_at = now
        if self.step is None:
            self.leave()
        elif self.digits is not None:
            self._turn(name)
        elif self.troubles >= 0:
            self._trouble(name)
        elif name == "back":
            self._walk(-1)
        elif name == "measure":
            self._measure()
        elif name == "trouble":
            self.troubles = 0
            self.refresh()
        else:
            self._next()

    def _walk(self, by: int) -> None:
        """The step before or after, done or not."""
        assert self.bench is not None
        order = [o.id for o in self.bench.making.operations]
        at = order.index(self.at) if self.at in order else 0
        self._stand_at(order[max(0, min(len(order) - 1, at + by))])

    def _next(self) -> None:
        """Tick the next thing that is agreed to; with all ticked do the step; from one that is done go on."""
        step = self.step
        assert step is not None
        if step.done:
            self._walk(1)
            return
        if step.held:
            self.said = step.held
            self._to_what_may_be()
            return
        left = [t for t in step.ticks if t.code not in self.ticked]
        if left:
            if monotonic() - self._stands_since < STANDS_S:
                return
            self.ticked.add(left[0].code)
            self._stands_since = monotonic()
            self.refresh()
            return
        self._do(step)

    def _to_what_may_be(self) -> None:
        """From a step that waits to one that may be done; where all wait, stay and say until when."""
        assert self.bench is not None
        ready = [o for o in self.bench.ready if o.id != self.at and next(self.bench.holds(o), None) is None]
        if ready:
            said = self.said
            self._stand_at(ready[0].id)
            self.said = said
        self.refresh()

    def _do(self, step: BenchStep, figures: dict[str, float] | None = None) -> None:
        assert self.bench is not None
        one = step.operation
        letters = [t.code.removeprefix("letter ") for t in step.ticks if t.code.startswith("letter ")]
        try:
            after = do(self.bench, one, figures=figures, agreed=sorted(self.ticked), letters=letters, by_eye=one.kind == "fit")
        except Held as fault:
            self.said = str(fault)
            self.refresh()
            return
        except (ShopUnusable, BadEntry) as fault:
            self.said = str(fault)
            self.refresh()
            return
        following = self._following(after, one)
        self._stand_at(following.id if following is not None else one.id)
        self.said = "" if following is not None else "everything is made"

    def _following(self, after: AtTheBench, one: Operation) -> Operation | None:
        """What comes next: what the step just done was needed for and may be done, else the first that may, else the first that waits."""
        ready = after.ready
        return next((o for o in ready if one.id in o.needs), after.next)

    # measuring --------------------------------------------------------------------------------------------------------
    def _measure(self) -> None:
        step = self.step
        assert step is not None
        if not step.measures:
            self.said = "nothing is measured at this step"
        else:
            self.digits = Digits(step.figure_mm or 0.0, 2 if step.operation.kind in GAPS else 1, self._style)
            self.said = "" if step.operation.kind in NOT_BY_CALLIPERS else "F12 reads the callipers"
        self.refresh()

    def read_instrument(self) -> None:
        """F12: the camera takes the pair that is to be photographed; else the callipers read the size of this step, and right keeps it as
        one that was turned."""
        step = self.step
        if step is not None and step.operation.kind == "photograph" and self.bench is not None:
            self._photograph(self.bench, step.operation)
            return
        if step is None or not step.measures or step.figure_mm is None or step.operation.kind in NOT_BY_CALLIPERS:
            self.said = "nothing that callipers measure is made at this step"
            self.refresh()
            return

        def came(found: Reading | InstrumentFault) -> None:
            if not self.isVisible() or self.step is None or self.step.operation.id != step.operation.id:
                return  # another step stands there now
            if isinstance(found, InstrumentFault):
                self.said = str(found)
            else:
                self.digits = Digits(found.value, 2, self._style)
                self.said = f"{found.by}: {found.doubt}" if found.doubt else f"{found.by} says {self.digits.text}; → keeps it"
            self.refresh()

        self.said = self.window_.bring_in.bench.read_size(step.figure_mm, came)
        self.refresh()

    def _photograph(self, bench: AtTheBench, one: Operation) -> None:
        """The photo of a pair is marked and read in Match."""
        leaf = next((w for w in bench.making.workpieces if w.id == one.works_on[0]), None)
        if leaf is None:
            return
        self.leave()
        self.state.choose_design(leaf.build)
        self.window_.match(lambda match: match.photograph(leaf.part))

    def _turn(self, name: str) -> None:
        digits, step = self.digits, self.step
        assert digits is not None and step is not None
        if name in ("measure", "trouble"):
            digits.turn(1 if name == "measure" else -1)
        else:
            told = digits.move(1 if name == "next" else -1)
            if told:
                self.digits = None
            if told == "kept":
                self._keep(step, digits.mm)
                return
        self.refresh()

    @property
    def _moisture(self) -> bool:
        """Whether the figure of this step is a moisture, which is no length."""
        return self.step is not None and self.step.operation.settings.get("what") == "moisture"

    @property
    def _style(self) -> LengthStyle:
        """How the figure of this step is turned."""
        return "mm" if self._moisture else self.state.style

    @property
    def _unit(self) -> str:
        return "%" if self._moisture else "mm" if self._style == "mm" else "inches"

    def _in_digits(self, mm: float) -> str:
        """A figure as it was turned."""
        return f"{mm:g}" if self._style == "mm" else tell_gap(mm, self._style)

    def _keep(self, step: BenchStep, mm: float) -> None:
        """A figure that was measured: of a step that is not done it comes with it; of one that is done it is written to it."""
        assert self.bench is not None
        one = step.operation
        if one.kind == "fit" and not step.done:
            self._do(step, {"middle_mm": mm})
            return
        if one.kind == "rest":
            self.said = read_straight(self.bench, one, mm)
        elif self.bench.log.row(one.id) is not None:
            measure_again(self.bench, one, mm)
            self.said = f"{self._in_digits(mm)} is written to it"
        elif one.cut is None and not step.held and all(t.code in self.ticked for t in step.ticks):
            self._do(step, {"mm": mm})
            return
        else:
            self.said = f"{self._in_digits(mm)}: agree to what comes first, then measure"
        self.refresh()

    # trouble ----------------------------------------------------------------------------------------------------------
    def _trouble(self, name: str) -> None:
        """Up and down choose what went wrong, right tells it on the wood, left goes back."""
        if name in ("measure", "trouble"):
            self.troubles = (self.troubles + (1 if name == "trouble" else -1)) % len(TROUBLES)
            self.refresh()
            return
        words = TROUBLES[self.troubles][1]
        self.troubles = -1
        if name == "back":
            self.refresh()
            return
        step = self.step
        board = board_of(self.bench, step.operation) if step is not None and self.bench is not None else ""
        told = (
            (step.operation.machine, step.operation.kind, board)
            if step is not None and words.startswith("mishap")
            else ("", "", "")
        )
        self.leave()
        self.state.at_step = told
        self.window_.show_screen("saw_and_wait")
        if self.state.shop.has_piece(board):
            self.state.choose_piece(board)
        self.state.tape_wanted.emit(words)

    # showing ----------------------------------------------------------------------------------------------------------
    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.minute.start()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.minute.stop()

    def refresh(self) -> None:
        """Look again at what is shown."""
        if not self.plan_id:
            return
        self.bench = at_the_bench(self.state.shop, self.plan_id)
        one = next((o for o in self.bench.making.operations if o.id == self.at), None) if self.bench is not None else None
        self.step = (
            bench_step(self.bench, one, self.state.shop.kit.length_style) if self.bench is not None and one is not None else None
        )
        self._place_keys()
        self.update()

    def _place_keys(self) -> None:
        top = self.height() - KEYS_H
        wide = self.width() - 40 - 3 * 14
        shares = {"back": 0.2, "measure": 0.24, "trouble": 0.22, "next": 0.34}
        x = 20.0
        for name, share in shares.items():
            self.keys[name].setGeometry(int(x), top + 18, int(wide * share), KEYS_H - 36)
            x += wide * share + 14
        step = self.step
        turning = self.digits is not None
        left = [t for t in step.ticks if t.code not in self.ticked] if step is not None else []
        self.keys["back"].say("digit" if turning else "back")
        self.keys["measure"].say("more" if turning else "up" if self.troubles >= 0 else "measure")
        self.keys["trouble"].say("less" if turning else "down" if self.troubles >= 0 else "trouble")
        word = (
            "keep it"
            if turning
            else "tell it"
            if self.troubles >= 0
            else _agreed_word(left[0])
            if left
            else step.next_word
            if step is not None
            else "leave"
        )
        if step is not None and step.held and not turning and self.troubles < 0:
            word = "what may be"
        self.keys["next"].say(word)

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        p.fillRect(QRectF(0, 0, self.width(), STRIP_H), theme.shelf)
        p.fillRect(QRectF(0, self.height() - KEYS_H, self.width(), KEYS_H), theme.rail)
        step = self.step
        if step is None or self.bench is None:
            draw.text_at(p, 40, STRIP_H + 90, "Nothing to make yet", theme.ink, TITLE_PX, 700)
            return
        self._strip(p)
        band = self._band(p, step)
        bottom = self.height() - KEYS_H - (BAND_H if band else 0)
        middle = self.width() * 0.5
        self._words(p, step, QRectF(40, STRIP_H + 8, middle - 60, bottom - STRIP_H - 8))
        paint_wood(
            p, theme, self.bench, step.operation, QRectF(middle, STRIP_H + 22, self.width() - middle - 40, bottom - STRIP_H - 44)
        )

    def _strip(self, p: QPainter) -> None:
        """The steps before and after, the one in hand ringed."""
        theme, bench = self.state.theme, self.bench
        assert bench is not None
        order = list(bench.making.operations)
        at = next((k for k, o in enumerate(order) if o.id == self.at), 0)
        first = max(0, min(at - SHOWN // 2, len(order) - SHOWN))
        some = order[first : first + SHOWN]
        wide = (self.width() - 80) / SHOWN
        for k, one in enumerate(some):
            box = QRectF(40 + k * wide + 3, 18, wide - 6, 48)
            here, done = one.id == self.at, bench.done(one)
            p.setPen(QPen(theme.chalk if here else theme.edge, 4 if here else 1.5))
            p.setBrush(theme.slip if here or not done else theme.shelf)
            p.drawRect(box)
            if done:
                p.setPen(QPen(theme.chalk, 4))
                c = box.center()
                p.drawPolyline(
                    QPolygonF([QPointF(c.x() - 12, c.y()), QPointF(c.x() - 3, c.y() + 10), QPointF(c.x() + 14, c.y() - 12)])
                )
            else:
                words = str(first + k + 1)
                draw.text_at(
                    p,
                    box.center().x() - draw.text_width(words, LEAST_PX, 600, figures=True) / 2,
                    box.center().y() + 12,
                    words,
                    theme.ink,
                    LEAST_PX,
                    600,
                    figures=True,
                )

    def _band(self, p: QPainter, step: BenchStep) -> bool:
        """What is said, held or agreed to first, as a band over the keys; whether there is one."""
        theme = self.state.theme
        box = QRectF(0, self.height() - KEYS_H - BAND_H, self.width(), BAND_H)
        if self.troubles >= 0:
            self._band_at(p, box, theme.chalk_wash, "What went wrong", TROUBLES[self.troubles][0], theme.ink)
            return True
        left = [t for t in step.ticks if t.code not in self.ticked]
        said = self.said or step.held
        if said:
            self._band_at(p, box, theme.chalk_wash, "", said, theme.ink)
            return True
        if left:
            wash = QColor(theme.wine)
            wash.setAlpha(40)
            number = len(step.ticks) - len(left) + 1
            self._band_at(p, box, wash, f"First {number} of {len(step.ticks)}", left[0].text, theme.ink, wine=True)
            return True
        return False

    def _band_at(
        self, p: QPainter, box: QRectF, ground: QColor, head: str, text: str, ink: QColor, *, wine: bool = False
    ) -> None:
        theme = self.state.theme
        p.fillRect(box, theme.bench)
        p.fillRect(box, ground)
        x = box.x() + 40
        if head:
            x += draw.text_at(p, x, box.center().y() + 12, head, theme.wine if wine else theme.chalk, LEAST_PX, 700) + 24
        px = LEAST_PX
        lines = wrapped(text, px, box.right() - x - 40)[:2]
        y = box.center().y() + 12 - (len(lines) - 1) * 21
        for line in lines:
            draw.text_at(p, x, y, line, ink, px, 500, room=box.right() - x - 20)
            y += 42

    def _words(self, p: QPainter, step: BenchStep, box: QRectF) -> None:
        """What does it, what is done, the number."""
        theme = self.state.theme
        draw.text_at(p, box.x(), box.y() + 62, step.title, theme.ink, TITLE_PX, 800, room=box.width())
        y = box.y() + 112
        for line in wrapped(step.what, 38, box.width())[:2]:
            draw.text_at(p, box.x(), y, line, theme.ink, 38, 500, room=box.width())
            y += 46
        number = self.digits.text if self.digits is not None else step.number
        if number:
            room = box.bottom() - y - 46
            px = max(
                90.0,
                min(
                    float(NUMBER_PX),
                    room * 1.05,
                    NUMBER_PX * box.width() * 0.72 / max(1.0, draw.text_width(number, NUMBER_PX, 800, figures=True)),
                ),
            )
            base = y + px * 0.78
            wide = draw.text_at(
                p, box.x(), base, number, theme.chalk if self.digits is not None else theme.ink, px, 800, figures=True
            )
            if self.digits is not None:
                self._cursor(p, box.x(), base, px, number)
            unit = self._unit if self.digits is not None else step.unit
            at = base - px * 0.62
            for line in wrapped(unit, LEAST_PX, max(120.0, box.width() - wide - 20))[:3]:
                draw.text_at(p, box.x() + wide + 18, at, line, theme.ink2, LEAST_PX, 500)
                at += 42
            if self.digits is not None:
                draw.text_at(p, box.x(), base + 56, step.measures, theme.ink2, LEAST_PX, 500, room=box.width())
        if step.then and self.digits is None:
            draw.text_at(p, box.x(), box.bottom() - 12, step.then, theme.ink2, LEAST_PX, 500, room=box.width())

    def _cursor(self, p: QPainter, x: float, base: float, px: float, number: str) -> None:
        """A line under the digit that is turned."""
        assert self.digits is not None
        places = [k for k, c in enumerate(number) if c.isdigit()]
        lead = len(places) - len(self.digits.digits)
        at = places[min(len(places) - 1, self.digits.at + max(0, lead))]
        before = draw.text_width(number[:at], px, 800, figures=True)
        wide = draw.text_width(number[at], px, 800, figures=True)
        p.fillRect(QRectF(x + before, base + 10, wide, 8), self.state.theme.chalk)
