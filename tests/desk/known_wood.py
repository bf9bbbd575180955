"""What was judged and painted of the demo's wood once need not be made again in every test: each judgement carries what it rests on,
each picture what it shows."""

from __future__ import annotations

from typing import Any

from PySide6.QtGui import QPixmap

from grainet.desk.services.pictures import SIDE_OF, Pictures, picture_key
from grainet.grade.wanted import Wanted
from grainet.session.shop import Shop
from grainet.wood.piece import Piece

WHERE = ("_verdicts", "_facts", "_layers", "_standings")


class KnownWood:
    """Judgements of wood that no test has touched, by where they are kept and under which key."""

    def __init__(self) -> None:
        self.known: dict[tuple[str, Any], tuple[tuple[Any, ...], Any]] = {}
        self.wanted: dict[Any, tuple[tuple[Any, ...], Any]] = {}  # what uses ask for: a verdict rests on the very value
        self.fresh: dict[str, Any] = {}  # pieces and designs as the demo has them
        self.pictures: dict[str, QPixmap] = {}  # by what they show of untouched wood without photos
        self.mark: Any = None

    def give(self, shop: Shop) -> None:
        """Let a fresh copy of the demo begin with it."""
        judged = shop.judgements
        if self.mark is None:
            assert judged._judged_by is not None  # asked for, so that it is made
            self.mark = judged._mark
            self.fresh = {p.id: p for p in (*shop.pieces(), *shop.designs())}
        judged._mark = self.mark
        designs = {d.id: d for d in shop.designs()}
        for (use, design), (
            _,
            made,
        ) in self.wanted.items():  # the shop's own values: what is the very same is not compared field by field
            judged._wanted.put((use, design), ((shop.kit.use(use), designs.get(design)), made))
        for (where, key), (basis, made) in self.known.items():
            piece = shop.piece(key if isinstance(key, str) else key[0])
            getattr(judged, where).put(key, ((piece, *basis[1:]), made))

    def learn(self, shop: Shop) -> None:
        """Keep what a test's shop judged of wood, designs and a profile that are still the demo's."""
        for key, kept in list(shop.judgements._wanted._values.items()):
            design = kept[0][1]
            if key not in self.wanted and (design is None or design == self.fresh.get(design.id)):
                self.wanted[key] = kept
        asked = {id(made) for _, made in self.wanted.values()}
        for where in WHERE:
            for key, (basis, made) in list(getattr(shop.judgements, where)._values.items()):
                piece, *rests = basis
                same = any(part is self.mark[2] for part in rests) and piece == self.fresh.get(piece.id)
                if same and (where, key) not in self.known and all(id(w) in asked for w in rests if isinstance(w, Wanted)):
                    self.known[where, key] = basis, made

    def give_pictures(self, pictures: Pictures) -> None:
        """Let a new window begin with what others have painted."""
        for key, pixmap in self.pictures.items():
            pictures.keep(key, pixmap)

    def learn_pictures(self, pictures: Pictures) -> None:
        """Keep what a window painted of the demo's wood."""
        plain = [p for p in self.fresh.values() if isinstance(p, Piece) and not p.photos]
        for key in (picture_key(piece, what) for piece in plain for what in SIDE_OF):
            if key in pictures._kept:
                self.pictures[key] = pictures._kept[key]
