"""Charts of one piece over time: moisture against days, weight against days, straightness against days."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

from grainet.chart.figure import Band, Chart, Dots, Line, Mark, Post, days_axis, empty, scale
from grainet.grade.facts import Facts
from grainet.grade.forecast import Forecast, forecast_of, weighed_moistures
from grainet.grade.ready import day_words
from grainet.wood.moisture import humidity_for
from grainet.wood.piece import Piece
from grainet.wood.settling import BAND, LONGEST_DAYS, STACKING_WORDS, Settling, Stacking
from grainet.wood.weighing import days_of, heading, levelled_off, mass_at

SOURCE = "Diffusion through the thickness (Wood Handbook); real wood is half to twice as quick: an estimate."


def moisture_chart(
    facts: Facts, today: date, thickness_mm: float | None = None, stacking: Stacking | None = None, air_pct: float | None = None
) -> Chart:  # fmt: skip
    """Core, faces and mean against days, with the band of half to double, the readings, the weighings and the day it is ready."""
    piece, name = facts.piece, f"No. {facts.piece.id}"
    title = f"{name}: moisture against days"
    found = forecast_of(piece, facts.species, facts.kit, thickness_mm, stacking, air_pct)
    if found is None:
        return empty("moisture", title, "Its moisture or thickness is not read yet: mc 8.4, t 52.4.")
    target, pace, slow, quick = found.air_pct, found.pace, found.slowest, found.quickest
    within = facts.kit.rules.ready_within_pct
    begun = found.started or today
    days = [date.fromisoformat(r.on) for r in piece.moisture if r.on]
    start = min([*days, begun])  # the axis begins with the oldest reading, the forecast with the readings that speak for today
    behind = float((begun - start).days)
    likely = found.book_days
    shown = _reach(likely, pace, slow, behind, (today - start).days)
    run = found.run_to((shown - behind) * max(1.0, pace, quick if found.fit else 1.0))
    marks: list[Mark] = [
        Band(
            ((0, target + within), (shown, target + within)),
            ((0, target - within), (shown, target - within)),
            "ochre_wash",
            "ready",
        )
    ]
    if run.mean[0] - target > 0.05 or target - run.mean[0] > 0.05:
        marks.append(_spread(run, slow, quick, behind, shown))
    for line, ink, words, width in (
        (run.core, "ink", "core", 2.6),
        (run.mean, "chalk", "mean", 2.0),
        (run.face1, "teal", "face 1", 1.6),
    ):
        marks.append(Line(_stretched(run.days, line, pace, behind, shown), ink, words, width, dashed=words != "core"))  # type: ignore[arg-type]
    if abs(run.face2 - run.face1).max() > 0.3:
        marks.append(Line(_stretched(run.days, run.face2, pace, behind, shown), "wine", "face 2", 1.6, dashed=True))
    marks += _measured(piece, start, shown)
    marks.append(Post((today - start).days, "today", "ink2", dashed=True))
    what_if = thickness_mm is not None or stacking is not None or air_pct is not None
    message, posts = _ready_words(facts, found, what_if=what_if, start=start, today=today)
    marks += [p for p in posts if p.x <= shown]
    thick = thickness_mm or piece.least_thickness_mm or 0.0
    how = STACKING_WORDS[piece.stacking if stacking is None else stacking]
    values = [*run.core, *run.face1, target - within - 0.5, target + within + 0.5, *(r.moisture_pct for r in piece.moisture)]
    table = (("day", "date", "core_pct", "mean_pct", "face1_pct", "face2_pct"),) + tuple(
        (f"{d / pace + behind:.2f}", str(begun + timedelta(days=round(d / pace))), f"{c:.2f}", f"{m:.2f}", f"{a:.2f}", f"{b:.2f}")
        for d, c, m, a, b in list(zip(run.days, run.core, run.mean, run.face1, run.face2))[::6]
        if d / pace + behind <= shown * 1.01
    )
    title += f", {thick:.0f} thick, {how}, air {target:.1f} %"
    by = f" Its {len(piece.weighings)} weighings: {pace:.2g} times the book's pace." if found.fit else ""
    return Chart(
        "moisture", title, message, days_axis(start, shown), scale("moisture, %", values), tuple(marks), SOURCE + by, table
    )


def _reach(likely: float | None, pace: float, slow: float, behind: float, today: int) -> float:
    late = likely / slow if likely is not None else LONGEST_DAYS / pace
    return float(max(14.0, today + 5, min(behind + late * 1.08 + 4, LONGEST_DAYS * 2)))


def _stretched(days: np.ndarray, values: np.ndarray, pace: float, behind: float, shown: float) -> tuple[tuple[float, float], ...]:
    """A run at another pace from the day it begins, carried on to the chart's end."""
    t = days / pace + behind
    keep = t <= shown
    points = [(float(a), float(b)) for a, b in zip(t[keep], values[keep])]
    if points and points[-1][0] < shown:
        points.append((shown, float(np.interp(shown, t, values))))
    return tuple(points)


