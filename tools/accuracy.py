"""How well pictures are read, on boards of the solid-wood model whose truth is known: errors, recall and false marks, as a table.

`./run accuracy` prints all of it; the tests take a few rows. Hard cases: curl, ray fleck, cathedrals, dark streaks, a bent lens,
blur, uneven light.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from grainet.instruments.camera import straightedge_flat
from grainet.picture.board_edge import board_edges
from grainet.picture.end_grain import end_grain
from grainet.picture.figure import figure_of
from grainet.picture.grain import slope_of_grain
from grainet.picture.rectify import fit, warp
from grainet.picture.scene import Camera, photograph
from grainet.picture.solid import Block, Knot, Nail, climb_of, look_of, paint_end, paint_face
from grainet.picture.straightedge import gap_under
from grainet.picture.troubles import troubles_of
from grainet.wood.photo import TruePoint

STEP, FINE = 0.8, 0.5  # mm a pixel of the true pictures
PLAIN = Camera()
HARD = {
    "plain": PLAIN, "bent lens": replace(PLAIN, lens=-0.05), "blur": replace(PLAIN, blur_px=1.6), "uneven light": replace(PLAIN, uneven=0.55),
    "all three": replace(PLAIN, lens=-0.05, blur_px=1.2, uneven=0.45),
}  # fmt: skip
WOODS = {
    "maple": "Sugar maple", "walnut, dark streaks": "walnut", "ash": "European ash", "beech, ray fleck": "European beech", "curly sycamore": "sycamore",
    "oak, ray fleck": "oak", "spruce": "spruce",
}  # fmt: skip


@dataclass(frozen=True)
class Row:
    """One line of the table: what, under which conditions, figures."""

    what: str
    case: str
    text: str
    figures: tuple[float, ...]


def block(seed: int, wood: str, width: float, thickness: float = 30.0, **more) -> Block:  # type: ignore[no-untyped-def]
    return Block(seed, look_of(wood), width, thickness, **more)


def face(one: Block, length: float, z: float = 0.0, step: float = STEP):  # type: ignore[no-untyped-def]
    """The face of a block from x = 0, row 0 at the far edge."""
    return _painted(one, length, z, step).copy()


@lru_cache(maxsize=2)
def _painted(one: Block, length: float, z: float, step: float):  # type: ignore[no-untyped-def]
    """One board before several cameras is painted once."""
    xs, ys = np.arange(0, length, step) + step / 2, np.arange(0, one.width, step) + step / 2
    return paint_face(one, xs, ys, z)[::-1]


def clicked(true, places, rng, error_px: float):  # type: ignore[no-untyped-def]
    """Points as a person clicks them: (u, v, whether u is known) to TruePoints with a click's error."""
    px = true.to_px(np.array([(u, v) for u, v, _ in places])) + rng.normal(0, error_px, (len(places), 2))
    return [TruePoint(px=float(x), py=float(y), u_mm=u if known else None, v_mm=v) for (x, y), (u, v, known) in zip(px, places)]


def corners_of(length: float, width: float):  # type: ignore[no-untyped-def]
    return [(0.0, width, True), (length, width, True), (length, 0.0, True), (0.0, 0.0, True)]


def along_edges(length: float, width: float, count: int = 3):  # type: ignore[no-untyped-def]
    return [(length * k / (count + 1), v, False) for v in (0.0, width) for k in range(1, count + 1)]


def rectifying(seeds: range = range(6)) -> Iterator[Row]:
    """Worst place error over the board in mm per 500 mm of length, clicks off by 0.3 px."""
    length, width = 1000.0, 200.0
    for case, extra in (("4 corners", []), ("4 + 6 on the edges", along_edges(length, width))):
        for name, lens in (("straight lens", 0.0), ("bent lens", -0.05)):
            worst, message = [], []
            for seed in seeds:
                rng = np.random.default_rng(seed)
                camera = Camera(3000, 1400, 8 + 3 * seed, 10 - 4 * seed, seed, lens)
                from grainet.picture.scene import true_map

                true = true_map(camera, (0, 0, length, width))
                found = fit(clicked(true, corners_of(length, width) + extra, rng, 0.3), true.size)
                grid = np.stack(np.meshgrid(np.linspace(0, length, 21), np.linspace(0, width, 9)), -1).reshape(-1, 2)
                off = np.hypot(*(found.to_mm(true.to_px(grid)) - grid).T)
                worst.append(off.max())
                message.append(found.doubt_mm)
            yield Row(
                "true to scale",
                f"{case}, {name}",
                f"worst {max(worst):.2f} mm on {length:.0f}, says it may be off {np.mean(message):.1f} mm",
                (max(worst) / length * 500, float(np.mean(message))),
            )


