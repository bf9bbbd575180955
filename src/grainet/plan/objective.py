"""What a plan is chosen by once its builds are made: figure that is seen, joints, weight, cost, or the wood that is opened.

Every measure is told so that less is better, in whole numbers: of a place, of a piece that is sawn into, of a way.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from shapely.geometry import Polygon

from grainet.design.shape import area
from grainet.fit.board_geometry import BoardGeometry
from grainet.job.job import Job
from grainet.plan.candidates import Candidate
from grainet.plan.sawing import whole_volume
from grainet.wood.piece import Piece
from grainet.wood.species import library_with

USUAL_KG_M3 = 600.0
PLAIN_STRENGTH = 0.5  # of figure whose strength nobody measured
Key = tuple[str, str, str]


@dataclass(frozen=True)
class Measure:
    """What each place, each opened piece and each way adds."""

    places: Sequence[int]
    pieces: Mapping[str, int]
    ways: Mapping[Key, int]


def measure_of(job: Job, items: Sequence[Candidate], sheets: Mapping[str, BoardGeometry]) -> Measure | None:
    """The measure that a job asks for; None where it asks for none."""
    places, pieces, ways = [0] * len(items), {}, {}
    if job.objective is None:
        return None
    if job.objective == "joints":
        joints = {(b.id, c.id, w.id): w.joints for b in job.builds for c in b.components for w in c.ways}
        ways = {o.key: joints.get(o.key, 0) for b in job.builds for o in b.options}
    elif job.objective == "cost":
        pieces = {p.id: round(100 * (p.supply.price or 0.0)) for p in job.pieces}
    elif job.objective == "yield":
        pieces = {p.id: round(whole_volume(sheets[p.id]) / 1e3) for p in job.pieces}
    elif job.objective == "weight":
        heavy = {p.id: density_kg_m3(p, sheets[p.id]) for p in job.pieces}
        places = [round(area(c.ring) * c.part.thickness_mm * c.part.leaves * heavy[c.piece] / 1e6) for c in items]
    else:
        by_id = {p.id: p for p in job.pieces}
        places = [-round(figure_seen_mm2(c, by_id[c.piece]) / 10) for c in items]
    return Measure(places, pieces, ways)


def density_kg_m3(piece: Piece, sheet: BoardGeometry) -> float:
    """What a piece weighs, by its own mass, else by its species, else as wood usually does."""
    if piece.mass_kg is not None:
        return piece.mass_kg / whole_volume(sheet) * 1e9
    species = library_with(()).find(piece.species)
    return species.density_12_kg_m3 if species is not None else USUAL_KG_M3


def figure_seen_mm2(one: Candidate, piece: Piece) -> float:
    """How much figure lies where a part is seen, each stretch weighed with its strength, mm2."""
    seen = [p.shape for p in one.orientation.patches if p.kind == "seen"]
    total = 0.0
    for zone in piece.figure:
        if zone.face not in ("through", one.orientation.face_up):
            continue
        there = Polygon([(x - one.seat.x, y - one.seat.y) for x, y in zone.polygon])
        strength = PLAIN_STRENGTH if zone.strength is None else zone.strength
        total += strength * sum(shape.intersection(there).area for shape in seen)
    return float(total)
