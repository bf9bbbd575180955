"""Words under the bar stand beside one another and within its width."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from grainet.desk.painting.balance_bar import GAP_PX, side_by_side


class Words(unittest.TestCase):
    @given(st.lists(st.tuples(st.floats(0, 600), st.floats(10, 60)), min_size=1, max_size=8))
    def test_none_overlaps_and_none_goes_beyond(self, rows):
        starts, widths = [s for s, _ in sorted(rows)], [w for _, w in rows]
        found = side_by_side(starts, widths, 700)
        ends = [a + w for a, w in zip(found, widths)]
        self.assertLessEqual(ends[-1], 700 + 1e-9)
        for end, start in zip(ends, found[1:]):
            self.assertGreaterEqual(start - end, GAP_PX - 1e-9)

    def test_where_there_is_room_words_begin_where_their_share_does(self):
        self.assertEqual(side_by_side([0, 100, 200], [50, 50, 50], 400), [0, 100, 200])
