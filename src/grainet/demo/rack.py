"""The wood of the demo workshop: invented finds with figures that agree with one another (mass fits density and size)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any

import numpy as np

from grainet.design.curve import box_ring
from grainet.session.reservation import Reservation
from grainet.wood import species as species_table
from grainet.wood.coating import Coating
from grainet.wood.defects import Defect
from grainet.wood.density import density_kg_m3
from grainet.wood.figure import FigureZone
from grainet.wood.piece import Flatness, MoistureReading, Piece, Station, Sweep, WidthStation, with_readings
from grainet.wood.record import Happening, Paper, Rest, Supply, Surprise, Tap, Weighing
from grainet.wood.thickness import ThicknessField


def _plank(
    number: str,
    species: str,
    length: float,
    widths: Sequence[tuple[float, float]],
    thick: Sequence[tuple[float, float]],
    **more: Any,
) -> Piece:
    """A board with widths (x, width) read from the near edge and thicknesses (x, t) read along the middle."""
    middle = widths[0][1] / 2
    stations = tuple(Station(x_mm=x, y_mm=middle, thickness_mm=t) for x, t in thick)
    edges = tuple(WidthStation(x_mm=x, far_mm=w) for x, w in widths)
    if more.get("reclaimed"):
        more.setdefault("coating", Coating(finish="none", treatment="none"))
    return _weighed(
        with_readings(Piece(id=number, species=species, stations=stations, **more), length_mm=length, width_stations=edges), more
    )


def _weighed(piece: Piece, more: Any) -> Piece:
    """With the mass that a piece of this species would have, a little off the book's density as real boards are."""
    if "mass_kg" in more:
        return piece
    species = species_table.find(piece.species)
    assert species is not None and piece.moisture_now, piece.id
    x0, y0, x1, y1 = piece.extents
    grid = np.meshgrid(np.linspace(x0, x1, 25), np.linspace(y0, y1, 7))
    ring = np.asarray(piece.outline)
    area = abs(float(np.dot(ring[:, 0], np.roll(ring[:, 1], -1)) - np.dot(ring[:, 1], np.roll(ring[:, 0], -1)))) / 2
    volume = area * float(ThicknessField.of(piece).at(*grid).mean()) / 1e9
    moisture = sum(r.moisture_pct for r in piece.moisture_now) / len(piece.moisture_now)
    off = 1 + 0.06 * np.sin(7.3 * float(piece.id))
    weighed = piece.changed(
        mass_kg=round(volume * density_kg_m3(species.basic_sg, moisture, species.shrink_volumetric_pct) * off, 2)
    )
    assert weighed.mass_kg is not None
    return weighed.changed(weighings=_series(weighed.mass_kg)) if piece.place == "sticks" else weighed


def _read(*rows: tuple[float, float, float, float], on: str = "2026-11-02") -> tuple[MoistureReading, ...]:
    return tuple(MoistureReading(x_mm=x, y_mm=y, depth_mm=d, moisture_pct=m, on=on) for x, y, d, m in rows)


def _mark(
    tag: str, kind: str, x: float, y: float, w: float, h: float, face: str = "1", depth: float | None = None, **more: Any
) -> Defect:
    if kind in ("knot", "loose_knot", "nail", "screw", "hole"):
        t = np.linspace(0, 2 * np.pi, 13)[:-1]
        ring = tuple((round(float(x + w / 2 + w / 2 * np.cos(a)), 1), round(float(y + h / 2 + h / 2 * np.sin(a)), 1)) for a in t)
    else:
        ring = box_ring(x, y, x + w, y + h)
    return Defect(id=tag, kind=kind, face=face, polygon=ring, depth_mm=depth, **more)  # type: ignore[arg-type]


def _crack(tag: str, points: Sequence[tuple[float, float]], face: str = "through", depth: float | None = None) -> Defect:
    upper = [(x, y + 1.5) for x, y in points]
    return Defect(id=tag, kind="crack", face=face, polygon=(*points, *reversed(upper)), depth_mm=depth)  # type: ignore[arg-type]


