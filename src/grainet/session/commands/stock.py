"""The tape line's words for whole pieces: kind and size at once, bundles and packs, layers, coating, turning, sawing apart."""

from __future__ import annotations

import re
from collections.abc import Callable

from grainet.session.commands.command import Command
from grainet.session.commands.definition import SHOP, WOOD, word
from grainet.session.commands.reader_base import ReaderBase, Wood
from grainet.wood.coating import FINISHES, TREATMENTS, CoatTest
from grainet.wood.defects import label_of
from grainet.wood.piece import Layer, Piece, PieceKind, Station, WidthStation, with_readings
from grainet.wood.quantity import parse_whole
from grainet.wood.turning import flipped_over_the_end, rolled_over, turned_end_for_end
from grainet.wood.units import LENGTH
from grainet.wood.value import BadEntry

MOST_ITEMS = 200
_GROUP = re.compile(rf"(?<!\S)(?P<count>[^\sx]+)\s*x\s*(?P<sizes>{LENGTH}(?:\s*x\s*{LENGTH})*)(?=$|\s)", re.I)


class StockWords(ReaderBase):
    """Words about the piece as a whole."""

    def species_named(self, text: str) -> str:
        """A species of the library by any name. Raises BadEntry; a name that several have is asked about."""
        if text.strip().lower() in ("unknown", "?"):
            return "unknown"
        return self.species_of(text).common

    def sized_piece(self, kind: PieceKind, figures: list[float], rest: str) -> Command:
        """``plank 2390x231x52 white ash``: kind, length x width (x thickness) and species in one line. All of it said of a piece that is measured
        already begins the next piece, so that no board is written over by the one after it; without a species it corrects the one in hand."""
        if len(figures) not in (2, 3):
            raise BadEntry(f"{len(figures)} sizes: needs length x width, or length x width x thickness, such as 2390x231x52.")
        turned = len(figures) == 3 and figures[0] < figures[1] < figures[2] / 2  # as timber is sold: thickness, width, length
        figures = figures[::-1] if turned else figures
        changes: dict[str, object] = {"kind": kind}
        words = rest.split()
        if "reclaimed" in (w.lower() for w in words):
            changes["reclaimed"] = True
            words = [w for w in words if w.lower() != "reclaimed"]
        if words:
            told = self.wood_of(" ".join(words))
            changes |= {"species": told.name, "candidates": told.others, "species_sure": told.sure or told.name == "unknown"}
        begins = bool(words and self.piece.outline)
        piece = _boxed((Piece(id=self.piece.id, racked=False) if begins else self.piece).changed(**changes), figures, self.by)
        wood = "" if piece.species == "unknown" else f", {told.words if words else piece.species}"
        was = ", reclaimed: sweep it for metal" if changes.get("reclaimed") else ""
        new = "a new piece, " if begins else ""
        new += "read as thickness, width, length: " if turned else ""
        gloss = f"{new}{label_of(kind)} {' × '.join(self.shown(f) for f in figures)}{wood}{was}"
        return Command(gloss, piece, label=label_of(kind), begins=begins)

    def _bundle(self, kind: PieceKind, word: str) -> Callable[[str], Command]:
        def read(rest: str) -> Command:
            groups = list(_GROUP.finditer(rest))
            if not groups:
                raise BadEntry(f"{word} needs count x length x width x thickness, such as {word} 5x760x58x12 4x700 3x620 cherry.")
            name = " ".join(_GROUP.sub(" ", rest).split())
            if re.search(r"[0-9]", name):
                raise BadEntry(f"“{name}” is left over; {word} needs groups such as 5x760x58x12, then the species.")
            told = self.wood_of(name) if name else Wood(self.piece.species, self.piece.species_sure, self.piece.candidates)
            items = self._items([(g["count"], g["sizes"]) for g in groups], kind, told)
            lengths = len({i.length_mm for i in items})
            wood = "" if told.name == "unknown" else f", {told.words}"
            gloss = f"{len(items)} {label_of(kind)}s of {lengths} length{'s' if lengths > 1 else ''}{wood}"
            return Command(gloss, self.piece, label=gloss, more=tuple(items), replaces=True)

        return read

    def _items(self, groups: list[tuple[str, str]], kind: PieceKind, wood: Wood) -> list[Piece]:
        """The items of a bundle; a group that leaves width or thickness out has those of the one before."""
        if self.piece.outline:
            raise BadEntry(f"No. {self.piece.id} is measured already; a bundle needs a new piece: Ctrl+N.")
        items: list[Piece] = []
        last: list[float] = []
        for count_text, sizes in groups:
            count = parse_whole(count_text, "how many")
            if not 1 <= count <= MOST_ITEMS:
                raise BadEntry(f"{count} items are out of reach for one group; needs 1 to {MOST_ITEMS}.")
            figures = [self.mm(part, "size") for part in re.split(r"\s*x\s*", sizes, flags=re.I)]
            figures += last[len(figures) :]
            if len(figures) != 3:
                raise BadEntry(f"“{count_text}x{sizes}”: needs count x length x width x thickness, such as 5x760x58x12.")
            last = figures
            if len(items) + count > MOST_ITEMS:
                raise BadEntry(f"{len(items) + count} items are too many for one bundle; at most {MOST_ITEMS}.")
            for _ in range(count):
                order = len(items) + 1
                new = self.piece.changed(
                    id=f"{self.piece.id}-{order}", kind=kind, species=wood.name, species_sure=wood.sure or wood.name == "unknown",
                    candidates=wood.others, bundle=self.piece.id, sawn_order=order, racked=True,
                )  # fmt: skip
                items.append(_boxed(new, figures, self.by))
        return items

    @word(
        "layers",
        WOOD,
        "layers T species ...",
        "layers of a panel, face 1 first; across where the grain lies across",
        "layers 0.6 black cherry 18 lime across 0.6 black cherry",
        "laminate plywood panel",
    )
    def _layers(self, rest: str) -> Command:
        """``layers 0.6 walnut 18 lime across 0.6 walnut``: thickness and species of each, face 1 first."""
        groups = re.findall(rf"(?<!\S)({LENGTH})\s+([^0-9.,]+?)(?=$|\s+[0-9.,])", rest, re.I)
        told = sum(len("".join(g).replace(" ", "")) for g in groups)
        if not groups or told != len(rest.replace(" ", "")):
            raise BadEntry(
                "layers needs thickness and species of each, face 1 first, such as layers 0.6 cherry 18 lime 0.6 cherry; "
                f"found “{rest.strip()}”."
            )
        made = []
        for size, name in groups:
            across = bool(re.search(r"\bacross\b", name))
            species = self.species_named(re.sub(r"\bacross\b", "", name).strip())
            made.append(Layer(species=species, thickness_mm=self.mm(size, "layer", most=1000), across=across))
        total = sum(layer.thickness_mm for layer in made)
        read = self.piece.least_thickness_mm
        apart = (
            f"; {self.told(abs(total - read), '.1f')} from the {self.told(read, '.1f')} read"
            if read is not None and abs(total - read) > 0.5
            else ""
        )
        return Command(
            f"{len(made)} layers, {self.told(total, '.1f')} together{apart}",
            self.piece.changed(layers=tuple(made), kind="panel"),
            label="layers",
        )

    @word(
        "finish",
        WOOD,
        "finish name",
        "old finish: none, unknown, paint, varnish, stain, oil",
        "finish paint",
        "paint varnish lacquer coat coating lead oil",
    )
    def _finish(self, rest: str) -> Command:
        word = rest.strip().lower()
        if word not in FINISHES:
            raise BadEntry(f"“finish {rest}”: needs one of {', '.join(FINISHES)}.")
        new = self.piece.coating.changed(finish=word)
        gloss = (
            "no old finish"
            if word == "none"
            else f"old finish: {word}" + (", to be tested before it is machined" if new.wants_test else "")
        )
        return Command(gloss, self.piece.changed(coating=new), label="old finish")

    @word(
        "treated",
        WOOD,
        "treated name",
        "treatment: none, unknown, preservative, decking, railway, fire retardant; safe and why",
        "treated none",
        "preservative creosote decking pallet chemical",
        free=True,
    )
    def _treated(self, rest: str) -> Command:
        word, _, why = rest.strip().lower().partition(" ")
        if word == "safe":
            if not why:
                raise BadEntry("treated safe needs the reason too: how do you know?")
            return Command(
                f"treated, known to be safe: {why}",
                self.piece.changed(coating=self.piece.coating.changed(known_safe=why)),
                label="treatment",
            )
        word = rest.strip().lower().replace(" ", "_")
        if word not in TREATMENTS:
            raise BadEntry(f"“treated {rest}”: needs one of {', '.join(label_of(t) for t in TREATMENTS)}, or safe and why.")
        new = self.piece.coating.changed(treatment=word, known_safe="")
        return Command(
            "not treated" if word == "none" else f"treatment: {label_of(word)}; it stays out of use",
            self.piece.changed(coating=new),
            label="treatment",
        )

    @word(
        "tested",
        WOOD,
        "tested clean or lead",
        "a test of the old finish, and how",
        "tested clean swab",
        "lead paint test",
        free=True,
    )
    def _tested(self, rest: str) -> Command:
        word, _, how = rest.strip().partition(" ")
        if word.lower() not in ("clean", "lead"):
            raise BadEntry("tested needs clean or lead, and how, such as tested clean swab kit.")
        test = CoatTest(on=self.today, how=how or "not said", clean=word.lower() == "clean")
        new = self.piece.coating.changed(tests=(*self.piece.coating.tests, test))
        return Command(
            "old finish tested clean" if test.clean else "old finish holds lead: it stays out of use",
            self.piece.changed(coating=new),
            label="finish test",
        )

    def _turn(self, turn: Callable[[Piece], Piece], gloss: str) -> Callable[[str], Command]:
        def read(rest: str) -> Command:
            self.nothing_more(rest, gloss.partition(" ")[0])
            return Command(gloss, turn(self.piece), label=gloss.partition(":")[0])

        return read

    def _apart(self, tool: str) -> Callable[[str], Command]:
        def read(rest: str) -> Command:
            if not self.piece.outline or not self.piece.all_thicknesses_mm:
                raise BadEntry("It needs its outline and a thickness before it is sawn apart.")
            at = self.mm(rest, tool) if rest.strip() else self.at
            x0, y0, x1, y1 = self.piece.extents
            low, high = {"crosscut": (x0, x1), "rip": (y0, y1), "resaw": (0.0, self.piece.least_thickness_mm or 0.0)}[tool]
            if not low < at < high:
                raise BadEntry(f"{self.told(at, '.1f')} is off the piece; needs {self.told(low)} to {self.told(high)}.")
            if self.piece.live_metal:
                tags = ", ".join(d.id for d in self.piece.live_metal)
                raise BadEntry(
                    f"{tags} is metal still in the wood: no cut is offered. Draw it out, then out {self.piece.live_metal[0].id}."
                )
            where = {"crosscut": "from the marked end", "rip": "up from the near edge", "resaw": "below face 1"}[tool]
            return Command(
                f"sawn apart {self.shown(at)} {where}, kerf taken", self.piece, label=f"{tool} at {self.told(at)}", cut=(tool, at)
            )

        return read

    @word(
        "bundle",
        SHOP,
        "bundle count x L x W x T ...",
        "strips counted in one go; pack for veneers",
        "bundle 5x760x58x12 4x700 3x620 black cherry",
        "strips pack veneer many several count",
    )
    def _word_bundle(self, rest: str) -> Command:
        return self._bundle("strip", "bundle")(rest)

    @word("pack")
    def _word_pack(self, rest: str) -> Command:
        return self._bundle("veneer", "pack")(rest)

    @word("turn", SHOP, "turn, roll, over", "end for end, the other face up, or both", "turn", "flip rotate other side end")
    def _word_turn(self, rest: str) -> Command:
        return self._turn(turned_end_for_end, "turned end for end: the other end is the marked one")(rest)

    @word("roll", SHOP, "roll", "rolled over: face 2 is face 1 now", "roll", "flip face other side")
    def _word_roll(self, rest: str) -> Command:
        return self._turn(rolled_over, "rolled over: face 2 is face 1 now")(rest)

    @word("over")
    def _word_over(self, rest: str) -> Command:
        return self._turn(flipped_over_the_end, "flipped over the end")(rest)

    @word(
        "cut",
        SHOP,
        "cut at, rip at, resaw at",
        "sawn apart there by hand",
        "cut 900",
        "saw crosscut rip resaw split halve",
        placed=True,
    )
    def _word_cut(self, rest: str) -> Command:
        return self._apart("crosscut")(rest)

    @word("rip", SHOP, "rip at", "sawn along, so far up from the near edge", "rip 60", "saw along table saw", placed=True)
    def _word_rip(self, rest: str) -> Command:
        return self._apart("rip")(rest)

    @word(
        "resaw",
        SHOP,
        "resaw at",
        "sawn through the thickness, so far below face 1",
        "resaw 12",
        "saw leaves bookmatch slice",
        placed=True,
    )
    def _word_resaw(self, rest: str) -> Command:
        return self._apart("resaw")(rest)


def _boxed(piece: Piece, figures: list[float], by: str = "") -> Piece:
    """A piece with straight edges of length x width, and a thickness in its middle where one is given."""
    length, width = figures[:2]
    edges = (WidthStation(x_mm=0, far_mm=width, by=by), WidthStation(x_mm=length, far_mm=width, by=by))
    sized = with_readings(piece, length_mm=length, width_stations=edges)
    if len(figures) < 3:
        return sized
    return sized.changed(
        stations=(Station(x_mm=round(length / 2, 1), y_mm=round(width / 2, 1), thickness_mm=figures[2], by=by),),
        thickness_mm=None,
    )
