"""The making of an accepted plan in the shop: what is done, what may come next, what waits and until when, and how it is ticked."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import cached_property
from itertools import pairwise
from typing import TYPE_CHECKING

from grainet.kept import Kept
from grainet.session.kinds import BENCH
from grainet.session.shop import Shop
from grainet.wood.units import MM_PER_INCH, LengthStyle, tell_gap
from grainet.wood.value import Value
from grainet.work.bench_log import (
    BenchLog,
    DoneRow,
    Moved,
    OtherWay,
    Overridden,
    TakenApart,
    Warmth,
    Whereabouts,
    ends_at,
    instant,
    told,
)
from grainet.work.cut_plan import UnderWay, lost_key
from grainet.work.holds import Held, Hold
from grainet.work.operation import SAWING, Entry, Making, Operation, Tie
from grainet.work.other_ways import TAPED, WAYS

if TYPE_CHECKING:
    from grainet.job.answer import Placement
    from grainet.kit.shop_profile import ShopProfile
    from grainet.wood.piece import Piece
    from grainet.work.bench import Bench
    from grainet.work.steps import Step

_kept: Kept[tuple[object, ...], tuple[tuple[object, ...], Making]] = Kept(12)
CLOSED_MM = 0.005  # an end that is less open is closed
REFUSED_PCT = 3.0
BY_EYE = "no light seen, not measured"  # kept beside a fit that was said to close


def bench_of(kit: ShopProfile) -> Bench:
    """The shop of a profile as making reckons with it."""
    from grainet.kit.shop_profile import CLAMP_HOURS, FREE_DAYS
    from grainet.work.bench import Bench, each_clamp, each_strip

    return Bench(
        machines=kit.machines, clamps=each_clamp(kit.clamps), tape=each_strip(kit.clamps), glue=kit.glue, temperature_c=kit.temperature_c, hands=kit.hands,
        hours=kit.hours, free_days=FREE_DAYS[kit.free_days], paces=kit.paces, library=kit.library, cavities=kit.rules.cavities, pressure_mpa=kit.rules.pressure_mpa or None,
        hollow_mm=kit.rules.hollow_mm, clamps_stay_h=CLAMP_HOURS[kit.rules.clamp_time], seconds_a_face=kit.rules.seconds_a_face, style=kit.length_style, spread_g_m2=kit.rules.spread_g_m2,
    )  # fmt: skip


def making_for(shop: Shop, under_way: UnderWay) -> Making:
    """The operations of a plan with this shop's machines, clamps, glue and warmth; kept while those stay as they are."""
    from grainet.session.mishaps import said_before
    from grainet.session.sawing import no_face
    from grainet.work.making import making_of

    guitars = tuple(g for d in under_way.designs if (g := shop.instruments.find(d)) is not None)
    log = log_of(shop, under_way.id)
    boards = tuple(_as_read_now(shop, p) for p in under_way.job.pieces)
    again = said_before(shop)
    faces = tuple((p.id, why) for p in boards if (why := no_face(shop, p.id)))
    rests_on = (under_way.cut_plan, shop.kit, *guitars, *boards)
    key = (
        under_way.id,
        *map(id, rests_on),
        log.over,
        log.moved,
        log.ways,
        faces,
        again,
    )  # what a key names is kept beside its answer, so that no id is given again
    found = _kept.get(key)
    if found is None:
        made = making_of(
            under_way.job,
            under_way.plan,
            guitars,
            replace(bench_of(shop.kit), again=again, no_face=faces),
            over=log.over,
            moved=log.moved,
            ways=log.ways,
            read={b.id: b for b in boards},
        )
        found = _kept.put(key, (rests_on, made))
    return found[1]


def _as_read_now(shop: Shop, planned: Piece) -> Piece:
    """A plan's board with what was read on it since; as it was planned where it was turned or sized anew meanwhile."""
    here = shop.piece(planned.id) if shop.has_piece(planned.id) else planned
    return here if (here.outline, here.picture_sign) == (planned.outline, planned.picture_sign) else planned


def log_of(shop: Shop, plan_id: str) -> BenchLog:
    """What was done on a plan; an empty one before anything was."""
    return shop.items.find(BENCH, plan_id) or BenchLog(id=plan_id)


