"""The instrument as a tree, read upward: stock parts are joined into members, members into the instrument, each joint after those below it.

What goes down the tree (sizes through every loss) are the blanks; this is what comes up: which parts are glued to which, how, over what
area, and in which order.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from grainet.design import formulas
from grainet.design.allowances import Allowances
from grainet.design.blank import Blank
from grainet.design.blanks import blanks_of, neck_depth
from grainet.design.clip import area_mm2
from grainet.design.instrument import Instrument
from grainet.design.ways import way_of

JointKind = Literal["edge", "face", "scarf", "stack", "insert"]
MIRRORED = {"resaw", "fold"}  # ways whose two halves open like a book


@dataclass(frozen=True)
class Joint:
    """How members become one: its kind, whether the two sides open like a book, the glued area, how many glue lines it has."""

    kind: JointKind
    area_mm2: float
    lines: int = 1
    bookmatched: bool = False


@dataclass(frozen=True)
class Member:
    """A part of the tree: stock (its blank, of which ``count`` are taken), or made from others by a joint. A member without either is only
    put together, such as a bolted neck and its body."""

    name: str
    label: str
    blank: Blank | None = None
    count: int = 1
    joint: Joint | None = None
    members: tuple[Member, ...] = ()

    @property
    def stock(self) -> Iterator[Member]:
        """The stock parts that it is made from."""
        if self.blank is not None:
            yield self
        for one in self.members:
            yield from one.stock

    @property
    def glue_ups(self) -> Iterator[Member]:
        """The members that are glued, each after those that it is made from."""
        for one in self.members:
            yield from one.glue_ups
        if self.joint is not None:
            yield self


def tree_of(g: Instrument, kit: Allowances) -> Member:
    """The tree of an instrument."""
    blanks = blanks_of(g, kit)
    neck = _neck(g, _of(blanks, "neck", "ears", "fretboard", "plate", "binding", "plates", "heel", "stiffener"))
    body = _body(g, _of(blanks, "body", "cap", "skins"), neck if g.kind == "through" else None)
    name = g.shown_name
    if g.kind == "through":
        return Member(name, name, members=(body,))
    if g.kind == "set":
        area = 2 * g.joint.length_mm * g.joint.heel_mm + g.joint.length_mm * _wide(neck)
        return Member(name, f"neck into the body of {name}", joint=Joint("insert", area), members=(body, neck))
    return Member(name, name, members=(body, neck))


def _of(blanks: Sequence[Blank], *components: str) -> list[Blank]:
    return [b for b in blanks if b.component in components]


def _stock(blank: Blank, label: str = "") -> Member:
    return Member(blank.part, label or blank.part.replace(".", ", ").replace("_", " "), blank, blank.count * blank.leaves)


def _area(blank: Blank) -> float:
    return abs(area_mm2(blank.outline)) or blank.length.finished_mm * blank.width.finished_mm


def _wide(member: Member) -> float:
    return max((one.blank.width.finished_mm for one in member.stock if one.blank is not None), default=0.0)


def _side(blank: Blank) -> float:
    """The glued area of a long edge."""
    return blank.length.finished_mm * blank.thickness.finished_mm


# body -----------------------------------------------------------------------------------------------------------------
def _body(g: Instrument, blanks: list[Blank], neck: Member | None) -> Member:
    panel = _panel(g, [b for b in blanks if b.component == "body"], neck)
    skins = [_stock(b, "skins") for b in blanks if b.component == "skins"]
    if skins:
        area = sum(_area(s.blank) for s in skins if s.blank is not None)
        panel = Member("body skinned", "skins on the body", joint=Joint("face", 2 * area, 2), members=(panel, *skins))
    caps = [b for b in blanks if b.component == "cap"]
    if not caps:
        return panel
    way = way_of(g, "cap")
    edge = sum(_side(b) for b in caps) / max(1, len(caps))
    top = Member("top", "the top's halves", joint=Joint("edge", edge, 1, way in MIRRORED), members=tuple(_stock(b) for b in caps))
    covered = sum(_area(b) * b.leaves * b.count for b in caps)
    kind: JointKind = "insert" if g.body.rim_mm else "face"
    words = "the top into its recess" if g.body.rim_mm else "the top on the body"
    return Member("body with its top", words, joint=Joint(kind, covered), members=(panel, top))


def _panel(g: Instrument, blanks: list[Blank], neck: Member | None) -> Member:
    """The body's pieces side by side; of a through neck its wings on either side of it."""
    slices = _slices(blanks)
    pieces = slices if neck is None else [*slices[:1], neck, *slices[1:]]
    if len(pieces) == 1:
        return pieces[0]
    lines = len(pieces) - 1
    area = lines * max(_side(b) for b in blanks)
    words = "wings to the neck" if neck is not None else "the body's pieces"
    joint = Joint("edge", area, lines, way_of(g, "body") in MIRRORED)
    return Member("body", words, joint=joint, members=tuple(pieces))


def _slices(blanks: list[Blank]) -> list[Member]:
    """Each slice of the body; one that was mended is first made whole from its own pieces."""
    found: dict[str, list[Blank]] = {}
    for blank in blanks:
        found.setdefault(blank.part.removesuffix(f"_{blank.cut.replace(' ', '_')}") if blank.cut else blank.part, []).append(
            blank
        )
    return [_whole(name, pieces) for name, pieces in found.items()]


