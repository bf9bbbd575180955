"""Where what can be worked out again is kept between two openings: the user's cache folder, a file a shop. Losing it costs time only."""

from __future__ import annotations

import contextlib
import hashlib
import os
from pathlib import Path

from grainet.paths import cache_folder


def cache_file(shop_folder: Path, name: str) -> Path:
    """The cache file of a shop under a name, in the XDG cache folder."""
    mark = hashlib.blake2b(str(shop_folder.resolve()).encode(), digest_size=8).hexdigest()
    return cache_folder() / f"{mark}-{name}"


def trim(folder: Path, most_bytes: int) -> int:
    """Remove the files of a cache folder that were written longest ago until it holds no more than so much; how many went."""
    found = []
    try:
        for entry in os.scandir(folder):
            if entry.is_file(follow_symlinks=False):
                told = entry.stat(follow_symlinks=False)
                found.append((told.st_mtime, told.st_size, entry.path))
    except OSError:  # no folder, no cache
        return 0
    held, gone = sum(size for _, size, _ in found), 0
    for _, size, path in sorted(found):
        if held <= most_bytes:
            break
        with contextlib.suppress(OSError):
            Path(path).unlink()
            held, gone = held - size, gone + 1
    return gone
