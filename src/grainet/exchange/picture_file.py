"""Pictures in and out as PNG and JPEG; anything else is refused with a sentence. Turned upright as the camera says."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.exchange.json_file import Unusable

SIGNS = {b"\x89PNG\r\n\x1a\n": "PNG", b"\xff\xd8\xff": "JPEG"}
MOST_PIXELS = 250_000_000
MOST_BYTES = 400_000_000


def read_picture_bytes(path: Path) -> bytes:
    """The bytes of a picture file. Raises Unusable where it is none that can be used."""
    try:
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise Unusable(
                [f"{path.name}: {size / 1e6:.0f} MB is too much for one picture; wants at most {MOST_BYTES / 1e6:.0f}"]
            )
        data = path.read_bytes()
    except OSError as fault:
        raise Unusable([f"{path.name}: cannot be read: {fault.strerror}"]) from None
    if not any(data.startswith(sign) for sign in SIGNS):
        raise Unusable([f"{path.name}: is neither PNG nor JPEG; wants one of them"])
    return data


def decode(data: bytes, name: str = "picture") -> NDArray[Any]:
    """RGB, shape (rows, columns, 3). Raises Unusable with what is wrong."""
    import cv2

    if not any(data.startswith(sign) for sign in SIGNS):
        raise Unusable([f"{name}: is neither PNG nor JPEG; wants one of them"])
    try:
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    except cv2.error as fault:
        raise Unusable([f"{name}: cannot be read: {str(fault).splitlines()[0][:80]}"]) from None
    if image is None or image.size == 0:
        raise Unusable([f"{name}: is cut short or damaged; take it from the camera again"])
    if image.shape[0] * image.shape[1] > MOST_PIXELS:
        raise Unusable([f"{name}: {image.shape[1]} x {image.shape[0]} pixels are too many; wants at most 250 megapixels"])
    if min(image.shape[:2]) < 40:
        raise Unusable(
            [f"{name}: {image.shape[1]} x {image.shape[0]} pixels are too few to measure on; wants at least 40 each way"]
        )
    return cv2.cvtColor(image, cv2.COLOR_BGR2RGB)  # type: ignore[no-any-return]


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
