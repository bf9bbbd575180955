"""A part of the window that scrolls where the window is smaller than it needs, and is plainly there otherwise."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QFrame, QScrollArea, QScrollBar, QWidget


class ScrollsWhenSmall(QScrollArea):
    """Its content never gets smaller than ``least_width`` x ``least_height`` px; keys are left to what is inside and around it."""

    def __init__(self, content: QWidget, least_width: int = 0, least_height: int = 0) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        off, when_wanted = Qt.ScrollBarPolicy.ScrollBarAlwaysOff, Qt.ScrollBarPolicy.ScrollBarAsNeeded
        self.setHorizontalScrollBarPolicy(when_wanted if least_width else off)
        self.setVerticalScrollBarPolicy(when_wanted if least_height else off)
        content.setMinimumSize(least_width, least_height)
        self.setWidget(content)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows and pages mean something to the wood, not to the scroll bar."""
        event.ignore()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scroll where there is something to scroll; otherwise the wheel is left to others."""
        bars = (self.verticalScrollBar(), self.horizontalScrollBar())
        if any(bar.maximum() > bar.minimum() for bar in bars):
            super().wheelEvent(event)
        else:
            event.ignore()


class ScrolledColumn(QScrollArea):
    """Rows below each other that scroll up and down and never sideways; the rows' parent is ``inner``."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.inner = QWidget()
        self.setWidget(self.inner)

    def set_size(self, wide: int, high: int) -> None:
        """How much room all rows take, px."""
        self.inner.setFixedSize(wide, max(1, high))


def bar_apart(area: QScrollArea) -> QScrollBar:
    """An upright bar for an area that stands elsewhere: its own would lie out of sight where the window scrolls across. It is there
    only while there is something to scroll."""
    own, bar = area.verticalScrollBar(), QScrollBar(Qt.Orientation.Vertical)
    area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def follow(low: int, high: int) -> None:
        bar.setRange(low, high)
        bar.setPageStep(own.pageStep())
        bar.setSingleStep(24)
        bar.setVisible(high > low)

    own.rangeChanged.connect(follow)
    own.valueChanged.connect(bar.setValue)
    bar.valueChanged.connect(own.setValue)
    bar.setAccessibleName("Scroll the work")
    follow(own.minimum(), own.maximum())
    return bar
