"""Rules line by line, strictness and presets, readiness, ranking, and the quick fields that judging thousands needs."""

import re
import unittest
from datetime import date, timedelta

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import orientations_of
from grainet.grade.facts import Facts
from grainet.grade.forecast import forecast_of
from grainet.grade.judge import judge, part_for, plainly_too_small
from grainet.grade.ranking import ranked, standing_of
from grainet.grade.ready import readiness
from grainet.grade.rulebook import conditions_of, lines
from grainet.kit.shop_profile import HouseRules, ShopProfile
from grainet.kit.use import Use
from grainet.kit.uses import RULES, SHIPPED_USES, as_preset, shipped, with_shipped
from grainet.wood.coating import Coating
from grainet.wood.piece import Flatness, LookSkim, MoistureReading, Piece
from grainet.wood.record import Rest, Tap, Weighing
from tests.jobs import job, piece

KIT = ShopProfile()
TODAY = date(2026, 11, 26)
DRY = [{"x_mm": 100, "y_mm": 50, "depth_mm": 25, "moisture_pct": 8.5}]


def made(**more) -> Piece:
    base = {
        "length": 2000, "width": 200, "thickness": 52, "moisture": DRY, "species": "White ash", "grain_slope_deg": 1, "ring_angle_deg": [80, 80], **more,
    }  # fmt: skip
    return job([piece("A", **base)], []).pieces[0]


