"""The tape line's words for what lies on the wood: troubles, figure, the metal gate, and what a picture suggests."""

from __future__ import annotations

from collections.abc import Callable
from typing import get_args

from grainet.session.commands.command import Command
from grainet.session.commands.definition import MARKS, Word, word
from grainet.session.commands.reader_base import ReaderBase
from grainet.session.commands.spoken_figure import options_of_figure
from grainet.session.suggesting import accepted, without
from grainet.wood.defects import DEEPEST_MM, FAMILY, SEVERITY_WORDS, Defect, DefectKind, label_of, next_defect_id
from grainet.wood.figure import FigureZone, house_word, next_figure_id
from grainet.wood.look_skim import seen, skimmed
from grainet.wood.piece import Sweep
from grainet.wood.quantity import ANGLE, SHARE, parse_whole
from grainet.wood.value import BadEntry, Choose, Ring

ALL_DEFECTS: tuple[str, ...] = get_args(DefectKind)
FACES = {"1": "1", "2": "2", "edge": "edge", "through": "through"}


# every kind of trouble and figure is a word: its name, its code, or what builders call it; these rows tell of them
FORMS = (
    Word("knot", MARKS, "knot across at along up", "any defect as you say it: 300 to 880, at 800 60, 14 wide, 9 deep, face 2", "knot 20 at 800 60, 12 deep", "along up where place spoken said stretch from to face"),
    Word("c1", MARKS, "mark and what is so now", "changes a mark: 0 to 420, 320 long, 14 wide, at 800 60, 12 deep, through, out, drop", "c1 0 to 420", "longer deeper wider grown change correct moved stretch"),
    Word("k", MARKS, "k L x W, or k across", "a knot at the marker; y up, d deep, f 2, s 1 to 3, through", "k 24x18 y 40 d 12", "knot branch pin diameter round k 18"),
    Word("crack", MARKS, "crack L x W", "a crack; at 0 it begins at the end. Also split, check, shake, rot", "crack 250x3 through", "c split check shake rot decay break end honeycomb"),
    Word("m", MARKS, "m L x W", "metal: a nail. Also screw, staple, shot", "m 6x6", "nail screw staple metal iron shot"),
    Word("groove", MARKS, "groove L x W x depth", "what takes thickness; also housing, notch, mortise, hole, wane, thin spot", "groove 200x40x12", "v void slot dado housing notch mortise hole wane worm dent spall ridge"),
    Word("wane", MARKS, "wane L x W", "missing wood along the near edge; far says the other", "wane 300x15 far", "bark edge missing live"),
    Word("inbark", MARKS, "inbark L x W", "bark grown in", "inbark 20x10", "bark pocket inclusion"),
    Word("pith", MARKS, "pith L x W", "pith, wild grain, run out: what moves", "pith 300x8", "heart centre wild grain moves"),
    Word("stain", MARKS, "sap, stain, streak, worm, pitch", "what only shows", "stain 60x40", "sapwood resin gum colour streak worm holes"),
    Word("curl", MARKS, "curl L x W", "figure, all over where no size is told; also flame, quilt, birdseye, ray fleck, burl, spalt, ribbon, cathedral, plain; s strength, wl wave", "curl 300x120 s .6", "figure curly flamed quilted figured flame quilt birdseye cathedral fleck burl ribbon spalt"),
)  # fmt: skip


