"""The tape line's language: short words such as ``760 t 2 1/16`` to an edit of the piece in hand, with a gloss beforehand.

A word is read once, here, with a sentence for what cannot be used; nothing is changed until the meaning is applied. Marks are
read by ``tape_marks``, whole pieces (kinds, bundles, turning, sawing apart) by ``tape_stock``.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable

from grainet.kit.shop_kit import ShopKit
from grainet.session.air_words import air_reading
from grainet.session.asking import parse_query
from grainet.session.meaning import SAME_PLACE_MM, Meaning, ReaderBase, with_option
from grainet.session.tape_marks import ALL_DEFECTS, MarkWords
from grainet.session.tape_stock import StockWords
from grainet.session.tape_wood import WOOD_WORDS, WoodWords
from grainet.wood.defects import ALIASES, KIND_OF_CODE, label_of
from grainet.wood.figure import FIGURE_KINDS, HOUSE_WORDS
from grainet.wood.piece import PIECE_KINDS, MoistureReading, Piece, Station, WidthStation, with_readings
from grainet.wood.units import LengthStyle, parse_length
from grainet.wood.value import BadEntry

WORDS = (
    ("760", "moves the plumb"), ("l 2390", "length"), ("w 231 230 231", "width here, or several evenly spaced"),
    ("e 148 186", "live edges here, up and down from the line; more pairs go evenly along"), ("t 52.4 52.1 51.6", "thickness here, or several evenly spaced; y 40 h 0.4"),
    ("grid 5x3", "readings wanted along and across"), ("plank 2390x231x52 ash", "kind, size and species at once"), ("bundle 5x760x58x12 4x700 3x620 maple", "strips counted; pack for veneers"),
    ("nominal 8/4 x 8 in x 8 ft", "as it was sold"), ("kg 31.4", "weight"), ("mc 8.4", "moisture here; d 20 says how deep"), ("core 12.5", "moisture of the core"),
    ("ring 38 36", "ring angle at each end"), ("slope 1.5", "slope of grain on face 1"), ("runout 2", "slope on the near edge"), ("planes far", "far, marked or both: how face 1 planes"),
    ("bow 3 over 1500", "bow, cup, crook, twist; f 2 says the hollow face"), ("kind slab", "kind"), ("layers 0.6 walnut 18 lime 0.6 walnut", "layers, face 1 first"),
    ("from loom beam", "origin"), ("at C3", "place on the rack"), ("k 24x18", "a knot here, any trouble letter; y 40 d 12 f 2"), ("curl 300x120 s .6", "figure here; wl 12 a 4 word lively"),
    ("depth k1 12", "a mark's depth, ? unknown"), ("sev k1 2", "1 slight, 2 plain, 3 grave"), ("feature k1", "kept on purpose"), ("ends c1 far", "a crack's end closed: marked, far, both, open"),
    ("cleared c1 glued", "how it was dealt with"), ("drop k1", "takes a mark away"), ("part 700x90", "what would be left of a part from here"), ("#18", "opens No. 18, as its label says"), ("ask 30 x 110 x 700 clear, quartered", "asks the rack"), ("take k2?", "keeps what a picture suggests"), ("clear 1", "face 1 swept for metal"), ("out m1", "metal drawn out"),
    ("finish paint", "old finish"), ("tested clean swab", "its test, clean or lead"), ("treated none", "treatment"), ("turn", "end for end; roll, over"),
    ("cut 900", "sawn apart there; rip 60, resaw 12"), *WOOD_WORDS, ("air 20.5 46", "the shop's air now, °C and %"),
)  # fmt: skip


def read(
    text: str, piece: Piece | None, plumb_mm: float, style: LengthStyle, today: str, pin_depth_mm: float = 10.0, by: str = "",
    house: tuple[str, ...] = HOUSE_WORDS, kit: ShopKit | None = None,
) -> Meaning:  # fmt: skip
    """The meaning of a line for the piece in hand. Raises BadEntry with what was found and what is wanted."""
    line = text.strip()
    if not line:
        raise BadEntry("Type a figure: 760 moves the plumb, t 52.4 is a thickness there, ? lists the words.")
    if line == "?":
        raise BadEntry("  ".join(example for example, _ in WORDS))
    if line.startswith("#"):
        return Meaning(f"opens No. {line[1:].strip()}", opens=line[1:].strip())
    if re.match(r"ask\b", line, re.I):
        query = parse_query(line[3:], style, house, kit.library if kit else None)
        return Meaning(f"asks the rack for {query.said(style) or 'every piece'}", asks=query)
    if re.match(r"air\b", line, re.I):
        made = air_reading(line[3:], today, by)
        gloss = f"{made.temperature_c:g} °C, {100 * made.humidity:.0f} %: wood in it heads for {made.equilibrium_pct:.1f} %"
        return Meaning(gloss, air=made)
    unit = "mm" if style == "mm" else "in"
    place, word, rest = _split(line, unit)
    at = plumb_mm if place is None else place
    if not word:
        return _bare(at, piece, unit)
    if piece is None:
        raise BadEntry("There is no piece in hand yet; press Ctrl+N for a new one.")
    reader = Reader(piece, at, unit, style, today, pin_depth_mm, by, house, kit or ShopKit(), place is not None or plumb_mm > 0)
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


class Reader(MarkWords, StockWords, WoodWords, ReaderBase):
    """Reads one word for one piece at one place."""

    def read(self, word: str, rest: str) -> Meaning:
        known: dict[str, Callable[[str], Meaning]] = {
            "l": self._length, "w": self._width, "e": self._edges, "t": self._thickness, "grid": self._grid, "kg": self._mass, "mc": self._moisture,
            "core": self._core, "ring": self._rings, "slope": self._angle("grain_slope_deg", "grain slopes"), "runout": self._angle("runout_deg", "runs out"),
            "planes": self._planes, "interlocked": self._interlocked, "bow": self._flat("bow"), "cup": self._flat("cup"), "crook": self._flat("crook"),
            "rock": self._flat("rock"), "twist": self._twist, "kind": self._kind, "from": self._text("origin", "from"),
            "at": self._text("place", "lies at"), "note": self._text("note", "note:"), "nominal": self._nominal,
        }  # fmt: skip
        known["part"] = self._part
        known |= self.mark_words() | self.stock_words() | self.wood_words()
        lower = word.lower()
        sized = re.match(r"^[\d.,]+\s*x", rest, re.I)
        if sized and (lower in KIND_OF_CODE or lower in ALL_DEFECTS):
            return self.defect(KIND_OF_CODE.get(lower, lower), rest)
        if sized and lower in ALIASES:
            return self.defect(ALIASES[lower], rest, lower)
        if sized and lower in FIGURE_KINDS:
            return self.figure(lower, rest)
        if sized and len(lower) >= 4 and (kind := self.kind_named(lower)):  # a slip of one key must not reshape a piece
            return self.sized_piece(kind, rest)
        if lower in known:
            return known[lower](rest)
        if lower in KIND_OF_CODE or lower in ALL_DEFECTS:
            raise BadEntry(f"“{word} {rest}”: a {label_of(KIND_OF_CODE.get(lower, lower))} wants its size, such as {word} 24x18.")
        if lower in FIGURE_KINDS or lower in PIECE_KINDS or lower in ALIASES:
            raise BadEntry(f"“{word} {rest}” wants a size, such as {word} 300x120.")
        raise BadEntry(f"“{word}” is not a word of the tape line; ? lists them.")

    # sizes --------------------------------------------------------------------------------------------------------
    def _length(self, rest: str) -> Meaning:
        mm = self.mm(rest, "length")
        return Meaning(f"{self.shown(mm)} long", with_readings(self.piece, length_mm=mm), label="length")

    def _width(self, rest: str) -> Meaning:
        figures = self.lengths(rest, "width", 5000)
        if len(figures) == 1:
            return self._with_edges({self.at: (figures[0], 0.0)}, f"{self.shown(figures[0])} wide at {self.at:.0f}")
        places = self._evenly(len(figures), 0.0)
        return self._with_edges(
            {x: (mm, 0.0) for x, mm in zip(places, figures)},
            f"{len(figures)} widths, least {self.shown(min(figures))}",
            anew=True,
        )

    def _edges(self, rest: str) -> Meaning:
        words = rest.split()
        if len(words) < 2 or len(words) % 2:
            raise BadEntry(f"e wants figures in pairs, up and down from the snapped line, such as e 148 186; found {len(words)}.")
        figures = [self.mm(w, "edge", least=-1e-9, most=5000) for w in words]
        pairs = list(zip(figures[::2], figures[1::2]))
        if len(pairs) == 1:
            (far, near) = pairs[0]
            return self._with_edges({self.at: pairs[0]}, f"{far:.0f} above the line, {near:.0f} below it, at {self.at:.0f}")
        return self._with_edges(dict(zip(self._evenly(len(pairs), 0.0), pairs)), f"live edges at {len(pairs)} places", anew=True)

    def _evenly(self, count: int, inset: float) -> list[float]:
        """``count`` places from end to end, ``inset`` in from each."""
        end = self.piece.length_mm or self.piece.extents[2]
        if not end:
            raise BadEntry("Several figures at once want the length first: l 2390.")
        low, high = (inset, end - inset) if end > 4 * inset else (0.0, end)
        return [round(low + (high - low) * k / (count - 1), 1) for k in range(count)] if count > 1 else [end / 2]

    def _with_edges(self, read: dict[float, tuple[float, float]], gloss: str, anew: bool = False) -> Meaning:
        if self.piece.length_mm and max(read) > self.piece.length_mm + 1e-6:
            raise BadEntry(f"{max(read):.0f} is off the piece, which is {self.piece.length_mm:.0f} long.")
        if any(far + near < 1 for far, near in read.values()):
            raise BadEntry("The two edges would meet there; wants at least 1 mm of wood.")
        others = () if anew else tuple(w for w in self.piece.width_stations if all(abs(w.x_mm - x) > SAME_PLACE_MM for x in read))
        new = tuple(WidthStation(x_mm=x, far_mm=far, near_mm=near, by=self.by) for x, (far, near) in read.items())
        stations = tuple(sorted((*others, *new), key=lambda w: w.x_mm))
        return Meaning(gloss, with_readings(self.piece, width_stations=stations), label="edges")

    def _thickness(self, rest: str) -> Meaning:
        amount, options = self.options(rest, "yh")
        if "/" in amount and len(amount.split()) == 1 and (quarters := parse_length(amount, self.unit)).nominal:
            return Meaning(
                f"{amount} nominal, {quarters.mm:.1f}: measure the actual thickness too",
                self.piece.changed(nominal_thickness_mm=quarters.mm),
                label="nominal thickness",
            )
        figures = self.lengths(amount, "thickness", 1000)
        height = self.mm(options["h"], "height", least=-300, most=300) if "h" in options else None
        y_said = self.mm(options["y"], "y", least=-1e-9, most=5000) if "y" in options else None
        if len(figures) > 1:
            return self._thickness_row(figures, y_said)
        y = self._middle_y() if y_said is None else y_said
        if self.piece.outline and not self.piece.extents[1] - 1 <= y <= self.piece.extents[3] + 1:
            raise BadEntry(f"y {y:.0f} is off the piece, which is {self.piece.extents[3]:.0f} wide.")
        new = Station(x_mm=self.at, y_mm=y, thickness_mm=figures[0], top_mm=height, by=self.by)
        where = f"{self.at:.0f}" + (f", {y:.0f} up" if "y" in options else "")
        gloss = f"{self.shown(figures[0])} thick at {where}" + (f", face 1 {height:g} high" if height is not None else "")
        return self._with_stations([new], gloss, y_said=y_said is not None)

    def _middle_y(self) -> float:
        """Half way up the wood at the plumb."""
        return round(sum(self.piece.extents[1::2]) / 2, 1) if self.piece.outline else 0.0

    def grid_places(self) -> list[tuple[float, float]]:
        """The places of the wanted readings, row by row from the near edge."""
        return grid_places(self.piece)

    def _thickness_row(self, figures: list[float], y: float | None) -> Meaning:
        """A whole grid of figures, row by row from the near edge; or one row of them, at ``y`` or in the middle."""
        along, across = self.piece.reading_grid
        whole = across > 1 and y is None
        if whole and len(figures) != along * across:
            raise BadEntry(
                f"The grid is {along} x {across}: wants {along * across} figures, or one row with y, such as t 30 31 y 20; found {len(figures)}."
            )
        row = self._middle_y() if y is None else y
        places = self.grid_places() if whole else [(x, row) for x in self._evenly(len(figures), 60.0)]
        stations = [Station(x_mm=x, y_mm=y, thickness_mm=mm, by=self.by) for (x, y), mm in zip(places, figures)]
        return self._with_stations(
            stations, f"{len(figures)} thicknesses, least {self.shown(min(figures))}", anew=y is None, y_said=y is not None
        )

    def _with_stations(self, new: list[Station], gloss: str, anew: bool = False, y_said: bool = False) -> Meaning:
        """New readings in place of old ones at the same spot; the same x is the same spot unless a y was said or rows are read."""
        one_row = not y_said and self.piece.reading_grid[1] == 1 and len({round(s.y_mm) for s in self.piece.stations}) <= 1

        def same(s: Station, n: Station) -> bool:
            return abs(s.x_mm - n.x_mm) <= SAME_PLACE_MM and (one_row or abs(s.y_mm - n.y_mm) <= 5)

        others = () if anew else tuple(s for s in self.piece.stations if not any(same(s, n) for n in new))
        stations = tuple(sorted((*others, *new), key=lambda s: (s.x_mm, s.y_mm)))
        return Meaning(gloss, self.piece.changed(stations=stations, thickness_mm=None), label="thickness")

    def _grid(self, rest: str) -> Meaning:
        found = re.match(r"^(\d+)\s*x\s*(\d+)$", rest.strip(), re.I)
        if not found or not (1 <= int(found[1]) <= 25 and 1 <= int(found[2]) <= 9):
            raise BadEntry(f"“grid {rest}”: wants readings along x across, at most 25x9, such as grid 5x3.")
        grid = (int(found[1]), int(found[2]))
        return Meaning(f"{grid[0]} readings along, {grid[1]} across", self.piece.changed(reading_grid=grid), label="reading grid")

    def _nominal(self, rest: str) -> Meaning:
        fields = ("nominal_thickness_mm", "nominal_width_mm", "nominal_length_mm")
        parts = re.split(r"\s+x\s+|(?<=\d)x(?=\d)", rest.strip())
        if len(parts) > 3:
            raise BadEntry(f"“nominal {rest}”: wants thickness x width x length, such as nominal 8/4 x 8 in x 8 ft.")
        sizes = [self.mm(part, "nominal size") for part in parts]
        return Meaning(
            "nominal " + " × ".join(self.shown(s) for s in sizes),
            self.piece.changed(**dict(zip(fields, sizes))),
            label="nominal size",
        )

    def _part(self, rest: str) -> Meaning:
        """``part 700x90 y 40``: a part tried from the plumb on, to see what would be left of it."""
        size, options = self.options(rest, "y")
        sides = size.lower().split("x")
        if not self.piece.outline or len(sides) != 2:
            raise BadEntry("part wants length x width on a measured board, such as part 700x90.")
        length, width = (self.mm(side, "size") for side in sides)
        x0, y0, x1, y1 = self.piece.extents
        low = self.mm(options["y"], "y", least=-1e-9) if "y" in options else max(y0, (y0 + y1 - width) / 2)
        if length > x1 - x0 + 1e-6 or width > y1 - y0 + 1e-6:
            raise BadEntry(f"{length:.0f} × {width:.0f} does not lie on a board of {x1 - x0:.0f} × {y1 - y0:.0f}.")
        start = min(self.at, x1 - length)
        low = min(low, y1 - width)
        return Meaning(f"a part of {length:.0f} × {width:.0f} from {start:.0f}", part=(start, low, start + length, low + width))

    # figures ------------------------------------------------------------------------------------------------------
    def _mass(self, rest: str) -> Meaning:
        kg = self.number(rest, "weight in kg", 0.001, 2000)
        if self.piece.weighings:  # a series was begun: this is its next weighing
            return Meaning(f"weighs {kg:g} kg, in its series", self.weighed(kg, self.today), label="weighing")
        return Meaning(f"weighs {kg:g} kg", self.read_by("mass_kg", mass_kg=kg), label="weight")

    def _moisture(self, rest: str) -> Meaning:
        amount, depth = with_option(rest, "d")
        value = self.number(amount, "moisture in %", 0, 200)
        deep = self.number(depth, "pin depth", 0, 500) if depth else self.pin_depth_mm
        return self._reading(value, deep, f"{value:g} % at {self.inner:.0f}, {deep:.0f} deep")

    def _core(self, rest: str) -> Meaning:
        thickness = self.piece.least_thickness_mm
        if thickness is None:
            raise BadEntry("The core needs a thickness first: t 52.4.")
        value = self.number(rest, "core moisture in %", 0, 200)
        return self._reading(value, thickness / 2, f"core {value:g} % at {self.inner:.0f}")

    def _reading(self, value: float, depth: float, gloss: str) -> Meaning:
        y = sum(self.piece.extents[1::2]) / 2
        new = MoistureReading(x_mm=self.inner, y_mm=y, depth_mm=depth, moisture_pct=value, on=self.today, by=self.by)
        same = lambda r: abs(r.x_mm - self.inner) <= SAME_PLACE_MM and abs(r.depth_mm - depth) <= 1 and r.on in (None, self.today)  # noqa: E731
        return Meaning(
            gloss, self.piece.changed(moisture=(*(r for r in self.piece.moisture if not same(r)), new)), label="moisture"
        )

    def _rings(self, rest: str) -> Meaning:
        words = rest.split()
        if len(words) not in (1, 2):
            raise BadEntry("ring wants one angle or two, marked end first, such as ring 38 36.")
        angles = [self.number(w, "ring angle", 0, 90) for w in words]
        both = (angles[0], angles[1] if len(angles) == 2 else None)
        return Meaning(
            f"rings {angles[0]:g}° at the marked end" + (f", {angles[1]:g}° at the far end" if len(angles) == 2 else ""),
            self.piece.changed(ring_angle_deg=both),
            label="rings",
        )

    def _angle(self, field: str, verb: str) -> Callable[[str], Meaning]:
        def read(rest: str) -> Meaning:
            value = self.number(rest, f"{field.removesuffix('_deg').replace('_', ' ')} in degrees", -45, 45)
            return Meaning(f"{verb} {value:g}°", self.read_by(field, **{field: value}), label=verb)

        return read

    def _planes(self, rest: str) -> Meaning:
        word = {"far": "far", "marked": "marked", "both": "both_ways_tear", "?": "", "": ""}.get(rest.strip().lower())
        if word is None:
            raise BadEntry(f"“planes {rest}”: wants far, marked, both (it tears both ways) or ?.")
        gloss = {
            "far": "planes clean toward the far end",
            "marked": "planes clean toward the marked end",
            "": "planing direction not read",
        }
        return Meaning(gloss.get(word, "tears both ways"), self.piece.changed(planing=word), label="planing direction")

    def _interlocked(self, rest: str) -> Meaning:
        yes = rest.strip().lower() not in ("no", "not")
        return Meaning("interlocked grain" if yes else "not interlocked", self.piece.changed(interlocked=yes), label="interlock")

    def _flat(self, name: str) -> Callable[[str], Meaning]:
        def read(rest: str) -> Meaning:
            amount, options = self.options(rest, "f")
            size, _, span = amount.partition(" over ")
            mm = self.mm(size, name, least=-1e-9, most=300)
            changes: dict[str, float] = {f"{name}_mm": mm}
            if span and name != "rock":
                changes[f"{name}_span_mm"] = self.mm(span, "span")
            face = options.get("f", self.piece.hollow_face)
            if face not in ("", "1", "2"):
                raise BadEntry(f"f {face}: the hollow face is 1 or 2.")
            flat = self.piece.flatness.changed(**changes)
            gloss = (
                f"{name} {mm:.1f}"
                + (f" over {self.mm(span, 'span'):.0f}" if span else "")
                + (f", face {face} hollow" if "f" in options else "")
            )
            return Meaning(gloss, self.read_by(name, flatness=flat, hollow_face=face), label=name)

        return read

    def _twist(self, rest: str) -> Meaning:
        """The height of the fourth corner, or an angle over the length that gives it."""
        text = rest.strip().lower()
        if text.endswith(("°", "deg")):
            angle = self.number(text.removesuffix("deg").rstrip("° "), "twist in degrees", 0, 30)
            width = self.piece.extents[3] - self.piece.extents[1]
            if not width:
                raise BadEntry("A twist in degrees wants the width first: w 231.")
            text = f"{width * math.tan(math.radians(angle)):.2f} mm"
        meaning = self._flat("rock")(text)
        return Meaning(f"twist: {meaning.gloss.removeprefix('rock ')} under the fourth corner", meaning.piece, label="twist")

    # words --------------------------------------------------------------------------------------------------------
    def _kind(self, rest: str) -> Meaning:
        name = rest.strip().lower().replace(" ", "_")
        if name in ("reclaimed", "bought"):
            return Meaning(
                "reclaimed: sweep it for metal" if name == "reclaimed" else "bought, not reclaimed",
                self.piece.changed(reclaimed=name == "reclaimed"),
                label="reclaimed",
            )
        kind = self.kind_named(name)
        if kind is None:
            raise BadEntry(f"“{rest}” is not a kind; wants one of {', '.join(label_of(k) for k in PIECE_KINDS)}, or reclaimed.")
        return Meaning(f"a {label_of(kind)}", self.piece.changed(kind=kind), label="kind")

    def _text(self, field: str, word: str) -> Callable[[str], Meaning]:
        def read(rest: str) -> Meaning:
            if len(rest) > 300:
                raise BadEntry(f"{len(rest)} letters are too many; wants at most 300.")
            return Meaning(f"{word} {rest}", self.piece.changed(**{field: rest}), label=field)

        return read


def grid_places(piece: Piece) -> list[tuple[float, float]]:
    """Where a piece's thickness is wanted by its reading grid, row by row from the near edge, in mm."""
    _x0, y0, x1, y1 = piece.extents
    along, across = piece.reading_grid
    end = piece.length_mm or x1
    if not end:
        return []
    inset = 60.0 if end > 240 else 0.0
    xs = [round(inset + (end - 2 * inset) * k / (along - 1), 1) for k in range(along)] if along > 1 else [round(end / 2, 1)]
    rim = min(20.0, (y1 - y0) / 6)
    ys = (
        [round(y0 + rim + (y1 - y0 - 2 * rim) * k / (across - 1), 1) for k in range(across)]
        if across > 1
        else [round((y0 + y1) / 2, 1)]
    )
    return [(x, y) for y in ys for x in xs]
