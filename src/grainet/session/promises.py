"""What accepted plans hold: the boards that they still want to saw, which no other plan, claim or list may offer."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from grainet.design.design import Design
from grainet.work.cut_plan import UnderWay


@dataclass(frozen=True)
class Promise:
    """A board that an accepted plan holds: the build's id and its name."""

    design: str
    name: str


def promised(plans: Iterable[UnderWay], designs: Iterable[Design]) -> dict[str, Promise]:
    """Boards of accepted plans that are not sawn up yet, by number; the plan accepted first has it."""
    names = {d.id: d.name for d in designs}
    found: dict[str, Promise] = {}
    for one in plans:
        for board in one.boards:
            if board not in one.returned:
                found.setdefault(board, Promise(one.designs[0], names.get(one.designs[0], one.designs[0])))
    return found
