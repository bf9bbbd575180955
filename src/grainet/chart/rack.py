"""Charts of the whole rack: every piece's density against its species, and what lies there by species, thickness and fitness."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from grainet.chart.figure import Axis, Block, Chart, Dots, Line, Mark, Note, Tick, empty, rows_axis, scale
from grainet.grade.facts import Facts
from grainet.grade.verdict import Verdict
from grainet.kit.uses import UseRule

MOST_ROWS = 26


def density_chart(facts: Sequence[Facts]) -> Chart:
    """One row a piece: the species' band at 12 %, its mean, and the measured density; those outside first."""
    title = "Density at 12 % against the species"
    known = [f for f in facts if f.standing is not None]
    if not known:
        return empty("density", title, "Nothing to show yet: a piece needs its size, weight and species.")
    rows = sorted(known, key=lambda f: -abs(f.standing.off_sd if f.standing else 0))
    out = [f for f in rows if f.standing and f.standing.outlier]
    shown = rows[:MOST_ROWS]
    names = [f"No. {f.piece.id}  {f.kit.library.short_name(f.piece.species)}" for f in shown]
    axis = rows_axis(names)
    marks: list[Mark] = []
    values: list[float] = []
    for k, f in enumerate(shown):
        s = f.standing
        assert s is not None
        assert f.species is not None
        y = len(shown) - 1 - k
        marks.append(Block(s.low_kg_m3, y + 0.28, s.high_kg_m3, y + 0.72, "wood", "edge"))
        marks.append(Line(((f.species.density_12_kg_m3, y + 0.28), (f.species.density_12_kg_m3, y + 0.72)), "edge", "", 1.2))
        marks.append(Dots(((s.density_kg_m3, y + 0.5),), "wine" if s.outlier else "ink", "", "diamond" if s.outlier else "tick"))
        words = (
            f"{s.density_kg_m3:.0f}, heavier than {s.percentile:.0f} of 100"
            if not s.outlier
            else f"{s.density_kg_m3:.0f}: {_short(s.question)}"
        )
        marks.append(Note(max(s.high_kg_m3, s.density_kg_m3) + 12, y + 0.36, words, "wine" if s.outlier else "ink2"))
        values += [s.low_kg_m3, s.high_kg_m3, s.density_kg_m3]
    x = scale("kg/m³ at 12 %", values)
    x = Axis(x.label, x.low, x.high + (x.high - x.low) * 0.3, x.ticks)
    message = (
        f"{len(out)} of {len(known)} lie outside their species' band: wrong species, wet, or measured wrongly?"
        if out
        else f"All {len(known)} lie within two deviations of their species."
    )
    if len(rows) > MOST_ROWS:
        message += f" The {MOST_ROWS} furthest off are shown."
    table = (("number", "species", "density_kg_m3", "mean_kg_m3", "low_kg_m3", "high_kg_m3", "percentile"),) + tuple(
        (f.piece.id, f.piece.species, f"{f.standing.density_kg_m3:.0f}", f"{f.species.density_12_kg_m3:.0f}", f"{f.standing.low_kg_m3:.0f}", f"{f.standing.high_kg_m3:.0f}", f"{f.standing.percentile:.0f}")
        for f in rows
        if f.standing and f.species
    )  # fmt: skip
    return Chart(
        "density",
        title,
        message,
        x,
        axis,
        tuple(marks),
        "Band: two deviations of the species' normal spread (10 %) either way.",
        table,
    )


def _short(question: str) -> str:
    return question.split(": ", 1)[-1].split("?")[0] + "?"


