"""What Glue shows: the tree of wood along time, the joint in hand with its gates, and what each of them still wants."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import partial

from grainet.kit.shop_profile import CLAMP_HOURS
from grainet.session.making import BY_EYE, AtTheBench, called, letters_on, moisture_gap, short
from grainet.wood.units import tell_gap
from grainet.work.clamp_plan import is_taped, pressed_with
from grainet.work.operation import Operation
from grainet.work.workpiece import Workpiece

KIT = ("cauls", "spreader", "waxed paper", "wet cloth", "scraper")
SOFT_KIT = ("spreader", "waxed paper", "gloves", "scraper")  # of a glue that water does not wash off
SPREAD_S, CLOSE_S = 20.0, 30.0  # of a joint face spread, and of closing it; the rest of its time are the clamps


@dataclass(frozen=True)
class ClampGroup:
    """A kind of clamp as the shop has it: how many, how many of them are free, and what the others stand on until when."""

    name: str
    opens_mm: float
    force_kn: float
    count: int
    free: int
    on: str = ""
    until: str = ""


@dataclass(frozen=True)
class Strand:
    """One stock workpiece along time: where it comes from, and the joints that it goes through, each with its instant."""

    workpiece: Workpiece
    species: str
    joints: tuple[str, ...]  # ids of the glue-ups, in order


@dataclass(frozen=True)
class JointView:
    """One glue-up on the tree: what it joins, when, until when it is in clamps and when it may be planed; done or not."""

    operation: Operation
    label: str
    members: tuple[str, ...]
    at: datetime
    off: datetime
    flush: datetime
    done: bool
    off_done: bool

    @property
    def id(self) -> str:
        """The glue-up's id."""
        return self.operation.id

    @property
    def gives(self) -> str:
        """What it makes."""
        return self.operation.gives[0]


@dataclass(frozen=True)
class GlueTree:
    """All glue-ups of one instrument and the strands that run through them; when it begins and when it is whole."""

    build: str
    name: str
    strands: tuple[Strand, ...]
    joints: tuple[JointView, ...]
    begins: datetime
    ends: datetime
    meanwhile: tuple[tuple[datetime, str], ...] = ()

    def joint(self, name: str) -> JointView | None:
        """A joint by its id."""
        return next((j for j in self.joints if j.id == name), None)


def tree_of_wood(bench: AtTheBench, build: str, name: str) -> GlueTree:
    """The tree of one instrument from now on, what is done at its own instants."""
    pieces = {w.id: w for w in bench.making.workpieces if w.build == build}
    joints = [_joint(bench, o) for o in bench.making.operations if o.kind == "glue" and o.gives[0] in pieces]
    of = {j.gives: j for j in joints}
    used = {m: j for j in joints for m in j.members}
    order = [p for j in joints if j.gives not in used for p in _stock(j.gives, pieces)]
    order += [w for w in pieces if not pieces[w].members and w not in order]
    strands = []
    for one in order:
        through: list[str] = []
        at = one
        while at in used and len(through) < 100:
            through.append(used[at].id)
            at = used[at].gives
        board = pieces[one].from_
        species = bench.under_way.job.piece(board).species if board else ""
        strands.append(Strand(pieces[one], species, tuple(through)))
    first = min((j.at for j in joints), default=bench.now)
    last = max((max(j.off, j.at) for j in joints), default=bench.now)
    begins = min(first, bench.now) - timedelta(hours=12)
    ends = max(last, bench.now) + timedelta(hours=18)
    assert all(g in pieces for g in of)
    return GlueTree(build, name, tuple(strands), tuple(joints), begins, ends, tuple(_meanwhile(bench, build)))


def _stock(name: str, pieces: dict[str, Workpiece]) -> Iterator[str]:
    """The stock workpieces of one that was joined, in their order."""
    one = pieces.get(name)
    if one is None:
        return
    if not one.members:
        yield name
    for member in one.members:
        yield from _stock(member, pieces)


