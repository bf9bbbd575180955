"""The solid-wood model: a block of wood whose rings, fibres, pores, rays, curl and knots are one function of x, y, z.

Any axis-aligned plane of it can be painted at any depth, so faces, edges, ends and resawn leaves agree with one another.
Deterministic: noise is a hash of lattice points, no stored volume. Axes as for pieces: x along, y across, z into the wood.
"""

from __future__ import annotations

import math
import zlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.floating]


@dataclass(frozen=True)
class Look:
    """What a species group looks like. Colours are linear-ish RGB 0..255; lengths mm."""

    early: tuple[int, int, int]
    late: tuple[int, int, int]
    ring_mm: float = 3.0
    contrast: float = 0.5
    pores: float = 0.0  # strength of pore streaks
    pores_early_only: bool = False  # ring-porous
    rays: float = 0.0
    streaks: float = 0.0  # broad dark streaks
    fibre: float = 0.25
    curl: float = 0.0
    sap: tuple[int, int, int] | None = None


LOOKS: dict[str, Look] = {
    "walnut": Look(
        (124, 90, 66), (74, 48, 33), 4.5, 0.55, 0.5, pores_early_only=False, rays=0.0, streaks=0.5, fibre=0.3, sap=(205, 178, 140)
    ),
    "maple": Look((236, 214, 180), (206, 172, 132), 2.6, 0.28, 0.06, pores_early_only=False, rays=0.10, streaks=0.1, fibre=0.16),
    "sycamore": Look(
        (240, 224, 196), (218, 192, 156), 2.8, 0.22, 0.04, pores_early_only=False, rays=0.14, streaks=0.05, fibre=0.14, curl=0.42
    ),
    "beech": Look((221, 181, 146), (190, 142, 106), 2.4, 0.25, 0.06, pores_early_only=False, rays=0.5, streaks=0.05, fibre=0.16),
    "oak": Look((205, 172, 128), (158, 120, 78), 2.4, 0.45, 0.75, pores_early_only=True, rays=0.55, streaks=0.1, fibre=0.3),
    "ash": Look((226, 204, 168), (170, 134, 92), 3.2, 0.55, 0.7, pores_early_only=True, rays=0.0, streaks=0.1, fibre=0.3),
    "iroko": Look((176, 124, 70), (128, 82, 42), 6.0, 0.3, 0.6, pores_early_only=False, rays=0.0, streaks=0.35, fibre=0.35),
    "alder": Look((214, 166, 128), (186, 132, 94), 3.6, 0.22, 0.1, pores_early_only=False, rays=0.08, streaks=0.12, fibre=0.2),
    "cedar": Look((186, 124, 90), (126, 70, 48), 2.2, 0.5, 0.0, pores_early_only=False, rays=0.0, streaks=0.3, fibre=0.3),
    "spruce": Look((238, 216, 176), (196, 150, 98), 2.0, 0.5, 0.0, pores_early_only=False, rays=0.05, streaks=0.0, fibre=0.2),
    "rosewood": Look((98, 58, 44), (46, 26, 24), 5.0, 0.6, 0.45, pores_early_only=False, rays=0.0, streaks=0.8, fibre=0.3),
    "ebony": Look((52, 44, 42), (28, 24, 24), 4.0, 0.3, 0.2, pores_early_only=False, rays=0.0, streaks=0.3, fibre=0.2),
    "mahogany": Look((168, 98, 66), (132, 70, 46), 5.0, 0.25, 0.5, pores_early_only=False, rays=0.0, streaks=0.2, fibre=0.35),
    "cherry": Look((198, 138, 96), (164, 104, 68), 3.4, 0.3, 0.12, pores_early_only=False, rays=0.15, streaks=0.15, fibre=0.2),
    "unknown": Look((190, 158, 120), (150, 116, 82), 3.4, 0.35, 0.2, pores_early_only=False, rays=0.0, streaks=0.1, fibre=0.25),
}
_GROUPS = (
    ("walnut", ("walnut", "juglans", "butternut", "bubinga", "zebra", "wenge", "ovangkol")), ("sycamore", ("sycamore",)),
    ("maple", ("maple", "acer", "birch", "holly", "basswood", "lime", "aspen", "poplar", "hornbeam", "magnolia", "willow")), ("beech", ("beech", "pear", "plum", "fagus")),
    ("oak", ("oak", "quercus", "chestnut")), ("ash", ("ash", "fraxinus", "elm", "hickory", "locust", "sassafras", "hackberry", "paulownia")),
    ("iroko", ("iroko", "teak", "afrormosia", "merbau", "jarrah", "cumaru", "ipe", "jatoba")), ("alder", ("alder", "alnus", "limba", "obeche", "okoume")),
    ("cedar", ("redcedar", "cedar", "redwood", "larch", "douglas")), ("spruce", ("spruce", "pine", "fir", "hemlock", "cypress")),
    ("rosewood", ("rosewood", "cocobolo", "kingwood", "ziricote", "bocote", "ferro", "katalox", "granadillo", "padauk", "purpleheart")),
    ("ebony", ("ebony", "blackwood")), ("mahogany", ("mahogany", "sapele", "sipo", "khaya", "meranti", "koa", "toon", "monkeypod", "nato", "mango")), ("cherry", ("cherry",)),
)  # fmt: skip


