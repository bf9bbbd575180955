"""Figures of the bench that a person asks for alone: clamps, stages of a glue-up, a slot's passes and its ramp, how long a glue cures.

The shop that they are reckoned for is the one that ships; what differs is told as an input. Times are minutes, the label in hand wins.
"""

from __future__ import annotations

import math
from typing import Any

from grainet.design.asked import KINDS, Kind
from grainet.work.bench import YELLOW
from grainet.work.bench_log import pace_at
from grainet.work.clamp_plan import Joined, clamp_plan, pressure_of, rows_of, spread_g
from grainet.work.features import ramp_mm, slot_passes
from grainet.work.mends import Method, taken_apart
from grainet.work.operation import ShopClamp

FLUSH_MIN = 24 * 60.0
MANY = 1000  # clamps that a question may ask about


def _clamps(
    long_mm: float, wide_mm: float, thin_mm: float, caul_mm: float = 20.0, pressure_mpa: float = 0.0, basic_sg: float = 0.55,
    force_kn: float = 2.0, edge: float = 0.0,
) -> dict[str, Any]:  # fmt: skip
    """Clamps of one line ``long_mm`` by ``wide_mm``: rows, count by the cone and in all. ``edge`` 1 is an edge joint, 0 a face; a pressure of 0
    is the wood's own."""
    joined = Joined("edge" if edge else "face", long_mm, wide_mm, thin_mm, 0.0)
    if min(long_mm, wide_mm, thin_mm, force_kn) <= 0:
        raise ValueError("sizes and force must be above 0")
    press = pressure_mpa or pressure_of(joined.kind, basic_sg, YELLOW)
    need = math.ceil(joined.face_mm2 * press / 1000 / force_kn)
    if need > MANY:
        raise ValueError(f"{need} clamps; a press, or a smaller face")
    plan = clamp_plan(joined, press, [ShopClamp(id=f"c{k}", opens_mm=10_000, force_kn=force_kn) for k in range(MANY)], caul_mm)
    return {
        "rows": rows_of(joined, caul_mm),
        "by_cone": plan.by_cone,
        "count": plan.wanted,
        "force_kn": plan.force_kn,
        "pressure_mpa": press,
    }


def _stages(lines: float, open_min: float, seconds_a_face: float = 40.0, temperature_c: float = 20.0) -> dict[str, Any]:
    """In how many stages so many lines are closed: open time shortens with warmth, and is never longer than the label."""
    open_s = 60 * open_min * min(1.0, pace_at(temperature_c))
    if seconds_a_face <= 0 or lines < 1:
        raise ValueError("needs at least one line, and seconds above 0")
    each = max(1, math.floor(open_s / seconds_a_face + 1e-9))
    return {"open_s": open_s, "lines_a_stage": each, "stages": math.ceil(lines / each)}


def _cure(minutes: float, temperature_c: float, water_based: float = 1.0, machining: float = 0.0) -> float:
    """How long a time of the label (at 20 °C) takes here; ``machining`` 1 is until a joint may be planed: a water-based one 24 h at least."""
    here = minutes * pace_at(temperature_c)
    return max(here, FLUSH_MIN) if machining and water_based else here


def _spread(long_mm: float, wide_mm: float, lines: float = 1.0, g_m2: float = 175.0) -> float:
    return spread_g(long_mm * wide_mm, int(lines), g_m2)


def _passes(width_mm: float, blade_mm: float) -> list[Any]:
    if width_mm < blade_mm or blade_mm <= 0:
        raise ValueError(
            f"a slot of {width_mm:g} with a blade of {blade_mm:g}; the blade must be above 0 and no wider than the slot"
        )
    return list(slot_passes(width_mm, blade_mm))


def _running(lengths_mm: list[Any], kerf_mm: float, trim_mm: float, board_mm: float) -> dict[str, Any]:
    """Crosscut marks from one datum: the trim, then each length with the kerf between; what is left, and whether it goes. The first figure
    of a pair is the edge that the part lies against, the second where the next part begins."""
    marks, at = [trim_mm], trim_mm
    for k, long in enumerate(lengths_mm):
        at += float(long)
        marks.append(round(at, 6))
        if k + 1 < len(lengths_mm):
            at += kerf_mm
            marks.append(round(at, 6))
    need = math.fsum(map(float, lengths_mm)) + max(0, len(lengths_mm) - 1) * kerf_mm + 2 * trim_mm
    return {"marks_mm": marks, "needs_mm": need, "left_mm": round(board_mm - need, 6), "goes": need <= board_mm + 1e-9}


def _apart(first_mm: float, second_mm: float, kerf_mm: float, clean_up_mm: float, way: float = 0.0) -> dict[str, Any]:
    """What each member of a joint has left; ``way`` 0 is sawn along the seam, 1 heated, 2 the second one planed off."""
    method: Method = ("sawn", "heated", "planed off")[int(way)] if way in (0, 1, 2) else _no_way(way)
    found = taken_apart(first_mm, second_mm, method, kerf_mm=kerf_mm, clean_up_mm=clean_up_mm)
    return {"first_mm": found.first_mm, "second_mm": found.second_mm}


def _no_way(way: float) -> Method:
    raise ValueError(f"way {way:g}; needs 0 (sawn), 1 (heated) or 2 (planed off)")


WORK_KINDS: dict[str, Kind] = {
    kind.name: kind
    for kind in (
        Kind("clamps", "", "clamps of a joint: rows, count by the cone and by the force", _clamps),
        Kind("stages", "", "stages of a glue-up within its open time", _stages),
        Kind("cure", "min", "how long a time of a glue's label takes at a temperature", _cure),
        Kind("spread", "g", "glue to spread", _spread),
        Kind("slot_passes", "mm", "where a slot's passes lie off its centre line", _passes),
        Kind("running_sizes", "mm", "marks of crosscuts from one datum, and whether a board gives them", _running),
        Kind("taken_apart", "mm", "what the members of a joint have left once it is taken apart", _apart),
        Kind("slot_ramp", "mm", "how far a round blade runs out beyond its full depth", ramp_mm),
    )
}
ALL_KINDS: dict[str, Kind] = {**KINDS, **WORK_KINDS}
