"""Real instruments in the window: a serial line (a pseudo terminal), a file, what each line means, and the stand-in again."""

import os
import pty
import tempfile
import threading
import unittest
from pathlib import Path

from grainet.instruments.reading import InstrumentFault, meaning, parse_climate
from grainet.instruments.source import SerialSource, ports
from grainet.kit.device import Device
from tests.desk.app import WindowTest


class OnALine(unittest.TestCase):
    def setUp(self):
        self.master, slave = pty.openpty()
        self.port = os.ttyname(slave)
        self.addCleanup(os.close, slave)
        self.addCleanup(os.close, self.master)

    def test_a_line_comes_in_pieces_and_silence_is_a_sentence(self):
        source = SerialSource(self.port, 9600, "scale 2")
        with self.assertRaisesRegex(InstrumentFault, "no answer"):
            source.line(0.1)

        def send():
            for part in (b"ST +31", b".400", b" kg\r\n"):
                threading.Event().wait(0.05)
                os.write(self.master, part)

        threading.Thread(target=send).start()
        self.assertEqual(source.line(2.0), "ST +31.400 kg")
        with self.assertRaisesRegex(InstrumentFault, "is not there"):
            SerialSource("/dev/ttyNONE9", 9600, "scale 3").line(0.1)
        self.assertIsInstance(ports(), list)

    def test_what_a_line_means(self):
        for kind, line, words in (
            ("callipers", "T +052.41 mm", "52.41 mm"), ("callipers", "2.0634 in", "52.4104 mm"), ("scale", "31400 g", "31.4 kg"), ("moisture", "MC 8.4 %", "8.4 %"),
            ("climate", "68.0 F 46.0 %", "20.0 °C, 46%"), ("tap", "F 368.0 Hz D0.062", "368 Hz"),
        ):  # fmt: skip
            self.assertEqual(meaning(kind, line), words)
        for line in ("warm", "200 C 40 %", "20 C 400 %"):
            with self.assertRaises(InstrumentFault):
                parse_climate(line, "logger")


class InTheWindow(WindowTest):
    def setUp(self):
        super().setUp()
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.log = Path(scratch.name) / "scale.txt"
        self.log.write_text("ST +30.000 kg\nrubbish\n")
        self.window.show_kit_page("devices")
        self.settle()
        self.page = self.window.screens["kit_book"].pages["devices"]

    def test_a_file_is_listened_to_and_then_read_for_a_piece(self):
        self.grab()
        self.page.choose_file("scale", str(self.log))
        self.assertEqual(self.shop.kit.devices, (Device(kind="scale", source="file", path=str(self.log)),))
        self.click("kit.devices.scale.listen")
        for _ in range(300):
            self.settle()
            if len(self.page.lines) > 2:
                break
        self.assertEqual(
            [(line, good) for line, _, good in self.page.lines], [("ST +30.000 kg", True), ("rubbish", False), ("", False)]
        )
        self.assertEqual(self.page.lines[0][1], "30 kg")
        self.grab()
        self.log.write_text("ST +30.000 kg\nrubbish\nST +29.500 kg\n")
        bench = self.window.bring_in.bench
        self.state.choose_piece("1")
        source = bench.source("scale")
        source.at = 2
        bench._ask("scale", self.state.piece)
        for _ in range(300):
            self.settle()
            if self.state.piece.mass_kg == 29.5:
                break
        self.assertEqual(self.state.piece.mass_kg, 29.5)
        self.click("kit.devices.scale.stand-in")
        self.assertEqual(self.shop.kit.devices, ())
        self.assertIn("stand-in", bench.source("scale").name)

    def test_a_port_by_words(self):
        for wrong in ("port", "port lathe /dev/x", "port scale /dev/x fast"):
            self.type(wrong)
            self.assertTrue(self.window.head.bad)
            from PySide6.QtCore import Qt

            self.key(Qt.Key.Key_Escape)
        self.type("port callipers /dev/ttyUSB7 4800")
        self.assertEqual(self.shop.kit.devices[0].baud, 4800)
        self.click("kit.devices.callipers.listen")
        for _ in range(300):
            self.settle()
            if self.page.lines:
                break
        self.assertIn("is not there", self.page.lines[0][1])
        self.assertEqual(self.page.listening, "")
