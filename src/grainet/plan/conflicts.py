"""Which candidates of one piece cannot both be sawn: cliques over a lattice of points, and the colliding pairs these miss.

"outline": clear distance at least the outline kerf. "straight": the boxes stand a crosscut kerf apart along or a rip kerf across.
A part that is cleaned up after sawing keeps that wood to itself too.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import Candidate

EPS = 1e-6


Indices = NDArray[np.int32]
LARGEST = 1000  # sets against which the others are checked


@dataclass(frozen=True, eq=False)
class Conflicts:
    """Index sets over the given candidates: at most one of each clique, not both of each pair. There may be hundreds of thousands of them:
    the members of all cliques in one row with the place where each clique ends, and pairs of shape (n, 2)."""

    members: Indices
    ends: Indices
    pairs: Indices

    @classmethod
    def of(cls, cliques: Sequence[Sequence[int]], pairs: Sequence[tuple[int, int]] | Indices) -> Conflicts:
        """Of sets as they are told."""
        return cls(
            np.fromiter((k for clique in cliques for k in clique), np.int32), np.cumsum([len(c) for c in cliques], dtype=np.int32),
            np.asarray(pairs, np.int32).reshape(-1, 2),
        )  # fmt: skip

    @property
    def cliques(self) -> Iterator[list[int]]:
        """The cliques, one after another."""
        begin = 0
        for end in self.ends.tolist():
            yield self.members[begin:end].tolist()
            begin = end


def conflicts(items: Sequence[Candidate], kit: CutKit) -> Conflicts:
    """All conflicts among candidates of one piece."""
    if len(items) < 2:
        return Conflicts.of((), ())
    grown = _grown(items, kit)
    bounds = shapely.bounds(grown)
    cover = _cover(grown, bounds)
    shared = (cover @ cover.T) > 0
    a, b = np.nonzero(np.triu(_boxes_meet(bounds) & ~shared, 1))
    if len(a):
        hit = _collide(items, kit, a, b)
        a, b = a[hit], b[hit]
    cliques, pairs = _maximal(cover), np.stack([a, b], axis=1).astype(np.int32)
    if any(c.pair is not None for c in items):
        return Conflicts.of(*_without_pairs(items, cliques, pairs))
    return Conflicts.of(cliques, pairs)


def _without_pairs(
    items: Sequence[Candidate], cliques: list[tuple[int, ...]], pairs: Indices
) -> tuple[list[tuple[int, ...]], list[tuple[int, int]]]:
    """The copies of a pair are no conflict of one another: they lie only the kerf between them apart. In a set one stands for both, since
    both are taken or none."""
    fewer = []
    for clique in cliques:
        one_each = {items[k].pair or k: k for k in reversed(clique)}  # the first of each pair
        if len(one_each) > 1:
            fewer.append(tuple(sorted(one_each.values())))
    return fewer, [(i, j) for i, j in pairs.tolist() if items[i].pair is None or items[i].pair != items[j].pair]


def _grown(items: Sequence[Candidate], kit: CutKit) -> NDArray[np.object_]:
    """Footprints grown by just under half a kerf, so that two that overlap are nearer than a kerf."""
    polygons = np.array([c.claimed(kit) for c in items], dtype=object)
    if kit.cutting == "straight":
        half = np.array([kit.kerf_mm.crosscut, kit.kerf_mm.rip]) / 2 - EPS
        box = shapely.bounds(polygons)
        return np.asarray(shapely.box(box[:, 0] - half[0], box[:, 1] - half[1], box[:, 2] + half[0], box[:, 3] + half[1]))
    return np.asarray(shapely.buffer(polygons, kit.kerf_mm.outline / 2 - EPS, quad_segs=6))


def _boxes_meet(bounds: NDArray[np.float64]) -> NDArray[np.bool_]:
    x0, y0, x1, y1 = (bounds[:, k] for k in range(4))
    return (x0[:, None] < x1) & (x0 < x1[:, None]) & (y0[:, None] < y1) & (y0 < y1[:, None])


def _cover(grown: NDArray[np.object_], bounds: NDArray[np.float64]) -> NDArray[np.float32]:
    """Row per candidate, column per lattice point: 1 where the grown footprint holds the point, shape (n, points)."""
    low, high = bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)
    across = float((bounds[:, 3] - bounds[:, 1]).min())
    along = float((bounds[:, 2] - bounds[:, 0]).min())
    step = np.clip([along / 6, across / 6], 4, 20)
    xs, ys = (np.arange(lo + s / 2, hi, s) for lo, hi, s in zip(low, high, step))
    if len(xs) * len(ys) > 6000:
        xs = xs[:: int(np.ceil(len(xs) * len(ys) / 6000))]
    gx, gy = (g.ravel() for g in np.meshgrid(xs, ys))
    cover = np.zeros((len(grown), len(gx)), np.float32)
    shapely.prepare(grown)
    for k, polygon in enumerate(grown):
        x0, y0, x1, y1 = bounds[k]
        inside = np.flatnonzero((gx > x0) & (gx < x1) & (gy > y0) & (gy < y1))
        cover[k, inside] = shapely.contains_xy(polygon, gx[inside], gy[inside])
    return cover


def _collide(items: Sequence[Candidate], kit: CutKit, a: NDArray[np.int64], b: NDArray[np.int64]) -> NDArray[np.bool_]:
    polygons = np.array([c.claimed(kit) for c in items], dtype=object)
    if kit.cutting == "straight":
        return np.ones(len(a), bool)  # grown boxes that meet are too near, by construction
    kerf = kit.kerf_mm.outline
    shapely.prepare(polygons)
    near: NDArray[np.bool_] = (
        shapely.dwithin(polygons[a], polygons[b], kerf - EPS)
        if kerf
        else shapely.relate_pattern(polygons[a], polygons[b], "T********")
    )
    shapely.destroy_prepared(polygons)  # they live as long as their places, and would keep ten times their own memory
    return near


def _maximal(cover: NDArray[np.float32]) -> list[tuple[int, ...]]:
    """The candidates that hold a point together, for every point; without those that stand wholly within a larger set (checked against
    the largest thousand)."""
    columns = cover.T > 0
    _, first = np.unique(np.packbits(columns, axis=1), axis=0, return_index=True)
    columns = columns[first]
    sizes = columns.sum(axis=1)
    order = np.argsort(-sizes, kind="stable")
    order = order[sizes[order] > 1]
    columns, sizes = columns[order], sizes[order]
    shared = columns.astype(np.float32) @ columns[:LARGEST].astype(np.float32).T
    within = (shared == sizes[:, None]) & (sizes[:, None] < sizes[None, :LARGEST])
    return sorted(tuple(np.flatnonzero(column).tolist()) for column in columns[~within.any(axis=1)])
