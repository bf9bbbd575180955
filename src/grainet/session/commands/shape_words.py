"""Words of the tape line about what is cut into the body's faces: bevels and carves along its rim, contours beyond a line."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from grainet.design.instrument import Instrument
from grainet.session.commands.bits import after, mm, shown, signed, skip
from grainet.wood.units import entry_unit
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.session.commands.figures import FigureReader

RIM, CONTOUR = "bevel 10 in 14, carve 8 in 60, bevel behind 3", "contour 14 from 320 -60 to 120 -150"


def read_rim(reader: FigureReader, g: Instrument, kind: str) -> Instrument:
    """``bevel 10`` (as far in as deep), ``carve 8 in 60``, ``bevel behind 3``, ``bevel away``. Raises BadEntry."""
    back = skip(reader, "behind")
    kept = _others(g, kind, back=back)
    if skip(reader, "away"):
        return _away(reader, g, kind, kept)
    if not reader.words:
        raise BadEntry(f"{kind} needs how deep it is at the rim, such as {RIM}.")
    deep = mm(reader, reader.words.pop(0))
    reach = after(reader, "in", RIM) or deep
    reader.told.append(
        f"{kind} {'behind' if back else 'in front'}, {shown(reader, deep)} deep, {shown(reader, reach)} in from the rim"
    )
    return g.with_figure("body.shaping", [*kept, _row(kind, deep, back=back, in_mm=reach)])


def read_contour(reader: FigureReader, g: Instrument) -> Instrument:
    """``contour 14 from 320 -60 to 120 -150`` (places from the tail and from the centre line, bass up), ``contour behind 10 from ...``,
    ``contour 16`` (the last one drawn, deeper), ``contour away``. Raises BadEntry."""
    back = skip(reader, "behind")
    drawn = [s for s in g.body.shaping if s.kind == "contour" and s.back == back]
    others = [s for s in g.body.shaping if not drawn or s is not drawn[-1]]
    kept = [s.model_dump(mode="json", exclude_unset=True) for s in others]
    if skip(reader, "away"):
        return _away(reader, g, "contour", kept)
    if not reader.words:
        raise BadEntry(f"contour needs how deep it is at the rim, such as {CONTOUR}.")
    deep = mm(reader, reader.words.pop(0))
    line: Any
    if skip(reader, "from"):
        line, kept = _line(reader), [s.model_dump(mode="json", exclude_unset=True) for s in g.body.shaping]
    elif drawn:
        line = drawn[-1].line
    else:
        side = "behind" if back else "in front"
        raise BadEntry(f"No contour is drawn {side} yet: press Contour {side} and drag the line where it begins, or {CONTOUR}.")
    reader.told.append(f"contour {'behind' if back else 'in front'}, {shown(reader, deep)} deep at the rim")
    return g.with_figure("body.shaping", [*kept, _row("contour", deep, back=back, line=line)])


def _row(kind: str, deep: float, *, back: bool, **more: Any) -> dict[str, Any]:
    return {"kind": kind, **({"back": True} if back else {}), "deep_mm": deep, **more}


def _others(g: Instrument, kind: str, *, back: bool) -> list[dict[str, Any]]:
    """All shaping but the one of a kind on a side."""
    return [s.model_dump(mode="json", exclude_unset=True) for s in g.body.shaping if (s.kind, s.back) != (kind, back)]


def _away(reader: FigureReader, g: Instrument, kind: str, kept: list[dict[str, Any]]) -> Instrument:
    if len(kept) == len(g.body.shaping):
        raise BadEntry(f"There is no {kind} there; there are: {'; '.join(s.words for s in g.body.shaping) or 'none yet'}.")
    reader.told.append(f"no {kind}")
    return g.with_figure("body.shaping", kept)


def _line(reader: FigureReader) -> list[list[float]]:
    """Two places: 320 -60 to 120 -150."""
    places: list[list[float]] = []
    unit = entry_unit(reader.style)
    for joined in ("to", ""):
        if len(reader.words) < 2:
            raise BadEntry(f"contour needs the two ends of its line: {CONTOUR}.")
        places.append([signed(reader.words.pop(0), unit) for _ in range(2)])
        if joined and not skip(reader, joined):
            raise BadEntry(f"contour needs “to” between the two ends of its line: {CONTOUR}.")
    return places
