"""Knowing the wood through the session: the words for it, claims, the stash, suppliers, the air, asking thousands, gates, previews."""

import os
import tempfile
import unittest
from datetime import date
from pathlib import Path
from unittest import mock

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from grainet.design.brief import Hardware
from grainet.kit.shop_profile import HouseRules, ShopProfile
from grainet.kit.uses import as_preset
from grainet.session.air_words import air_reading, logger_reading
from grainet.session.claims import clashes_of, least_choice_first, new_claim
from grainet.session.commands.line import read
from grainet.session.query import matches, parse_query, usable_cells
from grainet.session.rack_index import BIN_MM, RackIndex, staircase
from grainet.session.reservation import Reservation
from grainet.session.sawing import board_steps, tick
from grainet.session.shop import Shop
from grainet.session.sorting import preview, sorted_rack
from grainet.session.stash import aged, days_on_rack, offers_of
from grainet.session.suppliers import papers_wanted, supplier_records
from grainet.wood.meters import Correction
from grainet.wood.piece import MoistureReading, Piece
from grainet.wood.record import Rest, Supply, Surprise
from grainet.wood.species import Species
from grainet.wood.value import BadEntry
from grainet.work.cautions import cautions_for
from grainet.work.cut_plan import UnderWay
from tests.jobs import planned
from tests.session.test_asking import seeded
from tests.session.test_shop import InShop

TODAY = date(2026, 11, 24)
BOARD = Piece(
    id="1", species="European ash", outline=((0, 0), (900, 0), (900, 180), (0, 180)), length_mm=900.0, thickness_mm=40.0
)


def message(line, piece=BOARD, kit=None):
    return read(line, piece, 450.0, "mm", TODAY.isoformat(), kit=kit)