@dataclass(frozen=True)
class AtTheBench:
    """A plan's making, what is done of it, and what time it is."""

    shop: Shop
    under_way: UnderWay
    making: Making
    log: BenchLog
    now: datetime  # local, without a zone

    # what is done ---------------------------------------------------------------------------------------------------
    def done(self, one: Operation) -> bool:
        """Whether an operation is done: a cut by the saw's own record."""
        if one.kind in SAWING:
            return one.id in self.under_way.progress.done
        return self.log.row(one.id) is not None

    @cached_property
    def left(self) -> list[Operation]:
        """What is still to do, in order."""
        return [o for o in self.making.operations if not self.done(o)]

    def over_at(self, one: Operation) -> datetime | None:
        """When an operation that is done is over with its waiting, local; None while it is not done, or of a cut, which nothing waits for."""
        row = self.log.row(one.id)
        if row is None:
            return None
        start = instant(row.at)
        if one.kind in ("cure", "rest") and one.wait_minutes and one.by_the_glue:
            start = self._glued_at(one) or start
            return (
                ends_at(start, self._at_20(one), self._warmth, self._now_with_zone, self._floor(one))
                .astimezone()
                .replace(tzinfo=None)
            )
        by_the_clock = (start + timedelta(minutes=one.wait_minutes)).astimezone().replace(tzinfo=None)
        if one.kind != "rest" or not self.log.straight:
            return by_the_clock
        from grainet.session.resting import still_until

        return max(by_the_clock, still_until(self, one) or by_the_clock)

    def waits_until(self, one: Operation) -> datetime | None:
        """Until when an operation waits for others that are done but not over; None where nothing holds it by the clock."""
        ends = [t for n in one.needs if (t := self.over_at(self.making.operation(n))) is not None and t > self.now]
        return max(ends, default=None)

    def lacking(self, one: Operation) -> list[Operation]:
        """What must be done before an operation and is not."""
        return [o for n in one.needs if not self.done(o := self.making.operation(n))]

    @cached_property
    def ready(self) -> list[Operation]:
        """What may be done now, in order."""
        return [o for o in self.left if not self.lacking(o) and self.waits_until(o) is None]

    @property
    def next(self) -> Operation | None:
        """What is done next: the first that may be; else the first that is left."""
        return next(iter(self.ready), next(iter(self.left), None))

    @cached_property
    def calendar(self) -> dict[str, Entry]:
        """When what is left may be done, from now on."""
        from grainet.kit.shop_profile import FREE_DAYS
        from grainet.work.schedule import schedule

        free = FREE_DAYS[self.shop.kit.free_days]
        since = {o.id: t for o in self.making.operations if (t := self.over_at(o)) is not None}
        entries = schedule(
            self.left, self.making.rules, self.now, self.making.hands, self.making.hours, since, self.busy_clamps, free
        )
        return {e.operation: e for e in entries}

    @cached_property
    def busy_clamps(self) -> dict[str, datetime]:
        """Clamps that stand on a joint, of this plan or another, and until when."""
        found: dict[str, datetime] = {}
        for plan in self.shop.plans.all():
            if plan.id != self.under_way.id and log_of(self.shop, plan.id).rows:
                other = at_the_bench(self.shop, plan.id)
                found |= other.own_busy if other is not None else {}
        return found | self.own_busy

    @cached_property
    def own_busy(self) -> dict[str, datetime]:
        """Clamps that stand on a joint of this plan, and until when."""
        return {name: self.clamps_off_at(one) for one in self.in_clamps for name in self.clamps_on(one)}

    @cached_property
    def in_clamps(self) -> tuple[Operation, ...]:
        """Glue-ups that stand in their clamps."""
        glued = (o for o in self.making.operations if o.kind == "glue" and self.done(o))
        return tuple(o for o in glued if (cure := self.cure_of(o)) is not None and not self.done(cure))

    def clamps_on(self, glued: Operation) -> tuple[str, ...]:
        """The clamps of a glue-up that was made: its own, or those that stood in for them."""
        row = self.log.row(glued.id)
        return row.clamps if row is not None and row.clamps else tuple(s.clamp for s in glued.clamps)

    def clamps_for(self, one: Operation) -> tuple[str, ...]:
        """The clamps for a glue-up now: its own, and for each that is busy a free one that opens as far and presses as hard; a busy one stays
        in its place where there is none."""
        busy = {name for name, until in self.busy_clamps.items() if until > self.now}
        every = {c.id: c for c in self.making.clamps}
        own = [s.clamp for s in one.clamps]
        free = [c for c in self.making.clamps if c.id not in busy and c.id not in own]
        found = []
        for name in own:
            mine = every.get(name)
            stands_in = (
                next((c for c in free if (c.opens_mm, c.force_kn) == (mine.opens_mm, mine.force_kn)), None)
                if name in busy and mine is not None
                else None
            )
            if stands_in is not None:
                free.remove(stands_in)
            found.append(stands_in.id if stands_in is not None else name)
        return tuple(found)

    # glue clocks ------------------------------------------------------------------------------------------------------
    def cure_of(self, glued: Operation) -> Operation | None:
        """The cure that a glue-up's clamps stay on for."""
        return next((c for c in self.making.operations if c.kind == "cure" and set(c.works_on) & set(glued.gives)), None)

    def clamps_off_at(self, glued: Operation) -> datetime:
        """When a glue-up that was made may come out of its clamps."""
        row, cure = self.log.row(glued.id), self.cure_of(glued)
        if row is None or cure is None:
            return self.now
        ends = ends_at(instant(row.at), self._at_20(cure), self._warmth, self._now_with_zone, self._floor(cure))
        return ends.astimezone().replace(tzinfo=None)

    def flush_at(self, glued: Operation) -> datetime:
        """When a glue-up that was made may be planed flush."""
        row, glue = self.log.row(glued.id), self.shop.kit.glue
        if row is None:
            return self.now
        floor = 60 * 24.0 if glue.water_based else 0.0
        return (
            ends_at(instant(row.at), 60 * glue.machining_h, self._warmth, self._now_with_zone, floor)
            .astimezone()
            .replace(tzinfo=None)
        )

    def _at_20(self, one: Operation) -> float:
        """The minutes that a wait would take at 20 °C, from the glue on."""
        glue = self.shop.kit.glue
        return 60 * (glue.handling_h if one.kind == "cure" else glue.machining_h)

    def _floor(self, one: Operation) -> float:
        """Minutes that it takes at the least, however warm it is: in clamps what the house keeps to, afterwards a water-based joint's day."""
        if one.kind == "cure":
            from grainet.kit.shop_profile import CLAMP_HOURS

            return 60 * CLAMP_HOURS[self.shop.kit.rules.clamp_time]
        return 60 * 24.0 if one.kind == "rest" and self.shop.kit.glue.water_based else 0.0

    def _glued_at(self, one: Operation) -> datetime | None:
        """When the joint of a workpiece was glued."""
        glued = next((o for o in self.making.operations if o.kind == "glue" and set(o.gives) & set(one.works_on)), None)
        row = self.log.row(glued.id) if glued is not None else None
        return instant(row.at) if row is not None else None

    @property
    def _now_with_zone(self) -> datetime:
        return self.now.astimezone()

    @property
    def _warmth(self) -> tuple[Warmth, ...]:
        """How warm it was, with what the shop says now."""
        here = self.shop.kit.temperature_c
        if not self.log.warmth or self.log.warmth[-1].temperature_c != here:
            first = told(self.now) if self.log.warmth else "1970-01-01T00:00:00+00:00"
            return (*self.log.warmth, Warmth(at=first, temperature_c=here))
        return self.log.warmth

    def _saw_holds(self, one: Operation) -> Iterator[Hold]:
        """What holds a cut at the saw: metal, an old finish, a guessed part, wood that still moves."""
        from grainet.session.sawing import holds

        if (step := _step_of(self, one)) is not None:
            yield from holds(self.shop, self.under_way, one.board, step)

    # workpieces -------------------------------------------------------------------------------------------------------
    @cached_property
    def states(self) -> dict[str, str]:
        """What became of each workpiece, in words: in the board, cut, ready to glue, in clamps, in the body, spare, lost."""
        gives = {name: o for o in self.making.operations for name in o.gives}
        takes = {name: o for o in self.making.operations if o.gives for name in o.works_on}
        names = {p.key: n for p, n in self._placed.items()}
        lost = {
            names[p.key] for p in self.under_way.plan.placements if lost_key(p) in self.under_way.progress.lost and p.key in names
        }
        found = {}
        for one in self.making.workpieces:
            giver, taker = gives.get(one.id), takes.get(one.id)
            if one.id in lost:
                word = "lost"
            elif giver is None or not self.done(giver):
                word = "in the board" if one.from_ else "not joined yet"
            elif taker is not None and self.done(taker):
                word = f"in {called(taker.gives[0])}"
            else:
                word = self._on_the_bench(one.id, giver, taker, joined=bool(one.members))
            where = self.log.where(one.id)
            if where is not None and where.piece:
                word = f"on the rack as {where.piece}"
            elif where is not None and where.place and word in ("cut", "ready to glue", "joined", "spare", "whole"):
                word = f"{word}, on {where.place}"
            found[one.id] = word
        return found

    def _on_the_bench(self, name: str, giver: Operation, taker: Operation | None, *, joined: bool) -> str:
        """Of one that is cut or joined and not used up: what is still done to it."""
        cure = self.cure_of(giver) if giver.kind == "glue" else None
        if cure is not None and not self.done(cure):
            return "in clamps"
        if any(name in o.works_on and o is not taker and o.kind not in ("measure", "fit", "dry") for o in self.left):
            return "joined" if joined else "cut"
        return "ready to glue" if taker is not None else "whole" if joined else "spare"

    @cached_property
    def _placed(self) -> dict[Placement, str]:
        """The workpiece of each placement."""
        from grainet.work.workpiece import freed_of

        return {f.placement: f.workpiece.id for f in freed_of(self.under_way.job, self.under_way.plan)}

    def state_of(self, one: Placement) -> str:
        """What became of a part of the plan, with its letter: "B1 in body"; empty where it is no workpiece."""
        name = self._placed.get(one)
        return f"{called(name)} {self.states.get(name, '')}".strip() if name is not None else ""

    # holds ------------------------------------------------------------------------------------------------------------
    def holds(self, one: Operation) -> Iterator[Hold]:
        """What holds an operation back."""
        for need in self.lacking(one)[:1]:
            yield Hold("order", need.id, f"First: {(words := said(need))[:1].lower()}{words[1:].partition(';')[0]}.")
        if one.kind in SAWING and not self.lacking(one):
            yield from self._saw_holds(one)
        if (until := self.waits_until(one)) is not None:
            from grainet.session.resting import moving_words

            usual = f"It waits until {until:%a %d %b, %H:%M}: what is before it still cures or rests."
            yield Hold("rest", "wait", (self.log.straight and moving_words(self, one)) or usual)
        if (
            one.kind == "glue"
            and (wet := moisture_gap(self.shop, self.under_way, self.making, one)) is not None
            and wet[0] > REFUSED_PCT
        ):
            yield Hold("rest", "dry", f"{wet[1]} read {wet[0]:.1f} points apart: over {REFUSED_PCT:g} they are not glued.")
        busy = {c: t for c in self.clamps_for(one) if (t := self.busy_clamps.get(c)) is not None and t > self.now}
        if busy:
            yield Hold("order", "clamps", f"{len(busy)} of its clamps stand on another joint until {max(busy.values()):%H:%M}.")


