"""Long work gives way to the window: for as long as it is busy, never for ever, and never to itself."""

import threading
import time
import unittest
from unittest import mock

from grainet import turns
from grainet.turns import first, in_turn


class Turns(unittest.TestCase):
    def off_thread(self, count):
        """When each of so many items came, counted from now, from a thread of its own."""
        began, came = time.monotonic(), []

        def work():
            for _ in in_turn(range(count)):
                came.append(time.monotonic() - began)

        worker = threading.Thread(target=work)
        worker.start()
        return worker, came

    def test_it_waits_until_the_window_is_done(self):
        with mock.patch.object(turns, "LONGEST_S", 60.0):  # a busy machine may sleep longer than the usual patience
            with first():
                worker, came = self.off_thread(3)
                time.sleep(0.03)
                self.assertEqual(came, [])
            worker.join(60)
        self.assertEqual(len(came), 3)

    def test_it_goes_on_where_the_window_stays_busy(self):
        with first():
            worker, came = self.off_thread(200)
            worker.join(60)
            self.assertEqual(len(came), 200, "one wait in all, not one for each")

    def test_the_window_does_not_wait_for_itself(self):
        with mock.patch.object(turns, "LONGEST_S", 60.0), first():
            began = time.monotonic()
            self.assertEqual(list(in_turn("abc")), ["a", "b", "c"])
            self.assertLess(time.monotonic() - began, 30.0)
