"""Pictures in: PNG and JPEG of every usual sort, turned upright, and a sentence for all else."""

import struct
import tempfile
import unittest
import zlib
from pathlib import Path

import cv2
import numpy as np

from grainet.exchange.json_file import Unusable
from grainet.exchange.picture_file import decode, encode, read_picture_bytes


def gradient(rows=80, columns=120):
    image = np.zeros((rows, columns, 3), np.uint8)
    image[..., 0] = np.linspace(0, 255, columns)[None, :]
    image[..., 1] = np.linspace(0, 255, rows)[:, None]
    image[..., 2] = 60
    return image


def with_orientation(jpeg: bytes, turn: int) -> bytes:
    """The JPEG with an Exif block that says how the camera was held."""
    entry = struct.pack(">HHIHH", 0x0112, 3, 1, turn, 0)
    tiff = b"MM\x00\x2a\x00\x00\x00\x08" + struct.pack(">H", 1) + entry + b"\x00\x00\x00\x00"
    body = b"Exif\x00\x00" + tiff
    return jpeg[:2] + b"\xff\xe1" + struct.pack(">H", len(body) + 2) + body + jpeg[2:]


class Reading(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def test_png_comes_back_to_the_pixel_and_jpeg_nearly(self):
        image = gradient()
        np.testing.assert_array_equal(decode(encode(image, "PNG")), image)
        self.assertLess(np.abs(decode(encode(image)).astype(int) - image).mean(), 3)

    def test_grey_transparent_and_deep_pngs_become_rgb(self):
        for made in (
            np.full((60, 70), 90, np.uint8),
            np.full((60, 70, 4), 90, np.uint8),
            np.full((60, 70, 3), 30_000, np.uint16),
        ):
            ok, data = cv2.imencode(".png", made)
            self.assertTrue(ok)
            found = decode(data.tobytes())
            self.assertEqual((found.shape, found.dtype), ((60, 70, 3), np.uint8))

    def test_a_picture_taken_on_its_side_is_turned_upright(self):
        image = gradient(80, 120)
        turned = decode(with_orientation(encode(image), 6))
        self.assertEqual(turned.shape[:2], (120, 80))
        self.assertLess(np.abs(turned.astype(int) - np.rot90(image, -1)).mean(), 6)

    def test_what_is_no_picture_is_said(self):
        good = encode(gradient(), "PNG")
        for data, words in (
            (b"", "neither PNG nor JPEG"),
            (b"GIF89a" + good, "neither"),
            (good[:60], "cut short or damaged"),
            (b"\xff\xd8\xff\xe0" + b"\x00" * 300, "cut short or damaged"),
        ):
            with self.subTest(data[:8]), self.assertRaisesRegex(Unusable, words):
                decode(data)
        with self.assertRaisesRegex(Unusable, "too few"):
            decode(encode(np.zeros((30, 400, 3), np.uint8), "PNG"))

    def test_files_that_cannot_be_read(self):
        with self.assertRaisesRegex(Unusable, "cannot be read"):
            read_picture_bytes(self.folder / "none.png")
        with self.assertRaisesRegex(Unusable, "cannot be read"):
            read_picture_bytes(self.folder)
        text = self.folder / "a.png"
        text.write_text("hello")
        with self.assertRaisesRegex(Unusable, r"a\.png: is neither"):
            read_picture_bytes(text)

    def test_a_bomb_is_refused_before_it_is_unpacked(self):
        """A few bytes that claim to be 60,000 pixels square."""

        def chunk(name, data):
            return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

        head = chunk(b"IHDR", struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0))
        data = b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", zlib.compress(b"\x00" * 1000)) + chunk(b"IEND", b"")
        with self.assertRaises(Unusable):
            decode(data)
