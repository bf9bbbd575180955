"""A plan becomes bench steps: each saw cut with its text, the pieces in hand after it, and the cautions that apply.

Steps are worked out from the plan whenever they are shown; only which of them are done is kept.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from shapely.geometry import Polygon

from grainet.design.part import Part
from grainet.job.answer import Cut, Plan
from grainet.job.job import Job
from grainet.kit.machine import Machine, MachineKind, Work, machine_for
from grainet.plan import in_hand
from grainet.plan.marks import measured_from, straight_edge
from grainet.wood.piece import Piece
from grainet.wood.species import SpeciesLibrary
from grainet.wood.units import LengthStyle, format_length, format_mark
from grainet.wood.value import Ring
from grainet.work.cautions import Caution, cautions_for

TOOL_NAMES = {"crosscut": "Crosscut saw", "rip": "Table saw", "resaw": "Band saw", "outline": "Band saw"}
FLAT_MM = 0.5  # how far a face may be out and still lie flat on a table
NO_FACE = "no flat face to lay down yet"


@dataclass(frozen=True)
class Workpiece:
    """A piece in hand, and the part that it has become."""

    hand: in_hand.Workpiece
    part: str = ""  # letters of the part
    part_id: str = ""

    @property
    def id(self) -> str:
        """What it is called."""
        return self.hand.id

    @property
    def top_mm(self) -> float:
        """How deep below face 1 it begins."""
        return self.hand.top_mm

    @property
    def bottom_mm(self) -> float | None:
        """How deep it ends; None where it reaches the far face."""
        return self.hand.bottom_mm

    @cached_property
    def ring(self) -> Ring:
        """Its outline."""
        return tuple((x, y) for x, y in self.hand.polygon.exterior.coords[:-1])


@dataclass(frozen=True)
class Step:
    """One bench step on one piece."""

    n: int
    cut: Cut
    tool: str
    text: str
    note: str
    worked_on: Workpiece
    after: tuple[Workpiece, ...]
    cautions: tuple[Caution, ...]


def steps_for(
    job: Job,
    plan: Plan,
    piece: Piece,
    style: LengthStyle = "mm",
    library: SpeciesLibrary | None = None,
    machines: Sequence[Machine] = (),
    *,
    no_face: str = "",
) -> list[Step]:
    """The steps of one piece in order, each at the shop's machine; ``after`` are all the pieces in hand once the step is done.

    ``no_face``: why it has no flat face to lay down by what is known of it now, where the plan's own figures do not say so.
    """
    hands: dict[str, Workpiece] = {one.id: Workpiece(one) for one in in_hand.hands_after(piece, (), job.kit)}
    footprints = [(job.part(p.part), Polygon(p.polygon)) for p in plan.placements if p.piece == piece.id and p.leaf == 1]
    offcuts = {o.id: o for o in plan.offcuts if o.piece == piece.id}
    steps: list[Step] = []
    for cut in plan.cuts:
        if cut.piece not in hands:
            continue
        hand = hands.pop(cut.piece)
        for new in in_hand.results_of(cut, hand.hand, job.kit):
            part = None if new.id in offcuts else next((p for p, shape in footprints if _same(shape, new.polygon)), None)
            hands[new.id] = Workpiece(new, _mark(part, new, job), part.id if part else "")
        machine, why = _machine(machines, cut, hand, piece, no_face)
        notes = [why, _note(cut, hands, offcuts, style)]
        steps.append(
            Step(
                n=len(steps) + 1, cut=cut, tool=machine, text=_text(cut, hand, style), note="; ".join(n for n in notes if n),
                worked_on=hand, after=tuple(hands.values()), cautions=cautions_for(cut, piece, hand.ring, job.kit, library, style, fence=not why),
            )
        )  # fmt: skip
    return steps


def _machine(machines: Sequence[Machine], cut: Cut, hand: Workpiece, piece: Piece, no_face: str) -> tuple[str, str]:
    """What does a cut, by the shop's name for it or what usually does it, and why it is not the usual one: a fence wants a straight edge
    and a flat face down, and before there are such a rip is a band saw's."""
    if cut.tool == "rip" and (lacking := _no_fence(hand, piece) or no_face):
        found = next((m for m in machines if m.kind is MachineKind.BAND_SAW), None)
        return found.name if found is not None else TOOL_NAMES["resaw"], f"{lacking}: band saw, or on a sled"
    machine = machine_for(machines, Work(cut.tool))
    return (machine.name if machine is not None else TOOL_NAMES[cut.tool]), ""


def _no_fence(hand: Workpiece, piece: Piece) -> str:
    """Why a piece in hand cannot run along a table saw's fence yet; empty where it can."""
    _, y0, _, y1 = hand.hand.polygon.bounds
    if not (straight_edge(hand.hand.polygon, y0) or straight_edge(hand.hand.polygon, y1)):
        return "no straight edge for the fence yet"
    return NO_FACE if off_flat(piece) else ""


def off_flat(piece: Piece) -> bool:
    """Whether a piece rocks on a table, or bends over it."""
    flat = piece.flatness
    return max(flat.bow_mm or 0.0, flat.cup_mm or 0.0, flat.rock_mm or 0.0) > FLAT_MM


def _mark(part: Part | None, hand: in_hand.Workpiece, job: Job) -> str:
    """What is chalked on a blank: the part's letter, and which leaf it is, so that mates stay mates."""
    if part is None:
        return ""
    name = part.letter or part.shown_name
    if part.leaves == 1:
        return name
    if hand.whole_depth:
        return f"{name} ×{part.leaves}"
    leaf = min(part.leaves, 1 + round(hand.top_mm / (part.thickness_mm + job.kit.leaf_loss_mm)))
    return f"{name} leaf {leaf}"


def _same(shape: Polygon, other: Polygon) -> bool:
    return bool(shape.symmetric_difference(other).area < 0.02 * shape.area)


def _text(cut: Cut, hand: Workpiece, style: LengthStyle) -> str:
    """What to set the saw to: the edge of the kerf that the part lies against, and on which side of the mark to saw."""
    if cut.tool == "outline":
        return "Saw along the outline"
    name = cut.tool.capitalize()
    if not cut.marks:  # of a plan from before there were marks: the middle of its kerf
        return f"{name} in the middle of a kerf at {format_mark(_middle(cut, hand), style)}"
    first = cut.marks[0]
    where = "beyond the mark" if first.kerf == "after" else "short of the mark"
    return f"{name} {format_mark(first.mm, style)} from {measured_from(first)}, saw {where}"


def _middle(cut: Cut, hand: Workpiece) -> float:
    if cut.tool == "resaw":
        return (cut.depth_mm or 0.0) - hand.top_mm
    return cut.line[0][0] if cut.tool == "crosscut" else cut.line[0][1] - min(y for _, y in hand.ring)


def _note(cut: Cut, hands: dict[str, Workpiece], offcuts: Any, style: LengthStyle) -> str:
    """What becomes of the pieces that this cut gave."""
    words = []
    for name in cut.gives:
        hand = hands.get(name)
        if hand is not None and hand.part:
            words.append(f"{hand.part} comes free")
        elif name in offcuts and offcuts[name].keep:
            xs, ys = zip(*offcuts[name].polygon)
            words.append(
                f"{name} goes back, {format_length(max(xs) - min(xs), style)} × {format_length(max(ys) - min(ys), style)}"
            )
    return "; ".join(words)
