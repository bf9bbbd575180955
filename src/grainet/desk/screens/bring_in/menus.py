"""The menus of Bring in: everything that words do to the piece in hand, by the mouse."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu

from grainet.desk.widgets.controls import WordButton
from grainet.wood.coating import FINISHES, TREATMENTS
from grainet.wood.defects import ALIASES, FAMILY, DefectKind, label_of
from grainet.wood.figure import FIGURE_KINDS
from grainet.wood.photo import FLATNESS_PICTURES, SIDE_WORDS, SIDES
from grainet.wood.piece import PIECE_KINDS, Piece
from grainet.wood.settling import STACKING_WORDS
from grainet.wood.species import COLOURS
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.desk.screens.bring_in.screen import BringIn

FAMILY_WORDS = {
    "breaks": "Breaks the piece",
    "metal": "Metal",
    "tool": "Bites the tool",
    "moves": "Moves",
    "void": "Takes thickness",
    "shows": "Only shows",
}
Row = tuple[str, Callable[[], object]]

PORES = (("ring", "in rings"), ("semi", "half in rings"), ("diffuse", "evenly spread"), ("none", "none: a softwood"))


class Menus:
    """Opens a menu over its button; each line does what a line of words would."""

    def __init__(self, screen: BringIn) -> None:
        self.screen, self.state = screen, screen.state

    def words(self, line: str) -> None:
        """Do a line of words at once; a sentence says what cannot be done."""
        try:
            self.state.keep_meaning(self.state.understand(line))
        except BadEntry as fault:
            self.state.warn(str(fault))

    def _say(self, line: str) -> Callable[[], None]:
        return lambda: self.words(line)

    def _tape(self, line: str) -> Callable[[], None]:
        return lambda: self.state.tape_wanted.emit(line)

    def _open(self, button: WordButton, menu: QMenu) -> None:
        menu.setObjectName(f"{button.objectName()}.menu")
        menu.aboutToHide.connect(self.screen.refresh)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(button.mapToGlobal(button.rect().topLeft()))

    # kinds and species --------------------------------------------------------------------------------------------
    def kind(self) -> None:
        """What kind of piece it is."""
        menu, screen = QMenu(self.screen), self.screen
        for kind in PIECE_KINDS:
            menu.addAction(label_of(kind).capitalize(), self._say(f"kind {label_of(kind)}"))
        menu.addSeparator()
        menu.addAction("A bundle of strips ...", lambda: screen.bundle.show_form("bundle"))
        menu.addAction("A pack of veneers ...", lambda: screen.bundle.show_form("pack"))
        menu.addAction("Layers ...", self._tape("layers "))
        menu.addAction("Nominal size ...", self._tape("nominal "))
        piece = self.state.piece
        reclaimed = piece is not None and piece.reclaimed
        menu.addAction(
            "Bought, not reclaimed" if reclaimed else "Reclaimed: needs a metal sweep",
            self._say("kind bought" if reclaimed else "kind reclaimed"),
        )
        self._open(screen.kind, menu)

    def species(self) -> None:
        """What species it is, and how sure that is."""
        menu = QMenu(self.screen)
        menu.addAction("Unknown", self._say("sp unknown"))
        menu.addAction("Type a name ...", self._tape("sp "))
        piece, known = self.state.piece, self.state.shop.kit.library
        if piece is not None and piece.species != "unknown":
            sure = piece.species_sure
            menu.addAction(
                "Not sure of it" if sure else "Sure of it",
                self._say(f"sp {piece.species}?" if sure else f"surely {piece.species}"),
            )
            also = menu.addMenu("It may also be")
            for one in sorted(known.all, key=lambda s: s.common):
                if one.common not in (piece.species, *piece.candidates):
                    also.addAction(one.common, self._say(f"maybe {one.common.replace(',', ' ')}"))
            for name in piece.candidates:
                menu.addAction(f"Surely {name}", self._say(f"surely {name}"))
        look = menu.addMenu("As it looks")
        for words, options in (("Pores", PORES), ("Colour", tuple((c, c) for c in COLOURS))):
            own = look.addMenu(words)
            for word, label in options:
                seen = tuple(dict.fromkeys((*(piece.look if piece else ()), word)))
                own.addAction(label.capitalize(), self._say(f"look {', '.join(seen)}"))
        look.addAction("Nothing seen", self._forget_look)
        menu.addAction("Weigh the candidates up (Ctrl+K)", lambda: self._kit_page("species"))
        groups: dict[str, QMenu] = {}
        for species in sorted(known.all, key=lambda s: s.common):
            first = species.common[0].upper()
            if first not in groups:
                groups[first] = menu.addMenu(first)
            groups[first].addAction(species.common, self._say(f"sp {species.common}"))
        self._open(self.screen.species, menu)

    def _forget_look(self) -> None:
        piece = self.state.piece
        if piece is not None:
            self.state.keep(f"No. {piece.id}: look forgotten", piece.changed(look=()))

    def _kit_page(self, name: str) -> None:
        window = self.screen.window()
        if hasattr(window, "show_kit_page"):
            window.show_kit_page(name)

    # marks --------------------------------------------------------------------------------------------------------
    def mark(self) -> None:
        """What lies on it: defects, figure, metal."""
        screen = self.screen
        if screen.board.mark_kind is not None:
            screen.let_go()
            return
        menu = QMenu(screen)
        polygons = QMenu("By corners: click each, double-click ends", menu)
        groups: dict[str, tuple[QMenu, QMenu]] = {}
        for kind in get_args(DefectKind):
            family = FAMILY[kind]
            if family not in groups:
                groups[family] = (menu.addMenu(FAMILY_WORDS[family]), polygons.addMenu(FAMILY_WORDS[family]))
            for own, corners in zip(groups[family], (False, True)):
                own.addAction(label_of(kind).capitalize(), lambda k=kind, c=corners: screen.take_mark(k, polygon=c))
        for word, kind in ALIASES.items():
            for own, corners in zip(groups[FAMILY[kind]], (False, True)):
                own.addAction(label_of(word).capitalize(), lambda w=word, c=corners: screen.take_mark(w, polygon=c))
        menu.addMenu(polygons)
        figure = menu.addMenu("Figure here ...")
        for one in FIGURE_KINDS:
            figure.addAction(label_of(one).capitalize(), lambda k=one: screen.take_mark(k, polygon=False))
        piece = self.state.piece
        if piece is not None and piece.figure:
            away = menu.addMenu("Take a figure away")
            for zone in piece.figure:
                away.addAction(f"{zone.id} {label_of(zone.kind)}", self._say(f"drop {zone.id}"))
        self._open(screen.mark, menu)

    def gate(self) -> None:
        """Metal, old finish and treatment: what is open and how each is cleared."""
        piece = self.state.piece
        if piece is None:
            return
        menu = QMenu(self.screen)
        for face in ("1", "2"):
            menu.addAction(f"Face {face} swept today, nothing found but what is marked", self._say(f"clear {face}"))
        menu.addAction("Swept, and how ...", self._tape("clear both "))
        for defect in piece.live_metal:
            menu.addAction(f"{defect.id} is drawn out", self._say(f"out {defect.id}"))
        for sweep in piece.sweeps:
            log = menu.addAction(
                f"log: face {sweep.face} on {sweep.on}, {sweep.how}" + (f", found {sweep.found}" if sweep.found else "")
            )
            log.setEnabled(False)
        menu.addSeparator()
        finish = menu.addMenu(f"Old finish: {piece.coating.finish or 'not declared'}")
        for word in FINISHES:
            finish.addAction(word.capitalize(), self._say(f"finish {word}"))
        treated = menu.addMenu(f"Treatment: {label_of(piece.coating.treatment) or 'not declared'}")
        for word in TREATMENTS:
            treated.addAction(label_of(word).capitalize(), self._say(f"treated {label_of(word)}"))
        treated.addAction("Known to be safe, because ...", self._tape("treated safe "))
        if piece.coating.finish not in ("", "none"):
            menu.addAction("Finish tested clean, and how ...", self._tape("tested clean "))
            menu.addAction("Finish tested: lead or other poison", self._say("tested lead"))
        for test in piece.coating.tests:
            menu.addAction(f"log: tested {test.on}, {test.how}: {'clean' if test.clean else 'not clean'}").setEnabled(False)
        self._open(self.screen.gate, menu)

    # pictures and the rest ----------------------------------------------------------------------------------------
    def photos(self) -> None:
        """Photos of its sides, and what they suggest."""
        piece = self.state.piece
        if piece is None:
            return
        menu, screen = QMenu(self.screen), self.screen
        for side in SIDES:
            own = menu.addMenu(SIDE_WORDS[side] + (": true" if (p := piece.photo(side)) and p.is_true else ""))
            own.addAction("Take it with the camera", lambda s=side: screen.photo_wanted.emit(s, "camera"))
            own.addAction("From a file (PNG or JPEG) ...", lambda s=side: screen.photo_wanted.emit(s, "file"))
            if piece.photo(side) is not None:
                own.addAction("Make it true anew", lambda s=side: screen.photo_wanted.emit(s, "again"))
                own.addAction("Take the photo away", lambda s=side: self._forget(s))
        for kind in FLATNESS_PICTURES:
            own = menu.addMenu(SIDE_WORDS[kind])
            own.addAction("Take it with the camera", lambda k=kind: screen.photo_wanted.emit(k, "camera"))
            own.addAction("From a file (PNG or JPEG) ...", lambda k=kind: screen.photo_wanted.emit(k, "file"))
        if piece.suggestions:
            menu.addSeparator()
            for one in piece.suggestions:
                own = menu.addMenu(f"{one.id} {label_of(one.kind) if one.kind else one.text}, {one.confidence:.2f} sure")
                own.addAction("Keep it", self._say(f"take {one.id}"))
                own.addAction("Drop it", self._say(f"drop {one.id}"))
            menu.addAction("Keep every suggestion", lambda: self._all("take"))
            menu.addAction("Drop every suggestion", lambda: self._all("drop"))
        self._open(screen.photo, menu)

    def _forget(self, side: str) -> None:
        piece = self.state.piece
        if piece is not None:
            self.state.keep(
                f"No. {piece.id}: photo of {side} away", piece.changed(photos=tuple(p for p in piece.photos if p.side != side))
            )

    def _all(self, word: str) -> None:
        """Keep or drop all that pictures suggest, in one step."""
        piece = self.state.piece
        if piece is None:
            return
        new: Piece = piece
        for one in piece.suggestions:
            new = self.state.understand(f"{word} {one.id}", new).piece or new
        verb = "kept" if word == "take" else "dropped"
        if self.state.keep(f"No. {piece.id}: {len(piece.suggestions)} suggestions {verb}", new):
            self.state.notify(f"{len(piece.suggestions)} suggestions {verb}")

    def _of_the_wood(self, menu: QMenu) -> None:
        """Grain, readings, flatness, and sawing apart."""
        grain = menu.addMenu("Grain")
        for label, word in (
            ("Planes clean toward the far end", "planes far"),
            ("Planes clean toward the marked end", "planes marked"),
            ("Tears both ways", "planes both"),
            ("Not known", "planes ?"),
        ):
            grain.addAction(label, self._say(word))
        grain.addAction("Run-out on the near edge ...", self._tape("runout "))
        grain.addAction("Interlocked", self._say("interlocked"))
        grain.addAction("Not interlocked", self._say("interlocked no"))
        grid = menu.addMenu("Thickness readings")
        for size in ("3x1", "5x1", "9x1", "3x2", "3x3", "5x3", "9x3"):
            grid.addAction(f"{size.replace('x', ' along, ')} across", self._say(f"grid {size}"))
        flat = menu.addMenu("Flatness")
        for word in ("bow", "cup", "crook", "twist"):
            flat.addAction(f"{word.capitalize()} ...", self._tape(f"{word} "))
        sawn = menu.addMenu("Saw it apart here, by hand")
        sawn.addAction("Crosscut at the marker", lambda: self.words("cut"))
        sawn.addAction("Rip, up from the near edge ...", self._tape("rip "))
        sawn.addAction("Resaw, below face 1 ...", self._tape("resaw "))

    def _of_its_story(self, menu: QMenu) -> None:
        """Moisture and rest, and where it is from."""
        dry = menu.addMenu("Moisture and rest")
        for label, line in (
            ("What the meter in hand shows ...", "raw "), ("A cut sample, wet and dry ...", "sample "), ("Weigh it for its series ...", "weigh "), ("Log its bow ...", "rest "),
            ("Work it though it moves, because ...", "waive "),
        ):  # fmt: skip
            dry.addAction(label, self._tape(line))
        stacked = dry.addMenu("How it rests")
        for word in ("sticks", "still", "bench", "sealed"):
            stacked.addAction(STACKING_WORDS[word].capitalize(), self._say(f"stack {word}"))
        dry.addAction("Plot it (Ctrl+Shift+P)", lambda: self.state.screen_wanted.emit("plots"))
        bought = menu.addMenu("Where it is from")
        for label, line in (
            ("Origin ...", "from "), ("Supplier ...", "supplier "), ("Price ...", "price "), ("Said of its drying ...", "claim "), ("Said of its age ...", "age "),
            ("A paper kept with it ...", "paper "), ("What it hid ...", "surprise "), ("Why it was passed over ...", "passed "),
        ):  # fmt: skip
            bought.addAction(label, self._tape(line))

    def more(self) -> None:
        """Everything else that can be told of a piece."""
        menu, screen = QMenu(self.screen), self.screen
        menu.addAction("Try a part: drag it on the wood", lambda: screen.try_part(on=True))
        menu.addAction("Roll the board, see the other face (/)", self.state.roll)
        menu.addSeparator()
        for label, word in (
            ("Turn it end for end", "turn"),
            ("Roll it over: face 2 becomes face 1", "roll"),
            ("Flip it over the end", "over"),
        ):
            menu.addAction(label, self._say(word))
        self._of_the_wood(menu)
        places = menu.addMenu("Place")
        for place in sorted({p.place for p in self.state.shop.pieces() if p.place}):
            places.addAction(place, self._say(f"at {place}"))
        places.addAction("Type it ...", self._tape("at "))
        self._of_its_story(menu)
        menu.addAction("Keep it for ...", self._tape("keep for "))
        menu.addAction("Give its claims back", self._say("free"))
        menu.addAction("What to mind beside another piece ...", self._tape("beside "))
        menu.addAction("A knock ...", self._tape("tap "))
        menu.addAction("Note ...", self._tape("note "))
        menu.addSeparator()
        menu.addAction("Print its label ...", lambda: screen.label_wanted.emit())
        menu.addAction("Print a sheet of labels ...", lambda: screen.label_sheet_wanted.emit())
        self._open(screen.more, menu)
