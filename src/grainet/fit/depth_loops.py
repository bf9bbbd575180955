"""The loops behind closer places: how deep a part lies in another is worked out, read, and made least by moving one part at a time.

All of them and what they reckon with stand in this one file: what is compiled is kept until this file changes, whatever else does. Arrays throughout:
``lies`` has a row for each part (shift along and across, way of lying), ``pair`` one for each two ways (``depths.Reading``: how the table of the
second, lying by the first, is read), ``spots`` and ``nodes`` one for each way (``plan.nesting``).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from grainet.compiled import compiled

Array = NDArray[np.float64]
Counts = NDArray[np.int64]
Figures = NDArray[np.int16]
Bytes = NDArray[np.uint8]
STEP_MM = 3.0  # between the places of a table
COARSE = 2  # so many of them from one place to the next, where many are looked over at once
BAND = 2  # so many steps on either side of the border the depth is exact; further in it is summed from place to place
PER_MM = 100  # depths are kept in hundredths, and none deeper than 327 mm
FAR = np.float32(1e4)
DIAGONAL = np.float32(math.sqrt(2))
# coarse places of a part in one way, places in whatever way that are made finer, and steps within which a place is the same again
OF_ONE_WAY, MOST_LOOKED_ROUND, BESIDE = 4, 4, 2
SHUT = 1e6  # what a place costs that the board does not give
FINER_MM = (1.5, 0.3, 0.06)  # a place is looked round in these steps, one after another,
REACH = 3  # so many to each side
# what a row of spots has, and one of nodes
LOW_X, LOW_Y, HIGH_X, HIGH_Y, CORNER_X, CORNER_Y, CELL = range(7)
WIDE, HIGH, OPEN, STANDS, FITS, FIT_ROWS, FIT_COLUMNS = range(7)
COST, WAY, X, Y = range(4)  # what a place found has


@compiled
def fill_near(ring: Array, away: NDArray[np.float32], inside: NDArray[np.uint8]) -> None:
    """How far the places of a lattice within ``BAND`` lie from a closed ring, in steps; and which lie inside it, by how often its sides are crossed
    on the way there."""
    high, wide = away.shape
    for k in range(len(ring) - 1):
        x0, y0 = ring[k, 0], ring[k, 1]
        dx, dy = ring[k + 1, 0] - x0, ring[k + 1, 1] - y0
        square = dx * dx + dy * dy
        low, top = min(y0, y0 + dy), max(y0, y0 + dy)
        for y in range(max(0, math.ceil(low - BAND)), min(high - 1, math.floor(top + BAND)) + 1):
            a, b = 0.0, 1.0  # the stretch of the side that may be near this row
            if abs(dy) > 1e-12:
                a, b = (y - BAND - y0) / dy, (y + BAND - y0) / dy
                a, b = max(0.0, min(a, b)), min(1.0, max(a, b))
                if low <= y < top:
                    inside[y, min(wide - 1, max(0, math.ceil(x0 + (y - y0) / dy * dx)))] ^= 1
            xa, xb = x0 + a * dx, x0 + b * dx
            for x in range(max(0, math.ceil(min(xa, xb) - BAND)), min(wide - 1, math.floor(max(xa, xb) + BAND)) + 1):
                on = 0.0 if square == 0 else min(1.0, max(0.0, ((x - x0) * dx + (y - y0) * dy) / square))
                far = math.hypot(x - x0 - on * dx, y - y0 - on * dy)
                if far <= BAND and far < away[y, x]:
                    away[y, x] = far
    for y in range(high):
        for x in range(1, wide):
            inside[y, x] ^= inside[y, x - 1]


@compiled
def fill_inward(away: NDArray[np.float32], inside: NDArray[np.uint8]) -> None:
    """Depths from what is near the border: further in by the way from place to place, outside below 0 and no further than ``BAND``."""
    high, wide = away.shape
    for y in range(high):
        for x in range(wide):
            if not inside[y, x]:
                away[y, x] = -min(away[y, x], np.float32(BAND))
    for turn in range(2):
        step = 1 - 2 * turn
        for j in range(1, high - 1):
            y = j if turn == 0 else high - 1 - j
            for i in range(1, wide - 1):
                x = i if turn == 0 else wide - 1 - i
                if inside[y, x] and away[y, x] > BAND:
                    near = min(away[y, x - step], away[y - step, x]) + np.float32(1)
                    slant = min(away[y - step, x - 1], away[y - step, x + 1]) + DIAGONAL
                    away[y, x] = min(away[y, x], near, slant)


@compiled
def deep_at(fine: Figures, read: Counts, x: float, y: float) -> float:
    """How deep one part lies in another that is shifted so far from it, in hundredths; 0 where it lies clear."""
    u, v = x / STEP_MM - read[0], y / STEP_MM - read[1]
    if u < 0 or v < 0 or u >= read[2] - 1 or v >= read[3] - 1:
        return 0.0
    i, j = int(u), int(v)
    u, v, on, up = u - i, v - j, read[5], read[6]
    at = read[4] + j * up + i * on
    near, further = fine[at] * (1 - u) + fine[at + on] * u, fine[at + up] * (1 - u) + fine[at + up + on] * u
    return max(0.0, float(near * (1 - v) + further * v))


@compiled
def cost_at(
    fine: Figures, pair: Counts, lies: Array, weights: Array, k: int, way: int, x: float, y: float, among: int, most: float
) -> float:
    """How deep a part would lie in the first so many others, each by its weight; no further than ``most``."""
    cost = 0.0
    for q in range(among):
        if q != k and cost < most:
            cost += weights[k, q] * deep_at(fine, pair[int(lies[q, 2]), way], x - lies[q, 0], y - lies[q, 1])
    return cost


@compiled
def find_depths(depths: Array, fine: Figures, pair: Counts, lies: Array) -> None:
    """How deep every two lie in each other, mm."""
    for a in range(len(lies)):
        for b in range(a):
            one, other = int(lies[a, 2]), int(lies[b, 2])
            x, y = lies[b, 0] - lies[a, 0], lies[b, 1] - lies[a, 1]
            depths[a, b] = max(deep_at(fine, pair[one, other], x, y), deep_at(fine, pair[other, one], -x, -y)) / PER_MM
            depths[b, a] = depths[a, b]


@compiled
def allows(spots: Array, nodes: Counts, fits: Bytes, way: int, x: float, y: float) -> bool:
    """Whether the board lets a part lie in a way at a shift, to a cell of its field."""
    if nodes[way, OPEN]:
        return True
    column = min(max(int((x - spots[way, CORNER_X]) / spots[way, CELL] + 0.5), 0), nodes[way, FIT_COLUMNS] - 1)
    row = min(max(int((y - spots[way, CORNER_Y]) / spots[way, CELL] + 0.5), 0), nodes[way, FIT_ROWS] - 1)
    return bool(fits[nodes[way, FITS] + row * nodes[way, FIT_COLUMNS] + column])


@compiled
def fill_ground(
    ground: NDArray[np.float32], coarse: Figures, pair: Counts, spots: Array, nodes: Counts, stands: Array, lies: Array, weights: Array,
    k: int, way: int, among: int,
) -> None:  # fmt: skip
    """What every coarse place costs a part in one way. The last place along and across lies at the very end, whatever the step."""
    wide, high = nodes[way, WIDE], nodes[way, HIGH]
    for at in range(wide * high):
        shut = not nodes[way, OPEN] and np.isnan(stands[nodes[way, STANDS] + at, 0])
        ground[at] = SHUT if shut else 0.0
    for q in range(among):
        if q == k:
            continue
        read, weight = pair[int(lies[q, 2]), way], np.float32(weights[k, q])
        for end in range(4):
            i0, columns, x = (0, wide - 1, spots[way, LOW_X]) if end % 2 == 0 else (wide - 1, 1, spots[way, HIGH_X])
            j0, rows, y = (0, high - 1, spots[way, LOW_Y]) if end < 2 else (high - 1, 1, spots[way, HIGH_Y])
            # the nearest entry of the coarse table: up to a step beside, which is less than from one coarse place to the next
            u = int(round(((x - lies[q, 0]) / STEP_MM - read[0]) / COARSE))
            v = int(round(((y - lies[q, 1]) / STEP_MM - read[1]) / COARSE))
            for j in range(max(0, -v), min(rows, read[9] - v)):
                at, entry = (j0 + j) * wide + i0, read[7] + (v + j) * read[11] + u * read[10]
                if read[10] == 1:  # one behind the other: several at once
                    for i in range(max(0, -u), min(columns, read[8] - u)):
                        ground[at + i] += weight * coarse[entry + i]
                else:
                    for i in range(max(0, -u), min(columns, read[8] - u)):
                        ground[at + i] += weight * coarse[entry - i]


@compiled
def least_of(ground: NDArray[np.float32], count: int, chance: float) -> int:
    """The cheapest place; of several free ones any, or all parts would begin crowded at one end."""
    best, free = 0, 0
    for at in range(count):
        free += ground[at] == 0
        if ground[at] < ground[best]:
            best = at
    pick = int(chance * free)
    for at in range(count if free else 0):
        if ground[at] == 0:
            if pick == 0:
                return at
            pick -= 1
    return best


@compiled
def look_round(
    place: Array, fine: Figures, pair: Counts, spots: Array, nodes: Counts, fits: Bytes, lies: Array, weights: Array, k: int, among: int
) -> None:  # fmt: skip
    """A place made better within a few millimetres, as far as the board allows."""
    way, side = int(place[WAY]), 2 * REACH + 1
    for step in FINER_MM:
        x, y = place[X], place[Y]
        for m in range(side * side if place[COST] > 0 else 0):
            new_x = min(max(x + (m % side - REACH) * step, spots[way, LOW_X]), spots[way, HIGH_X])
            new_y = min(max(y + (m // side - REACH) * step, spots[way, LOW_Y]), spots[way, HIGH_Y])
            if allows(spots, nodes, fits, way, new_x, new_y):
                cost = cost_at(fine, pair, lies, weights, k, way, new_x, new_y, among, place[COST])
                if cost < place[COST]:
                    place[COST], place[X], place[Y] = cost, new_x, new_y


@compiled
def note(place: Array, cost: float, way: int, x: float, y: float) -> None:
    """Write a place down."""
    place[COST], place[WAY], place[X], place[Y] = cost, way, x, y


@compiled
def move(
    k: int, among: int, ways: Counts, chance: Array, lies: Array, weights: Array, fine: Figures, coarse: Figures, pair: Counts,
    spots: Array, nodes: Counts, stands: Array, fits: Bytes, ground: NDArray[np.float32], found: Array,
) -> None:  # fmt: skip
    """Lay a part where it is least in the way of the first so many others, in whichever of some ways. ``found`` is room for the places."""
    now = int(lies[k, 2])
    note(found[0], np.inf, now, lies[k, 0], lies[k, 1])
    if allows(spots, nodes, fits, now, lies[k, 0], lies[k, 1]):
        found[0, COST] = cost_at(fine, pair, lies, weights, k, now, lies[k, 0], lies[k, 1], among, np.inf)
    count = 1
    for way in ways:
        fill_ground(ground, coarse, pair, spots, nodes, stands, lies, weights, k, way, among)
        wide, high = nodes[way, WIDE], nodes[way, HIGH]
        for _ in range(OF_ONE_WAY):
            at = least_of(ground, wide * high, chance[count])
            if ground[at] >= SHUT:
                break
            j, i = at // wide, at % wide
            x = spots[way, HIGH_X] if i == wide - 1 else spots[way, LOW_X] + COARSE * STEP_MM * i
            y = spots[way, HIGH_Y] if j == high - 1 else spots[way, LOW_Y] + COARSE * STEP_MM * j
            if not nodes[way, OPEN]:
                x, y = stands[nodes[way, STANDS] + at, 0], stands[nodes[way, STANDS] + at, 1]
            note(found[count], cost_at(fine, pair, lies, weights, k, way, x, y, among, np.inf), way, x, y)
            count += 1
            for row in range(max(0, j - BESIDE), min(high, j + BESIDE + 1)):
                for column in range(max(0, i - BESIDE), min(wide, i + BESIDE + 1)):
                    ground[row * wide + column] = SHUT
    best = np.inf
    for _ in range(MOST_LOOKED_ROUND):
        at = 0
        for m in range(1, count):
            at = m if found[m, COST] < found[at, COST] else at
        if best <= 0 or found[at, COST] == np.inf:
            break
        look_round(found[at], fine, pair, spots, nodes, fits, lies, weights, k, among)
        if found[at, COST] < best:
            best = found[at, COST]
            lies[k, 0], lies[k, 1], lies[k, 2] = found[at, X], found[at, Y], found[at, WAY]
        found[at, COST] = np.inf
