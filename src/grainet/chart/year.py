"""Charts of the shop's air and of what it does to a blank over a year."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from grainet.chart.figure import Axis, Band, Block, Chart, Dots, Line, Mark, Tick, days_axis, empty, scale
from grainet.grade.facts import Facts
from grainet.wood.climate import MONTHS, AirReading, YearAir
from grainet.wood.movement import UNKNOWN_PITH_MM, face_change_mm, free_cup_mm, over_a_year
from grainet.wood.rings import least_angle


def _lines(facts: Facts, width: float, angle: float | None) -> tuple[list[Mark], list[float]]:
    """Month by month against the driest one: as its rings lie, flat-sawn, quartered; and every value drawn, mm."""
    piece, species, year = facts.piece, facts.species, facts.year
    assert species is not None
    marks: list[Mark] = []
    values = [0.0]
    rows = [
        ("as its rings lie", angle if angle is not None else 0.0, "ink", 2.6, False),
        ("flat-sawn", 0.0, "ochre", 1.6, True),
        ("quartered", 90.0, "teal", 1.6, True),
    ]
    for name, a, ink, stroke, dashed in rows:
        pith = piece.heart_mm if name == rows[0][0] else None
        both = (species.shrink_tangential_pct, species.shrink_radial_pct)
        line = [(k + 0.5, face_change_mm(width, *both, year.driest_pct, m, a, pith)) for k, m in enumerate(year.equilibrium_pct)]
        marks.append(Line(tuple(line), ink, name, stroke, dashed))  # type: ignore[arg-type]
        values += [y for _, y in line]
        if name == rows[0][0]:
            marks.append(Dots(tuple(line), "ink"))
    return marks, values


def movement_chart(facts: Facts, width_mm: float | None = None, thickness_mm: float | None = None) -> Chart:
    """A blank's width (the piece's own where none is given) month by month against its width in the driest one, for its rings and for flat and quartered wood beside it."""
    piece = facts.piece
    _, y0, _, y1 = piece.extents
    width = width_mm or (y1 - y0)
    title = f"No. {piece.id}: movement over the shop's year"
    if facts.species is None or width <= 0:
        return empty("movement", title, "Movement needs the species and the width: sp ash, w 231.")
    angle = least_angle(piece.ring_angle_deg)
    year, species = facts.year, facts.species
    thick = thickness_mm or piece.least_thickness_mm or 25.0
    whole = over_a_year(
        width,
        thick,
        species.shrink_tangential_pct,
        species.shrink_radial_pct,
        angle or 0.0,
        year.driest_pct,
        year.dampest_pct,
        piece.heart_mm,
    )
    marks, values = _lines(facts, width, angle)
    unread = "" if angle is not None else " Its rings are not read: flat-sawn is assumed."
    cup = abs(
        free_cup_mm(
            width,
            species.shrink_tangential_pct,
            species.shrink_radial_pct,
            year.driest_pct,
            year.dampest_pct,
            piece.heart_mm or UNKNOWN_PITH_MM,
            angle or 0.0,
        )
    )
    message = (
        f"{width:.0f} wide moves {whole.width_mm:.2f} between {year.driest_pct:.1f} and {year.dampest_pct:.1f} %, its thickness {whole.thickness_mm:.2f}; "
        f"free it may cup {cup:.2f} at most{_hollow(piece.heart_face)}. {sum(year.logged)} of 12 months logged.{unread}"
    )
    x = Axis("", 0, 12, tuple(Tick(k + 0.5, m[:3]) for k, m in enumerate(MONTHS)))
    table = (("month", "air_pct", "logged", "wider_than_driest_mm"),) + tuple(
        (m, f"{p:.2f}", "yes" if g else "guess", f"{y:.3f}")
        for m, p, g, (_, y) in zip(MONTHS, year.equilibrium_pct, year.logged, _first_line(marks))
    )
    source = f"{species.common}: {species.shrink_tangential_pct:g} % tangential, {species.shrink_radial_pct:g} % radial ({species.source or 'this shop'}). Wood that follows the air; thick and finished wood lags and moves less."
    return Chart(
        "movement", title, message, x, scale("mm wider than in the driest month", values, least=0.2), tuple(marks), source, table
    )


def _hollow(heart_face: str) -> str:
    """Which face goes hollow and which crowned as it dries: the bark side is the hollow one."""
    if not heart_face:
        return ""
    bark = "2" if heart_face == "1" else "1"
    return f", drying hollow on face {bark} and crowned on face {heart_face}, where the heart is"


def _first_line(marks: Sequence[Mark]) -> tuple[tuple[float, float], ...]:
    return next(m.points for m in marks if isinstance(m, Line))


def air_chart(readings: Sequence[AirReading], year: YearAir, target_pct: float, today: date) -> Chart:
    """The equilibrium that the shop's air asks for, over the log; without one, the year as it is guessed."""
    if len(readings) < 2:
        return _guessed_year(year, target_pct)
    first = date.fromisoformat(readings[0].at[:10])
    points = tuple(((r.time.date() - first).days + r.time.hour / 24 + r.time.minute / 1440, r.equilibrium_pct) for r in readings)
    shown = max(7.0, float((today - first).days))
    daily = _daily(points)
    low, high = tuple((d, min(v)) for d, v in daily), tuple((d, max(v)) for d, v in daily)
    mean = tuple((d, sum(v) / len(v)) for d, v in daily)
    marks: list[Mark] = [Band(high, low, "chalk_wash", "lowest to highest of a day"), Line(mean, "ink", "a day's mean", 2.2)]
    if len(points) <= 400:
        marks.append(Dots(points, "ink2", "read"))
    marks.append(Line(((0, target_pct), (shown, target_pct)), "ochre", "what the shop holds to", 1.6, dashed=True))
    level = sum(v for _, v in points) / len(points)
    message = f"{len(readings)} readings since {readings[0].at[:10]}: wood in this air heads for {level:.1f} %, the kit book says {target_pct:.1f}."
    table = (("at", "temperature_c", "humidity_pct", "equilibrium_pct", "by"),) + tuple(
        (r.at, f"{r.temperature_c:g}", f"{100 * r.humidity:.1f}", f"{r.equilibrium_pct:.2f}", r.by) for r in readings
    )
    values = [v for _, v in points] + [target_pct]
    return Chart(
        "air",
        "The shop's air",
        message,
        days_axis(first, shown),
        scale("equilibrium, %", values),
        tuple(marks),
        "Hailwood-Horrobin with the Wood Handbook's coefficients.",
        table,
    )


