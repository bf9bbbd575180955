"""A photograph of a known side: a picture of wood laid on a bench and seen by a tilted, bent, blurred, unevenly lit camera.

The truth is known exactly, so that making true and analysing can be measured; the camera stand-in takes its pictures here too.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from statistics import NormalDist
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.lattice import noise
from grainet.picture.lens import unbend
from grainet.picture.rectify import TrueMap

Image = NDArray[Any]
# the normal curve as 256 equally likely levels: a sensor's noise at a tenth of what drawing each value afresh takes
BELL = np.array([NormalDist().inv_cdf((k + 0.5) / 256) for k in range(256)], np.float32)
MAP_STEP_PX = 16  # a camera's map is smooth: worked out this far apart and drawn straight between, it is good to 0.03 px


@dataclass(frozen=True)
class Camera:
    """How the picture is taken. Angles in degrees; ``lens`` the radial term; ``uneven`` the share of light lost toward one side."""

    width_px: int = 1600
    height_px: int = 900
    pitch_deg: float = 14.0
    yaw_deg: float = 6.0
    roll_deg: float = 2.0
    lens: float = 0.0
    blur_px: float = 0.0
    uneven: float = 0.0
    grain: float = 2.0  # sensor noise, in levels
    fill: float = 0.86
    bench: tuple[int, int, int] = (124, 132, 128)


def true_map(camera: Camera, rect: tuple[float, float, float, float]) -> TrueMap:
    """The exact map of a camera that looks at the middle of a rectangle in mm and just has all of it in view."""
    u0, v0, u1, v1 = rect
    pitch, yaw, roll = (math.radians(a) for a in (camera.pitch_deg, camera.yaw_deg, camera.roll_deg))
    rx = np.array([[1, 0, 0], [0, math.cos(pitch), -math.sin(pitch)], [0, math.sin(pitch), math.cos(pitch)]])
    ry = np.array([[math.cos(yaw), 0, math.sin(yaw)], [0, 1, 0], [-math.sin(yaw), 0, math.cos(yaw)]])
    rz = np.array([[math.cos(roll), -math.sin(roll), 0], [math.sin(roll), math.cos(roll), 0], [0, 0, 1]])
    turn = rz @ rx @ ry
    far = 1.4 * max(u1 - u0, v1 - v0)
    corners = np.array([(u, v) for u in (u0, u1) for v in (v0, v1)], float) - ((u0 + u1) / 2, (v0 + v1) / 2)
    place = np.column_stack([turn[:, 0], -turn[:, 1], [0, 0, far]])  # v goes up in mm, down in px
    seen = np.column_stack([corners, np.ones(4)]) @ place.T
    flat = seen[:, :2] / seen[:, 2:]
    focal = camera.fill * min(camera.width_px / np.ptp(flat[:, 0]), camera.height_px / np.ptp(flat[:, 1]))
    middle = flat.mean(axis=0) * focal
    k = np.array([[focal, 0, camera.width_px / 2 - middle[0]], [0, focal, camera.height_px / 2 - middle[1]], [0, 0, 1]])
    shift = np.array([[1, 0, -(u0 + u1) / 2], [0, 1, -(v0 + v1) / 2], [0, 0, 1]])
    plane = np.linalg.inv(k @ place @ shift)
    return TrueMap(plane / plane[2, 2], camera.lens, (camera.width_px, camera.height_px), 0.0, 0.0)


def photograph(
    picture: Image, rect: tuple[float, float, float, float], camera: Camera, seed: int = 1, mask: NDArray[Any] | None = None
) -> tuple[Image, TrueMap]:  # fmt: skip
    """The photo and its exact map. ``picture`` covers ``rect`` in mm, row 0 at the high v; ``mask`` says where there is wood."""
    import cv2

    true = true_map(camera, rect)
    col, row = _looked_at(true, rect, picture.shape[:2])
    rows, columns = picture.shape[:2]
    wood = cv2.remap(picture, col, row, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float32)
    on = (col >= -0.5) & (col <= columns - 0.5) & (row >= -0.5) & (row <= rows - 0.5)
    if mask is not None:
        on &= cv2.remap(mask.astype(np.float32), col, row, cv2.INTER_LINEAR) > 0.5
    wide, high = np.arange(camera.width_px, dtype=np.float32), np.arange(camera.height_px, dtype=np.float32)
    cloth = 9 * (noise(wide / 40, high / 40, seed + 50) + 0.6 * noise(wide / 3, high / 3, seed + 51)).astype(np.float32)
    bench = cv2.merge([cloth + level for level in camera.bench])
    soft = cv2.GaussianBlur(on.astype(np.float32), (0, 0), 0.7)
    image = cv2.blendLinear(wood, bench, soft, 1 - soft)
    if camera.uneven:
        light = 1 - camera.uneven * (wide / camera.width_px * 0.7 + high[:, None] / camera.height_px * 0.3)
        image = cv2.multiply(image, cv2.merge([light] * 3))
    if camera.blur_px:
        image = cv2.GaussianBlur(image, (0, 0), camera.blur_px)
    if camera.grain:
        drawn = np.random.default_rng(seed).integers(0, len(BELL), image.shape, np.uint8)
        image = cv2.add(image, cv2.LUT(drawn, camera.grain * BELL))
    return np.clip(image, 0, 255, out=image).astype(np.uint8), true


def _looked_at(true: TrueMap, rect: tuple[float, float, float, float], shape: tuple[int, int]) -> tuple[Image, Image]:
    """For every pixel of the photo, which column and row of the picture it looks at."""
    import cv2

    wide, high = true.size
    nodes = [np.arange(-1, math.ceil(n / MAP_STEP_PX) + 2) * float(MAP_STEP_PX) for n in (wide, high)]
    straight = unbend(np.stack(np.meshgrid(*nodes), axis=-1), true.lens, true.size)
    u0, v0, u1, v1 = rect
    rows, columns = shape
    to_cells = np.array(
        [
            [columns / (u1 - u0), 0, -u0 * columns / (u1 - u0) - 0.5],
            [0, -rows / (v1 - v0), v1 * rows / (v1 - v0) - 0.5],
            [0, 0, 1],
        ]
    )
    across, down, far = (row[0] * straight[..., 0] + row[1] * straight[..., 1] + row[2] for row in to_cells @ true.plane)
    # pixel k's middle lies at k + 0.5, node n at (n - 1) steps
    grid = np.array([[1 / MAP_STEP_PX, 0, 0.5 / MAP_STEP_PX + 1], [0, 1 / MAP_STEP_PX, 0.5 / MAP_STEP_PX + 1]])
    between = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    found = [cv2.warpAffine(v.astype(np.float32), grid, (wide, high), flags=between) for v in (across / far, down / far)]
    return found[0], found[1]
