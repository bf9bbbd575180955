"""Sort the rack (F11): what is fit for a use, best first and why not the others; wood by size and words; the stash; claims; suppliers.

Each row is a piece with its reasons; taking a row takes the piece in hand. The list is a model, so that thousands stay quick.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QLineEdit,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from grainet.desk import draw
from grainet.desk.controls import WordButton, count_of
from grainet.desk.pictures import plain_colour
from grainet.desk.state import State
from grainet.desk.tokens import LEFT, RIGHT, font
from grainet.grade.ready import day_words
from grainet.session.asking import Query, parse_query
from grainet.wood.figure import house_word
from grainet.wood.units import parse_length
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.grade.ranking import Standing

ROW_H, HEAD_H, SIDE_W = 52, 34, 196
MODES = (
    ("use", "For a use"),
    ("find", "By size and words"),
    ("stash", "The stash"),
    ("claims", "Claims"),
    ("supply", "Suppliers"),
)
GROUP_WORDS = {
    "now": "Can make it now", "soon": "Within a month, or once something is done", "later": "Later", "unread": "Not known yet: read what is missing", "never": "Never, and why",
}  # fmt: skip
CHIPS = ("clear", "ready", "quartered", "figured", "swept", "reclaimed")


@dataclass(frozen=True)
class ListRow:
    """One line of the list: a heading (no piece), or a piece with its figures and words."""

    head: str = ""
    piece: str = ""
    rank: float = 0.0
    count: str = ""
    word: str = ""  # gives, if or wont: how the sliver stands
    first: str = ""
    second: str = ""
    right: str = ""
    caution: bool = False


class Rows(QAbstractListModel):
    """The list's rows."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[ListRow] = []

    def set_rows(self, rows: list[ListRow]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = 0) -> Any:
        row = self.rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return row.head or f"No. {row.piece}: {row.first} {row.second} {row.right}".strip()
        if role == Qt.ItemDataRole.ToolTipRole and row.piece:
            return "\n".join(t for t in (f"No. {row.piece}", row.first, row.second, row.right) if t)
        return None

    def flags(self, index: QModelIndex | QPersistentModelIndex) -> Qt.ItemFlag:
        row = self.rows[index.row()]
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable if row.piece else Qt.ItemFlag.ItemIsEnabled