def _step_of(bench: AtTheBench, one: Operation) -> Step | None:
    """The saw's own step of a cut."""
    from grainet.session.sawing import board_steps

    return next((s for s in board_steps(bench.shop, bench.under_way, one.board) if s.cut.n == one.cut), None)


def at_the_bench(shop: Shop, plan_id: str) -> AtTheBench | None:
    """A plan at the bench now; None where there is no such plan."""
    under_way = shop.plans.under_way(plan_id)
    if under_way is None:
        return None
    return AtTheBench(shop, under_way, making_for(shop, under_way), log_of(shop, plan_id), shop.clock())


def before_cuts(shop: Shop, under_way: UnderWay, board: str) -> dict[int, str]:
    """What is done to a piece in hand just before each cut of a board, by the cut's number: a face levelled before a resaw, a flaw made firm."""
    making = making_for(shop, under_way)
    found: dict[int, str] = {}
    words: list[str] = []
    for one in (o for o in making.operations if o.board == board):
        if one.cut is not None:
            if words:
                found[one.cut] = "; ".join(words)
            words = []
        elif one.kind not in ("mark", "shelve"):
            words.append(f"first {(text := said(one))[:1].lower()}{text[1:]}")
    return found


def moisture_gap(shop: Shop, under_way: UnderWay, making: Making, one: Operation) -> tuple[float, str] | None:
    """How far the moistures of what is glued lie apart, and which two; None where fewer than two were read. A joined workpiece counts by
    the boards that it came from."""
    by = {w.id: w for w in making.workpieces}
    read: dict[str, float] = {}
    for name in one.works_on:
        todo, values = [name], []
        while todo:
            piece = by[todo.pop()]
            todo += [m for m in piece.members if m in by]
            if piece.from_ and shop.has_piece(piece.from_):
                values += [r.moisture_pct for r in shop.piece(piece.from_).moisture_now]
        if values:
            read[name] = sum(values) / len(values)
    if len(read) < 2:
        return None
    low, high = min(read, key=read.__getitem__), max(read, key=read.__getitem__)
    return read[high] - read[low], f"{low} and {high}"


