"""Shop profiles of forms up to 5 (four kerfs, some limits) in today's form (machines by name). Plain JSON on both sides: what a profile is
may change again, what it was does not."""

from __future__ import annotations

from typing import Any

Json = dict[str, Any]
# what each machine was known by before, where its name, kind and work are fixed: (id, name, kind, does)
_MACHINES = (
    ("mitre", "Mitre saw", "mitre saw", "crosscut"), ("table", "Table saw", "table saw", "rip"),
    ("resaw", "Band saw, wide blade", "band saw", "resaw"), ("curves", "Band saw, narrow blade", "band saw", "outline"),
    ("planer", "Planer", "planer", "face"), ("thicknesser", "Thicknesser", "thicknesser", "thickness"), ("router", "Router", "router", "rout"),
)  # fmt: skip
# (where a figure stood, machine, its field now, the name under which it was only guessed)
_FIGURES = (
    ("cuts.kerf_mm.crosscut", "mitre", "kerf_mm", "crosscut kerf"), ("cuts.kerf_mm.rip", "table", "kerf_mm", "rip kerf"),
    ("cuts.kerf_mm.resaw", "resaw", "kerf_mm", "resaw kerf"), ("cuts.kerf_mm.outline", "curves", "kerf_mm", "outline kerf"),
    ("cuts.machines.resaw_height_mm", "resaw", "highest_mm", "resaw height"), ("cuts.machines.planer_width_mm", "planer", "widest_mm", "planer width"),
    ("cuts.machines.thicknesser_width_mm", "thicknesser", "widest_mm", "thicknesser width"),
    ("cuts.machines.thicknesser_least_mm", "thicknesser", "thinnest_mm", "thicknesser, least"),
    ("cuts.machines.least_length_mm", "planer", "shortest_mm", "least length fed"), ("cuts.machines.least_length_mm", "thicknesser", "shortest_mm", ""),
    ("limits.thicknesser_most_mm", "thicknesser", "highest_mm", ""), ("limits.planer_bench_mm", "planer", "bench_mm", ""),
    ("limits.planer_deepest_mm", "planer", "deepest_mm", ""), ("limits.router_reach_mm", "router", "deepest_mm", ""),
    ("limits.saw_lean_deg", "curves", "lean_deg", ""), ("limits.saw_wobble_mm", "curves", "wander_mm", ""),
)  # fmt: skip
# what a profile that said nothing else had then: only what differed from it was kept
_CUTS_THEN: Json = {
    "kerf_mm": {"crosscut": 3.0, "rip": 3.0, "resaw": 1.2, "outline": 3.0}, "skim_mm": 0.6, "resaw_skim_mm": 0.4, "edge_mm": 1.0, "trim_mm": 4.0, "metal_clear_mm": 15.0,
    "growth_mm": 25.0, "machines": {"resaw_height_mm": 300.0, "planer_width_mm": 260.0, "thicknesser_width_mm": 330.0, "thicknesser_least_mm": 5.0, "least_length_mm": 300.0},
}  # fmt: skip
_GUESSED_THEN = ("rip kerf", "resaw kerf", "resaw height", "thicknesser width", "planer width")


def profile_of_form_6(old: Json) -> Json:
    """A profile as form 6 knows it; one that knows its machines already stays as it is."""
    if "machines" in old or not old.keys() & {"cuts", "limits", "guessed"}:
        return old
    old = {"cuts": _CUTS_THEN, "guessed": _GUESSED_THEN, **old}
    machines = {id_: {"id": id_, "name": name, "kind": kind, "does": [work]} for id_, name, kind, work in _MACHINES}
    guesses: dict[str, list[str]] = {}
    for path, machine, field, guess in _FIGURES:
        value: Any = old
        for step in path.split("."):
            value = value.get(step) if isinstance(value, dict) else None
        if value is not None:
            machines[machine][field] = value
            if guess and guess in old.get("guessed", ()):
                guesses.setdefault(machine, []).append(field)
    rows = [{**m, "guessed": guesses[id_]} if id_ in guesses else m for id_, m in machines.items()]
    kept = {k: v for k, v in old.items() if k not in ("cuts", "limits", "guessed")}
    losses = {k: v for k, v in old["cuts"].items() if k not in ("kerf_mm", "machines")}
    return {**kept, "machines": rows, "losses": losses, "rule_mm": (old.get("limits") or {}).get("rule_mm")}
