"""What a heap of wood can become: each instrument, by each way that it may be made, fits with its margins or fails with the one number.

A yes is a plan by hand's rule that the verifier has taken, so the planner, which begins with that plan, says yes too.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

from grainet.design.blank import Blank
from grainet.design.blanks import blanks_of
from grainet.design.instrument import Instrument
from grainet.design.outline_body import scaled_body
from grainet.design.part import Part
from grainet.design.parts import alike, design_of
from grainet.design.role import Role, role_of
from grainet.design.ways import WAYS, way_of, ways_for, with_way
from grainet.job.job import Exclusion, Job
from grainet.kit.cut_kit import CutKit
from grainet.plan.becoming import THICKEST_MM, Becoming, RoleBar, Shortfall
from grainet.plan.by_hand import by_hand, without_builds
from grainet.plan.greedy import greedy_plan, worth_of
from grainet.plan.planner import PlanFault, Planner, PlannerCache
from grainet.wood.piece import Piece

Sizes = tuple[float, float, float]
MEASURES = ("length", "width", "thickness")
VARIED = ("body", "neck", "head", "cap", "plate")  # components whose other ways are tried where the drawn one does not fit
WIDEST = 1.6  # how far a wider body is looked for, as a multiple of the drawn one
BOUGHT = frozenset({Role.FRETBOARD, Role.HEAD_PLATE, Role.BINDING, Role.INLAY})  # what is often bought for a guitar by itself
NOTHING: frozenset[str] = frozenset()
MOST_WAYS = 8  # other ways that are tried of one instrument


def needed_mm(blank: Blank) -> Sizes:
    """What the stock must measure: length, width, and the thickness of its leaves together."""
    return blank.length.mm, blank.width.mm, (blank.footprint or blank.thickness).mm


def sizes_of(piece: Piece) -> Sizes:
    """A piece's plain sizes: its extents and its greatest thickness."""
    x0, y0, x1, y1 = piece.extents
    return x1 - x0, y1 - y0, max(piece.all_thicknesses_mm, default=0.0)


def wished_elsewhere(parts: Sequence[Part], pieces: Sequence[Piece]) -> tuple[Exclusion, ...]:
    """Which parts take nothing of which pieces, since they are wished in other wood."""
    return tuple(
        Exclusion(
            part=part.id, piece=piece.id, why=f"{part.shown_name} is wished in {', '.join(part.species_wish)}", code="species"
        )
        for part in parts
        if part.species_wish
        for piece in pieces
        if piece.species.lower() not in {s.lower() for s in part.species_wish}
    )