def _joint(bench: AtTheBench, one: Operation) -> JointView:
    glue, pace = bench.shop.kit.glue, 2 ** ((20 - bench.shop.kit.temperature_c) / 5)
    done = bench.done(one)
    if done:
        row = bench.log.row(one.id)
        assert row is not None
        at = datetime.fromisoformat(row.at).astimezone().replace(tzinfo=None)
        off, flush = bench.clamps_off_at(one), bench.flush_at(one)
    else:
        entry = bench.calendar.get(one.id)
        at = datetime.fromisoformat(entry.starts) if entry is not None else bench.now
        off = at + timedelta(hours=max(glue.handling_h * pace, CLAMP_HOURS[bench.shop.kit.rules.clamp_time]))
        flush = at + timedelta(hours=max(glue.machining_h * pace, 24.0 if glue.water_based else 0.0))
    cure = bench.cure_of(one)
    label = one.text.partition(" with ")[0].removeprefix("Glue ")
    return JointView(one, label, one.works_on, at, off, flush, done, cure is not None and bench.done(cure))


def _meanwhile(bench: AtTheBench, build: str) -> Iterator[tuple[datetime, str]]:
    """What else comes between, at its time: work that needs no clamp, said once for each kind and day."""
    seen: set[tuple[str, str]] = set()
    words = {"slot": "slot", "taper": "taper", "cavity": "rout", "profile": "outline", "drill": "drill", "flatten": "plane", "crosscut": "saw",
             "rip": "saw", "resaw": "saw", "outline": "saw", "thickness": "plane", "bevel": "bevel"}  # fmt: skip
    for one in bench.left:
        entry = bench.calendar.get(one.id)
        if entry is None or one.kind not in words:
            continue
        key = (entry.starts[:10], words[one.kind])
        if key not in seen:
            seen.add(key)
            yield datetime.fromisoformat(entry.starts), words[one.kind]


def clamp_groups(bench: AtTheBench) -> list[ClampGroup]:
    """The shop's clamps by kind, with those that stand on a joint now."""
    busy = bench.busy_clamps
    holds = {name: one for one in bench.in_clamps for name in bench.clamps_on(one)}
    found = []
    for kind in bench.shop.kit.clamps:
        mine = [f"{kind.id}{k + 1}" for k in range(kind.count)]
        taken = [name for name in mine if name in busy]
        mine_on = next((holds[name] for name in taken if name in holds), None)
        on = called(mine_on.gives[0]) if mine_on is not None else "another build" if taken else ""
        until = f"{max(busy[n] for n in taken):%H:%M}" if taken else ""
        found.append(ClampGroup(kind.name, kind.reach_mm, kind.force_kn, kind.count, kind.count - len(taken), on, until))
    return found


# the joint in hand -----------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Gate:
    """One thing that must hold before the glue: its name, whether it does, what it says, and what is typed or pressed for it."""

    name: str
    holds: bool
    text: str
    operation: Operation | None = None


@dataclass(frozen=True)
class InHand:
    """The joint in hand: its gates in order, its clamps, its seconds."""

    joint: JointView
    gates: tuple[Gate, ...]
    spread_s: float
    close_s: float
    clamps_s: float
    open_s: float
    kit: tuple[str, ...]
    letters: tuple[str, ...]
    lacking: tuple[Operation, ...] = field(default=())  # work on its members that is not done yet

    @property
    def left_s(self) -> float:
        """What of the open time is left once the clamps are on."""
        return self.open_s - self.spread_s - self.close_s - self.clamps_s

    @property
    def first_open(self) -> Gate | None:
        """The first gate that does not hold."""
        return next((g for g in self.gates if not g.holds), None)


def in_hand(bench: AtTheBench, joint: JointView, kit: Sequence[str] = (), letters: Sequence[str] = ()) -> InHand:
    """The joint with its gates; ``kit`` is what lies ready, ``letters`` what was typed back."""
    one = joint.operation
    kinds = ("measure", "fit", "dry")
    own = [o for o in bench.making.operations if o.id in _gates_of(bench, one)]
    lacking = tuple(o for o in _before(bench, one) if o.kind not in kinds and not bench.done(o))
    gates = [Gate("prepared", not lacking, _prepared(lacking))]
    for gate in sorted(own, key=lambda o: kinds.index(o.kind)):
        gates.append(Gate(gate.kind, bench.done(gate), _gate_words(bench, gate, one), gate))
    wanted = kit_for(bench, one)
    short = [w for w in wanted if w not in kit]
    gates.append(
        Gate("kit", not short, "all on the bench" if not short else f"{len(wanted) - len(short)} of {len(wanted)} lie ready")
    )
    read = tuple(letters_on(bench.making, one))
    agree = tuple(w.upper() for w in letters) == tuple(w.upper() for w in read)
    gates.append(Gate("letters", agree, "read off the wood" if agree else f"type them: {' '.join(read)}"))
    lines, seconds = max(1, int(one.settings.get("lines", 1))), float(one.settings.get("seconds", 40.0))
    spread = min(seconds, SPREAD_S * lines)
    return InHand(
        joint, tuple(gates), spread, max(0.0, min(CLOSE_S, seconds - spread)) if lines == 1 else seconds - spread, 14.0 * len(one.clamps),
        float(one.settings.get("open_s", 300.0)), wanted, read, lacking,
    )  # fmt: skip