# undoing ---------------------------------------------------------------------------------------------------------------
def methods_of(bench: AtTheBench, glued: Operation) -> tuple[str, ...]:
    """How a joint may be taken apart; none while another joint holds it or nothing is glued yet."""
    from grainet.work.mends import methods_for

    later = next(
        (o for o in bench.making.operations if o.kind == "glue" and set(o.works_on) & set(glued.gives) and bench.done(o)), None
    )
    if not bench.done(glued) or later is not None:
        return ()
    edge = glued.settings.get("joint") == "edge"
    return tuple(m for m in methods_for(bench.shop.kit.glue.id) if m != "planed off" or not edge)


def take_apart(bench: AtTheBench, glued: Operation, method: str) -> tuple[AtTheBench, str]:
    """Undo a joint on the wood: its members are on the bench again, its gates stand open. Returns what each has lost, in words. Raises Held
    where another joint holds it."""
    if method not in methods_of(bench, glued):
        raise Held(Hold("order", "the later joint", "What it was glued into holds it: take the later joint apart first."))
    cuts = bench.shop.kit.cuts
    lost = cuts.edge_mm + (cuts.kerf_mm.resaw / 2 if method == "sawn" else 0.0)
    gates = {t.before for t in bench.making.rules if t.after == glued.id}
    again = {o.id for o in bench.making.operations if set(o.works_on) & set(glued.gives)} | gates | {glued.id}
    again |= {o.id for o in bench.making.operations if o.kind in ("shoot", "mark") and set(o.works_on) == set(glued.works_on)}
    row = TakenApart(operation=glued.id, method=method, at=told(bench.now), lost_mm=round(lost, 2))
    log = bench.log.changed(rows=tuple(r for r in bench.log.rows if r.operation not in again), apart=(*bench.log.apart, row))
    bench.shop.apply(f"{called(glued.gives[0])} taken apart", log)
    what = "thinner" if glued.settings.get("joint") != "edge" else "narrower"
    names = " and ".join(called(w) for w in glued.works_on)
    if method == "planed off":
        names = called(glued.works_on[0])
    words = f"{names}: {lost:.1f} {what} for it, each with one clean-up" + (" and half the kerf" if method == "sawn" else "")
    return _again(bench), f"{words}. Fit it again; where it is now too small, look for ways out (Ctrl+Shift+R)."


