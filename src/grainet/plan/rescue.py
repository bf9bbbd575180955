"""A part that a piece does not give: what would make it fit, each way tried by the planner's own test, with its price in seams, days and wood.

A way is a changed job; its JSON Patch, applied to the job, makes the planner place the part.
"""

from __future__ import annotations

import json
import time
from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from grainet.design.allowances import Allowances
from grainet.design.blanks import blanks_of
from grainet.design.clip import area_mm2, clipped, moved
from grainet.design.instrument import Instrument
from grainet.design.mend import PLACING, Mend, MendKind
from grainet.design.mends import laid_freely, with_mend
from grainet.design.part import Part, Zone
from grainet.design.parts import design_of, drawable
from grainet.design.recipe import Build
from grainet.design.role import FACTS, role_of
from grainet.design.ways import way_of, ways_for, with_way
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact
from grainet.fit.field import Layers
from grainet.fit.orientation import orientations_of
from grainet.job.answer import Plan
from grainet.job.job import Exclusion, Job
from grainet.plan.become import wished_elsewhere
from grainet.plan.by_hand import by_hand
from grainet.plan.places import candidates_for
from grainet.plan.planner import PlanFault, Planner, PlannerCache
from grainet.plan.rescuing import Rescue, Rescued
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry

LEAST_BODY_MM = 32.0  # a body thinned further is another instrument
STRIP_MM, LAYER_MM = 10.0, 3.0  # the least centre strip and the least layer that are worth sawing
SHORTEST_SCALE = 0.9  # of the drawn one


@dataclass(frozen=True)
class Try:
    """A changed job that may help, and its price."""

    kind: str
    job: Job
    part: str
    seams: int = 0
    days: int = 0
    visible: bool = False
    keeps_drawing: bool = True
    on_piece: bool = True
    guitar: Instrument | None = None


