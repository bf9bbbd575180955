"""What would be left of a part tried on the board: the loss chain link by link, each switchable, the exact figure beside it."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.wood.flatness import Link
from grainet.wood.part_forecast import SubPiece, sub_piece


class LinkButton(QAbstractButton):
    """One link of the chain; pressing it leaves it out, or takes it in again."""

    def __init__(self, state: State, parent: QWidget) -> None:
        super().__init__(parent)
        self.state, self.link, self.share = state, Link("", 0.0), 0.0
        self.setCheckable(True)
        self.clicked.connect(lambda: self.state.switch_link(self.link.name))

    def set(self, link: Link, *, on: bool, share: float) -> None:
        """Show a link of the loss chain, on or off, and its share of all that is lost."""
        self.link, self.share = link, share
        self.setChecked(on)
        self.setObjectName(f"link.{link.name}")
        self.setAccessibleName(f"{link.name} takes {self.state.told(link.takes_mm, '.2f')}" + ("" if on else ", left out"))
        self.setToolTip(
            f"{link.name} takes {self.state.told(link.takes_mm, '.2f')}; press to {'leave it out' if on else 'take it in again'}"
        )
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, on = self.state.theme, self.isChecked()
        box = QRectF(self.rect()).adjusted(1, 2, -1, -2)
        p.setBrush(theme.slip if on else theme.ground)
        pen = QPen(theme.edge, 1)
        if not on:
            pen.setDashPattern([3, 2])
        p.setPen(pen)
        p.drawRoundedRect(box, 3, 3)
        draw.text_at(p, 8, 18, self.link.name, theme.ink if on else theme.ink2, 13.5, room=self.width() - 16)
        takes = self.state.told(self.link.takes_mm, ".2f")
        figure = ("0" if self.link.takes_mm < 0.005 else f"−{takes}") if on else f"({takes})"
        draw.text_at(p, 8, 36, figure, theme.ink if on else theme.ink2, 16, 600, figures=True)
        bar = QRectF(70, 28, max(0.0, (self.width() - 80) * min(1.0, self.share)), 6)
        p.fillRect(bar, theme.ochre if on else theme.hair)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))


class PartCard(QWidget):
    """Stands in place of the list of what is next while a part is tried."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("partCard")
        self.links: list[LinkButton] = []
        self.away = WordButton(state, "Put it away", "Esc", chalk=False, parent=self, name="part.away")
        self.away.clicked.connect(lambda: state.try_part(None))
        self.hide()

    def forecast(self) -> SubPiece | None:
        """The chain of the tried part; None while there is none or no thickness was read."""
        piece, box, cuts = self.state.piece, self.state.part_box, self.state.shop.kit.cuts
        if piece is None or box is None or not piece.all_thicknesses_mm or not piece.outline:
            return None
        return sub_piece(piece, box, cuts.skim_mm, cuts.edge_mm, self.state.part_off)

    def refresh(self) -> None:
        """Lay the links out."""
        self.found = self.forecast()
        links = [*self.found.thickness.links] if self.found else []
        while len(self.links) < len(links):
            button = LinkButton(self.state, self)
            button.show()
            self.links.append(button)
        most = max((link.takes_mm for link in links), default=1.0) or 1.0
        columns = 3 if self.width() < 640 else 4
        for k, button in enumerate(self.links):
            button.setVisible(k < len(links))
            if k < len(links):
                link = links[k]
                button.set(link, on=link.name not in self.state.part_off, share=link.takes_mm / most)
        flow.grid(self.links[: len(links)], 180, 6, self.width() - 190, columns, high=46, gap=2)
        flow.row([(self.away, 160)], 8, self.height() - 50)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, found = self.state.theme, getattr(self, "found", None)
        p.fillRect(self.rect(), theme.ground)
        draw.text_at(p, 8, 24, "A part, tried", theme.ink, 17, 700)
        if found is None:
            draw.text_at(p, 8, 50, "read a thickness first: t 52.4", theme.ochre, 14)
            return
        told = self.state.told
        draw.text_at(p, 8, 48, f"least under it {told(found.thickness.reading_mm, '.2f')}", theme.ink2, 14)
        x = 8 + draw.text_at(p, 8, 84, told(found.thickness.left_mm, ".2f"), theme.ink, 30, 700, figures=True) + 6
        draw.text_at(p, x, 84, "thick", theme.ink2, 14)
        draw.text_at(p, 8, 106, f"{told(found.width.left_mm, '.1f')} wide, {told(found.length_mm)} long", theme.ink2, 14)
        exact = f"exact planes give {told(found.exact_mm, '.2f')}" if found.exact_mm is not None else "exact: heights unread (h)"
        draw.text_at(p, 8, 126, exact, theme.ink if found.exact_mm is not None else theme.ink2, 13.5, room=166)
        self._gains(p, found)

    def _gains(self, p: QPainter, found: SubPiece) -> None:
        """What a cut before flattening would gain, and what could not be counted."""
        theme = self.state.theme
        rows = 1 + (len(found.thickness.links) - 1) // (3 if self.width() < 640 else 4)
        y = 6 + rows * 48 + 20
        draw.text_at(p, 184, y, found.gains[0].act, theme.ink2, 13.5)
        draw.text_at(p, 310, y, f"leaves {self.state.told(found.gains[0].left_mm, '.2f')}", theme.ink2, 14, 500, figures=True)
        for gain in found.gains[1:]:
            y += 20
            if y > self.height() - 4:
                return
            draw.text_at(p, 184, y, gain.act, theme.ink, 13.5)
            draw.text_at(p, 310, y, f"gains {self.state.told(gain.gains_mm, '.2f')}", theme.ink, 14, 600, figures=True)
        for k, text in enumerate(found.unread[:3]):
            draw.text_at(p, 400, 6 + rows * 48 + 20 + 20 * k, text, theme.ochre, 13.5, room=max(20, self.width() - 406))