def kit_for(bench: AtTheBench, one: Operation) -> tuple[str, ...]:
    """What must lie ready: the clamps, and what this family of glue asks for."""
    pressed = pressed_with(one)
    usual: tuple[str, ...] = KIT if bench.shop.kit.glue.water_based else SOFT_KIT
    if is_taped(one):
        usual = tuple("flat board" if thing == "cauls" else thing for thing in usual)
    return (*((pressed,) if pressed else ()), *slid_on(bench, one), *usual)


def slid_on(bench: AtTheBench, one: Operation) -> list[str]:
    """Outlines that were slid over the photo of a joined pair which this joint takes: each is drawn on the wood before it."""
    found = []
    for pair in bench.under_way.cut_plan.matched:
        if pair.photo is None or pair.photo.tail_mm is None:
            continue
        leaves = {w.id for w in bench.making.workpieces if pair.part in (w.part, f"{w.build}.{w.part}")}
        joined = {name for o in bench.making.operations if o.kind == "glue" and leaves >= set(o.works_on) for name in o.gives}
        if joined & set(one.works_on):
            found.append(f"outline drawn, its centre line {pair.photo.tail_mm:.1f} from the tail end")
    return found


def _gates_of(bench: AtTheBench, one: Operation) -> set[str]:
    """The moisture, the fit and the dry run of a glue-up."""
    return {
        t.before
        for t in bench.making.rules
        if t.after == one.id and bench.making.operation(t.before).kind in ("measure", "fit", "dry")
    }


def _before(bench: AtTheBench, one: Operation) -> list[Operation]:
    """Everything that a glue-up waits for, as far as it is not done, in order."""
    by = {o.id: o for o in bench.making.operations}
    seen: set[str] = set()
    todo = list(one.needs)
    while todo:
        name = todo.pop()
        if name in seen or bench.done(by[name]):
            continue
        seen.add(name)
        todo += by[name].needs
    return [o for o in bench.making.operations if o.id in seen]


def _prepared(lacking: Sequence[Operation]) -> str:
    if not lacking:
        return "every part of it is ready"
    count = len(lacking)
    what = f"No. {short(lacking[0])}" if lacking[0].works_on == (lacking[0].board,) else short(lacking[0])
    return f"first: {lacking[0].kind} {what}" + (f"; {count} steps in all" if count > 1 else "")


def _gate_words(bench: AtTheBench, gate: Operation, glued: Operation) -> str:
    row = bench.log.row(gate.id)
    told = partial(tell_gap, style=bench.shop.kit.length_style)
    if gate.kind == "measure":
        gap = moisture_gap(bench.shop, bench.under_way, bench.making, glued)
        return (
            ("not read, taken as near" if row is not None else "not read on both")
            if gap is None
            else f"{gap[0]:.1f} points apart"
        )
    if gate.kind == "fit":
        if row is not None:
            if "middle_mm" not in row.figures:
                return BY_EYE
            return f"ends closed, middle {told(row.figures.get('middle_mm', 0.0))}, may be {told(gate.settings.get('middle_mm', 0.0))}"
        most = float(gate.settings.get("middle_mm", 0.0))
        return f"ends 0, middle at most {told(most)}: fit 0 {told(most / 2)}" if most >= 0.005 else "no light anywhere: fit 0 0"
    if is_taped(glued):
        return "tape tried" if row is not None else "tape on and off again, dry"
    return "every clamp tried" if row is not None else "clamps on and off again, dry"


def face_of(one: Operation) -> tuple[float, float]:
    """The glued face of a joint along and across, mm."""
    return float(one.settings.get("long_mm", 400.0)), float(one.settings.get("wide_mm", 40.0))