class RowPainter(QStyledItemDelegate):
    """Draws a row: the piece's end, its number, as much wood standing as its rank, its words."""

    def __init__(self, state: State, parent: QWidget) -> None:
        super().__init__(parent)
        self.state = state

    def sizeHint(self, _option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        row: ListRow = index.model().rows[index.row()]  # type: ignore[attr-defined]
        return QSize(600, HEAD_H if row.head else ROW_H)

    def paint(self, p: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        row: ListRow = index.model().rows[index.row()]  # type: ignore[attr-defined]
        theme = self.state.theme
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect)  # type: ignore[attr-defined]
        if row.head:
            draw.write(p, box.left() + 2, box.bottom() - 9, row.head, theme.ink, 15, 700)
            p.setPen(QPen(theme.edge, 1.2))
            p.drawLine(QPointF(box.left(), box.bottom() - 1), QPointF(box.right(), box.bottom() - 1))
            p.restore()
            return
        chosen = bool(option.state & QStyle.StateFlag.State_Selected) or row.piece == self.state.piece_id  # type: ignore[attr-defined]
        if chosen:
            p.fillRect(box, theme.chalk_wash)
            p.fillRect(QRectF(box.left(), box.top(), 5, box.height()), theme.chalk)
        self._end(p, row, box)
        x = box.left() + 76
        draw.write(p, x, box.top() + 31, row.piece, theme.ink, 19, 600, True, room=74)
        self._sliver(p, row, QRectF(x + 82, box.top() + 11, 120, 28))
        words = x + 224 if row.word else x + 84
        right = draw.text_width(row.right, 14) + 16 if row.right else 0.0
        room = box.right() - words - right - 8
        draw.write(p, words, box.top() + 22, row.first, theme.ochre if row.word == "if" else theme.ink, 14.5, 600, room=room)
        draw.write(p, words, box.top() + 41, row.second, theme.wine if row.caution else theme.ink2, 14, room=room)
        if row.right:
            draw.write(p, box.right() - right + 4, box.top() + 31, row.right, theme.ink, 14, 600)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(box.left(), box.bottom() - 0.5), QPointF(box.right(), box.bottom() - 0.5))
        p.restore()

    def _end(self, p: QPainter, row: ListRow, box: QRectF) -> None:
        """The piece end-on in true proportion."""
        if not self.state.shop.has_piece(row.piece):
            return
        piece = self.state.shop.piece(row.piece)
        _, y0, _, y1 = piece.extents
        if not piece.outline:
            return
        w, h = max(8.0, min(56.0, (y1 - y0) * 0.22)), max(4.0, min(36.0, (piece.least_thickness_mm or 20) * 0.4))
        shape = QPainterPath()
        target = QRectF(box.left() + 40 - w / 2, box.center().y() - h / 2, w, h)
        shape.addRect(target)
        draw.wood(p, self.state.theme, shape, self.state.pictures.get(piece, "end"), target, plain_colour(piece.species))
        draw.outline(p, shape, self.state.theme.ink, 1)

    def _sliver(self, p: QPainter, row: ListRow, box: QRectF) -> None:
        """As long as its rank and as high as its word: full, a third with an ochre rim, a bare line."""
        theme = self.state.theme
        if not row.word:
            return
        if row.word == "wont":
            p.setPen(QPen(theme.edge, 1.2))
            p.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.left() + box.width() * row.rank, box.center().y()))
            return
        full = row.word == "gives"
        shape = QPainterPath()
        wide = max(6.0, box.width() * row.rank)
        shape.addRect(
            QRectF(box.left(), box.top(), wide, box.height()) if full else QRectF(box.left(), box.bottom() - 9, wide, 9)
        )
        species = self.state.shop.piece(row.piece).species if self.state.shop.has_piece(row.piece) else "unknown"
        p.fillPath(shape, plain_colour(species))
        draw.outline(p, shape, theme.ink if full else theme.ochre, 1.4)
        if row.count:
            draw.slip(p, theme, box.left() + 4, box.top() + (4 if full else -3), row.count, px=14, height=20)