def slopes(seeds: range = range(5)) -> Iterator[Row]:
    """Error of the slope of grain in degrees, on rectified faces."""
    for name, wood in WOODS.items():
        off = []
        for seed in seeds:
            slope = [-4.0, -1.5, 0.0, 2.0, 5.0][seed % 5]
            one = block(100 + seed, wood, 180, angle_deg=[70, 20, 45, 85, 10][seed % 5], slope_deg=slope)
            off.append(slope_of_grain(face(one, 700, step=FINE), 1 / FINE).slope_deg - true_slope(one, 700))
        yield Row("slope of grain", name, _errors(off, "°"), (float(np.median(np.abs(off))), float(np.max(np.abs(off)))))
    off = []
    for seed, (_case, camera) in enumerate(HARD.items()):
        slope = 2.0 - seed
        one = block(40 + seed, "maple", 180, slope_deg=slope)
        picture = shot(one, 700, replace(camera, width_px=2400, height_px=1000), seed, FINE)[0]
        off.append(slope_of_grain(picture, 1 / FINE).slope_deg - true_slope(one, 700))
    yield Row(
        "slope of grain",
        "photos: " + ", ".join(HARD),
        _errors(off, "°"),
        (float(np.median(np.abs(off))), float(np.max(np.abs(off)))),
    )


def true_slope(one: Block, length: float) -> float:
    """How far a face's fibres climb over its length, in degrees: the slope that was asked for and the stem's own bends."""
    start, end = climb_of(one, np.array([0.0, length]))
    return float(np.degrees(np.arctan((end - start) / length)))


def shot(one: Block, length: float, camera: Camera, seed: int, step: float = STEP):  # type: ignore[no-untyped-def]
    """A face photographed, its corners and edges clicked, made true again: the picture and the fitted map."""
    rect = (0.0, 0.0, length, one.width)
    photo, true = photograph(face(one, length, step=step), rect, camera, seed)
    found = fit(
        clicked(true, corners_of(length, one.width) + along_edges(length, one.width), np.random.default_rng(seed), 0.4), true.size
    )
    return warp(photo, found, rect, 1 / step), found


def figures(seeds: range = range(4)) -> Iterator[Row]:
    """Figured or not, wavelength and strength."""
    for curl in (0.25, 0.5, 0.9):
        waves, strengths, called = [], [], 0
        for seed in seeds:
            one = block(60 + seed, "maple", 180)
            one = replace(one, look=replace(one.look, curl=curl))
            found = figure_of(face(one, 700), 1 / STEP)
            called += found.figured
            if found.figured:
                waves.append(found.wavelength_mm / 11.5 - 1)
                strengths.append(found.strength - curl)
        text = f"called figured {called} of {len(seeds)}" + (
            f", wavelength off {100 * np.median(np.abs(waves)):.0f} %, strength off {np.median(np.abs(strengths)):.2f}"
            if waves
            else ""
        )
        yield Row(
            "figure",
            f"curl {curl}",
            text,
            (
                called / len(seeds),
                float(np.median(np.abs(waves))) if waves else 1.0,
                float(np.median(np.abs(strengths))) if waves else 1.0,
            ),
        )
    false, count = 0, 0
    for name, wood in WOODS.items():
        if "sycamore" in name:
            continue
        for seed in seeds:
            false += figure_of(face(block(80 + seed, wood, 180, angle_deg=[80, 15, 45, 65][seed % 4]), 700), 1 / STEP).figured
            count += 1
    yield Row("figure", "plain woods, fleck, cathedrals, streaks", f"wrongly called figured {false} of {count}", (false / count,))


