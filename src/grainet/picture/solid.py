"""The solid-wood model: a block of wood whose rings, fibres, pores, rays, curl and knots are one function of x, y, z.

Any axis-aligned plane of it can be painted at any depth, so faces, edges and ends meet along their arrises and resawn leaves are
mates. Deterministic: noise is a hash of lattice points, no stored volume. Axes as for pieces: x along, y across, z into the wood.
"""

from __future__ import annotations

import math
import zlib
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.lattice import Array, Plane, noise, scattered, solid_noise

RING_JITTER = 0.42  # how far a year's end strays, in mean rings: no two years are alike


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

    def radius_at(self, z: Any) -> Any:
        """Its radius at a depth or depths; 0 beyond its ends. It narrows from the face that it shows on."""
        narrow = np.maximum(0.3, 1 - np.abs(z - self.top) / max(self.depth - self.top, 1.0) * 0.7)
        return np.where((self.top - 0.01 <= z) & (z <= self.depth), self.radius * narrow, 0.0)


@dataclass(frozen=True)
class Nail:
    """A nail or screw at (x, y) between two depths from face 1 in mm, with the stain about it."""

    x: float
    y: float
    depth: float
    top: float = 0.0


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
    nails: tuple[Nail, ...] = ()
    cracks: tuple[tuple[tuple[float, float], ...], ...] = ()  # open polylines as on face 1, in mm, through the block

    @property
    def pith(self) -> tuple[float, float]:
        """Where the pith line crosses the marked end, (y, z): far enough that the rings meet face 1 at the wanted angle."""
        reach = max(90.0, 0.9 * self.width)
        a = math.radians(self.angle_deg)
        return self.width / 2 - reach * math.sin(a), self.thickness / 2 + reach * math.cos(a) * 1.0


def seed_of(name: str) -> int:
    """The seed of a piece's picture: the same name gives the same wood."""
    return zlib.crc32(name.encode())


def climb_of(block: Block, x: Any) -> Any:
    """How far fibres have wandered up the face at each x, in mm: the slope of grain and the stem's own bends. 0 at the marked end."""
    return _bends(block, x) + np.float32(math.tan(math.radians(block.slope_deg))) * np.asarray(x, np.float32)


def pith_at(block: Block, x: Any) -> tuple[Any, Any]:
    """Where the pith line crosses the plane at each x, (y, z) in mm. Flat-sawn wood owes its slope to fibres that wind about the stem,
    quartered wood to the saw, so rings climb with the fibres as far as they stand on the face; the ring angle stays what was read."""
    py, pz = block.pith
    share = math.sin(math.radians(block.angle_deg)) ** 2
    rise = share * math.tan(math.radians(block.slope_deg))
    return py + _bends(block, x) + np.float32(rise) * np.asarray(x, np.float32), pz - _wander(block, x, 500, 2) * 7


def _bends(block: Block, x: Any) -> Any:
    return _wander(block, x, 420, 0) * 9 + _wander(block, x, 130, 1) * 2.5


def _wander(block: Block, x: Any, cell: float, k: int) -> Any:
    """How the stem bends along it, in -2..2 and 0 at the marked end."""
    along = np.atleast_1d(np.asarray(x, np.float32))
    found = noise(np.concatenate([[np.float32(0.0)], along]) / cell, np.zeros(1, np.float32), block.seed + k)[0]
    bent = found[1:] - found[0]
    return bent if np.ndim(x) else bent[0]


# painting -------------------------------------------------------------------------------------------------------------
def paint_face(block: Block, xs: Array, ys: Array, z: float) -> NDArray[np.uint8]:
    """The plane at depth z: RGB of shape (len(ys), len(xs), 3), row 0 at ys[0]."""
    return _painted(block, Plane(np.asarray(xs, np.float32), np.asarray(ys, np.float32), float(z)))


def paint_edge(block: Block, xs: Array, zs: Array, y: float) -> NDArray[np.uint8]:
    """The edge plane at y: RGB of shape (len(zs), len(xs), 3)."""
    return _painted(block, Plane(np.asarray(xs, np.float32), float(y), np.asarray(zs, np.float32)))


