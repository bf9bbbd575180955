"""What is promised is known everywhere: a board of an accepted plan is offered to nobody else; a role is never judged by nothing."""

import tempfile
import unittest
from datetime import date
from pathlib import Path

from grainet.design.curve import box_ring
from grainet.design.design import Design
from grainet.design.part import Part
from grainet.design.recipe import Recipe
from grainet.kit.uses import SHIPPED_USES, rule_for_role, use_of_role
from grainet.session.claims import new_claim, other_candidates
from grainet.session.query import Query, parse_query
from grainet.session.shop import Shop
from grainet.session.sorting import sorted_rack
from grainet.session.stash import aged
from grainet.wood.piece import MoistureReading, Piece
from tests.jobs import planned

TODAY = date(2026, 11, 27)
READ = (MoistureReading(x_mm=400, y_mm=50, depth_mm=8, moisture_pct=8.5, on="2026-11-20"),)


def board(number, pct=8.5, **more):
    return Piece(
        id=number, kind="plank", species="Sugar maple (hard)", outline=box_ring(0, 0, 900, 110), thickness_mm=26.0, ring_angle_deg=(80, 80),
        grain_slope_deg=1.0, mass_kg=1.8, moisture=tuple(r.changed(moisture_pct=pct) for r in READ), **more,
    )  # fmt: skip


def neck(design, role="neck"):
    part = Part(
        id=f"{design}.neck", label="neck", role=role, outline=box_ring(0, 0, 690, 70), thickness_mm=22, species_wish=("maple",)
    )
    return Design(id=design, name=design.title(), parts=(part,), recipes=(Recipe(id="r", value=10, needs={part.id: 1}),))


class Promised(unittest.TestCase):
    def setUp(self):
        self.scratch = tempfile.TemporaryDirectory()
        self.addCleanup(self.scratch.cleanup)
        self.shop = Shop.open(Path(self.scratch.name) / "s.grainet", create=True)
        self.addCleanup(self.shop.close)
        self.first, self.second = neck("heron"), neck("merrow")
        self.shop.apply("begun", board("1", arrived="2020-01-01"), board("2", arrived="2020-01-01"), self.first, self.second)
        job = self.shop.jobs.job_for([self.first])
        plan = planned(job)
        self.shop.plans.accept(self.first, job, plan)
        (self.taken,) = {p.piece for p in plan.placements}
        (self.free,) = {"1", "2"} - {self.taken}

    def test_another_plan_is_not_offered_it_and_says_why(self):
        bars = {b.piece: b.why for b in self.shop.jobs.job_for([self.second]).barred}
        self.assertEqual(bars, {self.taken: "promised to Heron"})
        self.assertEqual(self.shop.jobs.job_for([self.first]).barred, (), "its own plan may be made anew")

    def test_sorting_says_who_holds_it(self):
        rows = {s.piece: s for s in sorted_rack(self.shop, "neck", TODAY)}
        self.assertEqual(rows[self.free].group, "now")
        self.assertNotEqual(rows[self.taken].group, "now")
        self.assertIn("promised to Heron", rows[self.taken].why)

    def test_asking_leaves_it_out_and_finds_it_by_the_word(self):
        self.assertEqual(self.shop.questions.ask(parse_query("20 x 60 x 600")), {self.free})
        self.assertEqual(self.shop.questions.ask(parse_query("promised")), {self.taken})
        self.assertEqual(self.shop.questions.ask(Query()), {self.free})

    def test_claims_and_the_stash_know_it(self):
        claim = new_claim(self.shop, self.free, "Merrow neck", None, TODAY.isoformat())
        self.assertEqual(other_candidates(self.shop, claim), ())
        self.assertEqual({a.piece for a in aged(self.shop, TODAY, with_offers=False)}, {self.free})

    def test_a_sawn_board_is_promised_no_more(self):
        self.shop.apply("sawn", self.shop.plans.accepted_for("heron").with_returned(self.taken).progress)
        self.assertEqual(self.shop.promises.boards(), {})