class Words(unittest.TestCase):
    def test_a_doubtful_species_and_its_candidates(self):
        unsure = message("sp european oak?").piece
        self.assertEqual((unsure.species, unsure.species_sure), ("European oak", False))
        more = message("maybe sweet chestnut, iroko", unsure).piece
        self.assertEqual(more.candidates, ("Sweet chestnut", "Iroko"))
        sure = message("surely sweet chestnut", more).piece
        self.assertEqual((sure.species, sure.species_sure, sure.candidates), ("Sweet chestnut", True, ()))
        self.assertIn("European oak renamed Sweet chestnut", sure.history[-1].what)
        self.assertEqual(message("look ring, brown").piece.look, ("ring", "brown"))
        for bad in ("maybe", "look shiny", "sp zzzz", "surely zzzz"):
            with self.assertRaises(BadEntry):
                message(bad)

    def test_renaming_writes_history_and_first_naming_does_not(self):
        self.assertEqual(message("sp european walnut", BOARD.changed(species="unknown")).piece.history, ())
        renamed = message("sp european walnut").piece
        self.assertEqual([h.what for h in renamed.history], ["species European ash renamed European walnut"])

    def test_a_shop_s_own_species_is_understood(self):
        kit = ShopProfile(
            species=(
                Species(common="Bog oak", basic_sg=0.7, density_12_kg_m3=850, shrink_radial_pct=5, shrink_tangential_pct=10),
            )
        )
        self.assertEqual(message("sp bog oak", kit=kit).piece.species, "Bog oak")
        self.assertIn("bog oak", parse_query("bog oak", library=kit.library).species)

    def test_raw_readings_are_corrected_by_the_meter_in_hand(self):
        kit = ShopProfile()
        meter = kit.meter.changed(corrections=(Correction(species="ash", offset=1.0, slope=1.0),))
        kit = kit.changed(meters=(meter, *kit.meters[1:]))
        reading = message("raw 10.5 c 28", kit=kit).piece.moisture[0]
        self.assertEqual((reading.raw_pct, reading.temperature_c, reading.depth_mm), (10.5, 28, 10))
        self.assertLess(reading.moisture_pct, 9.5)
        unsure = message("raw 10.5", BOARD.changed(species_sure=False), kit).piece.moisture[0]
        self.assertEqual((unsure.moisture_pct, unsure.doubt_pct), (10.5, 1.5))

    def test_a_cut_sample_reads_the_core(self):
        wet = message("sample 52.4 48.1")
        self.assertIn("8.9 %", wet.gloss)
        self.assertEqual(wet.piece.moisture[-1].depth_mm, 20)
        self.assertEqual(message("sample 52.4 48.1 shell").piece.moisture[-1].depth_mm, 2)
        for bad in ("sample 48 52", "sample 52", "sample 52 48 heart"):
            with self.assertRaises(BadEntry):
                message(bad)

    def test_weighings_make_a_series_and_kg_joins_it(self):
        piece = message("weigh 5.2 on 2026-11-03").piece
        piece = message("weigh 5.1 on 2026-11-10", piece).piece
        self.assertEqual((piece.mass_kg, len(piece.weighings)), (5.1, 2))
        piece = message("kg 5.0", piece).piece
        self.assertEqual([w.on for w in piece.weighings][-1], TODAY.isoformat())
        self.assertEqual(len(message("weigh 5.05 on 2026-11-10", piece).piece.weighings), 3, "one a day")
        with self.assertRaises(BadEntry):
            message("weigh 5 on 2027-01-01")
        self.assertEqual(message("kg 5.0").piece.weighings, (), "one weight is no series")

    def test_the_rest_log_and_its_waiver(self):
        piece = BOARD
        for day, bow in (("2026-11-01", 1.5), ("2026-11-04", 2.0), ("2026-11-08", 2.0)):
            piece = message(f"rest {bow} on {day}", piece).piece
        meaning = message("rest 2.0 twist .4 on 2026-11-11", piece)
        self.assertIn("settled", meaning.gloss)
        self.assertEqual((meaning.piece.flatness.bow_mm, meaning.piece.flatness.rock_mm), (2.0, 0.4))
        self.assertEqual(message("waive straight for a year", piece).piece.rest_waived, "straight for a year")
        with self.assertRaises(BadEntry):
            message("waive no")

    def test_the_rest_of_the_words(self):
        self.assertEqual(message("stack bench").piece.stacking, "bench")
        tap = message("tap 368 d .09", BOARD.changed(mass_kg=4.0)).piece.taps[0]
        self.assertEqual((tap.hz, tap.decay_s, tap.thickness_mm), (368, 0.09, 40))
        self.assertIn("another tone?", message("tap 3680", BOARD.changed(mass_kg=4.0)).gloss)
        supply = message("supplier Nether Holm").piece.supply
        self.assertEqual(supply.supplier, "Nether Holm")
        self.assertEqual(message("price 42").piece.supply.price, 42)
        self.assertEqual(message("paper invoice 2019-117").piece.supply.papers[0].number, "2019-117")
        self.assertEqual(message("surprise hidden nail").piece.supply.surprises[0].what, "hidden nail")
        self.assertEqual(message("passed too short").piece.passed_over[0].what, "too short")
        self.assertEqual(message("keep for Merrow neck").claims, "Merrow neck")
        self.assertEqual(message("free").frees, "*")
        for bad in ("stack floor", "tap", "price cheap", "paper", "surprise", "passed", "keep", "rest", "weigh"):
            with self.assertRaises(BadEntry, msg=bad):
                message(bad)

    def test_readings_of_another_day_are_kept_as_history(self):
        old = BOARD.changed(moisture=(MoistureReading(x_mm=450, y_mm=90, depth_mm=10, moisture_pct=14, on="2026-10-01"),))
        new = message("mc 10", old).piece
        self.assertEqual([r.moisture_pct for r in new.moisture], [14, 10])
        self.assertEqual([r.moisture_pct for r in new.moisture_now], [10])
        self.assertEqual(len(message("mc 9", new).piece.moisture), 2, "the same day's reading is read anew")

    def test_air(self):
        self.assertAlmostEqual(message("air 68 F 46").air.temperature_c, 20)
        self.assertAlmostEqual(air_reading("20.5 46 %", "2026-11-24").humidity, 0.46)
        for bad in ("air", "air 20", "air 200 46", "air 20 140", "air warm damp"):
            with self.assertRaises(BadEntry):
                message(bad)
        self.assertTrue(15 < logger_reading("2026-11-24").temperature_c < 26)


