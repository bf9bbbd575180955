"""Where what can be worked out again is kept between two openings: the user's cache folder, a file a shop. Losing it costs time only."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path


def cache_file(shop_folder: Path, name: str) -> Path:
    """The cache file of a shop under a name, in the XDG cache folder."""
    base = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "grainet"
    mark = hashlib.blake2b(str(shop_folder.resolve()).encode(), digest_size=8).hexdigest()
    return base / f"{mark}-{name}"