class Roles(unittest.TestCase):
    def test_words_of_a_role_name_its_use(self):
        for role, use in (
            ("bolt_on_neck", "neck"), ("neck blank", "neck"), ("left body half", "body_half"), ("fingerboard", "fretboard"), ("cap", "matched_top"),
            ("neck_strips", "laminate_strip"), ("head plate", "head_plate"), ("widget", None), ("", None),
        ):  # fmt: skip
            self.assertEqual(use_of_role(role), use, role)
        self.assertEqual(rule_for_role(SHIPPED_USES, "widget").use, "neck", "what nobody knows is held as strictly as a neck")

    def test_a_wet_board_passes_for_no_role(self):
        with tempfile.TemporaryDirectory() as scratch, Shop.open(Path(scratch) / "s.grainet", create=True) as shop:
            designs = [neck(f"d{k}", role) for k, role in enumerate(("neck", "bolt_on_neck", ""))]
            shop.apply("begun", board("1", pct=18), board("2"), *designs)
            for design in designs:
                bars = {b.piece: b.why for b in shop.jobs.job_for([design]).barred}
                self.assertEqual(set(bars), {"1"}, design.parts[0].role)
                self.assertIn("dries first", bars["1"])
            self.assertIn("it has no role", shop.jobs.job_for([designs[2]]).barred[0].why)


class OneTruth(unittest.TestCase):
    """A lane that means a part of the build in hand asks for that part; by size it asks for a rectangle, and says so."""

    def test_an_outline_that_only_fits_as_an_outline(self):
        from grainet.demo.designs import PLOVER
        from grainet.fit.field import fit_field
        from grainet.fit.orientation import orientations_of

        # a strip that a knot takes from every rectangle, but not from the waist of the half
        ring = ((280, 146), (330, 146), (330, 170), (280, 170))
        from grainet.wood.defects import Defect

        slab = Piece(
            id="1", kind="plank", species="European ash", outline=box_ring(0, 0, 480, 176), thickness_mm=50.0, mass_kg=2.8, moisture=READ,
            ring_angle_deg=(80, 80), grain_slope_deg=1.0, defects=(Defect(id="h1", kind="hole", polygon=ring),),
        )  # fmt: skip
        with tempfile.TemporaryDirectory() as scratch, Shop.open(Path(scratch) / "s.grainet", create=True) as shop:
            shop.apply("begun", slab, PLOVER)
            fields = [fit_field(shop.judgements.layers("1"), way) for way in orientations_of(PLOVER.parts[0])]
            room = any(f.fits.any() for f in fields)
            own = shop.judgements.verdict("1", "body_half", "plover")
            self.assertEqual(own.gives + own.gives_if > 0, room)
            self.assertTrue(room)
            by_size = shop.judgements.verdict("1", "body_half")
            self.assertNotEqual(by_size.outcome, "gives")
            self.assertEqual(shop.judgements.wanted("body_half", "plover").label, "Plover body halves")
            self.assertIn("by size", shop.judgements.wanted("body_half").message)
            self.assertIn("by size", shop.judgements.wanted("binding", "plover").message)

    def test_lanes_and_laying_out_agree_on_every_board_of_the_demo(self):
        from grainet.demo.designs import DESIGNS
        from grainet.demo.rack import rack
        from grainet.fit.exact import Exact
        from grainet.fit.field import fit_field
        from grainet.fit.orientation import orientations_of

        with tempfile.TemporaryDirectory() as scratch, Shop.open(Path(scratch) / "s.grainet", create=True) as shop:
            shop.apply("begun", *rack(), *DESIGNS)
            compared = 0
            for piece in shop.pieces():
                for design in DESIGNS:
                    for use in ("body_half", "matched_top", "neck", "fretboard"):
                        part = shop.judgements.wanted(use, design.id).part
                        verdict = shop.judgements.verdict(piece.id, use, design.id)
                        layers = shop.judgements.layers(piece.id)
                        reasons = {r.rule for s in verdict.stretches for r in s.reasons}
                        if (
                            part is None
                            or layers is None
                            or reasons & {"density", "twist", "bow", "cup", "coating", "metal", "planer", "thicknesser"}
                        ):
                            continue
                        ways = [w for w in orientations_of(part) if Exact(layers.sheet, w).size_trouble() is None]
                        room = any(fit_field(layers, w).fits.any() for w in ways)
                        if room:
                            compared += 1
                            self.assertNotEqual(verdict.outcome, "wont", (piece.id, use, design.id, reasons))
            self.assertGreater(compared, 8)


if __name__ == "__main__":
    unittest.main()
