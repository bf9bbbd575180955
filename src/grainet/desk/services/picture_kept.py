"""A picture file that a person chose, kept with the shop as it is."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QPixmap

from grainet.desk.view_state import State
from grainet.store.photos import keep_photo

PICTURES = "Pictures (*.jpg *.jpeg *.png *.webp *.bmp)"


def kept_picture(state: State, path: str) -> str | None:
    """The name of the original, once it is kept; None where it is no picture or cannot be read, which is said."""
    name = Path(path).name
    try:
        data = Path(path).read_bytes()
        if QPixmap(path).isNull():
            state.warn(f"{name} is no picture that can be read; needs JPEG, PNG, WebP or BMP")
            return None
        return keep_photo(state.shop.file.folder, data)
    except OSError as fault:
        state.warn(f"{name} could not be kept: {fault.strerror}")
        return None
