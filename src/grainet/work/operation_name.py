"""What an operation is called in the records: by what it does, so that a plan made anew keeps what is done already."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from hashlib import blake2b

Line = Sequence[Sequence[float]]
CutRow = tuple[int, str, str, Line, float | None, Sequence[str]]  # number, piece in hand, tool, line, depth, what it gives


def operation_name(board: str, tool: str, line: Line, depth_mm: float | None = None, top_mm: float = 0.0) -> str:
    """The name of one cut on a board: its tool and where it goes, in mm to a tenth: "42 rip 120.5, 0.0 to 700.0".

    What the piece in hand is called meanwhile does not count, for another plan may number it otherwise; how deep in the board it begins
    does, where the board was resawn. An outline is told by its box and a digest of its points.
    """
    xs, ys = [f"{x:.1f}" for x, _ in line], [f"{y:.1f}" for _, y in line]
    box = (min(xs, key=float), max(xs, key=float), min(ys, key=float), max(ys, key=float))
    layer = f", from {top_mm:.1f} deep" if top_mm else ""
    if tool == "crosscut":
        return f"{board} crosscut {xs[0]}, {box[2]} to {box[3]}{layer}"
    if tool == "rip":
        return f"{board} rip {ys[0]}, {box[0]} to {box[1]}{layer}"
    if tool == "resaw":
        return f"{board} resaw {depth_mm or 0.0:.1f} deep, {box[0]} to {box[1]} at {ys[0]}"
    digest = blake2b(";".join(f"{x},{y}" for x, y in zip(xs, ys)).encode(), digest_size=4).hexdigest()
    return f"{board} {tool} {box[0]} to {box[1]}, {box[2]} to {box[3]}, {digest}{layer}"


def names_of(boards: Iterable[str], cuts: Iterable[CutRow]) -> dict[int, str]:
    """What each cut of a plan is called, by its number; ``cuts`` in their order."""
    hands = {board: (board, 0.0) for board in boards}
    found = {}
    for number, piece, tool, line, depth, gives in cuts:
        if piece not in hands:
            continue
        board, top = hands[piece]
        found[number] = operation_name(board, tool, line, depth, top)
        for k, name in enumerate(gives):
            hands[name] = (board, (depth or 0.0) if tool == "resaw" and k else top)
    return found
