"""Labels print at true size with a code that reads back to the piece; sheets fill in order."""

import re
import tempfile
import unittest
import zlib
from pathlib import Path

import numpy as np

from grainet.demo.rack import rack
from grainet.exchange.labels import LabelSheet, code_of, write_labels
from grainet.wood.flags import flags_of

MM = 72 / 25.4


class Labels(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.path = Path(scratch.name) / "labels.pdf"

    def text(self):
        from base64 import a85decode

        data = self.path.read_bytes()
        streams = re.findall(rb"stream\r?\n(.*?)\r?\n?endstream", data, re.S)
        found = []
        for one in streams:
            try:
                found.append(zlib.decompress(a85decode(one.strip(), adobe=False) if not one.startswith(b"x") else one))
            except (ValueError, zlib.error):
                try:
                    found.append(zlib.decompress(a85decode(b"<~" + one.strip(), adobe=True)))
                except (ValueError, zlib.error):
                    continue
        return data, found

    def boxes(self):
        return [tuple(float(v) / MM for v in m) for m in re.findall(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", self.text()[0])]

    def test_a_single_label_is_a_page_of_its_own_size(self):
        self.assertEqual(write_labels(self.path, rack()[:2]), 2)
        for width, height in self.boxes():
            self.assertAlmostEqual(width, 70, delta=0.05)
            self.assertAlmostEqual(height, 37, delta=0.05)

    def test_a_sheet_holds_twenty_four_and_can_begin_where_labels_are_left(self):
        pieces = rack() + [p.changed(id=f"{p.id}.1") for p in rack()]
        self.assertEqual(write_labels(self.path, pieces[:24], LabelSheet()), 1)
        self.assertEqual(write_labels(self.path, pieces[:24], LabelSheet(), skip=5), 2)
        self.assertEqual(len(self.boxes()), 2)
        with self.assertRaisesRegex(ValueError, "do not fit"):
            write_labels(self.path, pieces, LabelSheet(width_mm=90))
        with self.assertRaisesRegex(ValueError, "no piece"):
            write_labels(self.path, [])

    def test_the_printed_code_reads_back(self):
        """The squares in the PDF, painted again, are a code that a reader understands."""
        import cv2

        write_labels(self.path, [rack()[7]])
        _, streams = self.text()
        squares = [
            tuple(map(float, m))
            for s in streams
            for m in re.findall(rb"([\d.]+) ([\d.]+) ([\d.]+) ([\d.]+) re f\b", s)
            if float(m[2]) < 6
        ]
        self.assertGreater(len(squares), 100)
        cell = squares[0][2]
        size = 16
        x0, y0 = min(s[0] for s in squares), min(s[1] for s in squares)
        columns = [round((s[0] - x0) / cell) for s in squares]
        rows = [round((s[1] - y0) / cell) for s in squares]
        page = np.full((max(rows) + 9, max(columns) + 9), 255, np.uint8)
        for r, c in zip(rows, columns):
            page[page.shape[0] - 5 - r, c + 4] = 0
        self.assertEqual(cv2.QRCodeDetector().detectAndDecode(np.kron(page, np.ones((size, size), np.uint8)))[0], code_of("8"))
        side_mm = (max(columns) + 1) * cell / MM
        self.assertGreater(side_mm, 14, "large enough for a plain scanner")

    def test_flags_say_what_must_be_known_before_it_is_lifted_or_sawn(self):
        flags = {p.id: flags_of(p) for p in rack()}
        self.assertTrue(any("METAL" in f for f in flags["2"]))
        self.assertTrue(any("NOT SWEPT" in f for f in flags["5"]))
        self.assertTrue(any("OLD FINISH" in f for f in flags["5"]))
        self.assertTrue(any("HEAVY" in f for f in flags_of(rack()[0].changed(mass_kg=31.4))))