class MarkWords(ReaderBase):
    """Words about marks."""

    def box_here(self, sizes: list[float], y_text: str | None, at_edge: str = "") -> Ring:
        """A rectangle of length x width about the plumb, ``y`` up, in the middle or along an edge; one size is as much both ways.

        A mark at an end or an edge begins there. Raises BadEntry where it would lie beyond the wood.
        """
        if len(sizes) > 2:
            raise BadEntry("A mark needs length x width, such as 24x18, then d and its depth.")
        x0, y0, x1, y1 = self.piece.extents
        if not self.piece.outline:
            raise BadEntry("A mark needs the board first: its length and width, l 2390 and w 231.")
        w, h = sizes[0], sizes[-1]
        if w > x1 - x0 + 0.5 or h > y1 - y0 + 0.5:
            raise BadEntry(
                f"{self.told(w)} × {self.told(h)} is larger than the board, which is {self.told(x1 - x0)} × {self.told(y1 - y0)}."
            )
        if at_edge:
            y = y0 if at_edge == "near" else y1
        else:
            y = self.mm(y_text, "y", least=-1e-9, most=5000) if y_text else (y0 + y1) / 2
        (a, c), (b, d) = _laid(self.at, w, x0, x1, "x", self.told), _laid(y, h, y0, y1, "y", self.told)
        return ((a, b), (c, b), (c, d), (a, d))

    def defect(self, kind: str, sizes: list[float], rest: str, note: str = "") -> Command:
        """A trouble by its sizes and options; ``note`` keeps the bench's own word for it.

        A third size, and for what takes thickness a bare figure behind the sizes, is how deep it goes.
        """
        told = self.options(rest, "ydfs", ("through", "edge", "near", "far", *SEVERITY_WORDS))
        given = dict(told.given)
        depths = [f"{sizes.pop():g} mm"] if len(sizes) == 3 else []
        if told.first and FAMILY[kind] == "void":
            depths.append(told.first)
        elif told.first:
            raise BadEntry(f"“{told.first}” is left over: y {told.first} for how far up, d {told.first} for how deep?")
        told.all_used("a mark needs a size, then y, d, f, s or through, such as k 24x18 y 40 d 12.")
        if len(depths) + ("d" in given) > 1:
            raise BadEntry("The depth stands twice on the line; needs it once, such as d 12.")
        if depths:
            given["d"] = depths[0]
        face = "through" if "through" in told.flags else "edge" if "edge" in told.flags else FACES.get(given.get("f", "1"))
        if face is None:
            raise BadEntry(f"face {given['f']} is not known; needs 1, 2, edge or through.")
        if "f" in given and FACES[given["f"]] != face:
            raise BadEntry(f"f {given['f']} and {face} do not go together on one mark.")
        if face == "through" and "d" in given:
            raise BadEntry("What goes through has no depth; needs through or d.")
        edges = [f for f in told.flags if f in ("near", "far")]
        at_edge = edges[0] if edges else "near" if kind == "wane" and "y" not in given else ""
        if len(edges) > 1 or (edges and "y" in given):
            raise BadEntry("near, far and y each say how far up it lies; needs one of them.")
        ring = self.box_here(sizes, given.get("y"), at_edge)
        severity = self._severity_of(given, told.flags)
        return self.add_defect(
            kind, ring, face, self._depth_of(given.get("d")), severity, note, f", along the {at_edge} edge" if at_edge else ""
        )

    def _severity_of(self, given: dict[str, str], flags: tuple[str, ...]) -> int | None:
        words = [SEVERITY_WORDS.index(f) + 1 for f in flags if f in SEVERITY_WORDS]
        if len(words) + ("s" in given) > 1:
            raise BadEntry("How grave it is stands twice on the line; needs it once, such as s 2.")
        if words:
            return words[0]
        return self._whole_severity(given["s"]) if "s" in given else None

    def _whole_severity(self, text: str) -> int:
        level = parse_whole(text, "how grave a mark is")
        if not 1 <= level <= 3:
            raise BadEntry(f"{level} is out of reach; needs 1 slight, 2 plain or 3 grave.")
        return level

    def _depth_of(self, text: str | None) -> float | None:
        """How deep a mark goes; deeper than the wood is asked about."""
        if text is None or text in ("?", "unknown"):
            return None
        depth = self.mm(text, "depth", least=-1e-9, most=DEEPEST_MM)
        thick = max(self.piece.all_thicknesses_mm, default=None)
        if thick is not None and depth > thick + 1e-9:
            raise Choose(
                f"{self.told(depth, 'g')} deep is more than the wood, {self.told(thick, '.1f')} thick there at most: through?",
                f"d {text}",
                ("through",),
            )
        return depth

    def add_defect(self, kind: str, ring: Ring, face: str, depth: float | None, severity: int | None = None, note: str = "", where: str = ""
    ) -> Command:  # fmt: skip
        """A new defect of a kind with the next free tag."""
        self._on_the_piece(ring)
        tag = next_defect_id(kind, {d.id for d in self.piece.defects})
        new = Defect(id=tag, kind=kind, face=face, polygon=ring, depth_mm=depth, severity=severity, by=self.by, note=note)  # type: ignore[arg-type]
        deep = (
            ""
            if face == "through"
            else ", depth unknown: counts as through"
            if depth is None
            else f", {self.told(depth, 'g')} deep"
        )
        on = "through" if face == "through" else f"on face {face}" if face in "12" else "on the edge"
        grave = f", {SEVERITY_WORDS[severity - 1]}" if severity else ""
        return Command(
            f"{label_of(note or kind)} {tag} {on}{where}, {self._where(ring)}{deep}{grave}",
            self.piece.changed(defects=(*self.piece.defects, new)),
            label=f"{label_of(kind)} {tag}",
        )

    def figure(self, kind: str, sizes: list[float] | None, rest: str) -> Command:
        """A figure zone by its size, or all over the piece: strength, wavelength, angle and the house's word."""
        told = self.options(options_of_figure(rest, self.house), ("y", "f", "s", "wl", "a", "word"), ("through",))
        given = told.given
        if told.first or told.left:
            raise BadEntry(
                f"“{told.first or told.left}” is left over; figure needs a size, then y, f, s, wl, a or word, such as curl 300x120 s .6."
            )
        face = given.get("f", "through")
        if face not in ("1", "2", "through"):
            raise BadEntry(f"f {face}: figure lies on face 1, on 2, or goes through.")
        if sizes is None and (not self.piece.outline or "y" in given):
            raise BadEntry(f"{label_of(kind)} needs its size, such as {label_of(kind)} 300x120.")
        ring = self.piece.outline if sizes is None else self.box_here(sizes, given.get("y"))
        self._on_the_piece(ring)
        strength = self.number(given["s"], "strength", 0, 1, SHARE) if "s" in given else None
        zone = FigureZone(
            id=next_figure_id({f.id for f in self.piece.figure}), kind=kind, polygon=ring,  # type: ignore[arg-type]
            face=face,  # type: ignore[arg-type]
            strength=strength, angle_deg=self.number(given["a"], "the bands' angle", -90, 90, ANGLE) if "a" in given else 0.0,
            wavelength_mm=self.mm(given["wl"], "wavelength", least=0.4, most=500) if "wl" in given else None,
            word=given.get("word", "") or house_word(strength, self.house), by=self.by,
        )  # fmt: skip
        return Command(
            f"{label_of(kind)} {zone.id}" + (", all over the piece" if sizes is None else "") + (f", {zone.word}" if zone.word else ""),
            self.piece.changed(figure=(*self.piece.figure, zone)), label=f"{label_of(kind)} {zone.id}",
        )  # fmt: skip

    def _on_the_piece(self, ring: Ring) -> None:
        """Raises BadEntry where a mark lies off the wood, past a live edge too."""
        from shapely.geometry import Polygon

        if not self.piece.outline:
            return
        met = Polygon(self.piece.outline).buffer(0).intersection(Polygon(ring).buffer(0))
        if met.area <= 1e-6:
            raise BadEntry("That lies off the piece: there is no wood at that place.")

    # one mark -----------------------------------------------------------------------------------------------------
    def _find(self, tag: str) -> Defect:
        found = next((d for d in self.piece.defects if d.id == tag.strip()), None)
        if found is None:
            tags = ", ".join(d.id for d in self.piece.defects) or "none"
            raise BadEntry(f"There is no mark “{tag}” on this piece; it has {tags}.")
        return found

    def _replace(self, old: Defect, new: Defect | None, gloss: str) -> Command:
        kept = tuple(new if d.id == old.id else d for d in self.piece.defects if new is not None or d.id != old.id)
        return Command(gloss, self.piece.changed(defects=tuple(d for d in kept if d is not None)), label=gloss)

    def reshape(self, found: Defect, ring: Ring) -> Command:
        """A mark with another outline. Raises BadEntry where it would lie beyond the wood."""
        x0, y0, x1, y1 = self.piece.extents
        xs, ys = [x for x, _ in ring], [y for _, y in ring]
        if min(xs) < x0 - 0.5 or max(xs) > x1 + 0.5 or min(ys) < y0 - 0.5 or max(ys) > y1 + 0.5:
            raise BadEntry(
                f"{self._where(ring)} reaches beyond the piece, which goes to {self.told(x1)} along and {self.told(y1)} up."
            )
        self._on_the_piece(ring)
        return self._replace(found, found.changed(polygon=ring), f"{found.id} now {self._where(ring)}")

    def _where(self, ring: Ring) -> str:
        """From where to where a mark lies, in words."""
        xs, ys = [x for x, _ in ring], [y for _, y in ring]
        return f"{self.told(min(xs))} to {self.told(max(xs))} along, {self.told(min(ys))} to {self.told(max(ys))} up"

    def _two(self, rest: str, want: str) -> tuple[Defect, str]:
        tag, _, more = rest.strip().partition(" ")
        if not tag:
            raise BadEntry(want)
        return self._find(tag), more.strip()

    @word("out", MARKS, "out mark", "metal drawn out: its hole stays", "out m1", "nail removed pulled")
    def _out(self, rest: str) -> Command:
        found = self._find(rest)
        if FAMILY[found.kind] != "metal":
            raise BadEntry(f"{found.id} is a {label_of(found.kind)}, not metal.")
        return self._replace(found, found.changed(resolved=True), f"{found.id} drawn out; its hole stays as a void")

    @word(
        "ends", MARKS, "ends mark which", "a crack ends there: marked, far, both, open", "ends c1 far", "crack closed stop grows"
    )
    def _ends(self, rest: str) -> Command:
        found, which = self._two(rest, "ends needs a mark, such as ends c1 far.")
        marked, far = found.ends_closed or (False, False)
        choice = {"": (True, True), "both": (True, True), "marked": (True, far), "far": (marked, True), "open": (False, False)}
        if which not in choice:
            raise BadEntry(f"“ends {rest}”: needs marked, far, both or open.")
        closed = choice[which]
        message = {
            (True, True): "ends at both its ends", (True, False): "ends at the marked end; it may grow at the far one",
            (False, True): "ends at the far end; it may grow at the marked one", (False, False): "may grow at both its ends",
        }[closed]  # fmt: skip
        return self._replace(found, found.changed(ends_closed=closed), f"{found.id} {message}")

    @word("drop", MARKS, "drop mark", "takes a mark away", "drop k1", "delete remove wrong")
    def _drop(self, rest: str) -> Command:
        tag = rest.strip()
        if any(s.id == tag for s in self.piece.suggestions):
            return Command(f"{tag} dropped: the picture was wrong", without(self.piece, tag), label=f"{tag} dropped")
        if any(f.id == tag for f in self.piece.figure):
            return Command(
                f"{tag} taken away",
                self.piece.changed(figure=tuple(f for f in self.piece.figure if f.id != tag)),
                label=f"{tag} away",
            )
        found = self._find(tag)
        return self._replace(found, None, f"{found.id} taken away")

    @word("depth", MARKS, "depth mark figure", "how deep a mark goes, ? unknown", "depth k1 12", "deep")
    def _depth(self, rest: str) -> Command:
        found, text = self._two(rest, "depth needs a mark and a figure, such as depth k1 12.")
        if text in ("?", "unknown"):
            return self._replace(found, found.changed(depth_mm=None), f"{found.id}: depth unknown, counts as through")
        depth = self._depth_of(text)
        deep = "through" if depth is None else f"{self.told(depth, 'g')} deep"
        return self._replace(found, found.changed(depth_mm=depth), f"{found.id} is {deep}")

    @word("sev", MARKS, "sev mark 1 to 3", "1 slight, 2 plain, 3 grave", "sev k1 2", "severity grave slight")
    def _severity(self, rest: str) -> Command:
        found, text = self._two(rest, "sev needs a mark and 1 to 3, such as sev k1 2.")
        level = SEVERITY_WORDS.index(text) + 1 if text in SEVERITY_WORDS else self._whole_severity(text)
        return self._replace(found, found.changed(severity=level), f"{found.id} is {SEVERITY_WORDS[level - 1]}")

    @word("feature", MARKS, "feature mark", "kept on purpose; again takes it back", "feature k1", "keep wanted character")
    def _feature(self, rest: str) -> Command:
        found = self._find(rest)
        gloss = f"{found.id} kept as a feature" if not found.keep else f"{found.id} no longer a feature"
        return self._replace(found, found.changed(keep=not found.keep), gloss)

    @word(
        "cleared",
        MARKS,
        "cleared mark how",
        "how a defect was dealt with",
        "cleared c1 glued",
        "fixed repaired mended glued plugged",
        free=True,
    )
    def _cleared(self, rest: str) -> Command:
        found, how = self._two(rest, "cleared needs a mark and how, such as cleared c1 glued.")
        if found.live_metal:
            raise BadEntry(f"{found.id} is metal: it is cleared by drawing it out, out {found.id}.")
        gloss = f"{found.id} dealt with: {how}" if how else f"{found.id} open again"
        return self._replace(found, found.changed(cleared=f"{how}, {self.today}" if how else ""), gloss)

    @word(
        "mend",
        MARKS,
        "mend mark how",
        "a step of the plan where a part uses the flaw: harden, dowels, plug, insert, none",
        "mend k1 plug",
        "repair inlay patch dowel stabilise",
    )
    def _mend(self, rest: str) -> Command:
        found, how = self._two(rest, "mend needs a mark and how, such as mend k1 plug.")
        if how not in MENDS:
            raise BadEntry(f"mend {how} is not known; needs {', '.join(MENDS)}.")
        if found.live_metal:
            raise BadEntry(f"{found.id} is metal: draw it out first, out {found.id}; then its hole is mended.")
        gloss = f"{found.id}: {MENDS[how]} where a part uses it" if how != "none" else f"{found.id} stays as it is"
        return self._replace(found, found.changed(mend="" if how == "none" else how), gloss)

    @word("face", MARKS, "face mark face", "the face that a mark lies on: 1, 2, edge, through", "face k1 2", "side other")
    def _face(self, rest: str) -> Command:
        found, word = self._two(rest, "face needs a mark and 1, 2, edge or through, such as face k1 2.")
        if word not in FACES:
            raise BadEntry(f"face {word} is not known; needs 1, 2, edge or through.")
        return self._replace(
            found, found.changed(face=word), f"{found.id} " + ("goes through" if word == "through" else f"is on face {word}")
        )

    @word("is", MARKS, "is mark kind", "another kind for a mark", "is k1 loose knot", "change rename")
    def _kind_of_mark(self, rest: str) -> Command:
        found, word = self._two(rest, "is needs a mark and a kind, such as is k1 loose knot.")
        kind = word.replace(" ", "_")
        if kind not in ALL_DEFECTS:
            raise BadEntry(f"“{word}” is not a defect; needs one of {', '.join(label_of(k) for k in ALL_DEFECTS)}.")
        tag = next_defect_id(kind, {d.id for d in self.piece.defects} - {found.id})
        return self._replace(found, found.changed(kind=kind, id=tag), f"{found.id} is a {label_of(kind)}: {tag}")

    # metal and pictures -------------------------------------------------------------------------------------------
    @word("clear", MARKS, "clear face", "a face swept for metal: 1, 2 or both", "clear 1", "sweep detector metal nails")
    def _clear(self, rest: str) -> Command:
        first, _, how = rest.strip().partition(" ")
        faces = [first] if first in ("1", "2") else ["1", "2"] if first in ("", "both") else []
        if not faces:
            raise BadEntry(f"“clear {rest}”: needs clear 1, clear 2 or clear both, and how if you like.")
        others = tuple(s for s in self.piece.sweeps if s.face not in faces)
        finds = ", ".join(d.id for d in self.piece.live_metal)
        new = tuple(
            Sweep(face=f, on=self.today, how=how or "detector and eye", found=finds)  # type: ignore[arg-type]
            for f in faces
        )
        return Command(
            f"face {' and '.join(faces)} swept for metal today" + (f", {finds} left" if finds else ""),
            self.piece.changed(sweeps=(*others, *new)), label="metal sweep",
        )  # fmt: skip

    @word(
        "skimmed",
        MARKS,
        "skimmed face mm",
        "a light skim of an old face, to see the wood",
        "skimmed 1 0.4",
        "plane scrape bare clean look",
    )
    def _skimmed(self, rest: str) -> Command:
        face, _, text = rest.strip().partition(" ")
        if face not in ("1", "2"):
            raise BadEntry(f"“skimmed {rest}”: needs a face and how much came off, such as skimmed 1 0.4.")
        try:
            mm = float(text.strip().replace(",", "."))
        except ValueError:
            raise BadEntry(f"“{text}” is no figure; skimmed needs how much came off, such as skimmed {face} 0.4.") from None
        new = skimmed(self.piece, face, mm, self.today)  # type: ignore[arg-type]
        gone = [d.id for d in self.piece.defects if d.id not in {n.id for n in new.defects}]
        gloss = (
            f"{self.told(mm, 'g')} off face {face}"
            + (f"; {', '.join(gone)} gone with it" if gone else "")
            + f". Look at it again, then seen {face}"
        )
        return Command(gloss, new, label=f"face {face} skimmed")

    @word("seen", MARKS, "seen face", "a skimmed face was read again: 1, 2 or both", "seen 1", "looked read again")
    def _seen(self, rest: str) -> Command:
        faces = {"1": ("1",), "2": ("2",), "": ("1", "2"), "both": ("1", "2")}.get(rest.strip())
        if faces is None:
            raise BadEntry(f"“seen {rest}”: needs seen 1, seen 2 or seen both.")
        return Command(f"face {' and '.join(faces)} read again", seen(self.piece, faces), label="face read again")

    @word("take", MARKS, "take suggestion", "keeps what a picture suggests", "take k2?", "accept photo suggestion")
    def _take(self, rest: str) -> Command:
        tag = rest.strip()
        found = next((s for s in self.piece.suggestions if s.id == tag), None)
        if found is None:
            there = ", ".join(s.id for s in self.piece.suggestions) or "none"
            raise BadEntry(f"No picture suggests “{tag}” here; suggested: {there}.")
        return Command(f"{tag} kept as measured by the picture", accepted(self.piece, found, self.house), label=f"{tag} kept")


