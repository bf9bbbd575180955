"""Collections of cycles look only at what came since the last; all of it is looked through while nobody is there."""

import gc
import time
import unittest
import weakref
from unittest import mock

from grainet.desk.services import sweeper
from grainet.desk.services.sweeper import Sweeper
from tests.desk.app import application


class Ring:
    """Something that only the collector of cycles can free."""

    def __init__(self):
        self.me = self


class Sweeping(unittest.TestCase):
    def setUp(self):
        self.sweeper = Sweeper(application())
        self.addCleanup(self.sweeper.stop)

    def test_what_lived_through_a_collection_is_set_apart_and_a_sweep_looks_at_it(self):
        kept = Ring()
        gone = weakref.ref(kept)
        gc.collect()
        self.assertGreater(gc.get_freeze_count(), 0)
        del kept
        gc.collect()
        self.assertIsNotNone(gone(), "it was set apart before it became litter")
        self.sweeper.sweep()
        self.assertIsNone(gone())

    def test_what_is_let_go_without_a_cycle_is_free_at_once(self):
        kept = type("Plain", (), {})()
        gone = weakref.ref(kept)
        gc.collect()
        del kept
        self.assertIsNone(gone(), "counting references frees what was set apart too")

    def test_it_sweeps_only_while_nobody_is_there_and_not_again_and_again(self):
        now = time.monotonic()
        with mock.patch.object(self.sweeper, "sweep") as sweep:
            self.sweeper.touched, self.sweeper.swept = now, now - 2 * sweeper.BETWEEN_S
            self.sweeper._look()
            self.sweeper.touched, self.sweeper.swept = now - 2 * sweeper.GONE_S, now
            self.sweeper._look()
            sweep.assert_not_called()
            self.sweeper.swept = now - 2 * sweeper.BETWEEN_S
            self.sweeper._look()
            sweep.assert_called_once()
            self.sweeper.touch()
            self.sweeper._look()
            sweep.assert_called_once()

    def test_stopped_the_collector_is_as_it_was(self):
        self.sweeper.stop()
        self.assertNotIn(sweeper.set_apart, gc.callbacks)
        self.assertEqual(gc.get_freeze_count(), 0)
