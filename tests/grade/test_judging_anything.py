"""Whatever piece there is: verdict, rules, ranking, readiness and charts agree with one another and never fall over."""

import itertools
import unittest
from datetime import date

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from grainet.chart.drying import moisture_chart, rest_chart, weight_chart
from grainet.chart.layout import Words, laid_out
from grainet.chart.rack import density_chart, overview_chart
from grainet.chart.taps import taps_chart
from grainet.chart.year import movement_chart
from grainet.exchange.chart_file import rough_width
from grainet.grade.facts import Facts, density_of
from grainet.grade.judge import judge
from grainet.grade.ranking import GROUPS, ranked, standing_of
from grainet.grade.ready import readiness
from grainet.grade.rulebook import conditions_of, lines
from grainet.kit.shop_profile import ShopProfile
from grainet.kit.use import Use
from grainet.kit.uses import PRESETS, RULES, as_preset
from grainet.wood.rest import rest_state
from tests.session.test_invariants import pieces

KIT = ShopProfile()
TODAY = date(2026, 11, 24)
USES = st.sampled_from(tuple(Use))
QUIET = settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])


class Judging(unittest.TestCase):
    @QUIET
    @given(pieces(), USES)
    def test_rules_verdict_and_rank_agree(self, piece, use):
        rule, facts = KIT.use(use), Facts(piece, KIT)
        found = lines(facts, rule)
        verdict = judge(piece, rule, KIT, None, facts)
        standing = standing_of(facts, rule, verdict, TODAY)
        if any(line.outcome == "wont" for line in found):
            self.assertEqual(verdict.outcome, "wont")
        if verdict.outcome == "wont":
            self.assertEqual(standing.group, "never")
        if any(line.outcome == "if" for line in found):
            self.assertEqual(verdict.gives, 0, "what must be done first is done first")
        if standing.group == "now" and verdict.gives:
            self.assertFalse([line for line in found if line.outcome == "if"])
        self.assertIn(standing.group, GROUPS)
        self.assertTrue(0 <= standing.rank <= 1)
        spans = [(s.from_mm, s.to_mm) for s in verdict.stretches]
        self.assertTrue(all(a < b for a, b in spans))

    @QUIET
    @given(pieces(), USES, st.sampled_from([r for r in RULES if r != "tap"]))
    def test_switching_a_rule_off_never_makes_a_piece_worse(self, piece, use, name):
        order = {"wont": 0, "if": 1, "gives": 2}
        rule, facts = KIT.use(use), Facts(piece, KIT)
        asked = {reason.rule for _, reason in conditions_of(facts, rule.with_strictness(name, "off"))}
        self.assertNotIn(name, asked)
        before, after = (judge(piece, r, KIT, None, facts).outcome for r in (rule, rule.with_strictness(name, "off")))
        self.assertGreaterEqual(order[after], order[before])
        weighed = judge(piece, rule.with_strictness(name, "weigh"), KIT, None, facts).outcome
        must = judge(piece, rule.with_strictness(name, "must"), KIT, None, facts).outcome
        self.assertGreaterEqual(order[weighed], order[must], "a weight is never stricter than a must")

    @QUIET
    @given(st.lists(pieces(), min_size=2, max_size=5), USES)
    def test_a_ranking_is_an_order(self, found, use):
        rule = KIT.use(use)
        rows = []
        for k, one in enumerate(found):
            piece = one.changed(id=str(k))
            facts = Facts(piece, KIT)
            rows.append(standing_of(facts, rule, judge(piece, rule, KIT, None, facts), TODAY))
        order = ranked(rows)
        self.assertEqual(order, ranked(list(reversed(rows))) if len({r.sort_key for r in rows}) == len(rows) else order)
        self.assertEqual([GROUPS.index(r.group) for r in order], sorted(GROUPS.index(r.group) for r in order))
        for a, b in itertools.pairwise(order):
            if a.group == b.group:
                self.assertGreaterEqual(a.rank, b.rank - 1e-6)

    @QUIET
    @given(pieces(), USES, st.sampled_from(PRESETS))
    def test_presets_are_whole_rules_and_back_again(self, piece, use, preset):
        rule = as_preset(KIT.use(use), preset)
        self.assertEqual(as_preset(rule, preset), rule, "choosing it twice changes nothing")
        self.assertIn(judge(piece, rule, KIT).outcome, ("gives", "if", "wont"))

    @QUIET
    @given(pieces())
    def test_readiness_and_rest_are_told_in_days_that_make_sense(self, piece):
        ready = readiness(piece, KIT)
        self.assertTrue(0 <= ready.soonest <= ready.days <= ready.latest)
        soonest, likely, latest = ready.dates(TODAY)
        self.assertTrue(TODAY <= soonest <= likely <= latest)
        self.assertTrue(ready.message(TODAY))
        state = rest_state(piece.rests)
        self.assertEqual(state.word == "unread", not piece.rests)
        density = density_of(piece, KIT.library.find(piece.species))
        self.assertTrue(density is None or density > 0)


class Charts(unittest.TestCase):
    @QUIET
    @given(pieces())
    def test_any_piece_is_drawn_within_its_page(self, piece):
        facts = Facts(piece, KIT)
        verdict = judge(piece, KIT.use("neck"), KIT, None, facts)
        made = [
            moisture_chart(facts, TODAY), weight_chart(facts, TODAY), rest_chart(facts, TODAY), movement_chart(facts), density_chart([facts]),
            overview_chart([facts], {piece.id: verdict}, KIT.use("neck")), taps_chart([facts], piece.id),
        ]  # fmt: skip
        for chart in made:
            self.assertTrue(chart.message, chart.name)
            for one in laid_out(chart, 1000, 600, rough_width):
                for x, y in [(one.x, one.y)] if isinstance(one, Words) else one.points:
                    self.assertTrue(-3 <= x <= 1003 and -3 <= y <= 603, (chart.name, one))


if __name__ == "__main__":
    unittest.main()
