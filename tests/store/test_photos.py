"""Originals of photos: kept once under their hash, untouched, nothing half-written left behind."""

import hashlib
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from grainet.store.photos import keep_photo, photo_path

DATA = b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 40


class Photos(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = Path(scratch.name)

    def files(self):
        return sorted(p.name for p in (self.shop / "photos").iterdir())

    def test_the_bytes_are_kept_as_they_are_under_their_hash(self):
        sha = keep_photo(self.shop, DATA)
        self.assertEqual(sha, hashlib.sha256(DATA).hexdigest())
        self.assertEqual(photo_path(self.shop, sha).read_bytes(), DATA)
        self.assertEqual(self.files(), [sha])

    def test_the_same_photo_twice_is_kept_once(self):
        first = keep_photo(self.shop, DATA)
        stamp = photo_path(self.shop, first).stat().st_mtime_ns
        self.assertEqual(keep_photo(self.shop, DATA), first)
        self.assertEqual(photo_path(self.shop, first).stat().st_mtime_ns, stamp)
        self.assertNotEqual(keep_photo(self.shop, DATA + b"x"), first)
        self.assertEqual(len(self.files()), 2)

    def test_a_copy_cut_short_by_a_crash_is_put_right(self):
        sha = keep_photo(self.shop, DATA)
        photo_path(self.shop, sha).write_bytes(DATA[:100])
        keep_photo(self.shop, DATA)
        self.assertEqual(photo_path(self.shop, sha).read_bytes(), DATA)

    def test_a_full_disk_leaves_nothing_behind_and_says_so(self):
        with (
            mock.patch.object(Path, "write_bytes", side_effect=OSError(28, "No space left on device")),
            self.assertRaises(OSError),
        ):
            keep_photo(self.shop, DATA)
        self.assertEqual(self.files(), [])

    def test_no_photo_reads_as_not_there(self):
        self.assertFalse(photo_path(self.shop, "0" * 64).exists())
