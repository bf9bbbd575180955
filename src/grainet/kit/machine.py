"""A named machine of the shop: what it does, what its cut takes, what it holds. Several may do the same work; the first that is listed
does it. A limit that is unknown (None) refuses nothing and is shown as not known."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, Any

from pydantic import BeforeValidator, Field

from grainet.kit.cut_kit import CutKit, Kerfs, Limit, Loss, Losses, Machines
from grainet.wood.units import LengthStyle, lengths_in, tell_length
from grainet.wood.value import BadEntry, Value


class Work(StrEnum):
    """What a machine can do to a workpiece."""

    CROSSCUT = "crosscut"
    RIP = "rip"
    RESAW = "resaw"
    OUTLINE = "outline"
    FACE = "face"
    THICKNESS = "thickness"
    ROUT = "rout"
    SAND = "sand"


class MachineKind(StrEnum):
    """The kinds of machine and hand tool that builders cut and level wood with."""

    MITRE_SAW = "mitre saw"
    TABLE_SAW = "table saw"
    BAND_SAW = "band saw"
    VENEER_SAW = "veneer saw"
    HAND_SAW = "hand saw"
    PLANER = "planer"
    THICKNESSER = "thicknesser"
    HAND_PLANE = "hand plane"
    ROUTER = "router"
    SANDER = "sander"


W = Work
# what a machine of a kind does unless the shop says otherwise
USUAL_WORK: dict[MachineKind, tuple[Work, ...]] = {
    MachineKind.MITRE_SAW: (W.CROSSCUT,),
    MachineKind.TABLE_SAW: (W.RIP,),
    MachineKind.BAND_SAW: (W.RESAW, W.OUTLINE),
    MachineKind.VENEER_SAW: (W.RIP,),
    MachineKind.HAND_SAW: (W.CROSSCUT,),
    MachineKind.PLANER: (W.FACE,),
    MachineKind.THICKNESSER: (W.THICKNESS,),
    MachineKind.HAND_PLANE: (W.FACE, W.THICKNESS),
    MachineKind.ROUTER: (W.ROUT,),
    MachineKind.SANDER: (W.SAND,),
}
SAW_WORK = (W.CROSSCUT, W.RIP, W.RESAW, W.OUTLINE)


def read_work(text: str) -> tuple[Work, ...]:
    """Works parted by commas: ``rip, crosscut``. Raises BadEntry."""
    words = [w.strip().lower() for w in text.split(",") if w.strip()]
    known = {w.value for w in Work}
    for one in words:
        if one not in known:
            raise BadEntry(f"“{one}” is no work of a machine; needs some of {', '.join(w.value for w in Work)}.")
    return tuple(dict.fromkeys(Work(w) for w in words))


class Machine(Value):
    """One machine, or one with a certain blade or cutter in it. Lengths in mm; what has no figure is not known.

    ``guessed`` names the fields that nobody has confirmed yet.
    """

    id: str = Field(min_length=1, max_length=40)
    name: str = Field(min_length=1, max_length=60)
    kind: Annotated[MachineKind, BeforeValidator(MachineKind)]
    does: tuple[Annotated[Work, BeforeValidator(Work)], ...] = ()
    kerf_mm: Loss | None = None
    highest_mm: Limit | None = None  # the tallest that a saw takes, the thickest that goes in
    widest_mm: Limit | None = None
    shortest_mm: Limit | None = None  # the least length that may be fed
    thinnest_mm: Limit | None = None
    deepest_mm: Limit | None = None  # one pass at most; of a router, how deep its longest cutter goes
    bench_mm: Limit | None = None  # its tables' whole length
    lean_deg: float = Field(default=0.0, ge=0, le=15)  # how far a rough cut leans
    wander_mm: float = Field(default=0.0, ge=0, le=20)  # how far it strays from the line
    guessed: frozenset[str] = frozenset()

    def rough_margin_mm(self, thickness_mm: float) -> float:
        """What to stay clear of a line on a thickness, mm: wander + T tan(lean) (notes)."""
        return self.wander_mm + thickness_mm * math.tan(math.radians(self.lean_deg))


def machine_for(machines: Sequence[Machine], work: Work) -> Machine | None:
    """The machine that does a work: the first of those that can; None where the shop has none."""
    return next((m for m in machines if work in m.does), None)


def cut_kit(machines: Sequence[Machine], losses: Losses) -> CutKit:
    """The kit of the exchange contract as a view of machines: of each work, the machine that does it."""
    by = {work: machine_for(machines, work) for work in Work}

    def figure(work: Work, name: str) -> float | None:
        machine = by[work]
        return getattr(machine, name) if machine is not None else None

    shortest = [s for s in (figure(Work.FACE, "shortest_mm"), figure(Work.THICKNESS, "shortest_mm")) if s is not None]
    limits = Machines(
        resaw_height_mm=figure(Work.RESAW, "highest_mm"),
        planer_width_mm=figure(Work.FACE, "widest_mm"),
        thicknesser_width_mm=figure(Work.THICKNESS, "widest_mm"),
        thicknesser_least_mm=figure(Work.THICKNESS, "thinnest_mm"),
        least_length_mm=max(shortest, default=None),
    )
    kerfs = Kerfs(**{work.value: figure(work, "kerf_mm") or 0.0 for work in SAW_WORK})
    return CutKit(kerf_mm=kerfs, machines=limits, **{name: getattr(losses, name) for name in Losses.model_fields})


def machines_of(kit: CutKit, guessed: frozenset[str] = frozenset()) -> tuple[Machine, ...]:
    """The machines that a kit of the contract speaks of; ``guessed`` names fields such as ``resaw.kerf_mm``."""
    kerfs, limits, kind = kit.kerf_mm, kit.machines, MachineKind
    rows: tuple[tuple[str, str, MachineKind, tuple[Work, ...], dict[str, Any]], ...] = (
        ("mitre", "Mitre saw", kind.MITRE_SAW, (W.CROSSCUT,), {"kerf_mm": kerfs.crosscut}),
        ("table", "Table saw", kind.TABLE_SAW, (W.RIP,), {"kerf_mm": kerfs.rip}),
        ("resaw", "Band saw, wide blade", kind.BAND_SAW, (W.RESAW,), {"kerf_mm": kerfs.resaw, "highest_mm": limits.resaw_height_mm}),
        ("curves", "Band saw, narrow blade", kind.BAND_SAW, (W.OUTLINE,), {"kerf_mm": kerfs.outline}),
        ("planer", "Planer", kind.PLANER, (W.FACE,), {"widest_mm": limits.planer_width_mm, "shortest_mm": limits.least_length_mm}),
        ("thicknesser", "Thicknesser", kind.THICKNESSER, (W.THICKNESS,), {
            "widest_mm": limits.thicknesser_width_mm, "thinnest_mm": limits.thicknesser_least_mm, "shortest_mm": limits.least_length_mm}),
        ("router", "Router", kind.ROUTER, (W.ROUT,), {}),
    )  # fmt: skip
    return tuple(
        Machine(
            id=id_, name=name, kind=sort, does=does, guessed=frozenset(f for f in figures if f"{id_}.{f}" in guessed), **figures
        )
        for id_, name, sort, does, figures in rows
    )


# what a machine refuses ------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Stuff:
    """The sizes of what is to be worked, mm."""

    length_mm: float
    width_mm: float
    thickness_mm: float


def _over(value: float, limit: float | None, what: str, name: str) -> list[str]:
    if limit is None or value <= limit + 1e-9:
        return []
    form = (
        ".0f" if round(value) > round(limit) else ".1f" if round(value, 1) > round(limit, 1) else ".4f"
    )  # as fine as tells them apart
    return [f"{value:{form}} {what}, the {name} takes at most {limit:{form}}"]


def _under(value: float, limit: float | None, what: str, name: str) -> list[str]:
    return [f"{value:g} {what}, the {name} takes at least {limit:g}"] if limit is not None and value < limit - 1e-9 else []


def _sawn(m: Machine, s: Stuff, name: str) -> list[str]:
    return _over(s.thickness_mm, m.highest_mm, "thick", name)


def _resawn(m: Machine, s: Stuff, name: str) -> list[str]:
    return _over(s.width_mm, m.highest_mm, "high", name)


def _planed(m: Machine, s: Stuff, name: str) -> list[str]:
    found = _over(s.width_mm, m.widest_mm, "wide", name) + _under(s.length_mm, m.shortest_mm, "long", name)
    if m.bench_mm is not None and s.length_mm > 2 * m.bench_mm:
        found.append(f"{s.length_mm:.0f} long on a bench of {m.bench_mm:.0f}: support it or plane by hand")
    return found


def _thicknessed(m: Machine, s: Stuff, name: str) -> list[str]:
    return (
        _over(s.width_mm, m.widest_mm, "wide", name)
        + _over(s.thickness_mm, m.highest_mm, "thick", name)
        + _under(s.thickness_mm, m.thinnest_mm, "thick", name)
        + _under(s.length_mm, m.shortest_mm, "long", name)
    )


def _routed(m: Machine, s: Stuff, name: str) -> list[str]:
    return _over(s.thickness_mm, m.deepest_mm, "deep", name)


NAME = "\0"  # stands for a machine's name, in which there may be figures too
REFUSES: dict[Work, Callable[[Machine, Stuff, str], list[str]]] = {
    Work.CROSSCUT: _sawn, Work.RIP: _sawn, Work.RESAW: _resawn, Work.OUTLINE: _sawn, Work.FACE: _planed,
    Work.THICKNESS: _thicknessed, Work.ROUT: _routed, Work.SAND: _thicknessed,
}  # fmt: skip


def refusals(machines: Sequence[Machine], work: Work, stuff: Stuff, style: LengthStyle = "mm") -> list[str]:
    """Why no machine of this shop may do a work on a piece, each as a sentence with its numbers as the house reads them; empty where one may, or where nothing
    is known against it. It never says that a cut is safe: the machine's own manual does."""
    able = [m for m in machines if work in m.does]
    found = [[lengths_in(text, style).replace(NAME, m.name.lower()) for text in REFUSES[work](m, stuff, NAME)] for m in able]
    return [] if not found or not all(found) else [text for each in found for text in each]


def remarks(
    machines: Sequence[Machine], rule_mm: float | None, skim_mm: float, length_mm: float, style: LengthStyle = "mm"
) -> list[str]:
    """What the shop's own tools mean for a part without refusing it: the passes a skim takes, a rule shorter than the part."""
    found: list[str] = []
    planer = machine_for(machines, Work.FACE)
    if planer is not None and planer.deepest_mm is not None and skim_mm > planer.deepest_mm + 1e-9:
        passes = math.ceil(skim_mm / planer.deepest_mm - 1e-9)
        skim, deepest = (tell_length(mm, style, "g") for mm in (skim_mm, planer.deepest_mm))
        found.append(f"{skim} off a face is {passes} passes of {deepest} at most")
    if rule_mm is not None and length_mm > rule_mm + 1e-9:
        found.append(
            f"{tell_length(length_mm, style)} long, the longest rule {tell_length(rule_mm, style)}: a stretched line shows its straightness"
        )
    return found