class TheShopsAir(InShop):
    def test_a_log_is_kept_by_month_once_and_undone_in_one(self):
        before = len(self.shop.air.readings)
        rows = [air_reading("20 50", "2026-11-24").changed(at=f"2026-{m:02d}-0{d}T10:00") for m in (9, 10) for d in (1, 2, 3)]
        self.assertEqual(self.shop.air.log(rows), 6)
        self.assertEqual(self.shop.air.log(rows), 0, "known already")
        self.assertEqual(len(self.shop.air.readings), before + 6)
        self.assertEqual(self.shop.air.readings, sorted(self.shop.air.readings, key=lambda r: r.at))
        self.shop.undo()
        self.assertEqual(len(self.shop.air.readings), before)

    def test_the_year_follows_the_log_and_the_kit(self):
        year = self.shop.air.year
        self.assertIs(year, self.shop.air.year)
        self.assertTrue(all(year.logged))
        self.shop.air.log([air_reading("20 95", "2026-11-24").changed(at=f"2026-07-{d:02d}T12:00") for d in range(1, 29)])
        self.assertGreater(self.shop.air.year.dampest_pct, year.dampest_pct)


class Claims(InShop):
    def test_least_choice_first(self):
        choices = least_choice_first(self.shop, "11")
        self.assertEqual(len(choices), 2)
        self.assertLessEqual(len(choices[0].others), len(choices[1].others))
        self.assertIn("would do as well", choices[1].text)

    def test_what_has_no_other_candidate_goes_first(self):
        claim = new_claim(self.shop, "4", "binding", None, "2026-11-24")
        self.shop.apply("claim", claim, Reservation(id="R9", piece="4", claimed_for="core of a travel guitar"))
        texts = [c.text for c in least_choice_first(self.shop, "4")]
        self.assertEqual(len(texts), 2)
        self.assertTrue(any("No. " in t for t in texts))

    def test_regions_clash_where_they_meet(self):
        a = Reservation(id="a", piece="1", claimed_for="x", box=(0, 0, 100, 50))
        self.assertEqual(clashes_of(a, [a, a.changed(id="b", box=(200.0, 0.0, 300.0, 50.0))]), [])
        self.assertEqual(len(clashes_of(a, [a.changed(id="c", box=(99.0, 49.0, 120.0, 60.0)), a.changed(id="d", box=None)])), 2)
        self.assertEqual(clashes_of(a, [a.changed(id="e", piece="2")]), [])

    def test_a_design_and_part_are_recognised_by_their_names(self):
        made = new_claim(self.shop, "3", "Merrow neck", (0.0, 0.0, 700.0, 80.0), "2026-11-24")
        self.assertEqual((made.design, made.part), ("merrow", "merrow.neck"))
        self.assertEqual(new_claim(self.shop, "3", "a stool", None, "2026-11-24").design, "")

    def test_a_whole_claim_keeps_another_build_from_the_piece(self):
        self.shop.apply(
            "claim", Reservation(id="R5", piece="9", claimed_for="Merrow body halves", design="merrow", part="merrow.body.bass")
        )
        plover = next(d for d in self.shop.designs() if d.id == "plover")
        bars = {(b.piece, b.why) for b in self.shop.jobs.job_for([plover]).barred}
        self.assertIn(("9", "kept for Merrow body halves"), bars)
        merrow = next(d for d in self.shop.designs() if d.id == "merrow")
        self.assertFalse(any(b.piece == "9" and "kept for" in b.why for b in self.shop.jobs.job_for([merrow]).barred))


