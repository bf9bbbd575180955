"""Sources of lines, zones and the audit of an outline, without a window."""

import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np

from grainet.demo.rack import rack
from grainet.design.outline_edit import apart_mm
from grainet.design.shape_library import BODIES
from grainet.design.starting_points import begin
from grainet.exchange.json_file import Unusable
from grainet.exchange.outline_write import write_outlines
from grainet.instruments.camera import take_photo
from grainet.instruments.stand_ins import StandIn
from grainet.present.outline import (
    audit,
    chosen_rim,
    from_drawing,
    from_picture,
    from_true_photo,
    loop_under,
    with_handle_moved,
    with_source,
    with_zone,
    without_zone,
    zone_under,
)
from grainet.wood.photo import Photo
from grainet.wood.value import BadEntry
from tests.picture.test_trace import picture
from tools import accuracy


class Sources(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.g = begin("bolt-on", "g", "g")

    def test_a_drawing_is_taken_whole_with_its_zones_or_another_loop_is_its_rim(self):
        other = begin("through", "t", "t")
        write_outlines(self.folder / "o.svg", other)
        source = from_drawing(self.folder / "o.svg")
        self.assertIn("closed outlines", source.told)
        made = with_source(self.g, source, None)
        self.assertLess(apart_mm(made.body.outline, other.body.outline), 0.1)
        self.assertGreater(len(made.body.zones), 1)
        small = min(
            range(len(source.loops)), key=lambda k: max(x for x, _ in source.loops[k][0]) - min(x for x, _ in source.loops[k][0])
        )
        with self.assertRaisesRegex(BadEntry, "a body needs"):
            chosen_rim(source, small)
        middle = np.mean(source.loops[source.rim][0], axis=0)
        self.assertIsNotNone(loop_under(source, tuple(middle)))
        self.assertIsNone(loop_under(source, (-5000, 0)))

    def test_a_picture_has_no_scale_so_it_gets_this_body_s_length(self):
        image, _ = picture(BODIES["egg"].outline, 1.5)
        cv2.imwrite(str(self.folder / "p.png"), image)
        source = from_picture(self.folder / "p.png", 400.0)
        xs = [x for x, _ in source.ring]
        self.assertAlmostEqual(max(xs) - min(xs), 400.0, places=2)
        zones = self.g.body.zones
        self.assertEqual(with_source(self.g, source, None).body.zones, zones, "a picture has no zones to give")
        for name, data in (("no.png", b"not a picture"), ("gone.png", None)):
            if data is not None:
                (self.folder / name).write_bytes(data)
            with self.assertRaises(BadEntry):
                from_picture(self.folder / name, 400.0)
        with self.assertRaises((BadEntry, Unusable)):
            (self.folder / "bad.dxf").write_text("nothing")
            from_drawing(self.folder / "bad.dxf")

    def test_a_photo_that_was_made_true_gives_its_outline_in_mm(self):
        piece = next(p for p in rack() if p.id == "10")
        piece = piece.changed(outline=tuple((x * 0.3, y) for x, y in piece.outline), stations=(), defects=(), width_stations=())
        image, true = take_photo(StandIn("camera"), piece, "face1")
        corners = accuracy.corners_of(*piece.extents[2:]) + accuracy.along_edges(*piece.extents[2:])
        points = tuple(accuracy.clicked(true, corners, np.random.default_rng(2), 0.0))
        photo = Photo(side="face1", sha="0" * 64, width_px=image.shape[1], height_px=image.shape[0], points=points)
        source = from_true_photo(image, piece.changed(photos=(photo,)))
        xs, ys = zip(*source.ring)
        x0, y0, x1, y1 = piece.extents
        self.assertAlmostEqual(max(xs) - min(xs), x1 - x0, delta=2.0)
        self.assertAlmostEqual(max(ys) - min(ys), y1 - y0, delta=2.0)
        with self.assertRaisesRegex(BadEntry, "no photo"):
            from_true_photo(image, piece)


class Changes(unittest.TestCase):
    def setUp(self):
        self.g = begin("bolt-on", "g", "g")

    def test_a_handle_moved_too_far_crosses_the_line_and_is_refused(self):
        at = self.g.body.outline[len(self.g.body.outline) // 4]
        made = with_handle_moved(self.g, at, 0.0, 4.0, both_sides=False)
        self.assertNotEqual(made.body.outline, self.g.body.outline)
        with self.assertRaises((BadEntry, ValueError)):
            with_handle_moved(self.g, (0.0, 0.0), 900.0, 40.0, both_sides=False)

    def test_zones_come_and_go(self):
        made = with_zone(self.g, "removed", ((250, -30), (300, 20)))
        number = zone_under(made, (275, -5))
        self.assertEqual(made.body.zones[number].kind, "removed")
        self.assertEqual(without_zone(made, number).body.zones, self.g.body.zones)
        for corners, said in ((((100, 0), (102, 40)), "4 mm both ways"), (((2000, 0), (2100, 40)), "on the body")):
            with self.assertRaisesRegex(BadEntry, said):
                with_zone(self.g, "seen", corners)

    def test_both_sides_are_held_against_one_another(self):
        alike = self.g.with_figure("body.outline", [[0, -150], [400, -150], [400, 150], [0, 150]])
        self.assertEqual(audit(alike).sentences()[0], ("Both sides are alike.", False))
        apart = self.g.with_figure("body.outline", [[0, -150], [400, -150], [400, 154], [0, 154]])
        self.assertIn("differ by up to 4.0", audit(apart).sentences()[0][0])
        self.assertIn("differ by up to 5/32", audit(apart).sentences("fraction")[0][0])
        corner = self.g.with_figure(
            "body.outline", [[0, -150], [400, -150], [400, 150], [210, 150], [200, 100], [190, 150], [0, 150]]
        )
        self.assertTrue(any("cutter of radius 6" in text for text, _ in audit(corner).sentences()))


if __name__ == "__main__":
    unittest.main()
