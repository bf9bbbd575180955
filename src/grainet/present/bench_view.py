"""One operation for a bench at two metres: what does it, what is done to what, the one number, what follows, what is agreed to first."""

from __future__ import annotations

from dataclasses import dataclass

from grainet.session.making import AtTheBench, called, letters_on
from grainet.session.resting import what_it_says
from grainet.session.scraps import scrap_for
from grainet.wood.units import LengthStyle, format_length, format_mark, tell_gap
from grainet.work.operation import Operation
from grainet.work.other_ways import TAPED

TITLES: dict[str, str] = {
    "mark": "Mark", "joint": "Joint edge", "shoot": "Shoot the edges", "trial": "Trial cut", "fit": "Dry fit", "dry": "Dry run", "glue": "Glue", "cure": "In clamps",
    "rest": "Rest", "slot": "Slot", "cavity": "Rout", "drill": "Drill", "taper": "Taper", "bevel": "Bevel", "insert": "Insert", "stabilise": "Make firm",
    "profile": "Shape", "measure": "Measure", "photograph": "Photograph", "print": "Print", "shelve": "Put back", "crosscut": "Crosscut", "rip": "Rip",
    "resaw": "Resaw", "outline": "Outline", "flatten": "Level", "thickness": "Thickness",
}  # fmt: skip
# what → says: what is true once it is pressed
DONE_WORDS: dict[str, str] = {
    "mark": "marked", "glue": "start the clock", "cure": "clamps off", "rest": "rested", "fit": "it closes", "dry": "all fit", "measure": "read", "photograph": "taken",
    "shelve": "on the shelf", "crosscut": "cut", "rip": "cut", "resaw": "cut", "outline": "cut", "trial": "it fits", "drill": "drilled",
}  # fmt: skip
TAKEN = "off the face"


@dataclass(frozen=True)
class Tick:
    """One thing that is agreed to, or read off the wood, with a press of its own: its code and its words."""

    code: str
    text: str


@dataclass(frozen=True)
class BenchStep:
    """What stands on the screen for one operation."""

    operation: Operation
    title: str
    what: str
    number: str  # empty where there is none
    unit: str
    then: str
    ticks: tuple[Tick, ...]
    held: str  # why it cannot be done now; empty where it can
    done: bool
    next_word: str
    measures: str = ""  # what ↑ asks for; empty where nothing is measured
    figure_mm: float | None = None


def bench_step(bench: AtTheBench, one: Operation, style: LengthStyle) -> BenchStep:
    """What an operation shows."""
    number, unit, mm = _number(bench, one, style)
    done = bench.done(one)
    held = "" if done else next((h.text for h in bench.holds(one)), "")
    return BenchStep(
        one, _title(one), _what(one, style), number, unit, _then(bench, one), () if done else _ticks(bench, one), held, done,
        "on" if done else _done_word(one), _measures(one), mm,
    )  # fmt: skip


def _done_word(one: Operation) -> str:
    """What is true once it is pressed; sawn wood then lies on sticks, and its hours begin."""
    return "on sticks" if _sawn_rest(one) else DONE_WORDS.get(one.kind, "done")


def _sawn_rest(one: Operation) -> bool:
    return one.kind == "rest" and not one.by_the_glue


def _title(one: Operation) -> str:
    name = one.machine or TITLES[one.kind]
    return name[:1].upper() + name[1:].partition(",")[0]


def _what(one: Operation, style: LengthStyle) -> str:
    some = ", ".join(called(w) for w in one.works_on)
    if one.kind == "trial" and "slot_mm" in one.settings:
        wide, deep = (format_length(float(mm), style) for mm in one.settings["slot_mm"])
        return f"trial slot for {some}: {wide} wide, {deep} deep"
    if one.marks:
        side = "saw beyond" if one.marks[0].kerf == "after" else "saw short of it"
        where = f"{one.marks[0].from_} to the fence" if one.kind in ("rip", "resaw") else f"from {one.marks[0].from_}"
        return f"{some}: {where}, {side}"
    if one.kind == "mark" and ": " in one.text:
        return f"draw on {some}: {one.text.partition(': ')[2]}"
    words = {"mark": "mark", "flatten": "level", "thickness": "plane", "glue": "glue", "cure": "stays clamped:", "rest": "rests:", "shoot": "shoot", "joint": "straighten",
             "fit": "fit", "dry": "clamp", "outline": "saw along the line:", "shelve": "put back"}  # fmt: skip
    return f"{words.get(one.kind, TITLES[one.kind].lower())} {some}"


