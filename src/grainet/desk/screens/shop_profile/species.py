"""The species page: found by any name, every fact editable, the shop's own equal to the shipped ones; and what a piece may be."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError
from PySide6.QtCore import QRectF, QSignalBlocker, Qt
from PySide6.QtGui import QPainter, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import font
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.session.mishaps import note_on
from grainet.wood.candidates import Candidate, standing
from grainet.wood.species import COLOURS, FLAG_WORDS, FLAGS, POROSITIES, Species, library, plain

LIST_W = 300
FIELDS: tuple[tuple[str, str, str], ...] = (  # field, words, unit
    ("common", "Name", ""), ("scientific", "Scientific", ""), ("other_names", "Other names", ""), ("basic_sg", "Basic specific gravity", ""), ("density_12_kg_m3", "Density at 12 %", "kg/m³"),
    ("density_spread", "Its spread", "of 1"), ("shrink_radial_pct", "Shrinks radially", "%"), ("shrink_tangential_pct", "Shrinks tangentially", "%"), ("shrink_volumetric_pct", "Shrinks in volume", "%"),
    ("janka_n", "Hardness", "N"), ("moe_gpa", "Stiffness", "GPa"), ("porosity", "Pores", ""), ("colours", "Colours", ""), ("roles", "Used for", ""), ("trade_note", "Trade note", ""), ("finish_note", "Under a finish", ""),
)  # fmt: skip
NUMBERS = {
    "basic_sg",
    "density_12_kg_m3",
    "density_spread",
    "shrink_radial_pct",
    "shrink_tangential_pct",
    "shrink_volumetric_pct",
    "janka_n",
    "moe_gpa",
}
LISTS = {"other_names", "colours", "roles"}


class SpeciesPage(QWidget):
    """Search, list, facts."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.chosen: Species | None = None
        self.search = QLineEdit(self)
        self.search.setObjectName("kit.speciesSearch")
        self.search.setAccessibleName("Find a species by any name")
        self.search.setPlaceholderText("any name, or the piece in hand")
        self.search.setFont(font(16, 500))
        self.search.textChanged.connect(lambda _: self.list_names(fresh=True))
        self.list = QListWidget(self)
        self.list.setObjectName("kit.speciesList")
        self.list.setFont(font(15, 500))
        self.list.setFrameShape(QListWidget.Shape.NoFrame)
        self.list.currentItemChanged.connect(self._choose)
        self.fields: dict[str, QLineEdit] = {}
        for name, words, unit in FIELDS:
            field = QLineEdit(self)
            field.setObjectName(f"kit.species.{name}")
            field.setAccessibleName(words)
            field.setFont(font(15, 500, figures=name in NUMBERS))
            field.setToolTip(f"{words}{f', {unit}' if unit else ''}; Enter keeps it for this shop")
            field.editingFinished.connect(lambda f=field, n=name: self._keep_field(f, n))
            self.fields[name] = field
        self.flags: dict[str, WordButton] = {}
        for flag in FLAGS:
            chip = WordButton(state, FLAG_WORDS[flag], "", chalk=False, parent=self, name=f"kit.species.{flag}")
            chip.setCheckable(True)
            chip.clicked.connect(lambda on, f=flag: self._keep_flag(f, on=on))
            self.flags[flag] = chip
        self.add = WordButton(state, "Add a species like it", "", chalk=False, parent=self, name="kit.species.add")
        self.add.clicked.connect(self.add_one)
        self.back = WordButton(state, "As it was shipped", "", chalk=False, parent=self, name="kit.species.back")
        self.back.clicked.connect(self.take_back)
        state.changed.connect(self.refresh)

    # the list -----------------------------------------------------------------------------------------------------
    def _row(self, one: Species, candidate: Candidate | None, own: set[str]) -> QListWidgetItem:
        """A species' name; of one that was weighed against the piece in hand, what came of it."""
        item = QListWidgetItem(one.common + ("  (this shop)" if plain(one.common) in own else ""))
        item.setData(Qt.ItemDataRole.UserRole, one.common)
        if candidate is not None and self.state.piece is not None:
            item.setText(f"{one.common}: {'may be No. ' if candidate.stands else 'not No. '}{self.state.piece.id}")
            item.setToolTip(candidate.why_not or "nothing measured speaks against it")
        return item

    def list_names(self, *, fresh: bool = False) -> None:
        """Names that hold the typed words; the piece's own candidates first while nothing is typed."""
        shop, text = self.state.shop, self.search.text().strip()
        found = shop.kit.library.suggest(text, 500) if text else list(shop.kit.library.all)
        own = {plain(s.common) for s in shop.kit.species}
        weighed: dict[str, Candidate] = {}
        piece = self.state.piece
        if piece is not None and not text and (not piece.species_sure or piece.candidates or piece.species == "unknown"):
            rows = standing(piece, shop.kit.library, shop.judgements.facts(piece.id).density)
            weighed = {c.species.common: c for c in rows}
            first = (
                [c.species for c in rows]
                if piece.candidates or piece.species != "unknown"
                else [c.species for c in rows if c.stands]
            )
            found = [*first, *(s for s in found if s not in first)]
        keep = self.chosen.common if self.chosen and not fresh else None  # what is typed decides
        with QSignalBlocker(self.list):
            self.list.clear()
            for one in found:
                item = self._row(one, weighed.get(one.common) if piece else None, own)
                self.list.addItem(item)
                if one.common == keep:
                    self.list.setCurrentItem(item)
        if self.list.currentItem() is None and self.list.count():
            self.list.setCurrentRow(0)
        elif self.list.currentItem() is not None:
            self._choose(self.list.currentItem())
        if not self.list.count():
            self.chosen = None
            self._show()

    def _choose(self, item: QListWidgetItem | None, _before: object = None) -> None:
        self.chosen = self.state.shop.kit.library.find(item.data(Qt.ItemDataRole.UserRole)) if item else None
        self._show()

    def choose(self, name: str) -> None:
        """Choose a species by any name."""
        self.search.setText("")
        found = self.state.shop.kit.library.best(name)
        self.chosen = found
        self.list_names()

    def _show(self) -> None:
        for name, field in self.fields.items():
            if not field.hasFocus():
                field.setText(self._shown(name))
            field.setEnabled(self.chosen is not None)
        for flag, chip in self.flags.items():
            chip.setChecked(self.chosen is not None and flag in self.chosen.flags)
            chip.setEnabled(self.chosen is not None)
        own = self.chosen is not None and any(plain(s.common) == plain(self.chosen.common) for s in self.state.shop.kit.species)
        shipped = self.chosen is not None and any(plain(s.common) == plain(self.chosen.common) for s in library())
        self.back.setVisible(own)
        self.back.say("As it was shipped" if shipped else "Take it away")
        self.update()

    def _shown(self, name: str) -> str:
        if self.chosen is None:
            return ""
        value = getattr(self.chosen, name)
        if value is None:
            return ""
        return ", ".join(value) if name in LISTS else f"{value:g}" if name in NUMBERS else str(value)

    # editing ------------------------------------------------------------------------------------------------------
    def _keep_field(self, field: QLineEdit, name: str) -> None:
        if self.chosen is None or field.text().strip() == self._shown(name):
            return
        try:
            value = self._value(name, field.text().strip())
            new = self.chosen.changed(**{name: value, "source": "this shop"})
        except ValueError as fault:
            text = fault.errors()[0]["msg"].lower() if isinstance(fault, ValidationError) else str(fault)
            self.state.warn(f"{field.accessibleName()} “{field.text()}”: {text}. Still {self._shown(name) or 'empty'}.")
            field.setText(self._shown(name))
            return
        self._keep(self.chosen, new, f"{name.replace('_', ' ')} {field.text()}")
        field.setText(self._shown(name))

    def _value(self, name: str, text: str) -> Any:
        if name in NUMBERS:
            if not text and name in ("shrink_volumetric_pct", "janka_n", "moe_gpa"):
                return None
            try:
                return float(text.replace(",", "."))
            except ValueError:
                raise ValueError("not a figure") from None
        if name in LISTS:
            words = tuple(w.strip() for w in text.replace(";", ",").split(",") if w.strip())
            if name == "colours" and (wrong := [w for w in words if w not in COLOURS]):
                raise ValueError(f"needs of {', '.join(COLOURS)}; found {wrong[0]}")
            return words
        if name == "porosity" and text and text not in POROSITIES:
            raise ValueError(f"needs one of {', '.join(POROSITIES)}")
        return text

    def _keep_flag(self, flag: str, *, on: bool) -> None:
        if self.chosen is not None:
            flags = self.chosen.flags | {flag} if on else self.chosen.flags - {flag}
            self._keep(
                self.chosen,
                self.chosen.changed(flags=frozenset(flags), source="this shop"),
                f"{FLAG_WORDS[flag]} {'yes' if on else 'no'}",
            )

    def _keep(self, old: Species, new: Species, label: str) -> None:
        kit = self.state.shop.kit
        if plain(new.common) != plain(old.common) and kit.library.find(new.common) is not None:
            self.state.warn(f"{new.common} is in the library already.")
            self._show()
            return
        shipped = any(plain(s.common) == plain(old.common) for s in library())
        others = tuple(
            s for s in kit.species if plain(s.common) != plain(old.common) or (shipped and plain(new.common) != plain(old.common))
        )
        self.chosen = new
        if self.state.keep(f"{new.common}: {label}", kit.changed(species=(*others, new))):
            self.state.notify(f"{new.common}: {label}; it counts everywhere now")
        self.list_names()

    def add_one(self) -> None:
        """A new species with the figures of the chosen one, its name ready to be typed."""
        kit = self.state.shop.kit
        like = self.chosen or kit.library.all[0]
        name = next(n for k in range(1, 1000) if kit.library.find(n := f"New species {k}") is None)
        new = like.changed(common=name, scientific="", other_names=(), source=f"this shop, after {like.common}", confidence="")
        self.search.setText("")
        self.chosen = new
        if self.state.keep(f"{name} added", kit.changed(species=(*kit.species, new))):
            self.list_names()
            self.fields["common"].setFocus()
            self.fields["common"].selectAll()

    def take_back(self) -> None:
        """A changed species as it was shipped, or a shop's own away; pieces keep their names."""
        if self.chosen is None:
            return
        kit, name = self.state.shop.kit, self.chosen.common
        used = [p.id for p in self.state.shop.pieces() if kit.library.find(p.species) is self.chosen]
        shipped = any(plain(s.common) == plain(name) for s in library())
        if used and not shipped:
            self.state.warn(f"No. {used[0]} is {name}; rename it first.")
            return
        self.state.keep(
            f"{name} as shipped" if shipped else f"{name} taken away",
            kit.changed(species=tuple(s for s in kit.species if plain(s.common) != plain(name))),
        )
        self.chosen = self.state.shop.kit.library.find(name)
        self.list_names()

    # laying out ---------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        if self.chosen is not None:
            self.chosen = self.state.shop.kit.library.find(self.chosen.common)
        self.list_names()

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        piece = self.state.piece
        if self.chosen is None and piece is not None and piece.species_sure:
            self.chosen = self.state.shop.kit.library.find(piece.species)
        self.refresh()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        flow.column([self.search], 0, 0, LIST_W, high=40)
        flow.fill(self.list, 0, 48, LIST_W, self.height() - 56)
        flow.column([self.add], 0, self.height() - 48, LIST_W)
        left, wide = LIST_W + 36, self.width() - LIST_W - 36
        half = wide // 2
        fields = [self.fields[name] for name, _, _ in FIELDS]
        for column in (0, 1):
            below = flow.column(fields[column * 8 :][:8], left + column * half + 150, 58, half - 178, high=36)
            below = max(below, 58 + 8 * 46)
        flow.wrapped(
            [(chip, chip.sizeHint().width() - 6) for chip in self.flags.values()], left, below + 26, self.width(), high=42, gap=6
        )
        flow.row_to_right([(self.back, 190)], self.width(), 0)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        left, half = LIST_W + 36, (self.width() - LIST_W - 36) // 2
        if self.chosen is None:
            draw.text_at(p, left, 30, "No species of that name. Add one like another and name it.", theme.ink, 15)
            return
        p.fillRect(QRectF(left, 8, 34, 26), plain_colour(self.chosen.common))
        x = left + 46 + draw.text_at(p, left + 46, 29, self.chosen.common, theme.ink, 20, 700, room=half) + 14
        draw.text_at(p, x, 28, self.chosen.source, theme.ink2, 13.5, room=self.width() - 200 - x)
        for k, (_name, words, unit) in enumerate(FIELDS):
            column, row = divmod(k, 8)
            y = 58 + row * 46 + 23
            draw.text_at(p, left + column * half, y, words + (f", {unit}" if unit else ""), theme.ink2, 14, room=144)
        low, high = self.chosen.density_band_kg_m3
        ratio = self.chosen.shrink_tangential_pct / self.chosen.shrink_radial_pct
        words = f"band {low:.0f} to {high:.0f} kg/m³; tangential {ratio:.2f} times radial. Dust and trade notes are judgement: check current trade rules."
        own = note_on(self.state.shop, self.chosen.common)
        if own:
            draw.text_at(p, left, 58 + 8 * 46 + 10, own[0], theme.ochre, 13.5, 600, room=self.width() - left)
        else:
            draw.text_at(p, left, 58 + 8 * 46 + 10, words, theme.ink2, 13.5, room=self.width() - left)