def paint_end(block: Block, ys: Array, zs: Array, x: float) -> NDArray[np.uint8]:
    """The end plane at x: RGB of shape (len(zs), len(ys), 3); rings as arcs."""
    return _painted(block, Plane(float(x), np.asarray(ys, np.float32), np.asarray(zs, np.float32)))


def _painted(block: Block, plane: Plane) -> NDArray[np.uint8]:
    look, climb = block.look, climb_of(block, plane.x)
    radius, radial = _radius(block, plane)
    ring, year = _rings(block, radius)
    tone = 0.25 + look.contrast * (ring - 0.3) * (1 + 0.35 * year[1]) + 0.45 * look.contrast * year[0]
    tone = tone + _texture(block, plane, climb, ring, radius, radial)
    tone = _knot_tone(block, tone, plane)
    shade = _curl(block, plane) * np.float32(0.9 if plane.kind == "end" else 1.0)  # an end drinks light
    image = _mix(look, tone, shade)
    for nail in block.nails:
        image = _nailed(image, nail, plane)
    for crack in block.cracks:
        image = _cracked(image, crack, plane)
    return image


def _radius(block: Block, plane: Plane) -> tuple[Array, Array]:
    """How far from the pith each place grew, and how near the plane there is to standing on the rings (0 along them, 1 on them)."""
    py, pz = pith_at(block, plane.x)
    x, y, z = plane.spread()
    yy, zz = y - py, z - pz
    radius = np.hypot(yy, zz).astype(np.float32)
    facing = {"face": np.abs(zz), "edge": np.abs(yy), "end": radius}[plane.kind]
    radial = 1 - facing / np.maximum(radius, 1e-3)
    radius = radius + solid_noise(plane, (260, 60, 60), block.seed + 3) * 2.2 + x * np.float32(0.006)
    for knot in block.knots:
        reach = np.maximum(knot.radius_at(z), 0.35 * knot.radius * np.exp(-np.maximum(z - knot.depth, 0.0) / 4))
        d2 = ((x - knot.x) / 2.6) ** 2 + (y - knot.y) ** 2
        radius = radius + (2.3 * reach * np.exp(-d2 / (2 * (1.5 * reach) ** 2))).astype(np.float32)
    return radius, radial


def _rings(block: Block, radius: Array) -> tuple[Array, tuple[Array, Array]]:
    """0 in earlywood rising to 1 at the end of the latewood, dropping sharply at the ring's end; and what each year was like: how dark
    and how strong. Years differ in width, tone and strength, so rings that slip by half a year do not become their own negative."""
    turns = radius / block.look.ring_mm
    year = np.floor(turns).astype(np.int64)
    seed = block.seed + 21

    def starts(k: Any) -> Array:
        return np.asarray(k + RING_JITTER * scattered(k, seed))

    first = int(year.min()) - 1
    begins = starts(np.arange(first, int(year.max()) + 4))
    year = year - (turns < begins[year - first]) + (turns >= begins[year - first + 1])
    low, high = begins[year - first], begins[year - first + 1]
    part = (turns - low) / (high - low)
    ring = np.where(part < 0.88, (part / 0.88) ** 2.4, (1 - part) / 0.12).astype(np.float32)
    years = np.arange(first, first + len(begins))
    dark, strong = scattered(years, seed + 1), scattered(years, seed + 2)
    return ring, (dark[year - first], strong[year - first])


