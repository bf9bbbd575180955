"""The one length axis of the window: millimetres along the piece to pixels across, the same on every band."""

from __future__ import annotations

from dataclasses import dataclass

from grainet.desk.painting.tokens import AXIS_X, RIGHT
from grainet.wood.units import MM_PER_INCH, LengthStyle, format_length


@dataclass(frozen=True)
class Axis:
    """Spans ``from_mm`` to ``to_mm`` over ``width`` px of window."""

    from_mm: float
    to_mm: float
    window_px: int

    @property
    def left(self) -> float:
        """The px of the marked end."""
        return AXIS_X

    @property
    def right(self) -> float:
        """The px beyond which nothing is drawn."""
        return max(AXIS_X + 50.0, self.window_px - RIGHT)

    @property
    def px_per_mm(self) -> float:
        """The scale."""
        return (self.right - self.left) / max(1.0, self.to_mm - self.from_mm)

    def x(self, mm: float) -> float:
        """The px of a place along, in mm."""
        return self.left + (mm - self.from_mm) * self.px_per_mm

    def mm(self, px: float) -> float:
        """The place along of a px, in mm."""
        return self.from_mm + (px - self.left) / self.px_per_mm

    def ticks(self, style: LengthStyle) -> list[tuple[float, str | None, int]]:
        """(mm, label or None, height in px) of the ruler's ticks, labels at least 64 px apart."""
        inches = style != "mm"
        unit = MM_PER_INCH if inches else 1.0
        steps = (0.5, 1, 2, 6, 12, 24, 48) if inches else (5, 10, 20, 50, 100, 200, 500, 1000)
        fine = next((s for s in steps if s * unit * self.px_per_mm >= 8), steps[-1])
        major = next((s for s in steps if s >= fine and s * unit * self.px_per_mm >= 64), steps[-1])
        found: list[tuple[float, str | None, int]] = []
        k = 0
        while k * fine * unit <= self.to_mm + 1e-6:
            mm = k * fine * unit
            whole = abs((k * fine) / major - round((k * fine) / major)) < 1e-9
            if mm >= self.from_mm - 1e-6:
                label = (f"{k * fine:g} in" if k else "0") if inches else format_length(mm)
                found.append((mm, label if whole else None, 10 if whole else 5))
            k += 1
        return found