def rings(seeds: range = range(8)) -> Iterator[Row]:
    """Error of the ring angle at an end, in degrees."""
    for name in ("maple", "oak", "walnut", "spruce"):
        off = []
        for seed in seeds:
            angle = 5.0 + 80.0 * seed / (len(seeds) - 1)
            one = block(20 + seed, name, 120, 45, angle_deg=angle)
            image = paint_end(one, np.arange(0, 120, 0.5) + 0.25, np.arange(0, 45, 0.5) + 0.25, 0.0)
            off.append(end_grain(image, 2.0).angle_deg - true_angle(one))
        yield Row("ring angle", name, _errors(off, "°"), (float(np.median(np.abs(off))), float(np.max(np.abs(off)))))


def true_angle(one: Block) -> float:
    """The angle between rings and wide face at the middle of the end, from the block's own pith."""
    py, pz = one.pith
    return float(np.degrees(np.arctan2(abs(py - one.width / 2), abs(pz - one.thickness / 2))))


def live_edges(seeds: range = range(5)) -> Iterator[Row]:
    """Error of a live edge's outline in mm."""
    for case, camera in HARD.items():
        off, missed = [], 0
        for seed in seeds:
            picture, near, far, true_rect = slab_photo(seed, camera)
            found = board_edges(picture, 1 / STEP)
            if found is None:
                missed += 1
                continue
            u = found.u_mm[20:-20]
            off += list(np.abs(np.interp(u, found.u_mm, found.near_mm) + true_rect[1] - near(u + true_rect[0])))
            off += list(np.abs(np.interp(u, found.u_mm, found.far_mm) + true_rect[1] - far(u + true_rect[0])))
        yield Row("live edge", case, f"median {np.median(off):.1f}, 95 % within {np.percentile(off, 95):.1f} mm, not found {missed} of {len(seeds)}",
                  (float(np.median(off)), float(np.percentile(off, 95)), missed / len(seeds)))  # fmt: skip


def slab_photo(seed: int, camera: Camera):  # type: ignore[no-untyped-def]
    """A live-edge slab photographed on the bench and made true from four chalk crosses on it, with its true edges."""
    from grainet.picture.lattice import noise

    length, width = 1200.0, 300.0
    xs = np.arange(0, length, STEP) + STEP / 2

    def wander(x, k: int):  # type: ignore[no-untyped-def]
        x = np.atleast_1d(np.asarray(x, np.float32))
        return (
            noise(x / 170, np.array([0.5], np.float32), seed * 7 + k)[0] * 9
            + noise(x / 40, np.array([0.5], np.float32), seed * 7 + k + 3)[0] * 2
        )

    near, far = (lambda x: 22 + wander(x, 1)), (lambda x: width - 24 + wander(x, 2))
    wood = ["walnut", "oak", "maple", "ash", "cherry"][seed % 5]
    picture = face(block(300 + seed, wood, width, 50), length)
    ys = (np.arange(picture.shape[0])[::-1] + 0.5) * STEP
    mask = (ys[:, None] > near(xs)[None, :]) & (ys[:, None] < far(xs)[None, :])
    sap = (ys[:, None] > far(xs)[None, :] - 18) if wood == "walnut" else np.zeros_like(mask)
    picture[sap & mask] = (0.45 * picture[sap & mask] + 0.55 * np.array([205, 178, 140])).astype(np.uint8)
    photo, true = photograph(picture, (0, 0, length, width), camera, seed, mask)
    crosses = [(100.0, 240.0, True), (1100.0, 240.0, True), (1100.0, 60.0, True), (100.0, 60.0, True)]
    line = [(100.0 + 1000 * k / 4, v, True) for v in (60.0, 240.0) for k in (1, 2, 3)]
    found = fit(clicked(true, crosses + line, np.random.default_rng(seed), 0.4), true.size)
    rect = (0.0, -30.0, length, width + 30.0)
    return warp(photo, found, rect, 1 / STEP), near, far, rect


