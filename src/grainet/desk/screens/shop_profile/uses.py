"""The uses page: what each use needs, in two presets or the house's own way, with what a change would change before it is kept."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import QComboBox, QLineEdit
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import font
from grainet.desk.screens.screen import Page
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.kit.uses import PRESETS, RULES, UseRule, as_preset, shipped
from grainet.session.sorting import Change, preview
from grainet.wood.units import entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry

FIELDS: tuple[tuple[str, str, str], ...] = (  # field, words, kind
    ("label", "Name", "text"), ("length_mm", "Length", "length"), ("width_mm", "Width", "length"), ("thickness_mm", "Thickness", "length"), ("leaves", "Leaves", "count"),
    ("moisture_over_pct", "Moisture off the air, %", "number"), ("least_ring_deg", "Least ring angle, °", "maybe"), ("most_slope_deg", "Most slope, °", "number"),
    ("low", "Density from, kg/m³", "number"), ("high", "Density to, kg/m³", "number"), ("most_twist_mm", "Most twist", "maybe length"), ("most_bow_mm", "Most bow", "maybe length"),
    ("most_cup_mm", "Most cup", "maybe length"), ("most_movement_mm", "Most movement a year", "maybe length"), ("wants_figure", "Figure from, 0 to 1", "maybe"),
)  # fmt: skip
SIGHT = (
    ("welcomes_shows", "what only shows is welcome"),
    ("hides_bites", "a cover may hide what bites"),
    ("core_matters", "the core matters"),
)
HOW = {"must": "required", "weigh": "preferred", "off": "ignored"}  # how strict a rule is, in words
ROW_H = 38


class UsesPage(Page):
    """The page. A change waits as a draft, with its preview, until it is kept."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.state = state
        self.draft: UseRule | None = None
        self.changes: list[Change] | None = None
        self._asked: object = None
        self.use = QComboBox(self)
        self.use.setObjectName("kit.useOf")
        self.use.setAccessibleName("The use")
        self.use.setFont(font(16, 600))
        for rule in state.shop.kit.every_use:
            self.use.addItem(rule.label, rule.use)
        self.use.activated.connect(self._choose)
        self.presets: dict[str, WordButton] = {}
        for name in PRESETS:
            button = WordButton(state, name.capitalize(), "", chalk=False, parent=self, name=f"kit.preset.{name}")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, n=name: self.try_rule(as_preset(self.rule, n)))
            self.presets[name] = button
        self.back = WordButton(state, "As shipped", "", chalk=False, parent=self, name="kit.preset.shipped")
        self.back.clicked.connect(lambda: self.try_rule(shipped(self.rule.use)))
        self.fields: dict[str, QLineEdit] = {}
        for name, words, _kind in FIELDS:
            field = QLineEdit(self)
            field.setObjectName(f"kit.use.{name}")
            field.setAccessibleName(words)
            field.setFont(font(15, 600, figures=True))
            field.editingFinished.connect(lambda f=field, n=name: self._try_field(f, n))
            self.fields[name] = field
        self.sight: dict[str, WordButton] = {}
        for name, words in SIGHT:
            chip = WordButton(state, words, "", chalk=False, parent=self, name=f"kit.use.{name}")
            chip.setCheckable(True)
            chip.clicked.connect(lambda on, n=name: self.try_rule(self.rule.changed(**{n: on, "preset": "own"})))
            self.sight[name] = chip
        self.how: dict[str, QComboBox] = {}
        self.weight: dict[str, QLineEdit] = {}
        for name in RULES:
            box = QComboBox(self)
            box.setObjectName(f"kit.how.{name}")
            box.setAccessibleName(f"How strict: {RULES[name][0]}")
            for how, words in HOW.items():
                box.addItem(words, how)
            box.activated.connect(lambda _k, r=name, b=box: self.try_rule(self.rule.with_strictness(r, b.currentData())))
            self.how[name] = box
            field = QLineEdit(self)
            field.setObjectName(f"kit.weight.{name}")
            field.setAccessibleName(f"What it counts in the ranking: {RULES[name][0]}")
            field.setFont(font(15, 600, figures=True))
            field.editingFinished.connect(lambda f=field, r=name: self._try_weight(f, r))
            self.weight[name] = field
        self.keep = WordButton(state, "Keep it", "Ctrl+Enter", chalk=True, parent=self, name="kit.use.keep")
        self.keep.clicked.connect(self.primary_action)
        self.drop = WordButton(state, "Leave it as it was", "Esc", chalk=False, parent=self, name="kit.use.drop")
        self.drop.clicked.connect(self.start)
        state.changed.connect(self.refresh)

    @property
    def kept(self) -> UseRule:
        """The rule as the shop keeps it."""
        return self.state.shop.kit.use(self.state.use)

    @property
    def rule(self) -> UseRule:
        """The draft, or what is kept."""
        return self.draft or self.kept

    def _choose(self, k: int) -> None:
        self.state.choose_use(self.use.itemData(k))
        self.start()

    def start(self) -> None:
        """Nothing is being changed."""
        self.draft = self.changes = None
        self.refresh()

    # trying -------------------------------------------------------------------------------------------------------
    def try_rule(self, rule: UseRule) -> None:
        """Make a changed rule the draft and see what it would change."""
        self.draft = rule if rule != self.kept else None
        self.changes = None
        self._asked = self.draft
        if self.draft is not None:
            asked, shop = self.draft, self.state.shop
            self.state.background.start(lambda: preview(shop, asked), lambda found: self._previewed(asked, found), 5)
        self.refresh()

    def _previewed(self, asked: UseRule, found: object) -> None:
        if asked is self.draft:
            self.changes = found if isinstance(found, list) else []
            self.update()

    def _try_field(self, field: QLineEdit, name: str) -> None:
        text = field.text().strip()
        if text == self._shown(name):
            return
        try:
            changes = self._read(name, text)
            self.try_rule(
                self.rule.changed(
                    **changes,
                    preset="own" if name not in ("label", "length_mm", "width_mm", "thickness_mm") else self.rule.preset,
                )
            )
        except (BadEntry, ValueError) as fault:
            words = fault.errors()[0]["msg"].lower() if isinstance(fault, ValidationError) else str(fault)
            self.state.warn(f"{field.accessibleName()} “{text}”: {words}. Still {self._shown(name) or 'not asked'}.")
            field.setText(self._shown(name))

    def _read(self, name: str, text: str) -> dict[str, Any]:
        kind = next(k for n, _, k in FIELDS if n == name)
        if kind == "text":
            return {name: text}
        if kind.startswith("maybe") and not text:
            return {name: None}
        if kind.endswith("length"):
            return {name: parse_length(text, entry_unit(self.state.shop.kit.length_style)).mm}
        try:
            value = float(text.replace(",", ".").rstrip("%° "))
        except ValueError:
            raise BadEntry("not a figure") from None
        if name in ("low", "high"):
            low, high = self.rule.density_kg_m3
            pair = (value, high) if name == "low" else (low, value)
            if not 0 <= pair[0] < pair[1] <= 3000:
                raise BadEntry("needs 0 to 3000, the first under the second")
            return {"density_kg_m3": pair}
        return {name: int(value) if kind == "count" else value}

    def _try_weight(self, field: QLineEdit, rule: str) -> None:
        if field.text().strip() == f"{self.rule.weight(rule):g}":
            return
        try:
            value = float(field.text().replace(",", "."))
            new = self.rule.changed(weights=(*((r, w) for r, w in self.rule.weights if r != rule), (rule, value)), preset="own")
        except ValueError:
            self.state.warn(f"{field.accessibleName()}: “{field.text()}” needs a figure from 0 to 10.")
            field.setText(f"{self.rule.weight(rule):g}")
            return
        self.try_rule(new)

    def primary_action(self) -> None:
        """Keep the draft: it counts everywhere at once."""
        if self.draft is None:
            return
        kit, draft = self.state.shop.kit, self.draft
        source = (
            draft.source
            if draft == shipped(draft.use)
            else draft.source.removesuffix(", changed by this house") + ", changed by this house"
        )
        kept = draft.changed(source=source)
        uses = tuple(kept if r.use == draft.use else r for r in kit.every_use)
        if self.state.keep(f"what a {draft.label.lower()} needs", kit.changed(uses=uses)):
            changed = count_of(len(self.changes), "piece") if self.changes is not None else "pieces"
            self.state.notify(f"{draft.label}: kept, {changed} change")
        self.start()

    def _shown(self, name: str) -> str:
        if name in ("low", "high"):
            return f"{self.rule.density_kg_m3[name == 'high']:g}"
        value = getattr(self.rule, name)
        if value is None:
            return ""
        kind = next(k for n, _, k in FIELDS if n == name)
        return (
            format_length(value, self.state.shop.kit.length_style)
            if kind.endswith("length")
            else str(value)
            if kind == "text"
            else f"{value:g}"
        )

    # laying out ---------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        if self.draft is not None and self.draft.use != self.state.use:
            self.draft = self.changes = None
        self.use.setCurrentIndex(max(0, self.use.findData(self.state.use)))
        for name, field in self.fields.items():
            if not field.hasFocus():
                field.setText(self._shown(name))
        for name, chip in self.sight.items():
            chip.setChecked(bool(getattr(self.rule, name)))
        for rule, box in self.how.items():
            box.setCurrentIndex(box.findData(self.rule.strictness(rule)))
            if not self.weight[rule].hasFocus():
                self.weight[rule].setText(f"{self.rule.weight(rule):g}")
        for name, button in self.presets.items():
            button.setChecked(self.rule.preset == name)
        self.keep.say("Keep it", enabled=self.draft is not None)
        self.drop.setVisible(self.draft is not None)
        self._place()
        self.update()

    def _place(self) -> None:
        x = flow.row([(self.use, 210)], 0, 0, high=40, gap=14)
        flow.row([(button, 112) for button in (*self.presets.values(), self.back)], x, 0, gap=8)
        third = self.width() / 3
        gap = ROW_H - 3 - 32
        flow.column([self.fields[name] for name, _, _ in FIELDS], third - 110, 56, 84, high=32, gap=gap)
        flow.column([self.how[rule] for rule in RULES], 2 * third - 156, 80, 88, high=32, gap=gap)
        flow.column([self.weight[rule] for rule in RULES], 2 * third - 60, 80, 40, high=32, gap=gap)
        flow.column(self.sight.values(), 2 * third + 8, self.height() - 48 - 3 * 48 - 6, third - 8, gap=4)
        flow.row_to_right([(self.keep, 170), (self.drop, 200)], self.width(), self.height() - 48)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        third = self.width() / 3
        words = {"clear": "no defects in sight", "character": "what only shows is welcome", "own": "changed by this house"}[
            self.rule.preset
        ]
        draw.text_at(p, 600, 26, f"{words}; {self.rule.source}", theme.ink2, 13.5, room=self.width() - 604)
        for k, (_name, label, _kind) in enumerate(FIELDS):
            draw.text_at(p, 0, 56 + k * (ROW_H - 3) + 22, label, theme.ink, 14, room=third - 120)
        draw.text_at(p, third, 70, "Rule", theme.ink2, 13)
        draw.text_at(p, 2 * third - 156, 70, "how strict", theme.ink2, 13)
        draw.text_at(p, 2 * third - 62, 70, "counts", theme.ink2, 13)
        for k, rule in enumerate(RULES):
            draw.text_at(p, third, 80 + k * (ROW_H - 3) + 22, RULES[rule][0], theme.ink, 14, room=third - 166)
        self._preview(p, 2 * third + 8)

    def _preview(self, p: QPainter, x: float) -> None:
        theme = self.state.theme
        draw.text_at(p, x, 72, "What the change would change", theme.ink, 15, 700)
        if self.draft is None:
            draw.text_at(
                p, x, 98, "Change a figure: the pieces that it changes stand here", theme.ink2, 13.5, room=self.width() - x
            )
            draw.text_at(p, x, 116, "before anything is kept.", theme.ink2, 13.5)
            return
        if self.changes is None:
            draw.text_at(p, x, 98, "looking at the rack ...", theme.ink2, 14)
            return
        if not self.changes:
            draw.text_at(p, x, 98, "No piece changes.", theme.ink, 15, 600)
            return
        most = max(1, int((self.height() - 340) / 40))
        y = 100.0
        for one in self.changes[:most]:
            draw.text_at(p, x, y, f"No. {one.piece}", theme.ink, 15, 600)
            arrow = f"was {one.before}, now {one.after}"
            draw.text_at(p, x + 70, y, arrow, theme.chalk, 15, 600, room=self.width() - x - 70)
            draw.text_at(p, x, y + 17, one.why, theme.ink2, 13, room=self.width() - x)
            y += 40
        if len(self.changes) > most:
            draw.text_at(p, x, y, f"and {len(self.changes) - most} more", theme.ink2, 14)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        from PySide6.QtCore import Qt

        if event.key() == Qt.Key.Key_Escape and self.draft is not None:
            self.start()
            return
        super().keyPressEvent(event)
