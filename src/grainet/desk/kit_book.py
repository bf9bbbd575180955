"""The kit book (F8): machines, kerfs, losses and climate of this shop, editable in place; a change counts everywhere at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QLineEdit, QWidget

from grainet.desk import draw
from grainet.desk.state import State
from grainet.desk.tokens import LEFT, font
from grainet.kit.shop_kit import ShopKit
from grainet.wood.units import format_length, parse_length
from grainet.wood.value import BadEntry


@dataclass(frozen=True)
class Row:
    """One figure of the kit: its words, how to read it and how to write it."""

    name: str
    group: str
    get: Callable[[ShopKit], float | None]
    put: Callable[[ShopKit, float], ShopKit]
    low: float
    high: float
    is_length: bool = True
    unit: str = ""


def _kerf(field: str) -> tuple[Callable[[ShopKit], float], Callable[[ShopKit, float], ShopKit]]:
    return (
        lambda kit: getattr(kit.cuts.kerf_mm, field),
        lambda kit, v: kit.changed(cuts=kit.cuts.changed(kerf_mm=kit.cuts.kerf_mm.changed(**{field: v}))),
    )


def _cut(field: str) -> tuple[Callable[[ShopKit], float], Callable[[ShopKit, float], ShopKit]]:
    return lambda kit: getattr(kit.cuts, field), lambda kit, v: kit.changed(cuts=kit.cuts.changed(**{field: v}))


def _machine(field: str) -> tuple[Callable[[ShopKit], float | None], Callable[[ShopKit, float], ShopKit]]:
    return (
        lambda kit: getattr(kit.cuts.machines, field),
        lambda kit, v: kit.changed(cuts=kit.cuts.changed(machines=kit.cuts.machines.changed(**{field: v}))),
    )


ROWS: tuple[Row, ...] = (
    Row("Crosscut kerf", "Kerfs", *_kerf("crosscut"), 0, 20), Row("Rip kerf", "Kerfs", *_kerf("rip"), 0, 20),
    Row("Resaw kerf", "Kerfs", *_kerf("resaw"), 0, 20), Row("Outline kerf", "Kerfs", *_kerf("outline"), 0, 20),
    Row("Skim, each face", "Losses", *_cut("skim_mm"), 0, 20), Row("Skim, each sawn face", "Losses", *_cut("resaw_skim_mm"), 0, 20),
    Row("Edge, each long side", "Losses", *_cut("edge_mm"), 0, 50), Row("Trim, each end", "Losses", *_cut("trim_mm"), 0, 200),
    Row("Margin all round", "Losses", *_cut("margin_mm"), 0, 50), Row("Clear of metal", "Losses", *_cut("metal_clear_mm"), 0, 200),
    Row("Cracks grow by", "Losses", *_cut("growth_mm"), 0, 200), Row("Resaw height", "Machines", *_machine("resaw_height_mm"), 10, 2000),
    Row("Planer width", "Machines", *_machine("planer_width_mm"), 10, 2000), Row("Thicknesser width", "Machines", *_machine("thicknesser_width_mm"), 10, 2000),
    Row("Thicknesser, least", "Machines", *_machine("thicknesser_least_mm"), 0.5, 100), Row("Least length fed", "Machines", *_machine("least_length_mm"), 10, 2000),
    Row("Temperature", "Climate", lambda k: k.temperature_c, lambda k, v: k.changed(temperature_c=v), -20, 60, False, "°C"),
    Row("Humidity", "Climate", lambda k: k.humidity * 100, lambda k, v: k.changed(humidity=v / 100), 5, 95, False, "%"),
    Row("Meter pins reach", "Climate", lambda k: k.pin_depth_mm, lambda k, v: k.changed(pin_depth_mm=v), 1, 200),
)  # fmt: skip
GROUPS = ("Kerfs", "Losses", "Machines", "Climate")


class KitBook(QWidget):
    """The screen: four columns of figures."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("kitBook")
        self.fields: list[QLineEdit] = []
        for row in ROWS:
            field = QLineEdit(self)
            field.setObjectName("kit." + "".join(w.capitalize() for w in row.name.replace(",", "").split()))
            field.setFont(font(16, 600, True))
            field.setAccessibleName(row.name)
            field.setToolTip(f"{row.name}: {row.low:g} to {row.high:g} {row.unit or 'mm'}; Enter keeps it")
            field.editingFinished.connect(lambda f=field, r=row: self._keep(f, r))
            self.fields.append(field)
        self.words = QLineEdit(self)
        self.words.setObjectName("kit.FigureWords")
        self.words.setFont(font(15, 500))
        self.words.setAccessibleName("House words for figure, weakest first")
        self.words.setToolTip("This house's own scale of figure, weakest first, parted by commas; Enter keeps it")
        self.words.editingFinished.connect(self._keep_words)
        state.changed.connect(self.refresh)

    def _keep_words(self) -> None:
        """Keep the house's scale of figure; a sentence says what cannot be used."""
        kit = self.state.shop.kit
        found = tuple(w.strip().lower() for w in self.words.text().split(",") if w.strip())
        if found == kit.figure_words:
            return
        if not 2 <= len(found) <= 9 or len(set(found)) != len(found) or any(" " in w or len(w) > 20 for w in found):
            self.words.setText(", ".join(kit.figure_words))
            self.state.said.emit("House words want two to nine different single words, weakest first, parted by commas.", True)
            return
        if self.state.keep("house words for figure", kit.changed(figure_words=found)):
            self.state.said.emit(f"figure is called {', '.join(found)} here now", False)

    def _shown(self, row: Row) -> str:
        value = row.get(self.state.shop.kit)
        if value is None:
            return ""
        return format_length(value, self.state.shop.kit.length_style) if row.is_length else f"{value:g}"

    def _keep(self, field: QLineEdit, row: Row) -> None:
        if field.text().strip() == self._shown(row):
            return
        kit = self.state.shop.kit
        try:
            unit = "mm" if kit.length_style == "mm" else "in"
            value = parse_length(field.text(), unit).mm if row.is_length else float(field.text().replace(",", ".").rstrip("%°C "))
            if not row.low <= value <= row.high:
                raise BadEntry(f"{row.name} {value:g} wants {row.low:g} to {row.high:g}.")
        except (BadEntry, ValueError) as fault:
            text = str(fault) if isinstance(fault, BadEntry) else f"“{field.text()}” is not a figure."
            field.setText(self._shown(row))
            self.state.said.emit(f"{text} Still {self._shown(row)}.", True)
            return
        guessed = kit.guessed - {row.name.lower()}
        if self.state.keep(f"{row.name.lower()} {field.text()}", row.put(kit, value).changed(guessed=guessed)):
            self.state.said.emit(f"{row.name.lower()} is {field.text()} everywhere now", False)

    def refresh(self) -> None:
        if not self.isVisible():
            return
        wide = (self.width() - 2 * LEFT) / len(GROUPS)
        seen: dict[str, int] = {}
        for row, field in zip(ROWS, self.fields):
            k = seen.get(row.group, 0)
            seen[row.group] = k + 1
            if not field.hasFocus():
                field.setText(self._shown(row))
            field.setGeometry(int(LEFT + GROUPS.index(row.group) * wide + 168), 84 + k * 50, int(min(110, wide - 190)), 38)
        x = LEFT + 3 * wide
        self.words.setGeometry(int(x), 340, int(max(160, wide - 20)), 38)
        if not self.words.hasFocus():
            self.words.setText(", ".join(self.state.shop.kit.figure_words))
        self.update()

    def paintEvent(self, _event) -> None:  # type: ignore[no-untyped-def]
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, kit = self.state.theme, self.state.shop.kit
        p.fillRect(self.rect(), theme.bench)
        wide = (self.width() - 2 * LEFT) / len(GROUPS)
        draw.write(p, LEFT, 34, "Kit book", theme.ink, 20, 700)
        draw.write(
            p,
            LEFT + 110,
            34,
            "what sawing takes and what the machines hold; a change counts at once in grades, fields and plans",
            theme.ink2,
            14,
        )
        seen: dict[str, int] = {}
        for row in ROWS:
            k = seen.get(row.group, 0)
            seen[row.group] = k + 1
            x = LEFT + GROUPS.index(row.group) * wide
            if k == 0:
                draw.write(p, x, 72, row.group, theme.ink, 16, 700)
            guessed = row.name.lower() in kit.guessed
            draw.write(p, x, 108 + k * 50, row.name, theme.ochre if guessed else theme.ink, 14.5, room=160)
            if guessed:
                draw.write(p, x, 124 + k * 50, "guessed", theme.ochre, 13)
        text = f"wood in this air settles at {kit.target_moisture_pct:.1f} %"
        x = LEFT + 3 * wide
        p.fillRect(QRectF(x, 250, wide - 20, 40), theme.ochre_wash)
        draw.write(p, x + 10, 275, text, theme.ink, 14.5, 600)
        draw.write(p, x, 330, "House words for figure, weakest first", theme.ink, 14.5, room=wide - 20)

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(event)
        self.refresh()
