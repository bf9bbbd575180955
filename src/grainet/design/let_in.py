"""Parts that are let in: a top in a recess of the body, with a rim around it; plates in the neck's back. How they stand."""

from __future__ import annotations

from grainet.design.clip import area_mm2
from grainet.design.instrument import Instrument
from grainet.kept import kept_per_value
from grainet.wood.value import Ring


@kept_per_value()
def within_rim(g: Instrument) -> tuple[Ring, ...]:
    """What the rim leaves of the body for a top, the largest first: one piece where a top can be let in, none or several where not."""
    from shapely.geometry import Polygon

    inner = Polygon(g.body.outline).buffer(-g.body.rim_mm, quad_segs=16)
    parts = sorted((p for p in getattr(inner, "geoms", [inner]) if not p.is_empty), key=lambda p: -p.area)
    rings = [tuple((round(x, 4), round(y, 4)) for x, y in list(p.exterior.coords)[:-1]) for p in parts]
    return tuple(ring if area_mm2(ring) > 0 else ring[::-1] for ring in rings)


def top_outline(g: Instrument) -> Ring:
    """What the top covers, in the body's frame: the whole body, or what its rim leaves of it; empty where the rim leaves nothing."""
    return next(iter(within_rim(g)), ()) if g.body.rim_mm else g.body.outline


def recess_mm(g: Instrument) -> float:
    """How deep the top is let in: as told, else its own thickness; 0 where it lies on the whole body."""
    return (g.body.recess_mm or g.body.cap_mm) if g.body.rim_mm and g.body.cap_mm else 0.0


def proud(thickness_mm: float, depth_mm: float) -> str:
    """How a let-in part stands, in words: flush, so much proud, so much below."""
    stands = thickness_mm - depth_mm
    if abs(stands) < 0.05:
        return "flush"
    return f"{stands:.1f} proud" if stands > 0 else f"{-stands:.1f} below"
