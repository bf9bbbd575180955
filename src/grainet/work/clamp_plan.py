"""Which clamps go where on a joint: how many by the cone and by the force, in which rows, on which side; and what to do with too few.

Sources: notes on glue and clamps. A clamp presses in a cone of 45 degrees, counted along and across the joint; a face wider than 100 wants
more than one row. Joints that the same clamps close in one glue-up ask for the force of the largest one, once. A thin seam that two fingers close
may be drawn tight with strong tape instead, which presses far less. The label in hand wins.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from grainet.kit.gluing import Glue
from grainet.work.clamping import EPOXY_MPA, MOST_SPACING_MM
from grainet.work.operation import ClampSpot, Operation, ShopClamp
from grainet.work.other_ways import CAULS, CLAMPED, TAPED, WAYS

FACE_MPA = 0.7
ONE_ROW_MM = 100.0  # a wider face is not pressed by one row
STIFF_CAUL = 2  # a stiff caul spreads a clamp over twice the length
THIN_SEAM_MM, TAPE_EVERY_MM = 12.0, 40.0  # a deeper seam is no joint for tape; one strip to the next, over and under by turns

Kind = Literal["edge", "face", "stack", "scarf"]


@dataclass(frozen=True)
class Joined:
    """What is to be pressed together: the glued face of one line (along, across), the member that the pressure spreads through (a board's
    width at an edge, its thickness at a face), what a clamp must open over, and how many lines are closed at once, mm."""

    kind: Kind
    long_mm: float
    wide_mm: float
    thin_mm: float
    over_mm: float
    lines: int = 1

    @property
    def face_mm2(self) -> float:
        """One line's face."""
        return self.long_mm * self.wide_mm


@dataclass(frozen=True)
class ClampPlan:
    """The clamps of one glue-up: where each stands, in the order in which they are tightened; what is wanted and what it comes to."""

    rows: int
    by_cone: int
    wanted: int
    pressure_mpa: float
    force_kn: float
    spots: tuple[ClampSpot, ...]
    gives_kn: float
    opens_mm: float
    ways: tuple[str, ...]  # what to do where there are too few
    way: str = CLAMPED

    @property
    def words(self) -> str:
        """What presses it."""
        if self.way == TAPED:
            return (
                f"{self.wanted} strips of strong tape, over and under by turns, the middle first; {self.force_kn:.1f} kN in all"
            )
        rows = f" in {self.rows} rows" if self.rows > 1 else ""
        cauls = " under stiff cauls" if self.way == CAULS else ""
        return f"{self.wanted} clamps{rows}{cauls}, {self.force_kn:.1f} kN in all, the middle first"

    @property
    def lacks(self) -> int:
        """How many clamps are wanted beyond those that stand."""
        return max(0, self.wanted - len(self.spots))


def pressure_of(kind: Kind, basic_sg: float, glue: Glue, house_mpa: float | None = None) -> float:
    """The pressure of a joint, MPa: the house's own figure; 0.7 for faces, 0.2 + 2 Gb within 0.7 to 1.7 for edges; a glue that fills gaps
    wants contact alone."""
    if house_mpa is not None:
        return house_mpa
    if glue.fills_gaps and not glue.water_based:
        return EPOXY_MPA
    return FACE_MPA if kind != "edge" else min(1.7, max(0.7, 0.2 + 2 * basic_sg))


def rows_of(joined: Joined, caul_mm: float) -> int:
    """How many rows of clamps across the glued face."""
    rows = math.ceil(joined.wide_mm / min(MOST_SPACING_MM, 2 * (joined.thin_mm + caul_mm)) - 1e-9)
    least = 2 if joined.kind != "edge" and joined.wide_mm > ONE_ROW_MM else 1
    return max(rows, least)


def clamp_plan(
    joined: Joined, pressure_mpa: float, clamps: Sequence[ShopClamp], caul_mm: float = 20.0, *, stiff: bool = False
) -> ClampPlan:
    """The clamps for a joint out of the shop's: the strongest that open far enough, as many as cone and force ask for; of those alike
    the first. Under ``stiff`` cauls each reaches twice as far along."""
    rows = rows_of(joined, caul_mm)
    spacing = min(MOST_SPACING_MM, 2 * (joined.thin_mm + caul_mm)) * (STIFF_CAUL if stiff else 1)
    each_row = max(2, math.ceil(joined.long_mm / spacing - 1e-9))
    by_cone, force = rows * each_row, joined.face_mm2 * pressure_mpa / 1000
    opens = joined.over_mm + 2 * caul_mm
    able = sorted(
        (c for c in clamps if c.opens_mm >= opens - 1e-9), key=lambda c: (-c.force_kn, c.opens_mm)
    )  # alike ones as they come
    wanted = by_cone
    while sum(c.force_kn for c in able[:wanted]) < force - 1e-9 and wanted < len(able):
        wanted += 1
    if (short := force - sum(c.force_kn for c in able[:wanted])) > 1e-9:
        usual = able[0].force_kn if able and able[0].force_kn else 2.0
        wanted = max(wanted, min(wanted, len(able)) + math.ceil(short / usual - 1e-9))
    used = able[:wanted]
    stand_in = rows if len(used) >= wanted else max(1, min(rows, round(math.sqrt(len(used) * joined.wide_mm / joined.long_mm))))
    plan = ClampPlan(
        rows, by_cone, wanted, pressure_mpa, force, _spots(used, joined, stand_in), sum(c.force_kn for c in used), opens, (),
        CAULS if stiff else CLAMPED,
    )  # fmt: skip
    return plan if not plan.lacks else _with_ways(plan, joined)