def troubles(seeds: range = range(12)) -> Iterator[Row]:
    """Recall of knots, cracks and nail stains, and how many false marks a face gets."""
    sets = {
        "plain": (PLAIN, ("maple", "ash", "cherry", "alder")),
        "hard woods": (PLAIN, ("walnut", "oak", "sycamore", "beech")),
        "hard light": (HARD["all three"], ("maple", "ash", "cherry", "alder")),
    }
    for case, (camera, woods) in sets.items():
        hit = dict.fromkeys(("knot", "crack", "stain"), 0)
        there = dict.fromkeys(hit, 0)
        false = 0
        for seed in seeds:
            rng = np.random.default_rng(seed)
            knots = tuple(
                Knot(
                    float(rng.uniform(60 + 260 * k, 250 + 260 * k)), float(rng.uniform(35, 165)), float(rng.uniform(6, 17)), 99.0
                )
                for k in range(2)
            )
            nails = (Nail(float(rng.uniform(640, 700)), float(rng.uniform(30, 170)), 30.0),)
            y = float(rng.uniform(50, 150))
            crack = tuple((720.0 + 45 * k, y + float(rng.normal(0, 1.5))) for k in range(4))
            one = block(
                500 + seed,
                woods[seed % len(woods)],
                200,
                knots=knots,
                nails=nails,
                cracks=(crack,),
                angle_deg=[15, 75, 40][seed % 3],
            )
            picture = shot(one, 900, camera, seed)[0]
            found = troubles_of(picture, 1 / STEP)
            truth = (
                [("knot", k.x, k.y, 1.6 * k.radius + 8) for k in knots]
                + [("stain", x, y0, 30.0) for x, y0 in ((n.x, n.y) for n in nails)]
                + [("crack", 787.0, y, 80.0)]
            )
            used = set()
            for kind, x, y0, reach in truth:
                there[kind] += 1
                near = [
                    j
                    for j, s in enumerate(found)
                    if abs(_middle(s)[0] - x) < reach and abs(_middle(s)[1] - y0) < (reach if kind != "crack" else 12)
                ]
                if near:
                    hit[kind] += any(found[j].kind == kind for j in near)
                    used |= set(near)
            false += len(found) - len(used)
        text = ", ".join(f"{kind}s {hit[kind]} of {there[kind]}" for kind in hit) + f", false {false / len(seeds):.1f} a face"
        yield Row("troubles", case, text, (*(hit[k] / there[k] for k in hit), false / len(seeds)))


def _middle(spot) -> tuple[float, float]:  # type: ignore[no-untyped-def]
    xs, ys = zip(*spot.ring)
    return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


def straightedges(seeds: range = range(6)) -> Iterator[Row]:
    """Error of the bow from a straightedge picture, in mm."""
    for case, changes in (
        ("plain", {}),
        ("bent lens", {"lens": -0.06}),
        ("blur", {"blur_px": 1.5}),
        ("uneven light", {"uneven": 0.5}),
    ):
        off = []
        for seed in seeds:
            bow = 0.5 + 1.1 * seed
            photo, left, right, length = straightedge_photo(seed, bow, replace(Camera(2400, 700, 3, 2, 1), **changes))  # type: ignore[arg-type]
            off.append(gap_under(photo, left, right, length).bow_mm - bow)
        yield Row(
            "bow from a straightedge", case, _errors(off, " mm"), (float(np.median(np.abs(off))), float(np.max(np.abs(off))))
        )


def straightedge_photo(seed: int, bow: float, camera: Camera):  # type: ignore[no-untyped-def]
    """A steel rule of 1000 on a bowed board's edge, seen from the side."""
    length, step = 1000.0, 0.4
    edge = _edge(block(700 + seed, "maple", 100, 60), step)
    picture, rect = straightedge_flat(edge, length, bow, step)
    photo, true = photograph(picture, rect, camera, seed)
    ends = true.to_px(np.array([(0.0, 80.0), (1000.0, 80.0)])) + np.random.default_rng(seed).normal(0, 0.4, (2, 2))
    return photo, tuple(ends[0]), tuple(ends[1]), length


@lru_cache(maxsize=2)
def _edge(one: Block, step: float):  # type: ignore[no-untyped-def]
    from grainet.picture.solid import paint_edge

    return paint_edge(one, np.arange(-100, 1100, step) + step / 2, np.arange(0, 60, step), 0.0)


def _errors(off: list[float], unit: str) -> str:
    a = np.abs(off)
    return f"median {np.median(a):.2f}{unit}, worst {a.max():.2f}{unit} of {len(a)}"


TABLE = (rectifying, slopes, figures, rings, live_edges, troubles, straightedges)


def main() -> int:
    wanted = set(sys.argv[1:])
    for measure in TABLE:
        if wanted and measure.__name__ not in wanted:
            continue
        for row in measure():
            print(f"{row.what:24s} {row.case:44s} {row.text}", flush=True)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
