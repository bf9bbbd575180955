"""The tape line's language: short words such as ``760 t 2 1/16`` to an edit of the piece in hand, with a gloss beforehand.

A word is read once, here, with a sentence for what cannot be used; nothing is changed until the meaning is applied.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import get_args

from grainet.wood import species as species_table
from grainet.wood.defects import FAMILY, KIND_OF_CODE, Defect, DefectKind, label_of, next_defect_id
from grainet.wood.piece import PIECE_KINDS, Flatness, MoistureReading, Piece, Station, Sweep, WidthStation, with_readings
from grainet.wood.units import LengthStyle, format_length, parse_length, parse_pair
from grainet.wood.value import BadEntry

ALL_DEFECTS: tuple[str, ...] = get_args(DefectKind)
SAME_PLACE_MM = 0.5
WORDS = (
    ("760", "moves the plumb"), ("l 2390", "length"), ("w 231", "width here"), ("e 148 186", "live edges here, up and down from the line"),
    ("t 52.4", "thickness here"), ("kg 31.4", "weight"), ("mc 8.4", "moisture here; d 20 says how deep"), ("core 12.5", "moisture of the core"),
    ("ring 38 36", "ring angle at each end"), ("slope 1.5", "slope of grain"), ("bow 3", "bow, cup, crook, rock"), ("sp walnut", "species"),
    ("kind slab", "kind"), ("from loom beam", "origin"), ("at C3", "place on the rack"), ("k 24x18", "a knot here, any trouble letter; y 40 d 12 f 2"),
    ("clear 1", "face 1 swept for metal"), ("out m1", "metal drawn out"), ("ends c1", "crack ends closed"), ("drop k1", "takes a mark away"),
)  # fmt: skip


@dataclass(frozen=True)
class Meaning:
    """What a line of words means: the gloss, and the piece after it or the place that the plumb moves to."""

    gloss: str
    piece: Piece | None = None
    plumb_mm: float | None = None
    label: str = ""


def read(text: str, piece: Piece | None, plumb_mm: float, style: LengthStyle, today: str, pin_depth_mm: float = 10.0) -> Meaning:
    """The meaning of a line for the piece in hand. Raises BadEntry with what was found and what is wanted."""
    line = text.strip()
    if not line:
        raise BadEntry("Type a figure: 760 moves the plumb, t 52.4 is a thickness there, ? lists the words.")
    if line == "?":
        raise BadEntry("  ".join(example for example, _ in WORDS))
    unit = "mm" if style == "mm" else "in"
    place, word, rest = _split(line, unit)
    at = plumb_mm if place is None else place
    if not word:
        return _bare(at, piece, unit)
    if piece is None:
        raise BadEntry("There is no piece in hand yet; press Ctrl+N for a new one.")
    reader = Reader(piece, at, unit, style, today, pin_depth_mm)
    return reader.read(word, rest)


def _split(line: str, unit: str) -> tuple[float | None, str, str]:
    """``760 t 52`` to (760, t, 52): a leading length, the word, and what follows."""
    found = re.match(
        r"^(?P<place>[\d.,/ \"'″′-]*(?:mm|in|ft)?[\d ]*?)\s*(?P<word>[A-Za-z_]+)?(?:\s+(?P<rest>.*)|(?P<tight>[\d.].*))?$", line
    )
    if not found:
        raise BadEntry(f"“{line}” is not understood; ? lists the words.")
    place = found["place"].strip()
    word, rest = found["word"] or "", (found["rest"] or found["tight"] or "").strip()
    if word.lower() in ("in", "mm", "ft", "cm"):
        return parse_length(line, unit).mm, "", ""
    return (parse_length(place, unit).mm if place else None), word, rest


def _bare(at: float, piece: Piece | None, unit: str) -> Meaning:
    if piece is not None and not piece.length_mm and not piece.outline:
        return Meaning(f"{at:.0f} mm long: Enter keeps it", with_readings(piece, length_mm=at), label="length")
    end = piece.length_mm or piece.extents[2] if piece else at
    if not 0 <= at <= end + 1e-6:
        raise BadEntry(f"{at:.0f} is off the piece, which ends at {end:.0f}.")
    return Meaning(f"the plumb to {at:.0f}", plumb_mm=at)


@dataclass
class Reader:
    """Reads one word for one piece at one place."""

    piece: Piece
    at: float
    unit: str
    style: LengthStyle
    today: str
    pin_depth_mm: float

    def read(self, word: str, rest: str) -> Meaning:
        known: dict[str, Callable[[str], Meaning]] = {
            "l": self._length, "w": self._width, "e": self._edges, "t": self._thickness, "kg": self._mass, "mc": self._moisture, "core": self._core,
            "ring": self._rings, "slope": self._slope, "bow": self._flat("bow_mm"), "cup": self._flat("cup_mm"), "crook": self._flat("crook_mm"),
            "rock": self._flat("rock_mm"), "sp": self._species, "kind": self._kind, "from": self._text("origin", "from"), "at": self._text("place", "lies at"),
            "clear": self._clear, "out": self._out, "ends": self._ends, "drop": self._drop, "note": self._text("note", "note:"), "nominal": self._nominal,
        }  # fmt: skip
        lower = word.lower()
        if re.match(r"^[\d.,]+\s*x", rest) and (lower in KIND_OF_CODE or lower in ALL_DEFECTS):
            return self._defect(KIND_OF_CODE.get(lower, lower), rest)
        if lower in known:
            return known[lower](rest)
        if lower in KIND_OF_CODE or lower in ALL_DEFECTS:
            raise BadEntry(f"“{word} {rest}”: a {label_of(KIND_OF_CODE.get(lower, lower))} wants its size, such as {word} 24x18.")
        raise BadEntry(f"“{word}” is not a word of the tape line; ? lists them.")

    # sizes --------------------------------------------------------------------------------------------------------
    def _mm(self, text: str, name: str, least: float = 0.0, most: float = 20_000.0) -> float:
        pair = parse_pair(text, self.unit)
        if pair is not None and not pair.agrees:
            raise BadEntry(f"{text}: the two figures are {pair.apart_mm:.1f} apart. Measure once more.")
        mm = pair.first.mm if pair else parse_length(text, self.unit).mm
        if not least < mm <= most:
            raise BadEntry(f"{name} {mm:.1f} wants to be over {least:g} and at most {most:g}.")
        return mm

    def _shown(self, mm: float) -> str:
        return format_length(mm, self.style, unit=True)

    def _length(self, rest: str) -> Meaning:
        mm = self._mm(rest, "length")
        return Meaning(f"{self._shown(mm)} long", with_readings(self.piece, length_mm=mm), label="length")

    def _width(self, rest: str) -> Meaning:
        mm = self._mm(rest, "width", most=5000)
        return self._with_edge(WidthStation(x_mm=self.at, far_mm=mm), f"{self._shown(mm)} wide at {self.at:.0f}")

    def _edges(self, rest: str) -> Meaning:
        words = rest.split()
        if len(words) != 2:
            raise BadEntry(f"e wants two figures, up and down from the snapped line, such as e 148 186; found {len(words)}.")
        far, near = (self._mm(w, "edge", most=5000) for w in words)
        return self._with_edge(
            WidthStation(x_mm=self.at, far_mm=far, near_mm=near),
            f"{far:.0f} above the line, {near:.0f} below it, at {self.at:.0f}",
        )

    def _with_edge(self, new: WidthStation, gloss: str) -> Meaning:
        if self.piece.length_mm and self.at > self.piece.length_mm + 1e-6:
            raise BadEntry(f"{self.at:.0f} is off the piece, which is {self.piece.length_mm:.0f} long.")
        others = tuple(w for w in self.piece.width_stations if abs(w.x_mm - self.at) > SAME_PLACE_MM)
        return Meaning(
            gloss, with_readings(self.piece, width_stations=tuple(sorted((*others, new), key=lambda w: w.x_mm))), label="edges"
        )

    def _thickness(self, rest: str) -> Meaning:
        quarters = parse_length(rest, self.unit) if "/" in rest and parse_pair(rest, self.unit) is None else None
        mm = self._mm(rest, "thickness", most=1000)
        if quarters is not None and quarters.nominal:
            return Meaning(
                f"{rest} nominal, {mm:.1f}: measure the actual thickness too",
                self.piece.changed(nominal_thickness_mm=mm),
                label="nominal thickness",
            )
        y = sum(self.piece.extents[1::2]) / 2 if self.piece.outline else 0.0
        others = tuple(s for s in self.piece.stations if abs(s.x_mm - self.at) > SAME_PLACE_MM)
        new = Station(x_mm=self.at, y_mm=y, thickness_mm=mm)
        stations = tuple(sorted((*others, new), key=lambda s: (s.x_mm, s.y_mm)))
        return Meaning(
            f"{self._shown(mm)} thick at {self.at:.0f}",
            self.piece.changed(stations=stations, thickness_mm=None),
            label="thickness",
        )

    def _nominal(self, rest: str) -> Meaning:
        mm = self._mm(rest, "nominal thickness", most=1000)
        return Meaning(f"nominal {self._shown(mm)}", self.piece.changed(nominal_thickness_mm=mm), label="nominal thickness")

    # figures ------------------------------------------------------------------------------------------------------
    def _number(self, text: str, name: str, low: float, high: float) -> float:
        try:
            value = float(text.replace(",", ".").rstrip("%°").strip())
        except ValueError:
            raise BadEntry(f"“{text}” is not a figure for {name}; wants {low:g} to {high:g}.") from None
        if not low <= value <= high:
            raise BadEntry(f"{name} {value:g} is out of reach; wants {low:g} to {high:g}.")
        return value

    def _mass(self, rest: str) -> Meaning:
        kg = self._number(rest, "weight in kg", 0.001, 2000)
        return Meaning(f"weighs {kg:g} kg", self.piece.changed(mass_kg=kg), label="weight")

    def _moisture(self, rest: str) -> Meaning:
        amount, depth = _with_option(rest, "d")
        value = self._number(amount, "moisture in %", 0, 200)
        deep = self._number(depth, "pin depth", 0, 500) if depth else self.pin_depth_mm
        return self._reading(value, deep, f"{value:g} % at {self.at:.0f}, {deep:.0f} deep")

    def _core(self, rest: str) -> Meaning:
        thickness = self.piece.least_thickness_mm
        if thickness is None:
            raise BadEntry("The core needs a thickness first: t 52.4.")
        value = self._number(rest, "core moisture in %", 0, 200)
        return self._reading(value, thickness / 2, f"core {value:g} % at {self.at:.0f}")

    def _reading(self, value: float, depth: float, gloss: str) -> Meaning:
        y = sum(self.piece.extents[1::2]) / 2
        new = MoistureReading(x_mm=self.at, y_mm=y, depth_mm=depth, moisture_pct=value, on=self.today)
        same = lambda r: abs(r.x_mm - self.at) <= SAME_PLACE_MM and abs(r.depth_mm - depth) <= 1  # noqa: E731
        return Meaning(
            gloss, self.piece.changed(moisture=(*(r for r in self.piece.moisture if not same(r)), new)), label="moisture"
        )

    def _rings(self, rest: str) -> Meaning:
        words = rest.split()
        if len(words) not in (1, 2):
            raise BadEntry("ring wants one angle or two, marked end first, such as ring 38 36.")
        angles = [self._number(w, "ring angle", 0, 90) for w in words]
        both = (angles[0], angles[1] if len(angles) == 2 else None)
        return Meaning(
            f"rings {angles[0]:g}° at the marked end" + (f", {angles[1]:g}° at the far end" if len(angles) == 2 else ""),
            self.piece.changed(ring_angle_deg=both),
            label="rings",
        )

    def _slope(self, rest: str) -> Meaning:
        value = self._number(rest, "slope of grain in degrees", -45, 45)
        return Meaning(f"grain slopes {value:g}°", self.piece.changed(grain_slope_deg=value), label="slope")

    def _flat(self, field: str) -> Callable[[str], Meaning]:
        def read(rest: str) -> Meaning:
            mm = self._mm(rest, field.removesuffix("_mm"), least=-1e-9, most=300)
            flat: Flatness = self.piece.flatness.changed(**{field: mm})
            return Meaning(
                f"{field.removesuffix('_mm')} {mm:.1f}", self.piece.changed(flatness=flat), label=field.removesuffix("_mm")
            )

        return read

    # words --------------------------------------------------------------------------------------------------------
    def _species(self, rest: str) -> Meaning:
        if rest.strip().lower() in ("unknown", "?"):
            return Meaning("species unknown", self.piece.changed(species="unknown"), label="species")
        found = species_table.find(rest) or next(iter(species_table.suggest(rest)), None)
        if found is None:
            raise BadEntry(f"“{rest}” is not in the species library; sp unknown is allowed.")
        return Meaning(f"{found.common}, {found.scientific}", self.piece.changed(species=found.common), label="species")

    def _kind(self, rest: str) -> Meaning:
        name = rest.strip().lower().replace(" ", "_")
        reclaimed = name in ("reclaimed", "bought")
        if reclaimed:
            return Meaning(
                "reclaimed: sweep it for metal" if name == "reclaimed" else "bought, not reclaimed",
                self.piece.changed(reclaimed=name == "reclaimed"),
                label="reclaimed",
            )
        kind = next((k for k in PIECE_KINDS if k.startswith(name) and name), None)
        if kind is None:
            raise BadEntry(f"“{rest}” is not a kind; wants one of {', '.join(label_of(k) for k in PIECE_KINDS)}, or reclaimed.")
        return Meaning(f"a {label_of(kind)}", self.piece.changed(kind=kind), label="kind")

    def _text(self, field: str, word: str) -> Callable[[str], Meaning]:
        def read(rest: str) -> Meaning:
            if len(rest) > 300:
                raise BadEntry(f"{len(rest)} letters are too many; wants at most 300.")
            return Meaning(f"{word} {rest}", self.piece.changed(**{field: rest}), label=field)

        return read

    # troubles -----------------------------------------------------------------------------------------------------
    def _defect(self, kind: str, rest: str) -> Meaning:
        size, _, options = rest.partition(" ")
        sides = size.lower().split("x")
        if len(sides) != 2:
            raise BadEntry(f"“{size}” is not a size; wants length x width, such as 24x18.")
        w, h = (self._mm(s, "size", most=5000) for s in sides)
        given = dict(re.findall(r"\b([ydf])\s+(\S+)", options))
        _x0, y0, _x1, y1 = self.piece.extents
        y = self._mm(given["y"], "y", least=-1e-9, most=5000) if "y" in given else (y0 + y1) / 2
        face = {"1": "1", "2": "2", "edge": "edge", "through": "through"}.get(given.get("f", "1"))
        if face is None:
            raise BadEntry(f"face {given['f']} is not known; wants 1, 2, edge or through.")
        depth = self._mm(given["d"], "depth", least=-1e-9, most=1000) if "d" in given else None
        ring = (
            (self.at - w / 2, y - h / 2),
            (self.at + w / 2, y - h / 2),
            (self.at + w / 2, y + h / 2),
            (self.at - w / 2, y + h / 2),
        )
        return self.add_defect(kind, ring, face, depth)

    def add_defect(self, kind: str, ring: tuple[tuple[float, float], ...], face: str, depth: float | None) -> Meaning:
        """A new defect of a kind with the next free tag."""
        x0, y0, x1, y1 = self.piece.extents
        if self.piece.outline and (
            max(x for x, _ in ring) < x0
            or min(x for x, _ in ring) > x1
            or max(y for _, y in ring) < y0
            or min(y for _, y in ring) > y1
        ):
            raise BadEntry("That lies off the piece.")
        tag = next_defect_id(kind, {d.id for d in self.piece.defects})
        new = Defect(id=tag, kind=kind, face=face, polygon=ring, depth_mm=depth)  # type: ignore[arg-type]
        deep = "depth unknown: counts as through" if depth is None else f"{depth:g} deep"
        where = "through" if face == "through" else f"on face {face}" if face in "12" else "on the edge"
        return Meaning(
            f"{label_of(kind)} {tag} {where}, {deep}",
            self.piece.changed(defects=(*self.piece.defects, new)),
            label=f"{label_of(kind)} {tag}",
        )

    def _find(self, tag: str) -> Defect:
        found = next((d for d in self.piece.defects if d.id == tag.strip()), None)
        if found is None:
            tags = ", ".join(d.id for d in self.piece.defects) or "none"
            raise BadEntry(f"There is no mark “{tag}” on this piece; it has {tags}.")
        return found

    def _replace(self, old: Defect, new: Defect | None, gloss: str) -> Meaning:
        kept = tuple(new if d.id == old.id else d for d in self.piece.defects if new is not None or d.id != old.id)
        return Meaning(gloss, self.piece.changed(defects=tuple(d for d in kept if d is not None)), label=gloss)

    def _out(self, rest: str) -> Meaning:
        found = self._find(rest)
        if FAMILY[found.kind] != "metal":
            raise BadEntry(f"{found.id} is a {label_of(found.kind)}, not metal.")
        return self._replace(found, found.changed(resolved=True), f"{found.id} drawn out; its hole stays as a void")

    def _ends(self, rest: str) -> Meaning:
        found = self._find(rest)
        return self._replace(found, found.changed(ends_closed=(True, True)), f"{found.id} ends at both its ends")

    def _drop(self, rest: str) -> Meaning:
        found = self._find(rest)
        return self._replace(found, None, f"{found.id} taken away")

    def _clear(self, rest: str) -> Meaning:
        faces = [rest.strip()] if rest.strip() in ("1", "2") else ["1", "2"] if rest.strip() in ("", "both") else []
        if not faces:
            raise BadEntry(f"“clear {rest}”: wants clear 1, clear 2 or clear both.")
        others = tuple(s for s in self.piece.sweeps if s.face not in faces)
        new = tuple(Sweep(face=f, on=self.today) for f in faces)  # type: ignore[arg-type]
        return Meaning(
            f"face {' and '.join(faces)} swept for metal today", self.piece.changed(sweeps=(*others, *new)), label="metal sweep"
        )


def _with_option(rest: str, letter: str) -> tuple[str, str]:
    found = re.match(rf"^(.*?)(?:\s+{letter}\s+(\S+))?$", rest)
    assert found is not None
    return found[1], found[2] or ""