def overview_chart(facts: Sequence[Facts], verdicts: Mapping[str, Verdict | None], rule: UseRule) -> Chart:
    """Every piece end-on at its thickness, a row a species: as much wood standing as it gives of a use."""
    title = f"The rack by species and thickness: who gives a {rule.label.lower()}?"
    measured = [f for f in facts if f.piece.outline and f.piece.all_thicknesses_mm]
    if not measured:
        return empty("overview", title, "Nothing measured lies on the rack yet: F2.")
    by_species: dict[str, list[Facts]] = {}
    for f in measured:
        by_species.setdefault(f.kit.library.short_name(f.piece.species), []).append(f)
    names = sorted(by_species, key=lambda n: (-sum(_volume(f) for f in by_species[n]), n))
    shown = names[:16]
    if len(names) > len(shown):
        by_species["other species"] = [f for n in names[15:] for f in by_species[n]]
        shown = [*names[:15], "other species"]
    thick = [f.piece.least_thickness_mm or 0.0 for f in measured]
    high = max(thick) * 1.12 + 4
    marks: list[Mark] = []
    for k, name in enumerate(shown):
        marks += _row(by_species[name], len(shown) - 1 - k, verdicts, high)
    volume = {n: sum(_volume(f) for f in by_species[n]) for n in shown}
    labels = [f"{n}  {1000 * volume[n]:.1f} l" for n in shown]
    gives = sum(1 for f in measured if (v := verdicts.get(f.piece.id)) is not None and v.gives)
    perhaps = sum(1 for f in measured if (v := verdicts.get(f.piece.id)) is not None and v.outcome == "if")
    unknown = sum(1 for f in measured if verdicts.get(f.piece.id) is None)
    message = (
        f"{gives} of {len(measured)} give it as they lie, {perhaps} if something is done first"
        + (f", {unknown} being judged" if unknown else "")
        + "."
    )
    ticks = scale("least thickness, mm", [0, high], pad=0, zero=True).ticks
    x = Axis("least thickness, mm", 0, high, tuple(Tick(t.at, t.text) for t in ticks))
    table = (("number", "species", "thickness_mm", "width_mm", "length_mm", "volume_m3", "gives", "if"),) + tuple(
        (
            f.piece.id, f.piece.species, f"{f.piece.least_thickness_mm:.1f}", f"{f.piece.extents[3] - f.piece.extents[1]:.0f}", f"{f.piece.extents[2] - f.piece.extents[0]:.0f}",
            f"{_volume(f):.4f}", str(v.gives) if (v := verdicts.get(f.piece.id)) else "?", str(v.gives_if) if v else "?",
        )
        for f in measured
    )  # fmt: skip
    return Chart(
        "overview",
        title,
        message,
        x,
        rows_axis(labels),
        tuple(marks),
        "Full height: gives it; a third: if; empty: will not; dashed: not judged yet.",
        table,
    )


def _row(row: list[Facts], y: int, verdicts: Mapping[str, Verdict | None], high: float) -> list[Mark]:
    """The pieces of one species along their thickness, in two staggered halves where they would touch."""
    marks: list[Mark] = []
    ends = [-1e9, -1e9]
    for f in sorted(row, key=lambda f: f.piece.least_thickness_mm or 0):
        t = f.piece.least_thickness_mm or 0.0
        _, y0, _, y1 = f.piece.extents
        wide = high / 40 * min(2.2, max(0.5, (y1 - y0) / 150))
        lane = 0 if t - wide / 2 > ends[0] else 1 if t - wide / 2 > ends[1] else int(ends[1] < ends[0])
        x = max(t - wide / 2, ends[lane] + wide * 0.12)
        ends[lane] = x + wide
        verdict = verdicts.get(f.piece.id)
        share = 0.0 if verdict is None or verdict.outcome == "wont" else 1.0 if verdict.gives else 0.34
        rim = "ochre" if verdict is not None and verdict.outcome == "if" else "ink" if share else "edge"
        low = y + (0.1 if lane == 0 else 0.52)
        label = f.piece.id if len(row) < 40 else ""
        marks.append(Block(x, low, x + wide, low + (0.46 if lane == 0 else 0.36), "wood", rim, verdict is None, share, label))  # type: ignore[arg-type]
    return marks


def _volume(f: Facts) -> float:
    x0, y0, x1, y1 = f.piece.extents
    return (x1 - x0) * (y1 - y0) * (f.piece.least_thickness_mm or 0.0) / 1e9