def _spread(run: Settling, slow: float, quick: float, behind: float, shown: float) -> Band:
    xs = np.linspace(behind, shown, 60)
    upper = [(float(x), float(np.interp(x - behind, run.days / slow, run.core))) for x in xs]
    lower = [(float(x), float(np.interp(x - behind, run.days / quick, run.core))) for x in xs]
    return Band(tuple(upper), tuple(lower), "chalk_wash", "core, half to double" if quick == BAND else "core, as weighings allow")


def _measured(piece: Piece, start: date, shown: float) -> list[Mark]:
    rows: list[Mark] = []
    for reach, shape, name, ink in ((False, "round", "read at the skin", "ink2"), (True, "square", "read at the core", "ink")):
        half = 0.25 * (piece.least_thickness_mm or 1e9)
        points = [
            ((date.fromisoformat(r.on) - start).days if r.on else 0, r.moisture_pct)
            for r in piece.moisture
            if (r.depth_mm >= half) == reach
        ]
        inside = tuple((float(x), y) for x, y in points if 0 <= x <= shown)
        if inside:
            rows.append(Dots(inside, ink, name, shape))  # type: ignore[arg-type]
    days, moistures = weighed_moistures(piece.moisture, piece.weighings)
    if len(days):
        rows.append(
            Dots(tuple((float(d), float(m)) for d, m in zip(days, moistures) if 0 <= d <= shown), "chalk", "by weight", "diamond")
        )
    return rows


def _ready_words(facts: Facts, found: Forecast, *, what_if: bool, start: date, today: date) -> tuple[str, list[Post]]:
    """When it is ready: as every list says it, or for another thickness, stacking or air as the same forecast says it."""
    ready, within = facts.ready, facts.kit.rules.ready_within_pct
    if not what_if and ready.word == "ready" and ready.by == "weighings":
        return "Settled: its last weighings agree within a thousandth over a week.", []
    if not what_if and ready.word != "waits":
        return f"{ready.message(today).capitalize()}.", []
    until = found.days_until()
    if until is None:
        return f"It does not come within {within:g} of the air in {LONGEST_DAYS:.0f} days as it lies.", []
    if until[1] <= 0:
        return f"Ready: within {within:g} of the air's {found.air_pct:.1f} %.", []
    begun = found.started or today
    soonest, likely, latest = (max(today, begun + timedelta(days=round(d))) for d in until)
    words = _then(facts)
    words = f"Ready between {day_words(soonest)} and {day_words(latest)}, likely {day_words(likely)}.{words}"
    post = begun + timedelta(days=round(until[1]))
    return words, [Post(float((post - start).days), f"ready, {post.day} {post:%b}", "ochre")]


def _then(facts: Facts) -> str:
    """What the piece will weigh when it is there, and which air would hold it where it is."""
    piece, target = facts.piece, facts.kit.target_moisture_pct
    mean, worst = facts.moisture.mean_pct, facts.moisture.worst_pct
    weighed = piece.mass_kg is not None and mean is not None
    message = f" It will weigh about {mass_at(piece.mass_kg, mean, target):.3g} kg then." if weighed else ""  # type: ignore[arg-type]
    held = humidity_for(worst, facts.kit.temperature_c) if worst is not None else None
    return message + (f" Air of {100 * held:.0f} % would hold it at {worst:.1f}." if held is not None else "")


