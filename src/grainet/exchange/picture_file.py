"""Pictures in and out as PNG and JPEG; anything else is refused with a sentence. Turned upright as the camera says."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.exchange.json_file import Unusable

SIGNS = {b"\x89PNG\r\n\x1a\n": "PNG", b"\xff\xd8\xff": "JPEG"}
MOST_PIXELS = 120_000_000
MOST_BYTES = 200_000_000
# the frames of a JPEG that hold its size (SOF0 to SOF15, without the tables among them)
SIZE_FRAMES = frozenset(range(0xC0, 0xD0)) - {0xC4, 0xC8, 0xCC}


def read_picture_bytes(path: Path) -> bytes:
    """The bytes of a picture file. Raises Unusable where it is none that can be used."""
    try:
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise Unusable([f"{path.name}: {size / 1e6:.0f} MB is too much for one picture; at most {MOST_BYTES / 1e6:.0f}"])
        data = path.read_bytes()
    except OSError as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault.strerror}"]) from None
    if not any(data.startswith(sign) for sign in SIGNS):
        raise Unusable([f"{path.name}: is neither PNG nor JPEG; needs one of them"])
    return data


def size_of(data: bytes) -> tuple[int, int] | None:
    """Width and height in pixels as the header of a PNG or JPEG says, without decoding it; None where it says none."""
    if data.startswith(b"\x89PNG\r\n\x1a\n"):
        if len(data) < 24 or data[12:16] != b"IHDR":
            return None
        return int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big")
    at = 2
    while at + 9 < len(data):
        if data[at] != 0xFF:
            return None
        mark = data[at + 1]
        if mark in (0xFF, 0x01) or 0xD0 <= mark <= 0xD8:  # padding and marks without a length
            at += 1 if mark == 0xFF else 2
            continue
        if mark in SIZE_FRAMES:
            return int.from_bytes(data[at + 7 : at + 9], "big"), int.from_bytes(data[at + 5 : at + 7], "big")
        at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
    return None


def decode(data: bytes, name: str = "picture") -> NDArray[Any]:
    """RGB, shape (rows, columns, 3). Raises Unusable with what is wrong."""
    import cv2

    if not any(data.startswith(sign) for sign in SIGNS):
        raise Unusable([f"{name}: is neither PNG nor JPEG; needs one of them"])
    size = size_of(data)
    if size is None or min(size) < 1:
        raise Unusable([f"{name}: is cut short or damaged: its header says no size; take it from the camera again"])
    if size[0] * size[1] > MOST_PIXELS:  # asked before a single pixel is unpacked
        raise Unusable(
            [f"{name}: {size[0]} x {size[1]} pixels are too many; at most {MOST_PIXELS / 1e6:.0f} megapixels: save it smaller"]
        )
    try:
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    except cv2.error as fault:
        raise Unusable([f"{name}: cannot be read: {str(fault).splitlines()[0][:80]}"]) from None
    if image is None or image.size == 0:
        raise Unusable([f"{name}: is cut short or damaged; take it from the camera again"])
    if min(image.shape[:2]) < 40:
        raise Unusable([f"{name}: {image.shape[1]} x {image.shape[0]} pixels are too few to measure on; at least 40 each way"])
    return cv2.cvtColor(image, cv2.COLOR_BGR2RGB)


def encode(image: NDArray[Any], kind: str = "JPEG") -> bytes:
    """The bytes of an RGB picture as a JPEG (quality 92) or PNG file."""
    import cv2

    ok, data = cv2.imencode(
        ".jpg" if kind == "JPEG" else ".png",
        cv2.cvtColor(image, cv2.COLOR_RGB2BGR),
        [cv2.IMWRITE_JPEG_QUALITY, 92] if kind == "JPEG" else [],
    )
    if not ok:
        raise Unusable(["the picture cannot be written"])
    return data.tobytes()
