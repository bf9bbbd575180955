"""The saw's operations: every cut of a plan, board by board, with the workpieces that come free, and what goes back on the shelf."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from grainet.job.answer import Cut, Plan
from grainet.job.job import Job
from grainet.kit.machine import Machine
from grainet.work.bench import Bench
from grainet.work.mending import make_firm, mend_in_the_board
from grainet.work.operation import Kind, Said
from grainet.work.operation_name import names_of
from grainet.work.order_rules import SHORTEN
from grainet.work.preparing import level
from grainet.work.sheet import Sheet
from grainet.work.step_cautions import READY
from grainet.work.steps import Step, steps_for
from grainet.work.steps import Workpiece as InHand
from grainet.work.workpiece import Freed

KIND_OF: dict[str, str] = {"crosscut": "mitre saw", "rip": "table saw", "resaw": "band saw", "outline": "band saw"}
MINUTES: dict[str, float] = {"crosscut": 3.0, "rip": 4.0, "resaw": 8.0, "outline": 6.0}
SETTING: dict[str, str] = {"crosscut": "stop_mm", "rip": "fence_mm", "resaw": "fence_mm"}
LONG_MM = 500.0  # from which a cut takes longer than its usual minutes


def saw_boards(sheet: Sheet, job: Job, plan: Plan, freed: Sequence[Freed], bench: Bench) -> None:
    """Write down every board's sawing."""
    boards = list(dict.fromkeys((*(f.board for f in freed), *_boards_cut(job, plan))))
    names = names_of((p.id for p in job.pieces), ((c.n, c.piece, c.tool, c.line, c.depth_mm, c.gives) for c in plan.cuts))
    for board in boards:
        _Board(sheet, job, plan, [f for f in freed if f.board == board], bench, board, names).write()


def _boards_cut(job: Job, plan: Plan) -> list[str]:
    """The boards that a plan saws, first cut first."""
    roots = {p.id: p.id for p in job.pieces}
    for cut in plan.cuts:
        roots.update((name, roots[cut.piece]) for name in cut.gives if cut.piece in roots)
    return list(dict.fromkeys(roots[c.piece] for c in plan.cuts if c.piece in roots))


