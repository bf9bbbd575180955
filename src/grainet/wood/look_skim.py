"""A light skim of an old face to see the wood: only once the face is swept for metal and the old finish tested; what it takes comes off
thickness, marks and photo, and the face is to be looked at again afterwards.

Source: CAPABILITIES C107.
"""

from __future__ import annotations

from typing import Literal

from grainet.wood.piece import LookSkim, Piece
from grainet.wood.value import BadEntry

MOST_MM = 2.0  # more is planing, not looking
LOOKS_AT = "colour, rings, marks and slope"


def why_closed(piece: Piece, face: str) -> str:
    """Why a face may not be skimmed yet, as a sentence; empty where it may."""
    if face in piece.unswept_faces:
        return f"Face {face} is not swept for metal: sweep it first, clear {face}."
    if metal := [d.id for d in piece.live_metal]:
        return f"Metal is still in it ({', '.join(metal)}): draw it out first, out {metal[0]}."
    if piece.coating.barred:
        return "Treated wood is not worked unless it is known and safe."
    if piece.coating.wants_test:
        return f"Its old finish ({piece.coating.finish}) is not tested: test it before any tool, tested clean or tested lead."
    if piece.coating.holds_poison:
        return "Its old finish was tested and is not clean: follow local rules for lead work."
    if piece.reclaimed and not piece.coating.finish:
        return "Its old finish is not declared: finish none, or what it is."
    return ""


def wanted(piece: Piece) -> tuple[Literal["1", "2"], ...]:
    """The faces whose wood an old coat still hides."""
    if piece.coating.finish in ("", "none"):
        return ()
    done = {s.face for s in piece.skims}
    return tuple(f for f in ("1", "2") if f not in done)


def skimmed(piece: Piece, face: Literal["1", "2"], mm: float, on: str) -> Piece:
    """The piece once so much is off a face: thinner, marks of that face shallower, those that were no deeper gone. Raises BadEntry."""
    if why := why_closed(piece, face):
        raise BadEntry(why)
    least = piece.least_thickness_mm
    if not 0 < mm <= MOST_MM:
        raise BadEntry(
            f"skimmed {face} {mm:g}: a look takes more than 0 and at most {MOST_MM:g}; more is planing, read its thickness anew (t)."
        )
    if least is not None and mm >= least:
        raise BadEntry(f"skimmed {face} {mm:g}: it is only {least:g} thick.")
    marks = []
    for one in piece.defects:
        if one.face == face and one.depth_mm is not None:
            if one.depth_mm <= mm + 1e-9:
                continue
            one = one.changed(depth_mm=round(one.depth_mm - mm, 2))
        marks.append(one)
    skims = (*(s for s in piece.skims if s.face != face), LookSkim(face=face, on=on, mm=mm))
    return piece.changed(
        skims=skims, defects=tuple(marks), thickness_mm=None if piece.thickness_mm is None else round(piece.thickness_mm - mm, 3),
        stations=tuple(s.changed(thickness_mm=round(s.thickness_mm - mm, 3)) for s in piece.stations),
    )  # fmt: skip


def seen(piece: Piece, faces: tuple[str, ...]) -> Piece:
    """The piece once what a skim showed is read and marked. Raises BadEntry where no such face waits to be looked at."""
    if not any(s.face in faces and not s.seen for s in piece.skims):
        raise BadEntry(f"No skim of face {' or '.join(faces)} waits to be looked at; a skim is told as skimmed 1 0.4.")
    return piece.changed(skims=tuple(s.changed(seen=True) if s.face in faces else s for s in piece.skims))
