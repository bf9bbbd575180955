"""What the rack gives for each blank, asked off the window's thread and kept until the blank or the rack is another."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from grainet.desk.services.background import Failed
from grainet.desk.view_state import State
from grainet.present.draw_up import Lane
from grainet.session.stock_answers import StockAnswer, stock_answer


class RackAnswers(QObject):
    """Answers by blank; ``arrived`` tells that one more is known."""

    arrived = Signal()

    def __init__(self, state: State, parent: QObject) -> None:
        super().__init__(parent)
        self.state = state
        self._known: dict[str, tuple[object, StockAnswer]] = {}
        self._asking: set[str] = set()

    def known(self, part: str) -> StockAnswer | None:
        """The answer that is known of a blank, by its part's name; it may be of a moment ago."""
        found = self._known.get(part)
        return found[1] if found is not None else None

    def of(self, lane: Lane) -> StockAnswer | None:
        """The answer for a lane; None while it is asked."""
        shop = self.state.shop
        basis = (lane.part, lane.blank, lane.count, shop.version)
        found = self._known.get(lane.blank.part)
        if found is not None and found[0] == basis:
            return found[1]
        if lane.blank.part not in self._asking:
            self._asking.add(lane.blank.part)
            self.state.background.start(
                lambda: shop.steady(lambda: stock_answer(shop, lane.part, lane.blank, lane.count)),
                lambda answer: self._take(lane, basis, answer),
                3,
            )
        return None

    def _take(self, lane: Lane, basis: object, answer: object) -> None:
        self._asking.discard(lane.blank.part)
        if isinstance(answer, Failed):
            answer = StockAnswer("none")
        if isinstance(answer, StockAnswer):
            self._known[lane.blank.part] = (basis, answer)
        self.arrived.emit()
