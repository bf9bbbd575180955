"""A page of single figures in columns, each editable in place; the kit's own limits say what cannot be used."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QComboBox, QLineEdit
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import font
from grainet.desk.screens.screen import Page
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.units import entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry

ROW_H = 50


@dataclass(frozen=True)
class Row:
    """One figure of the kit: its words, how to read it and how to write it; ``why`` says where the shipped one comes from."""

    name: str
    group: str
    get: Callable[[ShopProfile], Any]
    put: Callable[[ShopProfile, Any], ShopProfile]
    low: float = 0.0
    high: float = 0.0
    is_length: bool = True
    unit: str = ""
    may_be_empty: bool = False
    choices: tuple[str, ...] = ()
    why: str = ""

    @property
    def object_name(self) -> str:
        """The name of its field in the window."""
        return "kit." + "".join(w.capitalize() for w in self.name.replace(",", "").replace("-", " ").split())


def inner(*path: str) -> tuple[Callable[[ShopProfile], Any], Callable[[ShopProfile, Any], ShopProfile]]:
    """Reader and writer of a field some values deep: ``inner("losses", "skim_mm")``."""

    def get(kit: ShopProfile) -> Any:
        value: Any = kit
        for name in path:
            value = getattr(value, name)
        return value

    def put(kit: ShopProfile, new: Any) -> ShopProfile:
        chain: list[Any] = [kit]
        for name in path[:-1]:
            chain.append(getattr(chain[-1], name))
        for holder, name in zip(reversed(chain), reversed(path)):
            new = holder.changed(**{name: new})
        return new  # type: ignore[no-any-return]

    return get, put


WHOLE = ("days", "people")  # what is counted


class FiguresPage(Page):
    """Columns of figures."""

    def __init__(
        self, state: State, rows: Sequence[Row], groups: Sequence[str], message: str, top: int = 16, row_h: int = ROW_H
    ) -> None:
        super().__init__(state)
        self.state, self.rows, self.groups, self.message = state, tuple(rows), tuple(groups), message
        self.top, self.row_h = top, row_h
        self.fields: list[QLineEdit | QComboBox] = [self._field(row) for row in self.rows]
        state.changed.connect(self.refresh)

    def _field(self, row: Row) -> QLineEdit | QComboBox:
        field: QLineEdit | QComboBox
        if row.choices:
            field = QComboBox(self)
            field.addItems(row.choices)
            field.activated.connect(lambda _k, f=field, r=row: self._choose(f, r))
        else:
            field = QLineEdit(self)
            field.editingFinished.connect(lambda f=field, r=row: self._keep(f, r))
        field.setObjectName(row.object_name)
        field.setFont(font(16, 600, figures=True))
        field.setAccessibleName(row.name)
        reach = (
            f"{row.low:g} to {row.high:g} {row.unit or ('mm' if row.is_length else '')}".strip()
            if not row.choices
            else ", ".join(row.choices)
        )
        field.setToolTip(
            f"{row.name}: {reach}{', empty: not known' if row.may_be_empty else ''}; Enter keeps it"
            + (f"\n{row.why}" if row.why else "")
        )
        return field

    def _shown(self, row: Row) -> str:
        value = row.get(self.state.shop.kit)
        if value is None:
            return ""
        return format_length(value, self.state.shop.kit.length_style) if row.is_length else f"{value:g}"

    def _choose(self, field: QComboBox, row: Row) -> None:
        kit = self.state.shop.kit
        if row.get(kit) != field.currentText() and self.state.keep(
            f"{row.name.lower()} {field.currentText()}", row.put(kit, field.currentText())
        ):
            self.state.notify(f"{row.name.lower()}: {field.currentText()} everywhere now")

    def _keep(self, field: QLineEdit, row: Row) -> None:
        text = field.text().strip()
        if text == self._shown(row):
            return
        kit = self.state.shop.kit
        try:
            value = self._value(text, row)
        except (BadEntry, ValueError) as fault:
            words = str(fault) if isinstance(fault, BadEntry) else f"“{text}” is not a figure."
            field.setText(self._shown(row))
            self.state.warn(f"{words} Still {self._shown(row) or 'not known'}.")
            return
        if self.state.keep(f"{row.name.lower()} {text or 'not known'}", row.put(kit, value)):
            self.state.notify(f"{row.name.lower()} is {text or 'not known'} everywhere now")

    def _value(self, text: str, row: Row) -> float | int | None:
        if not text and row.may_be_empty:
            return None
        unit = entry_unit(self.state.shop.kit.length_style)
        value = parse_length(text, unit).mm if row.is_length else float(text.replace(",", ".").rstrip("%°C "))
        if not row.low <= value <= row.high:
            raise BadEntry(f"{row.name} {value:g} needs {row.low:g} to {row.high:g}.")
        return int(value) if row.unit in WHOLE else value

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        wide = self.width() / max(1, len(self.groups))
        seen: dict[str, int] = {}
        kit = self.state.shop.kit
        for row, field in zip(self.rows, self.fields):
            k = seen.get(row.group, 0)
            seen[row.group] = k + 1
            if isinstance(field, QComboBox):
                field.setCurrentText(row.get(kit))
            elif not field.hasFocus():
                field.setText(self._shown(row))
            x = self.groups.index(row.group) * wide
            flow.row([(field, 88)], x + wide - 112, self.top + 46 + k * self.row_h, high=min(38, self.row_h - 4))
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, kit = self.state.theme, self.state.shop.kit
        p.fillRect(self.rect(), theme.bench)
        wide = self.width() / max(1, len(self.groups))
        if self.message:
            draw.text_at(p, 0, self.top + 2, self.message, theme.ink2, 14, room=self.width())
        seen: dict[str, int] = {}
        for row in self.rows:
            k = seen.get(row.group, 0)
            seen[row.group] = k + 1
            x, y = self.groups.index(row.group) * wide, self.top + 70 + k * self.row_h
            if k == 0:
                draw.text_at(p, x, self.top + 32, row.group, theme.ink, 16, 700)
            unread = row.may_be_empty and row.get(kit) is None
            draw.text_at(p, x, y, row.name, theme.ochre if unread else theme.ink, 14.5, room=wide - 122)
            if unread:
                draw.text_at(p, x, y + 16, "not known", theme.ochre, 13)
            elif row.unit:
                draw.text_at(p, x, y + 16, row.unit, theme.ink2, 13)
