"""Learning in the shop: what the bench measures becomes records, nothing changes until it is accepted, all of it can be taken back."""

from datetime import timedelta

from grainet.design.starting_points import begin
from grainet.present.learnt_view import edges, lane_view
from grainet.session.kinds import DESIGNS, MISHAPS, RECORDS
from grainet.session.learning import changes, keep, lanes, plan_with, take_back, title_of, typed
from grainet.session.learning_words import reads
from grainet.session.making import do, letters_on, measure_again
from grainet.session.mishaps import mishaps_of, note_on, repeated, sentence, sharpen, wear
from grainet.session.mishaps import typed as mishap
from grainet.wood.piece import MoistureReading
from grainet.wood.record import Weighing
from grainet.wood.value import BadEntry
from grainet.work.holds import Held
from tests.session.test_making import Begun


class InAShop(Begun):
    def tell(self, *lines):
        for line in lines:
            self.shop.apply(line, typed(self.shop, line))

    def lane(self, what, tool=None):
        return next(f for f in lanes(self.shop) if f.what == what and (tool is None or f.tool == tool))

    def go_on(self, until, pace=1.0):
        for _ in range(300):
            bench = self.bench
            if not bench.ready:
                self.clock.now += timedelta(hours=1)
                continue
            one = bench.ready[0]
            if until(one):
                return one
            self.do_one(one, pace)
        raise AssertionError("never came to it")

    def do_one(self, one, pace=1.0):
        bench = self.bench
        self.clock.now += timedelta(minutes=one.minutes * pace)
        figures = {"fit": {"ends_mm": 0.0, "middle_mm": 0.0}, "trial": {"mm": 0.05}}.get(one.kind, {})
        agreed = [c.code for c in one.cautions if c.grade == "A"]
        do(self.bench, one, figures=figures, letters=letters_on(bench.making, one) if one.kind == "glue" else (), agreed=agreed)