# how a flaw is mended, and what that is in words
MENDS = {
    "harden": "thin glue makes it firm before the first cut", "dowels": "dowels across it before the first cut", "plug": "a plug of its own wood",
    "insert": "wood let in", "none": "",
}  # fmt: skip


def _laid(middle: float, size: float, low: float, high: float, axis: str, told: Callable[[float], str]) -> tuple[float, float]:
    """From where to where a mark lies: about its middle, or beginning at an end that it is put to. Raises BadEntry beyond the wood."""
    if not low - 0.5 <= middle <= high + 0.5:
        raise BadEntry(
            f"{told(middle)} is off the piece, which goes from {told(low)} to {told(high)} {'along' if axis == 'x' else 'across'}."
        )
    at_low, at_high = middle <= low + 0.5, middle >= high - 0.5
    start = low if at_low else high - size if at_high else middle - size / 2
    if start < low - 0.5 or start + size > high + 0.5:
        beyond = max(low - start, start + size - high)
        ends = ("the marked end", "the far end") if axis == "x" else ("the near edge", "the far edge")
        short = start < low - 0.5
        raise BadEntry(
            f"That would reach {told(beyond)} beyond {ends[0] if short else ends[1]}: put it to {told(low if short else high)} and it begins there, "
            f"or to {told(low + size / 2 if short else high - size / 2)} at the least."
        )
    start = min(max(start, low), high - size)
    return round(start, 3), round(start + size, 3)
