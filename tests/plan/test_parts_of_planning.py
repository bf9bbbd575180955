"""Candidates hold, conflicts are all of the colliding pairs, the bound over everything is never too low."""

import itertools
import unittest

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.field import Layers
from grainet.plan.bound import could_fit, value_bound
from grainet.plan.candidates import Pool, tilts_for
from grainet.plan.conflicts import conflicts
from grainet.plan.greedy import greedy_plan
from grainet.plan.places import candidates_for
from tests.jobs import SAW, half_ring, job, part, piece, planned, random_job, rect


def layers_of(made, k=0):
    return Layers(BoardGeometry(made.pieces[k], made.kit), guard=0.0)


class Candidates(unittest.TestCase):
    def test_every_candidate_has_passed_exact_placement(self):
        for seed in range(6):
            made = random_job(seed)
            layers = layers_of(made)
            for wanted in made.parts:
                found, trouble = candidates_for(layers, wanted, made.parts, 40)
                self.assertEqual(bool(found), trouble is None)
                for one in found[::5]:
                    self.assertIsInstance(Exact(layers.sheet, one.orientation).seat(one.seat.x, one.seat.y), ExactPlacement)

    def test_a_board_with_no_slack_still_offers_its_one_place(self):
        made = job(
            [
                {
                    "id": "A",
                    "outline": [[0, 0], [300, 7], [297.9, 97], [-2.1, 90]],
                    "thickness_mm": 20,
                    "flatness": {"crook_in_outline": True},
                }
            ],
            [
                {
                    "id": "p",
                    "outline": [[0, 0], [300, 7], [297.9, 97], [-2.1, 90]],
                    "thickness_mm": 20,
                    "turns_deg": [0],
                    "faces_up": ["1"],
                }
            ],
        )
        found, _ = candidates_for(layers_of(made), made.parts[0])
        self.assertTrue(found)

    def test_the_pool_keeps_one_of_twins(self):
        made = job([piece()], [part()])
        found, _ = candidates_for(layers_of(made), made.parts[0])
        pool = Pool()
        self.assertEqual(pool.add(found), len(pool.items))
        self.assertEqual(pool.add(found), 0)

    def test_tilts_follow_the_slope_of_the_long_edges(self):
        lean = {"id": "A", "outline": [[0, 0], [600, 21], [600, 121], [0, 100]], "thickness_mm": 25}
        made = job([lean], [part(tilt_deg=3), part("q")])
        tilts = tilts_for(made.parts[0], BoardGeometry(made.pieces[0], made.kit))
        self.assertTrue(any(abs(t - 2.0) < 0.05 for t in tilts), tilts)
        self.assertTrue(all(abs(t) <= 3 for t in tilts))
        self.assertEqual(tilts_for(made.parts[1], BoardGeometry(made.pieces[0], made.kit)), [0.0])


class Conflicting(unittest.TestCase):
    def pairs(self, found):
        together = set(map(tuple, found.pairs.tolist()))
        for clique in found.cliques:
            together |= set(itertools.combinations(sorted(clique), 2))
        return together

    def test_cliques_and_pairs_are_just_the_pairs_that_collide(self):
        half = {"id": "h", "outline": half_ring(), "thickness_mm": 20}
        for cutting in ("outline", "straight"):
            made = job([piece("A", 1100, 260, 30)], [half, part()], {**SAW, "cutting": cutting})
            layers = layers_of(made)
            items = [c for p in made.parts for c in candidates_for(layers, p, made.parts, 30)[0]]
            told = self.pairs(conflicts(items, made.kit))
            for a, b in itertools.combinations(range(len(items)), 2):
                first, second = items[a].polygon, items[b].polygon
                if cutting == "outline":
                    collide = first.distance(second) < 3 - 1e-5
                else:
                    p, q = first.bounds, second.bounds
                    collide = max(p[0] - q[2], q[0] - p[2]) < 3 - 1e-5 and max(p[1] - q[3], q[1] - p[3]) < 3 - 1e-5
                self.assertEqual((a, b) in told, collide, (cutting, a, b))


class Bound(unittest.TestCase):
    def test_it_is_never_below_what_the_planner_reaches(self):
        for seed in (1, 3):
            made = random_job(seed)
            sheets = {p.id: BoardGeometry(p, made.kit) for p in made.pieces}
            self.assertGreaterEqual(value_bound(made, sheets) + 1e-6, planned(made).value, seed)

    def test_sizes_that_cannot_fit_are_seen_through_turns_and_tilts(self):
        made = job(
            [piece("A", 320, 100, 20)],
            [
                part("long", 330, 50),
                part("turned", 95, 310, turns_deg=[90]),
                part("thick", 50, 50, 21),
                part("lean", 318, 90, tilt_deg=3),
            ],
        )
        sheet = BoardGeometry(made.pieces[0], made.kit)
        self.assertEqual([could_fit(p, sheet) for p in made.parts], [False, True, False, True])

    def test_demand_bounds_too(self):
        made = job([piece("A", 5000, 400, 30)], [part(quantity=3, value=2)])
        self.assertAlmostEqual(value_bound(made, {"A": BoardGeometry(made.pieces[0], made.kit)}), 6)


class Greedy(unittest.TestCase):
    def test_it_lays_whole_sets_only(self):
        made = job(
            [piece("A", 320, 95), piece("B", 320, 95)],
            [part(per_set=2, same_piece=True, quantity=1), part("q", 300, 90, quantity=1)],
        )
        sheets = {p.id: BoardGeometry(p, made.kit) for p in made.pieces}
        self.assertEqual({c.part.id for c in greedy_plan(made, sheets)}, {"q"})

    def test_the_planner_is_never_worse(self):
        for seed in (1, 3, 4):
            made = random_job(seed)
            sheets = {p.id: BoardGeometry(p, made.kit) for p in made.pieces}
            chosen = greedy_plan(made, sheets)
            value = sum(p.value * (sum(c.part.id == p.id for c in chosen) // p.per_set) for p in made.parts)
            self.assertGreaterEqual(planned(made).value + 1e-9, value, seed)

    def test_recipes_are_laid_whole_or_not_at_all(self):
        builds = [{"id": "b", "recipes": [{"id": "r", "value": 9, "needs": {"p": 2, "q": 1}}]}]
        made = job([piece("A", 620, 95)], [part(), {"id": "q", "outline": rect(500, 90), "thickness_mm": 20}], None, builds)
        self.assertEqual(greedy_plan(made, {"A": BoardGeometry(made.pieces[0], made.kit)}), [])

    def test_with_no_kerf_nothing_is_laid_within_another_and_what_is_known_of_empty_boards_changes_nothing(self):
        made = job(
            [piece("A", 620, 100)], [part("large", 300, 90, quantity=2, value=5), part("small", 20, 20, quantity=3, value=1)]
        )
        sheets = {"A": BoardGeometry(made.pieces[0], made.kit)}
        known = {}
        first, again = (greedy_plan(made, sheets, known) for _ in range(2))
        plain = greedy_plan(made, sheets)
        self.assertTrue(known)
        for chosen in (first, again, plain):
            self.assertEqual([c.polygon.bounds for c in chosen], [c.polygon.bounds for c in plain])
            for k, one in enumerate(chosen):
                self.assertTrue(all(one.polygon.intersection(other.polygon).area < 1e-6 for other in chosen[:k]))
        self.assertEqual(sum(c.part.id == "large" for c in plain), 2)