def look_of(species: str) -> Look:
    """The look of a species by its name; a plain brown for what the table does not know."""
    name = species.lower()
    return LOOKS[next((group for group, words in _GROUPS if any(w in name for w in words)), "unknown")]


@dataclass(frozen=True)
class Knot:
    """A knot: a cone through (x, y), of a radius where it is widest, between two depths from face 1 in mm."""

    x: float
    y: float
    radius: float
    depth: float
    top: float = 0.0

    def radius_at(self, z: float) -> float:
        """Its radius at a depth; 0 beyond its ends. It narrows from the face that it shows on."""
        if not self.top - 0.01 <= z <= self.depth:
            return 0.0
        return self.radius * max(0.3, 1 - abs(z - self.top) / max(self.depth - self.top, 1.0) * 0.7)


@dataclass(frozen=True)
class Block:
    """One block to paint. ``angle_deg``: rings against the wide face; ``width``/``thickness`` fix where the pith lies."""

    seed: int
    look: Look
    width: float
    thickness: float
    angle_deg: float = 20.0
    slope_deg: float = 0.0
    knots: tuple[Knot, ...] = ()
    nails: tuple[tuple[float, float], ...] = ()
    cracks: tuple[tuple[tuple[float, float], ...], ...] = ()  # open polylines on face 1, in mm

    @property
    def pith(self) -> tuple[float, float]:
        """Where the pith line crosses the marked end, (y, z): far enough that the rings meet face 1 at the wanted angle."""
        reach = max(90.0, 0.9 * self.width)
        a = math.radians(self.angle_deg)
        return self.width / 2 - reach * math.sin(a), self.thickness / 2 + reach * math.cos(a) * 1.0


def seed_of(name: str) -> int:
    """The seed of a piece's picture: the same name gives the same wood."""
    return zlib.crc32(name.encode())


# noise ----------------------------------------------------------------------------------------------------------------
def _hash(ix: NDArray[np.int64], iy: NDArray[np.int64], seed: int) -> Array:
    """Lattice points to -1..1, the same for the same point whatever the crop."""
    h = (ix.astype(np.uint64) * np.uint64(0x9E3779B1) ^ iy.astype(np.uint64) * np.uint64(0x85EBCA77)) + np.uint64(
        seed * 0xC2B2AE3D & 0xFFFFFFFF
    )
    h ^= h >> np.uint64(15)
    h *= np.uint64(0x2C1B3C6D)
    h &= np.uint64(0xFFFFFFFF)
    h ^= h >> np.uint64(12)
    h *= np.uint64(0x297A2D39)
    h &= np.uint64(0xFFFFFFFF)
    return (h.astype(np.float32) / np.float32(2**31) - 1).astype(np.float32)


def noise(u: Array, v: Array, seed: int) -> Array:
    """Smooth noise in -1..1 on two 1-D axes u (columns) and v (rows), in lattice units; shape (len(v), len(u))."""
    iu, iv = np.floor(u).astype(np.int64), np.floor(v).astype(np.int64)
    u0, v0 = iu.min(), iv.min()
    gu, gv = np.arange(u0, iu.max() + 2), np.arange(v0, iv.max() + 2)
    table = _hash(gu[None, :], gv[:, None], seed)
    fu, fv = (u - iu).astype(np.float32), (v - iv).astype(np.float32)
    fu, fv = fu * fu * (3 - 2 * fu), fv * fv * (3 - 2 * fv)
    ju, jv = iu - u0, iv - v0
    rows = table[jv] * (1 - fv)[:, None] + table[jv + 1] * fv[:, None]
    return np.asarray(rows[:, ju] * (1 - fu) + rows[:, ju + 1] * fu)


