"""Parts that are let in: a top in a recess of the body, with a rim around it; plates in the neck's back. How they stand."""

from __future__ import annotations

from grainet.design.clip import area_mm2
from grainet.design.instrument import Instrument
from grainet.kept import kept_per_value
from grainet.wood.value import Ring


@kept_per_value()
def top_outline(g: Instrument) -> Ring:
    """What the top covers, in the body's frame: the whole body, or what its rim leaves of it; empty where the rim leaves nothing."""
    if not g.body.rim_mm:
        return g.body.outline
    from shapely.geometry import Polygon

    inner = Polygon(g.body.outline).buffer(-g.body.rim_mm, quad_segs=16)
    parts = sorted(getattr(inner, "geoms", [inner]), key=lambda p: p.area)
    if inner.is_empty:
        return ()
    ring = tuple((round(x, 4), round(y, 4)) for x, y in list(parts[-1].exterior.coords)[:-1])
    return ring if area_mm2(ring) > 0 else ring[::-1]


def recess_mm(g: Instrument) -> float:
    """How deep the top is let in: as told, else its own thickness; 0 where it lies on the whole body."""
    return (g.body.recess_mm or g.body.cap_mm) if g.body.rim_mm and g.body.cap_mm else 0.0


def proud(thickness_mm: float, depth_mm: float) -> str:
    """How a let-in part stands, in words: flush, so much proud, so much below."""
    stands = thickness_mm - depth_mm
    if abs(stands) < 0.05:
        return "flush"
    return f"{stands:.1f} proud" if stands > 0 else f"{-stands:.1f} below"