def shelve(bench: AtTheBench, workpiece: str, place: str) -> None:
    """A workpiece lies on a shelf. Raises Held where it is still in its board, or in something else."""
    word = bench.states.get(workpiece, "")
    if not word or word.startswith(("in ", "not ", "on the rack", "lost")):
        raise Held(
            Hold(
                "order",
                "cut it",
                f"{called(workpiece)} is {word or 'no part of this plan'}: only what lies on the bench is shelved.",
            )
        )
    bench.shop.apply(f"{called(workpiece)} on {place}", bench.log.placed(Whereabouts(workpiece=workpiece, place=place)))


def give_back(bench: AtTheBench, workpiece: str) -> str:
    """A part that is cut becomes a piece of the rack again, with its board's readings and marks, at the thickness that is left; its number.
    Where the plan needs it, it counts as lost there. Raises Held."""
    from grainet.job.answer import Offcut
    from grainet.work.returning import offcut_piece
    from grainet.work.workpiece import freed_of

    word = bench.states.get(workpiece, "")
    one = next((f for f in freed_of(bench.under_way.job, bench.under_way.plan) if f.workpiece.id == workpiece), None)
    if one is None or not word.startswith(("cut", "ready", "spare")):
        raise Held(
            Hold(
                "order",
                "cut it",
                f"{called(workpiece)} is {word or 'no part of this plan'}: only a part that is cut and not joined goes back.",
            )
        )
    shop, board = bench.shop, one.board
    off = sum(
        mm
        for o in bench.making.operations
        if workpiece in o.works_on and bench.done(o)
        for side, mm in o.takes_mm.items()
        if side in ("face 1", "face 2", "thickness")
    )
    taken = {p.id for p in shop.pieces(everything=True)}
    number = next(f"{board}.{n}" for n in range(1, 10_000) if f"{board}.{n}" not in taken)
    ring = tuple((float(x), float(y)) for x, y in one.hand.polygon.exterior.coords[:-1])
    left = Offcut(
        id=number, piece=board, polygon=ring, thickness_mm=round(max(0.5, one.depth_mm - off), 2), depth_mm=one.hand.top_mm
    )
    piece = offcut_piece(shop.piece(board), left, number)
    log = bench.log.placed(Whereabouts(workpiece=workpiece, piece=number))
    values: list[Value] = [log, piece]
    if not word.startswith("spare"):
        now = bench.under_way.progress
        values.append(now.changed(lost=tuple(dict.fromkeys((*now.lost, lost_key(one.placement))))))
    shop.apply(f"{called(workpiece)} back on the rack as {number}", *values)
    return number