class EveryRule(unittest.TestCase):
    def words(self, board, use="neck", kit=KIT):
        return {line.rule: line.outcome for line in lines(Facts(board, kit), kit.use(use))}

    @settings(max_examples=120, deadline=None)
    @given(st.data())
    def test_a_refused_figure_is_told_beyond_its_limit(self, data):
        """No "9.5 %, at most 9.5": what is told to be too much is more than what is told to be allowed, however near it came."""
        near = st.integers(-120, 120).map(lambda k: k / 1000)
        use = KIT.use(data.draw(st.sampled_from(("neck", "body_half", "fretboard", "core"))))
        target = KIT.target_moisture_pct
        mc = target + data.draw(st.sampled_from((-use.moisture_over_pct, use.moisture_over_pct))) + data.draw(near)
        density = data.draw(st.sampled_from(use.density_kg_m3)) + 8 * data.draw(near)
        board = made(
            moisture=[{"x_mm": 100, "y_mm": 50, "depth_mm": 25, "moisture_pct": max(0.0, mc)}],
            mass_kg=density * 2000 * 200 * 52 / 1e9,
            grain_slope_deg=use.most_slope_deg + data.draw(near),
            flatness={name: max(0.0, (getattr(use, f"most_{word}_mm") or 3.0) + data.draw(near)) for name, word in (("bow_mm", "bow"), ("cup_mm", "cup"), ("rock_mm", "twist"))},
        )  # fmt: skip
        for line in lines(Facts(board, KIT), use):
            told = re.search(r"([0-9.]+)[^0-9,]*(?:,[^0-9]*)? at (most|least) ([0-9.]+)", line.text)
            if line.outcome in ("if", "wont") and told is not None:
                found, limit = float(told[1]), float(told[3].rstrip("."))
                self.assertTrue(found > limit if told[2] == "most" else found < limit, line.text)

    def test_each_line_says_what_was_found_wanted_and_whose_rule(self):
        board = made(
            moisture=[{"x_mm": 100, "y_mm": 50, "depth_mm": 5, "moisture_pct": 12}],
            ring_angle_deg=[20, 30],
            flatness={"rock_mm": 60},
            mass_kg=13,
        )
        for line in lines(Facts(board, KIT), KIT.use("neck")):
            self.assertTrue(line.label and line.reason.text and line.reason.source, line)
            if line.outcome in ("if", "wont"):
                self.assertTrue(line.reason.remedy, line)
                self.assertIsNotNone(line.reason.wanted, line)
        self.assertEqual(
            {k: v for k, v in self.words(board).items() if v in ("if", "wont")},
            {"moisture": "if", "core": "if", "rings": "if", "twist": "wont"},
        )

    def test_every_limit_of_the_shop_that_is_known_is_spoken_of(self):
        def message(rule_mm=None, **limits):
            machines = tuple(m.changed(**limits.get(m.id, {})) for m in KIT.machines)
            kit = KIT.changed(machines=machines, losses=KIT.losses.changed(skim_mm=2.5), rule_mm=rule_mm)
            return [line.reason.text for line in lines(Facts(made(), kit), kit.use("neck")) if line.rule == "machines"]

        neck = KIT.use("neck")
        silent = message(rule_mm=3000, router={"deepest_mm": 299}, planer={"deepest_mm": 2.5})
        self.assertEqual(message(), silent, "limits that the part is within say nothing")
        for text, limits in (
            (f"the router takes at most {neck.thickness_mm - 1:.0f}", {"router": {"deepest_mm": neck.thickness_mm - 1}}),
            ("2.5 off a face is 3 passes of 1 at most", {"planer": {"deepest_mm": 1.0}}),
            ("the longest rule 500", {"rule_mm": 500}),
        ):
            (more,) = [one for one in message(**limits) if one not in silent]
            self.assertIn(text, more)

    def test_the_lines_are_what_the_verdict_is_made_of(self):
        for use in tuple(Use):
            board = made(grain_slope_deg=4, flatness={"rock_mm": 30, "bow_mm": 20, "cup_mm": 4}, mass_kg=4)
            rule, facts = KIT.use(use), Facts(board, KIT)
            found = list(conditions_of(facts, rule))
            verdict = judge(board, rule, KIT)
            if any(word == "wont" for word, _ in found):
                self.assertEqual(verdict.outcome, "wont", use)
                texts = {r.text for s in verdict.stretches for r in s.reasons}
                self.assertLessEqual({r.text for _, r in found}, texts)

    def test_one_board_is_good_for_a_body_and_refused_for_a_neck_because_of_twist(self):
        board = made(flatness={"rock_mm": 20})
        self.assertEqual(judge(board, KIT.use("body_half"), KIT).outcome, "gives")
        neck = judge(board, KIT.use("neck"), KIT)
        self.assertEqual(neck.outcome, "wont")
        self.assertIn("twisted: 2.4 over the part, at most 2", neck.main_reason)
        wider = KIT.use("neck").changed(most_twist_mm=3.0)
        self.assertEqual(judge(board, wider, KIT).outcome, "gives", "the limit decides, and it can be changed")

    def test_a_board_of_12_per_cent_says_how_much_it_will_move(self):
        """20 C and 50 % ask for 9.3 %; 200 wide at 8 % shrinkage gets 1.5 narrower on the way."""
        from grainet.wood.species import Species

        own = Species(common="Eight per cent", basic_sg=0.5, density_12_kg_m3=600, shrink_radial_pct=4, shrink_tangential_pct=8)
        kit = KIT.changed(humidity=0.5, species=(own,))
        board = made(
            species="Eight per cent", ring_angle_deg=[0, 0], moisture=[{"x_mm": 1, "y_mm": 1, "depth_mm": 26, "moisture_pct": 12}]
        )
        line = next(x for x in lines(Facts(board, kit), kit.use("neck")) if x.rule == "moisture")
        self.assertEqual(line.outcome, "if")
        self.assertIn("200 wide gets 1.5 narrower", line.reason.remedy)

    def test_dry_wood_asks_too(self):
        board = made(moisture=[{"x_mm": 100, "y_mm": 50, "depth_mm": 25, "moisture_pct": 5}])
        reason = judge(board, KIT.use("neck"), KIT).main_reason
        self.assertIn("takes up moisture", reason)

    def test_a_moving_piece_is_closed_to_necks_and_only_noted_for_bodies(self):
        moving = made().changed(rests=(Rest(on="2026-01-01", bow_mm=1), Rest(on="2026-01-05", bow_mm=2)))
        self.assertEqual(self.words(moving)["rest"], "if")
        self.assertEqual(self.words(moving, "body_half")["rest"], "note")
        self.assertEqual(self.words(moving.changed(rest_waived="straight for years"))["rest"], "holds")
        lax = KIT.changed(rules=HouseRules(rest_neck="off"))
        self.assertNotIn("rest", self.words(moving, "neck", lax))

    def test_treated_wood_and_unswept_faces(self):
        board = made().changed(reclaimed=True, coating=Coating(finish="none", treatment="decking"))
        words = self.words(board)
        self.assertEqual((words["coating"], words["metal"]), ("wont", "if"))

    def test_a_face_that_was_skimmed_to_see_the_wood_is_read_again_first(self):
        skim = LookSkim(face="1", on="2026-11-01", mm=0.4)
        self.assertEqual(self.words(made().changed(skims=(skim,)))["look"], "if")
        self.assertNotIn("look", self.words(made().changed(skims=(skim.changed(seen=True),))))

    def test_a_knock_is_a_note_without_weight_until_the_house_gives_it_one(self):
        tap = Tap(on="2026-01-01", hz=200, length_mm=2000, width_mm=200, thickness_mm=52, density_kg_m3=650)
        board = made().changed(taps=(tap,))
        line = next(x for x in lines(Facts(board, KIT), KIT.use("neck")) if x.rule == "tap")
        self.assertEqual((line.outcome, line.weight), ("note", 0.0))
        heard = KIT.changed(rules=HouseRules(tap_weight=2.0))
        self.assertEqual(next(x for x in lines(Facts(board, heard), heard.use("neck")) if x.rule == "tap").weight, 2.0)

    def test_a_density_outside_its_species_asks(self):
        heavy = made(mass_kg=20)
        line = next(x for x in lines(Facts(heavy, KIT), KIT.use("body_half")) if x.label == "Species")
        self.assertIn("?", line.reason.text)

    def test_movement_and_figure_are_asked_only_where_wanted(self):
        self.assertNotIn("movement", self.words(made()))
        strict = KIT.use("neck").changed(most_movement_mm=0.1, wants_figure=0.5)
        words = {x.rule: x.outcome for x in lines(Facts(made(), KIT), strict)}
        self.assertEqual((words["movement"], words["figure"]), ("if", "off"), "movement weighs, figure is off as shipped")


