"""What is still to be read of a piece, in the order in which a builder measures, and how each may be read."""

from __future__ import annotations

from dataclasses import dataclass

from grainet.session.commands.sizes import grid_places
from grainet.wood.look_skim import LOOKS_AT, wanted, why_closed
from grainet.wood.moisture import moisture_state
from grainet.wood.piece import Piece
from grainet.wood.place import near_place
from grainet.wood.suggestion import Suggestion
from grainet.wood.units import LengthStyle, tell_length


@dataclass(frozen=True)
class Task:
    """One thing to read next: what, how, the words that the tape line opens with, and the instrument that can read it."""

    what: str
    how: str
    words: str
    instrument: str = ""


def tasks_of(piece: Piece, pin_depth_mm: float, question: str = "", style: LengthStyle = "mm") -> list[Task]:
    """What is still unread, in the order in which to measure; ``question`` is what the measurements contradict."""
    return [*_suggested(piece), *_sizes(piece, style), *_facts(piece, pin_depth_mm, style), *_doubts(piece, question)]


def _doubts(piece: Piece, question: str) -> list[Task]:
    found = [Task("Look again", question.partition(": ")[2] or question, "sp ")] if question else []  # its species stands above
    if piece.species != "unknown" and not piece.species_sure:
        names = ", ".join((piece.species, *piece.candidates))
        found.append(Task("Species for certain", f"may be {names}; Ctrl+K weighs them", "surely "))
    return found


def unread_places(piece: Piece) -> list[tuple[float, float]]:
    """The reading grid's places that have no thickness yet."""
    read = [(s.x_mm, s.y_mm) for s in piece.stations]
    rows = piece.reading_grid[1] > 1
    return [place for place in grid_places(piece) if not any(near_place(place, r, rows=rows) for r in read)]


def _sizes(piece: Piece, style: LengthStyle) -> list[Task]:
    found: list[Task] = []
    end = piece.length_mm or piece.extents[2]
    if not end:
        found.append(Task("Length", "or all at once: 2390x231x52 walnut, in inches 94x9x2 walnut", "l "))
    if not piece.width_stations and not piece.outline:
        found.append(Task("Width", "one figure, or several evenly along; e for live edges", "w "))
    if not piece.all_thicknesses_mm:
        count = piece.reading_grid[0] * piece.reading_grid[1]
        found.append(Task("Thickness", f"{count} figures in one line, or one at the marker", "t ", "callipers"))
    elif left := unread_places(piece):
        if (len(piece.stations) < 2 and end > 600) or (piece.reading_grid[1] > 1 and piece.stations):
            x, y = left[0]
            at, up = tell_length(x, style), tell_length(y, style)
            words = f"{at} t " if piece.reading_grid[1] == 1 else f"{at} t  y {up}"
            found.append(Task(f"Thickness, {len(left)} more", "the thin end decides", words, "callipers"))
    return found


def _facts(piece: Piece, pin_depth_mm: float, style: LengthStyle) -> list[Task]:
    found: list[Task] = []
    if piece.species == "unknown":
        found.append(Task("Species", "a name, or leave it unknown", "sp "))
    found += _old_face(piece)
    if piece.mass_kg is None:
        found.append(Task("Weigh it", "gives kg/m³", "kg ", "scale"))
    if not piece.moisture_now:
        found.append(Task("Moisture", f"pins at {tell_length(pin_depth_mm, style)} deep", "mc ", "moisture"))
    elif moisture_state(piece.moisture_now, piece.least_thickness_mm, 0.0).core_unread:
        found.append(Task("Core moisture", "long pins, or a cut sample", "core "))
    if piece.ring_angle_deg is None or None in piece.ring_angle_deg:
        found.append(Task("Rings at both ends", "0 flat to 90 quarter, or a photo of the end", "ring "))
    if piece.grain_slope_deg is None:
        found.append(Task("Slope of grain", "degrees off the edge, or a photo of face 1", "slope "))
    flat = piece.flatness
    open_ = [w for w, mm in (("bow", flat.bow_mm), ("cup", flat.cup_mm)) if not mm and w not in piece.flat_read]
    if open_:
        how = {"bow": "straightedge along", "cup": "straightedge across"}
        message = f"{', '.join(how[w] for w in open_)}: {' '.join(f'{w} 1' for w in open_)}; 0 counts as read"
        found.append(Task(" and ".join(open_).capitalize(), message, f"{open_[0]} "))
    if not piece.origin:
        found.append(Task("Origin", "where it comes from", "from "))
    if not piece.place:
        found.append(Task("Place", "where it lies, such as C3", "at "))
    return found


def _old_face(piece: Piece) -> list[Task]:
    """What old and finished stock asks for, in the order in which it is safe: declared, tested, swept, skimmed, looked at again."""
    found: list[Task] = []
    if piece.reclaimed and not piece.coating.finish:
        found.append(Task("Old finish", "none, unknown, paint, varnish, stain, oil", "finish "))
    if piece.reclaimed and not piece.coating.treatment:
        found.append(Task("Treatment", "none, unknown, preservative, decking", "treated "))
    if piece.coating.wants_test:
        found.append(Task(f"Test the old {piece.coating.finish}", "clean or lead, and how; before any tool", "tested "))
    for face in piece.unswept_faces:
        found.append(Task(f"Sweep face {face} for metal", "mark each find first: m 6x6", f"clear {face}"))
    for look in wanted(piece):
        if not why_closed(piece, look):
            found.append(
                Task(f"Skim face {look} to see the wood", "a light pass, by hand or machine; then look again", f"skimmed {look} ")
            )
    for skim in (s for s in piece.skims if not s.seen):
        found.append(Task(f"Look at face {skim.face} again", f"{LOOKS_AT}, now that it is bare", f"seen {skim.face}"))
    return found


def _suggested(piece: Piece) -> list[Task]:
    """What a picture suggests waits to be kept or dropped."""
    rest = [s for s in piece.suggestions if s.what != "defect"]
    marks = [s for s in piece.suggestions if s.what == "defect"]
    found = [Task(_said(s), f"by the photo, {s.confidence:.2f} sure; drop {s.id} drops it", f"take {s.id}") for s in rest]
    if marks:
        tags = ", ".join(s.id for s in marks[:6]) + ("…" if len(marks) > 6 else "")
        found.append(Task(f"{len(marks)} marks suggested", f"{tags}: press a tag; keep or drop", f"take {marks[0].id}"))
    return found


def _said(one: Suggestion) -> str:
    """A suggestion in a few words, with its figure."""
    if one.what == "slope":
        return f"{'Run-out' if one.face == 'edge' else 'Slope'} {one.figures[0]:.1f}°?"
    if one.what == "rings":
        return f"Rings {one.figures[0]:.0f}°, {'far' if one.figures[1] else 'marked'} end?"
    if one.what == "figure":
        return f"Figure, {one.figures[0]:.0%} strong?"
    return "Live edges as seen?" if one.what == "edges" else f"{one.what.capitalize()} {one.figures[0]:.1f}?"
