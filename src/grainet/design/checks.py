"""What an instrument's own figures must leave: wood under the rod and the cavities, an edge for the slots, a head that the tuners grip."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from grainet.design import formulas
from grainet.design.blanks import board_end_mm, board_end_width_mm
from grainet.design.clip import clipped
from grainet.design.depth_map import depth_map, is_chamber
from grainet.design.drawing import board_half_mm, neck_depth_mm, stations
from grainet.design.instrument import Instrument, Plated
from grainet.design.let_in import proud, recess_mm
from grainet.design.templates import walls_of
from grainet.kept import kept_per_value
from grainet.wood.value import Point


@dataclass(frozen=True)
class Check:
    """One figure that follows from others: what was found, what is the least or the most, the sum in words and the figure to look at."""

    what: str
    found: float
    wanted: float
    most: bool = False
    why: str = ""
    figure: str = ""

    @property
    def holds(self) -> bool:
        """Whether it is kept."""
        return self.found <= self.wanted + 1e-9 if self.most else self.found >= self.wanted - 1e-9

    @property
    def text(self) -> str:
        """In words: "wood under the rod 5, at least 3"."""
        return f"{self.what} {self.found:.1f}, {'at most' if self.most else 'at least'} {self.wanted:g}"


@kept_per_value()
def checks_of(g: Instrument) -> tuple[Check, ...]:
    """Every check of an instrument."""
    return (*_rod(g), *_edge(g), *_floors(g), *_let_in(g), *_channels(g), *_walls(g), *_shaped(g), *_fit(g))


def _rod(g: Instrument) -> Iterator[Check]:
    for name, depth, path in (
        ("nut", g.neck.depth_nut_mm, "neck.depth_nut_mm"),
        ("heel", g.neck.depth_heel_mm, "neck.depth_heel_mm"),
    ):
        left = formulas.wood_under_rod_mm(depth, g.rod.depth_mm, g.rod.curve_mm, g.neck.back_curve_mm)
        why = f"{depth:g} deep − {g.rod.depth_mm:g} rod − {g.rod.curve_mm:g} curve − {g.neck.back_curve_mm:g} back curve"
        what = "wood under the rod" if name == "nut" else "wood under the rod at the heel"
        yield Check(what, left, formulas.WOOD_UNDER_ROD_MM, why=why, figure=path)


def _edge(g: Instrument) -> Iterator[Check]:
    board, wide = g.fretboard, board_end_width_mm(g) - 2 * g.fretboard.binding_mm
    radius = board.radius_mm[-1]
    if wide > 2 * radius:
        yield Check("radius", radius, wide / 2, why="a board is at most twice its radius wide", figure="fretboard.radius_mm")
        return
    edge = formulas.board_edge_mm(board.thickness_mm, radius, wide)
    why = f"{board.thickness_mm:g} thick − {formulas.crown_drop_mm(radius, wide):.2f} for the radius {radius:g} across {wide:.1f}"
    yield Check("fretboard's edge", edge, board.slot_mm + formulas.SLOT_RESERVE_MM, why=why, figure="fretboard.thickness_mm")


def _floors(g: Instrument) -> Iterator[Check]:
    for cavity in g.body.cavities:
        left = g.body.thickness_mm - cavity.depth_mm
        why = f"{g.body.thickness_mm:g} body − {cavity.depth_mm:g} {cavity.name}"
        yield Check(f"floor under the {cavity.name}", left, formulas.FLOOR_UNDER_CAVITY_MM, why=why, figure="body.thickness_mm")


def _let_in(g: Instrument) -> Iterator[Check]:
    """The wood under every recess: of the top, and of each plate in the neck's back."""
    if deep := recess_mm(g):
        why = f"{g.body.thickness_mm:g} body − {deep:g} recess; the top stands {proud(g.body.cap_mm, deep)}"
        left, least = g.body.thickness_mm - deep, formulas.FLOOR_UNDER_CAVITY_MM
        yield Check("floor under the top", left, least, why=why, figure="body.recess_mm")
    for plate in g.plates:
        depth = _least_depth_mm(g, plate)
        rod = g.rod.depth_mm + g.rod.curve_mm if g.rod.adjusts != "none" else 0.0
        stands = proud(plate.thickness_mm, plate.depth_mm)
        why = f"{depth:.1f} deep there − {rod:g} rod − {plate.depth_mm:g} recess; it stands {stands}"
        left = depth - rod - plate.depth_mm
        yield Check(f"wood over the {plate.name}", left, formulas.WOOD_UNDER_ROD_MM, why=why, figure="plates")
        yield from _on_the_neck(g, plate.name, plate.at_mm, plate.length_mm, plate.width_mm, "plates")


