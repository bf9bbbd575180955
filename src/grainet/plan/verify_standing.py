"""What stands already when a job is planned once more, for the verifier: pins that must be listed as they are, lost parts and claimed wood that
new parts keep clear of, cuts that are made, builds that are given up.

It imports ground values, Shapely and the standard library only.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping

from shapely.geometry import Polygon

from grainet.design.part import Part
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.plan.verify_laid import PLACE_TOL, Found, block

AREA_TOL = 1e-3
IN_HAND_TOL = 1e-4


def same_place(a: Placement, b: Placement) -> bool:
    """Whether two placements say the same leaf at the same place."""
    if a.key != b.key or (a.piece, a.mirror, a.face_up, a.on_edge) != (b.piece, b.mirror, b.face_up, b.on_edge):
        return False
    figures = ((a.x, b.x), (a.y, b.y), (a.angle_deg, b.angle_deg), (a.z_top_mm, b.z_top_mm), (a.finished_mm, b.finished_mm))
    return all(abs(u - v) <= PLACE_TOL for u, v in figures) and len(a.polygon) == len(b.polygon)


def pinned_of(job: Job, known: Iterable[Placement]) -> set[int]:
    """Which placements (by ``id``) are pins of the job."""
    pins = {p.key: p for p in job.pins}
    return {id(one) for one in known if one.key in pins and same_place(pins[one.key], one)}


def pin_faults(job: Job, plan: Plan) -> Found:
    """Pins that a plan does not list as they are."""
    listed = {one.key: one for one in plan.placements}
    for i, pin in enumerate(job.pins):
        found = listed.get(pin.key)
        what = f"{pin.part} {pin.set}.{pin.copy_} leaf {pin.leaf} on {pin.piece}"
        if found is None:
            yield "pin", f"pins[{i}] ({what}) is not listed, needs to stay"
        elif not same_place(pin, found):
            yield "pin", f"pins[{i}] ({what}) is listed at another place, needs to stay as it is"


def clear_faults(job: Job, new: Iterable[Placement], parts: Mapping[str, Part]) -> Found:
    """New parts that come too near to lost ones, or lie in wood that is kept for another build."""
    kit = job.kit
    gone = [(f"lost {r.part} {r.set}.{r.copy_}", r.piece, block(parts[r.part], r)) for r in job.lost]
    for one in new:
        shape = block(parts[one.part], one)
        kept = [(f"the wood kept for {c.build}", c.piece, Polygon(c.polygon)) for c in job.claims if c.build != one.build]
        for name, piece, other in (*gone, *kept):
            if piece != one.piece:
                continue
            if shape.intersection(other).area > AREA_TOL:
                yield "standing", f"{one.part} {one.set}.{one.copy_} on {piece} overlaps {name}"
            elif kit.cutting == "outline" and shape.distance(other) < kit.kerf_mm.outline - 1e-5:
                apart = shape.distance(other)
                yield "standing", f"{one.part} {one.set}.{one.copy_} is {apart:.3g} from {name}, want {kit.kerf_mm.outline:g}"
            elif kit.cutting == "straight" and not _parted(shape, other, job):
                yield "standing", f"{one.part} {one.set}.{one.copy_} leaves no room for a straight cut before {name}"


def _parted(a: Polygon, b: Polygon, job: Job) -> bool:
    ax0, ay0, ax1, ay1 = a.bounds
    bx0, by0, bx1, by1 = b.bounds
    kerf = job.kit.kerf_mm
    along, across = max(ax0 - bx1, bx0 - ax1), max(ay0 - by1, by0 - ay1)
    return bool(along >= kerf.crosscut - 1e-5 or across >= kerf.rip - 1e-5)


def displaced_faults(job: Job, plan: Plan) -> Found:
    """Whether the builds that are given up are named: something of theirs stands, was lost or is kept, and they are not made."""
    named = {r.build for r in (*job.pins, *job.lost)} | {c.build for c in job.claims}
    wanted = {b.id for b in job.builds if b.id in named and b.id not in plan.builds}
    if set(plan.displaced) != wanted or len(plan.displaced) != len(wanted):
        yield "displaced", f"displaced says {sorted(plan.displaced)}, given up are {sorted(wanted)}"


def sets_that_count(
    job: Job, plan: Plan, known: Iterable[Placement], pinned: set[int], needs: Mapping[tuple[str, str], int]
) -> tuple[dict[str, int], set[tuple[str, int]]]:
    """How many sets of each part count, and the spare ones: sets of pins alone that are not whole, that no build needs, or that go to a build
    that is not made. ``needs``: sets by (build, part) of the builds that are made."""
    parts = {p.id: p for p in job.parts}
    rows: dict[tuple[str, int], list[Placement]] = defaultdict(list)
    for one in known:
        rows[one.part, one.set].append(one)
    counts: dict[str, int] = defaultdict(int)
    by_build: dict[tuple[str, str], int] = defaultdict(int)
    spare: set[tuple[str, int]] = set()
    # what is laid anew counts first: it is not laid for nothing
    for key, some in sorted(rows.items(), key=lambda row: (all(id(r) in pinned for r in row[1]), row[0])):
        part, only_pins = parts[key[0]], all(id(r) in pinned for r in some)
        owner = (some[0].build or "", part.id)
        limit = needs.get(owner, 0) if job.builds else math.inf if part.quantity is None else part.quantity
        so_far = by_build[owner] if job.builds else counts[part.id]
        if only_pins and (not _whole(part, some) or so_far >= limit):
            spare.add(key)
            continue
        by_build[owner] += 1
        counts[part.id] += 1
    return counts, spare


def _whole(part: Part, rows: list[Placement]) -> bool:
    want = {(c, leaf) for c in range(1, part.per_set + 1) for leaf in range(1, part.leaves + 1)}
    have = [(r.copy_, 1 if part.leaves_max is not None else r.leaf) for r in rows]
    one_piece = not part.same_piece or len({r.piece for r in rows}) == 1
    return set(have) == want and len(have) == len(want) and one_piece and len({r.build for r in rows}) == 1


def in_hand_faults(new: Iterable[Placement], parts: Mapping[str, Part], hands: Iterable[Polygon]) -> Iterator[tuple[str, str]]:
    """New parts that do not lie within one of the pieces that are in hand after the cuts that are made, and were never resawn."""
    wood = [h.buffer(IN_HAND_TOL, join_style="mitre") for h in hands]
    for one in new:
        shape = block(parts[one.part], one)
        if not any(h.covers(shape) for h in wood):
            yield "in_hand", f"{one.part} {one.set}.{one.copy_} on {one.piece} does not lie in one piece that is still in hand"
