"""What Draw up shows, worked out without a window: the lanes of blanks, the slips of figures on their places, what a change would move."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from grainet.design.allowances import Allowances
from grainet.design.blank import Blank
from grainet.design.blanks import blanks_of
from grainet.design.checks import Check, checks_of
from grainet.design.drawing import Stations, made_where, stations
from grainet.design.figures import BY_PATH
from grainet.design.formulas import fret_mm
from grainet.design.instrument import Instrument
from grainet.design.mends import mends_of, without_mends
from grainet.design.part import Part
from grainet.design.parts import LETTERS, design_of, drawable, label_of
from grainet.design.role import FACTS, Role, role_of
from grainet.design.sums import Sum
from grainet.design.ways import FROM_ONE_BOARD, WAYS, Way, way_of, ways_for, with_way
from grainet.design.weight import weight_of
from grainet.kept import kept_per_value
from grainet.kit.shop_profile import ShopProfile
from grainet.match.joint_warning import JointWarning
from grainet.wood.climate import YearAir
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, format_length
from grainet.wood.value import BadEntry


@dataclass(frozen=True)
class Lane:
    """One blank as a lane: its letter, its part and blank, its size in words, how many, and the stretch that it makes, mm from the tail."""

    letter: str
    part: Part
    blank: Blank
    label: str
    size: str
    count: int
    from_mm: float
    to_mm: float


def lanes_of(g: Instrument, kit: Allowances, style: LengthStyle) -> list[Lane]:
    """The lanes of an instrument, in the order of its design's parts."""
    return list(_lanes_of(g, kit, style))


@kept_per_value()
def _lanes_of(g: Instrument, kit: Allowances, style: LengthStyle) -> tuple[Lane, ...]:
    design = design_of(g)
    by_part = {f"{g.id}.{blank.part}": blank for blank in blanks_of(g, kit)}
    needs = design.recipes[-1].needs
    found = []
    for k, part in enumerate(design.parts):
        blank, count = by_part[part.id], needs[part.id] * part.per_set
        thick = blank.footprint or blank.thickness
        size = " × ".join(format_length(round(v, 1), style) for v in (blank.length.mm, blank.width.mm, thick.mm))
        low, high = made_where(g, blank.part)
        found.append(Lane(LETTERS[k % 26], part, blank, label_of(blank, count), size, count, low, high))
    return tuple(found)


COMPONENT_WORD = {
    "else": "else",
    "body": "body",
    "cap": "top",
    "neck": "neck",
    "head": "head",
    "fretboard": "board",
    "plate": "plate",
}


@dataclass(frozen=True)
class WayChoice:
    """A way as a chip: what may be chosen, in words, what it costs, and the words that choose it on the tape line."""

    component: str
    way: Way
    chosen: bool
    cost: str
    words: str
    makes: Instrument | None = None  # for a way out that is a figure: what the instrument would be


LEAST_BODY_MM, SHORTEST = 32.0, 0.9  # a body thinner, or a scale shorter than that share, is another instrument


def ways_out(g: Instrument, lane: Lane, short_mm: tuple[float, float, float], style: LengthStyle) -> list[WayChoice]:
    """For a blank that the rack does not give: a thinner body, a shorter scale, a narrower head, as far as one of them would make up what the
    best piece lacks in length, width and thickness (mm; 0 where it lacks nothing). Each changes the drawing, and says so."""
    length, width, thick = short_mm
    found: list[tuple[str, str, dict[str, float | list[float]]]] = []
    component = lane.blank.component
    body = float(int((g.body.thickness_mm - thick) * 2)) / 2
    if thick > 0 and component in ("body", "skins") and body >= LEAST_BODY_MM:
        found.append((f"body {format_length(body, style)}", f"body {format_length(body, style)}", {"body.thickness_mm": body}))
    if length > 0 and component in ("neck", "fretboard", "binding"):
        share = 1 - (length / 0.6 + 2) / g.scale
        scales = [float(int(s * share)) for s in g.scale_mm]
        if share >= SHORTEST:
            words = "scale " + " ".join(format_length(s, style) for s in scales)
            found.append((words, words, {"scale_mm": scales}))
    head = float(int(g.head.width_mm - width))
    if width > 0 and lane.blank.part in ("neck", "neck.head", "plate") and head > g.nut_mm + 10:
        size = f"{format_length(g.head.length_mm, style)}x{format_length(head, style)}"
        found.append((f"head {format_length(head, style)} wide", f"head {size}", {"head.width_mm": head}))
    return [
        WayChoice("else", Way(label, label, 0, 0, "changes the drawing: what the best piece lacks is taken off the figure"), chosen=False, cost="changes it", words=words, makes=g.with_figures(told))
        for label, words, told in found
    ]  # fmt: skip


