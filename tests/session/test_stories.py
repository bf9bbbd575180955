"""The story of an instrument against what the shop knows; what became of the wood, balanced over a month; a folder that opens offline."""

import csv
import io
import random
import re
from datetime import timedelta
from html.parser import HTMLParser
from pathlib import Path

from grainet.chart.what_became import what_became_chart
from grainet.cli import main
from grainet.cli.story import photos_of
from grainet.exchange.chart_file import chart_csv, chart_svg
from grainet.exchange.story_file import PAGE, STORY, kind_of, page_of, write_story
from grainet.session.making import called
from grainet.session.mishaps import mishaps_of
from grainet.session.mishaps import typed as mishap
from grainet.session.part_photos import photograph
from grainet.session.reports import sawn_boards
from grainet.session.stories import leave_off, story_of, told_instruments, weigh
from grainet.store.photos import keep_photo
from grainet.wood.photo import Photo
from grainet.wood.piece import MoistureReading
from grainet.wood.record import Supply
from grainet.wood.value import BadEntry
from grainet.work.holds import Held
from grainet.work.sawn_board import GROUPS, SHARES, together
from grainet.work.story import Story
from tests.session.test_learning import InAShop
from tests.work.test_making import WOOD

PNG = b"\x89PNG\r\n\x1a\n" + b"\0" * 40


class Whole(InAShop):
    """An instrument made to its end, with sources, prices, readings, a mishap and a photo."""

    def setUp(self):
        super().setUp()
        self.sha = keep_photo(self.shop.file.folder, PNG)
        first = self.shop.piece("1")
        reading = MoistureReading(x_mm=100, y_mm=50, depth_mm=10, moisture_pct=8.4, on="2026-11-20")
        self.shop.apply(
            "read",
            first.changed(
                origin="Roof <purlin> of a chapel", arrived="2024-05-02", supply=Supply(supplier="Tarn & sons", price=120.0), moisture=(reading,), species=first.species,
                photos=(Photo(side="face1", sha=self.sha, width_px=40, height_px=30),),
            ),
        )  # fmt: skip
        self.shop.apply("mishap", mishap(self.shop, "tear-out 300 40 because fed backwards, helped scraped", "1"))

    def finish(self):
        while (bench := self.bench).left:
            if bench.ready:
                self.do_one(bench.ready[0])
            else:
                self.clock.now += timedelta(hours=1)


