"""The glue-ups of an instrument, bottom up along its tree: moisture and fit first, dry run, glue with its clamps, cure, rest, and what is
planed afterwards. A member that the plan does not place is missing, and what needs it waits."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from grainet.design.blank import Blank
from grainet.design.instrument import Instrument
from grainet.design.tree import Joint, Member
from grainet.kit.machine import Work
from grainet.wood.piece import Piece
from grainet.work.bench import Bench
from grainet.work.capacity import Size, able
from grainet.work.clamp_plan import ClampPlan, Joined, Kind, clamp_plan, lines_a_stage, pressure_of, spread_g, taped
from grainet.work.operation import Operation, Said, ShopClamp
from grainet.work.order_rules import DRY, FACE_FIRST, FIT, SKINS, WET
from grainet.work.orientation import half_of, ways_round
from grainet.work.other_ways import CAULS, CLAMPED, TAPED
from grainet.work.preparing import level, to_thickness
from grainet.work.sheet import Sheet
from grainet.work.strip_order import alike_outwards
from grainet.work.workpiece import Freed, Workpiece

COVERS = 0.7  # of a member's own face
KIND_OF: dict[str, Kind] = {"edge": "edge", "face": "face", "stack": "stack", "scarf": "scarf", "insert": "face"}
FLUSH_H = 24.0  # a water-based joint swells; planed flush sooner it sinks. A floor that warmth does not shorten
MOISTURE_WITHIN_PCT, MOISTURE_BLOCKS_PCT = 2.0, 3.0
LEAST_GAP_MM = 0.01
# what keeps members from sliding while the clamps close, all of it outside wood that is seen
SLIP = {
    "edge": "clamp flat first, light, then along the seam", "face": "pins or screws in the waste, clear of slot and outline", "stack": "dowels in the waste, or end stops",
    "scarf": "an end stop: the slope creeps down under pressure", "insert": "its recess holds it; a dry fit shows that it seats",
}  # fmt: skip
SLIP_TAPED = "both halves flat on a waxed board under a weight, once the tape is on"
OILY, TANNIN = "oily", "high_tannin"


@dataclass(frozen=True)
class Made:
    """A member as it is on the bench: its workpieces in order, and its size along, across and thick, mm."""

    names: tuple[str, ...]
    long_mm: float
    wide_mm: float
    thick_mm: float
    woods: frozenset[str] = frozenset()


class Gluing:
    """Writes down the glue-ups of one build."""

    def __init__(
        self, sheet: Sheet, g: Instrument, build: str, freed: Sequence[Freed], bench: Bench, boards: Mapping[str, Piece], clamps: list[ShopClamp],
        chosen: Mapping[str, str] | None = None,
    ) -> None:  # fmt: skip
        self.sheet, self.g, self.build, self.bench, self.boards = sheet, g, build, bench, boards
        self.chosen = chosen or {}  # the way that was chosen for an operation, by its id
        self.freed = {one.workpiece.id: one for one in freed}
        self.clamps = clamps
        self.made: dict[str, Made] = {}  # by member
        self.joined: list[Workpiece] = []
        self.members: dict[str, str] = {}  # workpiece -> member of the tree
        self.missing: list[str] = []
        self.shaped: Callable[[Member, Made], None] = lambda member, made: None  # called once a member is whole
        self.covered: Callable[[Member, Sequence[Made]], list[str]] = lambda member, below: []  # and before it is glued
        self._pool: dict[str, list[Freed]] = {}
        for one in freed:
            self._pool.setdefault(one.workpiece.part.removeprefix(f"{g.id}."), []).append(one)

    def member(self, one: Member) -> Made | None:
        """A member with all below it; None where something is missing."""
        if one.blank is not None:
            found = self._stock(one, one.blank)
        else:
            below = [self.member(m) for m in one.members]
            whole = [m for m in below if m is not None]
            found = None if len(whole) < len(below) or one.joint is None else self._glue(one, one.joint, whole)
        if found is not None:
            self.made[one.name] = found
            self.shaped(one, found)
        return found

    # stock -------------------------------------------------------------------------------------------------------
    def _stock(self, member: Member, blank: Blank) -> Made | None:
        """The workpieces of a stock part, as many as it takes; what is over stays spare."""
        rows = alike_outwards(self._taken(blank, member.count), lambda one: self._species(one.board))
        for one in rows:
            self.members[one.workpiece.id] = member.name
        if len(rows) < member.count:
            self.missing.append(member.name)
            return None
        woods = frozenset(wood for one in rows for wood in (one.placement.piece,))
        names = tuple(one.workpiece.id for one in rows)
        return Made(names, blank.length.finished_mm, blank.width.finished_mm, blank.thickness.finished_mm, woods)

    def _taken(self, blank: Blank, count: int) -> list[Freed]:
        """Of the part by its name; of its mate, where two alike halves are one part; else of its role."""
        for name in (blank.part, blank.mate):
            pool = self._pool.get(name, [])
            if name and pool:
                return [pool.pop(0) for _ in range(min(count, len(pool)))]
        known = {name for name in self._pool if name == blank.part}
        for name, pool in self._pool.items():
            if name not in known and pool and blank.role and pool[0].part.role == blank.role and "." not in name:
                return [pool.pop(0) for _ in range(min(count, len(pool)))]
        return []

    # glue ---------------------------------------------------------------------------------------------------------
    def _glue(self, member: Member, joint: Joint, below: Sequence[Made]) -> Made:
        """One joint, in as many stages as its open time gives."""
        joined = self._shape(joint, below)
        names = [name for made in below for name in made.names]
        woods = frozenset(w for made in below for w in made.woods)
        lines = max(1, len(names) - 1)
        each = lines_a_stage(self.bench.glue, self.bench.pace, self.bench.seconds_a_face)
        covered = self.covered(member, below)
        if joined.kind == "edge":
            self._shoot(names)
        self.sheet.mark_again(names, self.build)  # before they are laid together dry: the letters are read off them
        stages = -(-lines // each)
        taped_shut = stages == 1 and self._pressed(joined, names, woods, whole=True)[0].way == TAPED
        self._gates(member, names, joined, by_fingers=taped_shut)
        done, rest = names[:1], names[1:]
        for stage in range(stages):
            some, rest = rest[:each], rest[each:]
            last = stage == stages - 1
            new = f"{self.build}.{member.name.replace(' ', '_')}" + ("" if last else f"_{stage + 1}")
            self._one(member, joint, joined, [*done, *some], new, woods, (stage + 1, stages))
            done = [new]
        for hollow in covered:
            glued = next(o.id for o in reversed(self.sheet.operations.values()) if o.kind == "glue" and done[0] in o.gives)
            self.sheet.tie(hollow, glued, SKINS)
        made = self._after(member, joint, below, done[0], woods)
        self.members[done[0]] = member.name
        return made

    def _shape(self, joint: Joint, below: Sequence[Made]) -> Joined:
        """The glued face of one line, and what the pressure spreads through."""
        kind = KIND_OF[joint.kind]
        each_mm2 = joint.area_mm2 / max(1, joint.lines)
        if kind == "edge":
            wide, thin, over = (
                min(m.thick_mm for m in below),
                min(m.wide_mm for m in below),
                sum(m.wide_mm * len(m.names) for m in below),
            )
        else:
            wide, thin = min(m.wide_mm for m in below), min(m.thick_mm for m in below)
            over = sum(m.thick_mm * len(m.names) for m in below)
        return Joined(kind, each_mm2 / max(wide, 1e-6), wide, thin, over, max(1, joint.lines))

    def _shoot(self, names: Sequence[str]) -> None:
        """Edges that meet are planed together, at one setting, so that an angle that is off cancels."""
        by = able(self.bench, Work.FACE, (1000.0, 50.0, 50.0))
        done = self.sheet.add("shoot", names, "", machine=by.machine, machine_kind=by.kind, minutes=4.0, cautions=by.cautions, board=self.build, text=f"Shoot the joint edges of {' and '.join(names)} together: an angle that is off then cancels")  # fmt: skip
        for face in (o for name in names for o in self.sheet.of(name, "flatten")[-1:]):
            self.sheet.tie(face.id, done.id, FACE_FIRST)

    def _gates(self, member: Member, names: Sequence[str], joined: Joined, *, by_fingers: bool) -> None:
        """What has to hold before any glue: moistures near each other, a closed fit, a dry run. Tape presses no harder than fingers do."""
        last = self.sheet.last_of(names)
        moist = self.sheet.add(
            "measure", names, f"moisture for {member.name}", needs=last, settings={"what": "moisture", "warns_pct": MOISTURE_WITHIN_PCT, "blocks_pct": MOISTURE_BLOCKS_PCT},
            minutes=2.0, board=self.build, text=f"Moisture of {' and '.join(names)}: within {MOISTURE_WITHIN_PCT:g} points; over {MOISTURE_BLOCKS_PCT:g} they are not glued",
        )  # fmt: skip
        hollow = 0.0 if by_fingers else round(self.bench.hollow_mm * (joined.long_mm / 1000) ** 2, 2)
        middle = (
            "all along under two fingers, and no light between"
            if by_fingers
            else f"at most {self.bench.told_gap(hollow)} open in the middle, closed by hand"
            if hollow >= LEAST_GAP_MM
            else "and no light between"
        )
        fit = self.sheet.add(
            "fit", names, member.name, settings={"ends_mm": 0.0, "middle_mm": hollow}, minutes=4.0, board=self.build,
            text=f"Dry fit for {member.label}: the ends closed, {middle}",
        )  # fmt: skip
        self._checks = (moist.id, fit.id)

    def _one(
        self, member: Member, joint: Joint, joined: Joined, names: Sequence[str], new: str, woods: frozenset[str], stage: tuple[int, int]
    ) -> None:  # fmt: skip
        """One stage: dry run, glue, cure, rest."""
        bench, glue = self.bench, self.bench.glue
        lines = len(names) - 1
        plan, ways = self._pressed(joined, names, woods, whole=stage[1] == 1)
        used = {spot.clamp for spot in plan.spots}
        self.clamps.sort(key=lambda c: c.id in used)  # the next joint takes others alike, so that both may stand at once
        label = member.label + (f", stage {stage[0]} of {stage[1]}" if stage[1] > 1 else "")
        dry = self.sheet.add("dry", names, label, minutes=4.0 + 0.3 * len(plan.spots), board=self.build, text=f"Dry run of {label}: {'drawn shut with tape' if plan.way == TAPED else 'every clamp at its place'}, then off again")  # fmt: skip
        seconds = lines * bench.seconds_a_face
        settings: dict[str, Any] = {
            "joint": joined.kind, "glue": glue.id, "lines": lines, "pressure_mpa": round(plan.pressure_mpa, 2), "force_kn": round(plan.force_kn, 2),
            "long_mm": round(joined.long_mm, 1), "wide_mm": round(joined.wide_mm, 1), "opens_mm": round(plan.opens_mm, 1), "clamps": plan.wanted, "rows": plan.rows, "spread_g": round(spread_g(joined.face_mm2, lines, bench.spread_g_m2), 1),
            "seconds": round(seconds), "open_s": round(60 * glue.open_min * min(1.0, bench.pace)), "letters": list(names),
        }  # fmt: skip
        settings["slip"] = SLIP_TAPED if plan.way == TAPED else SLIP[joint.kind]
        if len(ways) > 1:
            settings |= {"ways": ways, "way": plan.way}
        if round_ways := self._ways(names, joined):
            settings["ways_round"] = round_ways
        if stage[1] > 1:
            settings["stage"] = f"{stage[0]} of {stage[1]}"
        glued = self.sheet.add(
            "glue", names, "", gives=[new], needs=self._checks, settings=settings, minutes=round(3.0 + seconds / 60 + 0.5 * len(plan.spots), 1),
            clamps=plan.spots, cautions=tuple(self._cautions(member, joint, plan, woods)), board=self.build, text=f"Glue {label} with {glue.name.lower()}: {plan.words}",
        )  # fmt: skip
        for before, rule in ((self._checks[0], WET), (self._checks[1], FIT), (dry.id, DRY)):
            self.sheet.tie(before, glued.id, rule)
        self._wait(new, glued, "taped" if plan.way == TAPED else "in its clamps")
        self.joined.append(Workpiece(id=new, build=self.build, member=member.name, members=tuple(names)))

    def _pressed(
        self, joined: Joined, names: Sequence[str], woods: frozenset[str], *, whole: bool
    ) -> tuple[ClampPlan, list[str]]:
        """What presses a joint, by the way that was chosen for it, and the ways that there are; tape only where all of it is closed at once."""
        wanted, bench = self._pressure(joined, woods), self.bench
        found = {CLAMPED: clamp_plan(joined, wanted, self.clamps, bench.caul_mm)}
        if found[CLAMPED].lacks:
            stiff = clamp_plan(joined, wanted, self.clamps, bench.caul_mm, stiff=True)
            if stiff.wanted < found[CLAMPED].wanted:
                found[CAULS] = stiff
        if whole and (tape := taped(joined, bench.tape)) is not None:
            found[TAPED] = tape
        way = self.chosen.get(self.sheet.named("glue", names), CLAMPED)
        return found.get(way, found[CLAMPED]), list(found)

    def _wait(self, new: str, glued: Operation, held: str) -> None:
        """In clamps until it may be handled; then it rests until it may be machined."""
        glue, pace = self.bench.glue, self.bench.pace
        cure_h = max(glue.handling_h * pace, self.bench.clamps_stay_h)
        self.sheet.add("cure", [new], "", settings={"glue": glue.id}, minutes=2.0, wait_minutes=round(60 * cure_h, 1), board=self.build, text=f"{new} {held} for {_hours(cure_h)}, then off")  # fmt: skip
        machine_h = max(glue.machining_h * pace, FLUSH_H if glue.water_based else 0.0, cure_h)
        words = f"{new} rests: nothing is planed flush before {_hours(machine_h)} after the glue"
        self.sheet.glued(new, 60 * (machine_h - cure_h), words)

    def _pressure(self, joined: Joined, woods: frozenset[str]) -> float:
        """By the densest wood of the joint."""
        return max(
            (pressure_of(joined.kind, self._sg(w), self.bench.glue, self.bench.pressure_mpa) for w in woods),
            default=pressure_of(joined.kind, 0.55, self.bench.glue, self.bench.pressure_mpa),
        )

    def _species(self, board: str) -> str:
        piece = self.boards.get(board)
        return piece.species if piece is not None else ""

    def _ways(self, names: Sequence[str], joined: Joined) -> list[str]:
        """Both ways round of two stock parts, the better one first, where their boards' readings tell them apart."""
        if joined.kind == "scarf" or len(names) != 2 or not all(name in self.freed for name in names):
            return []
        some = [self.freed[name] for name in names]
        halves = [half_of(one, self.boards[one.board], joined.long_mm) for one in some]
        first, second = (one.part for one in some)
        matched = first is second or second.id == first.mate
        return [w.words for w in ways_round(halves[0], halves[1], edge=joined.kind == "edge", matched=matched)]

    def _sg(self, board: str) -> float:
        species = self.bench.library.find(self._species(board))
        return species.basic_sg if species is not None else 0.55

    def _cautions(self, member: Member, joint: Joint, plan: ClampPlan, woods: frozenset[str]) -> list[Said]:
        """Too few clamps, oil, tannin, cold, and what the glue's own family asks for."""
        glue, found = self.bench.glue, []
        if plan.lacks:
            text = f"{plan.wanted} clamps that open {self.bench.told(plan.opens_mm, '.0f')} are wanted, {len(plan.spots)} are here: {', '.join(plan.ways)}."
            found.append(Said(code="clamps", grade="B", text=text))
        if self.bench.temperature_c < glue.least_c:
            text = f"{self.bench.temperature_c:g} °C; {glue.name.lower()} needs at least {glue.least_c:g}: warm wood, glue and room first."
            found.append(Said(code="cold", grade="B", text=text))
        flags = {flag for w in woods if (s := self.bench.library.find(self._species(w))) is not None for flag in s.flags}
        if OILY in flags:
            found.append(Said(code="oily", grade="B", text="Oily wood: a fresh face, wiped with solvent in moving air, no flame; glue within the hour, a test joint first."))  # fmt: skip
        if TANNIN in flags and glue.water_based:
            found.append(
                Said(code="tannin", grade="B", text="Tannin: no bare iron on wet glue or wood; paper between clamp and seam.")
            )
        if glue.id == "ca":
            found.append(Said(code="cyanoacrylate", grade="B", text="Its fumes and drips burn; on cotton or wool it can catch fire: gloves that the label names, moving air."))  # fmt: skip
        elif not glue.water_based:
            found.append(
                Said(code="glue_skin", grade="B", text="Keep it off the skin: gloves and moving air as its label names them.")
            )
        return found

    def _after(self, member: Member, joint: Joint, below: Sequence[Made], new: str, woods: frozenset[str]) -> Made:
        """What is planed once it has rested: as many faces as the parts' own sums count, then the size that it has."""
        edge, first = joint.kind == "edge", below[0]
        stacked = not edge and self._covers(joint, below)
        wide = sum(m.wide_mm * len(m.names) for m in below) if edge else max(m.wide_mm for m in below)
        thick = (
            sum(m.thick_mm * len(m.names) for m in below)
            if stacked
            else first.thick_mm
            if not edge
            else max(m.thick_mm for m in below)
        )
        long = max(m.long_mm for m in below)
        faces, deep, own = self._faces(member)
        if faces:
            planed = wide if deep else thick if stacked or edge else own
            self._plane(new, (long, thick if deep else wide, planed + faces * self.g.skim_after_glue_mm), planed, faces)
        return Made((new,), long, wide, thick, woods)

    @staticmethod
    def _covers(joint: Joint, below: Sequence[Made]) -> bool:
        """Whether the glued face is nearly the whole of every member, so that their thicknesses add up; a plate on a head's does not."""
        each = joint.area_mm2 / max(1, joint.lines)
        return joint.kind in ("face", "stack") and all(
            each >= COVERS * m.long_mm * min(m.wide_mm, m.thick_mm + m.wide_mm) for m in below
        )

    def _plane(self, new: str, size: Size, finished_mm: float, faces: int) -> None:
        """One or both faces planed once the glue has rested."""
        skim = self.g.skim_after_glue_mm
        if faces > 1:
            level(self.sheet, self.bench, [new], size, {"face 1": skim}, self.build)
        to_thickness(self.sheet, self.bench, [new], size, finished_mm, skim, self.build)

    def _faces(self, member: Member) -> tuple[int, bool, float]:
        """How many faces its own parts count as planed after gluing; whether those are the strips' edges (a neck's depth); and what that
        part is thick when it is finished."""
        skim = self.g.skim_after_glue_mm
        found = (0, False, 0.0)
        for blank in (one.blank for one in member.members if one.blank is not None and skim > 0):
            for deep, size in ((False, blank.thickness), (True, blank.width)):
                faces = round(sum(t.mm for t in size.counted if t.figure == "skim_after_glue_mm") / skim)
                found = max(found, (faces, deep, size.finished_mm))
        return found


def _hours(hours: float) -> str:
    return f"{60 * hours:.0f} min" if hours < 1.5 else f"{hours:.3g} h"
