"""Which laid-out parts are glued into one and planed as one, and whether they will tear against each other.

The copies of a part of one build (two halves, the strips of a laminated neck) make one glue-up. A copy laid the other way
round, or with the other side up, planes the other way.
"""

from __future__ import annotations

from collections.abc import Iterator

from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.wood.planing import Member, Tearing, tearing


def _member(job: Job, one: Placement) -> Member:
    turned = 90 < one.angle_deg % 360 < 270
    return Member(job.piece(one.piece), turned, one.face_up)


def tearing_of(job: Job, plan: Plan) -> Iterator[tuple[str, Tearing]]:
    """Every glue-up of a plan that will tear both ways: the part's name and what to turn."""
    groups: dict[tuple[str, str], list[Placement]] = {}
    for one in plan.placements:
        if one.leaf == 1:
            groups.setdefault((one.build or "", one.part), []).append(one)
    for (_, part_id), copies in groups.items():
        if len(copies) > 1 and (found := tearing([_member(job, c) for c in copies])) is not None:
            yield job.part(part_id).shown_name, found