# ticking -------------------------------------------------------------------------------------------------------------------
def do(
    bench: AtTheBench, one: Operation, *, figures: Mapping[str, float] | None = None, note: str = "", agreed: Sequence[str] = (),
    letters: Sequence[str] = (), by_eye: bool = False,
) -> AtTheBench:  # fmt: skip
    """Mark an operation done, now. A fit ``by_eye`` is said to close where it was not measured, and is kept as that. Raises Held with what it
    waits for: another one, a clock, a caution of grade A that was not agreed to, a fit that is refused, letters that do not agree."""
    if bench.done(one):
        raise Held(Hold("order", "Ctrl+Z", "This is done already; Ctrl+Z takes back what was done last."))
    if one.kind in SAWING:
        return _saw(bench, one, agreed)
    for hold in bench.holds(one):
        raise Held(hold)
    for caution in one.cautions:
        if caution.grade == "A" and caution.code not in agreed:
            raise Held(Hold("caution", "agree to it", f"First agree to the caution: {caution.text}"))
    told_figures = dict(figures or {})
    if one.kind == "fit":
        refuse_open(one, told_figures, by_eye=by_eye, style=bench.shop.kit.length_style)
        note = note or (BY_EYE if len(told_figures) < 2 else "")
    if one.kind == "trial":
        refuse_trial(one, told_figures, bench.shop.kit.length_style)
    if one.kind == "glue":
        compare_letters(bench.making, one, letters)
    clamps = bench.clamps_for(one) if one.kind == "glue" else ()
    stood_in = clamps if clamps != tuple(s.clamp for s in one.clamps) else ()
    row = DoneRow(operation=one.id, at=told(bench.now), figures=told_figures, note=note, agreed=tuple(agreed), clamps=stood_in)
    log = bench.log.with_row(row)
    here = bench.shop.kit.temperature_c
    if not log.warmth or log.warmth[-1].temperature_c != here:
        log = log.changed(warmth=(*log.warmth, Warmth(at=told(bench.now), temperature_c=here)))
    bench.shop.apply(f"{one.kind} done: {short(one)}", log, *_measured(bench, one, told_figures))
    return _again(bench)


def _measured(bench: AtTheBench, one: Operation, figures: Mapping[str, float]) -> list[Value]:
    """The record of what was measured at a step, where something is learnt from it."""
    from grainet.session.learning import at_a_step

    found = at_a_step(bench, one, figures["mm"]) if "mm" in figures else None
    return [found] if found is not None else []


def measure_again(bench: AtTheBench, one: Operation, mm: float) -> None:
    """A figure that was measured at a step that is done is written to it. Raises Held where it is not done."""
    row = bench.log.row(one.id)
    if row is None:
        raise Held(Hold("order", "do it first", "What is not done yet is not measured."))
    log = bench.log.with_row(row.changed(figures={**row.figures, "mm": mm}))
    bench.shop.apply(f"{one.kind}: measured {mm:g}", log, *_measured(bench, one, {"mm": mm}))


