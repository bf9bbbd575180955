"""What knocks say, piece beside piece: only like-sized ones are compared."""

from __future__ import annotations

from collections.abc import Sequence

from grainet.chart.figure import Chart, Dots, Mark, Note, empty, rows_axis, scale
from grainet.grade.facts import Facts
from grainet.wood.tap import facts_of, unlike

SOURCE = "A free-free bar on two supports; E = 0.9464 rho f² L⁴/h² F, F for shear. It cannot foretell a finished instrument's tone; it weighs nothing unless the house says so."
MOST_ROWS = 22


def taps_chart(facts: Sequence[Facts], chosen: str | None = None) -> Chart:
    """Speed of sound along the grain of every knocked piece, against the piece in hand; unlike sizes are told apart and not ranked."""
    title = "Knocks: speed of sound along the grain"
    knocked = [f for f in facts if f.piece.taps]
    if not knocked:
        return empty(
            "taps",
            title,
            "Nothing was knocked yet: tap 368 d .09, a sound file, or the tap microphone. It is recorded and weighs nothing.",
        )
    first = next((f for f in knocked if f.piece.id == chosen), knocked[0])
    base = first.piece.taps[-1]
    fair = [f for f in knocked if not unlike(base, f.piece.taps[-1])]
    other = [f for f in knocked if unlike(base, f.piece.taps[-1])]
    fair.sort(key=lambda f: -facts_of(f.piece.taps[-1]).speed_m_s)
    rows = [*fair, *other][:MOST_ROWS]
    marks: list[Mark] = []
    values = []
    for k, f in enumerate(rows):
        y = len(rows) - 1 - k + 0.5
        tap, message = f.piece.taps[-1], facts_of(f.piece.taps[-1])
        like = f in fair
        ink = "chalk" if f is first else "ink" if like else "edge"
        marks.append(Dots(((message.speed_m_s, y),), ink, "", "round" if like else "square"))  # type: ignore[arg-type]
        words = [
            f"{tap.hz:.0f} Hz",
            *([f"{message.stiffness_gpa:.1f} GPa"] if message.stiffness_gpa else []),
            *([f"Q {message.quality:.0f}"] if message.quality else []),
            *([tap.word] if tap.word else []),
        ]
        text = ", ".join(words) if like else f"{', '.join(words)}: another size, not compared"
        marks.append(Note(message.speed_m_s, y - 0.06, f"    {text}", "ink2" if like else "edge"))
        values.append(message.speed_m_s)
    names = [f"No. {f.piece.id}  {f.kit.library.short_name(f.piece.species)}" for f in rows]
    x = scale("m/s", values, least=1500.0)
    span = x.high - x.low
    x = type(x)(x.label, x.low, x.high + 0.35 * span, x.ticks)
    said_words = f"{len(fair)} of {len(knocked)} are of the size of No. {first.piece.id} ({base.length_mm:.0f} × {base.width_mm:.0f} × {base.thickness_mm:.1f}) and may be compared."
    table = (("number", "species", "hz", "decay_s", "length_mm", "width_mm", "thickness_mm", "speed_m_s", "stiffness_gpa", "radiation_m4_kg_s", "comparable"),) + tuple(
        (
            f.piece.id, f.piece.species, f"{t.hz:g}", "" if t.decay_s is None else f"{t.decay_s:g}", f"{t.length_mm:.0f}", f"{t.width_mm:.0f}", f"{t.thickness_mm:.1f}",
            f"{facts_of(t).speed_m_s:.0f}", "" if (e := facts_of(t).stiffness_gpa) is None else f"{e:.2f}",
            "" if (r := facts_of(t).radiation) is None else f"{r:.2f}", "yes" if f in fair else "no",
        )
        for f in [*fair, *other]
        for t in [f.piece.taps[-1]]
    )  # fmt: skip
    return Chart("taps", title, said_words, x, rows_axis(names), tuple(marks), SOURCE, table)