class StashAndSuppliers(InShop):
    def test_old_wood_is_offered_with_its_flaw_in_the_waste(self):
        old = {a.piece: a for a in aged(self.shop, TODAY)}
        self.assertIn("11", old)
        self.assertNotIn("17", old, "under a year")
        self.assertTrue(any(o.part == "matched top" and "t1" in o.in_waste for o in old["11"].offers))
        self.assertIn("streak", old["11"].passed_over[0])
        self.assertEqual([a.days for a in old.values()], sorted((a.days for a in old.values()), reverse=True))
        self.assertIsNone(days_on_rack(Piece(id="x"), TODAY))
        self.assertEqual(offers_of(self.shop, Piece(id="16")), offers_of(self.shop, self.shop.piece("16")))

    def test_three_boards_with_hidden_flaws_raise_the_rate(self):
        bad = [
            Piece(
                id=f"9{k}",
                supply=Supply(supplier="Fenwood", surprises=(Surprise(on="2026-01-01", what="nail"),) if k < 3 else ()),
            )
            for k in range(4)
        ]
        self.shop.apply("bought", *bad)
        record = next(r for r in supplier_records(self.shop) if r.name == "Fenwood")
        self.assertEqual((record.pieces, record.with_surprises, record.rate_pct, record.stands_out), (4, 3, 75, True))
        holm = next(r for r in supplier_records(self.shop) if r.name.startswith("Nether"))
        self.assertFalse(holm.stands_out, "one surprise is no record")

    def test_papers_are_wanted_for_controlled_species_and_for_what_may_be_one(self):
        self.assertEqual([p.id for p in papers_wanted(self.shop)], ["13"])
        self.shop.apply("maybe", self.shop.piece("15").changed(species_sure=False, candidates=("Cocobolo",)))
        self.assertEqual({p.id for p in papers_wanted(self.shop)}, {"13", "15"})


class Sorting(InShop):
    def test_the_demo_rack_sorted_for_necks(self):
        found = sorted_rack(self.shop, "neck", TODAY)
        groups = {s.piece: s.group for s in found}
        self.assertEqual({p for p, g in groups.items() if g == "now"}, {"2", "3", "4", "6", "7"})
        self.assertEqual(groups["17"], "later")
        self.assertEqual(groups["10"], "never")
        self.assertEqual(len(found), 17)
        self.assertTrue(all(s.why for s in found if s.group == "never"))

    def test_a_preview_is_what_then_happens(self):
        rule = as_preset(self.shop.kit.use("body_half"), "clear")
        expected = {c.piece: c.after for c in preview(self.shop, rule)}
        self.assertTrue(expected)
        kit = self.shop.kit
        before = {p.id: self.shop.judgements.verdict(p.id, "body_half") for p in self.shop.pieces()}
        self.shop.apply("clear", kit.changed(uses=tuple(rule if r.use == "body_half" else r for r in kit.every_use)))
        from grainet.session.sorting import message as word

        for piece in self.shop.pieces():
            after = self.shop.judgements.verdict(piece.id, "body_half")
            self.assertEqual(word(after), expected.get(piece.id, word(before[piece.id])), piece.id)

    def test_only_what_changed_is_judged_again(self):
        for piece in self.shop.pieces():
            self.shop.judgements.verdict(piece.id, "neck")
        kept = {p.id: self.shop.judgements.known_verdict(p.id, "neck") for p in self.shop.pieces()}
        self.shop.apply("read", self.shop.piece("9").changed(grain_slope_deg=0.5))
        self.assertIsNone(self.shop.judgements.known_verdict("9", "neck"))
        self.assertTrue(all(self.shop.judgements.known_verdict(n, "neck") is v for n, v in kept.items() if n != "9"))

    def test_colours_and_glues_do_not_judge_the_rack_anew(self):
        before = {p.id: self.shop.judgements.verdict(p.id, "neck") for p in self.shop.pieces()}
        kit = self.shop.kit
        for changed in (
            {"theme": "dark"},
            {"length_style": "inch"},
            {"glue_in_use": "epoxy"},
            {"name": "Another"},
            {"rank_words": ("a", "b")},
        ):
            kit = kit.changed(**changed)
            self.shop.apply("kit", kit)
            self.assertTrue(all(self.shop.judgements.known_verdict(n, "neck") is v for n, v in before.items()), changed)
        for changed in (
            {"humidity": 0.6},
            {"rules": HouseRules(ready_within_pct=2.0)},
            {"species": (Species(common="X", basic_sg=0.5, density_12_kg_m3=600, shrink_radial_pct=4, shrink_tangential_pct=8),)},
        ):
            self.shop.judgements.verdict("9", "neck")
            self.shop.apply("kit", self.shop.kit.changed(**changed))
            self.assertIsNone(self.shop.judgements.known_verdict("9", "neck"), changed)