def _texture(block: Block, plane: Plane, climb: Any, ring: Array, radius: Array, radial: Array) -> Array:
    """What lies over the rings: fibres, streaks, pores and rays."""
    look, seed = block.look, block.seed
    tone = look.fibre * 0.22 * solid_noise(plane, (55, 0.55, 0.55), seed + 11, climb)
    tone = tone + look.fibre * 0.12 * solid_noise(plane, (16, 0.35, 0.35), seed + 12, climb)
    if look.streaks:
        broad = solid_noise(plane, (900, 17, 17), seed + 13, climb) + 0.6 * np.sin(radius / (look.ring_mm * 4.2)).astype(
            np.float32
        )
        tone = tone + look.streaks * 0.28 * np.clip(broad, -0.4, 1)
    if look.pores:
        specks = solid_noise(plane, (7, 0.5, 0.5), seed + 14, climb)
        hit = np.clip((specks - (0.62 - 0.25 * look.pores)) * 3.2, 0, 1)
        tone = tone + 0.62 * look.pores * hit * (
            np.clip(1.3 - 2.6 * np.abs(ring - 0.12), 0, 1) if look.pores_early_only else 0.55
        )
    if look.rays:
        fleck = solid_noise(plane, (9, 3.4, 3.4), seed + 15)
        tone = tone - look.rays * 0.7 * np.clip(fleck - 0.55, 0, 1) * np.clip(radial * 1.6 - 0.5, 0.06, 1)
    return np.asarray(tone)


def _curl(block: Block, plane: Plane) -> Any:
    """How the light falls on curly fibres, 1 where they lie straight."""
    if not block.look.curl:
        return np.float32(1.0)
    bend = solid_noise(plane, (60, 34, 34), block.seed + 16) * 2.4 + solid_noise(plane, (200, 120, 120), block.seed + 17) * 2.2
    return 1 + block.look.curl * 0.16 * np.sin(2 * np.pi * plane.spread()[0] / 11.5 + bend).astype(np.float32)


def _knot_tone(block: Block, tone: Array, plane: Plane) -> Array:
    x, y, z = plane.spread()
    for knot in block.knots:
        d = np.sqrt(((x - knot.x) / 1.15) ** 2 + (y - knot.y) ** 2)
        core = np.clip((knot.radius_at(z) - d) / 2.5, 0, 1)
        tone = tone * (1 - core) + core * (0.95 + 0.28 * np.sin(d * 1.9))
    return tone


def _nailed(image: NDArray[np.uint8], nail: Nail, plane: Plane) -> NDArray[np.uint8]:
    """The grey stain that iron leaves, as far as the nail goes and a little on."""
    x, y, z = plane.spread()
    beyond = np.maximum(np.maximum(nail.top - z, z - nail.depth), 0.0)
    d2 = ((x - nail.x) / 3.4) ** 2 + (y - nail.y) ** 2 + beyond**2
    stain = np.broadcast_to((0.75 * np.exp(-d2 / 60)).astype(np.float32), image.shape[:2])[..., None]
    return np.asarray((image * (1 - stain) + np.array([38, 38, 44], np.float32) * stain).astype(np.uint8))


def _cracked(image: NDArray[np.uint8], crack: tuple[tuple[float, float], ...], plane: Plane) -> NDArray[np.uint8]:
    """A dark open line about a millimetre wide along a polyline, straight down into the wood."""
    xs, ys = (np.array(c, np.float32) for c in zip(*crack))
    x, y, _ = plane.spread()
    width = np.clip(np.minimum(x - xs.min(), xs.max() - x) / 25, 0.15, 1) * 0.7
    open_here = (x >= xs.min()) & (x <= xs.max())
    dark = np.where(open_here, np.exp(-(((y - np.interp(x, xs, ys)) / width) ** 2)) * 0.85, 0.0)
    dark = np.broadcast_to(dark, image.shape[:2])[..., None]
    return np.asarray((image * (1 - dark) + np.array([24, 18, 14], np.float32) * dark).astype(np.uint8))


def _mix(look: Look, tone: Array, shade: Any) -> NDArray[np.uint8]:
    t = np.clip(tone, -0.15, 1.35)[..., None]
    early, late = np.array(look.early, np.float32), np.array(look.late, np.float32)
    rgb = (early + (late - early) * t) * (shade[..., None] if np.ndim(shade) else shade)
    return np.asarray(np.clip(rgb, 0, 255).astype(np.uint8))
