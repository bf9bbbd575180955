"""A plan that the shop keeps, with an identity of its own, and how far the bench work on it has come.

Alternatives, plans of several builds, the same design built twice and a plan made anew after cuts are plans like any other.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, Self

from pydantic import Field, model_validator

from grainet.job.answer import Cut, Placement, Plan
from grainet.job.job import Job
from grainet.wood.value import Value
from grainet.work.matching import Matched, read_opening
from grainet.work.operation_name import names_of

State = Literal["accepted", "replaced"]  # what is sawn by, what another plan took the place of


class CutPlan(Value):
    """``designs`` are the ids of the designs that it builds; ``reason`` says why it is in its state."""

    id: str = Field(min_length=1)
    designs: tuple[str, ...] = Field(min_length=1)
    state: State = "accepted"
    reason: str = ""
    job: Job
    plan: Plan
    matched: tuple[Matched, ...] = ()  # how its pairs are opened
    opening: str = Field(default="", exclude=True)  # as older shops have it; read into ``matched``
    stopped: tuple[str, ...] = ()  # boards on which a cut went elsewhere, so that the ones after it are off

    @model_validator(mode="after")
    def _first_opening(self) -> Self:
        """Plans of older shops have one opening, of their first pair."""
        if self.opening:
            found = read_opening(self.opening)
            matched = self.matched or ((Matched(seam=found[0], show=found[1]),) if found is not None else ())
            self.__dict__.update(opening="", matched=matched)
        return self

    @cached_property
    def cuts_by_board(self) -> dict[str, list[Cut]]:
        """The cuts on each board, in their order."""
        board_of = {p.id: p.id for p in self.job.pieces}
        found: dict[str, list[Cut]] = {}
        for cut in self.plan.cuts:
            board = board_of.get(cut.piece)
            if board is not None:
                board_of.update(dict.fromkeys(cut.gives, board))
                found.setdefault(board, []).append(cut)
        return found

    def cuts_of(self, board: str) -> list[Cut]:
        """The cuts on one board, in their order."""
        return self.cuts_by_board.get(board, [])

    @cached_property
    def names(self) -> dict[int, str]:
        """What each cut is called in the records, by its number in the plan."""
        rows = ((c.n, c.piece, c.tool, c.line, c.depth_mm, c.gives) for c in self.plan.cuts)
        return names_of((p.id for p in self.job.pieces), rows)

    @property
    def boards(self) -> list[str]:
        """The boards that the plan saws, in the order of their parts; one that gives nothing any more comes last."""
        return list(dict.fromkeys((*(p.piece for p in self.plan.placements), *self.cuts_by_board)))


def lost_key(one: Placement) -> str:
    """What a lost leaf is called in the records: part, set, copy, leaf."""
    return f"{one.part}/{one.set}/{one.copy_}/{one.leaf}"


class Progress(Value):
    """How far the work on a plan is: names of the operations done and of those whose cautions were agreed to, boards put back, leaves of
    parts that are lost."""

    id: str = Field(min_length=1)  # of the plan
    done: tuple[str, ...] = ()
    agreed: tuple[str, ...] = ()
    returned: tuple[str, ...] = ()
    lost: tuple[str, ...] = ()


@dataclass(frozen=True)
class UnderWay:
    """A plan with its progress."""

    cut_plan: CutPlan
    progress: Progress

    @property
    def id(self) -> str:
        """The id of the plan."""
        return self.cut_plan.id

    @property
    def designs(self) -> tuple[str, ...]:
        """The ids of the designs that it builds."""
        return self.cut_plan.designs

    @property
    def job(self) -> Job:
        """The job that it answers."""
        return self.cut_plan.job

    @property
    def plan(self) -> Plan:
        """The planner's answer."""
        return self.cut_plan.plan

    @property
    def boards(self) -> list[str]:
        """The boards that it saws."""
        return self.cut_plan.boards

    @property
    def returned(self) -> tuple[str, ...]:
        """The boards whose remains are on the rack."""
        return self.progress.returned

    def cuts_of(self, board: str) -> list[Cut]:
        """The cuts on one board, in their order."""
        return self.cut_plan.cuts_of(board)

    def done(self, cut: Cut) -> bool:
        """Whether a cut is made."""
        return self.cut_plan.names.get(cut.n) in self.progress.done

    def agreed(self, cut: Cut) -> bool:
        """Whether the cautions of a cut were agreed to."""
        return self.cut_plan.names.get(cut.n) in self.progress.agreed

    def made_of(self, board: str) -> list[Cut]:
        """The cuts on a board that are made, in their order."""
        return [cut for cut in self.cuts_of(board) if self.done(cut)]

    def left(self) -> int:
        """How many cuts are still to make."""
        return sum(not self.done(cut) for board in self.boards for cut in self.cuts_of(board))

    def sawn(self, board: str) -> bool:
        """Whether every cut on a board is made, and none that went elsewhere leaves more to plan."""
        return board not in self.cut_plan.stopped and all(self.done(cut) for cut in self.cuts_of(board))

    def with_done(self, cut: Cut, *, agreed: bool) -> UnderWay:
        """One cut more is made; its cautions were agreed to."""
        name, now = self.cut_plan.names[cut.n], self.progress
        more = tuple(dict.fromkeys((*now.agreed, name))) if agreed else now.agreed
        return replace(self, progress=now.changed(done=(*now.done, name), agreed=more))

    def without(self, cut: Cut) -> UnderWay:
        """A cut taken back."""
        name = self.cut_plan.names[cut.n]
        return replace(self, progress=self.progress.changed(done=tuple(n for n in self.progress.done if n != name)))

    def with_returned(self, board: str) -> UnderWay:
        """A board's remains are on the rack."""
        return replace(self, progress=self.progress.changed(returned=(*self.progress.returned, board)))