NETHER_HOLM = Supply(supplier="Nether Holm sawmill", drying_claim="kiln dried to 8")


def _series(mass_kg: float) -> tuple[Weighing, ...]:
    """Weighings of a board that dried from 19.2 to 13.9 % indoors, so scaled that the last is what it weighs now."""
    dry = mass_kg / 1.139
    curve = ((0, 19.2), (5, 17.3), (11, 16.25), (16, 15.66), (22, 15.0), (28, 14.5), (35, 13.9))
    days = [date(2026, 10, 5) + timedelta(days=d) for d, _ in curve]
    return tuple(Weighing(on=day.isoformat(), kg=round(dry * (1 + m / 100), 3)) for day, (_, m) in zip(days, curve))


def _rests(*rows: tuple[str, float]) -> tuple[Rest, ...]:
    return tuple(Rest(on=on, bow_mm=bow) for on, bow in rows)


SWEPT = (Sweep(face="1", on="2026-10-28"), Sweep(face="2", on="2026-10-28"))


def rack() -> list[Piece]:
    """Seventeen pieces: found, reclaimed and bought."""
    return [with_slab(), *_planks(), *_small_wood()]


def _planks() -> list[Piece]:
    """Boards and planks, numbers 2 to 9."""
    return [
        _plank(
            "2", "Sugar maple (hard)", 1180, [(0, 192), (1180, 191)], [(60, 57.2), (600, 56.8), (1120, 56.9)], kind="plank", reclaimed=True, sweeps=SWEPT,
            origin="Lane 4 of a bowling alley that was taken down", place="A1", arrived="2026-06-14", ring_angle_deg=(78, 74), grain_slope_deg=1.2,
            moisture=_read((200, 90, 20, 8.1), (900, 90, 20, 8.3)), flatness=Flatness(bow_mm=1.2, cup_mm=0.4),
            defects=(_mark("m1", "nail", 318, 152, 5, 5, "1", 48), _mark("m2", "nail", 742, 24, 5, 5, "1", 50), _mark("m3", "nail", 1010, 150, 5, 5, "1", 46, resolved=True)),
        ),
        _plank(
            "3", "Sugar maple (hard)", 1430, [(0, 118), (1430, 117)], [(60, 56.4), (715, 56.1), (1380, 56.6)], kind="plank", reclaimed=True, sweeps=SWEPT,
            origin="Lane 4 of a bowling alley that was taken down", place="A1", arrived="2026-06-14", ring_angle_deg=(82, 80), grain_slope_deg=0.8,
            moisture=_read((300, 60, 20, 8.4), (1100, 60, 20, 8.2)), flatness=Flatness(bow_mm=1.6, cup_mm=0.2, crook_mm=1.0),
            defects=(_mark("m1", "nail", 1262, 96, 5, 5, "1", 44), _mark("t1", "stain", 1232, 70, 90, 44, "1", 3)),
        ),
        _plank(
            "4", "European beech", 1010, [(0, 122), (1010, 121)], [(60, 98.5), (500, 98.2), (950, 98.0)], kind="billet", reclaimed=True, sweeps=SWEPT,
            origin="Breast beam of a broken hand loom", place="B2", arrived="2026-03-02", rests=_rests(("2026-10-20", 0.6), ("2026-10-28", 0.8), ("2026-11-05", 0.8), ("2026-11-14", 0.8)), ring_angle_deg=(41, 47), grain_slope_deg=1.9,
            moisture=_read((250, 60, 30, 8.9), (800, 60, 30, 9.1)), flatness=Flatness(bow_mm=0.8),
            defects=(_mark("v1", "mortise", 64, 36, 78, 46, "through"), _mark("o1", "worm", 905, 20, 60, 30, "1", 9)),
        ),
        _plank(
            "5", "Iroko", 1840, [(0, 424), (920, 425), (1840, 424)], [(80, 38.4), (900, 37.6), (1760, 38.1)], kind="panel", reclaimed=True,
            sweeps=SWEPT[:1], coating=Coating(finish="varnish", treatment="none"), origin="Bench top of a school laboratory", place="floor", arrived="2026-09-19", ring_angle_deg=(28, 35), grain_slope_deg=2.4,
            moisture=_read((300, 210, 12, 9.2), (1400, 210, 12, 9.4)), flatness=Flatness(bow_mm=2.6, cup_mm=1.8),
            defects=(
                _mark("g1", "old_finish", 0, 0, 1840, 424, "1", 0.4), _mark("v1", "hole", 402, 180, 38, 38, "through"), _mark("v2", "hole", 1236, 180, 38, 38, "through"),
                _mark("t1", "stain", 620, 250, 210, 120, "1", 2), _mark("t2", "stain", 1420, 60, 160, 150, "1", 3),
            ),
        ),
        _plank(
            "6", "European oak", 905, [(0, 98), (450, 126), (905, 96)], [(50, 31.2), (450, 32.0), (850, 31.0)], kind="furniture_part", reclaimed=True,
            sweeps=SWEPT, origin="Stave of a cider press", place="B3", arrived="2026-05-30", ring_angle_deg=(72, 69), species_sure=False, candidates=("Sweet chestnut",), look=("ring", "brown"), taps=(Tap(on="2026-10-20", hz=151, decay_s=0.062, length_mm=905, width_mm=126, thickness_mm=31.4, density_kg_m3=684),), grain_slope_deg=1.1,
            moisture=_read((450, 60, 12, 9.0)), flatness=Flatness(bow_mm=6.5, cup_mm=1.2), defects=(_mark("v1", "groove", 838, 0, 12, 96, "1", 6),),
        ),
        _plank(
            "7", "European oak", 910, [(0, 96), (450, 125), (910, 97)], [(50, 30.8), (450, 31.6), (860, 30.9)], kind="furniture_part", reclaimed=True,
            sweeps=SWEPT, origin="Stave of a cider press", place="B3", arrived="2026-05-30", ring_angle_deg=(66, 71), species_sure=False, candidates=("Sweet chestnut",), look=("ring",), taps=(Tap(on="2026-10-20", hz=158, decay_s=0.071, length_mm=910, width_mm=125, thickness_mm=31.1, density_kg_m3=723, word="clearer"),), grain_slope_deg=1.4,
            moisture=_read((450, 60, 12, 9.1)), flatness=Flatness(bow_mm=5.8, cup_mm=1.0), defects=(_mark("v1", "groove", 60, 0, 12, 97, "1", 6), _mark("t1", "stain", 300, 20, 140, 60, "1", 2)),
        ),
        _plank(
            "8", "European ash", 2390, [(0, 231), (1200, 230), (2390, 231)], [(60, 52.4), (700, 52.1), (1300, 51.6), (1900, 50.2), (2330, 49.8)], kind="slab",
            origin="Bought, sawmill at Nether Holm", place="C1", arrived="2026-01-20", ring_angle_deg=(38, 36), grain_slope_deg=2.1, planing="marked", nominal_thickness_mm=50.8, supply=NETHER_HOLM.changed(price=96, surprises=(Surprise(on="2026-02-03", what="a shake under face 2"),)),
            moisture=_read((240, 115, 15, 8.1), (900, 115, 15, 8.4), (1500, 115, 15, 8.6), (2200, 115, 15, 9.6)), flatness=Flatness(bow_mm=2.2, cup_mm=0.9),
            defects=(
                _mark("k1", "knot", 540, 164, 46, 40, "1", 24), _mark("s1", "sap", 2, 2, 730, 24, "1", 14), _mark("o1", "worm", 1120, 24, 74, 34, "1", 6),
                _mark("w1", "wild_grain", 1560, 46, 200, 130, "through"), _mark("t1", "stain", 880, 70, 110, 70, "2", 3),
                _mark("h1", "shake", 1880, 96, 150, 62, "2", 9), _crack("c1", [(2262, 150), (2300, 156), (2340, 148), (2390, 152)]),
            ),
        ),
        _plank(
            "9", "Red alder", 2120, [(0, 192), (2120, 193)], [(60, 49.2), (1000, 49.6), (2060, 49.0)], kind="plank", origin="Bought, sawmill at Nether Holm",
            place="C1", arrived="2026-01-20", ring_angle_deg=(22, 26), grain_slope_deg=1.6, planing="far", runout_deg=1.4, supply=NETHER_HOLM.changed(price=58), moisture=_read((300, 96, 15, 8.7), (1700, 96, 15, 8.8)),
            flatness=Flatness(bow_mm=1.4, cup_mm=0.6), defects=(_mark("k1", "knot", 1046, 52, 34, 30, "through"), _mark("k2", "knot", 1730, 130, 22, 20, "1", 12)),
        ),
    ]  # fmt: skip


