"""Originals of photos in the shop's folder, each under the SHA-256 of its bytes, so that none is kept twice or changed."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

FOLDER = "photos"


def photo_path(shop_folder: Path, sha: str) -> Path:
    """Where an original lies (it need not be there)."""
    return shop_folder / FOLDER / sha


def keep_photo(shop_folder: Path, data: bytes) -> str:
    """Keep the bytes of a picture file untouched; returns their SHA-256. Written aside and renamed. Raises OSError."""
    sha = hashlib.sha256(data).hexdigest()
    path = photo_path(shop_folder, sha)
    if path.exists() and path.stat().st_size == len(data):
        return sha
    path.parent.mkdir(parents=True, exist_ok=True)
    aside = path.with_name(f"{sha}.{os.getpid()}.part")
    try:
        aside.write_bytes(data)
        aside.replace(path)
    finally:
        aside.unlink(missing_ok=True)
    return sha
