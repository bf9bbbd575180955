"""Glue (F8): the instrument grows together along time; below it the joint in hand, with what must hold before its clock starts."""

from __future__ import annotations

import re
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QHideEvent, QKeyEvent, QPainter, QPen, QPolygonF, QShowEvent
from PySide6.QtWidgets import QAbstractButton, QMenu, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.glue.joint import BAR_H, lines_at, paint_clamps, paint_fit, paint_open_time
from grainet.desk.screens.glue.tree import TreeOfWood, clock_words
from grainet.desk.screens.screen import Page
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, wrapped
from grainet.exchange.bench_sheets import GlueSheet
from grainet.exchange.json_file import Unusable, write_bytes
from grainet.present.glue_view import ClampGroup, Gate, GlueTree, InHand, JointView, clamp_groups, face_of, in_hand, tree_of_wood
from grainet.session.commands.command import Command
from grainet.session.making import AtTheBench, at_the_bench, called, choose_way, do, methods_of, take_apart
from grainet.store.shop_file import ShopUnusable
from grainet.wood.units import entry_unit, format_length, parse_length, tell_gap
from grainet.wood.value import BadEntry
from grainet.work.clamp_plan import THIN_SEAM_MM, is_taped, pressed_with
from grainet.work.cut_plan import UnderWay
from grainet.work.holds import Held
from grainet.work.operation import Operation
from grainet.work.other_ways import CLAMPED, PRESSED, SHORT, WAYS

PANEL_H, TEXT_W, DRAWN_W = 292, 150, 250
START_W, BENCH_W, MIDDLE_W = 272, 150, 290.0  # px: the buttons below, and the middle column at the least
GATE_NAMES = {
    "prepared": "Parts",
    "measure": "Moisture",
    "fit": "Fit, dry",
    "dry": "Dry run",
    "kit": "On the bench",
    "letters": "Letters",
}
SECOND = 1000
NOTHING = (
    "Lay out a build with two parts that meet (F5) and keep its plan. Every joint then stands here in its place in time: when it is glued, when its clamps come off, when it may be planed.",
    "Before a joint's clock starts its parts are ready, their moistures near each other, its fit closed, every clamp tried dry, and its letters read off the wood.",
)


class GateButton(QAbstractButton):
    """One thing that must hold: a box, its name, its words. Pressing it does it, or opens the tape line for its figure."""

    def __init__(self, screen: Glue, name: str) -> None:
        super().__init__(screen)
        self.screen, self.gate = screen, Gate(name, holds=False, text="")
        self.setObjectName(f"gate.{name}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.meet(self.gate.name))

    def set(self, gate: Gate) -> None:
        """Show a gate."""
        self.gate = gate
        self.setAccessibleName(f"{GATE_NAMES[gate.name]}: {gate.text}, {'holds' if gate.holds else 'open'}")
        self.setToolTip(f"{GATE_NAMES[gate.name]}: {gate.text}")
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, gate = self.screen.state.theme, self.gate
        first = (
            self.screen.hand is not None
            and self.screen.hand.first_open is not None
            and self.screen.hand.first_open.name == gate.name
        )
        box = QRectF(1, 4, 16, 16)
        p.setPen(
            QPen(
                theme.chalk if gate.holds or first else theme.ink2,
                1.6,
                Qt.PenStyle.SolidLine if gate.holds or first else Qt.PenStyle.DashLine,
            )
        )
        p.setBrush(theme.slip)
        p.drawRoundedRect(box, 2, 2)
        if gate.holds:
            p.setPen(QPen(theme.chalk, 2.2))
            p.drawPolyline(QPolygonF([QPointF(4, 12), QPointF(8, 16), QPointF(15, 6)]))
        x = 26 + draw.text_at(p, 26, 17, GATE_NAMES[gate.name], theme.ink, 14, 700) + 8
        colour = theme.ink2 if gate.holds else theme.ochre if first else theme.ink2
        draw.text_at(p, x, 17, gate.text, colour, 13.5, 600 if first else 400, room=self.width() - x - 2)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))