class Gates(InShop):
    def laid(self):
        plover = next(d for d in self.shop.designs() if d.id == "plover")
        job = self.shop.jobs.job_for([plover])
        return self.shop.plans.under_way(self.shop.plans.accept(plover, job, planned(job)).id)

    def free_neck(self, laid):
        """The board of the neck and the step that frees it, all steps before it done."""
        part = next(p for p in laid.job.parts if p.role == "neck")
        board = next(p.piece for p in laid.plan.placements if p.part == part.id)
        from grainet.session.sawing import roles_freed

        for step in board_steps(self.shop, laid, board):
            if "neck" in roles_freed(laid, step):
                return board, step, laid
            laid = tick(self.shop, laid, board, step, agreed=True)
        raise AssertionError("no step frees the neck")

    def test_a_guessed_rod_holds_the_cut_that_frees_the_neck(self):
        board, step, laid = self.free_neck(self.laid())
        plover = next(d for d in self.shop.designs() if d.id == "plover")
        self.shop.apply("guess", plover.changed(brief=(Hardware(kind="rod_depth", mm=9, status="guessed"),)))
        with self.assertRaisesRegex(BadEntry, "only guessed"):
            tick(self.shop, laid, board, step, agreed=True)
        self.shop.apply("measured", plover.changed(brief=(Hardware(kind="rod_depth", mm=9, status="in hand"),)))
        self.assertTrue(tick(self.shop, laid, board, step, agreed=True).done(step.cut))

    def test_a_moving_piece_keeps_the_final_cut_closed_until_settled_or_waived(self):
        board, step, laid = self.free_neck(self.laid())
        piece = self.shop.piece(board)
        moving = (Rest(on="2026-11-01", bow_mm=1.0), Rest(on="2026-11-05", bow_mm=1.6))
        self.shop.apply("moving", piece.changed(rests=moving))
        with self.assertRaisesRegex(BadEntry, "moved 0.6"):
            tick(self.shop, laid, board, step, agreed=True)
        self.shop.apply("waived", self.shop.piece(board).changed(rest_waived="hung straight for years"))
        self.assertTrue(tick(self.shop, laid, board, step, agreed=True).done(step.cut))

    def test_the_last_step_says_what_to_mind_when_gluing_and_a_moisture_gap_wants_agreement(self):
        laid = self.laid()
        neck = next(p for p in laid.job.parts if p.role == "neck")
        board = next(p.piece for p in laid.plan.placements if p.part == neck.id)
        every = [c for c in board_steps(self.shop, laid, board)[-1].cautions if c.code == "glue_glue_times"]
        self.assertIn("Before gluing every joint: Yellow aliphatic", every[0].sentence)
        wet = laid.job.piece(board)
        wet = wet.changed(moisture=tuple(m.changed(moisture_pct=12.9) for m in wet.moisture))
        job = laid.job.changed(pieces=tuple(wet if p.id == board else p for p in laid.job.pieces))
        steps = board_steps(self.shop, UnderWay(laid.cut_plan.changed(job=job), laid.progress), board)
        grave = [c.text for c in steps[-1].cautions if c.grade == "A" and c.topic == "glue"]
        self.assertEqual(len(grave), 1)
        self.assertIn("let both settle in one place first", grave[0])
        self.assertNotIn("glue", {c.topic for s in steps[:-1] for c in s.cautions})

    def test_the_strictest_candidate_s_caution_is_shown(self):
        laid = self.laid()
        board = laid.boards[0]
        step = board_steps(self.shop, laid, board)[0]
        maybe = laid.job.piece(board).changed(species_sure=False, candidates=("Cocobolo",))
        found = {c.grade: c.text for c in cautions_for(step.cut, maybe, maybe.outline, self.shop.kit.cuts)}
        self.assertIn(
            "or Cocobolo: its dust may irritate",
            " ".join(c.text for c in cautions_for(step.cut, maybe, maybe.outline, self.shop.kit.cuts)),
        )
        self.assertIn("A", found)
        own = Species(
            common="Hedge thorn",
            basic_sg=0.7,
            density_12_kg_m3=850,
            shrink_radial_pct=5,
            shrink_tangential_pct=10,
            flags=frozenset({"silica", "oily"}),
            trade_note="sold with a felling paper",
            finish_note="darkens within a year",
        )
        library = self.shop.kit.changed(species=(own,)).library
        texts = " ".join(
            c.text
            for c in cautions_for(
                step.cut, maybe.changed(species="Hedge thorn", candidates=()), maybe.outline, self.shop.kit.cuts, library
            )
        )
        self.assertIn("sharp spare blade", texts)
        self.assertIn("wiped with solvent", texts)
        self.assertIn("check current trade rules; sold with a felling paper", texts)
        self.assertIn("Under a finish: darkens within a year.", texts)


