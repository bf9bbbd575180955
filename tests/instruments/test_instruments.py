"""The stand-ins: figures near the hidden truth, noise and drift, every fault as a sentence, and sources that real ones can use."""

import os
import tempfile
import threading
import unittest
from pathlib import Path

import numpy as np

from grainet.instruments.camera import take_photo
from grainet.instruments.reading import InstrumentFault, parse_line
from grainet.instruments.source import DeviceSource, FileSource
from grainet.instruments.specimen import specimen_of
from grainet.instruments.stand_ins import FAULT_KINDS, StandIn, tone_of
from grainet.session.commands.line import read
from grainet.wood.piece import Piece

BOARD = read("plank 1200x160 white ash", Piece(id="31"), 0, "mm", "2026-11-25").piece


def ask(kind, fault="", piece=BOARD, x=300.0, expected=None, **more):
    one = StandIn(kind, fault, patience_s=0.01, **more)
    one.point_at(piece, x, 80.0)
    return parse_line(kind, one.line(), one.name, expected)


class Figures(unittest.TestCase):
    def test_they_read_the_specimen(self):
        wood = specimen_of(BOARD)
        self.assertAlmostEqual(ask("callipers").value, wood.thickness_at(300, 80), delta=0.2)
        self.assertAlmostEqual(ask("scale").value, wood.mass_kg, delta=0.02 * wood.mass_kg)
        self.assertAlmostEqual(ask("moisture").value, wood.moisture_at(300, 10), delta=0.8)
        self.assertAlmostEqual(ask("tap").value, wood.tone_hz, delta=0.02 * wood.tone_hz)

    def test_readings_scatter_and_drift_until_zeroed(self):
        one = StandIn("callipers", drift=0.5)
        one.point_at(BOARD, 300, 80)
        values = [parse_line("callipers", one.line(), "c").value for _ in range(6)]
        self.assertGreater(len(set(values)), 3)
        self.assertGreater(values[-1] - values[0], 2)
        one.zero()
        self.assertAlmostEqual(
            parse_line("callipers", one.line(), "c").value, specimen_of(BOARD).thickness_at(300, 80), delta=0.2
        )

    def test_what_was_read_of_a_piece_holds(self):
        self.assertEqual(specimen_of(BOARD).length_mm, 1200)
        self.assertEqual(specimen_of(BOARD.changed(thickness_mm=41.0)).thickness_mm, 41.0)

    def test_a_knock_gives_its_tone_and_decay(self):
        t = np.arange(30_000) / 44_100
        hz, tau = tone_of(np.exp(-t / 0.12) * np.sin(2 * np.pi * 368 * t) + 0.01 * np.random.default_rng(1).normal(size=len(t)))
        self.assertAlmostEqual(hz, 368, delta=0.5)
        self.assertAlmostEqual(tau, 0.12, delta=0.012)


class Faults(unittest.TestCase):
    def test_every_fault_is_a_sentence_and_nothing_is_kept(self):
        for kind in ("callipers", "moisture", "scale"):
            for fault in FAULT_KINDS[1:]:
                with self.subTest(f"{kind} {fault}"):
                    if fault == "wrong_unit":
                        continue
                    with self.assertRaises(InstrumentFault) as found:
                        ask(kind, fault)
                    self.assertRegex(str(found.exception), r"^[\w ()]+.*[.?]$")

    def test_a_mixed_up_unit_is_asked_about(self):
        thick = specimen_of(BOARD).thickness_mm
        self.assertIn("inches", ask("callipers", "wrong_unit", expected=thick).doubt)
        self.assertEqual(ask("callipers", expected=thick).doubt, "")
        self.assertTrue(ask("scale", "wrong_unit", expected=specimen_of(BOARD).mass_kg).doubt)

    def test_units_that_are_said_are_turned(self):
        self.assertAlmostEqual(parse_line("callipers", "T 2.0625 in", "c").value, 52.39, places=2)
        self.assertAlmostEqual(parse_line("scale", "ST +31.4 lb", "s").value, 14.243, places=3)
        self.assertAlmostEqual(parse_line("scale", "31,4 kg", "s").value, 31.4)

    def test_lines_that_are_no_figure(self):
        for line in ("", "OL", "----", "12.3 V", "\x00\x01", "9" * 400, "-4 mm", "1e9 mm"):
            with self.subTest(line[:8]), self.assertRaises(InstrumentFault):
                parse_line("callipers", line, "callipers 1")

    def test_the_camera_misbehaves_too(self):
        for fault in ("no_answer", "garbage", "unplugged"):
            with self.assertRaises(InstrumentFault):
                take_photo(StandIn("camera", fault), BOARD, "face1", 0.3)
        with self.assertRaises(InstrumentFault):
            take_photo(StandIn("camera"), BOARD, "inside", 0.3)


class Sources(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def test_a_file_is_read_line_by_line(self):
        path = self.folder / "log.txt"
        path.write_text("MC 8.4 %\n\nMC 8.6 %\n")
        source = FileSource(path, "meter log")
        self.assertEqual([parse_line("moisture", source.line(), source.name).value for _ in range(2)], [8.4, 8.6])
        with self.assertRaisesRegex(InstrumentFault, "no further"):
            source.line()
        with self.assertRaisesRegex(InstrumentFault, "cannot be read"):
            FileSource(self.folder / "none", "x").line()

    def test_a_pipe_speaks_like_a_device(self):
        path = self.folder / "port"
        os.mkfifo(path)
        writer = threading.Thread(target=lambda: path.open("wb").write(b"T +052.41 mm\r\n"))
        writer.start()
        os_open = DeviceSource(path, "callipers 2")
        self.assertEqual(parse_line("callipers", self._patiently(os_open), "c").value, 52.41)
        writer.join()
        with self.assertRaisesRegex(InstrumentFault, "unplugged|no answer"):
            os_open.line(0.05)
        with self.assertRaisesRegex(InstrumentFault, "not there"):
            DeviceSource(self.folder / "gone", "callipers 2").line(0.05)

    def _patiently(self, source):
        for _ in range(50):
            try:
                return source.line(0.2)
            except InstrumentFault:
                continue
        self.fail("nothing came through the pipe")
        return None
