"""Pictures of the rack's wood for the window: painted on a thread pool, kept on disk and as pixmaps, never in the way."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QColor, QImage, QPixmap

from grainet.desk.services.background import Background, Failed
from grainet.paths import cache_folder
from grainet.store.caches import trim
from grainet.wood.photo import Photo
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry

MOST_BYTES, MOST_ON_DISK = 64_000_000, 400_000_000  # of pictures in memory, and in the cache folder
SHOWN_PX = 2200  # the longer side of a photo on the screen
MODEL_VERSION = "6"  # raise it when the solid-wood model paints differently


def picture_key(piece: Piece, what: str) -> str:
    """What a painted picture of a side is kept under: all that it shows, so that a changed board gets a new one."""
    marks = [(d.kind, d.polygon, d.face, d.depth_mm) for d in piece.defects if d.kind in ("knot", "loose_knot", "nail", "screw")]
    basis = (
        MODEL_VERSION,
        what,
        piece.pictured_as or piece.id,
        piece.species,
        piece.outline,
        piece.least_thickness_mm,
        piece.ring_angle_deg,
        piece.grain_slope_deg,
        piece.picture_at,
        piece.picture_depth_mm,
        piece.picture_sign,
        marks,
    )
    return hashlib.sha256(repr(basis).encode()).hexdigest()[:32]


def paint(piece: Piece, what: str) -> QImage:
    """One picture: ``face1``, ``face2``, ``edge``, ``end``, or ``at:12.5`` for an inner plane."""
    from grainet.picture import of_piece

    x0, _, x1, _ = piece.extents
    scale = max(0.2, min(1.2, 1800 / max(1.0, x1 - x0)))
    if what.startswith("at:"):
        array = of_piece.plane_picture(piece, float(what[3:]), scale)
    else:
        array = {
            "face1": lambda: of_piece.face_picture(piece, "1", scale),
            "face2": lambda: of_piece.face_picture(piece, "2", scale),
            "edge": lambda: of_piece.edge_picture(piece, scale),
            "end": lambda: of_piece.end_picture(piece, 1.0),
        }[what]()
    return to_image(array)


SIDE_OF = {"face1": "face1", "face2": "face2", "edge": "near_edge", "end": "marked_end"}


def photo_of(piece: Piece, what: str) -> Photo | None:
    """The true photo that shows a side, if one was taken."""
    found = piece.photo(SIDE_OF.get(what, ""))
    return found if found is not None and found.is_true else None


def paint_photo(folder: Path, piece: Piece, photo: Photo) -> QImage:
    """A side as its photo shows it, square on and at most 2,000 px wide; a null image where the original is gone."""
    from grainet.exchange.json_file import Unusable
    from grainet.exchange.picture_file import decode
    from grainet.picture.reading import squared, true_rect
    from grainet.store.photos import read_photo

    try:
        image = decode(read_photo(folder, photo.sha))
        u0, _, u1, _ = true_rect(piece, photo)
        array, _, _ = squared(image, piece, photo, min(1.5, 2000 / max(1.0, u1 - u0)))
    except (OSError, Unusable, BadEntry):
        return QImage()
    return to_image(array)


def to_image(array: Any) -> QImage:
    """An RGB array as an image of its own."""
    height, width, _ = array.shape
    return QImage(array.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()


def reduced(image: Any) -> QImage:
    """A picture small enough for the screen."""
    import cv2

    scale = min(1.0, SHOWN_PX / max(image.shape[:2]))
    return to_image(cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else image)


class Pictures(QObject):
    """Pixmaps by piece and side; ``ready`` tells when a missing one has come."""

    ready = Signal()

    def __init__(self, background: Background, folder: Path) -> None:
        super().__init__()
        self.background, self.folder = background, folder
        self._kept: dict[str, QPixmap] = {}
        self._bytes = 0
        self._asked: set[str] = set()
        self.held = True  # until the first paint

    def tidy(self) -> None:
        """Let the oldest pictures of the cache folder go where there are too many; not on the window's thread."""
        trim(cache_folder() / "pictures", MOST_ON_DISK)

    def get(self, piece: Piece, what: str) -> QPixmap | None:
        """The picture, or None while it is being made (or the piece has no outline yet)."""
        if not piece.outline:
            return None
        photo = photo_of(piece, what)
        key = picture_key(piece, what)
        if photo is not None:
            key = hashlib.sha256(f"{key} {photo!r}".encode()).hexdigest()[:32]
        if key not in self._kept and key not in self._asked and not self.held and not self.background.held:
            self._asked.add(key)
            self.background.start(lambda: _load_or_paint(piece, what, key, self.folder), lambda image: self._take(key, image))
        if key in self._kept:
            self._kept[key] = self._kept.pop(key)  # used now: the last to be let go
        return self._kept.get(key)

    def _take(self, key: str, image: object) -> None:
        if not isinstance(image, Failed):  # what failed once is not tried again at every paint
            self._asked.discard(key)
        if isinstance(image, QImage) and not image.isNull():
            self.keep(key, QPixmap.fromImage(image))
            self.ready.emit()

    def keep(self, key: str, pixmap: QPixmap) -> None:
        """Keep a picture in memory; the ones used longest ago go where there are too many."""
        if (old := self._kept.pop(key, None)) is not None:
            self._bytes -= 4 * old.width() * old.height()
        self._kept[key] = pixmap
        self._bytes += 4 * pixmap.width() * pixmap.height()
        while self._bytes > MOST_BYTES and len(self._kept) > 1:
            gone = self._kept.pop(next(iter(self._kept)))
            self._bytes -= 4 * gone.width() * gone.height()


def _load_or_paint(piece: Piece, what: str, key: str, folder: Path) -> QImage:
    path = cache_folder() / "pictures" / f"{key}.png"
    image = QImage(str(path)) if path.exists() else QImage()
    if image.isNull():
        photo = photo_of(piece, what)
        image = paint_photo(folder, piece, photo) if photo is not None else paint(piece, what)
        if image.isNull():  # the original is gone: the model stands in, and nothing is kept of it
            return paint(piece, what)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            aside = path.with_suffix(f".{os.getpid()}.part")
            if image.save(str(aside), "PNG"):  # type: ignore[call-overload]
                aside.replace(path)
        except OSError:
            pass  # a full disk costs only the cache
    return image


def plain_colour(species: str) -> QColor:
    """The species' mean colour, shown until its picture is there."""
    from grainet.picture.solid import look_of

    look = look_of(species)
    return QColor(*((a * 2 + b) // 3 for a, b in zip(look.early, look.late)))
