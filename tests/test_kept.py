"""What is kept to be quick never grows without end: the mapping of last used values, and the cache folder."""

import os
import tempfile
import threading
import unittest
from datetime import date
from pathlib import Path

from grainet.demo.make import make_demo
from grainet.kept import Kept, kept_per_value
from grainet.session.judgements import MOST_LAYERS
from grainet.session.sorting import sorted_rack
from grainet.store.caches import trim


class LastUsed(unittest.TestCase):
    def test_the_least_recently_used_goes_first(self):
        kept = Kept[str, int](2)
        kept.put("a", 1)
        kept.put("b", 2)
        self.assertEqual(kept.get("a"), 1)
        kept.put("c", 3)
        self.assertIsNone(kept.get("b"))
        self.assertEqual((kept.get("a"), kept.get("c"), len(kept)), (1, 3, 2))

    def test_many_threads_leave_it_sound(self):
        kept = Kept[int, int](50)

        def work(seed):
            for k in range(3000):
                key = (seed * 7919 + k * 31) % 200
                if (found := kept.get(key)) is not None:
                    self.assertEqual(found, key)
                kept.put(key, key)

        threads = [threading.Thread(target=work, args=(n,)) for n in range(4)]
        for one in threads:
            one.start()
        for one in threads:
            one.join()
        self.assertEqual(len(kept), 50)


class Folder(unittest.TestCase):
    def test_the_oldest_files_go_and_the_rest_stays(self):
        with tempfile.TemporaryDirectory() as scratch:
            for k in range(6):
                path = Path(scratch) / f"{k}.png"
                path.write_bytes(b"x" * 1000)
                os.utime(path, (1000 + k, 1000 + k))
            self.assertEqual(trim(Path(scratch), 3500), 3)
            self.assertEqual(sorted(p.name for p in Path(scratch).iterdir()), ["3.png", "4.png", "5.png"])
            self.assertEqual(trim(Path(scratch), 3500), 0)
            self.assertEqual(trim(Path(scratch) / "none", 1), 0)


class Sorting(unittest.TestCase):
    def test_it_ends_early_where_nobody_waits_for_it_and_few_rasters_are_kept(self):
        with tempfile.TemporaryDirectory() as scratch, make_demo(Path(scratch) / "D.grainet") as shop:
            heard = []
            found = sorted_rack(shop, "neck", date(2026, 11, 24), go_on=lambda k: heard.append(k) or k < 3)
            self.assertEqual((len(found), heard), (3, [0, 1, 2, 3]))
            every = sorted_rack(shop, "neck", date(2026, 11, 24))
            self.assertEqual(len(every), len(shop.pieces()))
            self.assertLessEqual(len(shop.judgements._layers), MOST_LAYERS)


class PerValue(unittest.TestCase):
    def test_one_value_is_worked_out_once_and_an_equal_one_is_another(self):
        asked = []

        @kept_per_value(most=2)
        def long_of(value, extra=0):
            asked.append(value)
            return len(value) + extra

        one, same = [1, 2, 3], [1, 2, 3]  # lists have no hash: it goes by which value it is
        self.assertEqual([long_of(one), long_of(one), long_of(one, 2), long_of(one, extra=2)], [3, 3, 5, 5])
        self.assertEqual(len(asked), 2)
        long_of(same)
        self.assertEqual(len(asked), 3)
        for k in range(5):
            self.assertEqual(long_of([k]), 1)
        long_of(one)
        self.assertEqual(len(asked), 9, "only the last ones are kept")

    def test_no_two_values_are_taken_for_one_another_though_the_first_is_gone(self):
        @kept_per_value(most=4)
        def first_of(value):
            return value[0]

        self.assertEqual([first_of([k]) for k in range(2000)], list(range(2000)))
