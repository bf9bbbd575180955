"""A figure that is turned digit by digit with four keys: up and down turn one, left and right choose one, right of the last keeps it."""

from __future__ import annotations

from grainet.wood.units import MM_PER_INCH, LengthStyle


class Digits:
    """A figure in mm to a tenth (or a hundredth), or in inches to thousandths, as its digits; the point stands still."""

    def __init__(self, mm: float, places: int = 1, style: LengthStyle = "mm") -> None:
        self.places, self.unit_mm = (places, 1.0) if style == "mm" else (3, MM_PER_INCH)
        text = f"{max(0.0, mm) / self.unit_mm:.{self.places}f}"
        self.digits = [int(c) for c in text if c.isdigit()]
        self.at = max(0, len(self.digits) - 1)

    @property
    def mm(self) -> float:
        """The figure, mm."""
        return float(int("".join(map(str, self.digits))) / 10**self.places) * self.unit_mm

    @property
    def text(self) -> str:
        """As it is shown."""
        whole = "".join(map(str, self.digits))
        return f"{whole[: -self.places] or '0'}.{whole[-self.places :]}" if self.places else whole

    def turn(self, by: int) -> None:
        """The chosen digit one up or down, round from 9 to 0."""
        self.digits[self.at] = (self.digits[self.at] + by) % 10

    def move(self, by: int) -> str:
        """Another digit; "kept" right of the last one, "left" left of the first: a digit more is put there once, then it is left."""
        at = self.at + by
        if at >= len(self.digits):
            return "kept"
        if at < 0:
            if len(self.digits) < 5 + self.places and self.digits[0]:
                self.digits.insert(0, 0)
                return ""
            return "left"
        self.at = at
        return ""
