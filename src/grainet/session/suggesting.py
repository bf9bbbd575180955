"""Keeping or dropping what a picture suggests: a kept suggestion becomes a reading that says where it came from."""

from __future__ import annotations

from typing import Any

from grainet.wood.defects import Defect, next_defect_id
from grainet.wood.figure import HOUSE_WORDS, FigureZone, house_word, next_figure_id
from grainet.wood.piece import Piece, WidthStation, with_readings
from grainet.wood.suggestion import Suggestion

PICTURE = "picture"


def without(piece: Piece, suggestion_id: str) -> Piece:
    """The piece with one suggestion dropped."""
    return piece.changed(suggestions=tuple(s for s in piece.suggestions if s.id != suggestion_id))


def suggested(piece: Piece, new: tuple[Suggestion, ...], face: str) -> Piece:
    """The piece with the new suggestions of one side in place of the old ones of that side, each with a free tag.

    A suggested trouble that lies on one already marked there is left out: it is known.
    """
    kept = tuple(s for s in piece.suggestions if s.face != face)
    taken = {d.id for d in piece.defects} | {s.id.rstrip("?") for s in kept}
    known = [_box(d.polygon) for d in piece.defects if d.face in (face, "through")]
    found: list[Suggestion] = []
    for one in new:
        if one.what == "defect":
            if one.kind is None or any(_overlap(_box(one.polygon), box) > 0.3 for box in known):
                continue
            tag = next_defect_id(one.kind, taken)
        else:
            names = (one.what, *(f"{one.what}{n}" for n in range(2, 100)))
            tag = next(n for n in names if n not in taken)
        taken.add(tag)
        found.append(one.changed(id=f"{tag}?"))
    return piece.changed(suggestions=(*kept, *found))


def accepted(piece: Piece, one: Suggestion, house: tuple[str, ...] = HOUSE_WORDS) -> Piece:
    """The piece with a suggestion kept as a reading."""
    rest = without(piece, one.id)
    sure = f"{PICTURE} {one.confidence:.2f}"
    sources = tuple(pair for pair in rest.read_by if pair[0] != _field(one))
    if one.what == "defect" and one.kind is not None:
        tag = next_defect_id(one.kind, {d.id for d in rest.defects})
        face = one.face if one.face in ("1", "2", "edge") else "1"
        mark = Defect(id=tag, kind=one.kind, face=face, polygon=one.polygon, by=sure)
        return rest.changed(defects=(*rest.defects, mark))
    if one.what == "figure":
        strength, wavelength, angle = one.figures
        zone = FigureZone(
            id=next_figure_id({f.id for f in rest.figure}), kind="curl", face="through", polygon=one.polygon, strength=round(strength, 2),
            wavelength_mm=round(wavelength, 1) or None, angle_deg=round(angle, 1), word=house_word(strength, house), by=sure,
        )  # fmt: skip
        return rest.changed(figure=(*rest.figure, zone))
    rest = rest.changed(read_by=(*sources, (_field(one), sure)))
    if one.what == "slope":
        return rest.changed(**{"runout_deg" if one.face == "edge" else "grain_slope_deg": round(one.figures[0], 1)})
    if one.what == "rings":
        angle, end = one.figures[0], int(one.figures[1])
        both = list(rest.ring_angle_deg or (None, None))
        both[end] = float(round(angle))
        heart = {"heart_face": f"{one.figures[2]:.0f}", "heart_mm": one.figures[3]} if len(one.figures) > 3 else {}
        return rest.changed(ring_angle_deg=tuple(both), **heart)
    if one.what in ("bow", "cup", "crook"):
        sag, span = round(one.figures[0], 1), float(round(one.figures[1]))
        flat = rest.flatness.changed(**{f"{one.what}_mm": sag, f"{one.what}_span_mm": span})
        return rest.changed(flatness=flat, flat_read=(*(w for w in rest.flat_read if w != one.what), one.what))
    if one.what == "twist":
        apart = float(round(one.figures[1])) if len(one.figures) > 1 and one.figures[1] >= 1 else None
        flat = rest.flatness.changed(rock_mm=round(one.figures[0], 1), rock_span_mm=apart)
        return rest.changed(flatness=flat, flat_read=(*(w for w in rest.flat_read if w != "twist"), "twist"))
    return _with_edges(rest, one)


def _field(one: Suggestion) -> str:
    return {"slope": "runout_deg" if one.face == "edge" else "grain_slope_deg", "rings": "ring_angle_deg", "bow": "bow", "edges": "edges"}.get(
        one.what, one.what
    )  # fmt: skip


def _with_edges(piece: Piece, one: Suggestion) -> Piece:
    """A live-edge outline becomes edge readings up and down from a line through its middle."""
    line = round(sum((near + far) / 2 for _, near, far in one.edges) / len(one.edges), 1)
    stations = tuple(
        WidthStation(
            x_mm=round(max(0.0, x), 1), far_mm=round(max(0.0, far - line), 1), near_mm=round(max(0.0, line - near), 1), by=PICTURE
        )
        for x, near, far in one.edges
    )
    length = piece.length_mm or max(x for x, _, _ in one.edges)
    return with_readings(piece, width_stations=stations, length_mm=length)


def _box(ring: Any) -> tuple[float, float, float, float]:
    xs, ys = zip(*ring)
    return min(xs), min(ys), max(xs), max(ys)


def _overlap(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> float:
    """Shared area over the smaller box's area."""
    w, h = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
    least = min((a[2] - a[0]) * (a[3] - a[1]), (b[2] - b[0]) * (b[3] - b[1]))
    return max(0.0, w) * max(0.0, h) / max(least, 1e-9)
