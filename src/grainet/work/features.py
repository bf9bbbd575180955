"""What an instrument's own figures ask of its members: the rod's slot, fret slots, taper, tuner holes, cavities, bevels, the outline.

The rules between them are named: a slot is cut while the sides are parallel, holes that locate come before the shape that takes their
reference, cavities before the skins or after by the house's school, thickness before the profile.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from grainet.design.clip import area_mm2
from grainet.design.depth_map import is_chamber
from grainet.design.instrument import Cavity, Instrument
from grainet.design.templates import pocket_of
from grainet.kit.machine import MachineKind, Work
from grainet.work.bench import Bench
from grainet.work.capacity import able
from grainet.work.joining import Made
from grainet.work.operation import Operation, Said
from grainet.work.order_rules import LOCATE, MEASURED, PARALLEL, PROFILE_FIRST, THICK_FIRST, TRIAL
from grainet.work.sheet import Sheet
from grainet.work.workpiece import Workpiece

BLADE_MM = 3.0  # a router's straight cutter, or the saw's own kerf where none is told
TRIAL_MM = 0.1
PASS_MM = 6.0  # deep, of a router at once
SLOT_PASS_MM = 3.0  # of a narrow cutter


def slot_passes(width_mm: float, blade_mm: float) -> list[float]:
    """Where the middle of each pass lies off the slot's centre line, mm: ceil(width / blade) of them, evenly from -(w - k) / 2 to +(w - k) / 2."""
    count = max(1, math.ceil(width_mm / blade_mm - 1e-9)) if blade_mm > 0 else 1
    if count == 1:
        return [0.0]
    reach = (width_mm - blade_mm) / 2
    return [round(-reach + 2 * reach * k / (count - 1), 3) for k in range(count)]


def depth_passes(depth_mm: float, most_mm: float = SLOT_PASS_MM) -> int:
    """How many passes a slot's depth takes, each at most so deep."""
    return max(1, math.ceil(depth_mm / most_mm - 1e-9))


def ramp_mm(blade_radius_mm: float, depth_mm: float) -> float:
    """How far a round blade's slot runs out beyond its full depth: sqrt(2 R d - d^2)."""
    return math.sqrt(max(0.0, 2 * blade_radius_mm * depth_mm - depth_mm**2))