class AskingThousands(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.kit = ShopProfile()
        cls.pieces = seeded()
        cls.finder = RackIndex()
        for one in cls.pieces:
            cls.finder.keep(one, one.id, cls.kit)

    @settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(
        st.integers(0, 50),
        st.integers(20, 240),
        st.integers(60, 2000),
        st.sets(st.sampled_from(("clear", "ready", "quartered", "flat", "reclaimed", "measured")), max_size=3),
    )
    def test_the_same_as_asking_each(self, thick, width, length, words):
        query = parse_query(f"{thick} x {width} x {length}, {', '.join(sorted(words))}".rstrip(", "))
        slow = {p.id for p in self.pieces if matches(p, query, self.kit)}
        self.assertEqual(self.finder.find(self.pieces, query, self.kit), slow)

    def test_words_species_and_places(self):
        for text in ("ash", "maple, quartered", "plank", "at c3", "red alder, ready", "unread", "30 x 100 x 400, hard maple"):
            query = parse_query(text)
            self.assertEqual(
                self.finder.find(self.pieces, query, self.kit), {p.id for p in self.pieces if matches(p, query, self.kit)}, text
            )

    def test_a_staircase_against_sliding_every_window(self):
        rng = np.random.default_rng(4)
        for _ in range(8):
            good = rng.random((14, 60)) > 0.06
            steps = staircase(good)
            cells = round(BIN_MM / 4)
            for k in range(1, 6):
                best = 0
                for top in range(14):
                    for bottom in range(top + 1, 15):
                        runs = good[top:bottom].all(axis=0)
                        if any(runs[x : x + k * cells].all() and len(runs[x : x + k * cells]) == k * cells for x in range(60)):
                            best = max(best, bottom - top)
                self.assertEqual(steps[k], best * 4, k)

    def test_rows_are_read_back_and_a_spoilt_cache_is_left_aside(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "rows.npz"
            self.finder.save(path)
            again = RackIndex()
            again.load(path)
            texts = {p.id: p.id for p in self.pieces}
            self.assertEqual(again.missing(texts, self.kit), [])
            self.assertEqual(again.missing({**texts, "1": "changed"}, self.kit), ["1"])
            self.assertEqual(
                len(again.missing(texts, self.kit.changed(losses=self.kit.losses.changed(growth_mm=99.0)))), len(self.pieces)
            )
            path.write_bytes(path.read_bytes()[:200])
            spoilt = RackIndex()
            spoilt.load(path)
            self.assertEqual(spoilt.rows, {})

    def test_a_shop_keeps_its_rows_up_as_pieces_change(self):
        with tempfile.TemporaryDirectory() as folder:
            self.enterContext(mock.patch.dict(os.environ, XDG_CACHE_HOME=folder))
            with Shop.open(Path(folder) / "S.grainet", create=True) as shop:
                shop.apply("racked", *self.pieces)
                query = parse_query("20 x 100 x 500 clear")
                first = shop.questions.ask(query)
                while shop.questions.keep_rows(0.5):
                    pass
                self.assertEqual(shop.questions.ask(query), first)
                gone = next(iter(first))
                shop.apply("thin", shop.piece(gone).changed(thickness_mm=5.0))
                self.assertEqual(shop.questions.ask(query), first - {gone})
                shop.undo()
                self.assertEqual(shop.questions.ask(query), first)

    def test_cells_are_sound(self):
        one = self.pieces[0]
        self.assertLessEqual(
            usable_cells(one, 0.0, self.kit, clear=True).sum(), usable_cells(one, 0.0, self.kit, clear=False).sum()
        )


if __name__ == "__main__":
    unittest.main()
