"""What the window asks of every screen, and what a screen may ask of the window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Self

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QHideEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.view_state import State

if TYPE_CHECKING:
    from grainet.desk.painting.axis import Axis
    from grainet.desk.services.planner_process import WorkerClient
    from grainet.desk.services.planning import Planning
    from grainet.instruments.stand_ins import StandIn
    from grainet.present.glue_view import ClampGroup
    from grainet.present.wall_view import Hung
    from grainet.session.commands.command import Command


@dataclass(frozen=True)
class Desk:
    """What the window lends its screens: its state, the planner's process, and what only the window can do."""

    state: State
    planner: WorkerClient
    planning: Planning
    bring_photo: Callable[[str, str], None]
    print_labels: Callable[..., None]  # sheet=
    bring_list: Callable[[], None]
    open_demo: Callable[[], None]
    camera: Callable[[], StandIn]


class Screen(QWidget):
    """One screen; it overrides what it has."""

    finished = Signal()  # its work is done: back to Bring in
    has_axis = False  # whether the board lies on it to scale: the ruler is shown, and ``axis`` is asked for
    prints = False  # whether it has something of its own to print

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        return cls(desk.state)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""

    def clamps(self) -> tuple[list[ClampGroup], float] | None:
        """The clamps that hang over the screen in place of the rack, and how far they must open; None: the rack."""
        return None

    def on_the_wall(self) -> tuple[list[Hung], str] | None:
        """The instruments that hang over the screen in place of the rack, and the one in hand (or ""); None: the rack."""
        return None

    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here and nowhere else: (form, what it does, an example)."""
        return []

    def reads(self, line: str) -> Command | None:
        """What the screen reads of the tape line itself, before anything else does; None for all else. Raises BadEntry."""
        return None

    def heads(self) -> tuple[str, list[tuple[str, str]]] | None:
        """What the head says while the screen is in front: a name, and figures with their units; None: the piece in hand."""
        return None

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.state.reads, self.state.heads = self.reads, self.heads

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        if self.state.reads == self.reads:
            self.state.reads = self.state.heads = None

    def first_stop(self) -> QWidget | None:
        """Where Tab goes from the open window: the list or the control that the screen is about."""
        return next(iter(tab_stops(self)), None)

    def primary_action(self) -> None:
        """What its chalk-filled button does."""

    def close_down(self) -> None:
        """End what works for it; the window closes."""

    def step_lane(self, by: int) -> None:
        """Up and down: another lane, use or page."""

    def print_map(self) -> None:
        """Print what it shows."""

    def save_as(self) -> None:
        """Save what it shows as a file."""
        told = "everything is kept already; plots (Ctrl+Shift+P) and lists (Ctrl+E) are what can be saved as a file"
        self.state.notify(told)

    def axis(self, width: int, height: int) -> Axis:
        """The axis that fits the board into so many px."""
        raise NotImplementedError

    def set_axis(self, axis: Axis) -> None:
        """Show the board on an axis. The window calls it at every change while the screen is in front, so that one whose ``set_axis``
        always refreshes needs not listen to the state."""


def tab_stops(within: QWidget) -> list[QWidget]:
    """The controls that Tab reaches in a part of the window, those in sight first."""
    stops = [w for w in within.findChildren(QWidget) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isEnabled()]
    return [w for w in stops if w.isVisibleTo(within)]


class Page(Screen):
    """A screen that looks again at what it shows when it is shown or resized."""

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()