class Features:
    """Writes them down for one build."""

    def __init__(self, sheet: Sheet, g: Instrument, build: str, bench: Bench, joined: Sequence[Workpiece] = ()) -> None:
        self.sheet, self.g, self.build, self.bench, self.joined = sheet, g, build, bench, joined
        self.router = next((m.name.lower() for m in bench.machines if m.kind is MachineKind.ROUTER), "router")

    def _add(
        self, kind: Any, made: Made, name: str, text: str, minutes: float, *, routed: bool = True, cautions: tuple[Said, ...] = (),
        machine: str = "", **settings: Any,
    ) -> Operation:  # fmt: skip
        return self.sheet.add(
            kind, made.names, name, machine=(machine or self.router) if routed else "", machine_kind="router" if routed else "", minutes=minutes,
            settings={k: v for k, v in settings.items() if v is not None}, cautions=cautions, board=self.build, text=text,
        )  # fmt: skip

    # neck ---------------------------------------------------------------------------------------------------------
    def shaft(self, made: Made) -> None:
        """The rod's slot, measured and tried first."""
        rod = self.g.rod
        if rod.adjusts == "none":
            return
        told = self.bench.told
        guessed = any(self.g.is_guessed(f"rod.{name}") for name in ("width_mm", "depth_mm"))
        words = f"Measure the rod: it is {'only guessed' if guessed else 'told'} as {told(rod.width_mm)} wide, {told(rod.depth_mm)} deep"
        measured = self._add("measure", made, "the rod", words, 2.0, routed=False, what="rod", guessed=guessed or None)
        trial = self._add("trial", made, "slot", f"Trial slot in a scrap of the same wood: the rod goes in within {self.bench.told_gap(TRIAL_MM)}", 6.0, within_mm=TRIAL_MM, slot_mm=[rod.width_mm, rod.depth_mm])  # fmt: skip
        blade = min(BLADE_MM, rod.width_mm)
        deep = rod.depth_mm + rod.curve_mm
        slot = self._add(
            "slot", made, "rod", f"Slot for the rod: {told(rod.width_mm)} wide, {told(rod.depth_mm)} deep in {len(slot_passes(rod.width_mm, blade))} passes", 12.0,
            width_mm=rod.width_mm, depth_mm=rod.depth_mm, passes_mm=slot_passes(rod.width_mm, blade), passes=depth_passes(deep), blade_mm=blade, deepest_mm=round(deep, 2), adjusts=rod.adjusts,
        )  # fmt: skip
        self.sheet.tie(measured.id, slot.id, MEASURED)
        self.sheet.tie(trial.id, slot.id, TRIAL)

    def board(self, made: Made) -> None:
        """Fret slots while the board's sides are parallel, then its taper."""
        fretboard = self.g.fretboard
        slots = self._add("slot", made, "frets", f"Saw {self.g.frets} fret slots, {self.bench.told(fretboard.slot_mm)} deep, from the nut", 2.0 * self.g.frets, routed=False, depth_mm=fretboard.slot_mm, count=self.g.frets)  # fmt: skip
        taper = self._add(
            "taper", made, "", "Taper the fretboard to its width at the nut and at its end", 8.0, nut_mm=self.g.nut_mm
        )
        self.sheet.tie(slots.id, taper.id, PARALLEL)

    def neck(self, made: Made) -> None:
        """The neck with all that is glued on: tuner holes, taper, head and back."""
        drilled = self._add(
            "drill", made, "tuners", "Drill the tuner holes square through the head, backed by scrap", 8.0, routed=False
        )
        taper = self._add("taper", made, "", "Taper the neck's sides to the fretboard", 10.0, nut_mm=self.g.nut_mm)
        profile = self._add(
            "profile",
            made,
            "head",
            f"Head to its outline: {self.bench.told(self.g.head.length_mm)} long, {self.bench.told(self.g.head.width_mm)} wide",
            15.0,
        )
        self._add("profile", made, "back", f"Shape the neck's back: {self.bench.told(self.g.neck.depth_nut_mm)} at the nut, {self.bench.told(self.g.neck.depth_heel_mm)} at the heel", 60.0, routed=False)  # fmt: skip
        self.sheet.tie(drilled.id, profile.id, LOCATE)
        for slot in (
            o for o in self.sheet.operations.values() if o.kind == "slot" and o.board == self.build and o.id.endswith("rod")
        ):
            self.sheet.tie(slot.id, taper.id, PARALLEL)

    # body ---------------------------------------------------------------------------------------------------------
    def under_the_top(self, made: Made) -> list[str]:
        """Chambers that the top closes, routed before it goes on; the operations' ids."""
        if self.bench.cavities == "after":
            return []
        return [self._cavity(made, c).id for c in self.g.body.cavities if is_chamber(c, self.g)]

    def body(self, made: Made) -> None:
        """The body with its top: holes, cavities, pocket, its outline, then what is cut into its faces."""
        g = self.g
        holes = self._add("drill", made, "locating holes", "Drill the holes that hold the templates, in wood that is cut away later", 6.0, routed=False)  # fmt: skip
        for cavity in g.body.cavities:
            if not (is_chamber(cavity, g) and self.bench.cavities == "before"):
                self._cavity(made, cavity)
        if (pocket := pocket_of(g)) is not None:
            self._add(
                "cavity", made, "pocket", f"Rout the neck's pocket: {self.bench.told(pocket.width_mm, '.1f')} wide, {self.bench.told(pocket.depth_mouth_mm, '.1f')} deep at its mouth", 20.0,
                width_mm=round(pocket.width_mm, 2), depth_mm=round(pocket.depth_mouth_mm, 2), passes=_passes(pocket.depth_mouth_mm),
            )  # fmt: skip
        deep_mm = g.body.thickness_mm
        by = able(self.bench, Work.ROUT, (made.long_mm, made.wide_mm, deep_mm))
        routed = by.kind == "router"
        profile = self._add(
            "profile", made, "outline", "Rout the body to its outline along the template" + ("" if routed else ", from both faces"), 30.0 if routed else 45.0,
            passes=_passes(deep_mm), cautions=by.cautions if not routed else (), machine=by.machine if routed else self.router,
        )  # fmt: skip
        self.sheet.tie(holes.id, profile.id, LOCATE)
        for thick in (o for w in self._history(made) for o in self.sheet.of(w, "thickness")):
            self.sheet.tie(thick.id, profile.id, THICK_FIRST)
        for k, cut in enumerate(g.body.shaping):
            words = f"Cut the {cut.words} at the rim" + (f", {self.bench.told(cut.in_mm)} in from it" if cut.in_mm else "")
            bevel = self._add("bevel", made, f"{k + 1} {cut.kind}", words, 20.0, routed=False, deep_mm=cut.deep_mm, in_mm=cut.in_mm or None, behind=cut.back or None)  # fmt: skip
            self.sheet.tie(profile.id, bevel.id, PROFILE_FIRST)

    def _history(self, made: Made) -> list[str]:
        """A member's workpieces and all that they were joined from."""
        members = {one.id: one.members for one in self.joined}
        found = list(made.names)
        for name in found:
            found += members.get(name, ())
        return found

    def _cavity(self, made: Made, cavity: Cavity) -> Operation:
        litres = abs(area_mm2(cavity.polygon)) * cavity.depth_mm
        return self._add(
            "cavity", made, cavity.name, f"Rout the {cavity.name}, {self.bench.told(cavity.depth_mm)} deep in {_passes(cavity.depth_mm)} passes", 12.0,
            depth_mm=cavity.depth_mm, passes=_passes(cavity.depth_mm), takes_cm3=round(litres / 1000, 1),
        )  # fmt: skip


def _passes(depth_mm: float) -> int:
    return max(1, math.ceil(depth_mm / PASS_MM - 1e-9))