def as_drawn(g: Instrument, lane: Lane) -> list[WayChoice]:
    """For a part that a way out was taken for: the part as it is drawn again."""
    component = lane.blank.part.partition(".")[0]
    kinds = [m.kind for m in mends_of(g, component)]
    if not kinds:
        return []
    why = f"takes back: {', '.join(kinds)}"
    plain = without_mends(g, component)
    words = f"{COMPONENT_WORD.get(component, component)} as drawn"
    return [WayChoice("else", Way("as drawn", "as drawn", 0, 0, why), chosen=False, cost="no way out", words=words, makes=plain)]


def to_mind(
    lanes: Sequence[Lane], pieces: Mapping[str, Piece], kit: ShopProfile, year: YearAir
) -> list[tuple[str, JointWarning]]:
    """What to mind at the joints of a guitar with the wood that the rack would give (``pieces`` by blank), gravest first: which joint, what."""
    from grainet.work.glue_ups import beside

    by_role: dict[Role | None, list[Lane]] = {}
    for lane in lanes:
        by_role.setdefault(role_of(lane.part.role), []).append(lane)
    pairs = [
        (over, under)
        for role, facts in FACTS.items()
        for below in facts.glued_onto
        for over in by_role.get(role, [])
        for under in by_role.get(below, [])
    ]
    for alike in by_role.values():
        pairs += [(a, b) for k, a in enumerate(alike) for b in alike[k + 1 :] if a.blank.component == b.blank.component]
    found: dict[str, tuple[str, JointWarning]] = {}
    for a, b in pairs:
        one, other = pieces.get(a.blank.part), pieces.get(b.blank.part)
        if one is not None and other is not None and one.id != other.id:
            for warning in beside(one, other, kit, year):
                found.setdefault(warning.text, (f"{a.label} and {b.label}", warning))
    order = {"block": 0, "warn": 1, "note": 2}
    return sorted(found.values(), key=lambda row: order[row[1].grade])


def way_choices(g: Instrument, component: str, kit: Allowances) -> list[WayChoice]:
    """The ways of a lane's component; a neck's lane has the head's ways beside its own."""
    components = {"neck": ("neck", "head"), "ears": ("neck", "head"), "skins": ("body",), "binding": ("fretboard",)}.get(
        component, (component,)
    )
    found = []
    open_ = ways_for(g)
    for one in components:
        for way in WAYS.get(one, ()):
            if way.name in open_.get(one, ()):
                word = {"one piece": "one piece", "centre strip": "centre strip", "quiet pair": "quiet pair"}.get(
                    way.name, way.name
                )
                chosen = way_of(g, one) == way.name
                found.append(WayChoice(one, way, chosen, _cost(way), f"{COMPONENT_WORD[one]} {word}"))
    return found


def with_choice(g: Instrument, choice: WayChoice) -> Instrument | None:
    """The instrument with a way chosen; None where its figures would not go together then."""
    try:
        return drawable(choice.makes if choice.makes is not None else with_way(g, choice.component, choice.way.name))
    except (BadEntry, ValueError):
        return None


def lanes_that_change(g: Instrument, other: Instrument, kit: Allowances, style: LengthStyle) -> list[Lane]:
    """The lanes that another way of making the instrument asks for and the drawn one does not."""

    def asked(lane: Lane) -> tuple[object, ...]:
        way = "from one board" if lane.count > 1 and lane.blank.way in FROM_ONE_BOARD else ""
        return lane.part.changed(letter=""), replace(lane.blank, way=way), lane.count

    known = {asked(lane) for lane in lanes_of(g, kit, style)}
    return [lane for lane in lanes_of(other, kit, style) if asked(lane) not in known]


def _cost(way: Way) -> str:
    return "no joint" if not way.joints else f"{way.joints} joint" + ("s" if way.joints > 1 else "")