def weight_chart(facts: Facts, today: date) -> Chart:
    """The weighing series with its fitted end, the band within which it counts as level, and the day it gets there."""
    piece = facts.piece
    title = f"No. {piece.id}: weight against days"
    rows = sorted(piece.weighings, key=lambda w: w.on)
    if len(rows) < 2:
        return empty("weight", title, "Two weighings make a line, four tell its end: weigh 31.4, again in a few days.")
    days, kg = days_of(rows), [w.kg for w in rows]
    start = date.fromisoformat(rows[0].on)
    found = heading(rows)
    shown = float(max(days[-1] * 1.25, (today - start).days + 3, (found.near_day * 1.1 if found else 0)))
    shown = min(shown, max(days[-1] * 6, 30))
    marks: list[Mark] = []
    values = list(kg)
    if found is not None:
        xs = np.linspace(0, shown, 80)
        band = 0.001 * found.end_kg
        marks.append(
            Band(
                ((0, found.end_kg + band), (shown, found.end_kg + band)),
                ((0, found.end_kg - band), (shown, found.end_kg - band)),
                "ochre_wash",
                "level",
            )
        )
        marks.append(Line(tuple(zip(map(float, xs), map(float, found.kg_at(xs)))), "chalk", "fitted", 2.0, dashed=True))
        values += [found.end_kg - 2 * band, float(found.kg_at(0.0))]
        near = start + timedelta(days=round(found.near_day))
        marks.append(Post(found.near_day, f"level, {near.day} {near:%b}", "ochre"))
    marks += [
        Line(tuple(zip(map(float, days), kg)), "ink2", "", 1.0),
        Dots(tuple(zip(map(float, days), kg)), "ink", "weighed", "diamond"),
    ]
    marks.append(Post((today - start).days, "today", "ink2", dashed=True))
    if levelled_off(rows):
        message = "Level: the last weighings agree within a thousandth over at least a week."
    elif found is not None:
        first, last = (start + timedelta(days=round(d)) for d in (found.soonest_day, found.latest_day))
        message = (
            f"Heading for {found.end_kg:.3f} kg, level between {day_words(max(today, first))} and {day_words(max(today, last))}."
        )
    else:
        message = f"{len(rows)} weighings: four or more, some days apart, tell the end."
    table = (("date", "day", "kg"),) + tuple((w.on, f"{d:.0f}", f"{w.kg:g}") for w, d in zip(rows, days))
    return Chart(
        "weight", title, message, days_axis(start, shown), scale("weight, kg", values, least=0.004 * kg[0]), tuple(marks),
        "An exponential through the weighings after the first 15 % of the run. An estimate.", table,
    )  # fmt: skip


def rest_chart(facts: Facts, today: date) -> Chart:
    """Bow (and twist) against days, with what counts as still."""
    piece, rules = facts.piece, facts.kit.rules
    title = f"No. {piece.id}: straightness against days"
    rows = sorted(piece.rests, key=lambda r: r.on)
    if not rows:
        return empty(
            "rest", title, "No rest log yet: rest 2.0 logs its bow today; three readings over a week tell whether it still moves."
        )
    start = date.fromisoformat(rows[0].on)
    days = [float((date.fromisoformat(r.on) - start).days) for r in rows]
    shown = max(10.0, days[-1] + 3, float((today - start).days + 1))
    last = rows[-1].bow_mm
    marks: list[Mark] = [
        Band(((0, last + rules.rest_within_mm), (shown, last + rules.rest_within_mm)), ((0, max(0.0, last - rules.rest_within_mm)), (shown, max(0.0, last - rules.rest_within_mm))), "ochre_wash", "still"),
        Line(tuple((d, r.bow_mm) for d, r in zip(days, rows)), "ink", "bow", 2.2), Dots(tuple((d, r.bow_mm) for d, r in zip(days, rows)), "ink"),
        Post((today - start).days, "today", "ink2", dashed=True),
    ]  # fmt: skip
    twist = [(d, r.twist_mm) for d, r in zip(days, rows) if r.twist_mm is not None]
    if twist:
        marks += [Line(tuple(twist), "teal", "twist", 1.6, dashed=True), Dots(tuple(twist), "teal", "", "square")]
    state = facts.rest
    message = {"settled": "Settled", "moving": "Moving", "watching": "To be watched", "unread": ""}[
        state.word
    ] + f": {state.message}; the house asks for {rules.rest_days} days within {rules.rest_within_mm:g}."
    table = (("date", "bow_mm", "twist_mm"),) + tuple(
        (r.on, f"{r.bow_mm:g}", "" if r.twist_mm is None else f"{r.twist_mm:g}") for r in rows
    )
    values = [0.0, *(r.bow_mm for r in rows), *(t for _, t in twist), last + 2 * rules.rest_within_mm]
    return Chart(
        "rest",
        title,
        message,
        days_axis(start, shown),
        scale("mm", values, zero=True),
        tuple(marks),
        "The shop's rest log.",
        table,
    )