class Strictness(unittest.TestCase):
    def test_must_bars_weigh_asks_and_off_counts_nothing(self):
        flat = made(ring_angle_deg=[10, 10])
        rule = KIT.use("neck")
        found = {how: judge(flat, rule.with_strictness("rings", how), KIT).outcome for how in ("must", "weigh", "off")}
        self.assertEqual(found, {"must": "wont", "weigh": "if", "off": "gives"})
        steep = made(grain_slope_deg=6)
        self.assertEqual(judge(steep, rule, KIT).outcome, "wont")
        self.assertEqual(judge(steep, rule.with_strictness("slope", "weigh"), KIT).outcome, "if")
        self.assertEqual(rule.with_strictness("slope", "off").preset, "own")

    def test_presets_serve_two_schools(self):
        knots = [
            {
                "id": f"k{k}",
                "kind": "knot",
                "face": "through",
                "polygon": [[100 + 180 * k, 60], [150 + 180 * k, 60], [150 + 180 * k, 140], [100 + 180 * k, 140]],
            }
            for k in range(10)
        ]
        board = made(defects=knots)
        body = KIT.use("body_half")
        self.assertEqual(judge(board, as_preset(body, "clear"), KIT).gives, 0)
        self.assertGreater(judge(board, as_preset(body, "character"), KIT).gives, 2)
        crack = [{"id": "c1", "kind": "crack", "face": "through", "polygon": [[0, 90], [2000, 90], [2000, 110], [0, 110]]}]
        self.assertEqual(
            judge(made(width=200, defects=crack), as_preset(body, "character").changed(hides_bites=False), KIT).outcome,
            "wont",
            "what breaks stays out",
        )
        for use in tuple(Use):
            for preset in ("clear", "character"):
                rule = as_preset(shipped(use), preset)
                self.assertEqual((rule.preset, rule.length_mm), (preset, shipped(use).length_mm))
        self.assertEqual({r.use: r.preset for r in SHIPPED_USES}["neck"], "clear")
        self.assertEqual({r.use: r.preset for r in SHIPPED_USES}["body_half"], "character")

    def test_an_older_profile_gets_the_newer_uses(self):
        older = tuple(r for r in SHIPPED_USES if r.use not in ("binding", "core"))
        self.assertEqual(tuple(r.use for r in with_shipped(older)), tuple(Use))
        self.assertEqual(ShopProfile(uses=older).use("core"), shipped("core"))
        self.assertTrue(all(how in ("must", "weigh", "off") for _, how in RULES.values()))


