"""Sliding a rectangle exactly: sound against exact geometry, and as generous as a fine raster."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import orientations_of
from grainet.fit.slide import slides
from grainet.grade.judge import part_for
from grainet.kit.shop_profile import ShopProfile
from tests.jobs import job, piece

KIT = ShopProfile()


def board(**more):
    return job([piece("A", **{"length": 1400, "width": 180, "thickness": 50, **more})], []).pieces[0]


def mark(name, kind, x, y, w, h, face="through", depth=None):
    made = {"id": name, "kind": kind, "face": face, "polygon": [[x, y], [x + w, y], [x + w, y + h], [x, y + h]]}
    return made | ({"depth_mm": depth} if depth is not None else {})


class Slides(unittest.TestCase):
    def runs(self, one, use="neck", hidden=False):
        return slides(BoardGeometry(one, KIT.cuts), orientations_of(part_for(KIT.use(use), hidden=hidden)))

    def test_a_clear_board_slides_from_trim_to_trim(self):
        self.assertEqual(self.runs(board()), [(4.0, 1400 - 4 - 690.0)])

    def test_a_trouble_is_passed_beside_or_parts_the_run(self):
        self.assertEqual(
            self.runs(board(defects=[mark("k", "knot", 600, 100, 40, 40)])), [(4.0, 706.0)], "beside it there is room"
        )
        parted = self.runs(board(length=2000, defects=[mark("k", "knot", 900, 60, 40, 60)]))
        self.assertEqual(parted, [(4.0, 210.0), (940.0, 1306.0)])
        self.assertEqual(self.runs(board(defects=[mark("k", "knot", 600, 60, 40, 60)])), [(640.0, 706.0)])

    def test_a_shallow_trouble_on_a_thick_board_is_planed_away(self):
        shallow = board(defects=[mark("k", "knot", 600, 60, 40, 60, "1", 6.0)])
        self.assertEqual(self.runs(shallow), [(4.0, 706.0)])

    def test_metal_keeps_its_distance(self):
        nail = self.runs(board(length=2000, defects=[mark("m", "nail", 1000, 88, 4, 4, "1", 40.0)]))
        clear = KIT.cuts.metal_clear_mm + KIT.cuts.kerf_mm.outline
        self.assertEqual(
            nail, [(4.0, 1306.0)] if 180 / 2 - 2 - clear - 1 >= 70 else [(4.0, 1000 - clear - 690), (1004 + clear, 1306.0)]
        )

    def test_what_it_cannot_tell_is_left_to_the_field(self):
        slanting = {"id": "c", "kind": "crack", "face": "through", "polygon": [[100, 10], [110, 10], [400, 170], [390, 170]]}
        self.assertIsNone(self.runs(board(defects=[slanting])))
        taper = board(stations=[{"x_mm": 0, "y_mm": 90, "thickness_mm": 60}, {"x_mm": 1400, "y_mm": 90, "thickness_mm": 20}])
        self.assertIsNone(self.runs(taper))
        live = board().changed(outline=((0, 0), (1400, 20), (1400, 180), (0, 170)))
        self.assertIsNone(self.runs(live))

    @settings(max_examples=50, deadline=None)
    @given(st.integers(0, 100_000), st.sampled_from(("body_half", "neck", "fretboard", "head_plate", "core")))
    def test_sound_and_as_generous_as_the_raster(self, seed, use):
        rng = np.random.default_rng(seed)
        marks = [
            mark(f"d{k}", str(rng.choice(["knot", "hole", "stain", "rot", "worm"])), float(rng.integers(0, 1300)), float(rng.integers(0, 150)), float(rng.integers(4, 90)),
                 float(rng.integers(3, 30)), str(rng.choice(["1", "2"])), float(rng.integers(1, 25)))
            for k in range(int(rng.integers(0, 6)))
        ]  # fmt: skip
        one = board(defects=marks)
        sheet = BoardGeometry(one, KIT.cuts)
        orientations = orientations_of(part_for(KIT.use(use)))
        runs = slides(sheet, orientations)
        self.assertIsNotNone(runs)
        layers = Layers(sheet, 1.0)
        fields = [fit_field(layers, orientation, want_covered=False) for orientation in orientations]
        for field in fields:
            if field.fits.size:
                for column in np.flatnonzero(field.fits.any(axis=0)):
                    x = layers.grid.x0 + column * layers.grid.step
                    self.assertTrue(
                        any(a - 1e-6 <= x <= b + 1e-6 for a, b in runs), "the raster holds a place that the slide does not"
                    )
        room = sheet.usable.bounds
        for a, b in runs:
            for x in {a, (a + b) / 2, b}:
                heights = np.arange(room[1], room[3] - orientations[0].width + 1e-6, 0.5)
                ys = np.unique(
                    np.concatenate(
                        [
                            heights,
                            [room[3] - orientations[0].width],
                            *[[h.polygon.bounds[3], h.polygon.bounds[1] - orientations[0].width] for h in sheet.hazards],
                        ]
                    )
                )
                held = any(
                    isinstance(Exact(sheet, w).seat(x - w.bounds[0], float(y) - w.bounds[1]), ExactPlacement)
                    for w in orientations
                    for y in ys
                    if room[1] - 1e-9 <= y <= room[3] - w.width + 1e-9
                )
                self.assertTrue(held, (seed, use, x))


if __name__ == "__main__":
    unittest.main()