def taped(joined: Joined, strips: Sequence[ShopClamp]) -> ClampPlan | None:
    """A seam drawn tight with tape; None where it is too deep for tape, or the shop has too little that reaches across."""
    count = max(2, math.ceil(joined.long_mm / TAPE_EVERY_MM - 1e-9))
    able = [s for s in strips if s.opens_mm >= joined.over_mm - 1e-9][:count]
    if joined.kind != "edge" or joined.wide_mm > THIN_SEAM_MM or len(able) < count:
        return None
    force = sum(s.force_kn for s in able)
    spots = _spots(able, joined, 1)
    return ClampPlan(1, count, count, 1000 * force / joined.face_mm2, force, spots, force, joined.over_mm, (), TAPED)


def is_taped(one: Operation) -> bool:
    """Whether a glue-up is drawn shut with tape."""
    return bool(one.settings.get("way") == TAPED)


def pressed_with(one: Operation) -> str:
    """What stands on a glue-up, in words: 6 clamps, 13 strips of tape; empty for anything else."""
    count = len(one.clamps)
    if is_taped(one):
        return f"{count} strips of tape"
    return f"{count} clamp{'s' if count != 1 else ''}" if count else ""


def _spots(clamps: Sequence[ShopClamp], joined: Joined, rows: int) -> tuple[ClampSpot, ...]:
    """Where they stand: evenly in their rows (too few of them in as many rows as spread them evenly), over and under by turns at an edge joint; the middle is tightened first."""
    if not clamps:
        return ()
    each = [len(clamps) // rows + (k < len(clamps) % rows) for k in range(rows)]
    places = [
        (joined.long_mm * (i + 0.5) / count, joined.wide_mm * (row + 0.5) / rows)
        for row, count in enumerate(each)
        for i in range(count)
    ]
    middle = (joined.long_mm / 2, joined.wide_mm / 2)
    order = sorted(range(len(places)), key=lambda k: (round(math.dist(places[k], middle), 3), k))
    along = {k: n for n, k in enumerate(sorted(range(len(places)), key=lambda k: places[k][0]))}
    turns = joined.kind == "edge"
    return tuple(
        ClampSpot(
            clamp=clamp.id, x_mm=round(places[k][0], 1), y_mm=round(places[k][1], 1),
            side="under" if turns and along[k] % 2 else "over",
        )
        for clamp, k in zip(clamps, order)
    )  # fmt: skip


def _with_ways(plan: ClampPlan, joined: Joined) -> ClampPlan:
    """The same with what to do: each a way that needs fewer clamps, and what it comes to."""
    ways = []
    stiff = plan.rows * max(2, math.ceil(plan.by_cone / plan.rows / STIFF_CAUL))
    if stiff < plan.wanted and plan.gives_kn >= plan.force_kn - 1e-9 and plan.way == CLAMPED:
        ways.append(f"stiff cauls along the joint: {stiff} clamps cover it")
    if joined.kind != "edge":
        ways.append("a press, or a vacuum bag on a flat board")
    if joined.kind == "edge" and joined.wide_mm <= THIN_SEAM_MM:
        ways.append(f"where two fingers close it, {WAYS[TAPED]}")
    ways.append(f"borrow {plan.lacks}")
    return ClampPlan(**{**plan.__dict__, "ways": tuple(ways)})


def lines_a_stage(glue: Glue, pace: float, seconds_a_face: float) -> int:
    """How many lines may be spread before the first one skins over: the label's open time, shorter where it is warm, never longer."""
    open_s = 60 * glue.open_min * min(1.0, pace)
    return max(1, math.floor(open_s / seconds_a_face + 1e-9)) if seconds_a_face > 0 else 1000


def spread_g(face_mm2: float, lines: int, g_m2: float) -> float:
    """Grams of glue for so many lines."""
    return face_mm2 * lines * g_m2 * 1e-6