SHORT = {
    "nut to the end of the board": "board", "two ends trimmed": "trims", "snipe at both ends": "snipe", "half of the body": "body", "head along the blank": "head",
    "scarf on the back": "scarf", "scarf's face": "scarf", "whole of the body": "body",
}  # fmt: skip


def short_sum(size: Sum, style: LengthStyle = "mm") -> str:
    """A size as the lane spells it: "657.8 = 459.8 board + 178 flat head + 20 trims"."""
    text = size.told(style)
    for long, short in SHORT.items():
        text = text.replace(long, short)
    return text


# slips ----------------------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class FigureSlip:
    """A figure on its place: its path and words, where it stands along, in which view and on which side of the line, how sure it is."""

    path: str
    text: str
    x_mm: float
    view: str  # plan, chain or side
    row: int  # plan: -1 above, 0 on, 1 below the centre; side: 0 on it, 1 under it
    guessed: bool

    @property
    def word(self) -> str:
        """The word that opens it on the tape line."""
        return BY_PATH[self.path].word


def slips_of(g: Instrument, style: LengthStyle) -> list[FigureSlip]:
    """Every figure that the drawing shows on its place, by importance."""
    at = stations(g)

    def length(path: str) -> str:
        value = g.figure(path)
        return " ".join(format_length(v, style) for v in value) if isinstance(value, tuple) else format_length(value, style)

    mid = (at.board_end + at.nut) / 2
    rows = [
        ("scale_mm", f"scale {length('scale_mm')}", (at.bridge + at.nut) / 2, "chain", 0), ("tail_mm", f"tail {length('tail_mm')}", at.bridge / 2, "chain", 0),
        ("nut_mm", f"nut {length('nut_mm')}", at.nut, "plan", -1), ("frets", f"{g.frets} frets", mid - 60, "plan", 0),
        ("fretboard.radius_mm", f"radius {length('fretboard.radius_mm')}", mid + 70, "plan", 0), ("spread_mm", f"spread {length('spread_mm')}", at.bridge, "plan", 1),
        ("join_fret", f"joins at fret {g.join_fret:g}", at.join + 30, "plan", 1), ("head.width_mm", f"head {length('head.length_mm')} × {length('head.width_mm')}", (at.nut + at.head_end) / 2 + 20, "plan", 1),
        ("tuner.shank_mm", f"tuners {length('tuner.shank_mm')}", at.head_end - 30, "plan", -1), ("body.thickness_mm", f"body {length('body.thickness_mm')}", 46.0, "side", 0),
        ("joint.heel_mm", f"heel {length('joint.heel_mm')}", at.board_end + 30, "side", 1), ("rod.depth_mm", f"rod {length('rod.depth_mm')}", mid, "side", 1),
        ("head.thickness_mm", f"{length('head.thickness_mm')} thick", at.head_end - 40, "side", 1), ("joint.angle_deg", f"angle {g.joint.angle_deg:g}°", at.nut + 40, "side", -1),
        ("fretboard.thickness_mm", f"board {length('fretboard.thickness_mm')}", mid + 90, "side", -1),
    ]  # fmt: skip
    if g.body.cap_mm:
        rows.append(("body.cap_mm", f"top {length('body.cap_mm')}", 150.0, "side", 0))
    return [FigureSlip(path, text, x, view, row, g.is_guessed(path)) for path, text, x, view, row in rows]


def guessed_count(g: Instrument) -> int:
    """How many of its figures are only guessed."""
    return sum(g.is_guessed(path) for path in BY_PATH)


# what a change would do -------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class KnockOn:
    """One thing that a change moves: what, from what to what, mm where it is a length, and whether it gets in the way."""

    what: str
    old: str
    new: str
    delta: str
    trouble: bool = False


def knock_ons(old: Instrument, new: Instrument, kit: Allowances, style: LengthStyle) -> list[KnockOn]:
    """Everything that a change would move, what gets in the way first: checks, blanks, stations."""
    return [*_checks_moved(old, new), *_blanks_moved(old, new, kit, style), *_stations_moved(old, new, style)]


