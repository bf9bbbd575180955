"""Plans side by side: they differ, each is the best by its aim or called another way, and their cards tell the truth."""

import unittest
from datetime import date

from grainet.exchange.job_file import with_prices
from grainet.exchange.json_file import to_value
from grainet.job.job import Job
from grainet.kit.shop_profile import ShopProfile
from grainet.plan.alternatives import aims_for, alternatives, key_of
from grainet.plan.verify import check
from grainet.present.alternatives import alternatives_of
from grainet.work.waiting import settling_wait
from tests.jobs import SAW, part, piece, rect

CURL = [{"id": "f1", "kind": "curl", "face": "through", "polygon": rect(700, 110), "strength": 1.0}]


def asked(pieces):
    build = {"id": "b", "recipes": [{"id": "as drawn", "value": 9, "needs": {"x": 2}}]}
    told = {
        "format": "grainet-job", "version": 1, "kit": SAW, "pieces": pieces, "builds": [build],
        "parts": [part("x", 300, 90, letter="A", label="half")],
    }  # fmt: skip
    return to_value(with_prices(told), Job, "job")


RACK = [
    piece("small", 330, 100, 25, species="Black walnut", price=50), piece("other", 330, 100, 25, species="Black walnut", price=50),
    piece("light", 2000, 110, 25, species="Western redcedar", mass_kg=1.9, price=70), piece("curly", 700, 110, 25, species="Black walnut", figure=CURL, price=90),
]  # fmt: skip


class Plans(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = asked(RACK)
        cls.found = list(alternatives(cls.job, ["yield", "figure", "weight", "cost"], seconds=20))
        cls.cards = alternatives_of([(aim, cls.job, plan) for aim, plan in cls.found], ShopProfile(), date(2026, 11, 24))

    def by(self, aim):
        return next(plan for told, plan in self.found if told == aim)

    def test_each_is_the_best_by_its_aim_and_none_is_another_s_copy(self):
        self.assertEqual({p.piece for p in self.by("yield").placements}, {"small", "other"})
        self.assertEqual({p.piece for p in self.by("figure").placements}, {"curly"})
        self.assertEqual({p.piece for p in self.by("weight").placements}, {"light"})
        self.assertEqual(len({key_of(plan) for _, plan in self.found}), len(self.found))
        for aim, plan in self.found:
            self.assertEqual((check(self.job.changed(version=2), plan), plan.builds), ([], {"b": "as drawn"}), aim)

    def test_one_that_would_be_a_copy_is_called_another_way(self):
        # the cheapest is the light board, which the lightest has taken: the next one is no cheapest
        self.assertNotIn("cost", dict(self.found))
        self.assertIn("other", dict(self.found))
        same = list(alternatives(asked(RACK[:2]), ["yield", "weight"], seconds=10))
        self.assertEqual([aim for aim, _ in same], ["yield"], "where there is only one way there is one plan")

    def test_aims_that_make_no_difference_are_not_asked_for(self):
        self.assertEqual(aims_for(self.job), ["yield", "figure", "weight"])
        plain = asked([piece("A", 900, 100, 25)])
        self.assertEqual(aims_for(plain, 9), ["yield", "weight"])

    def test_nothing_to_be_made_still_says_what_was_refused(self):
        found = list(alternatives(asked([piece("A", 200, 50, 25)]), ["yield"], seconds=5))
        self.assertEqual((len(found), found[0][1].builds), (1, {}))
        self.assertTrue(found[0][1].refused)

    def test_the_cards_underline_the_best_where_they_differ(self):
        card = {c.aim: c for c in self.cards}
        self.assertIn("kg", card["weight"].best)
        self.assertIn("litres", card["yield"].best)
        self.assertFalse(any("worth" in c.best for c in self.cards), "all are worth the same")
        figures = {f.name: f for f in card["figure"].figures}
        self.assertEqual((figures["paid"].value, figures["glue"].value), (90, 1))
        self.assertEqual(card["yield"].title, "Least wood opened")
        self.assertLess(card["yield"].litres[0], card["yield"].litres[1])

    def test_a_board_that_is_wet_is_the_condition(self):
        reading = {"x_mm": 300, "y_mm": 50, "depth_mm": 10, "moisture_pct": 25.0, "on": "2026-11-01"}
        job = asked([piece("wet", 700, 110, 25, species="Black walnut", moisture=[reading])])
        rows = [(aim, job, plan) for aim, plan in alternatives(job, ["yield"], seconds=5)]
        (card,) = alternatives_of(rows, ShopProfile(), date(2026, 11, 24))
        self.assertTrue(card.grave)
        wait = settling_wait(job.pieces[0], ShopProfile(), date(2026, 11, 24))
        self.assertEqual(card.condition, f"if it may wait: No. wet is dry about {wait.ready.day} {wait.ready:%b}")
        self.assertEqual({f.name: f.value for f in card.figures}["days"], (wait.ready - date(2026, 11, 24)).days)
