"""Asking thousands of pieces at once: a row of figures per piece, kept beside the rack, answers most of a question in one sweep.

What the row cannot decide for certain is looked at piece by piece as ``asking.matches`` does, so the answer is the same as the slow
one. The room on a board is kept as a staircase: for each length, the widest rectangle that lies on whole wood, with and without
troubles. Rows of pieces that did not change are read back from a cache file; nothing is lost with it.
"""

from __future__ import annotations

import hashlib
import json
import zipfile
import zlib
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from grainet.kit.shop_profile import ShopProfile
from grainet.session.query import GRID_MM, Query, matches, one_species, usable_cells
from grainet.wood.flatness import over_the_whole
from grainet.wood.moisture import moisture_state
from grainet.wood.piece import Piece
from grainet.wood.rings import least_angle

BIN_MM, BINS = 24.0, 210  # staircase: lengths to 5 m
COLUMNS = (
    "length", "width", "thin", "thick", "bow", "bow_span", "cup", "cup_span", "rock", "crook", "crook_span", "ring", "worst", "core_read",
    "figured", "reclaimed", "swept", "measured", "weighed",
)  # fmt: skip
FORM = 4  # raised when the rows change their meaning: an older cache is then left aside
NEVER = -1.0


@dataclass
class Row:
    """One piece's figures (COLUMNS, with NEVER for unread), words, and the two staircases (clear, whole wood), each (BINS,)."""

    basis: str
    figures: NDArray[np.float64]
    words: tuple[str, str, str]  # kind, species, place
    stairs: NDArray[np.uint16]


def row_of(piece: Piece, kit: ShopProfile, basis: str) -> Row:
    """A piece as a row."""
    x0, y0, x1, y1 = piece.extents
    flat, thick = piece.flatness, piece.all_thicknesses_mm
    measured = bool(piece.outline and thick)
    long, wide = max(x1 - x0, 1e-9), max(y1 - y0, 1e-9)
    state = moisture_state(piece.moisture_now, piece.least_thickness_mm, kit.target_moisture_pct)
    angle = least_angle(piece.ring_angle_deg)
    core = state.core_read or not state.has_core
    crook = 0.0 if piece.crook_in_outline else flat.crook_mm
    figures = np.array([
        x1 - x0, y1 - y0, min(thick, default=NEVER), max(thick, default=NEVER), flat.bow_mm, flat.bow_span_mm or long, flat.cup_mm,
        flat.cup_span_mm or wide, over_the_whole(flat, long).rock_mm, crook, flat.crook_span_mm or long, NEVER if angle is None else angle,
        NEVER if state.worst_pct is None else state.worst_pct, core, any(f.kind != "plain" for f in piece.figure), piece.reclaimed,
        not piece.unswept_faces and not piece.live_metal, measured, max(len(piece.weighings), 3 if piece.settled else 0),  # both want a closer look
    ], float)  # fmt: skip
    stairs = np.zeros((2, BINS), np.uint16)
    if measured:
        for k, clear in enumerate((True, False)):
            stairs[k] = staircase(usable_cells(piece, 0.0, kit, clear=clear))
    return Row(basis, figures, (piece.kind, piece.species.lower(), piece.place.lower()), stairs)


def staircase(good: NDArray[np.bool_]) -> NDArray[np.uint16]:
    """Widest run of rows, in mm, under which a rectangle of at least k x BIN_MM along lies on good cells, for k = 0..BINS-1.

    Heights of good cells above each cell, then a running least along the board: its greatest value is the width (in cells).
    """
    import cv2

    rows, columns = good.shape
    height = np.zeros((rows, columns), np.uint16)
    run = np.zeros(columns, np.uint16)
    for r in range(rows):
        run = (run + 1) * good[r]
        height[r] = run
    found = np.zeros(BINS, np.uint16)
    found[0] = round(int(height.max(initial=0)) * GRID_MM)
    step = round(BIN_MM / GRID_MM)
    kernel = np.ones((1, step + 1), np.uint8)
    # a window of k bins is (k step) cells long; each pass of the short window adds a bin
    now = cv2.erode(height, np.ones((1, step), np.uint8), anchor=(0, 0), borderType=cv2.BORDER_CONSTANT, borderValue=0)
    for k in range(1, BINS):
        if k * step > columns:
            break
        top = int(now[:, : columns - k * step + 1].max(initial=0))
        found[k] = round(top * GRID_MM)
        if not top:
            break
        now = cv2.erode(now, kernel, anchor=(0, 0), borderType=cv2.BORDER_CONSTANT, borderValue=0)
    return found