class Ready(unittest.TestCase):
    def board(self, pct, on="2026-11-01", thick=30.0, depth=15.0, **more):
        reading = MoistureReading(x_mm=1, y_mm=1, depth_mm=depth, moisture_pct=pct, on=on)
        return Piece(
            id="1",
            species="European ash",
            outline=((0, 0), (900, 0), (900, 200), (0, 200)),
            thickness_mm=thick,
            moisture=(reading,),
            **more,
        )

    def test_ready_waits_core_unread_unread(self):
        self.assertEqual(readiness(self.board(8.9), KIT).word, "ready")
        self.assertEqual(readiness(self.board(8.9, depth=3), KIT).word, "core unread")
        self.assertEqual(readiness(self.board(12), KIT).word, "waits")
        self.assertEqual(readiness(Piece(id="1"), KIT).word, "unread")
        twelve = readiness(self.board(12), KIT.changed(humidity=0.5))
        self.assertAlmostEqual(twelve.target_pct, 9.3, delta=0.1)

    def test_a_date_is_a_range_and_never_in_the_past(self):
        ready = readiness(self.board(12, on="2020-01-01"), KIT)
        self.assertEqual(ready.dates(TODAY), (TODAY, TODAY, TODAY))
        fresh = readiness(self.board(12, on=TODAY.isoformat()), KIT)
        soonest, likely, latest = fresh.dates(TODAY)
        self.assertTrue(TODAY < soonest < likely < latest)

    def test_a_bench_and_a_still_stack_take_longer(self):
        days = {how: readiness(self.board(12, stacking=how), KIT).days for how in ("sticks", "still", "bench")}
        self.assertGreater(days["still"], days["sticks"])
        self.assertGreater(days["bench"], days["sticks"])

    def test_weighings_correct_the_pace(self):
        start = self.board(18, on="2026-09-01", thick=40.0, depth=20)
        book = forecast_of(start, KIT.library.find("European ash"), KIT)
        for pace in (0.6, 1.6):
            rows = tuple(
                Weighing(on=(date(2026, 9, 1) + timedelta(days=d)).isoformat(), kg=round(5 * (1 + float(np.interp(d * pace, book.run.days, book.run.mean)) / 100), 4))
                for d in (0, 10, 25, 40, 60)
            )  # fmt: skip
            weighed = start.changed(weighings=rows)
            found = forecast_of(weighed, KIT.library.find("European ash"), KIT)
            self.assertLess(abs(found.pace / pace - 1), 0.05)
            ready = readiness(weighed, KIT)
            self.assertEqual((ready.word, ready.by), ("waits", "weighings"))
            self.assertAlmostEqual(ready.days, book.days_until()[1] / pace, delta=0.08 * ready.days)
            self.assertTrue(ready.soonest <= ready.days / 1.2 and ready.latest >= ready.days * 1.2, "never a single day")

    def test_a_level_series_is_ready_whatever_the_meter_says(self):
        rows = tuple(Weighing(on=f"2026-11-{d:02d}", kg=5.0) for d in (1, 5, 12))
        ready = readiness(self.board(11.5, weighings=rows), KIT)
        self.assertEqual((ready.word, ready.by), ("ready", "weighings"))