class SortRack(QWidget):
    """The screen."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("sortRack")
        self.mode = "use"
        self.said = ""
        self._key: tuple[object, ...] | None = None
        self._asked: tuple[object, ...] | None = None
        self._shown: tuple[object, ...] | None = None
        self.model = Rows()
        self.list = QListView(self)
        self.list.setObjectName("sortRack.list")
        self.list.setModel(self.model)
        self.list.setItemDelegate(RowPainter(state, self.list))
        self.list.setUniformItemSizes(False)
        self.list.setFrameShape(QListView.Shape.NoFrame)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.clicked.connect(self._taken)
        self.list.activated.connect(self._opened)
        self.list.doubleClicked.connect(self._opened)
        self.modes: dict[str, WordButton] = {}
        for name, words in MODES:
            tab = WordButton(state, words, "", False, self, f"sortRack.{name}")
            tab.setCheckable(True)
            tab.clicked.connect(lambda _=False, n=name: self.show_mode(n))
            self.modes[name] = tab
        self.use = QComboBox(self)
        self.use.setObjectName("sortRack.useOf")
        self.use.setAccessibleName("The use that the rack is sorted for")
        self.use.setFont(font(16, 600))
        for rule in state.shop.kit.every_use:
            self.use.addItem(rule.label, rule.use)
        self.use.activated.connect(lambda k: self.state.choose_use(self.use.itemData(k)))
        self._form()
        self.open = WordButton(state, "Look it over", "F3", True, self, "sortRack.open")
        self.open.clicked.connect(lambda: self._opened(self.list.currentIndex()))
        self.second = WordButton(state, "", "", False, self, "sortRack.second")
        self.second.clicked.connect(self._second)
        self.third = WordButton(state, "Give it back", "", False, self, "sortRack.third")
        self.third.clicked.connect(self._give_back)
        state.changed.connect(self.refresh)

    def _form(self) -> None:
        """The same question as the tape line's ``ask``, by chips and fields."""
        self.sizes: list[QLineEdit] = []
        for name in ("thickness", "width", "length"):
            field = QLineEdit(self)
            field.setObjectName(f"sortRack.{name}")
            field.setAccessibleName(f"Least finished {name}")
            field.setPlaceholderText(name)
            field.setFont(font(16, 600, True))
            field.editingFinished.connect(self.ask)
            self.sizes.append(field)
        self.words = QLineEdit(self)
        self.words.setObjectName("sortRack.words")
        self.words.setAccessibleName("More words: a species, a kind, at C3")
        self.words.setPlaceholderText("species, kind, at C3 ...")
        self.words.setFont(font(15, 500))
        self.words.editingFinished.connect(self.ask)
        self.chips: dict[str, WordButton] = {}
        for word in CHIPS:
            chip = WordButton(self.state, word, "", False, self, f"sortRack.chip.{word}")
            chip.setCheckable(True)
            chip.clicked.connect(lambda _=False: self.ask())
            self.chips[word] = chip

    # what is shown ------------------------------------------------------------------------------------------------
    def show_mode(self, name: str) -> None:
        self.mode = name
        self._key = None
        self.refresh()

    def step(self, by: int) -> None:
        names = [m[0] for m in MODES]
        self.show_mode(names[max(0, min(len(names) - 1, names.index(self.mode) + by))])

    def ask(self) -> None:
        """Ask the rack what the form says; a sentence tells what cannot be used."""
        kit = self.state.shop.kit
        unit = "mm" if kit.length_style == "mm" else "in"
        try:
            size = tuple(parse_length(f.text(), unit).mm if f.text().strip() else 0.0 for f in self.sizes)
            asked = (
                parse_query(self.words.text(), kit.length_style, kit.figure_words, kit.library)
                if self.words.text().strip()
                else Query()
            )
        except BadEntry as fault:
            self.state.said.emit(str(fault), True)
            return
        words = asked.words | {w for w, chip in self.chips.items() if chip.isChecked()}
        if any(asked.size_mm):
            size = asked.size_mm
        query = Query(size, words, asked.kinds, asked.species, asked.places, asked.house)  # type: ignore[arg-type]
        self.state.ask(query if query != Query() else None)
        self._key = None
        self.refresh()

    def refresh(self) -> None:
        if not self.isVisible():
            return
        self._place()
        shop = self.state.shop
        if shop.kit.use(self.state.use) is not None:
            self.use.setCurrentIndex(self.use.findData(self.state.use))
        key = (
            self.mode,
            shop.version,
            self.state.use if self.mode == "use" else "",
            self.state.asked if self.mode == "find" else None,
            self.state.today,
        )
        if self.mode == "find":
            key += (self.state.answers(),)
        if key != self._key and key != self._asked:
            self._asked = key
            work = {
                "use": self._for_use,
                "find": self._found,
                "stash": self._stash,
                "claims": self._claims,
                "supply": self._supply,
            }[self.mode]
            self.state.background.start(work, lambda made: self._made(key, made), 4)
        self.list.viewport().update()
        self.update()

    def _made(self, key: tuple[object, ...], made: object) -> None:
        if key != self._asked or not isinstance(made, tuple):
            return
        self._key, self._asked = key, None
        self.said, rows = made
        at = self.list.verticalScrollBar().value()
        self.model.set_rows(rows)
        self.list.verticalScrollBar().setValue(at)
        fresh = self._shown != (self.mode, self.state.use, self.state.asked)
        self._shown = (self.mode, self.state.use, self.state.asked)
        own = next((k for k, row in enumerate(rows) if row.piece == self.state.piece_id), None)
        if own is not None:
            self.list.setCurrentIndex(self.model.index(own))
        if fresh:
            self.list.scrollToTop()
        self.update()

    # making rows, off the window's thread -------------------------------------------------------------------------
    def _for_use(self) -> tuple[str, list[ListRow]]:
        from grainet.session.sorting import sorted_rack

        shop, use = self.state.shop, self.state.use
        found = sorted_rack(shop, use, self.state.today)
        rows: list[ListRow] = []
        counts: dict[str, int] = {}
        for one in found:
            if one.group not in counts:
                rows.append(ListRow(head=GROUP_WORDS[one.group]))
            counts[one.group] = counts.get(one.group, 0) + 1
            rows.append(self._standing_row(one))
        rows = [ListRow(head=f"{r.head}: {counts[g]}") if r.head and (g := _group_of(r.head)) else r for r in rows]
        label = shop.kit.use(use).label.lower()
        said = f"{counts.get('now', 0)} of {len(found)} can make a {label} now, {counts.get('soon', 0)} within a month or once something is done"
        return said, rows

    def _standing_row(self, one: Standing) -> ListRow:
        from datetime import timedelta

        today = self.state.today
        word = "wont" if one.group == "never" else "gives" if one.group == "now" and not one.why.startswith("if ") else "if"
        right = ""
        if one.days is not None:
            first, last = today + timedelta(days=round(one.days[0])), today + timedelta(days=round(one.days[2]))
            right = f"{_brief(first, today)} to {day_words(last)}"
        name = self.state.shop.kit.library.short_name(self.state.shop.piece(one.piece).species)
        own = house_word(one.rank**2, self.state.shop.kit.rank_words)
        first_words = f"{own}: " + ("; ".join(one.best) or "as it lies") if word == "gives" else one.why
        more = [t for t in one.todo if t not in one.why] if word == "if" else []
        tail = ""
        if word == "gives" and one.worst:
            tail = "but " + "; ".join(one.worst)
        elif word == "if":
            tail = "also " + "; ".join(more) if more else "; ".join(one.best)
        second = f"{name}, {tail}" if tail else name
        return ListRow(
            "", one.piece, one.rank, str(one.count) if one.count else "", word, first_words or "as it lies", second, right
        )

    def _found(self) -> tuple[str, list[ListRow]]:
        asked, answers = self.state.asked, self.state.answers()
        shop = self.state.shop
        if asked is None:
            return "Say a least size, press words, or type: the rack shows what answers (also Ctrl+F).", []
        if answers is None:
            return "asking the rack ...", []
        rows = [self._plain_row(p.id) for p in shop.pieces() if p.id in answers]
        said = f"{len(rows)} of {len(shop.pieces())} answer: {asked.said(shop.kit.length_style)}"
        return said, rows

    def _plain_row(self, number: str, second: str = "", right: str = "") -> ListRow:
        shop = self.state.shop
        piece, facts = shop.piece(number), shop.facts(number)
        x0, y0, x1, y1 = piece.extents
        thick = f"{piece.least_thickness_mm:.1f}" if piece.least_thickness_mm else "?"
        size = f"{x1 - x0:.0f} × {y1 - y0:.0f} × {thick}"
        words = [facts.ready.said(self.state.today)]
        if facts.density:
            words.append(f"{facts.density:.0f} kg/m³")
        return ListRow(
            "",
            number,
            0.0,
            "",
            "",
            f"{shop.kit.library.short_name(piece.species)}, {size}",
            second or ", ".join(words),
            right or piece.place,
        )

    def _stash(self) -> tuple[str, list[ListRow]]:
        from grainet.session.stash import aged

        found = aged(self.state.shop, self.state.today)
        rows = []
        for one in found:
            fits = "; ".join(
                f"{o.design} {o.part}" + (f" ({', '.join(o.in_waste)} in the waste)" if o.in_waste else "")
                for o in one.offers[:3]
            )
            first = (
                f"fits {fits}"
                if fits
                else f"gives {', '.join(one.gives).lower()}"
                if one.gives
                else "fits nothing that the shop draws now"
            )
            passed = (
                f"passed over {one.passed_over[-1]}"
                if one.passed_over
                else "nobody wrote why it was passed over: passed too short"
            )
            years = f"{one.days / 365:.1f} years"
            rows.append(ListRow("", one.piece, 0.0, "", "", first, passed, years))
        days = self.state.shop.kit.rules.stash_days
        return f"{count_of(len(rows), 'piece')} older than {days} days, the oldest first", rows

    def _claims(self) -> tuple[str, list[ListRow]]:
        from grainet.session.claims import clashes_of, least_choice_first

        shop = self.state.shop
        claims = shop.reservations()
        contested = {r.piece for r in claims if clashes_of(r, claims)}
        rows: list[ListRow] = []
        for number in sorted({r.piece for r in claims}, key=lambda n: (n not in contested, n)):
            if not shop.has_piece(number):
                continue
            rows.append(
                ListRow(
                    head=f"No. {number}: two claims on the same wood, least choice first"
                    if number in contested
                    else f"No. {number}"
                )
            )
            for k, choice in enumerate(least_choice_first(shop, number)):
                where = (
                    "the whole piece"
                    if choice.claim.box is None
                    else f"{choice.claim.box[0]:.0f} to {choice.claim.box[2]:.0f} along"
                )
                first = f"{choice.claim.claimed_for}, {where}" + (" goes first" if number in contested and k == 0 else "")
                rows.append(
                    ListRow(
                        "", number, 0.0, "", "", first, choice.text, f"since {choice.claim.on}", number in contested and k > 0
                    )
                )
        said = f"{count_of(len(claims), 'claim')}, {len(contested)} contested; keep for Merrow neck claims the piece in hand, free gives it back"
        return said, rows

    def _supply(self) -> tuple[str, list[ListRow]]:
        from grainet.session.suppliers import papers_wanted, supplier_records

        shop = self.state.shop
        rows: list[ListRow] = []
        for one in supplier_records(shop):
            rows.append(
                ListRow(
                    head=f"{one.name}: {count_of(one.pieces, 'piece')}, {one.with_surprises} with a surprise ({one.rate_pct:.0f} %)"
                    + (", more than the house likes" if one.stands_out else "")
                )
            )
            for piece in shop.pieces(everything=True):
                if piece.supply.supplier == one.name and piece.parent is None:
                    hid = "; ".join(s.what for s in piece.supply.surprises)
                    price = f"{piece.supply.price:g}" if piece.supply.price is not None else ""
                    rows.append(
                        self._plain_row(
                            piece.id,
                            f"hid {hid}" if hid else piece.supply.drying_claim and f"said to be {piece.supply.drying_claim}",
                            price or " ",
                        )
                    )
        lacking = papers_wanted(shop)
        if lacking:
            rows.append(ListRow(head=f"Papers wanted: {len(lacking)}; check current trade rules"))
            rows += [
                self._plain_row(p.id, "may be of a controlled species, and no paper is kept with it: paper invoice 2019-117", " ")
                for p in lacking
            ]
        return "who sold it, what it hid, and which papers lack", rows

    # acts ---------------------------------------------------------------------------------------------------------
    def _taken(self, index: QModelIndex) -> None:
        if index.isValid() and (number := self.model.rows[index.row()].piece) and self.state.shop.has_piece(number):
            self.state.choose_piece(number)

    def _opened(self, index: QModelIndex) -> None:
        if index.isValid() and self.model.rows[index.row()].piece:
            self._taken(index)
            window = self.window()
            if hasattr(window, "show_screen"):
                window.show_screen("look_over")

    def chalk_action(self) -> None:
        self._opened(self.list.currentIndex())

    def _second(self) -> None:
        """The other thing that one does in this list."""
        if self.mode == "find":
            for field in (*self.sizes, self.words):
                field.clear()
            for chip in self.chips.values():
                chip.setChecked(False)
            self.ask()
        else:
            self.state.tape_wanted.emit(
                {"stash": "passed ", "claims": "keep for ", "supply": "surprise ", "use": "keep for "}[self.mode]
            )

    def _give_back(self) -> None:
        index = self.list.currentIndex()
        row = self.model.rows[index.row()] if index.isValid() else ListRow()
        claim = row.first.split(",")[0] if row.piece else ""
        if not claim:
            self.state.said.emit("Choose the claim to give back first.", True)
            return
        self.state.free(row.piece, claim)

    def save_as(self, path: str | None = None) -> None:
        """The list as it is shown, to CSV or PDF."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.report_file import ReportRow, write_report

        label = self.state.shop.kit.use(self.state.use).label.lower()
        title = {
            "use": f"Sorted for a {label}",
            "find": "What answers",
            "stash": "The stash",
            "claims": "Claims",
            "supply": "Suppliers",
        }[self.mode]
        chosen = path or QFileDialog.getSaveFileName(self, title, f"{title}.pdf", "PDF (*.pdf);;CSV table (*.csv)")[0]
        if not chosen:
            return
        rows = [ReportRow(r.head, r.piece, r.first, r.second, r.right) for r in self.model.rows]
        try:
            write_report(
                Path(chosen), f"{self.state.shop.kit.name}: {title.lower()}, {self.state.today.isoformat()}", self.said, rows
            )
        except (Unusable, ValueError) as fault:
            self.state.said.emit(fault.lines[0] if isinstance(fault, Unusable) else str(fault), True)
            return
        self.state.said.emit(f"written: {Path(chosen).name}", False)

    def print_map(self, path: str | None = None) -> None:
        """The list as a page to print."""
        self.save_as(path)

    # laying out ---------------------------------------------------------------------------------------------------
    def _place(self) -> None:
        for k, (name, _) in enumerate(MODES):
            self.modes[name].setGeometry(LEFT, 54 + k * 48, SIDE_W - LEFT - 8, 42)
            self.modes[name].setChecked(name == self.mode)
        self.use.setGeometry(LEFT, 54 + len(MODES) * 48 + 30, SIDE_W - LEFT - 8, 40)
        self.use.setVisible(self.mode == "use")
        find = self.mode == "find"
        top = 48
        x = SIDE_W + 8
        for field in self.sizes:
            field.setGeometry(x, top, 92, 38)
            field.setVisible(find)
            x += 114
        for chip in self.chips.values():
            wide = chip.sizeHint().width() - 8
            chip.setGeometry(x, top - 3, wide, 44)
            chip.setVisible(find)
            x += wide + 8
        self.words.setGeometry(x, top, max(120, self.width() - RIGHT - x), 38)
        self.words.setVisible(find)
        list_top = top + 56 if find else 46
        self.list.setGeometry(SIDE_W + 8, list_top, self.width() - SIDE_W - 8 - RIGHT, self.height() - list_top - 56)
        self.open.setGeometry(self.width() - RIGHT - 200, self.height() - 50, 200, 44)
        words = {
            "use": "Keep it for ...",
            "find": "Clear the question",
            "stash": "Say why it was passed",
            "claims": "Claim it ...",
            "supply": "Note a surprise",
        }[self.mode]
        self.second.say(words, self.mode == "find" or self.state.piece is not None)
        self.second.setGeometry(self.width() - RIGHT - 410, self.height() - 50, 200, 44)
        self.third.setVisible(self.mode == "claims")
        self.third.setGeometry(self.width() - RIGHT - 560, self.height() - 50, 140, 44)
        self.open.setEnabled(self.list.currentIndex().isValid())
        palette = self.list.palette()
        palette.setColor(palette.ColorRole.Base, self.state.theme.bench)
        self.list.setPalette(palette)

    def paintEvent(self, _event) -> None:  # type: ignore[no-untyped-def]
        p = QPainter(self)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.write(p, LEFT, 34, "Sort the rack", theme.ink, 20, 700)
        draw.write(p, SIDE_W + 8, 34, self.said or "looking ...", theme.ink, 15, room=self.width() - SIDE_W - 30)
        if self.mode == "find":
            for field in self.sizes[:-1]:
                draw.write(p, field.geometry().right() + 7, field.geometry().center().y() + 5, "×", theme.ink2, 15)
        if self.mode == "use":
            y = self.use.geometry().top() - 8
            draw.write(p, LEFT, y, "sorted for a", theme.ink2, 14)
        elif not self.model.rows and self.said:
            draw.write(p, SIDE_W + 16, self.list.geometry().top() + 40, "Nothing to show.", theme.ink2, 15)
        hint = "length: how well every rule is met; full height gives, low if, line won't"
        if self.mode == "use":
            draw.write(p, SIDE_W + 8, self.height() - 22, hint, theme.ink2, 13.5)

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.refresh()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(event)
        self.refresh()


def _group_of(head: str) -> str | None:
    return next((g for g, words in GROUP_WORDS.items() if words == head), None)


def _brief(day, today) -> str:  # type: ignore[no-untyped-def]
    return "now" if day <= today else f"{day.day} {day:%b}" + (f" {day.year}" if day.year != today.year else "")