def climbing_noise(u: Array, v: Array, climb: Array, seed: int) -> Array:
    """As ``noise``, but its cells follow fibres that have climbed ``climb`` (one figure per u, in lattice units of v) there; any
    tile equals the crop of the whole."""
    across = v[:, None] - climb[None, :]
    iu, iv = np.floor(u).astype(np.int64), np.floor(across).astype(np.int64)
    u0, v0 = iu.min(), iv.min()
    table = _hash(np.arange(u0, iu.max() + 2)[None, :], np.arange(v0, iv.max() + 2)[:, None], seed)
    fu, fv = (u - iu).astype(np.float32)[None, :], (across - iv).astype(np.float32)
    fu, fv = fu * fu * (3 - 2 * fu), fv * fv * (3 - 2 * fv)
    ju, jv = (iu - u0)[None, :], iv - v0
    low = table[jv, ju] * (1 - fu) + table[jv, ju + 1] * fu
    high = table[jv + 1, ju] * (1 - fu) + table[jv + 1, ju + 1] * fu
    return np.asarray(low * (1 - fv) + high * fv)


def climb_of(block: Block, x: Array, z: float) -> Array:
    """How far fibres and rings have wandered up the face at each x, in mm: the slope of grain and the stem's own bends."""
    x = np.asarray(x, np.float32)
    wander = (
        noise(x / 420, np.array([z / 300], np.float32), block.seed)[0] * 9
        + noise(x / 130, np.array([z / 120], np.float32), block.seed + 1)[0] * 2.5
    )
    return np.asarray(wander + x * np.float32(math.tan(math.radians(block.slope_deg))))