def refuse_open(one: Operation, figures: Mapping[str, float], *, by_eye: bool = False, style: LengthStyle = "mm") -> None:
    """A fit with open ends is refused in every school, a middle that is more open than the shop allows too; ``by_eye`` what was not measured
    counts as seen to close. Raises Held."""
    if not by_eye and ("ends_mm" not in figures or "middle_mm" not in figures):
        raise Held(
            Hold(
                "order",
                f"fit 0 {tell_gap(0.05, style)}",
                f"A fit is told as what is open at the ends and in the middle, such as fit 0 {tell_gap(0.05, style)}.",
            )
        )
    if figures.get("ends_mm", 0.0) > CLOSED_MM:
        raise Held(
            Hold(
                "order",
                "shoot",
                f"{tell_gap(figures['ends_mm'], style)} open at an end: it is refused at any width. Shoot the edges again.",
            )
        )
    most = float(one.settings.get("middle_mm", 0.0))
    if _is_over(figures.get("middle_mm", 0.0), most, style):
        raise Held(
            Hold(
                "order",
                "shoot",
                f"{tell_gap(figures['middle_mm'], style)} open in the middle, at most {tell_gap(most, style)}: shoot the edges again.",
            )
        )


def _is_over(mm: float, most: float, style: LengthStyle) -> bool:
    """Whether a gap is over its limit; in inches by what a gauge of thousandths tells, so that what is told to be allowed is."""
    return mm > most + (1e-9 if style == "mm" else MM_PER_INCH / 2000)


def refuse_trial(one: Operation, figures: Mapping[str, float], style: LengthStyle = "mm") -> None:
    """A trial cut holds its slot closed until it is within its limit. Raises Held."""
    most = float(one.settings.get("within_mm", 0.1))
    if "mm" not in figures:
        raise Held(
            Hold(
                "order",
                "trial 0.05",
                "How far off is the trial cut? Measure it: the slot stays closed until it is within its limit.",
            )
        )
    if _is_over(figures["mm"], most, style):
        raise Held(
            Hold(
                "order",
                "trial",
                f"{tell_gap(figures['mm'], style)} off, at most {tell_gap(most, style)}: set the fence again and cut another trial.",
            )
        )


def compare_letters(making: Making, one: Operation, letters: Sequence[str]) -> None:
    """The letters that were read off the wood against those that are to be glued. Raises Held."""
    wanted = letters_on(making, one)
    typed = [word.upper() for word in letters]
    if typed != [w.upper() for w in wanted]:
        stray = next((a for a, b in zip(typed, wanted) if a != b.upper()), "")
        what = f"{stray} is not {wanted[typed.index(stray)]}" if stray else f"{' '.join(wanted)} are glued"
        raise Held(Hold("order", " ".join(wanted), f"Read the letters off the wood, in order: {what}. Still dry."))


def letter_of(name: str) -> str:
    """What stands on a workpiece: its id without the build."""
    return name.rpartition(".")[2] if "." in name else name


def letters_on(making: Making, one: Operation) -> list[str]:
    """What is read off the wood of what an operation works on: of a joined piece the letter of its first part."""
    by = {w.id: w for w in making.workpieces}
    found = []
    for name in one.works_on:
        at = name
        while at in by and by[at].members:
            at = by[at].members[0]
        found.append(letter_of(at))
    return found


def called(name: str) -> str:
    """A workpiece in words: B1; of a joined one what it is: neck with its head; a piece in hand by its whole number: 42.3."""
    tail = letter_of(name)
    return name if tail.isdecimal() else tail.replace("_", " ")


def said(one: Operation) -> str:
    """An operation's sentence as it is read at the bench: workpieces by their letters, without the build."""
    text = one.text
    for name in (*one.works_on, *one.gives):
        text = text.replace(name, called(name))
    return f"{called(one.works_on[0])}: {text[:1].lower()}{text[1:]}" if one.kind in SAWING else text


def short(one: Operation) -> str:
    """What an operation works on, by its letters."""
    return ", ".join(called(name) for name in one.works_on)


def override(bench: AtTheBench, tie: Tie, why: str) -> AtTheBench:
    """Set a rule aside between two operations, with a reason that stays. Raises Held where none is given."""
    if len(why.strip()) < 3:
        raise Held(
            Hold("order", "over ...", "A rule is set aside with a reason: over the slot runs in a jig with its own fence.")
        )
    row = Overridden(before=tie.before, after=tie.after, rule=tie.rule, why=why.strip())
    kept = tuple(o for o in bench.log.over if (o.before, o.after, o.rule) != (row.before, row.after, row.rule))
    bench.shop.apply(f"{tie.rule}: set aside", bench.log.changed(over=(*kept, row)))
    return _again(bench)