class Learnt(InAShop):
    def test_five_records_propose_nothing_changes_unless_accepted_and_it_is_taken_back(self):
        was = self.shop.kit.losses.skim_mm
        self.tell("planer 2.1 on 2", "planer 2,2 on 2", "planer 2.4 on 2", "planer 2.6 on 2")
        self.assertEqual(self.lane("skim").stand, "few")
        self.tell("planer 2.7 on 2")
        found = self.lane("skim")
        self.assertEqual(
            (found.stand, found.figure, found.assumed, found.species), ("proposes", 2.4, was, self.shop.piece("2").species)
        )
        self.assertEqual(self.shop.kit.losses.skim_mm, was)
        moved = changes(self.shop, found, 2.4)
        self.assertTrue(any(c.breaks for c in moved), moved)  # the plan counted on less
        self.assertEqual(plan_with(self.shop, found), 2.4)
        self.assertEqual((self.shop.kit.losses.skim_mm, self.lane("skim").stand), (2.4, "agrees"))
        self.assertEqual(take_back(self.shop, self.lane("skim")), was)
        self.assertEqual((self.shop.kit.losses.skim_mm, self.lane("skim").stand), (was, "kept"))
        self.assertIsNone(take_back(self.shop, self.lane("skim")))
        self.tell(*["planer 2.4 on 2"] * 5)
        self.assertEqual(self.lane("skim").stand, "proposes")
        keep(self.shop, self.lane("skim"))
        self.assertEqual(self.lane("skim").stand, "kept")
        for _ in range(200):
            if self.shop.undo() is None:
                break
        self.assertEqual(self.shop.items.all(RECORDS), [])

    def test_figures_of_machines_and_blanks_that_move(self):
        self.shop.apply("another", begin("bolt-on", "b2", "Merrow 2"))
        saw = next(m.name.lower() for m in self.shop.kit.machines if "table" in m.name.lower())
        self.tell(*[f"kerf {saw} 3.6"] * 5, *["edge 2.4"] * 5, *["trim 9"] * 5)
        kerf = self.lane("kerf")
        plan_with(self.shop, kerf)
        machine = next(m for m in self.shop.kit.machines if m.name.lower() == saw)
        self.assertEqual((machine.kerf_mm, "kerf_mm" in machine.guessed), (3.6, False))
        moved = [c.words for c in changes(self.shop, self.lane("trim"), 9.0) if "Merrow 2: " in c.words]
        self.assertTrue(any("Merrow 2: body, treble half is " in words for words in moved), moved)
        self.assertFalse([words for words in moved if "body." in words])
        self.assertIn("takes off a joint edge", title_of(self.lane("edge")))

    def test_snipe_is_planned_with_at_the_ends_of_what_is_not_laid_out_yet(self):
        """Instruments that go by the shop's snipe grow by it at both ends, one that has its own keeps it, and one press takes it back."""
        self.shop.instruments.keep("another", begin("bolt-on", "b2", "Merrow 2"))
        self.shop.instruments.keep("its own", begin("bolt-on", "b3", "Merrow 3").with_figure("snipe_mm", 4.0))
        self.tell(*[f"snipe planer {mm} on 2" for mm in (9, 10, 10, 11, 12)])
        lane = self.lane("snipe")
        self.assertEqual((lane.stand, lane.figure, lane.assumed), ("proposes", 10.0, 0.0))
        long = max(p.ring[:, 0].max() for p in self.shop.items.find(DESIGNS, "b2").parts)
        moved = changes(self.shop, lane, 10.0)
        self.assertTrue(moved and all("Merrow 2" in c.words for c in moved), moved)
        plan_with(self.shop, lane)
        self.assertEqual(self.shop.kit.snipe_mm, 10.0)
        now = max(p.ring[:, 0].max() for p in self.shop.items.find(DESIGNS, "b2").parts)
        self.assertAlmostEqual(now, long + 20.0)
        self.assertEqual(self.shop.instruments.find("b3").snipe_mm, 4.0)
        self.assertEqual(self.shop.instruments.find("set").snipe_mm, 0.0, "what is laid out stays as it is")
        self.assertEqual(self.shop.instruments.new("bolt-on").snipe_mm, 10.0)
        self.assertEqual(take_back(self.shop, self.lane("snipe")), 0.0)
        self.assertEqual((self.shop.instruments.find("b2").snipe_mm, self.shop.kit.snipe_mm), (0.0, 0.0))
        self.shop.undo()
        self.assertEqual(self.shop.instruments.find("b2").snipe_mm, 10.0)

    def test_what_is_told_wrong_is_a_sentence(self):
        for words, why in (
            ("planer much", "needs what and a figure"), ("kerf 3", "needs its machine"), ("lathe 2", "no machine"), ("table 3.1", "kerf, miss or lean"),
            ("planer 2.4 on 99", "not in this shop"), ("planer -3", "0 to 200"), ("", "needs what"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEntry, why):
                typed(self.shop, words)

    def test_a_house_of_inches_tells_and_is_told_in_inches(self):
        self.shop.apply("inches", self.shop.kit.changed(length_style="fraction"))
        for text in ("3/32", ".09", "0.1", "3/32", "7/64"):
            self.shop.apply("told", typed(self.shop, f"planer {text} on 2"))
        lane = self.lane("skim")
        self.assertEqual([round(v, 2) for v in lane.values], [2.38, 2.29, 2.54, 2.38, 2.78])
        view = lane_view(self.shop, lane)
        self.assertIn("takes 0.094", view.words)
        self.assertEqual(view.take, "Plan with 0.094")
        self.shop.apply("told", typed(self.shop, "lean band saw 1.5"))
        self.assertEqual(self.lane("lean").values[0], 1.5, "degrees are degrees")
        one = mishap(self.shop, "tear-out 16 1/2 2 3/8 because fed wrong", "2")
        self.assertEqual((round(one.x_mm, 1), round(one.y_mm, 1)), (419.1, 60.3))
        self.assertIn("at 16 1/2, 2 3/8 up", sentence(one, "fraction"))
        self.assertIn("0.094", reads(self.shop, "took planer 3/32 on 2").gloss)
        with self.assertRaisesRegex(BadEntry, "planer 3/32"):
            reads(self.shop, "took planer much on 2")
        for line in ("tear-out 420 60 30", "tear-out -5"):
            with self.assertRaisesRegex(BadEntry, "left over"):
                mishap(self.shop, line, "2")

    def test_a_pause_is_no_work(self):
        self.go_on(lambda one: one.kind == "mark" and len(self.bench.log.rows) > 4, pace=1.0)
        known = len([r for f in lanes(self.shop) if f.what == "minutes" for r in f.records])
        one = self.bench.ready[0]
        self.assertLess(one.minutes, 10)
        self.do_one(one, pace=100.0)  # a meal between
        self.assertEqual(len([r for f in lanes(self.shop) if f.what == "minutes" for r in f.records]), known)
        self.do_one(self.bench.ready[0], pace=3.0)
        self.assertEqual(len([r for f in lanes(self.shop) if f.what == "minutes" for r in f.records]), known + 1)

    def test_the_bench_measures_and_the_clock_learns_minutes(self):
        level = self.go_on(lambda one: one.kind == "flatten", pace=1.5)
        with self.assertRaises(Held):
            measure_again(self.bench, level, 1.1)
        do(self.bench, level, figures={"mm": 1.4}, agreed=[c.code for c in level.cautions if c.grade == "A"])
        record = self.shop.items.all(RECORDS)[-1]
        self.assertEqual(
            (record.what, record.measured, record.planned, record.tool), ("skim", 1.4, level.takes_mm["face 1"], level.machine)
        )
        measure_again(self.bench, level, 1.2)  # told again it takes the first one's place
        self.assertEqual([r.measured for r in self.shop.items.all(RECORDS)], [1.2])
        self.go_on(lambda _one: any(o.marks and self.bench.done(o) for o in self.bench.making.operations), pace=1.5)
        cut = next(o for o in self.bench.making.operations if o.cut is not None and o.marks and self.bench.done(o))
        measure_again(self.bench, cut, cut.marks[0].mm + 0.4)
        miss = self.lane("miss", cut.machine)
        self.assertAlmostEqual(miss.values[0], 0.4)
        self.go_on(lambda one: one.kind == "glue", pace=1.5)
        slow = self.lane("minutes", "mark")
        self.assertEqual((slow.stand, slow.figure), ("proposes", 1.5))
        before = sum(o.minutes for o in self.bench.left if o.kind == "mark")
        self.assertIn("minutes more", changes(self.shop, slow, 1.5)[0].words)
        plan_with(self.shop, slow)
        self.assertAlmostEqual(sum(o.minutes for o in self.bench.left if o.kind == "mark"), 1.5 * before, delta=0.1)
        self.assertEqual(self.lane("minutes", "mark").stand, "agrees")  # planned in the book's minutes still

    def test_the_pace_of_settling_is_learnt_by_species_and_moves_forecasts(self):
        self.assertFalse([f for f in lanes(self.shop) if f.what == "settling"])
        board = self.shop.piece("2")
        weighed = tuple(Weighing(on=f"2026-11-{d:02d}", kg=5.0 - 0.05 * k) for k, d in enumerate((1, 8, 15, 22)))
        self.shop.apply(
            "weighed",
            board.changed(
                weighings=weighed,
                mass_kg=5.0,
                moisture=(MoistureReading(x_mm=100, y_mm=50, depth_mm=10, moisture_pct=16.0, on="2026-11-01"),),
            ),
        )
        found = self.lane("settling")
        self.assertEqual((found.species, len(found.records), found.stand), (board.species, 1, "few"))


class WentWrong(InAShop):
    def test_the_third_of_a_kind_speaks_before_the_next_such_step_and_in_the_species_note(self):
        board = self.shop.piece("2")
        for words in (
            "tear-out 420 60 because fed from the marked end, helped scraped",
            "tear-out 300 because fed from the marked end",
            "tear-out because dull knives",
        ):
            self.assertEqual(note_on(self.shop, board.species), [])
            self.shop.apply("mishap", mishap(self.shop, words, "2", tool="planer", step="flatten"))
        note = note_on(self.shop, board.species)[0]
        self.assertIn("3 times in this shop. Mostly because fed from the marked end. What helped: scraped.", note)
        mine = [o for o in self.bench.making.operations if any(c.code == "again_tear-out" for c in o.cautions)]
        self.assertTrue(mine)
        self.assertTrue({o.kind for o in mine} <= {"flatten", "thickness", "joint", "shoot", "profile", "cavity", "bevel"})
        self.assertFalse([o for o in mine if o.kind == "glue"])
        last = mishaps_of(self.shop)[-1]
        self.assertEqual((last.x_mm, last.y_mm, last.species), (420.0, 60.0, board.species))
        self.assertEqual(
            sentence(last), "Tear-out on No. 2 at 420, 60 up, planer; because fed from the marked end; helped: scraped"
        )
        self.assertEqual(len(repeated(self.shop.items.all(MISHAPS))), 2)  # on the wood, and at the tool

    def test_what_is_told_wrong_is_a_sentence(self):
        for words, why in (
            ("", "what went wrong"),
            ("420", "what went wrong"),
            ("x" * 60, "a word or two"),
            ("burn because " + "y" * 400, "300 letters"),
        ):
            with self.assertRaisesRegex(BadEntry, why):
                mishap(self.shop, words, "2")

    def test_edges_count_their_metres_since_they_were_sharp(self):
        self.assertEqual(wear(self.shop), [])
        self.go_on(lambda one: one.kind == "flatten")
        worn = wear(self.shop)
        self.assertTrue(worn and all(w.counts >= w.metres > 0 for w in worn))
        self.assertFalse(any(look for _, _, look in edges(self.shop)))
        rules = self.shop.kit.rules
        self.shop.apply("house rule", self.shop.kit.changed(rules=rules.changed(dull_m=worn[0].counts)))
        self.assertEqual([look for _, _, look in edges(self.shop)], [w.counts >= worn[0].counts for w in wear(self.shop)])
        self.assertIn(True, [look for _, _, look in edges(self.shop)])
        self.clock.now += timedelta(minutes=5)
        name = sharpen(self.shop, worn[0].tool.upper()[:-1])
        self.assertEqual(next(w.counts for w in wear(self.shop) if w.tool == name), 0.0)
        with self.assertRaisesRegex(BadEntry, "no machine"):
            sharpen(self.shop, "lathe")
