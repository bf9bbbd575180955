"""Takes the screenshots of every main view from the demo data into docs/screenshots (or a folder given), without a monitor."""

from __future__ import annotations

import os
import sys
import tempfile
from datetime import date
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HERE = Path(__file__).resolve().parent.parent
TODAY = date(2026, 11, 24)


def main() -> int:
    """Take them all; ``--only NAME`` takes those whose name holds NAME; a folder may be given."""
    arguments = sys.argv[1:]
    only = ""
    if "--only" in arguments:
        at = arguments.index("--only")
        only = arguments[at + 1]
        del arguments[at : at + 2]
    folder = Path(arguments[0]) if arguments else HERE / "docs" / "screenshots"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["XDG_DATA_HOME"] = scratch
        from PySide6.QtWidgets import QApplication

        from grainet.clock import stopped_at
        from grainet.demo.make import demo_folder, make_demo
        from grainet.desk.main_window import Window, prepare

        app = QApplication.instance() or QApplication([])
        prepare(app)
        window = Window(make_demo(demo_folder(), stopped_at(TODAY), past=True))
        session = Shots(app, window, folder, only)
        session.demo_tour()
        window.close()
    return 0


class Shots:
    """Drives one window and saves what it shows."""

    def __init__(self, app, window, folder: Path, only: str) -> None:  # type: ignore[no-untyped-def]
        self.app, self.window, self.folder, self.only = app, window, folder, only
        self.state = window.state

    def settle(self) -> None:
        for _ in range(4):
            self.app.processEvents()
            while self.state.background.held:
                self.pause(20)
            self.state.background.wait(60_000)
            for _ in range(6):
                self.app.processEvents()
            self.pause(30)

    def pause(self, milliseconds: int) -> None:
        from PySide6.QtCore import QEventLoop, QTimer

        loop = QEventLoop()
        QTimer.singleShot(milliseconds, loop.quit)
        loop.exec()

    def take(self, name: str) -> None:
        if self.only and self.only not in name:
            return
        self.settle()
        self.window.setFocus()
        self.window.grab().save(str(self.folder / f"{name}.png"))
        print(name)

    def colours(self, theme: str) -> None:
        self.state.keep(f"{theme} colours", self.state.shop.kit.changed(theme=theme))
        self.settle()

    def plan(self, design: str) -> None:
        from PySide6.QtCore import QEventLoop

        self.state.choose_design(design)
        self.window.show_screen("lay_out")
        self.settle()
        loop = QEventLoop()
        self.window.worker.planned.connect(loop.quit)
        self.window.worker.failed.connect(loop.quit)
        self.window.screens["lay_out"].primary_action()
        loop.exec()
        self.settle()

    def demo_tour(self) -> None:
        window, state = self.window, self.state
        window.resize(1280, 800)
        window.show()
        self.colours("light")
        for theme in ("light", "dark"):
            self.colours(theme)
            state.choose_piece("1")
            window.show_screen("bring_in")
            state.move_cursor(1000)
            if theme == "light":
                self.take("bring-in-light")
            state.choose_piece("8")
            state.choose_use("body_half")
            window.show_screen("look_over")
            state.move_cursor(760)
            if theme == "light":
                self.take("look-over-light")
        self.colours("light")
        self.drawing_up()
        self.knowing()
        self.taking_in()
        self.told()
        self.plan("merrow")
        state.choose_piece("8")
        window.screens["lay_out"].choose_part("merrow.body.bass")
        self.take("lay-out-light")
        self.matching()
        self.side_by_side()
        window.show_screen("lay_out")
        window.screens["lay_out"].keep_plan()
        window.show_screen("saw_and_wait")
        saw = window.screens["saw_and_wait"]
        board = next(b for b in saw.under_way.boards if len(saw.under_way.cuts_of(b)) > 2)
        saw._choose_board(board)
        self.settle()
        for _ in range(3):
            saw.primary_action()
        self.take("saw-and-wait-light")
        for board in list(saw.under_way.boards):
            saw._choose_board(board)
            for _ in range(200):
                if saw.under_way.sawn(board):
                    break
                saw._choose_board(board)
                saw.primary_action()
        window.show_screen("put_back")
        offcuts = [p for p in state.shop.pieces() if p.parent]
        if offcuts:
            state.keep("shelved", offcuts[0].changed(place="C2"))
            state.choose_piece(offcuts[-1].id)
        self.take("put-back-light")
        self.making()

    def making(self) -> None:
        """The steps in order, one of them at the bench, a joint that is next and one in its clamps. The shop's clock goes on with the work."""
        from datetime import datetime, timedelta

        from grainet.session.making import at_the_bench, do, letters_on

        window, state = self.window, self.state
        shop = state.shop
        now = [datetime.combine(TODAY, datetime.min.time()) + timedelta(hours=9)]
        before, shop.items.clock = shop.items.clock, lambda: now[0]
        plan = shop.plans.accepted_for("merrow")
        assert plan is not None
        glued, shown = 0, False
        for _ in range(400):
            bench = at_the_bench(shop, plan.id)
            if bench is None or not bench.left:
                break
            if not bench.ready:
                now[0] += timedelta(hours=1)
                continue
            one = bench.ready[0]
            if one.kind == "thickness" and not shown:
                shown = True
                window.open_bench(one.id)
                self.settle()
                self.take("bench-light")
                window.bench.leave()
                window.show_screen("order")
                self.take("order-light")
            if one.kind == "glue":
                glued += 1
                if glued > 1 or len(bench.ready) == 1:
                    break
            figures = {"fit": {"ends_mm": 0.0, "middle_mm": 0.0}, "trial": {"mm": 0.05}}.get(one.kind, {})
            do(
                bench,
                one,
                figures=figures,
                letters=letters_on(bench.making, one),
                agreed=[c.code for c in one.cautions if c.grade == "A"],
            )
            now[0] += timedelta(minutes=one.minutes)
        window.show_screen("glue")
        self.colours("dark")
        self.take("glue-dark")
        self.colours("light")
        shop.items.clock = before

    def told(self) -> None:
        """What was learnt, with a proposal, and the story of an instrument that is whole."""
        self.state.choose_design("heron-5")
        for name in ("learnt", "story"):
            self.window.show_screen(name)
            self.pause(1500)
            self.take(f"{name}-light")
        self.state.choose_design("plover")

    def matching(self) -> None:
        """A pair opened."""
        window = self.window
        window.show_screen("match")
        self.pause(1500)
        self.take("match-light")

    def side_by_side(self) -> None:
        """Plans that differ, beside one another."""
        if self.only and self.only not in "alternatives-light":
            return
        self.window.show_screen("alternatives")
        screen = self.window.screens["alternatives"]
        screen.ask()
        while screen.asking or screen.worker.busy:
            self.pause(100)
        screen.step(1)
        self.take("alternatives-light")

    def drawing_up(self) -> None:
        """The laminated through-neck with its ways, and what the wood can become."""
        window, state = self.window, self.state
        state.choose_design("gannet")
        window.show_screen("draw_up")
        self.settle()
        screen = window.screens["draw_up"]
        screen.choose_lane(next(lane.blank.part for lane in screen.lanes if lane.blank.component == "neck"))
        for _ in range(6):
            self.settle()
        self.take("draw-up-light")
        window.show_screen("strips")
        state.keep_meaning(state.understand("strips maple12 a1.5 walnut10>5 maple15 ="))
        self.take("strips-light")
        state.undo()
        state.choose_design("bittern")
        window.show_screen("outline")
        self.settle()
        self.take("outline-light")
        if not self.only or self.only in "rescue-light":
            self.rescued()
        if not self.only or self.only in "become-light":
            window.show_screen("become")
            self.settle()
            while window.screens["become"].asking or window.screens["become"].reaching:
                self.pause(200)
            self.take("become-light")
        state.choose_design("plover")

    def rescued(self) -> None:
        """A board that is too narrow for a body's half, and the ways out. Undone."""
        from grainet.wood.piece import Piece

        window, state = self.window, self.state
        ring = ((0.0, 0.0), (1240.0, 0.0), (1240.0, 140.0), (0.0, 140.0))
        state.keep("a narrow board", Piece(id="70", species="Black cherry", outline=ring, thickness_mm=49.0))
        state.keep_instrument("begun", state.shop.instruments.new("bolt-on", "Heron 8"))
        window.show_screen("draw_up")
        self.settle()
        state.look_for_ways_out(window.screens["draw_up"].lanes[0].blank.part, "70")
        self.settle()
        screen = window.screens["rescue"]
        while screen.rest is None and not screen.fault:
            self.pause(200)
        self.take("rescue-light")
        window.show_screen("draw_up")
        state.undo()
        state.undo()

    def knowing(self) -> None:
        """The rack sorted, settling and the overview plotted, a use being changed. All undone or left alone."""
        window, state = self.window, self.state
        state.choose_use("neck")
        window.show_screen("sort_rack")
        self.take("sort-rack-light")
        state.choose_piece("17")
        window.show_screen("plots")
        window.show_kit_page("uses")
        page = window.screens["kit_book"].pages["uses"]
        self.settle()
        page.try_rule(page.rule.changed(least_ring_deg=40.0, most_bow_mm=3.5, preset="own"))
        page.start()
        window.screens["kit_book"].show_page("machines")

    def taking_in(self) -> None:
        """The views of taking in: a mark in hand, a photo made true, a list before it is stored. All undone."""
        import numpy as np

        from grainet.desk.screens.photo.screen import Spot
        from grainet.instruments.camera import take_photo

        window, state = self.window, self.state
        state.choose_piece("1")
        window.show_screen("bring_in")
        self.settle()
        window.bring_photo("face1", "camera")
        self.settle()
        screen = window.photo
        true = take_photo(window.bring_in.bench.stand_in("camera"), state.piece, "face1")[1]
        x1, y1 = state.piece.extents[2:]
        screen.spots = [Spot(*map(float, p)) for p in true.to_px(np.array([(0, y1), (x1, y1), (x1, 0), (0, 0)]))]
        for u in (500.0, 1000.0, 1400.0):
            for v in (0.0, y1):
                screen._add_point(screen.at(Spot(*map(float, true.to_px(np.array([(u, v)]))[0]))))
        screen.guessed, screen.taken = False, 1
        screen._fit()
        self.take("photo-light")
        screen.loaded = None
        window.show_screen("bring_in")


if __name__ == "__main__":
    sys.exit(main())