class Heap:
    """Pieces that may become something, with the geometry that every question asks for made once."""

    def __init__(self, pieces: Sequence[Piece], kit: CutKit, bars: Sequence[RoleBar] = ()) -> None:
        """``bars``: what the house takes from no piece, by role. Where one only asks for something first, other wood is looked for before."""
        self.pieces = [p for p in pieces if p.outline and p.all_thicknesses_mm]
        self.kit = kit
        self.surely = {(bar.role, bar.piece): bar for bar in bars if bar.surely}
        self.every = {(bar.role, bar.piece): bar for bar in bars}
        self.bars = self.surely  # what counts at the moment
        self.patience_s = 1.5  # how long the planner is asked about another way where hand's rule fails
        self.memory = PlannerCache()

    def sawn_with(self, kit: CutKit) -> None:
        """Other cuts from now on: the rough margin goes by the thickest part that is asked for."""
        if kit != self.kit:
            self.kit, self.memory = kit, PlannerCache()

    def job_of(self, g: Instrument, without: frozenset[str] = NOTHING) -> Job:
        """The job that asks for one instrument, made as it is drawn, but for parts that are bought elsewhere. Wood of a species that it does
        not wish for is left out."""
        design = design_of(g)
        gone = {f"{g.id}.{part}" for part in without}
        parts = tuple(p for p in design.parts if p.id not in gone)
        barred = wished_elsewhere(parts, self.pieces) + tuple(self._barred(parts))
        build = design.build.changed(recipes=(design.recipes[-1],))
        rest = build.remade(lambda needs: {part: n for part, n in needs.items() if part not in gone}) if gone else build
        assert rest is not None  # a guitar is never only what is bought for it
        return Job(kit=self.kit, pieces=tuple(self.pieces), parts=parts, builds=(rest,), barred=barred)

    def _blanks(self, g: Instrument, without: frozenset[str] = NOTHING) -> list[tuple[Blank, int]]:
        """Each kind of blank with how many there are of it."""
        return [row for row in alike(blanks_of(g, self.kit.allowances)) if row[0].part not in without]

    def lacking(self, g: Instrument) -> dict[str, Shortfall]:
        """What is often bought by itself and no piece gives, by the part."""
        small = [blank for blank, _ in self._blanks(g) if role_of(blank.role) in BOUGHT]
        return {blank.part: short for blank in small if (short := self._short_of(blank)) is not None}

    def _barred(self, parts: Sequence[Part]) -> Iterator[Exclusion]:
        """What the house does not take, as the job says it."""
        for part in parts:
            for piece in self.pieces:
                if (bar := self.bars.get((part.role, piece.id))) is not None:
                    yield Exclusion(part=part.id, piece=piece.id, why=bar.why, code=bar.code)

    # answers ------------------------------------------------------------------------------------------------------
    def becomes(self, g: Instrument) -> Iterator[Becoming]:
        """The instrument as it is drawn; where that fails, the other ways of single components that would do."""
        drawn = self._first_of_ready(g)
        yield drawn
        if drawn.nearly:
            return
        lacks, tried = frozenset(self.lacking(g)), 0
        for component in VARIED:
            for way in ways_for(g).get(component, ()):
                if way == way_of(g, component) or tried >= MOST_WAYS:
                    continue
                other = with_way(g, component, way)
                if self._plainly_fails(other, lacks) is None:
                    tried += 1
                    answer = self._first_of_ready(other, self.patience_s)
                    if answer.nearly:
                        yield answer

    def _first_of_ready(self, g: Instrument, seconds: float = 4.0) -> Becoming:
        """As it is drawn, of wood that is ready as it lies; where that is too little, of wood that asks for something first too."""
        if self.every != self.surely:
            self.bars = self.every
            try:
                found = self.as_drawn(g, seconds)
            finally:
                self.bars = self.surely
            if found.fits:
                return found
        return self.as_drawn(g, seconds)

    def as_drawn(self, g: Instrument, seconds: float = 4.0) -> Becoming:
        """One instrument by its own ways, but for what is often bought by itself and no piece gives. Where hand's rule fails, the planner itself is asked for so many seconds."""
        ways = {component: way_of(g, component) for component in WAYS if component in ways_for(g)}
        lacks = self.lacking(g)
        without = frozenset(lacks)
        short = self._plainly_fails(g, without)
        if short is not None:
            return Becoming(g, ways, fits=False, fails=short)
        made = self._laid(self.job_of(g, without), seconds)
        if made is None:
            return Becoming(g, ways, fits=False, fails=self._together(g, without))
        pieces: dict[str, list[str]] = {}
        for part, piece in made:
            pieces.setdefault(part, []).append(piece)
        margins = dict(self._margins(g, pieces))
        named = {part: ", ".join(dict.fromkeys(where)) for part, where in pieces.items()}
        fails = next(iter(lacks.values()), None)
        reach = self.largest_scale(g, without)
        return Becoming(g, ways, not lacks, named, margins, fails, reach, lacks=tuple(lacks.values()))

    def _laid(self, job: Job, seconds: float) -> list[tuple[str, str]] | None:
        """(part, piece) of a plan that makes the build and that the verifier takes; None where there is none."""
        try:
            plan = by_hand(job, self.memory, lambda made: bool(made.builds)) or Planner(
                job, seconds=seconds, memory=self.memory
            ).plan(tidy=False)
        except PlanFault:
            return None
        if plan is None or not plan.builds:
            return None
        prefix = f"{job.builds[0].id}."
        return [(p.part.removeprefix(prefix), p.piece) for p in plan.placements if p.leaf == 1]

    def _margins(self, g: Instrument, pieces: Mapping[str, Sequence[str]]) -> Iterator[tuple[str, dict[str, float]]]:
        """What the tightest piece of each part has to spare."""
        sizes = {p.id: sizes_of(p) for p in self.pieces}
        blanks = {blank.part: blank for blank, _ in alike(blanks_of(g, self.kit.allowances))}
        for part, where in pieces.items():
            needed = needed_mm(blanks[part])
            yield part, {name: round(min(sizes[p][k] for p in where) - needed[k], 2) for k, name in enumerate(MEASURES)}

    # failing ------------------------------------------------------------------------------------------------------
    def _plainly_fails(self, g: Instrument, without: frozenset[str] = NOTHING) -> Shortfall | None:
        """The part that no piece gives by its plain sizes, and the one number that fails; the worst of them."""
        worst: tuple[float, Shortfall] | None = None
        for blank, _ in self._blanks(g, without):
            short = self._short_of(blank)
            if short is not None and (worst is None or short.wanted - short.found > worst[0]):
                worst = (short.wanted - short.found, short)
        return worst[1] if worst is not None else None

    def _short_of(self, blank: Blank) -> Shortfall | None:
        needed, wished = needed_mm(blank), {s.lower() for s in blank.species}
        best: tuple[float, Shortfall] | None = None
        refused: Shortfall | None = None
        for piece in self.pieces:
            if wished and piece.species.lower() not in wished:
                continue
            sizes = sizes_of(piece)
            # a part may lie along the grain only, so length is length
            k = min(range(3), key=lambda i: sizes[i] - needed[i])
            room = sizes[k] - needed[k]
            bar = self.bars.get((blank.role, piece.id))
            if room >= -1e-6 and bar is None:
                return None
            if room >= -1e-6 and bar is not None:
                refused = refused or Shortfall(blank.part, bar.code, bar.found, bar.wanted, f"No. {piece.id} {bar.why}")
                continue
            if best is None or room > best[0]:
                best = (room, Shortfall(blank.part, MEASURES[k], round(sizes[k], 2), round(needed[k], 2)))
        if refused is not None:  # the wood is there, and the house does not take it
            return refused
        return best[1] if best is not None else Shortfall(blank.part, "length", 0.0, round(needed[0], 2))

    def _together(self, g: Instrument, without: frozenset[str]) -> Shortfall:
        """Each part fits some piece by its plain sizes, but they do not all fit, for defects or for want of wood: the tightest part, and
        how many of all parts can be laid."""
        rows = self._blanks(g, without)
        tight, _ = min(rows, key=lambda row: max((self._room(p, row[0]) for p in self.pieces), default=-1e9))
        job = self.job_of(g, without)
        needs = job.builds[0].recipes[0].needs
        single = without_builds(job)
        planner = Planner(single, memory=self.memory)
        planner.prepare()
        return Shortfall(
            tight.part,
            "parts laid",
            float(len(greedy_plan(single, planner.sheets, self.memory.first))),
            float(sum(needs.values())),
        )

    @staticmethod
    def _room(piece: Piece, blank: Blank) -> float:
        return min(s - n for s, n in zip(sizes_of(piece), needed_mm(blank)))

    # reach ----------------------------------------------------------------------------------------------------------
    def with_reach(self, answer: Becoming) -> Becoming:
        """An answer with how thick and how wide its body might be: asked for once the answers themselves are there."""
        if not answer.nearly:
            return answer
        g, without = answer.instrument, frozenset(one.part for one in answer.lacks)
        self.bars = (
            self.every if self._is_ready(answer) else self.surely
        )  # an answer of ready wood reaches as far as ready wood does
        try:
            thick, wide = self._thickest_body(g, without), self._widest_body(g, without)
        finally:
            self.bars = self.surely
        return replace(answer, thickest_body_mm=thick, widest_body_mm=wide)

    def _is_ready(self, answer: Becoming) -> bool:
        """Whether nothing must be done first to the wood that an answer takes."""
        roles = {blank.part: blank.role for blank, _ in self._blanks(answer.instrument)}
        return not any((roles.get(part, ""), n) in self.every for part, where in answer.pieces.items() for n in where.split(", "))

    def _thickest_body(self, g: Instrument, without: frozenset[str]) -> float:
        """The thickest body that this wood allows as the rest is drawn, mm to a tenth."""
        return self._reach(g.body.thickness_mm, THICKEST_MM, lambda mm: g.with_figure("body.thickness_mm", round(mm, 2)), without)

    def _widest_body(self, g: Instrument, without: frozenset[str]) -> float:
        """The widest body that this wood allows, its length as it is drawn, mm to a tenth."""
        xs, ys = zip(*g.body.outline)
        long, wide = max(xs) - min(xs), max(ys) - min(ys)
        return self._reach(wide, WIDEST * wide, lambda mm: scaled_body(g, long, mm), without)

    def _reach(self, now: float, most: float, made: Callable[[float], Instrument], without: frozenset[str]) -> float:
        """How far a figure reaches: by plain sizes first, then with every part laid by hand's rule; never less than it is."""
        low, high = now, most
        if self._plainly_fails(made(most), without) is None:
            low = most
        else:
            for _ in range(9):
                mid = (low + high) / 2
                low, high = (mid, high) if self._plainly_fails(made(mid), without) is None else (low, mid)
        for share in (1.0, 0.5):
            value = float(int((now + share * (low - now)) * 10) / 10)
            if value - now > 0.3 and self._all_laid(made(value), without):
                return value
        return round(now, 1)

    # scale --------------------------------------------------------------------------------------------------------
    def largest_scale(self, g: Instrument, without: frozenset[str] = NOTHING) -> float | None:
        """The largest scale that the longest pieces allow, with this head, these frets and ways; found by plain sizes, then laid by
        hand's rule with all other parts. One scale only."""
        low, high = g.scale, 1200.0
        for _ in range(12 if self._scale_fails(g, high, without) is not None else 0):
            mid = (low + high) / 2
            low, high = (mid, high) if self._scale_fails(g, mid, without) is None else (low, mid)
        best, top = g.scale, low if self._scale_fails(g, high, without) is not None else high
        for scale in (best + share * (top - best) for share in (1.0, 0.5, 0.2)):
            if scale - best > 0.5 and self._all_laid(_scaled(g, scale), without):
                return float(int(scale * 10) / 10)
        return float(int(best * 10) / 10)

    def _scale_fails(self, g: Instrument, scale: float, without: frozenset[str]) -> Shortfall | None:
        return self._plainly_fails(_scaled(g, scale), without)

    def _all_laid(self, g: Instrument, without: frozenset[str]) -> bool:
        """Whether hand's rule lays every part of an instrument at once, those that do not grow with its scale too."""
        job = self.job_of(g, without)
        full = sum(max(r.value for r in b.recipes) for b in job.builds)
        for asked in (job, without_builds(job)):
            planner = Planner(job, memory=self.memory)
            planner.prepare()
            if worth_of(job, greedy_plan(asked, planner.sheets, self.memory.first)) >= full - 1e-6:
                return True
        return False


def _scaled(g: Instrument, scale: float) -> Instrument:
    """The instrument with another scale; of two the shorter one in the same ratio."""
    factor = scale / g.scale
    return g.changed(scale_mm=tuple(round(s * factor, 4) for s in g.scale_mm))


def best_first(answers: Sequence[Becoming]) -> list[Becoming]:
    """Answers that fit, then those that lack only what is often bought, then those that fail."""
    return sorted(answers, key=lambda a: (not a.fits, not a.nearly))
