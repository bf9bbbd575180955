"""The plan of the build in hand while it is being made, tried and pinned: one for the window, whichever screen asks."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import QObject, Signal

from grainet.design.design import Design
from grainet.desk.services.planner_process import WorkerClient
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.wood.value import BadEntry
from grainet.work.matching import Matched

if TYPE_CHECKING:
    from grainet.desk.view_state import State
    from grainet.present.by_hand import Hand

BY_HAND_S = 4.0  # the longest that the rest is solved round what is pinned


class Planning(QObject):
    """What is planned and pinned and not kept yet, and how far the planner is."""

    changed = Signal()  # how far it is
    made = Signal(object, object)  # Job, Plan
    over = Signal(str)  # the build whose plan was kept: what was tried on the way is over

    def __init__(self, state: State, worker: WorkerClient) -> None:
        super().__init__()
        self.state, self.worker = state, worker
        self.fresh: tuple[Job, Plan] | None = None
        self.pins: dict[str, tuple[Placement, ...]] = {}  # what was pinned by hand, by build
        self.matched: dict[str, tuple[Matched, ...]] = {}  # how pairs of a fresh plan are opened, by build
        self.told, self.share = "", 0.0
        self.lit: set[str] = set()  # builds that are planned together with the one in hand
        self.cutting: Literal["outline", "straight"] | None = None  # how this plan is cut; None: as the house cuts
        self.asking = False  # the rack is being gathered for the planner
        worker.told.connect(self._hear)
        worker.planned.connect(self.take)
        worker.failed.connect(self._failed)
        state.plan_kept.connect(self._kept)

    @property
    def busy(self) -> bool:
        """Whether something is planned now."""
        return self.worker.busy or self.asking

    def shown(self) -> tuple[Job, Plan] | None:
        """The plan just made for the build in hand, or the one that is kept."""
        design = self.state.design
        if design is None:
            return None
        if self.fresh is not None and any(b.id == design.id for b in self.fresh[0].builds):
            return self.fresh
        kept = self.state.shop.plans.accepted_for(design.id)
        return (kept.job, kept.plan) if kept is not None else None

    def beside(self, design: Design) -> list[Design]:
        """The other builds that are lit: planned together with this one."""
        return [d for d in self.state.shop.designs() if d.id in self.lit and d.id != design.id]

    def light(self, design_id: str) -> None:
        """Light a build to be planned together with the one in hand, or put it out."""
        self.lit ^= {design_id}
        self.changed.emit()

    def turn_cutting(self) -> None:
        """Round the outlines, or straight across: for the next plan."""
        now = self.cutting or self.state.shop.kit.losses.cutting
        self.cutting = "straight" if now == "outline" else "outline"
        self.changed.emit()

    def matched_now(self) -> tuple[Matched, ...]:
        """How the pairs of the plan that is shown are opened, as far as that was locked."""
        design_id = self.state.design_id or ""
        laid, shown = self.state.shop.plans.accepted_for(design_id), self.shown()
        if laid is not None and shown == (laid.job, laid.plan):
            return laid.cut_plan.matched
        return self.matched.get(design_id, ())

    def stop(self) -> None:
        """Call the planning off; what was there stays."""
        self.worker.cancel()
        self.told, self.asking = "", False
        self.state.notify("planning stopped; nothing was changed")
        self.changed.emit()

    def gather(self, design: Design, *hands: Hand) -> None:
        """Gather the job off the window's thread, what is pinned among it, and have it planned; parts in the hand are pinned
        first."""
        if self.worker.busy:
            self.worker.cancel()
        self.told, self.share, self.asking = "gathering what the rack has", 0.0, True
        shop, pins, shown = self.state.shop, self.pins.get(design.id, ()), self.shown()
        plan, others, cutting = shown[1] if shown is not None else None, self.beside(design), self.cutting

        def work() -> object:
            from grainet.exchange.job_file import job_text
            from grainet.present.by_hand import pinned, with_pins
            from grainet.session.surprise import job_for_the_rest

            shop.judgements.rest_crew()
            try:
                job = shop.steady(lambda: job_for_the_rest(shop, design, *others))
            except BadEntry as fault:
                return str(fault)
            if cutting is not None:
                job = job.changed(kit=job.kit.changed(cutting=cutting))
            more: tuple[Placement, ...] = ()
            for hand in hands:
                found = pinned(job, hand, (*pins, *more), plan)
                if isinstance(found, str):
                    return found
                more = (*more, *found)
            names = {(p.part, p.set, p.copy_) for p in more}
            kept = (*(p for p in pins if (p.part, p.set, p.copy_) not in names), *more)
            asked = with_pins(job, kept, plan)
            return design.id, asked, job_text(asked), kept

        self.state.background.start(work, self.begin, 5)
        self.changed.emit()

    def begin(self, found: object) -> None:
        """The job is there: hand it to the planner, unless it was called off meanwhile."""
        called_off, self.asking, self.told = not self.asking, False, ""
        if isinstance(found, str) and not called_off:
            self.state.warn(found)
        if called_off or not isinstance(found, tuple):
            self.changed.emit()
            return
        design_id, job, text, pins = found
        if not job.pieces:
            self.state.warn("there is no measured piece to plan on: F2")
        else:
            self.pins[design_id] = pins
            self.told, self.share = "starting", 0.0
            self.worker.plan(job, text=text, seconds=BY_HAND_S if pins else None)
        self.changed.emit()

    def let_go(self, one: Placement, design_id: str) -> None:
        """A part that was pinned is no longer; nor is the other one of a pair that lies together."""
        part = next((q for d in self.state.shop.designs() if d.id == design_id for q in d.parts if q.id == one.part), None)
        both = part is not None and part.in_pairs

        def same(p: Placement) -> bool:
            return (p.part, p.set) == (one.part, one.set) and (both or p.copy_ == one.copy_)

        self.pins[design_id] = tuple(p for p in self.pins.get(design_id, ()) if not same(p))

    def take(self, job: Job, plan: Plan) -> None:
        """A plan was made: it is the one shown, not kept yet."""
        self.told, self.fresh = "", (job, plan)
        self.made.emit(job, plan)
        self.state.changed.emit()

    def _hear(self, what: str, share: float) -> None:
        self.told, self.share = what, share
        self.changed.emit()

    def _failed(self, text: str) -> None:
        self.told = ""
        self.state.warn(text)
        self.changed.emit()

    def _kept(self, design_id: str) -> None:
        """A plan was accepted, here or elsewhere: what was tried and pinned on the way is over."""
        self.pins.pop(design_id, None)
        self.matched.pop(design_id, None)
        if self.fresh is not None and any(b.id == design_id for b in self.fresh[0].builds):
            self.fresh = None
        self.over.emit(design_id)