class Told(Whole):
    def test_before_anything_is_cut_it_is_a_beginning(self):
        story = story_of(self.shop, "set")
        self.assertEqual((story.finished, story.joints, story.offcuts, story.hours), ("", (), (), 0.0))
        self.assertEqual({b.number for b in story.boards}, {"1", "2", "4", "5"})
        self.assertIsNone(story_of(self.shop, "nothing"))
        self.assertIn("not finished yet", page_of(story, {}))

    def test_every_board_joint_and_offcut_of_a_finished_one_is_named(self):
        self.finish()
        weigh(self.shop, "set", 3.36)
        story = story_of(self.shop, "set")
        self.assertTrue(story.finished)
        self.assertEqual(told_instruments(self.shop)[0][2], True)
        self.assertEqual({b.number for b in story.boards}, {p.piece for p in self.bench.under_way.plan.placements})
        glued = [o for o in self.bench.making.operations if o.kind == "glue"]
        self.assertEqual(len(story.joints), len(glued))
        self.assertEqual({o.number for o in story.offcuts}, {p.id for p in self.shop.pieces() if p.parent})
        first = next(b for b in story.boards if b.number == "1")
        self.assertEqual((first.moisture_pct, first.price, first.lacks_paper), (8.4, 120.0, True))
        self.assertIn("from Tarn & sons, 2024-05-02", first.source)
        self.assertEqual(
            sum(len(b.parts) for b in story.boards), len([p for p in self.bench.under_way.plan.placements if p.leaf == 1])
        )
        self.assertAlmostEqual(sum(story.shares.values()), 1.0, delta=0.005)
        self.assertAlmostEqual(sum(b.kg for b in story.boards), story.forecast_kg, delta=0.05)
        self.assertEqual(len(story.mishaps), 1)
        self.assertEqual([e[1] for e in story.events], ["the first board comes in", "sawn", "first joint", "whole"])
        days = [e[0] for e in story.events]
        self.assertEqual(days, sorted(days))

    def test_it_follows_the_journal_back_to_nothing_and_forth_again(self):
        chance, told = random.Random(8), [story_of(self.shop, "set")]
        while (bench := self.bench).left and len(told) < 60:
            if not bench.ready:
                self.clock.now += timedelta(hours=1)
                continue
            self.do_one(chance.choice(bench.ready))
            told.append(story_of(self.shop, "set"))
            days = [day for day, _ in told[-1].events]
            self.assertEqual(days, sorted(days))
            self.assertGreaterEqual(len(told[-1].joints), len(told[-2].joints))
            if told[-1].shares:
                self.assertAlmostEqual(sum(told[-1].shares.values()), 1, delta=0.005)
        last, steps = told[-1], 0
        while story_of(self.shop, "set") != told[0]:
            self.shop.undo()
            steps += 1
            self.assertLess(steps, 400)
        self.assertFalse(self.bench.log.rows)
        for _ in range(steps):
            self.shop.redo()
        self.assertEqual(story_of(self.shop, "set"), last)

    def test_what_is_left_off_is_not_told_and_comes_back(self):
        for key in ("prices", "board 2", "mishaps"):
            self.assertFalse(leave_off(self.shop, "set", key))
        told = story_of(self.shop, "set").told()
        self.assertNotIn("2", {b.number for b in told.boards})
        self.assertEqual({b.price for b in told.boards} | set(told.mishaps), {None})
        self.assertTrue(leave_off(self.shop, "set", "board 2"))
        self.assertIn("2", {b.number for b in story_of(self.shop, "set").told().boards})
        for key in ("board 99", "weather"):
            with self.assertRaisesRegex(BadEntry, "no line"):
                leave_off(self.shop, "set", key)
        for kg in (0.0, 300.0):
            with self.assertRaisesRegex(BadEntry, "kg"):
                weigh(self.shop, "set", kg)

    def test_a_photo_of_what_went_wrong_goes_with_the_story_unless_it_is_left_off(self):
        wrong = PNG + b"\1"
        sha = keep_photo(self.shop.file.folder, wrong)
        (one,) = mishaps_of(self.shop)
        self.shop.apply("photo", one.changed(photo=sha))
        story = story_of(self.shop, "set")
        self.assertEqual(story.photos, [self.sha, sha])
        self.assertEqual(photos_of(self.shop, story), {self.sha: PNG, sha: wrong})
        out = Path(self.folder).parent / "with photos"
        self.assertEqual(len(write_story(out, story, photos_of(self.shop, story))), 4)
        self.assertIn('alt="what went wrong"', (out / PAGE).read_text(encoding="utf-8"))
        leave_off(self.shop, "set", "mishaps")
        without = Path(self.folder).parent / "without"
        self.assertEqual(len(write_story(without, story_of(self.shop, "set"), photos_of(self.shop, story))), 3)
        self.assertNotIn(sha[:16], (without / PAGE).read_text(encoding="utf-8") + "".join(p.name for p in without.rglob("*")))

    def test_photos_of_parts_stand_with_their_names_unless_they_are_left_off(self):
        part = PNG + b"\2"
        sha = keep_photo(self.shop.file.folder, part)
        waiting = next(w.id for w in self.bench.making.workpieces if w.from_)
        with self.assertRaisesRegex(Held, "nothing of it to photograph"):
            photograph(self.bench, waiting, sha)
        self.finish()
        cut = next(w.id for w in self.bench.making.workpieces if w.from_)
        for _ in range(2):
            self.assertIn("kept with", photograph(self.bench, cut, sha))
        self.assertEqual(len(self.bench.log.photos), 1, "the same picture is kept once")
        with self.assertRaisesRegex(Held, "no part of this plan"):
            photograph(self.bench, "set.Z9", sha)
        story = story_of(self.shop, "set")
        out = Path(self.folder).parent / "with parts"
        write_story(out, story, photos_of(self.shop, story))
        page = (out / PAGE).read_text(encoding="utf-8")
        self.assertIn("Its parts on their way", page)
        self.assertIn(f"<figcaption>{called(cut)}, ", page)
        self.assertTrue((out / "photos" / f"{sha[:16]}.png").exists())
        leave_off(self.shop, "set", "parts")
        without = Path(self.folder).parent / "without parts"
        write_story(without, story_of(self.shop, "set"), photos_of(self.shop, story))
        self.assertNotIn(sha[:16], (without / PAGE).read_text(encoding="utf-8"))

    def test_the_folder_opens_offline_and_reads_back(self):
        self.finish()
        out = Path(self.folder).parent / "handed over"
        files = write_story(out, story_of(self.shop, "set"), {self.sha: PNG, "0" * 64: b"no picture"})
        self.assertEqual(len(files), 3)
        page = (out / PAGE).read_text(encoding="utf-8")
        self.assertFalse(re.search(r"https?://|<script|url\(", page))
        self.assertIn("Roof &lt;purlin&gt; of a chapel", page)
        for board in story_of(self.shop, "set").boards:
            self.assertIn(f"No. {board.number}", page)
        links = re.findall(r'src="([^"]+)"', page)
        self.assertTrue(links and all((out / link).exists() for link in links))
        Tags().check(page)
        again = Story.model_validate_json((out / STORY).read_text(encoding="utf-8"))
        self.assertEqual(again.boards, story_of(self.shop, "set").told().boards)
        self.assertEqual(
            [kind_of(d) for d in (b"\xff\xd8\xff1", b"GIF89a", b"RIFF1234WEBP", b"<svg", b"")], ["jpg", "gif", "webp", "", ""]
        )
        self.shop.close()
        self.assertEqual(main(["story", str(self.folder), "set", "--out", str(out / "again")]), 0)
        self.assertTrue((out / "again" / PAGE).exists())
        self.assertEqual(main(["story", str(self.folder), "moon", "--out", str(out)]), 2)


