"""One good order of the operations: every rule that blocks is kept, mates stand together, machines change seldom, long waits begin early.

Ours: of all that may come next, the one of the batch in hand, then the one whose work and waiting still reaches furthest, in steps of half
a day so that nearly equal ones go by machine.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from grainet.work.operation import SAWING, Operation, Tie

STEP_MIN = 12 * 60.0
AT_THE_SAW = SAWING | {"mark", "flatten", "stabilise"}


class Circle(Exception):
    """Operations that wait for one another."""


def in_order(operations: Sequence[Operation], ties: Sequence[Tie]) -> list[Operation]:
    """The operations in a good order, each told what it needs by the rules too. Raises Circle where rules lead round."""
    before = needs_of(operations, ties)
    tails = tails_of(operations, before)
    place = {one.id: k for k, one in enumerate(operations)}
    by = {one.id: one for one in operations}
    open_: dict[str, set[str]] = {name: set(needs) for name, needs in before.items()}
    after: dict[str, list[str]] = {name: [] for name in before}
    for name, needs in before.items():
        for one in needs:
            after[one].append(name)
    ready = {name for name, needs in open_.items() if not needs}
    found: list[Operation] = []
    last: Operation | None = None
    while ready:
        name = min(ready, key=lambda n: (*_turn(by[n], last, tails[n]), place[n]))
        ready.remove(name)
        last = by[name]
        found.append(last.changed(needs=tuple(sorted(before[name], key=lambda n: place[n]))))
        for one in after[name]:
            open_[one].discard(name)
            if not open_[one]:
                ready.add(one)
    if len(found) < len(operations):
        raise Circle(f"these wait for one another: {', '.join(n for n in before if n not in {o.id for o in found})[:200]}")
    return found


def needs_of(operations: Sequence[Operation], ties: Sequence[Tie]) -> dict[str, set[str]]:
    """What each operation waits for: its own needs, the rules that block and are not overridden; all of a batch waits for what any of it
    waits for, so that it can be made in one go."""
    known = {one.id for one in operations}
    needs = {one.id: {n for n in one.needs if n in known} for one in operations}
    for tie in ties:
        if tie.blocks and not tie.over and tie.before in known and tie.after in known:
            needs[tie.after].add(tie.before)
    batches: dict[str, list[str]] = {}
    for one in operations:
        if one.batch:
            batches.setdefault(one.batch, []).append(one.id)
    for names in batches.values():
        within = set(names)
        shared = {n for name in names for n in needs[name] if n not in within and not _leads(n, within, needs)}
        for name in names:
            needs[name] |= shared
    return needs


def path_between(operations: Sequence[Operation], ties: Sequence[Tie], first: str, later: str) -> list[str] | None:
    """The shortest row of operations from one to a later one, each of which needs the one before it; None where nothing binds them."""
    needs = needs_of(operations, ties)
    back: dict[str, str] = {}
    row = [later]
    seen = {later}
    while row:
        following: list[str] = []
        for name in row:
            if name == first:
                path = [first]
                while path[-1] != later:
                    path.append(back[path[-1]])
                return path
            for need in needs.get(name, ()):
                if need not in seen:
                    seen.add(need)
                    back[need] = name
                    following.append(need)
        row = following
    return None


def _leads(name: str, within: set[str], needs: Mapping[str, set[str]]) -> bool:
    """Whether an operation itself waits for one of some."""
    seen, todo = {name}, [name]
    while todo:
        for one in needs[todo.pop()]:
            if one in within:
                return True
            if one not in seen:
                seen.add(one)
                todo.append(one)
    return False


def tails_of(operations: Sequence[Operation], before: Mapping[str, set[str]]) -> dict[str, float]:
    """Minutes of work and waiting that still follow each operation, its own among them."""
    by = {one.id: one for one in operations}
    after: dict[str, list[str]] = {name: [] for name in before}
    for name, needs in before.items():
        for need in needs:
            after[need].append(name)
    tails: dict[str, float] = {}
    for start in before:  # without recursion: a plan may be long
        stack = [start]
        while stack:
            name = stack[-1]
            left = [n for n in after[name] if n not in tails]
            if left and len(stack) <= len(before):
                stack.append(left[0])
                continue
            stack.pop()
            one = by[name]
            tails[name] = one.minutes + one.wait_minutes + max((tails.get(n, 0.0) for n in after[name]), default=0.0)
    return tails


def _turn(one: Operation, last: Operation | None, tail: float) -> tuple[bool, bool, float, bool, bool]:
    """What decides whose turn it is: a batch in hand, a board in hand at the saw, the furthest reach, the machine that is set."""
    batch = last is None or not one.batch or one.batch != last.batch
    board = last is None or one.board != last.board or not (one.kind in AT_THE_SAW and last.kind in AT_THE_SAW)
    machine = last is None or one.machine != last.machine
    return batch, board, -(tail // STEP_MIN), machine, last is None or one.board != last.board