class Glue(Page):
    """The screen."""

    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("glue")
        self.bench: AtTheBench | None = None
        self.shown: GlueTree | None = None
        self.hand: InHand | None = None
        self.chosen = ""  # the joint in hand
        self.kit: dict[str, set[str]] = {}  # by joint: what lies ready
        self.letters: dict[str, tuple[str, ...]] = {}
        self.planed_after: set[str] = set()
        self.tree = TreeOfWood(self)
        self.gates = {name: GateButton(self, name) for name in GATE_NAMES}
        self.things: list[WordButton] = []
        self.start_it = WordButton(state, "Start the clock", "Ctrl+Enter", chalk=True, parent=self, name="glue.start")
        self.start_it.clicked.connect(self.primary_action)
        self.bench_it = WordButton(state, "Bench", "Ctrl+Alt+B", parent=self, name="glue.bench")
        self.bench_it.clicked.connect(lambda: state.bench_wanted.emit(""))
        self.apart_it = WordButton(state, "Take it apart", "", parent=self, name="glue.apart")
        self.apart_it.clicked.connect(self.offer_apart)
        self.pressed_it = WordButton(state, "", "", parent=self, name="glue.pressed")
        self.pressed_it.clicked.connect(lambda: self.press_with(self.other_way))
        self.second = QTimer(self)
        self.second.setInterval(SECOND)
        self.second.timeout.connect(self._tick)
        state.changed.connect(self.refresh)

    # what is shown ------------------------------------------------------------------------------------------------
    @property
    def under_way(self) -> UnderWay | None:
        """The plan of the build in hand, else the first that was accepted."""
        return self.state.shop.plans.in_hand(self.state.design_id)

    @property
    def build(self) -> str:
        """The instrument that is glued."""
        under_way = self.under_way
        if under_way is None:
            return ""
        chosen = self.state.design_id
        return chosen if chosen is not None and chosen in under_way.designs else under_way.designs[0]

    @property
    def now(self) -> datetime:
        """The time on the shop's wall."""
        return self.state.shop.clock()

    @property
    def joint(self) -> JointView | None:
        """The joint in hand."""
        return self.shown.joint(self.chosen) if self.shown is not None else None

    def choose(self, name: str) -> None:
        """Another joint is in hand."""
        self.chosen = name
        self.refresh()

    def step_lane(self, by: int) -> None:
        """Up and down: the joint before or after."""
        if self.shown is None or not self.shown.joints:
            return
        order = sorted(self.shown.joints, key=lambda j: j.at)
        at = next((k for k, j in enumerate(order) if j.id == self.chosen), 0)
        self.choose(order[max(0, min(len(order) - 1, at + by))].id)

    def clamps(self) -> tuple[list[ClampGroup], float] | None:
        """The shop's clamps, and how far they must open for the joint in hand."""
        if self.bench is None or self.hand is None:
            return None
        return clamp_groups(self.bench), float(self.hand.joint.operation.settings.get("opens_mm", 0.0))

    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [
            ("letters", "what stands on the wood, read off it in order, before the glue", "B1 C1"),
            ("fit ends middle", "what is open at the ends and in the middle of a dry fit", "fit 0 0.04"),
            ("off", "the clamps come off now, or came off at a time of day", "off 11:50"),
            ("way", "how the joint in hand is pressed, where there is more than one way: " + ", ".join(PRESSED), "way tape"),
            ("warm °C", "how warm the shop is: what is left of every clock is scaled", "warm 16"),
        ]

    def first_stop(self) -> QWidget | None:
        """The first gate that is open, else the button that starts the clock."""
        if self.hand is not None and self.hand.first_open is not None:
            return self.gates[self.hand.first_open.name]
        return self.start_it if self.start_it.isVisibleTo(self) else super().first_stop()

    def _load(self) -> None:
        """Look again at what is under way."""
        under_way = self.under_way
        self.bench = at_the_bench(self.state.shop, under_way.id) if under_way is not None else None
        if self.bench is None:
            self.shown, self.hand = None, None
            return
        g = self.state.shop.instruments.find(self.build)
        self.shown = tree_of_wood(self.bench, self.build, g.shown_name if g is not None else self.build)
        if not self.shown.joints:
            self.hand = None
            return
        if self.joint is None:
            self.chosen = self._usual().id
        joint = self.joint
        assert joint is not None
        self.hand = in_hand(self.bench, joint, sorted(self.kit.get(joint.id, ())), self.letters.get(joint.id, ()))
        self.planed_after = {w for o in self.bench.making.operations if o.kind in ("flatten", "thickness") for w in o.works_on}

    def _usual(self) -> JointView:
        """The joint that is next, or the last one where all are glued."""
        assert self.shown is not None
        open_ = [j for j in self.shown.joints if not j.off_done]
        return min(open_ or self.shown.joints, key=lambda j: (not j.done, j.at) if open_ else (True, j.at))

    # acts -----------------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """Meet the next gate; start the clock once all hold; take the clamps off once they may come off."""
        hand, bench = self.hand, self.bench
        if hand is None or bench is None:
            self.state.screen_wanted.emit("lay_out")
            return
        joint = hand.joint
        if joint.done:
            self.clamps_off()
        elif (gate := hand.first_open) is not None:
            self.meet(gate.name)
        else:
            self._do(joint.operation, letters=self.letters.get(joint.id, ()))

    def meet(self, name: str) -> None:
        """Do what a gate asks for, or open the tape line for its figure."""
        hand = self.hand
        if hand is None or hand.joint.done:
            return
        gate = next(g for g in hand.gates if g.name == name)
        if name == "prepared":
            if hand.lacking:
                self.state.bench_wanted.emit(hand.lacking[0].id)
        elif name == "fit":
            self.state.tape_wanted.emit("fit 0 ")
        elif name == "letters":
            self.state.tape_wanted.emit("")
        elif name == "kit":
            self.kit[hand.joint.id] = set(hand.kit)
            self.refresh()
        elif gate.operation is not None and not gate.holds:
            self._do(gate.operation)

    def toggle(self, thing: str) -> None:
        """A thing of the kit lies ready, or not yet."""
        if self.hand is not None:
            some = self.kit.setdefault(self.hand.joint.id, set())
            some ^= {thing}
            self.refresh()

    @property
    def pressed_ways(self) -> tuple[str, ...]:
        """The ways to press the joint in hand; none once its clock runs."""
        if self.hand is None or self.hand.joint.done:
            return ()
        return tuple(self.hand.joint.operation.settings.get("ways", ()))

    @property
    def other_way(self) -> str:
        """The way after the one that is chosen."""
        ways = self.pressed_ways
        now = self.hand.joint.operation.settings.get("way", CLAMPED) if self.hand is not None else CLAMPED
        return ways[(ways.index(now) + 1) % len(ways)] if now in ways else CLAMPED

    def press_with(self, way: str) -> None:
        """The joint in hand is pressed in another way: in clamps, under stiff cauls, with tape."""
        hand, bench = self.hand, self.bench
        if hand is None or bench is None:
            return
        self.kit.pop(hand.joint.id, None)  # other things must lie ready
        try:
            choose_way(bench, hand.joint.operation, way)
        except (Held, ShopUnusable) as fault:
            self.state.warn(str(fault))
        else:
            self.state.notify(f"{hand.joint.label}: {WAYS[way]}")

    def offer_apart(self) -> None:
        """The ways in which the joint in hand may be taken apart."""
        hand, bench = self.hand, self.bench
        if hand is None or bench is None:
            return
        menu = QMenu(self)
        words = {
            "sawn": "Sawn along its seam",
            "heated": "Let go with warmth and moisture",
            "planed off": "The second part planed off",
        }
        for method in methods_of(bench, hand.joint.operation):
            menu.addAction(words[method]).triggered.connect(lambda _=False, m=method: self.take_apart(m))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.apart_it.mapToGlobal(self.apart_it.rect().topLeft()))

    def take_apart(self, method: str) -> None:
        """The joint in hand is undone on the wood; its gates stand open again."""
        hand, bench = self.hand, self.bench
        if hand is None or bench is None:
            return
        self.kit.pop(hand.joint.id, None)
        self.letters.pop(hand.joint.id, None)
        try:
            _, said = take_apart(bench, hand.joint.operation, method)
        except (Held, ShopUnusable) as fault:
            self.state.warn(str(fault))
        else:
            self.state.notify(said)

    def clamps_off(self, at: datetime | None = None) -> None:
        """The clamps of the joint in hand come off."""
        hand, bench = self.hand, self.bench
        if hand is None or bench is None or (cure := bench.cure_of(hand.joint.operation)) is None:
            return
        if not hand.joint.done:
            self.state.warn("nothing is in clamps here yet")
        elif hand.joint.off_done:
            self._next_joint()
        elif (at or self.now) < hand.joint.off:
            self.state.warn(f"They stay on until {hand.joint.off:%a %H:%M}: {clock_words(hand.joint.off, self.now)} more.")
        else:
            self._do(cure)

    def _next_joint(self) -> None:
        assert self.shown is not None
        left = sorted((j for j in self.shown.joints if not j.off_done), key=lambda j: j.at)
        if left:
            self.choose(left[0].id)
        else:
            self.state.notify("every joint is glued")

    def _do(self, one: Operation, **told: Any) -> None:
        """Mark an operation done, or say what holds it."""
        if self.bench is None:
            return
        asked = getattr(self, "_asked", None) == one.id
        agreed = tuple(c.code for c in one.cautions if c.grade == "A") if asked else ()
        try:
            do(self.bench, one, agreed=agreed, **told)
        except Held as fault:
            self._asked = one.id if fault.hold.kind == "caution" else None
            self.state.warn(str(fault) + (" Press once more to agree." if self._asked else ""))
        except ShopUnusable as fault:
            self.state.warn(str(fault))
        else:
            self._asked = None
            self.state.notify(self._done_words(one))

    def _done_words(self, one: Operation) -> str:
        words = {
            "glue": "the clock runs; it runs on when the window is shut",
            "cure": "the clamps are free",
            "fit": "the fit is accepted",
        }
        return words.get(one.kind, f"{one.kind} done")

    # on paper -----------------------------------------------------------------------------------------------------
    def print_map(self, path: str | None = None) -> None:
        """The joint in hand on one page: its clamps, its kit, its gates with room to write, its clocks."""
        hand = self.hand
        if hand is None:
            self.state.warn("no joint to print yet: F5")
            return
        from grainet.exchange.bench_sheets import glue_sheet_pdf

        path = path or file_to_write(self, "Glue-up sheet", f"glue {' '.join(hand.letters)}.pdf", "PDF (*.pdf)")[0]
        if not path:
            return
        try:
            write_bytes(Path(path), glue_sheet_pdf(hand.joint.operation, self._sheet(hand), self.state.shop.kit.length_style))
        except Unusable as fault:
            self.state.warn(str(fault))
        else:
            self.state.notify(f"the glue-up sheet is in {Path(path).name}")

    def _sheet(self, hand: InHand) -> GlueSheet:
        """What stands on it beside the operation."""
        kit, one, joint = self.state.shop.kit, hand.joint.operation, hand.joint
        glue, name = kit.glue, self.shown.name if self.shown is not None else ""
        used = hand.spread_s + hand.close_s + hand.clamps_s
        settings = one.settings
        wanted, here = int(settings.get("clamps", 0)), len(one.clamps)
        opens, force = float(settings.get("opens_mm", 0)), float(settings.get("force_kn", 0))
        so = "" if here >= wanted else f" the {here} that are here stand so;"
        if is_taped(one):
            clamps = [f"{wanted} strips of strong tape across the seam, {force:.1f} kN in all: every second one under it; draw the middle tight first, then by turns outwards"]  # fmt: skip
        else:
            clamps = [
                f"{wanted} clamps that open {format_length(round(opens), kit.length_style)}, {force:.1f} kN in all, {settings.get('pressure_mpa', 0):g} MPa;{so} tighten in the order of the numbers"
            ]
        if settings.get("joint") == "edge":
            clamps.append(f"whole lines: {'' if is_taped(one) else 'bars '}over the wood, broken lines: under it")
        clamps += settings.get("ways_round", [])
        hours = (joint.off - joint.at, joint.flush - joint.at)
        after = [
            ("tape off after" if is_taped(one) else "clamps off after", clock_words(joint.at + hours[0], joint.at)),
            ("plane flush after", clock_words(joint.at + hours[1], joint.at)),
        ]
        return GlueSheet(
            f"{name}: {joint.label}", hand.letters, hand.kit, f"{glue.name}, {settings.get('spread_g', 0):g} g at {kit.temperature_c:g} °C", self._why(one),
            f"{hand.open_s:.0f} s, this joint needs {used:.0f}", tuple(clamps), next((g.text for g in hand.gates if g.name == "fit"), "").partition(": fit")[0], tuple(after),
        )  # fmt: skip

    # the tape line ------------------------------------------------------------------------------------------------
    @override
    def reads(self, line: str) -> Command | None:
        """Letters typed back, ``fit 0 0.04``, ``off``, ``off 11:50``, ``warm 16``; None for all else. Raises BadEntry."""
        hand = self.hand
        if hand is None:
            return None
        words = line.split()
        word = words[0].lower() if words else ""
        if word == "fit":
            return self._fit(words[1:])
        if word == "off" and len(words) <= 2:
            return self._off(words[1:])
        if word == "way":
            return self._reads_way(" ".join(words[1:]).lower())
        if word == "warm" and len(words) == 2:
            return self._warm(words[1])
        known = {w.upper() for w in hand.letters}
        if any(w.upper() in known for w in words) and all(re.fullmatch(r"[A-Za-z][\w]*", w) for w in words):
            return self._letters(tuple(words))
        return None

    def _letters(self, typed: tuple[str, ...]) -> Command:
        hand = self.hand
        assert hand is not None
        wanted = tuple(w.upper() for w in hand.letters)
        told = tuple(w.upper() for w in typed)
        if told != wanted:
            meets = " meets ".join(hand.letters)
            raise BadEntry(f"{' '.join(typed)}: {meets}. Read them off the wood again; it is still dry.")

        def act() -> None:
            self.letters[hand.joint.id] = typed
            self.refresh()

        return Command("letters agree", does=act)

    def _reads_way(self, way: str) -> Command:
        ways, hand = self.pressed_ways, self.hand
        if hand is not None and hand.joint.done:
            raise BadEntry("This joint is glued; how it is pressed is chosen before its clock starts.")
        if len(ways) < 2:
            most = self.state.told(THIN_SEAM_MM, "g")
            raise BadEntry(
                f"This joint is pressed in clamps alone: tape is for seams of at most {most} that enough of its strips reach across."
            )
        if way not in ways:
            raise BadEntry(f"way: found “{way}”; needs {' or '.join(ways)}.")
        return Command(f"pressed {WAYS[way]}", does=lambda: self.press_with(way))

    def _fit(self, words: list[str]) -> Command:
        hand = self.hand
        assert hand is not None
        gate = next((g.operation for g in hand.gates if g.name == "fit"), None)
        if len(words) != 2 or gate is None:
            raise BadEntry(
                f"fit needs two gaps, at the ends and in the middle, such as fit 0 {tell_gap(0.05, self.state.style)}."
            )
        unit = entry_unit(self.state.shop.kit.length_style)
        ends, middle = (0.0 if not w.strip("0.") else parse_length(w, unit).mm for w in words)
        one = gate
        return Command(
            f"open {tell_gap(ends, self.state.style)} at the ends, {tell_gap(middle, self.state.style)} in the middle",
            does=lambda: self._do(one, figures={"ends_mm": ends, "middle_mm": middle}),
        )

    def _off(self, words: list[str]) -> Command:
        at = self.now
        if words:
            try:
                hour = datetime.strptime(words[0], "%H:%M")
            except ValueError:
                raise BadEntry(f"off {words[0]} needs a time of day, such as off 11:50.") from None
            at = at.replace(hour=hour.hour, minute=hour.minute, second=0, microsecond=0)
            if at > self.now:
                raise BadEntry(f"off {words[0]} is still to come; it is {self.now:%H:%M}.")
        return Command(f"clamps off at {at:%H:%M}", does=lambda: self.clamps_off(at))

    def _warm(self, word: str) -> Command:
        try:
            warm = float(word.rstrip("°C").replace(",", "."))
            kit = self.state.shop.kit.changed(temperature_c=warm)
        except ValueError:
            raise BadEntry(f"warm {word} needs a temperature from -20 to 60 °C, such as warm 16.") from None
        return Command(
            f"{warm:g} °C here: what is left of every clock is scaled", does=lambda: self._keep_warmth(kit.temperature_c)
        )

    def _keep_warmth(self, warm: float) -> None:
        self.state.keep(f"{warm:g} °C in the shop", self.state.shop.kit.changed(temperature_c=warm))

    # placing --------------------------------------------------------------------------------------------------------
    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.second.start()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.second.stop()

    @override
    def heads(self) -> tuple[str, list[tuple[str, str]]] | None:
        """What the head says: the instrument, and the joint in hand with its main figures."""
        if self.shown is None:
            return None
        if self.hand is None:
            return self.shown.name, [("no joints", "")]
        one = self.hand.joint.operation
        long, wide = face_of(one)
        style = self.state.shop.kit.length_style
        return self.shown.name, [
            ("glue", " and ".join(called(w) for w in one.works_on)), (f"{format_length(round(long), style)} × {format_length(round(wide, 1), style)}", ""),
            (f"{float(one.settings.get('force_kn', 0.0)):.1f}", "kN"),
            (str(one.settings.get("clamps", 0)), "strips of tape" if is_taped(one) else "clamps"),
            (f"{self.state.shop.kit.temperature_c:g}", "°C"),
        ]  # fmt: skip

    def _tick(self) -> None:
        """Each second: only running bars are painted anew; each minute everything looks again at the clock."""
        if self.now.second == 0:
            self.refresh()
        elif self.hand is not None and self.hand.joint.done:
            self.update()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right: the joint before or after."""
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and not event.modifiers():
            self.step_lane(1 if event.key() == Qt.Key.Key_Right else -1)
        else:
            super().keyPressEvent(event)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self._load()
        top = self.height() - PANEL_H
        self.tree.setVisible(self.hand is not None)
        flow.fill(self.tree, 0, 0, self.width(), top)
        self.tree.show_tree(self.shown if self.hand is not None else None)
        self._place_panel(top)
        self.state.top_changed.emit()
        self.update()

    def _columns(self) -> tuple[float, float, float]:
        """Where the panel's three columns begin."""
        first = LEFT + TEXT_W + DRAWN_W + 36
        return LEFT, first, first + max(MIDDLE_W, (self.width() - first - RIGHT) * 0.46)

    @property
    def narrow(self) -> bool:
        """Whether the buttons below reach into the middle column: its gates then stand where the fit is drawn else."""
        return self.width() - RIGHT - self._columns()[2] < START_W + BENCH_W

    def _place_panel(self, top: float) -> None:
        hand = self.hand
        _, x, right = self._columns()
        for name, button in self.gates.items():
            gate = next((g for g in hand.gates if g.name == name), None) if hand is not None else None
            button.setVisible(gate is not None and not (hand is not None and hand.joint.done))
            if gate is not None:
                button.set(gate)
        flow.column([self.gates[n] for n in GATE_NAMES], x, top + (42 if self.narrow else 104), right - x - 26, high=25, gap=5)
        self._place_kit(top)
        self.start_it.say(self._start_words())
        self.bench_it.setVisible(hand is not None)
        able = hand is not None and self.bench is not None and bool(methods_of(self.bench, hand.joint.operation))
        self.apart_it.setVisible(able)
        flow.row([(self.apart_it, 150)], self._columns()[2], self.height() - 102)
        self.pressed_it.setVisible(len(self.pressed_ways) > 1)
        self.pressed_it.say(f"{SHORT[self.other_way]} instead")
        flow.row([(self.pressed_it, TEXT_W)], LEFT, self.height() - 52)
        flow.row_to_right([(self.start_it, START_W), (self.bench_it, BENCH_W)], self.width() - RIGHT, self.height() - 52)

    def _place_kit(self, top: float) -> None:
        hand = self.hand
        wanted = hand.kit if hand is not None and not hand.joint.done else ()
        while len(self.things) < len(wanted):
            button = WordButton(self.state, "", "", parent=self, name=f"kit.{len(self.things) + 1}")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, b=button: self.toggle(str(b.property("thing"))))
            self.things.append(button)
        ready = self.kit.get(hand.joint.id, set()) if hand is not None else set()
        for k, button in enumerate(self.things):
            button.setVisible(k < len(wanted))
            if k < len(wanted):
                button.setProperty("thing", wanted[k])
                button.say(wanted[k])
                button.setChecked(wanted[k] in ready)
        _, _, right = self._columns()
        columns, below, gap = (2, 104, 2) if self.narrow else (3, 138, 6)
        flow.grid(self.things[: len(wanted)], right, top + below, self.width() - RIGHT - right, columns, gap=gap)

    def _start_words(self) -> str:
        hand = self.hand
        if hand is None:
            return "Lay out a build"
        if hand.joint.done:
            if hand.joint.off_done:
                return "The next joint"
            if is_taped(hand.joint.operation):
                return "Tape off" if self.now >= hand.joint.off else f"Taped: {clock_words(hand.joint.off, self.now)}"
            return "Clamps off" if self.now >= hand.joint.off else f"In clamps: {clock_words(hand.joint.off, self.now)}"
        gate = hand.first_open
        words = {"prepared": "Prepare the parts", "measure": "Moisture is near enough", "fit": "Type the fit", "dry": "Dry run done",
                 "kit": "All on the bench", "letters": "Type the letters"}  # fmt: skip
        return words[gate.name] if gate is not None else "Start the clock"

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        hand = self.hand
        if hand is None:
            draw.empty(
                p,
                theme,
                QRectF(LEFT, 40, self.width() - LEFT - RIGHT, self.height() - 120),
                "No joints yet. Lay out two parts that meet: F5",
                NOTHING,
            )
            return
        top = self.height() - PANEL_H
        p.fillRect(QRectF(0, top, self.width(), PANEL_H), theme.ground)
        left, x, right = self._columns()
        p.setPen(QPen(theme.edge, 1))
        for line in (x - 14, right - 14):
            p.drawLine(QPointF(line, top + 14), QPointF(line, self.height() - 14))
        self._seam(p, hand, QRectF(left, top, TEXT_W, PANEL_H - (56 if len(self.pressed_ways) > 1 else 0)))
        self._fit_column(p, hand, QRectF(x, top, right - x - 28, PANEL_H))
        self._open_column(p, hand, QRectF(right, top, self.width() - RIGHT - right, PANEL_H))

    def _woods(self, one: Operation) -> list[str]:
        """The species of what is glued, by the first board of each."""
        assert self.bench is not None
        pieces = {w.id: w for w in self.bench.making.workpieces}
        found = []
        for name in one.works_on:
            at = pieces[name]
            while at.members:
                at = pieces[at.members[0]]
            found.append(self.bench.under_way.job.piece(at.from_).species if at.from_ else "")
        return found

    def _seam(self, p: QPainter, hand: InHand, box: QRectF) -> None:
        theme, one = self.state.theme, hand.joint.operation
        name = hand.joint.label
        y = lines_at(p, theme, f"{name[:1].upper()}{name[1:]}", box.x(), box.y() + 26, box.width(), colour=theme.ink, most=3) + 6
        wanted, has = int(one.settings.get("clamps", 0)), len(one.clamps)
        force = float(one.settings.get("force_kn", 0.0))
        rows = int(one.settings.get("rows", 1))
        each = force / wanted if wanted else 0.0
        taped = is_taped(one)
        lines = [
            pressed_with(one) if taped else f"{wanted} clamps" + (f", {rows} rows" if rows > 1 else ""),
            f"{each:.1f} kN each, {force:.1f} in all",
            f"{float(one.settings.get('pressure_mpa', 0.0)):g} MPa, open {self.state.told(float(one.settings.get('opens_mm', 0.0)))}",
        ]
        for line in lines:
            draw.text_at(p, box.x(), y, line, theme.ink, 14, 600, room=box.width())
            y += 20
        if has < wanted:
            said = next((c.text for c in one.cautions if c.code == "clamps"), f"{has} of {wanted} are here")
            y = lines_at(p, theme, said, box.x(), y + 4, box.width(), colour=theme.wine, most=7)
        else:
            turns = (
                "over and under by turns; a fit that two fingers close"
                if taped
                else "bars over and under by turns, so that nothing bows"
                if one.settings.get("joint") == "edge"
                else "tighten in this order"
            )
            y = lines_at(p, theme, turns, box.x(), y + 4, box.width(), most=3)
        told = [*one.settings.get("ways_round", [])]  # both ways round, the better one first
        if has >= wanted:
            told.append(f"Against slipping: {one.settings.get('slip', '')}.")
        for k, words in enumerate(told):
            if len(wrapped(words, 13.5, box.width())) * 18 > box.bottom() - y:
                break  # the sheet has it whole
            y = lines_at(
                p, theme, words, box.x(), y + 4, box.width(), colour=theme.ink if k == 0 and len(told) > 1 else None, most=9
            )
        drawn = QRectF(box.right() + 12, box.y() + 10, DRAWN_W, PANEL_H - 20)
        paint_clamps(p, theme, one, self._woods(one), drawn)

    def _fit_column(self, p: QPainter, hand: InHand, box: QRectF) -> None:
        theme = self.state.theme
        fit = next((g for g in hand.gates if g.name == "fit"), None)
        if fit is None or fit.operation is None or self.bench is None:
            return
        row = self.bench.log.row(fit.operation.id)
        draw.text_at(p, box.x(), box.y() + 26, "Fit, dry", theme.ink, 16, 700)
        if self.narrow and not hand.joint.done:
            return
        draw.text_at(p, box.x() + 74, box.y() + 26, "the gap drawn many times as tall", theme.ink2, 13, room=box.width() - 74)
        paint_fit(
            p,
            theme,
            fit.operation,
            dict(row.figures) if row is not None else {},
            self._woods(hand.joint.operation),
            QRectF(box.x(), box.y() + 38, box.width(), 56),
            self.state.style,
        )
        if hand.joint.done:
            self._times(p, hand, box.x(), box.y() + 124, box.width())

    def _times(self, p: QPainter, hand: InHand, x: float, y: float, room: float) -> None:
        """When the clamps come off, when it may be planed, when it is full."""
        theme, glue = self.state.theme, self.state.shop.kit.glue
        full = hand.joint.at + timedelta(hours=glue.full_h * 2 ** ((20 - self.state.shop.kit.temperature_c) / 5))
        for word, at in (
            ("glued", hand.joint.at),
            ("clamps off", hand.joint.off),
            ("plane flush", hand.joint.flush),
            ("full", full),
        ):
            past = at <= self.now
            p.fillRect(QRectF(x, y - 12, 3, 16), theme.ink2 if past else theme.ochre)
            wide = draw.text_at(p, x + 10, y, word, theme.ink2, 13.5)
            told = f"{at:%a %d %b, %H:%M}" + ("" if past else f", in {clock_words(at, self.now)}")
            draw.text_at(p, x + 10 + max(90, wide + 8), y, told, theme.ink, 14, 600, room=room - 110, figures=True)
            y += 26

    def _open_column(self, p: QPainter, hand: InHand, box: QRectF) -> None:
        theme, kit, one = self.state.theme, self.state.shop.kit, hand.joint.operation
        used = hand.spread_s + hand.close_s + hand.clamps_s
        x = box.x() + draw.text_at(p, box.x(), box.y() + 26, "Open time", theme.ink, 16, 700) + 10
        stage = one.settings.get("stage", "one stage")
        words = f"{hand.open_s:.0f} s; this joint needs {used:.0f}, {stage if stage == 'one stage' else f'stage {stage}'}"
        draw.text_at(p, x, box.y() + 26, words, theme.wine if used > hand.open_s else theme.ink2, 13.5, room=box.right() - x)
        gone = None
        if hand.joint.done:
            gone = (self.now - hand.joint.at).total_seconds()
            gone = gone if gone <= hand.open_s + 60 else None
        paint_open_time(p, theme, hand, gone, QRectF(box.x(), box.y() + 38, box.width(), BAR_H))
        glue = kit.glue
        name = f"{glue.name}: {one.settings.get('spread_g', 0):g} g, {kit.temperature_c:g} °C"
        draw.text_at(p, box.x(), box.y() + 98, name, theme.ink, 15, 700, room=box.width())
        if self.narrow and not hand.joint.done:  # what lies ready stands here
            return
        y = lines_at(p, theme, self._why(one), box.x(), box.y() + 118, box.width(), most=1)
        if hand.joint.done:
            lines_at(p, theme, "clocks run on with the window shut", box.x(), y + 22, box.width(), most=1)

    def _why(self, one: Operation) -> str:
        """What speaks at this joint about the glue: cautions first."""
        said = [c.text for c in one.cautions if c.code != "clamps"]
        glue = self.state.shop.kit.glue
        return said[0] if said else f"the house's glue; its label wins, it sets on from {glue.least_c:g} °C"