def _small_wood() -> list[Piece]:
    """A plank, plates, blanks, strips and offcuts, numbers 10 to 17."""
    return [
        _plank(
            "10", "Western redcedar", 1510, [(0, 238), (1510, 238)], [(60, 48.4), (750, 48.0), (1450, 48.2)], kind="plank", origin="Bought, offcut pile of a boat yard",
            place="C2", arrived="2026-04-11", ring_angle_deg=(76, 74), grain_slope_deg=0.9, moisture=_read((300, 119, 15, 8.9), (1200, 119, 15, 9.2)),
            flatness=Flatness(bow_mm=1.0, cup_mm=0.5), defects=(_mark("i1", "pitch", 690, 120, 60, 14, "1", 8), _mark("k1", "knot", 1220, 60, 26, 22, "through")),
        ),
        _plank(
            "11", "European sycamore maple", 585, [(0, 208), (585, 208)], [(40, 26.2), (290, 26.0), (545, 26.1)], kind="plate", origin="Swapped with a fiddle maker",
            place="D1", arrived="2025-08-03", passed_over=(Happening(on="2026-01-11", what="streak along one edge, too narrow for a one-piece top"),), ring_angle_deg=(84, 86), grain_slope_deg=0.6, moisture=_read((150, 104, 10, 8.3), (450, 104, 10, 8.4)), flatness=Flatness(cup_mm=0.4),
            defects=(_mark("t1", "streak", 0, 182, 585, 16, "through"),),
            figure=(FigureZone(id="f1", kind="curl", polygon=box_ring(0, 0, 585, 208), strength=0.7, wavelength_mm=11.5, word="loud"),),
        ),
        _plank(
            "12", "Indian rosewood", 545, [(0, 74), (545, 74)], [(40, 9.1), (500, 9.0)], kind="fretboard_blank", origin="Bought with papers, 2019", place="D2", arrived="2019-05-12", supply=Supply(supplier="Tidewater Tonewoods", price=34, papers=(Paper(kind="invoice", number="2019-117", on="2019-05-12"),)), taps=(Tap(on="2026-10-20", hz=114, decay_s=0.21, length_mm=545, width_mm=74, thickness_mm=9.05, density_kg_m3=869),),
            ring_angle_deg=(58, 61), grain_slope_deg=0.7, moisture=_read((270, 37, 4, 8.2)),
        ),
        _plank(
            "13", "Gabon ebony", 532, [(0, 71), (532, 71)], [(40, 8.6), (500, 8.4)], kind="fretboard_blank", origin="Bought with papers, 2019", place="D2", arrived="2019-05-12", supply=Supply(supplier="Tidewater Tonewoods", price=29), passed_over=(Happening(on="2021-03-08", what="streak beside the nut"),),
            ring_angle_deg=(62, 60), grain_slope_deg=0.5, moisture=_read((260, 36, 4, 8.4)), defects=(_mark("t1", "streak", 300, 4, 180, 6, "1", 3),),
        ),
        _plank(
            "14", "Sugar maple (hard)", 765, [(0, 66), (765, 66)], [(40, 16.3), (720, 16.1)], kind="strip", origin="Ripped from lane wood", place="D3", arrived="2026-07-01",
            ring_angle_deg=(80, 82), grain_slope_deg=0.9, moisture=_read((380, 33, 8, 8.2)),
        ),
        _plank(
            "15", "European walnut", 762, [(0, 63), (762, 63)], [(40, 15.4), (720, 15.2)], kind="strip", origin="Ripped from a table leaf", place="D3", arrived="2026-07-01",
            ring_angle_deg=(55, 58), grain_slope_deg=1.2, moisture=_read((380, 31, 8, 8.6)),
        ),
        _plank(
            "16", "European cherry", 168, [(0, 71), (168, 70)], [(80, 11.8)], kind="offcut", mass_kg=0.109, origin="Left from a box", place="D4", arrived="2025-11-08",
            ring_angle_deg=(30, 34), grain_slope_deg=2.0, moisture=_read((80, 35, 6, 8.5)), defects=(_mark("k1", "knot", 62, 22, 26, 22, "through"),),
        ),
        _plank(
            "17", "European sycamore maple", 1720, [(0, 164), (1720, 163)], [(60, 46.2), (860, 45.8), (1660, 46.0)], kind="plank", origin="Felled behind the chapel, sawn in spring",
            place="sticks", arrived="2026-04-26", ring_angle_deg=(64, 68), grain_slope_deg=1.3,
            moisture=_read((300, 80, 20, 18.9), (900, 80, 20, 19.6), (1400, 80, 20, 19.1), on="2026-10-05")
            + _read((300, 80, 20, 13.6), (900, 80, 20, 14.2), (1400, 80, 20, 13.9), on="2026-11-09"), flatness=Flatness(bow_mm=1.8, cup_mm=0.7),
            rests=_rests(("2026-10-05", 0.9), ("2026-10-16", 1.3), ("2026-11-02", 1.6), ("2026-11-09", 1.8)), stacking="sticks", supply=Supply(price=35, drying_claim="under a roof till October"),
        ),
    ]  # fmt: skip