class Tags(HTMLParser):
    """Every tag that is opened is closed."""

    def check(self, page):
        self.open = []
        self.feed(page)
        assert not self.open, self.open

    def handle_starttag(self, tag, attrs):
        if tag not in ("meta", "img"):
            self.open.append(tag)

    def handle_endtag(self, tag):
        assert self.open.pop() == tag, tag


class Became(Whole):
    def test_it_balances_by_board_and_over_the_month_and_by_every_group(self):
        self.assertEqual(sawn_boards(self.shop), [])
        self.assertIn("No board", what_became_chart([], "month").message)
        self.finish()
        rows = sawn_boards(self.shop)
        self.assertEqual({r.board for r in rows}, {p.id for p in WOOD})
        for row in rows:
            self.assertAlmostEqual(sum(getattr(row, s) for s in SHARES), row.litres, delta=0.005 * row.litres)
            self.assertGreater(row.minutes, 0)
        whole = sum(r.litres for r in rows)
        for by in GROUPS:
            groups = together(rows, by)
            self.assertAlmostEqual(sum(g.litres for g in groups), whole)
            self.assertAlmostEqual(sum(sum(getattr(g, s) for s in SHARES) for g in groups), whole, delta=0.005 * whole)
            self.assertEqual(sorted(b for g in groups for b in g.boards), sorted(r.board for r in rows))
            self.assertEqual(sum(g.unpriced for g in groups), 3)
        self.assertEqual([g.name for g in together(rows, "month")], ["2026-12"])
        self.assertEqual(together(rows, "supplier")[0].name, "Tarn & sons")
        chart = what_became_chart(rows, "species")
        read = list(csv.DictReader(io.StringIO(chart_csv(chart))))
        self.assertAlmostEqual(sum(float(r["litres"]) for r in read), whole, delta=0.01)
        self.assertIn("% became instruments", chart.message)
        self.assertIn("<svg", chart_svg(chart))
