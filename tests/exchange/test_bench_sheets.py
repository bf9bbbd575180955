"""Sheets for the bench and days for a calendar: one page, nothing outside it or over other words; events that a newer file moves."""

import re
import unittest
from datetime import UTC, datetime, timedelta, timezone

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.exchange.bench_sheets import GlueSheet, SheetRow, glue_sheet_pdf, list_pdf
from grainet.exchange.ics_file import Event, ics_text
from grainet.session.making import letters_on
from grainet.work.bench import Bench
from grainet.work.making import making_of
from tests.exchange.paper import printed
from tests.work.test_making import CLAMPS, START, built

LONG = "Plane the second face of a part with a very long name, parallel to the first, and write its letter on it again"
GRAVE = (
    "Short stock is not fed to a planer: it goes on a carrier board that is longer, or by hand; follow the manual of the machine"
)


class Lists(unittest.TestCase):
    def rows(self, count, caution=""):
        found = [SheetRow(head="Heron 8")]
        for k in range(count):
            found.append(
                SheetRow("", f"{8 + k // 60:02}:{k % 60:02}", LONG if k % 3 else "Joint face 1", "table saw, then 1.5 h", caution)
            )
        return found

    def pages(self, rows):
        with printed() as paper:
            pdf = list_pdf("Tuesday 1 December", "Shop: every machine, extraction on " * 4, rows)
        self.assertEqual(pdf.count(b"/Type /Page\n"), len(paper.sizes))
        self.assertEqual(paper.outside(), [])
        self.assertEqual(paper.overprinted(), [])
        return paper

    def test_letters_shrink_so_that_a_day_stays_on_one_page(self):
        few, many = self.pages(self.rows(8)), self.pages(self.rows(45))
        self.assertEqual((len(few.sizes), len(many.sizes)), (1, 1))
        self.assertGreater(few.texts[-1].size, many.texts[-1].size)

    def test_letters_stay_large_enough_to_read_by_going_in_two_columns(self):
        for count in (60, 75):
            paper = self.pages(
                self.rows(count)[:1] + [SheetRow("", f"{k:02}:00", "Mark 4.6 again: face, edge, letters") for k in range(count)]
            )
            self.assertEqual(len(paper.sizes), 1)
            steps = [t for t in paper.texts if t.words.startswith("Mark 4.6")]
            self.assertGreaterEqual(min(t.size for t in steps), 7.0)
            self.assertEqual((len(steps), len({round(t.x) for t in steps})), (count, 2))

    def test_too_much_goes_on_and_loses_nothing(self):
        paper = self.pages(self.rows(160, GRAVE))
        self.assertGreater(len(paper.sizes), 1)
        self.assertEqual(sum(t.words.startswith("Short stock") for t in paper.texts), 160)
        self.assertTrue(all(re.fullmatch(r"\d\d:\d\d", t.words) for t in paper.texts if t.words[:2].isdigit()))

    def test_a_setting_in_inches_or_of_a_long_board_leaves_room_for_its_words(self):
        self.pages([SheetRow("Table saw"), *(SheetRow("", n, LONG, "Heron 8, Reed 2") for n in ("1450.0", "57 3/32", "6.4"))])

    def test_right_words_of_many_instruments_do_not_meet_the_step(self):
        self.pages(
            [SheetRow("Planer"), SheetRow("", "20.5", LONG, "Heron 8, Reed 2, Willow 11, Plover 3, Snipe 5, Lark 12, Thrush 4")]
        )

    def test_a_note_has_no_box_and_a_heading_never_stands_alone_at_the_foot(self):
        rows = [
            SheetRow("Mind"),
            SheetRow(note="!a Dust: " + GRAVE),
            *self.rows(70)[:71],
            SheetRow("Reed 2"),
            SheetRow("", "17:00", "Joint"),
        ]
        paper = self.pages(rows)
        head = next(t for t in paper.texts if t.words == "Reed 2")
        below = next(t for t in paper.texts if t.words == "Joint")
        self.assertEqual(head.page, below.page)
        self.assertLess(below.y, head.y)

    def test_nothing_to_do_is_an_empty_page(self):
        self.assertEqual(len(self.pages([]).sizes), 1)