def with_slab() -> Piece:
    """The live-edge slab: edges read up and down from a snapped line, skin moisture only."""
    edges = (
        (0, 166, 176),
        (200, 160, 184),
        (400, 152, 190),
        (600, 158, 188),
        (800, 163, 182),
        (1000, 148, 205),
        (1200, 156, 198),
        (1400, 170, 186),
        (1620, 164, 180),
    )
    stations = tuple(
        Station(x_mm=x, y_mm=y, thickness_mm=t)
        for x, y, t in ((60, 180, 52.6), (400, 180, 52.4), (800, 180, 52.1), (1200, 180, 51.8), (1560, 180, 51.6))
    )
    line = max(near for _, _, near in edges)
    rim = [(float(x), float(line + far)) for x, far, _ in edges]
    sap = (*rim, *((x, y - 22.0) for x, y in reversed(rim)))
    piece = Piece(
        id="1", kind="slab", species="European walnut", stations=stations, origin="Storm-felled in a churchyard, sawn by the farmer", place="floor", arrived="2025-10-18",
        ring_angle_deg=(18, 22), grain_slope_deg=2.8, moisture=_read((300, 180, 10, 10.6), (900, 180, 10, 11.3), on="2026-11-12"), flatness=Flatness(bow_mm=3.2, cup_mm=2.1, crook_in_outline=True),
        defects=(
            _mark("k1", "knot", 318, 230, 62, 54, "through"), Defect(id="s1", kind="sap", face="through", polygon=sap), _mark("k2", "knot", 1160, 90, 40, 36, "1", 20),
            _crack("c1", [(0, 196), (60, 190), (120, 198), (178, 192)]), _mark("p1", "pith", 640, 172, 420, 12, "2", 9),
        ),
    )  # fmt: skip
    widths = tuple(WidthStation(x_mm=x, far_mm=far, near_mm=near) for x, far, near in edges)
    return _weighed(with_readings(piece, length_mm=1620.0, width_stations=widths), {})


CLAIMS = (
    Reservation(id="R1", piece="11", claimed_for="Merrow matched top", design="merrow", part="merrow.cap", on="2026-09-02"),
    Reservation(
        id="R2", piece="11", claimed_for="Plover head plate", design="plover", box=(0.0, 0.0, 210.0, 90.0), on="2026-10-17"
    ),
)