def _on_the_neck(g: Instrument, name: str, at_mm: float, long_mm: float, wide_mm: float, figure: str) -> Iterator[Check]:
    """Whether what is let into the neck lies within it: from the nut to its end, and across where it is narrowest."""
    at = stations(g)
    ends = at.nut - at.board_end
    why = f"begins {at_mm:g} from the nut, {long_mm:g} long; the neck is {ends:.0f}"
    yield Check(f"end of the {name} from the nut", at_mm + long_mm, round(ends, 1), most=True, why=why, figure=figure)
    across = 2 * board_half_mm(g, at.nut - at_mm)
    yield Check(
        f"{name} across", wide_mm, round(across, 1), most=True, why=f"the neck is {across:.1f} across there", figure=figure
    )


def _channels(g: Instrument) -> Iterator[Check]:
    """The walls between the rod's channel and the stiffeners', and the wood under those."""
    rod = g.stiffener
    if rod is None:
        return
    if g.rod.adjusts != "none" and rod.beside_mm:
        wall = rod.beside_mm - (g.rod.width_mm + rod.width_mm) / 2
        why = f"axes {rod.beside_mm:g} apart − half of {g.rod.width_mm:g} and of {rod.width_mm:g}"
        yield Check("wall between rod and stiffener", wall, LEAST_WALL_MM, why=why, figure="stiffener")
    across = 2 * rod.beside_mm + rod.width_mm
    yield from _on_the_neck(g, "stiffeners", 0.0, rod.length_mm, across, "stiffener")
    left = g.neck.depth_nut_mm - rod.depth_mm - g.neck.back_curve_mm
    yield Check(
        "wood under the stiffener",
        left,
        formulas.WOOD_UNDER_ROD_MM,
        why=f"{g.neck.depth_nut_mm:g} deep − {rod.depth_mm:g}",
        figure="stiffener",
    )


def _least_depth_mm(g: Instrument, plate: Plated) -> float:
    """The neck's least depth where a plate lies, without the fretboard."""
    nut = stations(g).nut
    return min(neck_depth_mm(g, nut - plate.at_mm - plate.length_mm * k / 4) for k in range(5))


def _shaped(g: Instrument) -> Iterator[Check]:
    """What the shaping leaves: of the body where it is thinnest, of the top over each chamber, of the floor under each cavity."""
    if not g.body.shaping:
        return
    deep = depth_map(g)
    left, at = deep.least_left()
    yield Check("body where it is cut deepest", left, formulas.FLOOR_UNDER_CAVITY_MM, why=place_words(at), figure="body.shaping")
    for cavity in g.body.cavities:
        here = deep.within(cavity)
        if not here.any():
            continue
        if is_chamber(cavity, g):
            roof = float((deep.top - deep.front)[here].min())
            why = f"{g.body.cap_mm:g} top − {g.body.cap_mm - roof:.1f} cut in front"
            yield Check(f"top over the {cavity.name}", roof, LEAST_WALL_MM, why=why, figure="body.shaping")
        if behind := float(deep.back[here].max()):
            over = g.body.cap_mm if is_chamber(cavity, g) else 0.0
            floor = g.body.thickness_mm - cavity.depth_mm - over - behind
            why = f"{g.body.thickness_mm:g} body − {cavity.depth_mm + over:g} {cavity.name} − {behind:.1f} cut behind"
            yield Check(
                f"floor under the {cavity.name}, shaped", floor, formulas.FLOOR_UNDER_CAVITY_MM, why=why, figure="body.shaping"
            )


def place_words(at: Point) -> str:
    """A place on the body in words: "120 from the tail, 60 to the treble"."""
    x, y = at
    side = "on the centre line" if abs(y) < 1.5 else f"{abs(y):.0f} to the {'bass' if y > 0 else 'treble'}"
    return f"{x:.0f} from the tail, {side}"


def _walls(g: Instrument) -> Iterator[Check]:
    """The thinnest wall, with its place."""
    for wall in walls_of(g)[:1]:
        yield Check(f"wall between {wall.between}", wall.mm, LEAST_WALL_MM, why=place_words(wall.at), figure="body.cavities")


def _fit(g: Instrument) -> Iterator[Check]:
    yield Check(
        "head", g.head.thickness_mm, g.tuner.shank_mm, most=True, why="what the tuners' shanks grip", figure="head.thickness_mm"
    )
    if g.kind == "bolt-on":
        why = f"{g.body.thickness_mm:g} body − the pocket, which is {g.joint.heel_mm:g} heel less what stands out"
        yield Check(
            "body under the pocket", g.body.thickness_mm - g.joint.heel_mm, FLOOR_UNDER_POCKET_MM, why=why, figure="joint.heel_mm"
        )
    end = g.tail_mm + g.scale - board_end_mm(g)  # where the board ends, from the tail
    neck = max((x for x, y in clipped(g.body.outline, 1, 0.0, above=True) if y == 0.0), default=0.0)
    if g.kind != "through":
        why = f"the board ends {end:.1f} from the tail, the body at {neck:.1f}"
        yield Check("neck within the body", neck - end, 0.0, why=why, figure="tail_mm")


LEAST_WALL_MM = 3.0  # between two hollows, or a hollow and the rim; shipped judgement
FLOOR_UNDER_POCKET_MM = 12.0  # shipped judgement: what screws or bolts hold in
