"""Originals of photos in the shop's folder, each under the SHA-256 of its bytes, so that none is kept twice or changed."""

from __future__ import annotations

import hashlib
import os
import re
import stat
from pathlib import Path

FOLDER = "photos"
_SHA = re.compile(r"[0-9a-f]{64}")


def photo_path(shop_folder: Path, sha: str) -> Path:
    """Where an original lies (it need not be there). Raises OSError for a name that is no SHA-256: it could lead anywhere."""
    if not _SHA.fullmatch(sha):
        raise OSError(f"{sha[:20]!r} is no photo's name")
    return shop_folder / FOLDER / sha


def read_photo(shop_folder: Path, sha: str, most_bytes: int = 400_000_000) -> bytes:
    """The bytes of an original. Raises OSError where it is gone, a link, no plain file, or too large for a picture."""
    if (shop_folder / FOLDER).is_symlink():
        raise OSError("photos is a link to somewhere else")
    handle = os.open(photo_path(shop_folder, sha), os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    with os.fdopen(handle, "rb") as file:
        found = os.fstat(handle)
        if not stat.S_ISREG(found.st_mode) or found.st_size > most_bytes:
            raise OSError("it is no plain picture file")
        return file.read()


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
