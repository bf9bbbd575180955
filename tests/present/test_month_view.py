"""The wood of a month as strands: every litre of every board goes somewhere, months are told apart, years beside one another."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from grainet.present.month_view import DUST, RACK, SCRAP, month_view, months_of
from grainet.work.sawn_board import SawnBoard

ONE = SawnBoard("8", "Tarn", "White ash", "Heron 7", "2026-11", 28.7, 10.5, 15.2, 1.4, 1.2, 0.4, 37.0, 7.1, 950.0)


def board(number, month, share, instrument="Heron 7", litres=10.0):
    rest = litres * (1 - share)
    return replace(ONE, board=number, month=month, instrument=instrument, litres=litres, parts=litres * share, offcuts=rest * 0.8, kerf=rest * 0.1, skims=rest * 0.06, waste=rest * 0.04)  # fmt: skip


class Strands(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.floats(0, 1), st.floats(0.1, 60), st.sampled_from(["Heron 7", "Heron 8"])), min_size=1, max_size=14)
    )
    def test_every_litre_goes_somewhere(self, told):
        rows = [board(str(k), "2026-11", share, name, litres) for k, (share, litres, name) in enumerate(told)]
        view = month_view(rows, "2026-11")
        for row in rows:
            self.assertAlmostEqual(sum(s.litres for s in view.strands if s.board == row.board), row.litres, delta=1e-4)
        self.assertAlmostEqual(sum(v for _, v in view.targets), view.litres, delta=1e-3)
        self.assertAlmostEqual(sum(view.share(name) for name, _ in view.targets), 100.0, delta=1e-2)
        self.assertLessEqual(set(view.instruments), {"Heron 7", "Heron 8"})
        litres = [r.litres for r in view.rows]
        self.assertEqual(litres, sorted(litres, reverse=True))

    def test_months_and_the_same_month_a_year_before(self):
        rows = [board("1", "2026-11", 0.37), board("2", "2025-11", 0.30), board("3", "2026-02", 0.5), board("4", "", 0.5)]
        self.assertEqual(months_of(rows), ["2026-11", "2026-02", "2025-11"])
        view = month_view(rows, "2026-11")
        self.assertEqual(
            (view.title, len(view.year), view.year[0], view.year[-1][0]), ("November 2026", 13, ("2025-11", 30.0), "2026-11")
        )
        self.assertEqual(view.beside_last_year, "Better than a year ago: 37 against 30 %")
        self.assertEqual(dict(view.year)["2026-02"], 50.0)
        self.assertIsNone(dict(view.year)["2026-03"])
        self.assertEqual(month_view(rows, "2026-02").beside_last_year, "")
        self.assertEqual([name for name, _ in view.targets], ["Heron 7", RACK, DUST, SCRAP])
        self.assertEqual(month_view(rows, "2026-01").litres, 0.0)