def _number(bench: AtTheBench, one: Operation, style: LengthStyle) -> tuple[str, str, float | None]:
    """The one number, its unit and what it is, and the same in mm where it is a length."""
    unit = "mm" if style == "mm" else "inches"
    if one.marks:
        mark = one.marks[0]
        where = {"rip": "to the blade", "resaw": "to the blade"}.get(one.kind, "to the mark")
        return format_mark(mark.mm, style).removesuffix(" in"), f"{unit} {where}", mark.mm
    settings = one.settings
    for key, words in (
        ("thickness_mm", "thick"),
        ("depth_mm", "deep"),
        ("middle_mm", "open in the middle at most"),
        ("deep_mm", "deep at the rim"),
    ):
        if key in settings:
            mm = float(settings[key])
            return (
                (tell_gap(mm, style) if key == "middle_mm" else format_mark(mm, style).removesuffix(" in")),
                f"{unit} {words}",
                mm,
            )
    if one.kind in ("flatten", "joint"):
        mm = next(iter(one.takes_mm.values()), 0.0)
        return format_mark(mm, style).removesuffix(" in"), f"{unit} {TAKEN if one.kind == 'flatten' else 'off the edge'}", mm
    if one.kind == "glue":
        wanted = int(settings.get("clamps", 0))
        if settings.get("way") == TAPED:
            return str(wanted), "strips of strong tape, drawn tight over the seam", None
        here = f"; {len(one.clamps)} are here" if len(one.clamps) < wanted else ""
        return str(wanted), f"clamps, {float(settings.get('force_kn', 0.0)) / max(1, wanted):.1f} kN each{here}", None
    if one.kind in ("cure", "rest"):
        return _hours(bench, one)
    return "", "", None


def _hours(bench: AtTheBench, one: Operation) -> tuple[str, str, float | None]:
    until = bench.over_at(one)
    minutes = one.wait_minutes if until is None else max(0.0, (until - bench.now).total_seconds() / 60)
    return (f"{minutes:.0f}", "minutes", None) if minutes < 100 else (f"{minutes / 60:.0f}", "hours", None)


def _then(bench: AtTheBench, one: Operation) -> str:
    """What this shop has learnt of such a step; else what comes after it at the same setting, or at all; of a trial the rest that it is cut
    in; of wood that rests what its readings say."""
    if not bench.done(one) and (learnt := _learnt(bench, one)):
        return learnt
    if one.kind == "trial" and not bench.done(one):
        return _scrap(bench, one)
    if one.kind == "rest" and (told := next((t for w in one.works_on if (t := what_it_says(bench, w))), "")):
        return told
    later = [o for o in bench.left if o.id != one.id]
    same = next((o for o in later if one.batch and o.batch == one.batch), None)
    if same is not None:
        return f"then {', '.join(called(w) for w in same.works_on)}, the same setting"
    after = next((o for o in later if one.id in o.needs), None)
    return f"then {TITLES[after.kind].lower()} {', '.join(called(w) for w in after.works_on)}" if after is not None else ""


def _learnt(bench: AtTheBench, one: Operation) -> str:
    """What went wrong three times at such a step, or that its edge is to be sharpened first."""
    from grainet.session.learning import board_of
    from grainet.session.mishaps import sharpen_first

    again = next((c.text for c in one.cautions if c.code.startswith("again_")), "")
    return again or sharpen_first(bench.shop, one.machine, board_of(bench, one))


def _scrap(bench: AtTheBench, one: Operation) -> str:
    found = scrap_for(bench, one)
    if found is None:
        return "no rest of this wood lies on the rack: the end of the part's own board will do"
    piece, same = found
    x0, y0, x1, y1 = piece.extents
    style = bench.shop.kit.length_style
    size = f"{format_length(round(x1 - x0), style)} × {format_length(round(y1 - y0), style)}"
    return f"in No. {piece.id}, a rest of the same {'board' if same else 'species'}, {size}"


def _ticks(bench: AtTheBench, one: Operation) -> tuple[Tick, ...]:
    """Grade A cautions, and of a glue-up the letters in their order."""
    found = [Tick(c.code, c.text) for c in one.cautions if c.grade == "A"]
    if one.kind == "glue":
        found += [Tick(f"letter {letter}", f"{letter} is in hand") for letter in letters_on(bench.making, one)]
    return tuple(found)


def _measures(one: Operation) -> str:
    if one.kind in ("flatten", "joint"):
        return "how much came off"
    if one.kind in ("crosscut", "rip", "resaw", "thickness"):
        return "what it measures now"
    return {
        "rest": "how far it is from straight",
        "fit": "what is open in the middle",
        "trial": "how far the trial is off",
        "measure": "what it reads",
    }.get(one.kind, "")
