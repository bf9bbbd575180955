"""A bound on value over every placement there could be, not only the candidates: by demand, by area and by what sizes allow.

Relaxed in the safe direction everywhere: it may be too high, never too low.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from grainet.design.part import Part, sets_each, ways_laid
from grainet.design.shape import extents, placed
from grainet.fit.board_geometry import BoardGeometry
from grainet.job.job import Job
from grainet.plan.standing import Standing

ANGLE_STEP_DEG = 0.25


def value_bound(
    job: Job, sheets: Mapping[str, BoardGeometry], deterministic: float = 1.0, standing: Standing | None = None,
    wall_seconds: float | None = None,
) -> float:  # fmt: skip
    """An upper bound on the value of any plan of a job.

    A small integer programme over counts: copies of each part per piece, footprints grown by half a kerf within each piece's
    usable area grown likewise, none where no turn of the part could fit the piece's extents or thickness, or the job bars it.
    ``wall_seconds`` caps the search: what it has proven by then binds.
    """
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    kerf = 0.0 if not job.parts else _least_kerf(job)
    counts: dict[tuple[str, str], cp_model.IntVar] = {}
    barred = {(bar.part, bar.piece) for bar in job.barred}
    need = {p.id: _least_need(p, kerf) for p in job.parts}
    for piece_id, sheet in sheets.items():
        room = _room_area(sheet.usable, kerf) if not sheet.usable.is_empty else 0.0
        terms = []
        for part in job.parts:
            if (part.id, piece_id) not in barred and room >= need[part.id] - 1e-6 and could_fit(part, sheet):
                var = model.new_int_var(0, int(room / need[part.id] + 1e-9), "")
                counts[part.id, piece_id] = var
                terms.append(math.floor(need[part.id]) * var)
        if terms:
            model.add(sum(terms) <= math.ceil(room))
    sets = {}
    for part in job.parts:
        here = [counts[part.id, p] for p in sheets if (part.id, p) in counts]
        most = 10**6 if part.quantity is None else part.quantity
        old = standing.sets_of(part.id) if standing is not None else ()
        sets[part.id] = model.new_int_var(0, most, "")
        if part.same_piece:
            per_piece = []
            for var in here:
                one = model.new_int_var(0, 10**6, "")
                model.add(part.per_set * one <= var)
                per_piece.append(one)
            model.add(sets[part.id] <= sum(per_piece) + len(old))
        else:
            model.add(part.per_set * sets[part.id] <= sum(here) + sum(s.count for s in old))
    terms = _value_terms(job, model, sets)
    scale = 1000.0
    model.maximize(sum(math.ceil(value * scale - 1e-6) * var for value, var in terms))  # 16.1 is 16100 thousandths, not 16101
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.max_deterministic_time = deterministic
    if wall_seconds is not None:
        solver.parameters.max_time_in_seconds = wall_seconds
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return math.inf
    return solver.best_objective_bound / scale


def _least_need(part: Part, kerf: float) -> float:
    """The least area that one copy takes of a board, however it is laid: leaves of one footprint share it."""
    return min(_part_area(Polygon(way.outline), kerf) / sets_each(way) for way in ways_laid(part))


def _value_terms(job: Job, model: Any, sets: Any) -> Any:
    if not job.builds:
        return [(p.value, sets[p.id]) for p in job.parts]
    options = [o for b in job.builds for o in b.options]
    made = {o.key: model.new_bool_var("") for o in options}
    whole = {b.id: model.new_bool_var("") for b in job.builds if b.components}
    for build in job.builds:
        model.add_at_most_one(made[o.key] for o in build.options if not o.component)
        for component in build.components:
            model.add(sum(made[build.id, component.id, w.id] for w in component.ways) == whole[build.id])
    for part in job.parts:
        model.add(sum(o.needs.get(part.id, 0) * made[o.key] for o in options) <= sets[part.id])
    return [*((o.value, made[o.key]) for o in options), *((b.value, whole[b.id]) for b in job.builds if b.components)]


def _least_kerf(job: Job) -> float:
    kerf = job.kit.kerf_mm
    return kerf.outline if job.kit.cutting == "outline" else min(kerf.crosscut, kerf.rip)


def _part_area(shape: Polygon, kerf: float) -> float:
    """Area with half a kerf all round, rounded at the corners with few segments: never too much."""
    return float(shape.buffer(kerf / 2, quad_segs=2).area)


def _room_area(shape: BaseGeometry, kerf: float) -> float:
    """Area with half a kerf all round, mitred at the corners: never too little."""
    return float(shape.buffer(kerf / 2, join_style="mitre").area)


def could_fit(part: Part, sheet: BoardGeometry) -> bool:
    """Whether any turn of a part, flat or on edge, could fit a piece by extents and thickness alone."""
    return any(_could_fit(way, sheet) for way in ways_laid(part))


def _could_fit(part: Part, sheet: BoardGeometry) -> bool:
    thickest = float(sheet.thickness.values.max()) if len(sheet.thickness.values) else sheet.thickness.least
    if sheet.kit.stack_mm(part.thickness_mm, part.leaves) + 2 * sheet.kit.skim_mm > thickest + 1e-6:
        return False
    x0, y0, x1, y1 = sheet.usable.bounds
    ring = part.ring
    reach = float(np.hypot(*(ring.max(axis=0) - ring.min(axis=0))))
    slack = reach * math.radians(ANGLE_STEP_DEG) if part.tilt_deg else 1e-6
    steps = np.arange(-part.tilt_deg, part.tilt_deg + ANGLE_STEP_DEG, ANGLE_STEP_DEG) if part.tilt_deg else [0.0]
    for turn in part.turns_deg:
        for tilt in steps:
            for over in (False, True):
                px0, py0, px1, py1 = extents(placed(ring, 0, 0, turn + tilt, turned_over=over))
                if px1 - px0 <= x1 - x0 + slack and py1 - py0 <= y1 - y0 + slack:
                    return True
    return False
