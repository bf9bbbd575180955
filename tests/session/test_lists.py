"""The lists of the rack as rows of words, and what knowing leaves with the wood when it is sawn, turned or listed."""

import tempfile
import unittest
from datetime import date
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.exchange.json_file import Unusable
from grainet.exchange.report_file import ReportRow, report_csv, report_pdf, write_report
from grainet.exchange.wav import after_the_knock, read_wav
from grainet.grade.ranking import GROUPS
from grainet.instruments.stand_ins import tone_of
from grainet.job.answer import Offcut
from grainet.kit.shop_profile import HouseRules, ShopProfile
from grainet.kit.use import Use
from grainet.session import lists
from grainet.session.commands.line import read
from grainet.session.query import parse_query
from grainet.session.reservation import Reservation
from grainet.session.shop import Shop
from grainet.store.migrations import LATEST
from grainet.store.shop_file import FILE_NAME
from grainet.wood.meters import Meter, corrected
from grainet.wood.piece import Piece
from grainet.wood.record import Rest, Supply, Surprise, Tap, Weighing
from grainet.wood.species import Species
from grainet.wood.turning import turned_end_for_end
from grainet.wood.value import BadEntry
from grainet.work.returning import offcut_piece
from tests.session.test_shop import InShop

TODAY = date(2026, 11, 24)


class Lists(InShop):
    def heads(self, rows):
        return [r.head for r in rows if r.head]

    def test_every_use_lists_every_piece_once_in_the_order_of_its_groups(self):
        for rule in self.shop.kit.every_use:
            message, rows = lists.for_a_use(self.shop, rule.use, TODAY)
            pieces = [r.piece for r in rows if r.piece]
            self.assertEqual(sorted(pieces), sorted(p.id for p in self.shop.pieces()), rule.use)
            self.assertIn(rule.label.lower(), message)
            order = [next(g for g in GROUPS if head.startswith(lists.GROUP_WORDS[g])) for head in self.heads(rows)]
            self.assertEqual(order, sorted(order, key=GROUPS.index))
            counted = sum(int(head.rsplit(": ", 1)[1]) for head in self.heads(rows))
            self.assertEqual(counted, len(pieces))
            for row in rows:
                if row.piece:
                    self.assertTrue(row.first and row.word in ("gives", "if", "wont"), row)
                    self.assertTrue(0 <= row.rank <= 1)

    def test_the_house_s_own_words_stand_before_the_facts(self):
        kit = self.shop.kit.changed(rank_words=("firewood", "shelf", "bench", "treasure"))
        self.shop.apply("words", kit)
        _, rows = lists.for_a_use(self.shop, "neck", TODAY)
        first = next(r for r in rows if r.piece)
        self.assertRegex(first.first, r"^treasure: rings 82°/80° quarter; slope 0\.8°")

    def test_a_knock_moves_a_rank_only_where_the_house_gives_it_weight(self):
        def ranks(kit):
            self.shop.apply("kit", kit)
            return {r.piece: r.rank for r in lists.for_a_use(self.shop, "neck", TODAY)[1] if r.piece}

        plain = ranks(self.shop.kit)
        heard = ranks(self.shop.kit.changed(rules=HouseRules(tap_weight=3.0)))
        knocked = {p.id for p in self.shop.pieces() if p.taps}
        self.assertEqual({n for n in plain if abs(plain[n] - heard[n]) > 1e-9}, knocked)

    def test_by_size_while_nothing_is_asked_while_asking_and_answered(self):
        self.assertEqual(lists.by_size(self.shop, None, None, TODAY)[1], [])
        query = parse_query("30 x 60 x 700 clear")
        self.assertEqual(lists.by_size(self.shop, query, None, TODAY), ("asking the rack ...", []))
        message, rows = lists.by_size(self.shop, query, self.shop.questions.ask(query), TODAY)
        self.assertTrue(message.startswith(f"{len(rows)} of 17 answer: at least 30 × 60 × 700"))
        self.assertTrue(all("×" in r.first and r.second for r in rows))

    def test_claims_of_wood_that_is_gone_are_not_listed(self):
        self.assertEqual(len([r for r in lists.of_claims(self.shop)[1] if r.piece]), 2)
        self.shop.apply("sawn up", self.shop.piece("11").changed(gone="merrow"))
        self.assertEqual(lists.of_claims(self.shop)[1], [])

    def test_contested_wood_comes_first_and_only_the_losing_claim_is_a_caution(self):
        self.shop.apply("claim", Reservation(id="R7", piece="2", claimed_for="a neck"))
        _, rows = lists.of_claims(self.shop)
        self.assertTrue(rows[0].head.startswith("No. 11: claims on the same wood"))
        cautions = [r.caution for r in rows if r.piece == "11"]
        self.assertEqual(cautions, [False, True])
        self.assertEqual(rows[-2].head, "No. 2")

    def test_stash_and_suppliers_in_words(self):
        message, rows = lists.of_the_stash(self.shop, TODAY)
        self.assertIn("older than 365 days", message)
        self.assertTrue(any(r.second.startswith("passed over 2026-01-11") for r in rows))
        young = self.shop.kit.changed(rules=HouseRules(stash_days=9000))
        self.shop.apply("patient", young)
        self.assertEqual(lists.of_the_stash(self.shop, TODAY)[1], [])
        self.assertIn("0 pieces older than 9000", lists.of_the_stash(self.shop, TODAY)[0])
        _, rows = lists.of_suppliers(self.shop, TODAY)
        self.assertIn("Nether Holm sawmill: 2 bought, 1 with a surprise (50 %)", self.heads(rows)[0])
        self.assertTrue(any("hid a shake" in r.second for r in rows))
        self.assertEqual(self.heads(rows)[-1], "Papers wanted: 1; check current trade rules")


