"""The making of a plan in the shop: what comes next, what holds it, glue clocks that run on, what is kept."""

import re
import tempfile
import unittest
from datetime import UTC, datetime, timedelta
from pathlib import Path

from grainet.design.parts import design_of
from grainet.present.bench_view import bench_step
from grainet.session.bench_place import BenchPlace, keep_place, kept_place
from grainet.session.commands.line import read
from grainet.session.days import SAID_ONCE, batch_rows, day_rows, days_of
from grainet.session.making import BY_EYE, at_the_bench, bind_again, do, letters_on, moisture_gap, override, refuse_open
from grainet.session.sawing import board_steps
from grainet.session.scraps import boards_of, scrap_for
from grainet.session.shop import Shop
from grainet.wood.piece import MoistureReading, Piece
from grainet.wood.units import tell_gap
from grainet.work.bench_log import Warmth, ends_at, told
from grainet.work.holds import Held
from tests.work.test_making import WOOD, built


class Clock:
    """A clock that the test turns on."""

    def __init__(self):
        self.now = datetime(2026, 12, 1, 8, 0)

    def __call__(self):
        return self.now


class Begun(unittest.TestCase):
    """A shop with the set-neck guitar laid out, and a clock that the test turns on."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "S.grainet"
        self.clock = Clock()
        self.shop = Shop.open(self.folder, create=True, clock=self.clock)
        self.addCleanup(lambda: self.shop.close())
        g, job, plan = built("set")
        bought = ("rod.depth_mm", "rod.width_mm", "rod.curve_mm", "tuner.shank_mm", "nut_mm", "spread_mm")
        g = g.with_figures({path: g.figure(path) for path in bought})  # measured, so that nothing waits for a guess
        design = design_of(g)
        self.shop.apply("begun", g, design, *WOOD)
        self.plan = self.shop.plans.accept(design, job, plan)

    @property
    def bench(self):
        return at_the_bench(self.shop, self.plan.id)

    def do_next(self, until):
        """Do what comes next, with what it asks for, until one such is done; the clock goes on with the work and its waits."""
        for _ in range(400):
            bench = self.bench
            if not bench.ready:
                self.clock.now += timedelta(hours=1)
                continue
            one = bench.ready[0]
            self.do(one)
            if until(one):
                return one
        raise AssertionError("never came to it")

    def do(self, one):
        figures = {"fit": {"ends_mm": 0.0, "middle_mm": 0.0}, "trial": {"mm": 0.05}}.get(one.kind, {})
        letters = letters_on(self.bench.making, one) if one.kind == "glue" else ()
        agreed = [c.code for c in one.cautions if c.grade == "A"]
        do(self.bench, one, figures=figures, letters=letters, agreed=agreed)
        self.clock.now += timedelta(minutes=one.minutes)


class AtTheBench(Begun):
    def test_it_is_made_to_its_end_step_by_step_and_cuts_are_the_saws(self):
        self.do_next(lambda one: one.kind == "glue" and one.gives == ("set.set",))
        bench = self.bench
        self.assertEqual([o.kind for o in bench.left if o.kind not in ("cure",)], [])
        self.assertEqual(bench.under_way.left(), 0)

    def test_what_comes_later_waits_and_says_for_what(self):
        bench = self.bench
        glued = next(o for o in bench.making.operations if o.kind == "glue")
        with self.assertRaises(Held) as held:
            do(bench, glued)
        self.assertIn("First:", str(held.exception))
        one = self.do_next(lambda o: o.kind == "glue")
        with self.assertRaises(Held):
            do(self.bench, one, letters=letters_on(self.bench.making, one))  # it is done already

    def test_a_fit_letters_and_grave_cautions_are_gates(self):
        fit = self.do_next(lambda o: any(n.kind == "fit" for n in self.bench.ready))
        fit = next(o for o in self.bench.ready if o.kind == "fit")
        for figures in ({}, {"ends_mm": 0.1, "middle_mm": 0.0}, {"ends_mm": 0.0, "middle_mm": 0.5}):
            with self.subTest(figures), self.assertRaises(Held):
                do(self.bench, fit, figures=figures)
        self.do_next(lambda o: any(n.kind == "glue" for n in self.bench.ready))
        glued = next(o for o in self.bench.ready if o.kind == "glue")
        right = letters_on(self.bench.making, glued)
        for letters in ((), right[::-1], right[:1]):
            with self.subTest(letters), self.assertRaisesRegex(Held, "Still dry"):
                do(self.bench, glued, letters=letters)
        do(self.bench, glued, letters=[w.lower() for w in right])
        self.assertTrue(self.bench.done(glued))

    def test_a_fit_seen_to_close_is_kept_as_seen_and_never_as_measured(self):
        self.do_next(lambda o: any(n.kind == "fit" for n in self.bench.ready))
        fit = next(o for o in self.bench.ready if o.kind == "fit")
        with self.assertRaises(Held):
            do(self.bench, fit)
        with self.assertRaisesRegex(Held, "open in the middle"):
            do(self.bench, fit, figures={"middle_mm": 0.9}, by_eye=True)
        self.assertFalse(self.bench.done(fit))
        row = do(self.bench, fit, by_eye=True).log.row(fit.id)
        self.assertEqual((row.figures, row.note), ({}, BY_EYE))
        self.shop.undo()
        row = do(self.bench, fit, figures={"ends_mm": 0.0, "middle_mm": 0.0}).log.row(fit.id)
        self.assertEqual(row.note, "")

    def test_a_trial_cut_holds_its_slot_closed(self):
        self.do_next(lambda o: any(n.kind == "trial" for n in self.bench.ready))
        trial = next(o for o in self.bench.ready if o.kind == "trial")
        agreed = [c.code for c in trial.cautions if c.grade == "A"]
        self.assertIn("router_feed", agreed)
        with self.assertRaisesRegex(Held, "agree"):
            do(self.bench, trial, figures={"mm": 0.0})
        for figures in ({}, {"mm": 0.3}):
            with self.subTest(figures), self.assertRaises(Held):
                do(self.bench, trial, figures=figures, agreed=agreed)
        do(self.bench, trial, figures={"mm": 0.1}, agreed=agreed)

    def test_a_trial_is_cut_in_the_smallest_rest_of_its_own_board_that_takes_it(self):
        """Of the same board first, then of the same species; nothing that is too small or too thin, and what is no offcut is left alone."""
        trial = next(o for o in self.bench.making.operations if o.kind == "trial")
        self.assertIsNone(scrap_for(self.bench, trial))
        self.assertIn("no rest of this wood", bench_step(self.bench, trial, "mm").then)
        (board,) = {b for b in boards_of(self.bench, trial) if b == "2"}
        wood = self.shop.piece(board)

        def rest(name, long, wide, thick, parent="", species=wood.species):
            ring = ((0.0, 0.0), (long, 0.0), (long, wide), (0.0, wide))
            return Piece(id=name, kind="offcut", species=species, outline=ring, thickness_mm=thick, parent=parent)

        deep = max(o.settings.get("deepest_mm", 0.0) for o in self.bench.making.operations)
        self.assertGreater(deep, 5)
        self.shop.apply(
            "rests",
            rest("20", 300, 60, 30),
            rest("21", 200, 40, 30, species="European ash"),
            rest("22", 110, 40, 30, board),
            rest("23", 300, 60, deep + 3, board),
        )
        found, same = scrap_for(self.bench, trial)
        self.assertEqual((found.id, same), ("20", False))
        self.shop.apply("more", rest("24", 500, 80, 40, board), rest("25", 400, 50, 40, board))
        found, same = scrap_for(self.bench, trial)
        self.assertEqual((found.id, same), ("25", True))
        self.assertRegex(bench_step(self.bench, trial, "mm").what, r"^trial slot for D1: [\d.]+ wide, [\d.]+ deep$")
        self.assertEqual(bench_step(self.bench, trial, "mm").then, "in No. 25, a rest of the same board, 400 × 50")

    def test_workpieces_tell_what_became_of_them(self):
        self.assertEqual(set(self.bench.states.values()), {"in the board", "not joined yet"})
        glued = self.do_next(lambda o: o.kind == "glue")
        states = self.bench.states
        self.assertEqual(states[glued.gives[0]], "in clamps")
        self.assertTrue(all(states[w] == f"in {glued.gives[0].partition('.')[2]}" for w in glued.works_on))
        self.assertTrue({"cut", "ready to glue"} & set(states.values()))

    def test_clamps_on_a_joint_are_busy_and_the_clock_runs_on_when_it_is_shut(self):
        glued = self.do_next(lambda o: o.kind == "glue")
        off = self.bench.clamps_off_at(glued)
        self.assertEqual(set(self.bench.busy_clamps), {s.clamp for s in glued.clamps})
        self.shop.close()
        self.shop = Shop.open(self.folder, clock=self.clock)
        self.assertEqual(self.bench.clamps_off_at(glued), off)
        self.clock.now = off + timedelta(minutes=1)
        cure = self.bench.cure_of(glued)
        self.do(cure)
        self.assertEqual(self.bench.busy_clamps, {})
        self.assertGreaterEqual(self.bench.flush_at(glued) - (off - timedelta(hours=0.75)), timedelta(hours=23.9))

    def test_wood_that_is_too_wet_is_not_glued(self):
        glued = self.do_next(lambda o: any(n.kind == "glue" for n in self.bench.ready)) and next(
            o for o in self.bench.ready if o.kind == "glue"
        )
        bench = self.bench
        boards = {w.from_ for w in bench.making.workpieces if w.id in glued.works_on}
        self.assertIsNone(moisture_gap(self.shop, bench.under_way, bench.making, glued))
        if len(boards) == 1:
            return
        for k, board in enumerate(sorted(boards)):
            piece = self.shop.piece(board)
            read = MoistureReading(moisture_pct=7.0 + 4 * k, on="2026-12-01", x_mm=10, y_mm=10)
            self.shop.apply("read", piece.changed(moisture=(read,)))
        with self.assertRaisesRegex(Held, "points apart"):
            do(self.bench, glued, letters=letters_on(self.bench.making, glued))

    def test_a_rule_is_set_aside_with_a_reason_and_binds_again(self):
        tie = next(
            t for t in self.bench.making.rules if t.rule == "slot while the sides are parallel" and t.before.endswith("rod")
        )
        with self.assertRaises(Held):
            override(self.bench, tie, " ")
        bench = override(self.bench, tie, "the slot runs in a jig with its own fence")
        kept = next(t for t in bench.making.rules if (t.before, t.after, t.rule) == (tie.before, tie.after, tie.rule))
        self.assertEqual(kept.over, "the slot runs in a jig with its own fence")
        shown = days_of(self.shop, quick=True)
        printed = [row.caution for day in {r.starts.date() for r in shown.rows} for row in day_rows(shown, day) if row.caution]
        self.assertEqual(
            printed, [f"{tie.rule}: set aside, the slot runs in a jig with its own fence"], "once, at the step it is for"
        )
        bench = bind_again(bench, tie)
        self.assertEqual(next(t.over for t in bench.making.rules if (t.before, t.after) == (tie.before, tie.after)), "")

    def test_every_tick_is_one_undo(self):
        first = self.bench.ready[0]
        self.do(first)
        self.assertTrue(self.bench.done(first))
        self.shop.undo()
        self.assertFalse(self.bench.done(first))

    def test_the_calendar_goes_on_from_now(self):
        self.do_next(lambda o: o.kind == "glue")
        bench = self.bench
        self.assertEqual(set(bench.calendar), {o.id for o in bench.left})
        self.assertTrue(all(e.starts >= bench.now.isoformat(timespec="minutes") for e in bench.calendar.values()))

    def test_the_house_s_free_days_stay_free(self):
        everywhere = {datetime.fromisoformat(e.starts).weekday() for e in self.bench.calendar.values()}
        self.assertIn(5, everywhere)  # its rests run past a Saturday
        self.shop.apply("week", self.shop.kit.changed(free_days="weekend"))
        shown = days_of(self.shop, quick=True)
        self.assertTrue(shown.rows)
        for starts in (
            *(datetime.fromisoformat(e.starts) for e in self.bench.calendar.values()),
            *(r.starts for r in shown.rows),
        ):
            self.assertLess(starts.weekday(), 5)
        long = [r for r in shown.rows if r.operation.is_long]
        self.assertEqual(shown.long_on(long[0].starts.date())[0].operation, long[0].operation)

    def test_a_day_on_paper_says_each_caution_once_and_marks_its_steps(self):
        shown = days_of(self.shop, quick=True)
        day = shown.rows[0].starts.date()
        rows = day_rows(shown, day)
        grave = {
            r.operation.id: {c.text for c in r.operation.cautions if c.grade == "A" and c.code not in SAID_ONCE}
            for r in shown.on(day)
        }
        notes = {row.note[3:]: row.note[:2] for row in rows if row.note}
        self.assertEqual(set(notes), set().union(*grave.values()))
        self.assertEqual(len(set(notes.values())), len(notes))
        steps = [row for row in rows if row.text]
        self.assertEqual(len(steps), len(shown.on(day)))
        for step, dated in zip(steps, shown.on(day)):
            marks = {word.strip(",") for word in step.right.split() if word.startswith("!")}
            self.assertEqual(marks, {notes[text] for text in grave[dated.operation.id]})
            self.assertFalse(step.right.startswith((",", " ")), step.right)
        self.assertTrue(any("then 48 h" in step.right for step in steps))
        pieces = next(row.text for row in batch_rows(shown) if row.text.startswith("flatten"))
        names = [word.partition(" ")[0] for word in pieces.partition(": ")[2].split(", ")]
        self.assertEqual(len(names), len(set(names)), "twice is said, not listed twice")

    def test_a_house_that_reads_inches_has_them_in_every_step_and_on_paper(self):
        in_mm = {o.id: o.text for o in self.bench.making.operations}
        self.shop.apply("inches", self.shop.kit.changed(length_style="fraction"))
        told = {o.id: o.text for o in self.bench.making.operations}
        self.assertEqual(set(told), set(in_mm), "a step keeps its name")
        for kind in ("crosscut", "flatten", "thickness", "slot", "cavity"):
            some = [o for o in self.bench.making.operations if o.kind == kind]
            self.assertTrue(some, kind)
            for one in some:
                self.assertNotEqual(told[one.id], in_mm[one.id])
                self.assertFalse(re.search(r"(from the marked end|off face|to|wide,|deep,?) \d+\.\d", told[one.id]), told[one.id])
        fits = [o.text for o in self.bench.making.operations if o.kind == "fit" and "at most" in o.text]
        fit = next(o for o in self.bench.making.operations if o.kind == "fit" and o.settings["middle_mm"] > 0)
        for hundredths in range(1, 20):
            one = fit.changed(settings={**fit.settings, "middle_mm": hundredths / 100})
            allowed = 25.4 * float(tell_gap(hundredths / 100, "fraction"))
            refuse_open(one, {"ends_mm": 0.0, "middle_mm": allowed}, style="fraction")  # what is told to be allowed is
            with self.assertRaisesRegex(Held, "open in the middle, at most"):
                refuse_open(one, {"ends_mm": 0.0, "middle_mm": allowed + 0.0254}, style="fraction")
        self.assertTrue(
            fits and all(re.search(r"at most 0\.\d{3} open", text) for text in fits), "a gap is a gauge's, in thousandths"
        )
        settings = [row.number for row in batch_rows(days_of(self.shop, quick=True)) if row.number]
        self.assertTrue(settings and all("." not in number for number in settings), settings)
        self.shop.undo()
        self.assertEqual({o.id: o.text for o in self.bench.making.operations}, in_mm)

    def test_clamps_stay_on_as_long_as_the_house_keeps_to_and_the_warmer_room_does_not_shorten_that(self):
        glued = self.do_next(lambda one: one.kind == "glue")
        label = self.bench.clamps_off_at(glued) - self.clock.now
        rules = self.shop.kit.rules
        for school, hours in (("two hours", 2), ("overnight", 12), ("a day", 24)):
            self.shop.apply("school", self.shop.kit.changed(rules=rules.changed(clamp_time=school), temperature_c=26.0))
            started = datetime.fromisoformat(self.bench.log.row(glued.id).at).astimezone().replace(tzinfo=None)
            self.assertEqual(self.bench.clamps_off_at(glued) - started, timedelta(hours=hours))
            cure = self.bench.cure_of(glued)
            self.assertEqual(cure.wait_minutes, 60 * hours)
            with self.assertRaises(Held):
                do(self.bench, next(o for o in self.bench.left if cure.id in o.needs))
        self.assertLess(label, timedelta(hours=2))

    def test_what_is_read_of_a_board_after_its_plan_was_kept_reaches_the_joint(self):
        def told():
            return [o.settings["ways_round"] for o in self.bench.making.operations if "ways_round" in o.settings]

        self.assertEqual(told(), [])
        for piece in WOOD:
            bowed = piece.flatness.changed(bow_mm=6.0, bow_span_mm=piece.extents[2])
            self.shop.apply("read", self.shop.piece(piece.id).changed(flatness=bowed, hollow_face="1", heart_face="1"))
        self.assertTrue(told())
        for piece in WOOD:  # turned: the plan's faces are no longer its faces
            self.shop.apply("turned", self.shop.piece(piece.id).changed(picture_sign=(-1, -1, 1)))
        self.assertEqual(told(), [])


class NotReadFlat(Begun):
    """A board on which nobody laid a straightedge goes along no fence; once read flat it does, and what was done stays done."""

    def rips(self):
        making = self.bench.making
        return {o.id: (o.machine, o.text) for o in making.operations if o.kind == "rip" and o.board}

    def read(self, line):
        for piece in self.shop.pieces():
            self.shop.apply("read", read(line, piece, 0.0, "mm", "2026-11-27").piece)

    def test_it_is_a_band_saw_s_until_it_is_read(self):
        before = self.rips()
        self.assertTrue(before)
        saws = [s for b in self.bench.under_way.job.pieces for s in board_steps(self.shop, self.bench.under_way, b.id)]
        said = [c.text for s in saws if s.cut.tool == "rip" for c in s.cautions]
        self.assertTrue(any("Never at a table saw's fence" in text for text in said))
        self.assertFalse(any("riving knife" in text for text in said), "that is another machine's")
        self.assertEqual({machine for machine, _ in before.values()} - {"band saw, wide blade", "band saw"}, set())
        self.read("bow 0 cup 0")
        after = self.rips()
        self.assertEqual(after.keys(), before.keys())
        self.assertIn("table saw", {machine for machine, _ in after.values()})
        under_way = self.bench.under_way
        for board in {p.piece for p in under_way.plan.placements}:
            self.assertFalse([s for s in board_steps(self.shop, under_way, board) if "not read whether" in s.note])
        self.read("bow 4 cup 0")
        self.assertEqual({machine for machine, _ in self.rips().values()} & {"table saw"}, set())


class Place(unittest.TestCase):
    def test_it_is_kept_beside_the_shop_and_rubbish_says_nothing(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            self.assertIsNone(kept_place(folder))
            self.assertTrue(keep_place(folder, BenchPlace("heron", "glue a b")))
            self.assertEqual(kept_place(folder), BenchPlace("heron", "glue a b"))
            (folder / "bench-place.json").write_text('{"plan": 3')
            self.assertIsNone(kept_place(folder))
            self.assertFalse(keep_place(folder / "none", BenchPlace("a", "b")))


class Clocks(unittest.TestCase):
    start = datetime(2026, 12, 1, 10, tzinfo=UTC)

    def at(self, hours, temperature):
        return Warmth(at=told(self.start + timedelta(hours=hours)), temperature_c=temperature)

    def test_warmth_scales_what_is_left(self):
        now = self.start + timedelta(hours=9)
        self.assertEqual(ends_at(self.start, 120, [self.at(-1, 20)], now), self.start + timedelta(hours=2))
        self.assertEqual(ends_at(self.start, 120, [self.at(-1, 15)], now), self.start + timedelta(hours=4))
        # an hour at 20, then the stove goes out: the other hour takes two
        self.assertEqual(ends_at(self.start, 120, [self.at(-1, 20), self.at(1, 15)], now), self.start + timedelta(hours=3))
        self.assertEqual(ends_at(self.start, 120, [self.at(-1, 20), self.at(5, 15)], now), self.start + timedelta(hours=2))
        # what changes later than now is not known yet
        self.assertEqual(
            ends_at(self.start, 240, [self.at(-1, 20), self.at(3, 15)], self.start + timedelta(hours=2)),
            self.start + timedelta(hours=4),
        )

    def test_a_floor_is_not_shortened_by_warmth(self):
        now = self.start + timedelta(hours=1)
        self.assertEqual(ends_at(self.start, 60, [self.at(-1, 30)], now, 24 * 60), self.start + timedelta(hours=24))

    def test_it_counts_by_instants_over_a_summer_time_night(self):
        start = datetime.fromisoformat("2027-03-28T01:30:00+01:00")
        end = ends_at(start, 120, [Warmth(at="2027-01-01T00:00:00+00:00", temperature_c=20)], start)
        self.assertEqual(end, datetime.fromisoformat("2027-03-28T04:30:00+02:00"))


if __name__ == "__main__":
    unittest.main()