# painting -------------------------------------------------------------------------------------------------------------
def paint_face(block: Block, xs: Array, ys: Array, z: float) -> NDArray[np.uint8]:
    """The plane at depth z: RGB of shape (len(ys), len(xs), 3), row 0 at ys[0]."""
    x, y = np.asarray(xs, np.float32), np.asarray(ys, np.float32)
    py, pz = block.pith
    climb = climb_of(block, x, z)
    yy = y[:, None] - py - climb[None, :]
    zz = np.float32(z - pz) + (noise(x / 500, np.array([0.0], np.float32), block.seed + 2)[0] * 7)[None, :]
    radius = np.sqrt(yy * yy + zz * zz)
    radius += noise(x / 260, y / 60, block.seed + 3 + int(z // 40)) * 2.2 + (x * 0.006)[None, :]
    radius = _pushed_by_knots(block, radius, x[None, :], y[:, None], z)
    along = np.abs(zz) / np.maximum(radius, 1e-3)  # near 1 where the plane is tangential, 0 where radial
    return _coloured(block, radius, x, y, z, 1 - along, climb)


def paint_edge(block: Block, xs: Array, zs: Array, y: float) -> NDArray[np.uint8]:
    """The edge plane at y: RGB of shape (len(zs), len(xs), 3)."""
    x, z = np.asarray(xs, np.float32), np.asarray(zs, np.float32)
    py, pz = block.pith
    lean = math.tan(math.radians(block.slope_deg))
    wander = noise(x / 420, np.array([0.0], np.float32), block.seed)[0] * 9
    yy = (np.float32(y - py) - wander - x * lean)[None, :]
    zz = z[:, None] - pz + (noise(x / 500, np.array([0.0], np.float32), block.seed + 2)[0] * 7)[None, :]
    radius = np.sqrt(yy * yy + zz * zz) + noise(x / 260, z / 60, block.seed + 5) * 2.2 + (x * 0.006)[None, :]
    return _coloured(block, radius, x, z, y, np.abs(zz) / np.maximum(radius, 1e-3))


def paint_end(block: Block, ys: Array, zs: Array, x: float) -> NDArray[np.uint8]:
    """The end plane at x: RGB of shape (len(zs), len(ys), 3); rings as arcs."""
    y, z = np.asarray(ys, np.float32), np.asarray(zs, np.float32)
    py, pz = block.pith
    radius = np.hypot(y[None, :] - py, z[:, None] - pz).astype(np.float32) + noise(y / 60, z / 60, block.seed + 6) * 2.2
    tone = _ring_tone(block.look, radius)
    tone = tone * 1.15 + noise(y / 0.9, z / 0.9, block.seed + 7) * (0.06 + 0.12 * block.look.pores)
    return _mix(block.look, tone, np.float32(0.9))


def _pushed_by_knots(block: Block, radius: Array, x: Array, y: Array, z: float) -> Array:
    for knot in block.knots:
        grow = knot.radius_at(z)
        reach = max(grow, 0.35 * knot.radius)
        d2 = ((x - knot.x) / 2.6) ** 2 + (y - knot.y) ** 2
        radius = radius + (2.3 * reach * np.exp(-d2 / (2 * (1.5 * reach) ** 2))).astype(np.float32)
    return radius


def _ring_tone(look: Look, radius: Array) -> Array:
    """0 in earlywood rising to 1 at the end of the latewood, dropping sharply at the ring's end."""
    turns = radius / look.ring_mm
    vary = np.sin(turns * 0.37) * 0.35 + np.sin(turns * 0.11 + 1.3) * 0.4
    phase = turns + vary
    part = phase - np.floor(phase)
    return np.asarray(np.where(part < 0.88, (part / 0.88) ** 2.4, (1 - part) / 0.12).astype(np.float32))


def _coloured(
    block: Block, radius: Array, u: Array, v: Array, depth: float, radial: Array, climb: Array | None = None
) -> NDArray[np.uint8]:
    look, seed = block.look, block.seed
    ring = _ring_tone(look, radius)
    tone = 0.25 + look.contrast * (ring - 0.3)
    if climb is None:  # an edge: fibres run along it
        climb = np.zeros(len(u), np.float32)
    tone = (
        tone
        + look.fibre * 0.22 * climbing_noise(u / 55, v / 0.55, climb / np.float32(0.55), seed + 11 + int(depth))
        + look.fibre * 0.12 * climbing_noise(u / 16, v / 0.35, climb / np.float32(0.35), seed + 12 + int(depth))
    )
    if look.streaks:
        broad = climbing_noise(u / 900, v / 17, climb / np.float32(17), seed + 13) + 0.6 * np.sin(
            radius / (look.ring_mm * 4.2)
        ).astype(np.float32)
        tone = tone + look.streaks * 0.28 * np.clip(broad, -0.4, 1)
    if look.pores:
        specks = climbing_noise(u / 7, v / 0.5, climb / np.float32(0.5), seed + 14 + int(depth))
        hit = np.clip((specks - (0.62 - 0.25 * look.pores)) * 3.2, 0, 1)
        where = np.clip(1.3 - 2.6 * np.abs(ring - 0.12), 0, 1) if look.pores_early_only else 0.55
        tone = tone + 0.62 * look.pores * hit * where
    if look.rays:
        fleck = noise(u / 9, v / 3.4, seed + 15 + int(depth))
        tone = tone - look.rays * 0.7 * np.clip(fleck - 0.55, 0, 1) * np.clip(radial * 1.6 - 0.5, 0.06, 1)
    shade: Array | np.float32 = np.float32(1.0)
    if look.curl:
        bend = noise(u / 60, v / 34, seed + 16) * 2.4 + noise(u / 200, v / 120, seed + 17) * 2.2
        shade = 1 + look.curl * 0.16 * np.sin(2 * np.pi * u[None, :] / 11.5 + bend).astype(np.float32)
    tone = _knot_tone(block, tone, u, v, depth) if block.knots else tone
    image = _mix(look, tone, shade)
    for x, y in block.nails:
        d2 = ((u[None, :] - x) / 3.4) ** 2 + (v[:, None] - y) ** 2
        stain = (0.75 * np.exp(-d2 / 60)).astype(np.float32)[..., None]
        image = (image * (1 - stain) + np.array([38, 38, 44], np.float32) * stain).astype(np.uint8)
    for crack in block.cracks:
        image = _cracked(image, crack, u, v)
    return image


def _cracked(image: NDArray[np.uint8], crack: tuple[tuple[float, float], ...], u: Array, v: Array) -> NDArray[np.uint8]:
    """A dark open line about a millimetre wide along a polyline."""
    xs, ys = (np.array(c, np.float32) for c in zip(*crack))
    inside = (u >= xs.min()) & (u <= xs.max())
    if not inside.any():
        return image
    line = np.interp(u[inside], xs, ys)
    ends = np.minimum(u[inside] - xs.min(), xs.max() - u[inside])
    width = np.clip(ends / 25, 0.15, 1) * 0.7
    dark = np.exp(-(((v[:, None] - line[None, :]) / width[None, :]) ** 2))[..., None] * 0.85
    image[:, inside] = (image[:, inside] * (1 - dark) + np.array([24, 18, 14], np.float32) * dark).astype(np.uint8)
    return image


def _knot_tone(block: Block, tone: Array, u: Array, v: Array, depth: float) -> Array:
    for knot in block.knots:
        size = knot.radius_at(depth)
        if not size:
            continue
        d = np.sqrt(((u[None, :] - knot.x) / 1.15) ** 2 + (v[:, None] - knot.y) ** 2)
        core = np.clip((size - d) / 2.5, 0, 1)
        tone = tone * (1 - core) + core * (0.95 + 0.28 * np.sin(d * 1.9))
    return tone


def _mix(look: Look, tone: Array, shade: Array | np.float32) -> NDArray[np.uint8]:
    t = np.clip(tone, -0.15, 1.35)[..., None]
    early, late = np.array(look.early, np.float32), np.array(look.late, np.float32)
    rgb = (early + (late - early) * t) * (shade[..., None] if isinstance(shade, np.ndarray) and shade.ndim else shade)
    return np.clip(rgb, 0, 255).astype(np.uint8)