class StaysWithTheWood(unittest.TestCase):
    PARENT = Piece(
        id="5", species="European oak", species_sure=False, candidates=("Sweet chestnut",), look=("ring",), outline=((0, 0), (1000, 0), (1000, 200), (0, 200)),
        thickness_mm=40.0, mass_kg=5.5, stacking="still", weighings=(Weighing(on="2026-01-01", kg=6.0), Weighing(on="2026-02-01", kg=5.5)),
        rests=(Rest(on="2026-01-01", bow_mm=1.0),), rest_waived="hung for years", supply=Supply(supplier="Fenwood", price=40, surprises=(Surprise(on="2026-01-01", what="nail"),)),
        taps=(Tap(on="2026-01-01", hz=300, length_mm=1000, width_mm=200, thickness_mm=40),),
    )  # fmt: skip

    def test_an_offcut_keeps_what_the_wood_is_and_drops_what_was_the_whole_piece_s(self):
        cut = Offcut(id="o1", piece="5", polygon=((600, 0), (1000, 0), (1000, 200), (600, 200)), thickness_mm=40.0)
        made = offcut_piece(self.PARENT, cut, "5.1")
        self.assertEqual(
            (made.species_sure, made.candidates, made.look, made.stacking), (False, ("Sweet chestnut",), ("ring",), "still")
        )
        self.assertEqual(
            (made.weighings, made.rests, made.taps, made.rest_waived),
            ((), (), (), ""),
            "a series of the whole is none of the part",
        )
        self.assertEqual((made.supply.supplier, made.supply.price, made.supply.surprises), ("Fenwood", None, ()))

    def test_turning_moves_a_sample_with_the_wood(self):
        sampled = read("sample 52.4 48.1", self.PARENT, 250.0, "mm", "2026-11-24").piece
        turned = turned_end_for_end(sampled)
        self.assertAlmostEqual(turned.samples[0].x_mm, 750)
        self.assertAlmostEqual(turned.moisture[0].x_mm, 750)
        self.assertEqual(turned_end_for_end(turned).samples, sampled.samples)

    def test_an_older_shop_opens_with_everything_that_is_new_as_shipped(self):
        with tempfile.TemporaryDirectory() as scratch:
            folder = Path(scratch) / "O.grainet"
            with Shop.open(folder, create=True) as shop:
                shop.apply("begun", ShopProfile(name="Old"), self.PARENT)
            import sqlite3

            db = sqlite3.connect(folder / FILE_NAME)
            db.execute('UPDATE item SET json = \'{"name": "Old", "humidity": 0.5}\' WHERE id = \'kit\'')
            db.execute("PRAGMA user_version = 3")
            db.commit()
            db.close()
            with Shop.open(folder) as shop:
                self.assertEqual((shop.kit.name, shop.kit.humidity, shop.kit.rules), ("Old", 0.5, HouseRules()))
                self.assertEqual(len(shop.kit.every_use), len(Use))
                self.assertEqual(shop.piece("5"), self.PARENT)
                self.assertEqual(shop.file._db.execute("PRAGMA user_version").fetchone()[0], LATEST)