class GlueUps(unittest.TestCase):
    def sheet(self, making, one, more=0):
        return GlueSheet(
            "Heron 8: body with its top", tuple(letters_on(making, one)), ("clamps", "cauls", "spreader", "waxed paper", "wet cloth", "gloves")[: 6 - more], "Yellow aliphatic, 41 g at 20 °C",
            "the house's glue; its label wins, it sets on from 10 °C", "300 s, this joint needs 152", ("8 clamps that open 76, 10.6 kN in all", "whole lines: bars over the wood"),
            "ends 0, middle at most 0.01", (("clamps off after", "45 min"), ("plane flush after", "Sat 11:54")),
        )  # fmt: skip

    def test_every_joint_of_every_way_to_build_prints_on_one_page(self):
        seen = 0
        for kind in ("set", "bolt-on"):
            g, asked, plan = built(kind)
            making = making_of(asked, plan, [g], Bench(clamps=CLAMPS), START)
            for one in (o for o in making.operations if o.kind == "glue"):
                for style in ("mm", "in"):
                    with printed() as paper:
                        pdf = glue_sheet_pdf(one, self.sheet(making, one), style)
                    self.assertEqual(pdf.count(b"/Type /Page\n"), 1)
                    self.assertEqual(paper.outside(), [])
                    self.assertEqual(paper.overprinted(), [], one.id)
                    orders = [t.words for t in paper.texts if t.words.isdigit() and t.size == 9]
                    self.assertEqual(orders, [str(k + 1) for k in range(len(one.clamps))])
                    self.assertTrue(
                        all(
                            any(t.words == letter or letter in t.words.split() for t in paper.texts)
                            for letter in letters_on(making, one)
                        )
                    )
                seen += 1
        self.assertGreater(seen, 6)


class Calendar(unittest.TestCase):
    start = datetime(2027, 3, 27, 8)

    def event(self, k=0, title="Bench: Heron 8, 3 steps", key="day 1", told=""):
        at = self.start + timedelta(days=k)
        return Event(at, at + timedelta(hours=2), title, key, told)

    def read(self, text):
        """The events of a calendar, each as its fields; what was folded is one line again."""
        self.assertTrue(text.endswith("END:VCALENDAR\r\n"))
        self.assertNotIn("\n", text.replace("\r\n", ""))
        lines = text.replace("\r\n ", "").split("\r\n")
        found, now = [], None
        for line in lines:
            if line == "BEGIN:VEVENT":
                now = {}
            elif line == "END:VEVENT":
                found.append(now)
                now = None
            elif now is not None:
                name, _, value = line.partition(":")
                self.assertNotIn(name, now)
                now[name] = value
        return found

    def test_an_event_that_moves_keeps_its_id_and_two_are_never_one(self):
        made = datetime(2027, 3, 1, 9, tzinfo=UTC)
        (first,) = self.read(ics_text([self.event()], made, "Shop"))
        (moved,) = self.read(ics_text([self.event(3, "Bench: Heron 8, 1 step")], made, "Shop"))
        self.assertEqual(first["UID"], moved["UID"])
        self.assertNotEqual(first["DTSTART"], moved["DTSTART"])
        (elsewhere,) = self.read(ics_text([self.event()], made, "Another shop"))
        self.assertNotEqual(first["UID"], elsewhere["UID"])
        two = self.read(ics_text([self.event(key="cure a"), self.event(key="cure b")], made, "Shop"))
        self.assertEqual(len({e["UID"] for e in two}), 2)

    def test_times_are_the_wall_s_and_the_stamp_is_of_the_world(self):
        for made in (datetime(2027, 3, 28, 12, tzinfo=timezone(timedelta(hours=2))), datetime(2027, 3, 28, 10, tzinfo=UTC)):
            (one,) = self.read(ics_text([self.event(1)], made, "Shop"))
            self.assertEqual(
                (one["DTSTAMP"], one["DTSTART"], one["DTEND"]), ("20270328T100000Z", "20270328T080000", "20270328T100000")
            )

    @given(
        st.lists(
            st.text(st.characters(exclude_categories=("Cs", "Cc"), include_characters="\n;,\\"), max_size=120),
            min_size=1,
            max_size=4,
        )
    )
    @settings(max_examples=150, deadline=None)
    def test_any_words_come_through(self, texts):
        events = [self.event(k, told, f"k{k}", told) for k, told in enumerate(texts)]
        text = ics_text(events, datetime(2027, 3, 1, tzinfo=UTC), texts[0])
        self.assertTrue(all(len(line.encode()) <= 75 for line in text.split("\r\n")))
        for told, one in zip(texts, self.read(text)):
            plain = re.sub(r"\\(.)", lambda m: "\n" if m[1] == "n" else m[1], one["SUMMARY"])
            self.assertEqual(plain, told)


if __name__ == "__main__":
    unittest.main()
