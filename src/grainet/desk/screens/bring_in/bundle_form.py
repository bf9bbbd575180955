"""A bundle or pack by the mouse: how many of which length, width and thickness, up to four lengths, on the rack in one go."""

from __future__ import annotations

from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QDoubleSpinBox, QSpinBox, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import font
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.session.commands.line import read
from grainet.wood.units import MM_PER_INCH, entry_unit
from grainet.wood.value import BadEntry

ROWS = 3
COLUMNS = (("count", 0, 200), ("length", 0, 20_000), ("width", 0, 2000), ("thickness", 0, 500))


class BundleForm(QWidget):
    """Stands in place of the list of what is next while a bundle is counted."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state, self.word, self.open = state, "bundle", False
        self.setObjectName("bundleForm")
        self.fields: list[list[QSpinBox | QDoubleSpinBox]] = []
        for row in range(ROWS):
            line: list[QSpinBox | QDoubleSpinBox] = []
            for name, low, high in COLUMNS:
                field = QSpinBox(self) if name == "count" else QDoubleSpinBox(self)
                field.setRange(low, high)
                field.setObjectName(f"bundle.{row}.{name}")
                field.setAccessibleName(f"row {row + 1}, {name}")
                field.setFont(font(16, 500, figures=True))
                field.setSpecialValueText("–" if row or name == "count" else "?")
                if isinstance(field, QDoubleSpinBox):
                    field.setDecimals(1)
                    field.setSingleStep(10 if name == "length" else 1)
                field.valueChanged.connect(self.refresh)
                line.append(field)
            self.fields.append(line)
        self.take = WordButton(state, "Put them on the rack", "", chalk=True, parent=self, name="bundle.take")
        self.take.clicked.connect(self.keep)
        self.away = WordButton(state, "Leave it", "Esc", chalk=False, parent=self, name="bundle.away")
        self.away.clicked.connect(self.close_form)
        self.opened_on: str | None = None
        self.hide()

    def wanted_now(self) -> bool:
        """Whether it is open, and still for the piece that it was opened on."""
        if self.open and self.opened_on != self.state.piece_id:
            self.open = False
        return self.open

    def show_form(self, word: str) -> None:
        """Open for a ``bundle`` of strips or a ``pack`` of veneers."""
        self.word, self.open, self.opened_on = word, True, self.state.piece_id
        for row, line in enumerate(self.fields):
            for field, first in zip(line, ((6, 760.0, 58.0, 12.0) if word == "bundle" else (8, 500.0, 200.0, 2.5))):
                field.setValue(first if row == 0 else 0)
        self.state.changed.emit()
        self.fields[0][0].setFocus()

    def close_form(self) -> None:
        """Put the form away, nothing kept."""
        self.open = False
        self.state.changed.emit()

    def line(self) -> str:
        """The words that the form stands for."""
        unit = entry_unit(self.state.shop.kit.length_style)
        factor = 1.0 if unit == "mm" else MM_PER_INCH
        groups, last = [], ["", "", ""]
        for count, *sizes in self.fields:
            if not count.value():
                continue
            told = [f"{s.value() * factor:.1f}mm" if s.value() else before for s, before in zip(sizes, last)]
            last = told
            groups.append(f"{count.value()}x" + "x".join(t.removesuffix("mm") for t in told))
        piece = self.state.piece
        species = piece.species if piece is not None and piece.species != "unknown" else ""
        return f"{self.word} {' '.join(groups)} {species}".strip()

    def keep(self) -> None:
        """Put the items on the rack, or say what is missing."""
        if self.state.piece is None or self.state.piece.outline:
            self.state.new_piece()
        try:
            meaning = read(self.line(), self.state.piece, 0.0, "mm", self.state.today.isoformat())  # the form's figures are mm
        except BadEntry as fault:
            self.state.warn(str(fault))
            return
        self.open = False
        self.state.keep_meaning(meaning)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        wide = max(70, min(120, (self.width() - 320) // 4))
        for k, line in enumerate(self.fields):
            flow.row([(field, wide) for field in line], 8, 42 + k * 46, high=40, gap=6)
        x = 8 + 4 * (wide + 6) + 10
        flow.column([self.take, self.away], x, 44, max(190, self.width() - x - 10), gap=4)
        count = sum(line[0].value() for line in self.fields)
        self.take.say(f"Put {count:g} on the rack", enabled=count > 0)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.ground)
        wide = max(70, min(120, (self.width() - 320) // 4))
        for k, (name, _, _) in enumerate(COLUMNS):
            draw.text_at(p, 10 + k * (wide + 6), 36, name, theme.ink2, 14)
        title = "A bundle of strips" if self.word == "bundle" else "A pack, in the order sawn"
        draw.text_at(p, 8 + 4 * (wide + 6) + 10, 30, title, theme.ink, 16, 700)
        draw.text_at(p, 10, 193, "a later row that leaves a size out has that of the row above", theme.ink2, 13)