def choose_way(bench: AtTheBench, one: Operation, way: str) -> AtTheBench:
    """Do an operation that no machine takes in another legal way; the steps are written anew. Raises Held where it is done, or has no such
    way."""
    if bench.done(one):
        raise Held(Hold("order", "Ctrl+Z", "This is done already; Ctrl+Z takes back what was done last."))
    ways = one.settings.get("ways", ())
    if way not in ways:
        raise Held(
            Hold(
                "order",
                "way",
                f"“{way}” is no way here; needs {' or '.join(ways)}." if ways else "Its machine takes it as it is.",
            )
        )
    if way == TAPED:
        _refuse_tape(bench, one)
    kept = tuple(w for w in bench.log.ways if w.operation != one.id)
    bench.shop.apply(f"{short(one)}: {WAYS[way]}", bench.log.changed(ways=(*kept, OtherWay(operation=one.id, way=way))))
    return _again(bench)


def _refuse_tape(bench: AtTheBench, one: Operation) -> None:
    """Tape closes what two fingers close: a fit that was open in the middle is fitted again first. Raises Held."""
    for fit in (bench.making.operation(n) for n in one.needs if bench.making.operation(n).kind == "fit"):
        row = bench.log.row(fit.id)
        if row is not None and (open_mm := row.figures.get("middle_mm", 0.0)) > CLOSED_MM:
            text = f"Its fit was {tell_gap(open_mm, bench.shop.kit.length_style)} open in the middle, and tape closes only what two fingers close: shoot it and fit it again, or clamp it."
            raise Held(Hold("order", "shoot", text))


@dataclass(frozen=True)
class WhyNot:
    """Why an operation cannot come before another: the rule between two that stand on the way, or none where the later one works on what the
    earlier one leaves."""

    tie: Tie | None
    text: str


def why_not_before(bench: AtTheBench, later: Operation, first: Operation) -> WhyNot | None:
    """Why ``later`` cannot come before ``first``; None where it can."""
    from grainet.work.order_rules import RULES
    from grainet.work.sequence import path_between

    path = path_between(bench.making.operations, bench.making.rules, first.id, later.id)
    if path is None:
        return None
    for before, after in pairwise(path):
        tie = next((t for t in bench.making.rules if (t.before, t.after) == (before, after) and t.blocks and not t.over), None)
        if tie is not None:
            return WhyNot(tie, f"{tie.rule[:1].upper()}{tie.rule[1:]}. {RULES[tie.rule].why}")
    return WhyNot(None, f"{later.kind.capitalize()} {short(later)} works on what {first.kind} {short(first)} leaves.")


def put_before(bench: AtTheBench, later: Operation, first: Operation) -> AtTheBench:
    """Put an operation before another one. Raises Held with the rule that forbids it."""
    if (why := why_not_before(bench, later, first)) is not None:
        raise Held(Hold("order", why.tie.rule if why.tie is not None else first.id, why.text))
    kept = tuple(m for m in bench.log.moved if {m.before, m.after} != {later.id, first.id})
    bench.shop.apply(
        f"{later.kind} put before {first.kind}", bench.log.changed(moved=(*kept, Moved(before=later.id, after=first.id)))
    )
    return _again(bench)


def bind_again(bench: AtTheBench, tie: Tie) -> AtTheBench:
    """Let a rule bind again that was set aside."""
    kept = tuple(o for o in bench.log.over if (o.before, o.after, o.rule) != (tie.before, tie.after, tie.rule))
    bench.shop.apply(f"{tie.rule}: binds again", bench.log.changed(over=kept))
    return _again(bench)


def _again(bench: AtTheBench) -> AtTheBench:
    found = at_the_bench(bench.shop, bench.under_way.id)
    assert found is not None
    return found


def _saw(bench: AtTheBench, one: Operation, agreed: Sequence[str]) -> AtTheBench:
    """A cut is ticked as the saw's screen ticks it, with the same holds."""
    from grainet.session.sawing import tick

    step = _step_of(bench, one)
    assert step is not None
    tick(bench.shop, bench.under_way, one.board, step, agreed=bool(agreed))
    return _again(bench)