class Rescuer:
    """Looks for ways out for one part on one piece of a job."""

    def __init__(
        self, job: Job, part: str, piece: str, guitars: Sequence[Instrument] = (), seconds: float = 20.0, *, alone: bool = False
    ) -> None:
        """``alone``: the part, and what a way out adds to it, is all that must be made; other parts of the job take no wood from it."""
        self.given, self.alone = frozenset(_unlettered(p) for p in job.parts if p.id != part), alone
        self.whole = job
        self.job, self.part, self.piece = self._narrowed(job), job.part(part), job.piece(piece)
        self.guitar = next((g for g in guitars if part.startswith(f"{g.id}.")), None)
        self.memory = PlannerCache()
        self.ends = time.monotonic() + seconds
        blanks = blanks_of(self.guitar, Allowances()) if self.guitar is not None else []
        self._mates = frozenset(f"{part.partition('.')[0]}.{b.mate}" for b in blanks if b.part == self._blank and b.mate)
        self.short = self._shortage()
        self.without: dict[str, None] = {}
        self.complete = True

    # what is missing ----------------------------------------------------------------------------------------------
    def _shortage(self) -> tuple[str, float] | None:
        """The measure that is short on the piece and by how much; None where the part fits, or only a defect is in the way."""
        sheet = BoardGeometry(self.piece, self.job.kit)
        found = [Exact(sheet, one).size_trouble() for one in orientations_of(self.part)]
        if any(misfit is None for misfit in found):
            return None
        least = min((m for m in found if m is not None), key=lambda m: m.short_mm or 0.0)
        return least.rule, float(least.short_mm or 0.0)

    @property
    def fits(self) -> bool:
        """Whether the piece gives the part as it is, so that nothing needs a way out."""
        return (
            self.short is None
            and self._spare(self.part, self.piece) is not None
            and self._planned(self.job, self.part.id) is not None
        )

    def rescue(self) -> Rescued:
        """Every way out that holds, best first."""
        return self.answer(list(self.ways()))

    def ways(self) -> Iterator[Rescue]:
        """The ways out as they are found, one of each kind; what the time does not reach is not tried, and not said to be."""
        kinds: set[str] = set()
        for one in self._tries():
            if one.kind in kinds:
                continue
            if time.monotonic() >= self.ends:
                self.complete = False
                return
            made = self._made(one)
            if made is None:
                self.without[one.kind] = None
            else:
                kinds.add(one.kind)
                yield made

    def answer(self, ways: Sequence[Rescue]) -> Rescued:
        """The whole answer once the ways were found."""
        what, short = self.short or ("", None)
        kinds = {way.kind for way in ways}
        best_first = tuple(sorted(ways, key=lambda w: w.price))
        without = tuple(kind for kind in self.without if kind not in kinds)
        return Rescued(self.part.id, self.piece.id, short, what, best_first, without, self.complete)

    def _made(self, one: Try) -> Rescue | None:
        """A try that holds: the part lies on the piece by the exact test, and the planner makes the changed job."""
        part = one.job.part(one.part)
        spare = self._spare(part, self.piece) if one.on_piece else 0.0
        if spare is None:
            return None
        plan = self._planned(one.job, one.part, {p.id for p in one.job.parts} - {p.id for p in self.job.parts})
        placed = [p for p in plan.placements if p.part == one.part] if plan is not None else []
        if plan is None or not placed:
            return None
        old = {p.id for p in self.job.parts}
        wood = [
            (p.piece, _length(p.polygon))
            for p in plan.placements
            if p.part not in old or (not one.on_piece and p.part == one.part)
        ]
        margin = spare if one.on_piece else min(p.spare_mm for p in placed)
        change = tuple(patch_between(self.job, one.job))
        return Rescue(
            one.kind,
            change,
            one.seams,
            one.days,
            tuple(dict(wood).items()),
            round(margin, 2),
            one.visible,
            one.keeps_drawing,
            one.guitar,
        )

    def _spare(self, part: Part, piece: Piece) -> float | None:
        """Thickness to spare at the best place of a part on a piece, mm; None where there is none."""
        sheet = BoardGeometry(piece, self.job.kit)
        found, _ = candidates_for(Layers(sheet, guard=0.0), part, (), 24)
        return max((c.seat.spare_mm for c in found), default=None)

    def _planned(self, job: Job, part: str, more: Collection[str] = ()) -> Plan | None:
        """A plan that places the part and what was cut from it, by hand's rule or by the planner itself for a moment."""

        needs = [o.needs[part] for o in job.builds[0].options if part in o.needs] if self.alone and job.builds else []
        wanted = needs[-1] if needs else 1

        def serves(plan: Plan) -> bool:
            laid = Counter(p.part for p in plan.placements if p.leaf == 1)
            return laid[part] >= wanted and all(laid[one] > 0 for one in more)

        try:
            left = max(0.3, min(0.8 if self.alone else 1.5, self.ends - time.monotonic()))
            plan = by_hand(job, self.memory, serves) or Planner(job, seconds=left, memory=self.memory).plan()
            return plan if serves(plan) else None
        except PlanFault:
            return None

    # tries --------------------------------------------------------------------------------------------------------
    def _tries(self) -> Iterator[Try]:
        """Ways in the order in which they change least."""
        part = self.part
        for kind in PLACING:
            if laid_freely(part, [self._mend(kind)]) == part:
                continue  # it may lie so already
            yield from self._mended(kind, (), self._with_parts({part.id: (laid_freely(part, [self._mend(kind)]),)}))
        yield from self._ripped()
        yield Try("another piece", self.job, part.id, on_piece=False)
        yield from self._wider()
        yield from self._let_in()
        yield from self._thicker()
        if self.guitar is not None:
            yield from self._redrawn(self.guitar)

    @property
    def _blank(self) -> str:
        """The part as its instrument names it."""
        return self.part.id.removeprefix(f"{self.guitar.id}.") if self.guitar is not None else self.part.id

    def _mend(self, kind: MendKind, *at_mm: float) -> Mend:
        return Mend(part=self._blank[:80], kind=kind, at_mm=tuple(round(mm, 2) for mm in at_mm))

    def _mended(self, kind: MendKind, at_mm: Sequence[float], job: Job, seams: int = 0) -> Iterator[Try]:
        """A mend of the part: of an instrument as its blanks then are, with what gluing takes; else of the job's part alone."""
        if self.guitar is not None:
            g = with_mend(self.guitar, self._mend(kind, *at_mm))
            wood = {"body": ("body.species", g.body.species), "cap": ("body.cap_species", g.body.cap_species)}
            figure, wished = wood.get(self._blank.partition(".")[0], ("", ()))
            if seams and figure and not wished:  # pieces that are joined had better be of one wood
                yield from self._as_drawn(kind, g.with_figure(figure, [self.piece.species]), seams)
            yield from self._as_drawn(kind, g, seams)
        else:
            yield Try(kind, job, self.part.id, seams, 1 if seams else 0, bool(seams))

    def _wider(self) -> Iterator[Try]:
        """For a part that is too wide: a strip at its joint, or a third piece."""
        ring, (x0, y0) = moved(self.part.outline)
        high = max(y for _, y in ring)
        short = self.short[1] if self.short and self.short[0] == "width" else 0.0
        if high <= 3 * STRIP_MM:
            return
        strip = max(STRIP_MM, short + 1.0)
        kinds: tuple[tuple[MendKind, float], ...] = (
            ("centre strip", strip), ("centre strip", strip + self._mate_wider(high)), ("third piece", high / 2),
        )  # fmt: skip
        for kind, cut in kinds:
            if cut >= high - STRIP_MM:
                continue
            upper, lower = clipped(ring, 1, cut, above=True), clipped(ring, 1, cut, above=False)
            if min(abs(area_mm2(upper)), abs(area_mm2(lower))) < 1.0:
                continue
            main = self._cut(self.part.id, upper, (x0, y0))
            extra = self._cut(f"{self.part.id}.{'strip' if kind == 'centre strip' else 'third'}", lower, (x0, y0))
            yield from self._mended(kind, (cut,), self._with_parts({main.id: (main, extra)}), 1 if kind == "third piece" else 2)

    def _mate_wider(self, high: float) -> float:
        """By how much the other half is wider: a strip serves both or none."""
        mates = [p for p in self.whole.parts if p.id in self._mates]
        return max((max(y for _, y in p.outline) - high for p in mates), default=0.0)

    def _ripped(self) -> Iterator[Try]:
        """For a part that flattening makes too thin: two rips lose a quarter of the cup and half of the rocking each; a joint makes one of them."""
        ring, origin = moved(self.part.outline)
        high = max(y for _, y in ring)
        if self.short is None or self.short[0] != "thickness" or high <= 2 * STRIP_MM or self.part.leaves != 1:
            return
        one = self._cut(self.part.id, clipped(ring, 1, high / 2, above=True), origin)
        other = self._cut(f"{self.part.id}.rip", clipped(ring, 1, high / 2, above=False), origin)
        yield from self._mended("shorten or rip before flattening", (high / 2,), self._with_parts({one.id: (one, other)}), 1)

    def _let_in(self) -> Iterator[Try]:
        """A strip let in along the part, where a defect lies or where the width is short: the rest of it is sawn from the piece."""
        ring, origin = moved(self.part.outline)
        high = max(y for _, y in ring)
        if self.short is not None and self.short[0] != "width":
            return
        strip = max(STRIP_MM, self.short[1] + 1.0 if self.short else 0.0)
        for wide in (strip, 2.5 * strip):
            for share in (0.5, 0.25, 0.75):
                low = round(high * share - wide / 2, 1)
                if min(low, high - low - wide) < STRIP_MM:
                    continue
                below = clipped(ring, 1, low, above=False)
                above = clipped(ring, 1, low + wide, above=True)
                middle = clipped(clipped(ring, 1, low, above=True), 1, low + wide, above=False)
                names = (self.part.id, f"{self.part.id}.other", f"{self.part.id}.insert")
                made = tuple(self._cut(name, r, origin) for name, r in zip(names, (above, below, middle), strict=True))
                yield from self._mended("split and insert", (low, low + wide), self._with_parts({self.part.id: made}), 2)

    def _cut(self, number: str, ring: Any, origin: tuple[float, float]) -> Part:
        """One piece of the part, its zones with it where they lie on it."""
        outline, (dx, dy) = moved(ring)
        zones = tuple(
            z for z in (self._zone(zone, outline, (dx + origin[0], dy + origin[1])) for zone in self.part.zones) if z is not None
        )
        return self.part.changed(id=number, outline=outline, zones=zones, pin=None)

    @staticmethod
    def _zone(zone: Zone, outline: Any, origin: tuple[float, float]) -> Zone | None:
        if zone.polygon == "rest":
            return zone
        ring = tuple((x - origin[0], y - origin[1]) for x, y in zone.polygon)
        xs, ys = zip(*outline)
        for axis, at, above in ((0, min(xs), True), (0, max(xs), False), (1, min(ys), True), (1, max(ys), False)):
            ring = clipped(ring, axis, at, above=above)
            if len(ring) < 3:
                return None
        return zone.changed(polygon=ring) if abs(area_mm2(ring)) >= 1.0 else None

    def _thicker(self) -> Iterator[Try]:
        """For a part that is too thick: a layer or skins make it up; a body may be thinner."""
        part, role = self.part, role_of(self.part.role)
        short = self.short[1] if self.short and self.short[0] == "thickness" else 0.0
        if short <= 0:
            return
        made_up = max(LAYER_MM, short + 0.5)
        glue = 0.6
        left = part.thickness_mm - made_up
        if left >= LAYER_MM and part.leaves == 1:
            main = part.changed(thickness_mm=left)
            layer = part.changed(id=f"{part.id}.layer", thickness_mm=made_up + 2 * glue, zones=(), pin=None)
            yield from self._mended("extra layer", (made_up,), self._with_parts({part.id: (main, layer)}), 1)
            skin = part.changed(id=f"{part.id}.skin", thickness_mm=max(LAYER_MM, made_up / 2) + 2 * glue, zones=(), pin=None)
            thinner = part.changed(thickness_mm=part.thickness_mm - 2 * max(LAYER_MM, made_up / 2))
            if thinner.thickness_mm >= LAYER_MM:
                skinned = self._with_parts({part.id: (thinner, skin)}, twice=skin.id)
                yield from self._mended("skins", (max(LAYER_MM, made_up / 2),), skinned, 2)
        least = round(part.thickness_mm - short - 0.05, 1)
        if role is not None and FACTS[role].group == "body" and least >= LEAST_BODY_MM:
            if self.guitar is not None:
                body = float(int((self.guitar.body.thickness_mm - short) * 10)) / 10
                yield from self._as_drawn("thinner body", self.guitar.with_figure("body.thickness_mm", body), 0, keeps=False)
            else:
                thin = self._with_parts({part.id: (part.changed(thickness_mm=least),)})
                yield Try("thinner body", thin, part.id, keeps_drawing=False)

    def _redrawn(self, g: Instrument) -> Iterator[Try]:
        """Other ways of the instrument, and a shorter scale."""
        component = self.part.id.removeprefix(f"{g.id}.").split(".")[0]
        named = {"ears": ("neck", "ears"), "core and wings": ("body", "wings")}
        for kind, (which, way) in named.items():
            if component == which and way in ways_for(g).get(which, ()) and way_of(g, which) != way:
                yield from self._as_drawn(kind, with_way(g, which, way), 2)
        if component == "neck":
            for route in ways_for(g)["head"]:
                if route != g.head.route:
                    yield from self._as_drawn(
                        "other head route", with_way(g, "head", route), 0 if route in ("flat", "solid") else 1
                    )
        if component in ("neck", "fretboard"):
            short = self.short[1] if self.short and self.short[0] == "length" else 0.0
            for share in (1 - (short / 0.6 + 2) / g.scale, 0.97, 0.94, SHORTEST_SCALE):
                if SHORTEST_SCALE <= share < 1:
                    shorter = g.changed(scale_mm=tuple(float(int(s * share)) for s in g.scale_mm))
                    yield from self._as_drawn("shorter scale", shorter, 0, keeps=False)

    def _as_drawn(self, kind: str, g: Instrument, seams: int, *, keeps: bool = True) -> Iterator[Try]:
        try:
            design = design_of(drawable(g))
        except BadEntry:
            return  # its other figures do not go together then
        prefix = f"{g.id}."
        rest = tuple(p for p in self.job.parts if not p.id.startswith(prefix))
        builds = tuple(b if b.id != g.id else Build(id=b.id, recipes=(design.recipes[-1],)) for b in self.job.builds)
        barred = self._barred((*rest, *design.parts))
        job = self._narrowed(self.job.changed(parts=(*rest, *design.parts), builds=builds, barred=barred))
        same = [p.id for p in design.parts if p.id == self.part.id]
        if same:
            yield Try(kind, job, same[0], seams, 1 if seams else 0, bool(seams), keeps, guitar=g)

    def _barred(self, parts: Sequence[Part]) -> tuple[Exclusion, ...]:
        """What changed parts may not come from: wood that they are not wished in, and what the job bars for a part of their role."""
        wished = wished_elsewhere(parts, self.job.pieces)
        said = {(bar.part, bar.piece) for bar in wished}
        roles = {p.id: p.role for p in self.whole.parts}
        house = [(roles.get(bar.part, ""), bar) for bar in self.whole.barred if bar.code != "species"]
        more = {
            (part.id, bar.piece): bar.changed(part=part.id)
            for part in parts
            for role, bar in house
            if role == part.role and (part.id, bar.piece) not in said
        }
        return (*wished, *more.values())

    def _narrowed(self, job: Job) -> Job:
        """The job with what must be made: all of it, or the part with what is new beside it."""
        if not self.alone:
            return job
        parts = tuple(p for p in job.parts if _unlettered(p) not in self.given)
        kept = {p.id for p in parts}
        narrow = (b.remade(lambda needs: {k: n for k, n in needs.items() if k in kept}) for b in job.builds)
        barred = tuple(b for b in job.barred if b.part in kept)
        return job.changed(parts=parts, builds=tuple(b for b in narrow if b is not None), barred=barred)

    def _with_parts(self, changed: dict[str, tuple[Part, ...]], twice: str = "") -> Job:
        """The job with parts in the place of one: each is wanted as often as that was, ``twice`` twice as often."""
        parts: list[Part] = []
        for part in self.job.parts:
            parts += changed.get(part.id, (part,))

        def needs_of(before: dict[str, int]) -> dict[str, int]:
            needs = dict(before)
            for old, new in changed.items():
                if old in before:
                    needs |= {p.id: before[old] * (2 if p.id == twice else 1) for p in new}
            return needs

        builds = tuple(b.remade(needs_of) or b for b in self.job.builds)
        return self.job.changed(parts=tuple(parts), builds=builds)


