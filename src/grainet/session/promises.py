"""What accepted plans hold: the boards that they still want to saw, which no other plan, claim or list may offer."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from grainet.design.design import Design
from grainet.session.items import Items
from grainet.session.kinds import DESIGNS, RESERVATIONS
from grainet.session.plans import Plans
from grainet.session.reservation import Reservation
from grainet.work.cut_plan import UnderWay


@dataclass(frozen=True)
class Promise:
    """A board that an accepted plan holds: the ids of its builds and their names."""

    designs: tuple[str, ...]
    name: str


def promised(plans: Iterable[UnderWay], designs: Iterable[Design]) -> dict[str, Promise]:
    """Boards of accepted plans that are not sawn up yet, by number; the plan accepted first has it."""
    names = {d.id: d.name for d in designs}
    found: dict[str, Promise] = {}
    for one in plans:
        for board in one.boards:
            if board not in one.returned:
                found.setdefault(board, Promise(one.designs, " and ".join(names.get(d, d) for d in one.designs)))
    return found


class Promises:
    """What the accepted plans and the claims of one shop hold."""

    def __init__(self, items: Items, plans: Plans) -> None:
        self.items, self.plans = items, plans
        self._known: tuple[int, dict[str, Promise]] | None = None

    def boards(self) -> dict[str, Promise]:
        """The boards that accepted plans still want to saw, by number: nobody else is offered them."""
        version = self.items.version
        if self._known is None or self._known[0] != version:
            self._known = (version, promised(self.plans.accepted(), self.items.all(DESIGNS)))
        return self._known[1]

    def claims(self) -> list[Reservation]:
        """Every claim on a piece or a part of one."""
        return self.items.all(RESERVATIONS)

    def held(self) -> set[str]:
        """Numbers of the pieces that are not free: promised, or claimed whole."""
        return self.boards().keys() | {r.piece for r in self.claims() if r.whole}
