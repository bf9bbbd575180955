"""The tape line's words for what lies on the wood: troubles, figure, the metal gate, and what a picture suggests."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import get_args

from grainet.session.meaning import Meaning, ReaderBase
from grainet.session.suggesting import accepted, without
from grainet.wood.defects import FAMILY, SEVERITY_WORDS, Defect, DefectKind, label_of, next_defect_id
from grainet.wood.figure import FigureZone, house_word, next_figure_id
from grainet.wood.piece import Sweep
from grainet.wood.value import BadEntry, Ring

ALL_DEFECTS: tuple[str, ...] = get_args(DefectKind)
FACES = {"1": "1", "2": "2", "edge": "edge", "through": "through"}


class MarkWords(ReaderBase):
    """Words about marks."""

    def mark_words(self) -> dict[str, Callable[[str], Meaning]]:
        return {
            "clear": self._clear, "out": self._out, "ends": self._ends, "drop": self._drop, "depth": self._depth, "sev": self._severity,
            "feature": self._feature, "cleared": self._cleared, "face": self._face, "is": self._kind_of_mark, "take": self._take,
        }  # fmt: skip

    def box_here(self, size: str, y_text: str | None) -> Ring:
        """A rectangle of ``length x width`` about the plumb, ``y`` up or in the middle."""
        sides = size.lower().split("x")
        if len(sides) != 2:
            raise BadEntry(f"“{size}” is not a size; wants length x width, such as 24x18.")
        w, h = (self.mm(s, "size", most=20_000) for s in sides)
        _x0, y0, _x1, y1 = self.piece.extents
        y = self.mm(y_text, "y", least=-1e-9, most=5000) if y_text else (y0 + y1) / 2
        a, b, c, d = self.at - w / 2, y - h / 2, self.at + w / 2, y + h / 2
        return ((a, b), (c, b), (c, d), (a, d))

    def defect(self, kind: str, rest: str, note: str = "") -> Meaning:
        """A trouble by its size and options; ``note`` keeps the bench's own word for it."""
        size, _, options = rest.partition(" ")
        given = dict(re.findall(r"(?:^|\s)([ydfs])\s+(\S+)", options))
        ring = self.box_here(size, given.get("y"))
        face = FACES.get(given.get("f", "1"))
        if face is None:
            raise BadEntry(f"face {given['f']} is not known; wants 1, 2, edge or through.")
        depth = self.mm(given["d"], "depth", least=-1e-9, most=1000) if "d" in given else None
        severity = int(self.number(given["s"], "severity", 1, 3)) if "s" in given else None
        return self.add_defect(kind, ring, face, depth, severity, note)

    def add_defect(self, kind: str, ring: Ring, face: str, depth: float | None, severity: int | None = None, note: str = ""
    ) -> Meaning:  # fmt: skip
        """A new defect of a kind with the next free tag."""
        self._on_the_piece(ring)
        tag = next_defect_id(kind, {d.id for d in self.piece.defects})
        new = Defect(id=tag, kind=kind, face=face, polygon=ring, depth_mm=depth, severity=severity, by=self.by, note=note)  # type: ignore[arg-type]
        deep = "depth unknown: counts as through" if depth is None else f"{depth:g} deep"
        where = "through" if face == "through" else f"on face {face}" if face in "12" else "on the edge"
        return Meaning(
            f"{label_of(note or kind)} {tag} {where}, {deep}",
            self.piece.changed(defects=(*self.piece.defects, new)),
            label=f"{label_of(kind)} {tag}",
        )

    def figure(self, kind: str, rest: str) -> Meaning:
        """A figure zone by its size: strength, wavelength, angle and the house's word."""
        size, _, options = rest.partition(" ")
        given = dict(re.findall(r"(?:^|\s)(y|f|s|wl|a|word)\s+(\S+)", options))
        ring = self.box_here(size, given.get("y"))
        self._on_the_piece(ring)
        strength = self.number(given["s"], "strength", 0, 1) if "s" in given else None
        zone = FigureZone(
            id=next_figure_id({f.id for f in self.piece.figure}), kind=kind, polygon=ring,  # type: ignore[arg-type]
            face=given.get("f", "through"),  # type: ignore[arg-type]
            strength=strength, angle_deg=self.number(given["a"], "angle", -90, 90) if "a" in given else 0.0,
            wavelength_mm=self.number(given["wl"], "wavelength", 0.5, 500) if "wl" in given else None,
            word=given.get("word", "") or house_word(strength, self.house), by=self.by,
        )  # fmt: skip
        return Meaning(
            f"{label_of(kind)} {zone.id}" + (f", {zone.word}" if zone.word else ""),
            self.piece.changed(figure=(*self.piece.figure, zone)), label=f"{label_of(kind)} {zone.id}",
        )  # fmt: skip

    def _on_the_piece(self, ring: Ring) -> None:
        x0, y0, x1, y1 = self.piece.extents
        xs, ys = zip(*ring)
        if self.piece.outline and (max(xs) < x0 or min(xs) > x1 or max(ys) < y0 or min(ys) > y1):
            raise BadEntry("That lies off the piece.")

    # one mark -----------------------------------------------------------------------------------------------------
    def _find(self, tag: str) -> Defect:
        found = next((d for d in self.piece.defects if d.id == tag.strip()), None)
        if found is None:
            tags = ", ".join(d.id for d in self.piece.defects) or "none"
            raise BadEntry(f"There is no mark “{tag}” on this piece; it has {tags}.")
        return found

    def _replace(self, old: Defect, new: Defect | None, gloss: str) -> Meaning:
        kept = tuple(new if d.id == old.id else d for d in self.piece.defects if new is not None or d.id != old.id)
        return Meaning(gloss, self.piece.changed(defects=tuple(d for d in kept if d is not None)), label=gloss)

    def _two(self, rest: str, want: str) -> tuple[Defect, str]:
        tag, _, more = rest.strip().partition(" ")
        if not tag:
            raise BadEntry(want)
        return self._find(tag), more.strip()

    def _out(self, rest: str) -> Meaning:
        found = self._find(rest)
        if FAMILY[found.kind] != "metal":
            raise BadEntry(f"{found.id} is a {label_of(found.kind)}, not metal.")
        return self._replace(found, found.changed(resolved=True), f"{found.id} drawn out; its hole stays as a void")

    def _ends(self, rest: str) -> Meaning:
        found, which = self._two(rest, "ends wants a mark, such as ends c1 far.")
        marked, far = found.ends_closed or (False, False)
        choice = {"": (True, True), "both": (True, True), "marked": (True, far), "far": (marked, True), "open": (False, False)}
        if which not in choice:
            raise BadEntry(f"“ends {rest}”: wants marked, far, both or open.")
        closed = choice[which]
        said = {
            (True, True): "ends at both its ends", (True, False): "ends at the marked end; it may grow at the far one",
            (False, True): "ends at the far end; it may grow at the marked one", (False, False): "may grow at both its ends",
        }[closed]  # fmt: skip
        return self._replace(found, found.changed(ends_closed=closed), f"{found.id} {said}")

    def _drop(self, rest: str) -> Meaning:
        tag = rest.strip()
        if any(s.id == tag for s in self.piece.suggestions):
            return Meaning(f"{tag} dropped: the picture was wrong", without(self.piece, tag), label=f"{tag} dropped")
        if any(f.id == tag for f in self.piece.figure):
            return Meaning(
                f"{tag} taken away",
                self.piece.changed(figure=tuple(f for f in self.piece.figure if f.id != tag)),
                label=f"{tag} away",
            )
        found = self._find(tag)
        return self._replace(found, None, f"{found.id} taken away")

    def _depth(self, rest: str) -> Meaning:
        found, text = self._two(rest, "depth wants a mark and a figure, such as depth k1 12.")
        if text in ("?", "unknown"):
            return self._replace(found, found.changed(depth_mm=None), f"{found.id}: depth unknown, counts as through")
        depth = self.mm(text, "depth", least=-1e-9, most=1000)
        return self._replace(found, found.changed(depth_mm=depth), f"{found.id} is {depth:g} deep")

    def _severity(self, rest: str) -> Meaning:
        found, text = self._two(rest, "sev wants a mark and 1 to 3, such as sev k1 2.")
        level = SEVERITY_WORDS.index(text) + 1 if text in SEVERITY_WORDS else int(self.number(text, "severity", 1, 3))
        return self._replace(found, found.changed(severity=level), f"{found.id} is {SEVERITY_WORDS[level - 1]}")

    def _feature(self, rest: str) -> Meaning:
        found = self._find(rest)
        gloss = f"{found.id} kept as a feature" if not found.keep else f"{found.id} no longer a feature"
        return self._replace(found, found.changed(keep=not found.keep), gloss)

    def _cleared(self, rest: str) -> Meaning:
        found, how = self._two(rest, "cleared wants a mark and how, such as cleared c1 glued.")
        if found.live_metal:
            raise BadEntry(f"{found.id} is metal: it is cleared by drawing it out, out {found.id}.")
        gloss = f"{found.id} dealt with: {how}" if how else f"{found.id} open again"
        return self._replace(found, found.changed(cleared=f"{how}, {self.today}" if how else ""), gloss)

    def _face(self, rest: str) -> Meaning:
        found, word = self._two(rest, "face wants a mark and 1, 2, edge or through, such as face k1 2.")
        if word not in FACES:
            raise BadEntry(f"face {word} is not known; wants 1, 2, edge or through.")
        return self._replace(
            found, found.changed(face=word), f"{found.id} " + ("goes through" if word == "through" else f"is on face {word}")
        )

    def _kind_of_mark(self, rest: str) -> Meaning:
        found, word = self._two(rest, "is wants a mark and a kind, such as is k1 loose knot.")
        kind = word.replace(" ", "_")
        if kind not in ALL_DEFECTS:
            raise BadEntry(f"“{word}” is not a trouble; wants one of {', '.join(label_of(k) for k in ALL_DEFECTS)}.")
        tag = next_defect_id(kind, {d.id for d in self.piece.defects} - {found.id})
        return self._replace(found, found.changed(kind=kind, id=tag), f"{found.id} is a {label_of(kind)}: {tag}")

    # metal and pictures -------------------------------------------------------------------------------------------
    def _clear(self, rest: str) -> Meaning:
        first, _, how = rest.strip().partition(" ")
        faces = [first] if first in ("1", "2") else ["1", "2"] if first in ("", "both") else []
        if not faces:
            raise BadEntry(f"“clear {rest}”: wants clear 1, clear 2 or clear both, and how if you like.")
        others = tuple(s for s in self.piece.sweeps if s.face not in faces)
        finds = ", ".join(d.id for d in self.piece.live_metal)
        new = tuple(
            Sweep(face=f, on=self.today, how=how or "detector and eye", found=finds)  # type: ignore[arg-type]
            for f in faces
        )
        return Meaning(
            f"face {' and '.join(faces)} swept for metal today" + (f", {finds} left" if finds else ""),
            self.piece.changed(sweeps=(*others, *new)), label="metal sweep",
        )  # fmt: skip

    def _take(self, rest: str) -> Meaning:
        tag = rest.strip()
        found = next((s for s in self.piece.suggestions if s.id == tag), None)
        if found is None:
            there = ", ".join(s.id for s in self.piece.suggestions) or "none"
            raise BadEntry(f"No picture suggests “{tag}” here; suggested: {there}.")
        return Meaning(f"{tag} kept as measured by the picture", accepted(self.piece, found, self.house), label=f"{tag} kept")
