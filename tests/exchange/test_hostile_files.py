"""Files that mean harm or are merely odd: bombs, formulas, sounds that are none, plans that no geometry can be asked about."""

import csv
import io
import struct
import tempfile
import time
import unittest
import zlib
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.exchange.air_file import read_air
from grainet.exchange.csv_cells import as_cell, from_cell
from grainet.exchange.json_file import Unusable
from grainet.exchange.picture_file import MOST_PIXELS, decode, encode, size_of
from grainet.exchange.stock import read_rows, to_csv, write_stock
from grainet.exchange.wav import read_wav
from grainet.wood.piece import Piece


def png_of(width, height):
    """A PNG whose header claims a size, with hardly any data behind it."""
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")


class Pictures(unittest.TestCase):
    def test_the_size_is_read_from_the_header_before_anything_is_decoded(self):
        import numpy as np

        picture = np.full((60, 90, 3), 120, np.uint8)
        for kind in ("JPEG", "PNG"):
            self.assertEqual(size_of(encode(picture, kind)), (90, 60))
            self.assertEqual(decode(encode(picture, kind)).shape, (60, 90, 3))
        began = time.process_time()
        with self.assertRaisesRegex(Unusable, "60000 x 60000 pixels are too many"):
            decode(png_of(60_000, 60_000))
        jpeg = bytearray(encode(picture, "JPEG"))
        at = jpeg.index(b"\xff\xc0")
        jpeg[at + 5 : at + 9] = struct.pack(">HH", 65_000, 65_000)
        self.assertGreater(65_000**2, MOST_PIXELS)
        with self.assertRaisesRegex(Unusable, "too many"):
            decode(bytes(jpeg))
        self.assertLess(time.process_time() - began, 2.0)

    @given(st.binary(max_size=200), st.sampled_from([b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n"]))
    @settings(max_examples=150, deadline=None)
    def test_any_bytes_behind_a_sign_end_in_a_picture_or_a_sentence(self, tail, sign):
        try:
            decode(sign + tail)
        except Unusable as fault:
            self.assertTrue(fault.lines)


class Lists(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.root = Path(scratch.name)

    @given(st.text(max_size=30))
    @settings(max_examples=200, deadline=None)
    def test_a_cell_is_never_a_formula_and_reads_back(self, text):
        self.assertEqual(from_cell(as_cell(text)), text)
        self.assertFalse(as_cell(text)[:1] in ("=", "@", "\t", "\r"))

    def test_a_written_list_holds_no_formula_and_reads_back_without_a_difference(self):
        odd = ("=1+1", "@SUM(A1)", "-cmd|' /C calc'!A0", "+49", "'=x", "\tq", " padded ", "plain")
        pieces = [Piece(id=str(k), note=text, place=text.strip(), origin=text) for k, text in enumerate(odd)]
        for row in csv.reader(io.StringIO(to_csv(pieces))):
            for cell in row:
                self.assertFalse(
                    cell[:1] in ("=", "@", "\t", "\r") or (cell[:1] in "+-" and cell and not cell[1:2].isdigit()), cell
                )
        path = self.root / "s.csv"
        write_stock(path, pieces)
        self.assertEqual([r.piece for r in read_rows(path)], pieces)

    def test_a_thousands_comma_in_a_list_is_asked_about_and_a_decimal_one_is_read(self):
        path = self.root / "s.csv"
        path.write_text(
            'number,length_mm,width_mm,thickness_mm\n1,"2,390",231,52.4\n2,2390,231,"52,4"\n3,nan,231,52\n4,1e9,231,52\n5,-5,231,52\n'
        )
        rows = read_rows(path)
        self.assertIn("2390 or 2.39?", rows[0].fault)
        self.assertEqual(rows[1].piece.thickness_mm, 52.4)
        self.assertTrue(all(r.piece is None and r.fault for r in rows[2:]))
        path.write_text("number;length_mm;width_mm;thickness_mm\n1;2390;231;52,125\n")
        self.assertEqual(read_rows(path)[0].piece.thickness_mm, 52.125, "with semicolons a comma is the decimal one")

    def test_lists_have_limits(self):
        path = self.root / "a.csv"
        with path.open("wb") as file:
            file.truncate(60_000_000)
        with self.assertRaisesRegex(Unusable, "too much"):
            read_air(path)
        with path.open("wb") as file:
            file.truncate(300_000_000)
        with self.assertRaisesRegex(Unusable, "at most"):
            read_rows(path)

    def test_air_lists_end_in_readings_or_a_sentence(self):
        path = self.root / "a.csv"
        for text in (
            "",
            "time,temp,rh\n2026-02-30 08:00,20,45\n",
            "time,temp,rh\nx\n",
            'a"b\x00',
            "time,temp,rh\n2026-11-02 08:30,5²,45\n",
        ):
            path.write_text(text)
            with self.subTest(text), self.assertRaises(Unusable):
                read_air(path)


class Sounds(unittest.TestCase):
    def wav(self, channels=1, rate=8000, bits=16, data=b"\x10\x00" * 8000, claims=None):
        size = len(data) if claims is None else claims
        width = bits // 8
        head = struct.pack(
            "<4sI4s4sIHHIIHH4sI",
            b"RIFF",
            36 + size,
            b"WAVE",
            b"fmt ",
            16,
            1,
            channels,
            rate,
            rate * channels * width,
            channels * width,
            bits,
            b"data",
            size,
        )
        return head + data

    def test_odd_sounds_end_in_a_sentence(self):
        with tempfile.TemporaryDirectory() as scratch:
            path = Path(scratch) / "k.wav"
            path.write_bytes(self.wav())
            self.assertEqual(read_wav(path)[1], 8000)
            for name, data in {
                "no channels": self.wav(channels=0), "no rate": self.wav(rate=0), "absurd rate": self.wav(rate=2_000_000_000), "no bits": self.wav(bits=0),
                "64 bits": self.wav(bits=64), "claims more": self.wav(data=b"\0\1" * 10, claims=80_000), "silence": self.wav(data=b"\0" * 16_000),
                "cut": self.wav()[:30], "empty": b"", "text": b"RIFF hello", "many channels": self.wav(channels=30_000),
            }.items():  # fmt: skip
                path.write_bytes(data)
                with self.subTest(name), self.assertRaises(Unusable):
                    read_wav(path)


class Plans(unittest.TestCase):
    def setUp(self):
        from tests.jobs import SAW, job, part, piece, planned

        self.job = job([piece()], [part()], SAW)
        self.plan = planned(self.job)

    def test_what_cannot_be_looked_at_is_a_fault_with_a_sentence(self):
        from grainet.plan.verify import check

        self.assertEqual(check(self.job, self.plan), [])
        place, cut, offcut = self.plan.placements[0], self.plan.cuts[0], self.plan.offcuts[0]
        bow_tie = ((0.0, 0.0), (100.0, 50.0), (100.0, 0.0), (0.0, 50.0))
        for words, plan in (
            ("crosses itself", self.plan.changed(placements=(place.changed(polygon=bow_tie),))),
            ("at most", self.plan.changed(placements=(place.changed(x=1e300),))),
            ("mm out", self.plan.changed(offcuts=(offcut.changed(polygon=tuple((x * 8e201, y) for x, y in offcut.polygon)),))),
            ("crosses itself", self.plan.changed(offcuts=(offcut.changed(polygon=bow_tie),))),
            ("thick", self.plan.changed(offcuts=(offcut.changed(thickness_mm=8e201),))),
            ("beyond all wood", self.plan.changed(cuts=(cut.changed(line=((1e300, 0.0), (1e300, 200.0))),))),
            ("is a path", self.plan.changed(offcuts=(offcut.changed(id="../../x"),))),
            ("is a path", self.plan.changed(cuts=(cut.changed(gives=("/etc/passwd",)),))),
            ("printed on one line", self.plan.changed(offcuts=(offcut.changed(id="a\nb"),))),
        ):
            with self.subTest(words):
                faults = check(self.job, plan)
                self.assertTrue(any(words in str(fault) for fault in faults), faults)


if __name__ == "__main__":
    unittest.main()
