"""The card of the taken mark: what it is, each of its figures pressable, and its picture; or keep and drop for a suggestion."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QMenu, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.wood.defects import FAMILY, GROWING, SEVERITY_WORDS, Defect, label_of, name_of
from grainet.wood.suggestion import Suggestion
from grainet.wood.units import LengthStyle, tell_length
from grainet.wood.value import BadEntry

BUTTONS = ("depth", "face", "severity", "feature", "endMarked", "endFar", "cleared", "drop")


class MarkCard(QWidget):
    """Stands in place of the list of what is next while a mark is taken."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("markCard")
        self.buttons = {name: WordButton(state, name, "", chalk=False, parent=self, name=f"mark.{name}") for name in BUTTONS}
        for name, button in self.buttons.items():
            button.clicked.connect(lambda _=False, n=name: self._press(n))
        self.keep = WordButton(state, "Keep it", "Enter", chalk=True, parent=self, name="mark.keep")
        self.keep.clicked.connect(lambda: self._words("take {}"))
        self.wrong = WordButton(state, "Drop it", "Del", chalk=False, parent=self, name="mark.wrong")
        self.wrong.clicked.connect(lambda: self._words("drop {}"))
        self.hide()

    @property
    def defect(self) -> Defect | None:
        """The defect that is taken."""
        piece, tag = self.state.piece, self.state.chosen_tag
        return next((d for d in piece.defects if d.id == tag), None) if piece else None

    @property
    def suggestion(self) -> Suggestion | None:
        """The suggestion that is taken."""
        piece, tag = self.state.piece, self.state.chosen_tag
        return next((s for s in piece.suggestions if s.id == tag), None) if piece else None

    @property
    def wanted(self) -> bool:
        """Whether there is something to show."""
        return self.defect is not None or self.suggestion is not None

    def refresh(self) -> None:
        """Say each figure on its button and lay them out."""
        defect, suggestion = self.defect, self.suggestion
        for name, button in self.buttons.items():
            button.setVisible(defect is not None)
            if defect is not None:
                text, enabled = _said(name, defect, self.state.style)
                button.say(text, enabled=enabled)
                button.caution = name == "drop"
        self.keep.setVisible(suggestion is not None)
        self.wrong.setVisible(suggestion is not None)
        crop = 150 if self.width() > 560 else 0
        for k in (0, 4):
            flow.grid(
                [self.buttons[name] for name in BUTTONS[k : k + 4]], 8, 48 + k // 4 * 50, self.width() - crop - 12, 4, gap=4
            )
        flow.row([(self.keep, 150), (self.wrong, 150)], 8, 76, gap=8)
        self.update()

    def _press(self, name: str) -> None:
        defect = self.defect
        if defect is None:
            return
        if name == "depth":
            self.state.tape_wanted.emit(f"depth {defect.id} ")
        elif name == "face":
            order = ("1", "2", "through", "edge")
            self._words(f"face {{}} {order[(order.index(defect.face) + 1) % 4]}")
        elif name == "severity":
            self._words(f"sev {{}} {(defect.severity or 0) % 3 + 1}")
        elif name == "feature":
            self._words("feature {}")
        elif name in ("endMarked", "endFar"):
            marked, far = defect.ends_closed or (False, False)
            marked, far = (not marked, far) if name == "endMarked" else (marked, not far)
            word = {(True, True): "both", (True, False): "marked", (False, True): "far", (False, False): "open"}[marked, far]
            if word in ("marked", "far"):
                self._words("ends {} open", f"ends {{}} {word}")
            else:
                self._words(f"ends {{}} {word}")
        elif name == "cleared":
            self._clear(defect)
        else:
            tag = defect.id
            self.state.choose_tag(None)
            self._read(f"drop {tag}")

    def _clear(self, defect: Defect) -> None:
        menu = QMenu(self)
        menu.setObjectName("mark.cleared.menu")
        ways = ("drawn out",) if defect.live_metal else ("probed", "glued", "stabilised", "plugged", "scraped off")
        for way in ways:
            words = f"out {defect.id}" if way == "drawn out" else f"cleared {defect.id} {way}"
            menu.addAction(way.capitalize(), lambda w=words: self._read(w))
        if not defect.live_metal and not defect.cleared:
            menu.addSeparator()
            for how, words in (
                ("harden", "Make it firm"),
                ("dowels", "Dowels across it"),
                ("plug", "Plug it"),
                ("insert", "Let wood in"),
            ):
                act = menu.addAction(
                    f"{words}, as a step where a part uses it", lambda h=how: self._read(f"mend {defect.id} {h}")
                )
                act.setCheckable(True)
                act.setChecked(defect.mend == how)
            if defect.mend:
                menu.addAction("No mend", lambda: self._read(f"mend {defect.id} none"))
            menu.addSeparator()
        if defect.cleared:
            menu.addAction("Open again", lambda: self._read(f"cleared {defect.id}"))
        menu.addAction("Type how ...", lambda: self.state.tape_wanted.emit(f"cleared {defect.id} "))
        button = self.buttons["cleared"]
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(button.mapToGlobal(button.rect().topLeft()))

    def _words(self, *lines: str) -> None:
        tag = self.state.chosen_tag
        if tag is None:
            return
        if lines[0].startswith(("take", "drop")):
            self.state.choose_tag(None)
        piece = self.state.piece
        for line in lines[:-1]:  # on the way to the last, nothing is kept
            piece = self.state.understand(line.format(tag), piece).piece
        self._read(lines[-1].format(tag), piece)

    def _read(self, line: str, piece: Any = None) -> None:
        try:
            self.state.keep_meaning(self.state.understand(line, piece))
        except BadEntry as fault:
            self.state.warn(str(fault))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, defect, suggestion = self.state.theme, self.defect, self.suggestion
        p.fillRect(self.rect(), theme.ground)
        if defect is not None:
            x0, x1 = min(x for x, _ in defect.polygon), max(x for x, _ in defect.polygon)
            y0, y1 = min(y for _, y in defect.polygon), max(y for _, y in defect.polygon)
            draw.text_at(p, 8, 26, f"{name_of(defect).capitalize()} {defect.id}", theme.ink, 17, 700)
            by = f", found by the {defect.by}" if defect.by else ""
            told = self.state.told
            words = f"{told(x1 - x0)} × {told(y1 - y0)} at {told(x0)}, {told(y0)} up{by}"
            draw.text_at(p, 150, 26, words, theme.ink2, 14, room=self.width() - 170)
            draw.text_at(
                p,
                8,
                168,
                "Arrows move it; Home and End take its corners; Esc lets go, Del removes it",
                theme.ink2,
                13,
                room=self.width() - (170 if self.width() > 560 else 16),
            )
            self._crop(p, defect.polygon, "2" if defect.face == "2" else "1")
        elif suggestion is not None:
            draw.text_at(p, 8, 26, f"{suggestion.id} suggested by the photo", theme.ochre, 17, 700)
            what = label_of(suggestion.kind) if suggestion.kind else suggestion.what
            draw.text_at(
                p,
                8,
                52,
                f"{what}, {suggestion.confidence:.2f} sure; it counts for nothing until you keep it. {suggestion.text}",
                theme.ink2,
                14,
                room=self.width() - 20,
            )
            if suggestion.polygon:
                self._crop(p, suggestion.polygon, suggestion.face)

    def _crop(self, p: QPainter, ring: Any, face: str) -> None:
        """The wood about the mark, cut out of the face's picture."""
        piece = self.state.piece
        if piece is None or self.width() <= 560:
            return
        picture = self.state.pictures.get(piece, "face2" if face == "2" else "face1")
        box = QRectF(self.width() - 142, 40, 134, 104)
        p.setPen(QPen(self.state.theme.ink, 1))
        if picture is not None:
            px0, py0, px1, py1 = piece.extents
            sx, sy = picture.width() / (px1 - px0), picture.height() / (py1 - py0)
            xs, ys = zip(*ring)
            half = max(max(xs) - min(xs), (max(ys) - min(ys)) * box.width() / box.height(), 40) * 0.75
            cx, cy = (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2
            tall = half * box.height() / box.width()
            p.drawPixmap(box, picture, QRectF((cx - half - px0) * sx, (py1 - cy - tall) * sy, 2 * half * sx, 2 * tall * sy))
            shown = draw.path_of(
                ring,
                lambda x: box.x() + (x - cx + half) / (2 * half) * box.width(),
                lambda y: box.y() + (cy + tall - y) / (2 * tall) * box.height(),
            )
            p.save()
            p.setClipRect(box)
            draw.outline(p, shown, self.state.theme.chalk, 2)
            p.restore()
        p.setPen(QPen(self.state.theme.ink, 1))
        p.drawRect(box)


MEND_WORDS = {"harden": "Will be firm", "dowels": "Will be dowelled", "plug": "Will be plugged", "insert": "Wood let in"}


def _said(name: str, defect: Defect, style: LengthStyle) -> tuple[str, bool]:
    """What a button says of a mark, and whether it can be pressed."""
    marked, far = defect.ends_closed or (False, False)
    growing = defect.kind in GROWING
    texts = {
        "depth": "Depth ?" if defect.depth_mm is None else f"{tell_length(defect.depth_mm, style, 'g')} deep",
        "face": {"1": "On face 1", "2": "On face 2", "through": "Through", "edge": "On edge"}[defect.face],
        "severity": SEVERITY_WORDS[defect.severity - 1].capitalize() if defect.severity else "Grave ?",
        "feature": "A feature" if defect.keep else "Feature ?",
        "endMarked": "Left ended" if marked else "Left open", "endFar": "Right ended" if far else "Right open",
        "cleared": "Drawn out" if defect.metal_drawn else defect.cleared.partition(",")[0].capitalize() or MEND_WORDS.get(defect.mend) or ("Draw it out" if FAMILY[defect.kind] == "metal" else "Clear it"),
        "drop": "Remove",
    }  # fmt: skip
    return texts[name], name not in ("endMarked", "endFar") or growing