class RackIndex:
    """The rows of a rack, kept up as pieces change."""

    def __init__(self) -> None:
        self.rows: dict[str, Row] = {}
        self._stacked: tuple[tuple[str, ...], NDArray[np.float64], NDArray[np.uint16]] | None = None

    def missing(self, texts: dict[str, str], kit: ShopProfile) -> list[str]:
        """Pieces whose row is not there or out of date; rows of pieces that are gone are dropped."""
        mark = kit_mark(kit)
        for gone in self.rows.keys() - texts.keys():
            del self.rows[gone]
            self._stacked = None
        return [name for name, text in texts.items() if name not in self.rows or self.rows[name].basis != _basis(text, mark)]

    def drop(self, name: str) -> None:
        """Forget a row that counts no more."""
        if self.rows.pop(name, None) is not None:
            self._stacked = None

    def keep(self, piece: Piece, text: str, kit: ShopProfile) -> None:
        """Work out one piece's row."""
        self.rows[piece.id] = row_of(piece, kit, _basis(text, kit_mark(kit)))
        self._stacked = None

    def find(self, pieces: Iterable[Piece], query: Query, kit: ShopProfile) -> frozenset[str]:
        """The numbers of the pieces that answer a question; the same as asking each, and much sooner."""
        by_id = {p.id: p for p in pieces}
        ids, figures, stairs = self._stack()
        yes, open_ = self._decide(ids, figures, stairs, query, kit)
        found = {ids[k] for k in np.flatnonzero(yes)} & by_id.keys()
        unsure = [ids[k] for k in np.flatnonzero(open_)] + [name for name in by_id if name not in self.rows]
        found |= {name for name in unsure if name in by_id and matches(by_id[name], query, kit)}
        return frozenset(found)

    def _stack(self) -> tuple[tuple[str, ...], NDArray[np.float64], NDArray[np.uint16]]:
        if self._stacked is None:
            ids = tuple(self.rows)
            figures = np.array([self.rows[i].figures for i in ids]).reshape(len(ids), len(COLUMNS))
            stairs = np.array([self.rows[i].stairs for i in ids], np.uint16).reshape(len(ids), 2, BINS)
            self._stacked = (ids, figures, stairs)
        return self._stacked

    def _decide(
        self, ids: tuple[str, ...], figures: NDArray[np.float64], stairs: NDArray[np.uint16], query: Query, kit: ShopProfile
    ) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Which rows answer for certain, and which must be looked at one by one."""
        col = {name: figures[:, k] for k, name in enumerate(COLUMNS)}
        maybe = self._words(ids, col, query, kit)
        asks_more = np.full(len(ids), bool(query.house)) | (("ready" in query.words) & (col["weighed"] >= 3))
        if not any(query.size_mm):
            return maybe & ~asks_more, maybe & asks_more
        thick, width, length = query.size_mm
        cuts = kit.cuts
        need_l = length + 2 * cuts.trim_mm
        need_w = width + 2 * cuts.edge_mm + col["crook"] * (length / col["crook_span"]) ** 2
        maybe &= (col["measured"] > 0) & (need_l <= col["length"] + 1e-6) & (need_w <= col["width"] + 1e-6)
        with np.errstate(divide="ignore", invalid="ignore"):
            loss = (
                col["bow"] * (length / col["bow_span"]) ** 2
                + col["cup"] * (width / col["cup_span"]) ** 2
                + col["rock"] / 2 * (length * width) / (col["length"] * col["width"])
                + 2 * cuts.skim_mm
            )
        need_t = thick + loss if thick else np.zeros(len(ids))
        maybe &= need_t <= col["thick"] + 1e-9
        even = need_t <= col["thin"] + 1e-9
        steps = stairs[:, 0 if "clear" in query.words else 1]
        at = need_l / BIN_MM
        low, high = min(BINS - 1, int(np.floor(at + 1e-9))), min(BINS - 1, int(np.ceil(at - 1e-9)))
        surely = even & (steps[:, high] >= need_w - 1e-9) & (at <= BINS - 1)
        # the widest run at a shorter length bounds it from above; a whole board may lose a part of a cell at its rim
        hopeless = steps[:, low] + 2 * GRID_MM < need_w
        return maybe & surely & ~asks_more, maybe & ~(surely & ~asks_more) & ~hopeless

    def _words(
        self, ids: tuple[str, ...], col: dict[str, NDArray[np.float64]], query: Query, kit: ShopProfile
    ) -> NDArray[np.bool_]:
        yes = np.ones(len(ids), bool)
        words = query.words
        angle = col["ring"]
        for word, low, high in (("flat", 0, 30), ("rift", 30, 60), ("quartered", 60, 91)):
            if word in words:
                yes &= (angle >= low) & (angle < high)
        if "ready" in words:
            near = abs(col["worst"] - kit.target_moisture_pct) <= kit.rules.ready_within_pct
            yes &= ((col["worst"] != NEVER) & near & (col["core_read"] > 0)) | (col["weighed"] >= 3)
        for word in ("figured", "reclaimed", "swept", "measured"):
            if word in words:
                yes &= col[word] > 0
        for word, name in (("bought", "reclaimed"), ("unread", "measured")):
            if word in words:
                yes &= col[name] == 0
        if query.kinds or query.places or query.species:
            yes &= np.array([self._named(self.rows[i], query, kit) for i in ids], bool) if len(ids) else yes
        return yes

    def _named(self, row: Row, query: Query, kit: ShopProfile) -> bool:
        kind, species, place = row.words
        return (
            (not query.kinds or kind in query.kinds)
            and (not query.places or place in query.places)
            and (not query.species or any(one_species(species, wanted, kit.library) for wanted in query.species))
        )

    # the cache ----------------------------------------------------------------------------------------------------
    def save(self, path: Path) -> None:
        """Write the rows beside the shop's other caches; a failure costs nothing but time later."""
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            ids, figures, stairs = self._stack()
            words = json.dumps([[i, self.rows[i].basis, *self.rows[i].words] for i in ids])
            aside = path.with_suffix(".part.npz")
            np.savez(aside, figures=figures, stairs=stairs, words=np.frombuffer(words.encode(), np.uint8))
            aside.replace(path)
        except OSError:
            return

    def load(self, path: Path) -> None:
        """Read rows back; a file that is not as it should be is left aside."""
        try:
            with np.load(path, allow_pickle=False) as kept:
                figures, stairs = kept["figures"], kept["stairs"]
                words = json.loads(kept["words"].tobytes().decode())
            if figures.shape != (len(words), len(COLUMNS)) or stairs.shape != (len(words), 2, BINS):
                return
            self.rows = {i: Row(b, f, (k, s, p), t) for (i, b, k, s, p), f, t in zip(words, figures, stairs)}
            self._stacked = None
        except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile, zlib.error):
            return


def kit_mark(kit: ShopProfile) -> str:
    """What of the kit the rows rest on."""
    return f"{kit.cuts.metal_clear_mm}|{kit.cuts.growth_mm}"


def _basis(text: str, mark: str) -> str:
    return hashlib.blake2b(f"{FORM}|{mark}|{text}".encode(), digest_size=12).hexdigest()