class Files(unittest.TestCase):
    ROWS = (
        ReportRow(head="Can make it now: 1"),
        ReportRow(number="3", first="rings quarter, <b>", second="Sugar maple; " * 30, right="now"),
        ReportRow(head="Never: 0"),
    )

    def test_a_report_as_csv_and_pdf(self):
        lines = report_csv(self.ROWS).splitlines()
        self.assertEqual(lines[0], "group,number,says,more,when_or_where")
        self.assertTrue(lines[1].startswith('Can make it now: 1,3,"rings quarter, <b>"'))
        self.assertEqual(len(lines), 2)
        many = [ReportRow(number=str(k), first=f"row {k}", second="words " * 40) for k in range(120)]
        self.assertGreater(report_pdf("T", "said " * 60, many).count(b"/Type /Page"), 3)
        with tempfile.TemporaryDirectory() as folder:
            with self.assertRaises(ValueError):
                write_report(Path(folder) / "r.odt", "T", "s", self.ROWS)
            with self.assertRaises(Unusable):
                write_report(Path(folder) / "none" / "r.csv", "T", "s", self.ROWS)
            self.assertEqual(list(Path(folder).iterdir()), [])

    def sound(self, folder, width, rate=22_050, channels=2, seconds=0.5, hz=440.0):
        import wave

        import numpy as np

        t = np.arange(int(rate * seconds)) / rate
        tone = np.concatenate([np.zeros(500), np.exp(-t / 0.07) * np.sin(2 * np.pi * hz * t)])[: len(t)]
        both = np.stack([0.1 * tone, tone] if channels == 2 else [tone], axis=1).ravel()
        if width == 1:
            data = ((both * 100) + 128).astype(np.uint8).tobytes()
        elif width == 3:
            data = b"".join(int(v * 8_000_000).to_bytes(3, "little", signed=True) for v in both)
        else:
            data = (both * 0.9 * 2 ** (8 * width - 1)).astype(f"<i{width}").tobytes()
        path = Path(folder) / f"{width}.wav"
        with wave.open(str(path), "wb") as file:
            file.setnchannels(channels)
            file.setsampwidth(width)
            file.setframerate(rate)
            file.writeframes(data)
        return path

    def test_sounds_of_every_width_give_the_same_tone(self):
        with tempfile.TemporaryDirectory() as folder:
            for width in (1, 2, 3, 4):
                samples, rate = read_wav(self.sound(folder, width))
                hz, decay = tone_of(after_the_knock(samples, rate), rate)
                self.assertAlmostEqual(hz, 440, delta=2.5, msg=f"{width} bytes")
                self.assertAlmostEqual(decay, 0.07, delta=0.015, msg=f"{width} bytes")

    def test_sounds_that_cannot_be_used_are_named(self):
        with tempfile.TemporaryDirectory() as folder:
            for made, part in ((self.sound(folder, 2, seconds=0.01), "long"), (Path(folder) / "none.wav", "no plain WAV")):
                with self.assertRaises(Unusable) as caught:
                    read_wav(made)
                self.assertIn(part, caught.exception.lines[0])
            cut = self.sound(folder, 2)
            cut.write_bytes(cut.read_bytes()[:20])
            with self.assertRaises(Unusable):
                read_wav(cut)


class AnythingTyped(unittest.TestCase):
    """Whatever is typed after a word is understood or refused with a sentence; nothing else happens."""

    PIECE = StaysWithTheWood.PARENT
    WORDS = (
        "sp",
        "maybe",
        "surely",
        "look",
        "raw",
        "sample",
        "weigh",
        "rest",
        "waive",
        "stack",
        "tap",
        "supplier",
        "price",
        "claim",
        "age",
        "paper",
        "surprise",
        "passed",
        "keep",
        "free",
        "beside",
        "air",
    )

    @settings(max_examples=400, deadline=None)
    @given(
        st.sampled_from(WORDS),
        st.text(max_size=24) | st.from_regex(r"[0-9]{0,5}\.?[0-9]{0,2}( [a-z]{1,5} [0-9.]{1,4})?", fullmatch=True),
    )
    def test_a_meaning_or_a_sentence(self, word, rest):
        try:
            meaning = read(f"{word} {rest}", self.PIECE, 250.0, "mm", "2026-11-24", kit=ShopProfile())
        except BadEntry as fault:
            self.assertGreater(len(str(fault)), 10)
            return
        self.assertTrue(meaning.gloss)
        if meaning.piece is not None:
            self.assertEqual(Piece.model_validate_json(meaning.piece.model_dump_json()), meaning.piece)

    @settings(max_examples=200, deadline=None)
    @given(st.floats(0, 60), st.floats(-20, 60), st.floats(0.1, 1.3), st.sampled_from(("pin", "pinless")))
    def test_a_correction_is_finite_and_grows_with_the_reading(self, reading, temperature, sg, kind):
        meter = Meter(id="m", name="M", kind=kind)
        own = Species(
            common="S", basic_sg=sg, density_12_kg_m3=max(50.0, 1100 * sg), shrink_radial_pct=4, shrink_tangential_pct=8
        )
        low, high = (corrected(meter, r, own, temperature).moisture_pct for r in (reading, reading + 5))
        self.assertTrue(0 <= low <= high <= 200)


if __name__ == "__main__":
    unittest.main()
