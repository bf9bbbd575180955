"""Plans side by side: three that differ, each the best by an aim of its own; one is kept, with a reason that stays, or taken in hand."""

from __future__ import annotations

from typing import Self

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QLineEdit, QWidget
from typing_extensions import override

from grainet.design.instrument import Instrument
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT, font
from grainet.desk.screens.alternatives.card import PAD, AlternativeCard
from grainet.desk.screens.screen import Desk, Page
from grainet.desk.services.planner_process import WorkerClient
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of, wrapped
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.present import plan_view
from grainet.present.alternatives import Alternative, alternatives_of

HEAD_H, GAP, MOST = 62, 8, 3
NOTHING = (
    "Ctrl+Enter looks for plans that differ: the one that opens least wood, the one that shows most figure, the lightest. Each is solved over the whole rack.",
    "What each comes to stands side by side, the best figure underlined. One is kept with your reason, or taken in hand and changed.",
)


class Alternatives(Page):
    """The screen. What it shows stays until it is asked anew, or wood of it is sawn."""

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        return cls(desk.state)

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("alternatives")
        self.shown: list[Alternative] = []
        self.design_id: str | None = None  # whose plans they are
        self.chosen = 1
        self.told, self.fault, self.asking = "", "", False
        self.worker = WorkerClient()
        self.worker.setParent(self)
        self.worker.told.connect(self._hear)
        self.worker.compared.connect(self._take)
        self.worker.failed.connect(self._failed)
        self.cards: list[AlternativeCard] = []
        self.reason = QLineEdit(self)
        self.reason.setObjectName("alternatives.reason")
        self.reason.setPlaceholderText("why this one: it stays with the plan")
        self.reason.setAccessibleName("Why this plan is chosen; it stays with the plan")
        self.reason.setMaxLength(120)
        self.reason.setFont(font(15))
        self.reason.setTextMargins(8, 0, 8, 0)
        self.reason.returnPressed.connect(self.primary_action)
        self.compare = WordButton(
            state, "Look for plans that differ", "Ctrl+Enter", chalk=True, parent=self, name="alternatives.compare"
        )
        self.compare.clicked.connect(self.ask)
        state.changed.connect(self.refresh)

    # what is shown ------------------------------------------------------------------------------------------------
    @property
    def instrument(self) -> Instrument | None:
        """The guitar that the plans are of, where the build is one."""
        return self.state.shop.instruments.find(self.design_id or "")

    @property
    def scale_px_per_mm(self) -> float:
        """One scale for the boards of all cards."""
        longest = max(
            (c.job.piece(b).extents[2] - c.job.piece(b).extents[0] for c in self.shown for b in c.boards), default=1000.0
        )
        wide = self.cards[0].width() if self.cards else 400
        return (wide - 2 * PAD) / longest

    def choose(self, number: int) -> None:
        """Another plan is the chosen one."""
        self.chosen = max(1, min(len(self.shown), number))
        self.refresh()

    def step(self, by: int) -> None:
        """Left and right: the plan beside."""
        self.choose(self.chosen + by)
        self.cards[self.chosen - 1].setFocus()

    def first_stop(self) -> QWidget | None:
        """The chosen card."""
        return self.cards[self.chosen - 1] if self.shown else super().first_stop()

    # doing --------------------------------------------------------------------------------------------------------
    def ask(self) -> None:
        """Look for plans that differ; while it looks, stop looking."""
        if self.worker.busy or self.asking:
            self.worker.cancel()
            self.asking, self.told = False, ""
            self.refresh()
            return
        design, shop = self.state.design, self.state.shop
        if design is None:
            self.state.warn("there is no build to plan yet: F4 draws one up")
            return
        self.asking, self.told, self.fault, self.shown = True, "gathering what the rack has", "", []
        self.design_id = design.id

        def work() -> object:
            from grainet.exchange.job_file import job_text
            from grainet.session.surprise import job_for_the_rest

            shop.judgements.rest_crew()
            job = shop.steady(lambda: job_for_the_rest(shop, design))
            return job, job_text(job)

        self.state.background.start(work, self._begin, 5)
        self.refresh()

    def _begin(self, found: object) -> None:
        called_off, self.asking = not self.asking, False
        if not called_off and isinstance(found, tuple):
            self.worker.compare(*found)
        self.refresh()

    def _hear(self, what: str, _share: float) -> None:
        self.told = what
        self.update()

    def _take(self, job: Job, rows: list[tuple[str, Plan]]) -> None:
        shop = self.state.shop
        told = [(aim, job, plan) for aim, plan in rows[:MOST] if plan.builds]
        if not told and rows:
            near = "; ".join(plan_view.near_refusals(job, rows[0][1], shop.kit.length_style)[:3])
            self.fault = f"The rack does not give this build. {near}. Lay out (F5) says all that was refused."
        self.shown = alternatives_of(told, shop.kit, self.state.today, self.instrument)
        self.chosen, self.told = 1, ""
        self.reason.clear()
        self.refresh()
        if self.isVisible() and self.cards:
            self.cards[0].setFocus()

    def _failed(self, text: str) -> None:
        self.told, self.fault = "", text
        self.refresh()

    def primary_action(self) -> None:
        """Keep the chosen plan; look for plans where there are none."""
        if self.shown and not self.worker.busy:
            self.act(self.chosen)
        else:
            self.ask()

    def act(self, number: int) -> None:
        """The chosen plan is kept with its reason; another one is taken in hand, to be changed in Lay out."""
        card = self.shown[number - 1]
        design = next((d for d in self.state.shop.designs() if d.id == self.design_id), None)
        if design is None:
            self.state.warn("that build is gone since these plans were made")
        elif number != self.chosen:
            self.state.plan_in_hand.emit(card.job, card.plan)
        else:
            reason = self.reason.text().strip() or card.title.lower()
            if self.state.accept_plan(design, card.job, card.plan, reason=reason):
                self.state.notify(f"{design.name} is laid out, {reason}; saw it: F7")
                self.shown = []
                self.state.screen_wanted.emit("lay_out")

    # layout -------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        if self.design_id is not None and self.state.design_id != self.design_id:
            self.shown, self.design_id, self.fault = [], None, ""
        busy = self.worker.busy or self.asking
        self.compare.setVisible(not self.shown)
        self.compare.say("Stop looking" if busy else "Look for plans that differ", enabled=self.state.design is not None)
        flow.row_to_right([(self.compare, max(260, self.compare.sizeHint().width()))], self.width() - RIGHT, 8)
        self.reason.setVisible(bool(self.shown))
        flow.fill(self.reason, self.width() - RIGHT - 412, 10, self.width() - RIGHT, 50)
        while len(self.cards) < len(self.shown):
            self.cards.append(AlternativeCard(self, len(self.cards) + 1, self))
        wide = (self.width() - LEFT - RIGHT - GAP * (MOST - 1)) / MOST
        for k, card in enumerate(self.cards):
            card.setVisible(k < len(self.shown))
            if k < len(self.shown):
                left = LEFT + k * (wide + GAP)
                flow.fill(card, int(left), HEAD_H, int(left + wide), self.height() - 10)
                card.show_plan(self.shown[k], chosen=k + 1 == self.chosen)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        design = self.state.design
        name = design.name if design is not None else "No build yet"
        x = LEFT + draw.text_at(p, LEFT, 38, name, theme.ink, 24, 700) + 14
        if self.shown:
            most = max(c.plan.bound for c in self.shown)
            x += draw.text_at(p, x, 38, count_of(len(self.shown), "plan"), theme.ink, 16, 600) + 14
            draw.text_at(p, x, 38, f"{most:g} is the most there is", theme.ink2, 14)
            return
        words = self.fault or self.told
        if words:
            for k, line in enumerate(wrapped(words, 15, self.width() - LEFT - RIGHT)):
                draw.text_at(p, LEFT, HEAD_H + 30 + 22 * k, line, theme.wine if self.fault else theme.ink, 15)
        else:
            draw.empty(
                p,
                theme,
                QRectF(LEFT, HEAD_H + 10, self.width() - LEFT - RIGHT, self.height() - HEAD_H - 30),
                "No plans to compare yet",
                NOTHING,
            )

    def close_down(self) -> None:
        """End what works for it; the window closes."""
        self.worker.stop()
