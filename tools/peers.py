"""The planner beside general-purpose packers and a plain mixed-integer programme, on the same wood in the same time.

Packers that are not installed are left out and said so; a folder that has them may be named in ``GRAINET_PEERS``.
"""

from __future__ import annotations

import os
import sys
import time

import numpy as np

from grainet.plan.planner import Planner, plan_job
from tests.jobs import job, part, piece
from tools import racks

STRIP_S = 15  # what a strip packer gets, s
WIDTHS = (300, 340, 500)


def _peer(name: str):  # type: ignore[no-untyped-def]
    """A package, or None where it is not there."""
    if (folder := os.environ.get("GRAINET_PEERS")) and folder not in sys.path:
        sys.path.append(folder)
    try:
        return __import__(name)
    except ImportError:
        print(f"{name}: not installed, left out")
        return None


def strips(seconds: int = STRIP_S) -> None:
    """Twelve mirrored halves on a strip: whether the planner lays all of them on the length that a strip packer came to."""
    spyrrow = _peer("spyrrow")
    for width in WIDTHS if spyrrow is not None else ():
        halves = racks.strip(width, 3000)
        items = [
            spyrrow.Item(p.id, [tuple(map(float, c)) for c in p.outline], demand=6, allowed_orientations=[0.0, 180.0])
            for p in halves.parts
        ]
        asked = spyrrow.StripPackingInstance("halves", strip_height=float(width), items=items)
        config = spyrrow.StripPackingConfig(
            early_termination=False, total_computation_time=seconds, num_workers=1, seed=0, min_items_separation=3.0
        )
        length = asked.solve(config).width
        began = time.perf_counter()
        plan = plan_job(racks.strip(width, length - 0.1))
        told = f"{plan.value:g} of 12 on less than {length:.0f}, which the packer took in {seconds} s"
        print(f"  strip of {width}: {told}; {time.perf_counter() - began:.1f} s")


def rectangles(count: int = 6) -> None:
    """Rectangles on one board: the area that is placed, against a rectangle packer with every rule that it has."""
    rectpack = _peer("rectpack")
    shares = []
    for seed in range(count if rectpack is not None else 0):
        r = np.random.default_rng(seed)
        sizes = [(int(r.integers(120, 520)), int(r.integers(40, 160))) for _ in range(14)]
        parts = [part(f"p{k}", a, b, 20, value=a * b / 1e4, quantity=1, tilt_deg=0) for k, (a, b) in enumerate(sizes)]
        plan = plan_job(job([piece("A", 1500, 380, 22)], parts, {"kerf_mm": racks.KERF}))
        best = 0.0
        for rule in (
            rectpack.MaxRectsBssf,
            rectpack.MaxRectsBaf,
            rectpack.MaxRectsBl,
            rectpack.GuillotineBssfSas,
            rectpack.SkylineBlWm,
        ):
            packer = rectpack.newPacker(pack_algo=rule, rotation=False)
            for k, (a, b) in enumerate(sizes):
                packer.add_rect(a + 3, b + 3, k)
            packer.add_bin(1503, 383)
            packer.pack()
            best = max(best, sum(sizes[k][0] * sizes[k][1] / 1e4 for *_, k in packer.rect_list()))
        shares.append(plan.value / best)
    if shares:
        told = ", ".join(f"{s:.2f}" for s in shares)
        print(f"  rectangles on one board, against the best of five rules: {told} times their area")


def plain_programme(seed: int = 0, seconds: int = 20) -> None:
    """The same places, chosen by a plain programme with a row for every pair that collides."""
    import scipy.optimize
    import scipy.sparse

    from grainet.plan.conflicts import conflicts

    sizes = (("a", 310, 90, 3.0), ("b", 240, 140, 3.4), ("c", 470, 60, 2.9))
    parts = [part(name, a, b, 20, value=v, quantity=6, tilt_deg=0) for name, a, b, v in sizes]
    asked = job([piece(f"B{k}", 900 + 60 * k, 190 + 17 * k, 22) for k in range(3)], parts, {"kerf_mm": racks.KERF})
    began = time.perf_counter()
    planner = Planner(asked, seed=seed)
    plan = planner.plan()
    ours = time.perf_counter() - began
    items = planner.pool.items
    pairs: list[tuple[int, int]] = []
    for board in asked.pieces:
        members = [k for k, one in enumerate(items) if one.piece == board.id]
        found = conflicts([items[k] for k in members], asked.kit)
        rows = {*map(tuple, found.pairs.tolist()), *((a, b) for c in found.cliques for n, a in enumerate(c) for b in c[n + 1 :])}
        pairs += [(members[a], members[b]) for a, b in rows]
    matrix = scipy.sparse.lil_matrix((len(pairs) + len(parts), len(items)))
    for n, (a, b) in enumerate(pairs):
        matrix[n, a] = matrix[n, b] = 1
    for n, one in enumerate(asked.parts):
        matrix[len(pairs) + n, [k for k, c in enumerate(items) if c.part.id == one.id]] = 1
    most = [1] * len(pairs) + [p.quantity or len(items) for p in asked.parts]
    began = time.perf_counter()
    answer = scipy.optimize.milp(
        [-c.part.value for c in items], constraints=scipy.optimize.LinearConstraint(matrix.tocsr(), -np.inf, most),
        integrality=np.ones(len(items)), bounds=(0, 1), options={"time_limit": seconds},
    )  # fmt: skip
    found = "nothing" if answer.x is None else f"{-answer.fun:g}"
    print(
        f"  {len(items)} places, {len(pairs)} pairs: a plain programme came to {found} in {time.perf_counter() - began:.1f} s, the planner to "
        f"{plan.value:g} in {ours:.1f} s (bound {plan.bound:g})"
    )


def main() -> None:
    """All of it."""
    print("beside others")
    strips()
    rectangles()
    plain_programme()
