"""Halves that are ripped or crosscut from one board and moved together: what of its face is lost between them, and how far both slide."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from grainet.design.instrument import Instrument
from grainet.design.let_in import top_outline
from grainet.design.part import Part
from grainet.design.shape import Array, area, as_array, placed
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.orientation import Orientation
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.picture.solid import look_of
from grainet.present.by_hand import Hand
from grainet.present.match_view import as_far_as
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, tell_length

EITHER_MM2 = 50.0  # of wood beyond an outline, from which its halves are told to be sawn larger


@dataclass(frozen=True)
class Joined:
    """Two copies of a part from one face: folded about a rip (mirror images), or slipped along a crosscut (the picture repeats)."""

    part: Part
    piece: Piece
    one: Placement  # the one nearer the near edge, or the marked end
    two: Placement
    lost_mm: float

    @property
    def folded(self) -> bool:
        """Whether it is a fold."""
        return self.part.fold

    @cached_property
    def rings(self) -> tuple[Array, Array]:
        """Both outlines as they lie."""
        return as_array(self.one.polygon), as_array(self.two.polygon)

    @cached_property
    def seam_y(self) -> float:
        """Where the seam lies across the board once they are together: at the first copy's far side."""
        return float(self.rings[0][:, 1].max())

    @cached_property
    def move(self) -> tuple[float, float]:
        """What the second copy moves to lie against the first, mm along and across."""
        (one, two) = self.rings
        if self.folded:
            return 0.0, self.seam_y - float(two[:, 1].min())
        return float(one[:, 0].min() - two[:, 0].min()), self.seam_y - float(two[:, 1].min())

    def outline_of(self, guitar: Instrument | None) -> Array | None:
        """The instrument's own outline on a fold whose halves are sawn larger than either, since they differ; on the board, as the face that
        shows has it seen from face 1. None where the halves are what they are sawn to."""
        component = self.part.id.removeprefix(f"{guitar.id}.").partition(".")[0] if guitar is not None else ""
        if guitar is None or not self.folded or component not in ("body", "cap"):
            return None
        drawn = as_array(top_outline(guitar) if component == "cap" else guitar.body.outline)
        one = self.rings[0]
        if not len(drawn) or area(drawn) > 2 * area(one) - EITHER_MM2:
            return None
        way = Orientation(self.part, self.one.angle_deg, self.one.mirror, self.one.face_up)
        ax, bx = placed(as_array(((0.0, 0.0), (1.0, 0.0))), 0, 0, way.angle_deg, turned_over=way.turned_over)[:, 0]
        along = drawn[:, 0] - drawn[:, 0].min()
        xs = one[:, 0].min() + along if bx > ax else one[:, 0].max() - along
        up = 1.0 if (bx > ax) == (self.one.face_up == "1") else -1.0
        return np.stack([xs, self.seam_y + up * drawn[:, 1]], axis=1)

    @property
    def shown_at_mm(self) -> float:
        """How deep in the board the face lies that shows."""
        return self.one.z_top_mm + (0.0 if self.one.face_up == "1" else self.one.finished_mm)

    def told(self, style: LengthStyle = "mm") -> str:
        """What it is and what is lost, in a sentence, as the house reads lengths."""
        lost = tell_length(self.lost_mm, style, ".1f")
        if self.folded:
            return f"Ripped apart and moved together: {lost} of the face is lost at the seam"
        return f"Sawn apart and laid side by side: the picture repeats, {lost} was lost between them"

    @cached_property
    def rings_lost(self) -> float | None:
        """How many rings of the face are lost at the seam of a fold; None for a slip, or where the rings are not read."""
        angles = [a for a in self.piece.ring_angle_deg or () if a is not None]
        if not self.folded or not angles:
            return None
        angle = math.radians(float(np.mean(angles)))
        return self.lost_mm * math.sin(angle) / look_of(self.piece.species).ring_mm


def joined_of(job: Job, plan: Plan) -> list[Joined]:
    """Every folded or slipped pair of a plan."""
    found = []
    rows = [p for p in plan.placements if p.leaf == 1 and (job.part(p.part).fold or job.part(p.part).slip)]
    by: dict[tuple[object, ...], list[Placement]] = {}
    for row in rows:
        by.setdefault((row.build, row.part, row.set), []).append(row)
    for pair in by.values():
        if len(pair) == 2 and pair[0].piece == pair[1].piece:
            part = job.part(pair[0].part)
            k = 1 if part.fold else 0
            one, two = sorted(pair, key=lambda p: min(c[k] for c in p.polygon))
            lost = min(c[k] for c in two.polygon) - max(c[k] for c in one.polygon)
            found.append(Joined(part, job.piece(one.piece), one, two, lost))
    return found


def room_to_slide(pair: Joined, sheet: BoardGeometry, others: Sequence[Placement]) -> tuple[float, float]:
    """How far both copies slide toward the marked end, and away from it, mm, beside what else is laid on the board."""
    from shapely.geometry import Polygon

    kerf = sheet.kit.kerf_mm.outline
    taken = [Polygon(p.polygon).buffer(kerf - 1e-6) for p in others]
    exact = [(Exact(sheet, _way(pair.part, p)), p) for p in (pair.one, pair.two)]

    def holds(by: float) -> bool:
        for one, p in exact:
            if not isinstance(one.seat(p.x + by, p.y), ExactPlacement):
                return False
            ring = as_array(p.polygon) + (by, 0.0)
            if any(Polygon(ring).intersects(shape) for shape in taken):
                return False
        return True

    return as_far_as(holds, -1), as_far_as(holds, 1)


def hands_at(pair: Joined, by_mm: float) -> tuple[Hand, Hand]:
    """Both copies in the hand, so much further along."""
    one, two = (Hand(p.part, p.piece, _way(pair.part, p), p.x + by_mm, p.y, p) for p in (pair.one, pair.two))
    return one, two


def _way(part: Part, p: Placement) -> Orientation:
    return Orientation(part, p.angle_deg, p.mirror, p.face_up)
