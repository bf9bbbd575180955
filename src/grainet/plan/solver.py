"""How integer programmes are solved here: by one worker within deterministic seconds, so that the same question and seed get the same answer."""

from __future__ import annotations

from typing import Any


def solver_for(deterministic: float, seed: int = 0, wall_seconds: float | None = None) -> Any:
    """A solver that ends after so many deterministic seconds, or where it is capped after so many by the clock."""
    from ortools.sat.python import cp_model

    solver = cp_model.CpSolver()
    solver.parameters.max_deterministic_time = deterministic
    solver.parameters.random_seed = seed
    solver.parameters.num_workers = 1  # one worker is deterministic and, with full linearization, the quickest here
    solver.parameters.linearization_level = 2
    solver.parameters.cp_model_probing_level = 0  # probing and symmetry ate the budget and found nothing (DECISIONS.md)
    solver.parameters.symmetry_level = 0
    if wall_seconds is not None:
        solver.parameters.max_time_in_seconds = max(0.05, wall_seconds)
    return solver
