"""A plan that the shop has accepted: the job it answers, the plan, and how far the bench work on it has come."""

from __future__ import annotations

from pydantic import Field

from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.wood.value import Value


class Laid(Value):
    """``done`` are numbers of the plan's cuts that are sawn; ``returned`` pieces whose remains went back to the rack."""

    id: str = Field(min_length=1)
    job: Job
    plan: Plan
    done: tuple[int, ...] = ()
    agreed: tuple[int, ...] = ()
    returned: tuple[str, ...] = ()
    opening: str = ""

    def cuts_of(self, piece: str) -> list[int]:
        """Numbers of the cuts on one board, in order."""
        mine = {piece}
        numbers = []
        for cut in self.plan.cuts:
            if cut.piece in mine:
                mine.update(cut.gives)
                numbers.append(cut.n)
        return numbers

    @property
    def boards(self) -> list[str]:
        """The boards that the plan saws, in the order of their cuts."""
        return list(dict.fromkeys(p.piece for p in self.plan.placements))

    def sawn(self, piece: str) -> bool:
        """Whether every cut on a board is done."""
        return set(self.cuts_of(piece)) <= set(self.done)