def _unlettered(part: Part) -> Part:
    """A part without its letter, which goes by its place in the list."""
    return part.changed(letter="")


def _length(ring: Any) -> float:
    xs = [x for x, _ in ring]
    return round(float(max(xs) - min(xs)), 1)


def patch_between(old: Job, new: Job) -> Iterator[dict[str, Any]]:
    """JSON Patch operations that make one job of another: parts that changed, parts that were added, builds."""
    before, after = (json.loads(j.model_dump_json(exclude_defaults=True, by_alias=True)) for j in (old, new))
    for name in ("parts", "builds", "x-barred"):
        a, b = before.get(name, []), after.get(name, [])
        if a == b:
            continue
        if (
            name == "parts"
            and len(b) >= len(a)
            and [p["id"] for p in b if p["id"] in {q["id"] for q in a}] == [p["id"] for p in a]
        ):
            by = {p["id"]: p for p in b}
            yield from (
                {"op": "replace", "path": f"/parts/{k}", "value": by[p["id"]]} for k, p in enumerate(a) if by[p["id"]] != p
            )
            yield from ({"op": "add", "path": "/parts/-", "value": p} for p in b if p["id"] not in {q["id"] for q in a})
        elif name in before:
            yield {"op": "replace", "path": f"/{name}", "value": b}
        else:
            yield {"op": "add", "path": f"/{name}", "value": b}