def _daily(points: Sequence[tuple[float, float]]) -> list[tuple[float, list[float]]]:
    days: dict[int, list[float]] = {}
    for x, y in points:
        days.setdefault(int(x), []).append(y)
    return [(d + 0.5, v) for d, v in sorted(days.items())]


def _guessed_year(year: YearAir, target_pct: float) -> Chart:
    marks: list[Mark] = [
        Block(k + 0.15, 0, k + 0.85, m, "wood", "ink" if g else "ochre", dashed=not g, label=f"{m:.1f}")
        for k, (m, g) in enumerate(zip(year.equilibrium_pct, year.logged))
    ]
    marks.append(Line(((0, target_pct), (12, target_pct)), "ochre", "what the shop holds to", 1.6, dashed=True))
    x = Axis("", 0, 12, tuple(Tick(k + 0.5, m[:3]) for k, m in enumerate(MONTHS)))
    message = f"A guess of the year, {year.driest_pct:.1f} to {year.dampest_pct:.1f} %: log the air (typed, a list, or the logger) and it becomes yours."
    table = (("month", "equilibrium_pct", "logged"),) + tuple(
        (m, f"{p:.2f}", "yes" if g else "guess") for m, p, g in zip(MONTHS, year.equilibrium_pct, year.logged)
    )
    return Chart(
        "air",
        "The shop's air over a year",
        message,
        x,
        scale("equilibrium, %", [0, *year.equilibrium_pct, target_pct], zero=True),
        tuple(marks),
        "Hailwood-Horrobin with the Wood Handbook's coefficients; dashed months are guessed.",
        table,
    )
