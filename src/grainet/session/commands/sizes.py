"""Words for sizes, readings and what is told of the piece as it lies."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import replace

from grainet.session.commands.command import Command
from grainet.session.commands.definition import SHOP, SIZES, STORY, WOOD, word
from grainet.session.commands.reader_base import ReaderBase, several
from grainet.wood.defects import label_of
from grainet.wood.moisture import dry_basis_pct, humidity_for
from grainet.wood.piece import PIECE_KINDS, MoistureReading, Piece, Station, WidthStation, with_readings
from grainet.wood.place import SAME_PLACE_MM
from grainet.wood.quantity import ANGLE, PERCENT, SLOPE, WEIGHT, parse_slope
from grainet.wood.units import nominal_words, parse_length
from grainet.wood.value import BadEntry, Choose, real_day

FAR_APART = 1.6  # of two moistures on one line: then the second one may be a depth


class SizeWords(ReaderBase):
    """Reads what is measured."""

    # sizes --------------------------------------------------------------------------------------------------------
    @word("l", SIZES, "l length", "length", "l 2390", "long metres feet inches")
    def _length(self, rest: str) -> Command:
        piece = self.piece
        mm = self.mm(rest, "length", beside=piece.length_mm or piece.nominal_length_mm)
        marks = [x for d in piece.defects for x, _ in d.polygon]
        far = max(
            [*(s.x_mm for s in piece.stations), *(w.x_mm for w in piece.width_stations if piece.length_mm is None), *marks],
            default=0.0,
        )
        if far > mm + 0.5 and not rest.strip().endswith("!"):
            raise Choose(
                f"Something was read or marked at {self.told(far)}, which would lie beyond {self.told(mm)}. Is the length right? {rest.strip()}! keeps it.",
                rest.strip(), (f"{rest.strip()}!",),
            )  # fmt: skip
        return Command(f"{self.shown(mm)} long", with_readings(piece, length_mm=mm), label="length")

    @word(
        "w", SIZES, "w width ...", "width at the marker, or several from end to end", "w 231 230 231", "wide across", placed=True
    )
    def _width(self, rest: str) -> Command:
        known = [w.far_mm + w.near_mm for w in self.piece.width_stations if abs(w.x_mm - self.at) > SAME_PLACE_MM]
        figures = self.lengths(rest, "width", 5000, beside=_middle(known) or self.piece.nominal_width_mm)
        if len(figures) == 1:
            return self._with_edges({self.at: (figures[0], 0.0)}, f"{self.shown(figures[0])} wide at {self.told(self.at)}")
        places = self._evenly(len(figures), 0.0)
        return self._with_edges(
            {x: (mm, 0.0) for x, mm in zip(places, figures)},
            f"{len(figures)} widths, least {self.shown(min(figures))}",
            anew=True,
        )

    @word(
        "e",
        SIZES,
        "e up down ...",
        "live edges up and down from the snapped line; more pairs go from end to end",
        "e 148 186",
        "bark live edge waney slab outline",
        placed=True,
    )
    def _edges(self, rest: str) -> Command:
        words = several(rest) or rest.split()
        if len(words) < 2 or len(words) % 2:
            raise BadEntry(f"e needs figures in pairs, up and down from the snapped line, such as e 148 186; found {len(words)}.")
        figures = [self.mm(w, "edge", least=-1e-9, most=5000) for w in words]
        pairs = list(zip(figures[::2], figures[1::2]))
        if len(pairs) == 1:
            (far, near) = pairs[0]
            return self._with_edges(
                {self.at: pairs[0]}, f"{self.told(far)} above the line, {self.told(near)} below it, at {self.told(self.at)}"
            )
        return self._with_edges(dict(zip(self._evenly(len(pairs), 0.0), pairs)), f"live edges at {len(pairs)} places", anew=True)

    def _evenly(self, count: int, inset: float) -> list[float]:
        """``count`` places from end to end, ``inset`` in from each."""
        end = self.piece.length_mm or self.piece.extents[2]
        if not end:
            raise BadEntry("Several figures at once want the length first: l 2390.")
        low, high = (inset, end - inset) if end > 4 * inset else (0.0, end)
        return [min(high, round(low + (high - low) * k / (count - 1), 1)) for k in range(count)] if count > 1 else [end / 2]

    def _with_edges(self, read: dict[float, tuple[float, float]], gloss: str, *, anew: bool = False) -> Command:
        if self.piece.length_mm and max(read) > self.piece.length_mm + 1e-6:
            raise BadEntry(f"{self.told(max(read))} is off the piece, which is {self.told(self.piece.length_mm)} long.")
        if any(far + near < 1 for far, near in read.values()):
            raise BadEntry("The two edges would meet there; at least 1 mm of wood.")
        others = () if anew else tuple(w for w in self.piece.width_stations if all(abs(w.x_mm - x) > SAME_PLACE_MM for x in read))
        new = tuple(WidthStation(x_mm=x, far_mm=far, near_mm=near, by=self.by) for x, (far, near) in read.items())
        stations = tuple(sorted((*others, *new), key=lambda w: w.x_mm))
        return Command(gloss, with_readings(self.piece, width_stations=stations), label="edges")

    @word(
        "t",
        SIZES,
        "t thickness ...",
        "thickness at the marker, or several from end to end; y how far up, h height of face 1",
        "t 52.4 52.1 51.6",
        "thick callipers height",
        placed=True,
    )
    def _thickness(self, rest: str) -> Command:
        told = self.options(rest, "yh")
        told.all_used("t needs figures, then y and h, such as t 52.4 y 40 h 0.4.")
        amount, options = told.first, told.given
        if "/" in amount and len(amount.split()) == 1 and (quarters := parse_length(amount, self.unit)).nominal:
            return Command(
                f"{amount} nominal, {nominal_words(quarters.mm)}: measure the actual thickness too",
                self.piece.changed(nominal_thickness_mm=quarters.mm),
                label="nominal thickness",
            )
        known = [s.thickness_mm for s in self.piece.stations if abs(s.x_mm - self.at) > SAME_PLACE_MM]
        figures = self.lengths(amount, "thickness", 1000, beside=_middle(known) or self.piece.nominal_thickness_mm)
        height = self.mm(options["h"], "height", least=-300, most=300) if "h" in options else None
        y_said = self.mm(options["y"], "y", least=-1e-9, most=5000) if "y" in options else None
        if len(figures) > 1:
            if height is not None:
                raise BadEntry("A height goes with one thickness at a time, such as t 52.4 h 0.4.")
            return self._thickness_row(figures, y_said)
        y = self._middle_y() if y_said is None else y_said
        if self.piece.outline and not self.piece.extents[1] - 1 <= y <= self.piece.extents[3] + 1:
            raise BadEntry(f"y {self.told(y)} is off the piece, which is {self.told(self.piece.extents[3])} wide.")
        new = Station(x_mm=self.at, y_mm=y, thickness_mm=figures[0], top_mm=height, by=self.by)
        where = f"{self.told(self.at)}" + (f", {self.told(y)} up" if "y" in options else "")
        gloss = f"{self.shown(figures[0])} thick at {where}" + (
            f", face 1 {self.told(height, 'g')} high" if height is not None else ""
        )
        return self._with_stations([new], gloss, y_said=y_said is not None)

    def _middle_y(self) -> float:
        """Half way up the wood at the plumb."""
        return round(sum(self.piece.extents[1::2]) / 2, 1) if self.piece.outline else 0.0

    def grid_places(self) -> list[tuple[float, float]]:
        """The places of the wanted readings, row by row from the near edge."""
        return grid_places(self.piece)

    def _thickness_row(self, figures: list[float], y: float | None) -> Command:
        """A whole grid of figures, row by row from the near edge; or one row of them, at ``y`` or in the middle."""
        along, across = self.piece.reading_grid
        whole = across > 1 and y is None
        if whole and len(figures) != along * across:
            raise BadEntry(
                f"The grid is {along} x {across}: needs {along * across} figures, or one row with y, such as t 30 31 y 20; found {len(figures)}."
            )
        row = self._middle_y() if y is None else y
        places = self.grid_places() if whole else [(x, row) for x in self._evenly(len(figures), 60.0)]
        stations = [Station(x_mm=x, y_mm=y, thickness_mm=mm, by=self.by) for (x, y), mm in zip(places, figures)]
        return self._with_stations(
            stations, f"{len(figures)} thicknesses, least {self.shown(min(figures))}", anew=y is None, y_said=y is not None
        )

    def _with_stations(self, new: list[Station], gloss: str, *, anew: bool = False, y_said: bool = False) -> Command:
        """New readings in place of old ones at the same spot; the same x is the same spot unless a y was said or rows are read."""
        one_row = not y_said and self.piece.reading_grid[1] == 1 and len({round(s.y_mm) for s in self.piece.stations}) <= 1

        def same(s: Station, n: Station) -> bool:
            return abs(s.x_mm - n.x_mm) <= SAME_PLACE_MM and (one_row or abs(s.y_mm - n.y_mm) <= 5)

        others = () if anew else tuple(s for s in self.piece.stations if not any(same(s, n) for n in new))
        stations = tuple(sorted((*others, *new), key=lambda s: (s.x_mm, s.y_mm)))
        return Command(gloss, self.piece.changed(stations=stations, thickness_mm=None), label="thickness")

    @word("grid", SIZES, "grid along x across", "how many thicknesses are wanted", "grid 5x3", "readings stations")
    def _grid(self, rest: str) -> Command:
        found = re.match(r"^([0-9]+)\s*x\s*([0-9]+)$", rest.strip(), re.I)
        if not found or not (1 <= int(found[1]) <= 25 and 1 <= int(found[2]) <= 9):
            raise BadEntry(f"“grid {rest}”: needs readings along x across, at most 25x9, such as grid 5x3.")
        grid = (int(found[1]), int(found[2]))
        return Command(f"{grid[0]} readings along, {grid[1]} across", self.piece.changed(reading_grid=grid), label="reading grid")

    @word(
        "nominal",
        SIZES,
        "nominal T x W x L",
        "as it was sold; quarters such as 8/4 too",
        "nominal 8/4 x 8 in x 8 ft",
        "quarters trade sold rough sawn",
    )
    def _nominal(self, rest: str) -> Command:
        fields = ("nominal_thickness_mm", "nominal_width_mm", "nominal_length_mm")
        parts = re.split(r"\s+x\s+|(?<=\d)x(?=\d)", rest.strip())
        if len(parts) > 3:
            raise BadEntry(f"“nominal {rest}”: needs thickness x width x length, such as nominal 8/4 x 8 in x 8 ft.")
        sizes = [self.mm(part, "nominal size") for part in parts]
        return Command(
            "nominal " + " × ".join(nominal_words(s) if self.style == "mm" else self.shown(s) for s in sizes),
            self.piece.changed(**dict(zip(fields, sizes))),
            label="nominal size",
        )

    @word(
        "part",
        SIZES,
        "part L x W",
        "what would be left of a part sawn from here on; y how far up",
        "part 700x90",
        "blank try what if flatten loss",
        placed=True,
    )
    def _part(self, rest: str) -> Command:
        """``part 700x90 y 40``: a part tried from the plumb on, to see what would be left of it."""
        sized = self.take_sizes(rest)
        if not self.piece.outline or sized is None or len(sized[0]) != 2:
            raise BadEntry("part needs length x width on a measured board, such as part 700x90.")
        (length, width), tail = self.sizes(sized[0]), sized[1]
        told = self.options(tail, "y")
        options = told.given
        if told.first or told.left:
            raise BadEntry(f"“{told.first or told.left}” is left over; part needs a size and y, such as part 700x90 y 40.")
        x0, y0, x1, y1 = self.piece.extents
        low = self.mm(options["y"], "y", least=-1e-9) if "y" in options else max(y0, (y0 + y1 - width) / 2)
        if length > x1 - x0 + 1e-6 or width > y1 - y0 + 1e-6:
            raise BadEntry(
                f"{self.told(length)} × {self.told(width)} does not lie on a board of {self.told(x1 - x0)} × {self.told(y1 - y0)}."
            )
        start = min(self.at, x1 - length)
        low = min(low, y1 - width)
        return Command(
            f"a part of {self.told(length)} × {self.told(width)} from {self.told(start)}",
            part=(start, low, start + length, low + width),
        )

    # figures ------------------------------------------------------------------------------------------------------
    @word("kg", SIZES, "kg weight", "weight; g, lb or oz may be said", "kg 31.4", "weigh mass heavy pounds scale")
    def _mass(self, rest: str) -> Command:
        kg = self.number(rest, "the weight", 0.001, 2000, WEIGHT, beside=self.piece.mass_kg)
        if self.piece.weighings:  # a series was begun: this is its next weighing
            return Command(f"weighs {kg:.4g} kg, in its series", self.weighed(kg, self.today), label="weighing")
        return Command(f"weighs {kg:.4g} kg", self.read_by("mass_kg", mass_kg=kg), label="weight")

    @word(
        "mc",
        SIZES,
        "mc percent ...",
        "moisture at the marker, or several along; d how deep; wet behind where it is of the wet weight",
        "mc 8.4 d 20",
        "moisture meter damp wet dry humidity",
        placed=True,
    )
    def _moisture(self, rest: str) -> Command:
        told = self.options(rest, "d", ("wet",))
        told.all_used("mc needs a figure, then wet or d, such as mc 8.4 d 20.")
        known = [r.moisture_pct for r in self.piece.moisture_now]
        of_wet = "wet" in told.flags
        deep = self.depth_in_the_wood(told.given.get("d"))
        if len(figures := re.sub(r"\s*%|[,;]+(?=\s)", " ", told.first).split()) > 1:
            return self._moistures(figures, deep, of_wet=of_wet)
        value = self.number(told.first, "moisture", 0, 95 if of_wet else 200, PERCENT, beside=None if of_wet else _middle(known))
        message = f"{value:g} % of the wet weight is " if of_wet else ""
        value = round(dry_basis_pct(value), 2) if of_wet else value
        return self._reading(
            value, deep, f"{message}{value:g} % at {self.told(self.inner)}, {self.told(deep, 'g')} deep{self._held_by(value)}"
        )

    def _moistures(self, figures: list[str], deep: float, *, of_wet: bool) -> Command:
        """Several readings, evenly along from the marked end and clear of both ends, where end grain dries first."""
        end = self.piece.length_mm or self.piece.extents[2]
        if not end:
            raise BadEntry("Several moistures need the board first: its length, l 2390.")
        values = [self.number(text, "moisture", 0, 95 if of_wet else 200, PERCENT) for text in figures]
        if len(values) == 2 and values[1] > FAR_APART * values[0] and not figures[1].endswith("!"):
            one, other = figures
            text = f"{other} beside {one} %: {one} d {other} is a depth; {one} {other}! keeps two readings."
            raise Choose(text, f"{one} {other}", (f"{one} d {other}", f"{one} {other}!"))
        values = [round(dry_basis_pct(v), 2) for v in values] if of_wet else values
        places = [round(end * (k + 0.5) / len(values), 1) for k in range(len(values))]
        piece = self.piece
        for place, value in zip(places, values, strict=True):
            piece = self._with_reading(piece, place, deep, value)
        at = ", ".join(f"{value:g} % at {self.told(place)}" for place, value in zip(places, values, strict=True))
        return Command(f"{at}; {self.told(deep, 'g')} deep", piece, label="moisture")

    def _held_by(self, moisture_pct: float) -> str:
        """Which air would hold the wood at that."""
        held = humidity_for(moisture_pct, self.kit.temperature_c)
        return "" if held is None else f"; air of {100 * held:.0f} % holds it there"

    @word("core", SIZES, "core percent", "moisture of the core", "core 12.5", "moisture middle inside", placed=True)
    def _core(self, rest: str) -> Command:
        thickness = self.piece.least_thickness_mm
        if thickness is None:
            raise BadEntry("The core needs a thickness first: t 52.4.")
        value = self.number(rest, "core moisture", 0, 200, PERCENT)
        return self._reading(value, round(thickness / 2, 2), f"core {value:g} % at {self.told(self.inner)}")

    def _reading(self, value: float, depth: float, gloss: str) -> Command:
        return Command(gloss, self._with_reading(self.piece, self.inner, depth, value), label="moisture")

    def _with_reading(self, piece: Piece, x_mm: float, depth: float, value: float) -> Piece:
        """The piece with one more reading in the middle of its width, in place of one of today at the same spot."""
        new = MoistureReading(
            x_mm=x_mm, y_mm=sum(piece.extents[1::2]) / 2, depth_mm=depth, moisture_pct=value, on=self.today, by=self.by
        )

        def same(r: MoistureReading) -> bool:
            return abs(r.x_mm - x_mm) <= SAME_PLACE_MM and abs(r.depth_mm - depth) <= 1 and r.on in (None, self.today)

        return piece.changed(moisture=(*(r for r in piece.moisture if not same(r)), new))

    @word(
        "ring",
        SIZES,
        "ring angle angle",
        "ring angle at the marked end and the far end, 0 flat to 90 quarter",
        "ring 38 36",
        "growth rings quarter quartered rift flat end grain",
    )
    def _rings(self, rest: str) -> Command:
        words = rest.split()
        if len(words) not in (1, 2):
            raise BadEntry("ring needs one angle or two, marked end first, such as ring 38 36.")
        angles = [self.number(w, "ring angle", 0, 90, ANGLE) for w in words]
        both = (angles[0], angles[1] if len(angles) == 2 else None)
        return Command(
            f"rings {angles[0]:g}° at the marked end" + (f", {angles[1]:g}° at the far end" if len(angles) == 2 else ""),
            self.piece.changed(ring_angle_deg=both),
            label="rings",
        )

    @word(
        "heart",
        SIZES,
        "heart face mm",
        "the face that the heart (pith) lies toward, and how far from the middle of the board",
        "heart 2 120",
        "pith side hollow crown bark cup heart",
    )
    def _heart(self, rest: str) -> Command:
        """On which side the pith lies and how far: it tells hollow from crown, and how much a flat-sawn face moves."""
        words = rest.split()
        if not words or words[0] not in ("1", "2", "no") or len(words) > 2 or (words[0] == "no" and len(words) > 1):
            raise BadEntry("heart needs the face that the heart lies toward, and how far if you know: heart 2 120, or heart no.")
        if words[0] == "no":
            return Command("heart's side not known", self.piece.changed(heart_face="", heart_mm=None), label="heart")
        far = self.mm(words[1], "the heart's distance", most=5000) if len(words) == 2 else None
        bark = "2" if words[0] == "1" else "1"
        gloss = (
            f"heart toward face {words[0]}"
            + (f", {self.told(far)} from the middle" if far else "")
            + f": drying, face {bark} goes hollow"
        )
        return Command(gloss, self.read_by("heart", heart_face=words[0], heart_mm=far), label="heart")

    def _angle(self, field: str, name: str, verb: str) -> Callable[[str], Command]:
        def read(rest: str) -> Command:
            value = round(self.number(rest, name, -45, 45, SLOPE, parse=parse_slope), 2)
            return Command(f"{verb} {value:g}°", self.read_by(field, **{field: value}), label=verb)

        return read

    @word(
        "planes",
        WOOD,
        "planes end",
        "the end that face 1 planes clean toward: far, marked, both, ?",
        "planes far",
        "planing direction tear grain",
    )
    def _planes(self, rest: str) -> Command:
        word = {"far": "far", "marked": "marked", "both": "both_ways_tear", "?": "", "": ""}.get(rest.strip().lower())
        if word is None:
            raise BadEntry(f"“planes {rest}”: needs far, marked, both (it tears both ways) or ?.")
        gloss = {
            "far": "planes clean toward the far end",
            "marked": "planes clean toward the marked end",
            "": "planing direction not read",
        }
        return Command(gloss.get(word, "tears both ways"), self.piece.changed(planing=word), label="planing direction")

    @word(
        "interlocked", WOOD, "interlocked", "interlocked grain; interlocked no takes it back", "interlocked", "grain ribbon tear"
    )
    def _interlocked(self, rest: str) -> Command:
        word = rest.strip().lower()
        if word not in ("", "yes", "no", "not"):
            raise BadEntry(f"“{rest}” is left over; needs interlocked, or interlocked no.")
        yes = word not in ("no", "not")
        return Command("interlocked grain" if yes else "not interlocked", self.piece.changed(interlocked=yes), label="interlock")

    def _flat(self, name: str) -> Callable[[str], Command]:
        return lambda rest: self._flats(name, rest)

    def _flats(self, name: str, rest: str) -> Command:
        """One flatness word, or several on one line: ``bow 3 over 1500 cup .8 twist 2``."""
        first, *others = re.split(r"\s+(?=(?:bow|cup|crook|rock|twist)\b)", rest.strip(), flags=re.I)
        meaning = self._twist(first) if name == "twist" else self._off_flat(name, first)
        for more in others:
            word, _, figures = more.partition(" ")
            assert meaning.piece is not None
            after = replace(self, piece=meaning.piece)
            second = after._twist(figures) if word.lower() == "twist" else after._off_flat(word.lower(), figures)
            meaning = Command(f"{meaning.gloss}; {second.gloss}", second.piece, label=f"{meaning.label}, {second.label}")
        return meaning

    def _off_flat(self, name: str, rest: str) -> Command:
        """Bow, cup, crook or rock with its span and the hollow face; 0 is a reading too."""
        told = self.options(rest, ("f", "over"))
        told.all_used(f"{name} needs a figure, then over and f, such as {name} 3 over 1500 f 2.")
        mm = self.mm(told.first, name, least=-1e-9, most=300)
        span = self.mm(told.given["over"], "span") if "over" in told.given else None
        across = name == "cup"
        whole = (self.piece.extents[3] - self.piece.extents[1]) if across else self.piece.length_mm or self.piece.extents[2]
        if span is not None and whole and span > whole + 1:
            raise BadEntry(
                f"{self.told(span)} is more than the board's {self.told(whole)} {'across' if across else 'along'}; needs the span read over."
            )
        face = told.given.get("f", self.piece.hollow_face)
        if face not in ("", "1", "2"):
            raise BadEntry(f"f {face}: the hollow face is 1 or 2.")
        flat = self.piece.flatness.changed(**{f"{name}_mm": mm, f"{name}_span_mm": span})
        word = "twist" if name == "rock" else name
        read = (*(w for w in self.piece.flat_read if w != word), word)
        gloss = (
            f"{name} {self.told(mm, 'g')}"
            + (f" over {self.told(span)}" if span else " over all of it")
            + (
                f", face {face} hollow"
                if face
                else "; f 1 or f 2 says which face it leaves hollow"
                if mm and name != "rock"
                else ""
            )
        )
        return Command(gloss, self.read_by(name, flatness=flat, hollow_face=face, flat_read=read), label=name)

    def _twist(self, rest: str) -> Command:
        """The height of the fourth corner, or an angle over the length (or a span) that gives it."""
        text = rest.strip().lower()
        amount, over, span = text.partition(" over ")
        if amount.endswith(("°", "deg", "degrees")):
            angle = self.number(amount, "twist in degrees", 0, 30, ANGLE)
            width = self.piece.extents[3] - self.piece.extents[1]
            if not width:
                raise BadEntry("A twist in degrees needs the width first: w 231.")
            text = f"{width * math.tan(math.radians(angle)):.2f} mm{over}{span}"
        meaning = self._off_flat("rock", text)
        return Command(f"twist: {meaning.gloss.removeprefix('rock ')} under the fourth corner", meaning.piece, label="twist")

    # words --------------------------------------------------------------------------------------------------------
    @word(
        "kind",
        WOOD,
        "kind name",
        "another kind: slab, plank, billet, strip, panel, plate, veneer, fretboard blank, offcut",
        "kind slab",
        "beam board blank veneer billet furniture",
    )
    def _kind(self, rest: str) -> Command:
        name = rest.strip().lower().replace(" ", "_")
        if name in ("reclaimed", "bought"):
            return Command(
                "reclaimed: sweep it for metal" if name == "reclaimed" else "bought, not reclaimed",
                self.piece.changed(reclaimed=name == "reclaimed"),
                label="reclaimed",
            )
        kind = self.kind_named(name)
        if kind is None:
            raise BadEntry(f"“{rest}” is not a kind; needs one of {', '.join(label_of(k) for k in PIECE_KINDS)}, or reclaimed.")
        return Command(f"a {label_of(kind)}", self.piece.changed(kind=kind), label="kind")

    @word(
        "reclaimed",
        WOOD,
        "reclaimed",
        "it had another life: both faces want a sweep for metal; bought takes it back",
        "reclaimed",
        "beam old salvaged bought nails furniture",
    )
    def _reclaimed(self, rest: str) -> Command:
        self.nothing_more(rest, "reclaimed")
        return self._kind("reclaimed")

    @word("bought")
    def _bought(self, rest: str) -> Command:
        self.nothing_more(rest, "bought")
        return self._kind("bought")

    @word("arrived", STORY, "arrived day", "the day it came; without a day, today", "arrived 2026-11-03", "date came bought day")
    def _arrived(self, rest: str) -> Command:
        day = rest.strip() or self.today
        try:
            real_day(day)
        except ValueError as fault:
            raise BadEntry(f"{fault}.") from None
        return Command(f"came on {day}", self.piece.changed(arrived=day), label="arrival")

    def _text(self, field: str, word: str) -> Callable[[str], Command]:
        def read(rest: str) -> Command:
            if len(rest) > 300:
                raise BadEntry(f"{len(rest)} letters are too many; at most 300.")
            message = f"{word} {rest}" if rest else f"{field} no longer told"
            return Command(message, self.piece.changed(**{field: rest}), label=field)

        return read

    @word(
        "slope",
        SIZES,
        "slope angle",
        "slope of grain on face 1, in degrees, as 3 % or as 1:20",
        "slope 1.5",
        "grain angle straight",
    )
    def _word_slope(self, rest: str) -> Command:
        return self._angle("grain_slope_deg", "slope of grain", "grain slopes")(rest)

    @word("runout", SIZES, "runout angle", "slope of grain on the near edge", "runout 2", "run-out grain edge")
    def _word_runout(self, rest: str) -> Command:
        return self._angle("runout_deg", "run-out", "runs out")(rest)

    @word(
        "bow",
        SIZES,
        "bow figure over span",
        "bow over a span, 0 when straight; f 2 says the hollow face; cup, crook and twist may follow",
        "bow 3 over 900 cup .8",
        "bent curved straightedge flat",
    )
    def _word_bow(self, rest: str) -> Command:
        return self._flat("bow")(rest)

    @word("cup", SIZES, "cup figure over span", "cup across, 0 when flat", "cup .8", "hollow curved across flat")
    def _word_cup(self, rest: str) -> Command:
        return self._flat("cup")(rest)

    @word("crook", SIZES, "crook figure over span", "crook of the edge", "crook 2 over 900", "edge bent banana spring")
    def _word_crook(self, rest: str) -> Command:
        return self._flat("crook")(rest)

    @word("rock")
    def _word_rock(self, rest: str) -> Command:
        return self._flat("rock")(rest)

    @word(
        "twist",
        SIZES,
        "twist figure over span",
        "height of the fourth corner over a span, or an angle",
        "twist 2 over 600",
        "wind winding rock corner",
    )
    def _word_twist(self, rest: str) -> Command:
        return self._flat("twist")(rest)

    @word("from", STORY, "from where", "where it comes from", "from loom beam", "origin source house barn", free=True)
    def _word_from(self, rest: str) -> Command:
        return self._text("origin", "from")(rest)

    @word("at", SHOP, "at place", "where it lies", "at C3", "shelf place rack location bay", free=True)
    def _word_at(self, rest: str) -> Command:
        return self._text("place", "lies at")(rest)

    @word("note", STORY, "note words", "a note of your own", "note smells of resin", "remark comment", free=True)
    def _word_note(self, rest: str) -> Command:
        return self._text("note", "note:")(rest)


def _middle(figures: list[float]) -> float | None:
    """The middle one of some figures, or None."""
    return sorted(figures)[len(figures) // 2] if figures else None


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
