"""What a PDF prints, told while it is drawn: every text with its page, place and width, so that tests can say what lies where."""

from contextlib import contextmanager
from dataclasses import dataclass
from unittest import mock

from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas


@dataclass(frozen=True)
class Text:
    page: int
    x: float
    y: float
    wide: float
    size: float
    words: str

    def meets(self, other):
        """Whether two texts print over each other: more than a shared edge."""
        along = min(self.x + self.wide, other.x + other.wide) - max(self.x, other.x)
        return self.page == other.page and along > 0.5 and abs(self.y - other.y) < 0.6 * min(self.size, other.size)


class Printed:
    """Everything that was drawn, by pages; the size of each page in points."""

    def __init__(self):
        self.texts, self.sizes = [], []

    def on(self, page):
        return [t for t in self.texts if t.page == page]

    def outside(self):
        """Texts that do not lie on their page."""
        found = []
        for t in self.texts:
            wide, high = self.sizes[t.page]
            if t.x < -0.5 or t.x + t.wide > wide + 0.5 or t.y < -0.5 or t.y + 0.7 * t.size > high + 0.5:
                found.append(t)
        return found

    def overprinted(self):
        """Pairs of texts on one another."""
        return [(a, b) for k, a in enumerate(self.texts) for b in self.texts[k + 1 :] if a.meets(b)]


@contextmanager
def printed():
    """Watch every canvas that is drawn on meanwhile."""
    found = Printed()
    plain, ends = Canvas.drawString, Canvas.showPage

    def at(canvas, x, words, share):
        wide = stringWidth(words, canvas._fontname, canvas._fontsize)
        return x - wide * share, wide

    def drawing(share):
        def draw(canvas, x, y, words, *args, **more):
            left, wide = at(canvas, x, words, share)
            shown = canvas.absolutePosition(left, y)
            found.texts.append(Text(len(found.sizes), *shown, wide, canvas._fontsize, words))
            return plain(canvas, left, y, words, *args, **more)

        return draw

    def show(canvas, *args):
        found.sizes.append(tuple(float(v) for v in canvas._pagesize))
        return ends(canvas, *args)

    with (
        mock.patch.object(Canvas, "drawString", drawing(0.0)),
        mock.patch.object(Canvas, "drawRightString", drawing(1.0)),
        mock.patch.object(Canvas, "drawCentredString", drawing(0.5)),
        mock.patch.object(Canvas, "showPage", show),
    ):
        yield found
