"""Places of a part on a piece, however it may be laid: flat or on edge, in so many leaves, or two copies together."""

from __future__ import annotations

from collections.abc import Sequence

from grainet.design.part import Part, ways_laid
from grainet.fit.exact import Misfit
from grainet.fit.field import Layers
from grainet.plan.candidates import Candidate, candidates_as_laid, miss_rank
from grainet.plan.pairs import pairs_for


def candidates_for(
    layers: Layers, part: Part, others: Sequence[Part] = (), most: int = 140, effort: int = 1, *, tilted: bool = True,
    wanted: int | None = None, quick: bool = False,
) -> tuple[list[Candidate], Misfit | None]:  # fmt: skip
    """Candidates of a part on a sheet, at most about ``most``, and the nearest miss where there are none; ``wanted``: how many footprints of
    it can be used at all; ``quick``: what the fields do not find is not looked for."""
    if part.in_pairs:
        return pairs_for(layers, part, others, most, effort)
    ways = ways_laid(part)
    each = most if len(ways) == 1 else max(12, most // len(ways))
    found: list[Candidate] = []
    misses: list[Misfit] = []
    for way in ways:
        some, trouble = candidates_as_laid(layers, way, others, each, effort, tilted=tilted, wanted=wanted, quick=quick)
        found += some
        misses += [] if trouble is None else [trouble]
    return found, None if found or quick else min(misses, key=miss_rank, default=None)