class _Board:
    """One board's sawing."""

    def __init__(
        self, sheet: Sheet, job: Job, plan: Plan, freed: Sequence[Freed], bench: Bench, board: str, names: dict[int, str]
    ) -> None:
        self.sheet, self.job, self.plan, self.freed, self.bench, self.board, self.names = (
            sheet,
            job,
            plan,
            freed,
            bench,
            board,
            names,
        )
        alone: dict[str, list[Freed]] = {}
        for one in freed:
            alone.setdefault(one.hand.id, []).append(one)
        # a piece in hand that holds one part once all is sawn is that part from the cut on that frees it
        self.called = {hand: rows[0].workpiece.id for hand, rows in alone.items() if len(rows) == 1}

    def write(self) -> None:
        """The board marked, its flaws made firm, its cuts, its shelf."""
        steps = steps_for(
            self.job,
            self.plan,
            self.job.piece(self.board),
            self.bench.style,
            library=self.bench.library,
            machines=self.bench.machines,
            no_face=dict(self.bench.no_face).get(self.board, ""),
        )
        for code in dict.fromkeys(k.defect for f in self.freed for k in f.part.keep if k.piece in (None, self.board)):
            make_firm(self.sheet, self.job.piece(self.board), code, self.freed, kept=True)
        mend_in_the_board(self.sheet, self.job.piece(self.board), self.freed)
        self.sheet.mark([self.board], "", self.board)
        if not steps:  # a board that is a part as it is
            for one in self.freed:
                if one.workpiece.id in self.called.values():
                    words = f"No. {self.board} is {one.workpiece.id} as it lies: letter it"
                    self.sheet.add("mark", [self.board], "as it lies", gives=[one.workpiece.id], board=self.board, text=words)
        before: tuple[str, ...] = ()
        for step in steps:
            before = (
                self._cut(step, before),
            )  # the plan's own order: what is sawn and what is left can then be told at any time
        self._shorter_first()
        self._shelve()

    def _cut(self, step: Step, before: tuple[str, ...]) -> str:
        """One cut, after the one before it on the board; its id."""
        cut = step.cut
        if cut.tool == "resaw":
            self._face_first(cut, step.worked_on)
        machine, kind = self._machine(step)
        gives = [self.called.get(name, name) for name in cut.gives]
        settings: dict[str, Any] = {}
        if cut.marks and cut.tool in SETTING:
            settings[SETTING[cut.tool]] = cut.marks[0].mm
        said = (READY, *(Said(code=c.code, grade=c.grade, text=c.text) for c in step.cautions if c.code != "cutter"))
        made = self.sheet.add(
            _kind(cut), [cut.piece], self.names.get(cut.n, ""), gives=gives, needs=before, machine=machine, machine_kind=kind, cut=cut.n, line=cut.line,
            marks=cut.marks, settings=settings, minutes=_minutes(cut), cautions=said, board=self.board,
            text=step.text + (f"; {step.note}" if step.note else ""),
        )  # fmt: skip
        return made.id

    def _shorter_first(self) -> None:
        """A crosscut that shortens what is swung comes before the outline that is sawn from it."""
        mine = [c for c in self.plan.cuts if self.names.get(c.n) in self.sheet.operations]
        for cross in (c for c in mine if c.tool == "crosscut"):
            after = set(cross.gives)
            for cut in mine[mine.index(cross) + 1 :]:
                if cut.piece in after:
                    after |= set(cut.gives)
                    if cut.tool == "outline":
                        self.sheet.tie(self.names[cross.n], self.names[cut.n], SHORTEN)

    def _machine(self, step: Step) -> tuple[str, str]:
        """The machine's name and kind."""
        found: Machine | None = next((m for m in self.bench.machines if m.name == step.tool), None)
        return step.tool.lower(), (
            found.kind.value if found is not None else KIND_OF["resaw" if "Band" in step.tool else step.cut.tool]
        )

    def _face_first(self, cut: Cut, block: InHand) -> None:
        """A block is resawn with a flat face against the fence: its first face is levelled before, by what its first leaf loses there."""
        inside = [f for f in self.freed if f.was_resawn and f.hand.id in _all_from(cut.piece, self.plan.cuts)]
        take = min((f.placement.z_top_mm - block.top_mm for f in inside), default=0.0) - self.sheet.levelled.get(cut.piece, 0.0)
        if take <= 1e-6:
            return
        x0, y0, x1, y1 = block.hand.polygon.bounds
        low = block.bottom_mm if block.bottom_mm is not None else self.job.piece(self.board).least_thickness_mm
        size = (x1 - x0, y1 - y0, (low or inside[0].placement.finished_mm) - block.top_mm)
        level(self.sheet, self.bench, [cut.piece], size, {"face 1": round(take, 2)}, self.board)

    def _shelve(self) -> None:
        kept = [o.id for o in self.plan.offcuts if o.piece == self.board and o.keep]
        if kept and self.plan.cuts:
            words = f"Put back {', '.join(kept)}: number, sizes, end grain sealed"
            self.sheet.add("shelve", kept, "", minutes=2.0 * len(kept), board=self.board, text=words)


def _all_from(hand: str, cuts: Sequence[Cut]) -> set[str]:
    """Every piece that a piece in hand becomes, itself among them."""
    found = {hand}
    for cut in cuts:
        if cut.piece in found:
            found |= set(cut.gives)
    return found


def _kind(cut: Cut) -> Kind:
    return cut.tool


def _minutes(cut: Cut) -> float:
    """Longer by what goes beyond half a metre, at the usual minutes each metre."""
    long = sum(((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5 for (ax, ay), (bx, by) in zip(cut.line, cut.line[1:]))
    return float(round(MINUTES[cut.tool] * (1 + max(0.0, long - LONG_MM) / 1000), 1))
