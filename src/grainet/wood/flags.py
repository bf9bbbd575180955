"""What a label and the rack must say of a piece at a glance: live metal, not swept, old finish, treated, heavy, wet, unread."""

from __future__ import annotations

from grainet.wood.piece import Piece

HEAVY_KG = 20.0  # two people, or a trolley: a common advice for one person's careful lift
WET_PCT = 16.0  # above it mould is invited


def flags_of(piece: Piece) -> tuple[str, ...]:
    """Short warnings, the gravest first."""
    found = []
    if piece.live_metal:
        found.append(f"METAL {', '.join(d.id for d in piece.live_metal)}")
    if piece.unswept_faces:
        found.append(f"NOT SWEPT face {' and '.join(piece.unswept_faces)}")
    if piece.coating.barred:
        found.append(f"TREATED {piece.coating.treatment.replace('_', ' ')}: do not use or burn")
    if piece.coating.holds_poison:
        found.append("OLD FINISH not clean")
    elif piece.coating.wants_test:
        found.append(f"OLD FINISH {piece.coating.finish}: test first")
    if piece.mass_kg is not None and piece.mass_kg >= HEAVY_KG:
        found.append(f"HEAVY {piece.mass_kg:.0f} kg: two people")
    if piece.moisture_now and max(r.moisture_pct for r in piece.moisture_now) > WET_PCT:
        found.append("WET: sticks, air, apart")
    return tuple(found)