class Ranking(unittest.TestCase):
    def stand(self, board, use="neck"):
        rule = KIT.use(use)
        return standing_of(Facts(board, KIT), rule, judge(board, rule, KIT), TODAY)

    def test_now_later_unread_and_never(self):
        good = self.stand(made())
        wet = self.stand(made(moisture=[{"x_mm": 1, "y_mm": 1, "depth_mm": 26, "moisture_pct": 14, "on": "2026-11-20"}]))
        unread = self.stand(made(ring_angle_deg=None))
        small = self.stand(made(length=300))
        self.assertEqual([s.group for s in (good, wet, unread, small)], ["now", "later", "unread", "never"])
        self.assertTrue(wet.days[0] < wet.days[1] < wet.days[2])
        self.assertIn("too short", small.why)
        self.assertEqual([s.group for s in ranked([small, unread, wet, good])], ["now", "later", "unread", "never"])

    def test_thin_wood_that_dries_within_a_month_is_soon(self):
        wet = [{"x_mm": 1, "y_mm": 1, "depth_mm": 5, "moisture_pct": 10.4, "on": "2026-11-25"}]
        self.assertEqual(self.stand(made(thickness=10, moisture=wet), "fretboard").group, "soon")

    def test_straighter_and_more_quartered_wood_ranks_higher(self):
        best, steeper, flatter = (
            self.stand(made(grain_slope_deg=0.2)),
            self.stand(made(grain_slope_deg=2.5)),
            self.stand(made(ring_angle_deg=[62, 62], grain_slope_deg=2.9)),
        )
        self.assertGreater(best.rank, steeper.rank)
        self.assertGreater(best.rank, flatter.rank)
        self.assertTrue(0 <= flatter.rank <= 1)
        self.assertIn("rings 80°/80° quarter", best.best)

    def test_the_weights_decide(self):
        rule = KIT.use("neck")
        heavy = rule.changed(weights=(("slope", 10.0),))
        steep = made(grain_slope_deg=2.9)
        verdict = judge(steep, rule, KIT)
        plain = standing_of(Facts(steep, KIT), rule, verdict, TODAY).rank
        self.assertLess(standing_of(Facts(steep, KIT), heavy, verdict, TODAY).rank, plain)


class QuickFields(unittest.TestCase):
    """A rectangle's field by integral images is the same as by transforms, and sound against exact geometry."""

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 10_000), st.sampled_from(("body_half", "neck", "fretboard", "core")))
    def test_the_same_as_by_transforms(self, seed, use):
        rng = np.random.default_rng(seed)
        marks = [
            {
                "id": f"d{k}", "kind": str(rng.choice(["knot", "crack", "hole", "stain", "rot"])), "face": str(rng.choice(["1", "2", "through"])),
                "depth_mm": float(rng.integers(1, 20)), "polygon": [[x, y], [x + w, y], [x + w, y + h], [x, y + h]],
            }
            for k in range(int(rng.integers(1, 6)))
            for x, y, w, h in [(float(rng.integers(0, 1100)), float(rng.integers(0, 160)), float(rng.integers(4, 90)), float(rng.integers(3, 40)))]
        ]  # fmt: skip
        for mark in marks:
            if mark["face"] == "through":
                mark.pop("depth_mm")
        board = made(length=1200, width=200, defects=marks)
        layers = Layers(BoardGeometry(board, KIT.cuts), 2.0)
        part = part_for(KIT.use(use))
        for way in orientations_of(part):
            quick = fit_field(layers, way)
            slow = _by_transforms(layers, way)
            self.assertTrue(np.array_equal(quick.fits, slow), (seed, use))
            exact = Exact(layers.sheet, way)
            rows, columns = np.nonzero(quick.fits)
            for k in rng.integers(0, max(1, len(rows)), 5) if len(rows) else ():
                self.assertIsInstance(exact.seat(*quick.shift(int(rows[k]), int(columns[k]))), ExactPlacement)

    def test_the_plain_size_check_says_what_the_exact_one_says(self):
        for more in ({"length": 600}, {"width": 60}, {"thickness": 20}, {"thickness": 24, "flatness": {"bow_mm": 30}}):
            board = made(**more)
            part = part_for(KIT.use("neck"))
            plain = plainly_too_small(board, part, KIT.cuts)
            exact = Exact(BoardGeometry(board, KIT.cuts), orientations_of(part)[0]).size_trouble()
            self.assertEqual((plain.rule, plain.text), (exact.rule, exact.text))
        self.assertIsNone(plainly_too_small(made(), part_for(KIT.use("neck")), KIT.cuts))


def _by_transforms(layers, way):
    """The field as an irregular part's is made: by claiming that the rectangle is not one."""
    shadow = type(way)(way.part, way.angle_deg, way.mirror, way.face_up)
    shadow.__dict__["rectangular"] = False
    return fit_field(layers, shadow).fits


class Flat(unittest.TestCase):
    def test_bow_over_the_part_only(self):
        long = Flatness(bow_mm=12)
        board = made(flatness=long.model_dump(exclude_defaults=True))
        line = next(x for x in lines(Facts(board, KIT), KIT.use("neck")) if x.rule == "bow")
        self.assertAlmostEqual(line.reason.found, round(12 * (690 / 2000) ** 2, 1))


if __name__ == "__main__":
    unittest.main()