def _checks_moved(old: Instrument, new: Instrument) -> list[KnockOn]:
    before = {c.what: c for c in checks_of(old)}
    rows: list[tuple[bool, KnockOn]] = []
    for check in checks_of(new):
        was: Check | None = before.get(check.what)
        if was is None or abs(was.found - check.found) > 0.05 or was.holds != check.holds:
            limit = f"{'at most' if check.most else 'at least'} {check.wanted:g}"
            first = f"{was.found:.1f}" if was is not None else "none"
            rows.append((check.holds, KnockOn(check.what, first, f"{check.found:.1f}, {limit}", "", not check.holds)))
    return [row for _, row in sorted(rows, key=lambda r: r[0])]


def _blanks_moved(old: Instrument, new: Instrument, kit: Allowances, style: LengthStyle) -> list[KnockOn]:
    before, after = ({lane.blank.part: lane for lane in lanes_of(g, kit, style)} for g in (old, new))
    found = []
    for part, lane in after.items():
        was = before.get(part)
        if was is None:
            found.append(KnockOn(lane.label, "not there", lane.size, "new"))
        elif was.size != lane.size or was.count != lane.count:
            moved = [
                f"{name} {b.mm - a.mm:+.1f}"
                for name, a, b in (
                    ("length", was.blank.length, lane.blank.length), ("width", was.blank.width, lane.blank.width), ("thickness", was.blank.thickness, lane.blank.thickness),
                )
                if abs(b.mm - a.mm) > 0.05
            ]  # fmt: skip
            count = [f"{was.count} to {lane.count} of them"] if was.count != lane.count else []
            found.append(KnockOn(lane.label, was.size, lane.size, ", ".join([*moved, *count])))
    found += [KnockOn(lane.label, lane.size, "not needed", "gone") for part, lane in before.items() if part not in after]
    return found


def _stations_moved(old: Instrument, new: Instrument, style: LengthStyle) -> list[KnockOn]:
    words = {
        "board_end": "end of the board",
        "join": "body joint",
        "nut": "nut",
        "head_end": "end of the head",
        "bridge": "bridge",
    }
    a, b = stations(old), stations(new)
    found = []
    for name, label in words.items():
        x0, x1 = getattr(a, name), getattr(b, name)
        if abs(x1 - x0) > 0.05:
            found.append(
                KnockOn(
                    label,
                    f"{format_length(round(x0, 1), style)} from the tail",
                    format_length(round(x1, 1), style),
                    f"{x1 - x0:+.1f}",
                )
            )
    room0, room1 = a.board_end - a.bridge, b.board_end - b.bridge
    if abs(room1 - room0) > 0.05:
        found.append(
            KnockOn(
                "room for pickups",
                format_length(round(room0, 1), style),
                format_length(round(room1, 1), style),
                f"{room1 - room0:+.1f}",
            )
        )
    return found


def stations_words(at: Stations, style: LengthStyle) -> str:
    """Where the stations lie, in words."""
    rows = (("bridge", at.bridge), ("board ends", at.board_end), ("joint", at.join), ("nut", at.nut), ("head ends", at.head_end))
    return ", ".join(f"{name} {format_length(round(x, 1), style)}" for name, x in rows)


def key_figures(g: Instrument, kit: ShopProfile) -> list[tuple[str, str]]:
    """The figures that the head shows: scale, frets, body, weight of the wood."""
    style = kit.length_style
    xs, ys = zip(*g.body.outline)
    body = f"{format_length(round(max(xs) - min(xs)), style)} × {format_length(round(max(ys) - min(ys)), style)}"
    scale = " and ".join(format_length(s, style) for s in g.scale_mm)
    kg = weight_of(g, kit.library)
    return [(scale, "scale"), (str(g.frets), "frets"), (body, "body"), (f"{kg.kg:.1f}", "kg of wood")]


def fret_rows(g: Instrument) -> list[tuple[str, str, str]]:
    """(fret, from the nut along the bass string, along the treble string) in mm, each rounded once; one scale has the first alone."""
    bass, treble = g.scale_mm[0], g.scale_mm[-1]
    rows = []
    for n in range(1, g.frets + 1):
        first = f"{fret_mm(bass, n):.1f}"
        rows.append(
            (str(n), first if bass == treble else f"bass {first}", "" if bass == treble else f"treble {fret_mm(treble, n):.1f}")
        )
    return rows