def _whole(name: str, pieces: list[Blank]) -> Member:
    if len(pieces) == 1:
        return _stock(pieces[0])
    flat = any(b.cut in ("layer", "skin") for b in pieces)
    kind: JointKind = "stack" if flat else "insert" if any(b.cut == "insert" for b in pieces) else "edge"
    lines = len(pieces) - 1 if not flat else sum(b.count for b in pieces if b.cut)
    area = lines * (min(map(_area, pieces)) if flat else max(map(_side, pieces)))
    label = f"{name.replace('.', ', ').replace('_', ' ')}, joined"
    return Member(name, label, joint=Joint(kind, area, lines), members=tuple(_stock(b) for b in pieces))


# neck -----------------------------------------------------------------------------------------------------------------
def _neck(g: Instrument, blanks: list[Blank]) -> Member:
    shaft = [b for b in blanks if b.component == "neck" and not b.part.startswith("neck.head")]
    neck = _shaft(g, shaft)
    for head in (b for b in blanks if b.part.startswith("neck.head")):
        neck = _with_head(g, neck, head)
    ears = [b for b in blanks if b.component == "ears"]
    if ears:
        area = sum(_side(b) * b.count for b in ears)
        lines = sum(b.count for b in ears)
        neck = Member("neck with ears", "ears on the head", joint=Joint("edge", area, lines), members=(neck, *map(_stock, ears)))
    for blank in (b for b in blanks if b.component == "plate"):
        plates = Joint("face", _area(blank) * blank.count)
        neck = Member("neck with its plate", "the plate on the head", joint=plates, members=(neck, _stock(blank, "head plate")))
    for blank in (b for b in blanks if b.component == "plates"):
        words = f"{blank.part.partition('.')[2].replace('_', ' ')} into the neck's back"
        neck = Member(f"neck with {blank.part}", words, joint=Joint("insert", _area(blank)), members=(neck, _stock(blank)))
    for blank in (b for b in blanks if b.component == "heel"):
        kind: JointKind = "stack" if blank.count > 1 else "face"
        joint = Joint(kind, _area(blank) * blank.count, blank.count)
        neck = Member("neck with its heel", "the heel block on the neck", joint=joint, members=(neck, _stock(blank)))
    for blank in (b for b in blanks if b.component == "stiffener"):
        sides = 2 * blank.width.finished_mm + blank.thickness.finished_mm
        joint = Joint("insert", blank.length.finished_mm * sides * blank.count, blank.count)
        neck = Member("neck with stiffeners", "the stiffeners into the neck", joint=joint, members=(neck, _stock(blank)))
    return _with_board(neck, blanks)


def _shaft(g: Instrument, blanks: list[Blank]) -> Member:
    """The shaft out of its strips or layers; as it is where it is one piece."""
    spare = {"accent": g.spare.get("accent", 0), "strip": g.spare.get("strip", 0)}
    rows = [_stock(b) for b in blanks]
    used = sum(r.count for r in rows) - sum(
        spare["accent" if "accent" in r.name else "strip"] for r in rows if "strips" in _way(r)
    )
    if used <= 1 or not rows:
        return rows[0] if len(rows) == 1 else Member("neck", "neck", members=tuple(rows))
    way = _way(rows[0])
    kind: JointKind = "stack" if way == "layers" else "face"
    each = max(_area(b) for b in blanks) if way == "layers" else max(b.length.finished_mm * b.width.finished_mm for b in blanks)
    words = "the neck's layers" if way == "layers" else "the neck's strips" if way == "strips" else "the neck, joined"
    return Member("neck", words, joint=Joint(kind, each * (used - 1), used - 1), members=tuple(rows))


def _way(member: Member) -> str:
    return member.blank.way if member.blank is not None else ""


def _with_head(g: Instrument, neck: Member, head: Blank) -> Member:
    if g.head.route == "scarf":
        area = formulas.scarf_face_mm(neck_depth(g).mm, g.head.angle_deg) * min(head.width.finished_mm, _wide(neck) or 1e9)
        return Member("neck with its head", "the scarf", joint=Joint("scarf", area), members=(neck, _stock(head, "head")))
    joint = Joint("stack", head.length.finished_mm * head.width.finished_mm)
    return Member("neck with its head", "the block under the head", joint=joint, members=(neck, _stock(head, "head")))


def _with_board(neck: Member, blanks: list[Blank]) -> Member:
    """The fretboard, bound where it is, on the neck."""
    boards = [b for b in blanks if b.component == "fretboard"]
    if not boards:
        return neck
    board = _stock(boards[0], "fretboard")
    binding = [b for b in blanks if b.component == "binding"]
    if binding:
        lines = sum(b.count for b in binding)
        area = sum(b.length.finished_mm * boards[0].thickness.finished_mm * b.count for b in binding)
        board = Member(
            "bound fretboard",
            "the binding on the fretboard",
            joint=Joint("edge", area, lines),
            members=(board, *map(_stock, binding)),
        )
    joint = Joint("face", _area(boards[0]))
    return Member("neck with its board", "the fretboard on the neck", joint=joint, members=(neck, board))
