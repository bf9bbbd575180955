"""Figures that a person asks for alone: one row a kind, with its inputs, and the closed form that answers it."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from inspect import Parameter, signature
from typing import Any

from grainet.design import formulas
from grainet.wood.density import density_kg_m3
from grainet.wood.moisture import equilibrium_pct
from grainet.wood.movement import face_change_mm, shrinkage_across_face, width_change_mm
from grainet.wood.tap import quality, stiffness_gpa
from grainet.wood.value import BadEntry

Answer = float | bool | list[Any] | dict[str, Any]


@dataclass(frozen=True)
class Kind:
    """One kind of figure: what it is, in what unit, and the function whose arguments are its inputs."""

    name: str
    unit: str
    what: str
    answer: Callable[..., Answer]

    @property
    def inputs(self) -> tuple[Parameter, ...]:
        """Its inputs by name; those with a default may be left out."""
        return tuple(signature(self.answer).parameters.values())


def _fret(scale_mm: float, fret: float) -> float:
    return formulas.fret_mm(scale_mm, fret)


def _frets(scale_mm: float, frets: int) -> list[Any]:
    return [formulas.fret_mm(scale_mm, n) for n in range(1, int(frets) + 1)]


def _fan(bass_mm: float, treble_mm: float, frets: int, perpendicular_fret: float = 0.0) -> list[Any]:
    return [list(row) for row in formulas.fret_table((bass_mm, treble_mm), int(frets), perpendicular_fret)]


def _board_edge(thickness_mm: float, radius_mm: float, width_mm: float) -> float:
    return formulas.board_edge_mm(thickness_mm, radius_mm, width_mm)


def _routes(length_mm: float, thickness_mm: float, angle_deg: float, stock_mm: float) -> dict[str, Any]:
    """What each head route takes: depth of stock, scarf face and run, the block of a stacked head."""
    solid = formulas.solid_head_mm(length_mm, thickness_mm, angle_deg)
    along = length_mm * math.cos(math.radians(angle_deg))
    return {
        "flat": {"depth_mm": thickness_mm, "length_mm": length_mm},
        "solid": {"depth_mm": solid, "length_mm": along},
        "stacked": {"depth_mm": stock_mm, "block_mm": max(0.0, solid - stock_mm), "length_mm": along},
        "scarf": {
            "depth_mm": stock_mm, "face_mm": formulas.scarf_face_mm(stock_mm, angle_deg), "run_mm": formulas.scarf_run_mm(stock_mm, angle_deg),
        },
    }  # fmt: skip


def _through(thickness_mm: float, run_mm: float, angle_deg: float, layer_mm: float = 0.0) -> dict[str, Any]:
    depth = formulas.through_depth_mm(thickness_mm, run_mm, angle_deg)
    return {"depth_mm": depth, **({"layers": formulas.layers_wanted(depth, layer_mm)} if layer_mm else {})}


def _stack(layers_mm: list[float], skims_mm: list[float], wanted_mm: float, within_mm: float = 0.0) -> dict[str, Any]:
    made = formulas.stack_of(tuple(layers_mm), tuple(skims_mm), wanted_mm, within_mm)
    return {"thickness_mm": made.thickness_mm, "short_mm": made.short_mm, "short_of_least_mm": made.short_of_least_mm}


def _movement(width_mm: float, from_pct: float, to_pct: float, shrinkage_pct: float) -> float:
    return width_change_mm(width_mm, from_pct, to_pct, shrinkage_pct)


def _movement_at(
    width_mm: float, tangential_pct: float, radial_pct: float, from_pct: float, to_pct: float, ring_angle_deg: float
) -> float:
    return face_change_mm(width_mm, tangential_pct, radial_pct, from_pct, to_pct, ring_angle_deg)


def _drift(kerf_mm: float, skims_mm: float, ring_angle_deg: float, ring_width_mm: float = 2.0) -> dict[str, Any]:
    lost = kerf_mm + skims_mm
    lean = math.radians(ring_angle_deg)
    drift = lost / math.tan(lean) if ring_angle_deg > 0 else math.inf
    return {"drift_mm": drift if math.isfinite(drift) else None, "q": lost * math.cos(lean) / ring_width_mm}


def _moisture_sample(wet_g: float, dry_g: float) -> float:
    if not 0 < dry_g <= wet_g:
        raise ValueError(f"{wet_g:g} wet and {dry_g:g} dry; the dry weight is at most the wet one and over 0")
    return 100 * (wet_g - dry_g) / dry_g


K = Kind
KINDS: dict[str, Kind] = {kind.name: kind for kind in (
    K("fret", "mm", "a fret's place from the nut", _fret), K("frets", "mm", "every fret's place from the nut", _frets),
    K("fan", "mm", "places along both outer strings of two scales, from the perpendicular fret, nut first", _fan),
    K("board_width", "mm", "the board across at a place", formulas.board_width_mm), K("board_edge", "mm", "the board's thickness at its edge", _board_edge),
    K("solid_head", "mm", "depth of stock for a pitched head", formulas.solid_head_mm), K("scarf_face", "mm", "length of a scarf's face", formulas.scarf_face_mm),
    K("scarf_run", "mm", "how far a scarf runs along the stock", formulas.scarf_run_mm), K("head_routes", "mm", "what each head route takes", _routes),
    K("through_depth", "mm", "depth of a through-neck, and its layers", _through), K("ear", "mm", "width of one ear", formulas.ear_mm),
    K("wood_under_rod", "mm", "wood left under a rod", formulas.wood_under_rod_mm), K("largest_scale", "mm", "largest scale of a clear length", formulas.largest_scale_mm),
    K("strips", "", "strips from a billet", formulas.strips_from), K("taper", "°", "half angle of an even taper", formulas.taper_half_angle_deg),
    K("wedge", "mm", "width of a taper at a place", formulas.wedge_mm), K("stack", "mm", "a stack of layers against what is wanted", _stack),
    K("pieces_along", "", "lengths that a board gives", formulas.pieces_along), K("pieces_across", "", "boards side by side for a width", formulas.pieces_across),
    K("template_offset", "mm", "how far a template stands off the line", formulas.template_offset_mm), K("pocket", "mm", "a pocket's width for a heel", formulas.pocket_mm),
    K("let_in", "mm", "how far a let-in part stands proud", formulas.proud_mm), K("wall", "mm", "the wall between two channels", formulas.wall_between_mm),
    K("strips_need", "mm", "the width that strips need", formulas.strips_need_mm),
    K("body_weight", "kg", "a body's weight", formulas.body_kg), K("movement", "mm", "change of a width between two moistures", _movement),
    K("movement_at_ring_angle", "mm", "the same across a face whose rings stand at an angle", _movement_at),
    K("shrinkage_across", "%", "shrinkage across a face", shrinkage_across_face), K("drift", "mm", "how far figure drifts over a resaw, and its quality", _drift),
    K("bow_after_shortening", "mm", "bow left in a shorter part", formulas.bow_after_shortening_mm), K("carve_left", "mm", "what a carve leaves of a top", formulas.carve_left_mm),
    K("tear_out", "", "whether the cutter lifts the fibre", formulas.tears), K("equilibrium_moisture", "%", "moisture that wood comes to in an air", equilibrium_pct),
    K("moisture_from_sample", "%", "moisture of a cut sample", _moisture_sample), K("density", "kg/m3", "density at a moisture", density_kg_m3),
    K("stiffness_from_tap", "GPa", "stiffness along the grain from a knock", stiffness_gpa), K("quality_of_tap", "", "how slowly a knock dies", quality),
)}  # fmt: skip


def answer(kind: str, inputs: Mapping[str, Any], kinds: Mapping[str, Kind] = KINDS) -> Answer:
    """A figure's value. Raises BadEntry for a kind that is none, an input that is missing, left over or out of reach."""
    known = kinds.get(kind)
    if known is None:
        raise BadEntry(f"“{kind}” is no kind of figure; needs one of {', '.join(kinds)}")
    names = {p.name for p in known.inputs}
    missing = [p.name for p in known.inputs if p.default is Parameter.empty and p.name not in inputs]
    left = [name for name in inputs if name not in names]
    if missing or left:
        found = ", ".join(missing) + " missing" if missing else f"“{left[0]}” is left over"
        raise BadEntry(f"{kind}: {found}; needs {', '.join(sorted(names))}")
    for name, value in inputs.items():
        if isinstance(value, bool) or not _numbers(value):
            raise BadEntry(f"{kind}: {name}: found {value!r}, needs a number")
    try:
        return known.answer(**inputs)
    except (ValueError, ZeroDivisionError, OverflowError) as fault:
        raise BadEntry(f"{kind}: {fault}") from None


def _numbers(value: Any) -> bool:
    if isinstance(value, list):
        return all(_numbers(v) for v in value)
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
