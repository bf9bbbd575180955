"""Invented jobs whose best plan is known or hard: planted grids and racks, strips of mirrored halves, racks that are too small for all."""

from __future__ import annotations

import numpy as np

from grainet.demo.designs import HALF
from tests.jobs import job, part, piece, rect

KERF = {"crosscut": 3, "rip": 3, "resaw": 1.2, "outline": 3}
HALF_RING = [[float(x), float(y)] for x, y in HALF]
# outline (None: a box), length, width, thickness, worth
CATALOGUE = (
    ("half", HALF_RING, 449, 167, 44, 9.0), ("neck", None, 690, 80, 22, 6.0), ("small", None, 480, 60, 9, 2.5), ("wing", None, 420, 110, 40, 4.0),
    ("plate", None, 210, 90, 5, 1.2), ("ear", None, 190, 45, 20, 0.8),
)  # fmt: skip


def grid(seed: int):  # type: ignore[no-untyped-def]
    """A board that so many alike fill exactly: the job and its best value."""
    r = np.random.default_rng(seed)
    long, wide = float(r.integers(90, 400)), float(r.integers(40, 140))
    n, m = int(r.integers(2, 9)), int(r.integers(1, 6))
    board = piece("A", n * long + (n - 1) * 3, m * wide + (m - 1) * 3, 30)
    cutting = "straight" if seed % 2 else "outline"
    return job([board], [part("p", long, wide, 20, value=1.0, tilt_deg=0)], {"kerf_mm": KERF, "cutting": cutting}), n * m


def planted(seed: int, boards: int = 40):  # type: ignore[no-untyped-def]
    """A rack of boards that parts were cut into before anybody asked, with troubles beside them: the job and its best value."""
    r = np.random.default_rng(seed)
    counts, pieces = dict.fromkeys((c[0] for c in CATALOGUE), 0), []
    for b in range(boards):
        chosen = [CATALOGUE[int(r.integers(0, len(CATALOGUE)))] for _ in range(int(r.integers(1, 5)))]
        width = max(c[3] for c in chosen) + float(r.uniform(0, 6))
        length = sum(c[2] for c in chosen) + 3 * (len(chosen) - 1) + float(r.uniform(0, 8))
        marks, x = [], 0.0
        for name, _, long, wide, *_ in chosen:
            counts[name] += 1
            if width - wide > 25 and r.random() < 0.6:
                a, y = float(x + r.uniform(0, long - 40)), float(r.uniform(wide + 4, width - 12))
                marks.append({"id": f"d{len(marks)}", "kind": "rot", "face": "through", "polygon": rect(30, 8, a, y)})
            x += long + 3
        pieces.append(piece(f"B{b}", length, width, max(c[4] for c in chosen) + 2, defects=marks))
    parts = [
        {"id": name, "outline": ring or rect(long, wide), "thickness_mm": thick, "value": value, "quantity": counts[name], "tilt_deg": 1}
        for name, ring, long, wide, thick, value in CATALOGUE if counts[name]
    ]  # fmt: skip
    return job(pieces, parts, {"kerf_mm": KERF}), sum(p["value"] * p["quantity"] for p in parts)


def strip(width: float, length: float, pairs: int = 6):  # type: ignore[no-untyped-def]
    """So many mirrored halves on one strip."""
    other = [[x, -y] for x, y in HALF_RING][::-1]
    parts = [
        {"id": name, "outline": ring, "thickness_mm": 20, "value": 1, "quantity": pairs, "tilt_deg": 2, "turns_deg": [0, 180]}
        for name, ring in (("left", HALF_RING), ("right", other))
    ]
    return job([piece("A", length, width, 30)], parts, {"kerf_mm": KERF})


def contested(seed: int, builds: int = 12, pieces: int = 16):  # type: ignore[no-untyped-def]
    """More builds than a rack of odd boards gives: two halves (dearer from one board), a neck and a fretboard each."""
    r = np.random.default_rng(seed)
    boards = []
    for b in range(pieces):
        kind = r.random()
        sizes = ((700, 2000, 150, 380, 46, 56), (700, 1700, 75, 190, 24, 34), (470, 1000, 55, 130, 8, 12))[
            (kind >= 0.5) + (kind >= 0.8)
        ]
        length, width, thick = (float(r.integers(*sizes[k : k + 2])) for k in (0, 2, 4))
        marks = []
        for d in range(int(r.integers(0, 6))):
            x, y, long, wide = (float(r.uniform(*span)) for span in ((0, length - 60), (0, width - 20), (6, 60), (4, 20)))
            kind_of = str(r.choice(["knot", "rot", "nail", "sap", "loose_knot"]))
            marks.append({"id": f"d{d}", "kind": kind_of, "face": "through", "polygon": rect(long, wide, x, y)})
        xs = np.linspace(0, length, 6)
        live = [[float(x), round(float(r.uniform(0, 8)), 1)] for x in xs]
        live += [[float(x), round(float(width - r.uniform(0, 8)), 1)] for x in xs[::-1]]
        ring = live if r.random() < 0.5 else rect(length, width)
        boards.append({"id": f"B{b}", "outline": ring, "thickness_mm": thick, "defects": marks})
    parts, wanted = [], []
    for k in range(builds):
        size = float(r.uniform(0.85, 1.05))
        half = [[x * size, y * size] for x, y in HALF_RING]
        parts += [
            {"id": f"h{k}", "outline": half, "thickness_mm": 44, "tilt_deg": 2, "mirror": True},
            {"id": f"n{k}", "outline": rect(float(r.integers(600, 700)), 78), "thickness_mm": 22, "tilt_deg": 1},
            {"id": f"f{k}", "outline": rect(470, 60), "thickness_mm": 7, "tilt_deg": 1},
        ]
        value, needs = float(r.integers(100, 200)), {f"h{k}": 2, f"n{k}": 1, f"f{k}": 1}
        one = {"id": "one board", "value": value + 20, "needs": needs, "same_piece": [f"h{k}"]}
        wanted.append({"id": f"b{k}", "recipes": [one, {"id": "two", "value": value, "needs": needs}]})
    return job(boards, parts, {"kerf_mm": KERF, "skim_mm": 0.5, "metal_clear_mm": 15}, wanted)
