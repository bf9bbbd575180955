"""An instrument's blanks as parts of a design that the planner lays out: finished outlines, what gluing takes, and no kit losses, since
the job's kit counts those."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from grainet.design.allowances import Allowances
from grainet.design.blank import Blank
from grainet.design.blanks import blanks_of
from grainet.design.brief import Hardware
from grainet.design.clip import clipped_to, mirrored, same_mirrored
from grainet.design.design import Design
from grainet.design.instrument import Instrument
from grainet.design.joint_edge import ON_EDGE_MM
from grainet.design.let_in import recess_mm, top_outline, within_rim
from grainet.design.mends import laid_freely
from grainet.design.part import Part, Zone
from grainet.design.recipe import Recipe
from grainet.design.sums import Sum
from grainet.design.ways import FROM_ONE_BOARD, WAYS, way_of
from grainet.wood.units import LengthStyle, tell_length
from grainet.wood.value import BadEntry

LEAST_MM = 0.2  # of any finished part; thinner is a slip of the pen
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
# what making each component is worth beside the others where not everything can be made; ours
WORTH = {"body": 40.0, "cap": 60.0, "neck": 30.0, "fretboard": 20.0, "plate": 5.0}
LABELS = {
    "cap": "matched top",
    "body": "body",
    "fretboard": "fretboard",
    "plate": "head plate",
    "binding": "binding",
    "skins": "skins",
    "ears": "ears",
}
HARDWARE = (
    ("rod_depth", "rod.depth_mm"), ("rod_curve", "rod.curve_mm"), ("tuner_shank", "tuner.shank_mm"), ("nut_width", "nut_mm"),
    ("bridge_spread", "spread_mm"),
)  # fmt: skip


def planned_mm(size: Sum) -> float:
    """A size as a part of a job carries it: without the kit's own losses, which the job's kit counts."""
    return size.mm - sum(t.mm for t in size.counted if t.figure.startswith("kit."))


def design_of(g: Instrument, name: str = "") -> Design:
    """An instrument as the shop's planner takes it: its parts and one recipe that makes all of them."""
    blanks = alike(blanks_of(g, Allowances()))
    drawn = [_part(g, blank, LETTERS[k % 26], count) for k, (blank, count) in enumerate(blanks)]
    parts = tuple(_folded(part) if is_fold(g, blank, count) else part for part, (blank, count) in zip(drawn, blanks))
    needs = {part.id: count // part.per_set for part, (_, count) in zip(parts, blanks)}
    value = sum(WORTH.get(blank.component, 5.0) for blank, _ in blanks)
    rows = [(p.id, blank) for p, (blank, count) in zip(parts, blanks) if count == 2 and not blank.cut and not p.fold]
    one_board = tuple(name for name, b in rows if b.component in ("body", "cap") and way_of(g, b.component) in FROM_ONE_BOARD)
    pairs = tuple(name for name, b in rows if b.component == "body" or name in one_board)
    recipes = [Recipe(id="as drawn", value=value, needs=needs, same_piece=one_board)]
    if pairs != one_board:  # halves of one board are the better body
        recipes.insert(0, Recipe(id="halves of one board", value=value + 20, needs=needs, same_piece=pairs))
    return Design(
        id=g.id, name=name or g.shown_name, parts=parts, recipes=tuple(recipes), note=summary(g), brief=tuple(_brief(g))
    )


def is_fold(g: Instrument, blank: Blank, count: int) -> bool:
    """Whether two halves that mirror one another are ripped from one board, side by side, and moved together."""
    return count == 2 and not blank.cut and blank.component in ("body", "cap") and way_of(g, blank.component) == "fold"


def _folded(part: Part) -> Part:
    """A half as a pair that lies beside one rip: its joint is its near side, as far as that runs straight."""
    y = min(y for _, y in part.outline)
    along = [x for x, v in part.outline if v - y <= ON_EDGE_MM]
    return part.changed(fold=True, per_set=2, joint_edge=((min(along), y), (max(along), y)))


def drawable(g: Instrument) -> Instrument:
    """The instrument, if its figures go together and leave wood of every part. Raises BadEntry with the sentence that says why not."""
    for _, found in g.faults():
        raise BadEntry(f"{found[:1].upper()}{found[1:]}.")
    if g.body.rim_mm and len(left := within_rim(g)) != 1:
        found = f"leaves {len(left)} pieces for a top" if left else "leaves nothing for a top"
        raise BadEntry(f"A rim of {g.body.rim_mm:g} {found}; needs one that leaves it in one.")
    for component, way in g.ways.items():
        known = [w.name for w in WAYS.get(component, ())]
        if not known:
            raise BadEntry(f"ways: “{component}” is no component; needs one of {', '.join(WAYS)}.")
        if way not in known and way != "core and wings":
            raise BadEntry(f"ways: “{way}” is no way to make the {component}; needs one of {', '.join(known)}.")
    for blank in blanks_of(g, Allowances()):
        for name, size in (("long", blank.length), ("wide", blank.width), ("thick", blank.thickness)):
            if size.finished_mm < LEAST_MM:
                raise BadEntry(f"The {label_of(blank)} would be {size.finished_mm:.1f} {name}; needs at least {LEAST_MM:g}.")
    return g


def summary(g: Instrument, style: LengthStyle = "mm") -> str:
    """What an instrument is, in one sentence."""
    scale = " and ".join(tell_length(s, style, "g") for s in g.scale_mm)
    return f"{g.kind.capitalize()} neck, {scale} scale, {g.frets} frets."


def alike(blanks: Sequence[Blank]) -> list[tuple[Blank, int]]:
    """Blanks with how many of each; two halves that mirror one another are one part that is wanted twice."""
    found: list[tuple[Blank, int]] = []
    done: set[str] = set()
    for blank in blanks:
        if blank.part in done:
            continue
        mate = next((b for b in blanks if b.part == blank.mate), None)
        if mate is not None and same_mirrored(blank.outline, mate.outline):
            done.add(mate.part)
            low = mate if mate.joint_side == "low" else blank
            found.append((low, blank.count + mate.count))
        else:
            found.append((blank, blank.count))
    return found


def _part(g: Instrument, blank: Blank, letter: str, count: int) -> Part:
    made = blank.component in ("body", "cap", "skins")
    outline = blank.outline
    if not made:  # boxes as wide and long as gluing and snipe ask for
        long, wide = planned_mm(blank.length), planned_mm(blank.width)
        outline = ((0.0, 0.0), (long, 0.0), (long, wide), (0.0, wide))
    pin = (g.tail_mm - blank.frame_mm[0], max(0.0, -blank.frame_mm[1])) if made else None
    made_part = Part(
        id=f"{g.id}.{blank.part}", label=label_of(blank, count), letter=letter, role=blank.role, outline=outline,
        thickness_mm=planned_mm(blank.thickness), leaves=blank.leaves, value=WORTH.get(blank.component, 5.0), tilt_deg=2.0 if made else 1.0,
        zones=tuple(_zones(g, blank)) if made else (Zone(kind="critical" if blank.component == "neck" else "seen", polygon="rest"),),
        pin=pin, pin_name="bridge pin" if made else "", ring_wish_deg=60.0 if blank.role == "neck" else None, species_wish=blank.species,
    )  # fmt: skip
    return laid_freely(made_part, [m for m in g.mends if m.part in (blank.part, blank.mate)])


def label_of(blank: Blank, count: int = 1) -> str:
    """What a builder calls a blank."""
    if blank.cut:
        whole = replace(blank, cut="", part=blank.part.removesuffix(f"_{blank.cut.replace(' ', '_')}"))
        return f"{label_of(whole, count)}: {blank.cut}"
    if blank.component == "body":
        words = {"body": "body", "body.bass": "body, bass half", "body.treble": "body, treble half"}
        if blank.part in words:
            return words[blank.part] if count == 1 else "body halves"
    if blank.component == "neck":
        name = blank.part.removeprefix("neck").strip(".")
        return f"neck {name.rstrip('0123456789')}s" if blank.role == "laminate_strip" else f"neck {name}".strip()
    if blank.component in ("cap", "fretboard", "plate", "binding", "skins", "ears"):
        return LABELS[blank.component]
    if blank.component == "heel":
        return "heel block" if count == 1 else "heel block's layers"
    if blank.component == "stiffener":
        return "stiffener" if count == 1 else "stiffeners"
    if blank.component == "plates":
        return f"{blank.part.partition('.')[2].replace('_', ' ')}, let in"
    return blank.part.replace(".", ", ").replace("_", " ")


def _zones(g: Instrument, blank: Blank) -> Iterator[Zone]:
    """The body's zones as far as they lie on a slice of it, in the slice's own frame; under a top the core is hidden."""
    x0, y0 = blank.frame_mm
    xs, ys = [x for x, _ in blank.outline], [y for _, y in blank.outline]
    covered = blank.component == "body" and g.body.cap_mm > 0 and not g.body.rim_mm  # round a top that is let in the body is seen
    folded = blank.leaves == 2 or blank.for_either  # it opens to both halves: what either side asks for, both must give
    recess = (
        (Zone(kind="hidden", polygon=top_outline(g), name="under the top"),) if blank.component == "body" and recess_mm(g) else ()
    )
    for zone in (*recess, *g.body.zones):
        if zone.polygon == "rest":
            yield zone.changed(kind="hidden") if covered and zone.kind == "seen" else zone
            continue
        box = (x0 + min(xs), y0 + min(ys), x0 + max(xs), y0 + max(ys))
        for side in (zone.polygon, mirrored(zone.polygon)) if folded else (zone.polygon,):
            if ring := clipped_to(side, box):
                yield zone.changed(polygon=tuple((round(x - x0, 4), round(y - y0, 4)) for x, y in ring))


def _brief(g: Instrument) -> Iterator[Hardware]:
    for kind, path in HARDWARE:
        mm = g.figure(path)
        if mm:
            status = "guessed" if g.is_guessed(path) else g.status.get(path, "in hand")
            yield Hardware(kind=kind, mm=mm, status=status)  # type: ignore[arg-type]
    deep = max((c.depth_mm for c in g.body.cavities), default=0.0)
    if deep:
        yield Hardware(kind="cavity_depth", mm=deep, status="guessed" if g.is_guessed("body.cavities") else "in hand")
