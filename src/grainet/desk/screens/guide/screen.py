"""The guide (F1), in a screen of its own: chapters at the left, words to read at the right."""

from __future__ import annotations

from importlib.resources import files

from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QTextBrowser
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT, font
from grainet.desk.screens.guide.words import chapters_of, page_of
from grainet.desk.screens.screen import Page
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.pick_list import Pick, PickList

LIST_W, MOST_W, PICTURE_W = 232, 860, 780


class GuideScreen(Page):
    """The screen."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("guide")
        data = files("grainet.data")
        self.words = (data / "GUIDE.md").read_text(encoding="utf-8")
        self.chapters = PickList(state, LIST_W - 8, self, "guide.chapters")
        self.chapters.show_rows([Pick(title, "", "", title) for title in chapters_of(self.words)], choose=False)
        self.chapters.picked.connect(self.go_to)
        self.page = QTextBrowser(self)
        self.page.setObjectName("guide.page")
        self.page.setFrameShape(QTextBrowser.Shape.NoFrame)
        self.page.setOpenLinks(False)
        self.page.setSearchPaths([str(data / "pictures")])
        self._shown: object = None
        state.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        theme = self.state.theme
        if self._shown is not theme:
            self._shown = theme
            self.page.setFont(font(16))
            style = (
                f"body {{ color: {theme.ink.name()}; }} h1 {{ font-size: 26px; }} h2 {{ font-size: 19px; color: {theme.ink.name()}; margin-top: 20px; }}"
                f" p {{ line-height: 140%; }} b {{ color: {theme.chalk.name()}; }} i {{ color: {theme.ochre.name()}; font-style: normal; }}"
            )
            self.page.document().setDefaultStyleSheet(style)
            self.page.setHtml(page_of(self.words, PICTURE_W))
        flow.fill(self.chapters, LEFT - 8, 14, LEFT - 8 + LIST_W, self.height() - 14)
        x = LEFT + LIST_W + 14
        flow.fill(self.page, x, 6, min(x + MOST_W, self.width() - RIGHT), self.height() - 6)
        self.update()

    def go_to(self, title: object) -> None:
        """Scroll to a chapter."""
        self.page.scrollToAnchor(str(title))

    def step_lane(self, by: int) -> None:
        """Up and down: the chapter before, and the next one."""
        self.chapters.step(by)
        self.chapters.take_current()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.fillRect(self.rect(), self.state.theme.bench)
