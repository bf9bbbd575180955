"""Hand's rule over and over: some builds are taken up from a board or two and laid anew in another order, and what is worth no less stays.

It is what a patient person does with a rack that is too small for all that is wanted. Deterministic: so many turns, and a seed.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from grainet.fit.board_geometry import BoardGeometry
from grainet.job.job import Job
from grainet.plan.candidates import Candidate
from grainet.plan.greedy import KnownPlaces, Layer, Unit, worth_of

MOST_IDLE = 30
MOST_TAKEN_UP, MOST_TRIED = 5, 8  # builds taken up in a turn, and others that are tried in their place
WORTH_NOISE, ROOM_NOISE = 0.35, 0.4  # how far the orders stray from the most worth and the smallest board first
Keep = Callable[[list[Candidate]], None]


def laid_by_turns(
    job: Job, sheets: Mapping[str, BoardGeometry], most: Callable[[], float], turns: int, seed: int = 0, known: KnownPlaces | None = None,
    stop: Callable[[], bool] | None = None, keep: Keep | None = None, first: Callable[[dict[Unit, list[Candidate]]], None] | None = None,
) -> list[Candidate]:  # fmt: skip
    """Footprints worth at least what hand's rule lays; no further once they are worth ``most()``, which is asked once that is laid. ``keep`` hears of every arrangement that was
    no worse than the one before, ``first`` of what hand's rule lays at once, by unit."""
    layer = Layer(job, sheets, known)
    laid = layer.lay_all(stop or (lambda: False))
    if first is not None:
        first({unit: list(row) for unit, row in laid.items()})
    search = _Turns(job, layer, laid, np.random.default_rng(seed))
    enough, idle = most() - 1e-6, 0
    for _ in range(turns):
        if search.value >= enough or idle > search.patience or not search.missing() or (stop is not None and stop()):
            break
        before = search.value
        if search.turn() and keep is not None:
            keep(search.places())
        idle = 0 if search.value > before else idle + 1
    return search.places()


class _Turns:
    """Where the search stands: what is laid, by unit, and what it is worth."""

    def __init__(self, job: Job, layer: Layer, laid: dict[Unit, list[Candidate]], rng: np.random.Generator) -> None:
        self.job, self.layer, self.laid, self.rng = job, layer, laid, rng
        self.sizes = {piece: sheet.outline.area for piece, sheet in layer.bench.sheets.items()}
        self.worth = {b.id: b.most_worth for b in job.builds} if job.builds else {p.id: p.value for p in job.parts}
        self.value = worth_of(job, self.places())

    @property
    def patience(self) -> int:
        """So many turns that give no more are the end of it: few where there is little to exchange."""
        return min(MOST_IDLE, 4 + 2 * len(self.worth))

    def places(self) -> list[Candidate]:
        """All that is laid."""
        return [one for row in self.laid.values() for one in row]

    def missing(self) -> list[Unit]:
        """Builds that are not laid, and of each part the next set."""
        if self.job.builds:
            return [(b.id, 0) for b in self.job.builds if (b.id, 0) not in self.laid]
        found = []
        for part in self.job.parts:
            taken = {n for name, n in self.laid if name == part.id}
            count = len(taken)
            if part.quantity is None or count < part.quantity:
                free = (n for n in range(count + MOST_TRIED + 1) if n not in taken)
                more = MOST_TRIED if part.quantity is None else min(MOST_TRIED, part.quantity - count)
                found += [(part.id, n) for n, _ in zip(free, range(more))]
        return found

    def turn(self) -> bool:
        """Take some up and lay anew; whether that is worth no less and is another arrangement. Else all lies as before."""
        victims = self._victims()
        gone = {unit: self.laid.pop(unit) for unit in victims}
        for row in gone.values():
            self.layer.take_up(row)
        fresh = self._laid_anew(victims)
        self.laid.update(fresh)
        value = worth_of(self.job, self.places())
        if value >= self.value - 1e-9:
            self.value = max(self.value, value)
            return True
        for unit, row in fresh.items():
            self.layer.take_up(row)
            del self.laid[unit]
        for row in gone.values():
            self.layer.put_back(row)
        self.laid.update(gone)
        return False

    def _victims(self) -> list[Unit]:
        """Units that lie on one board or two, the thickest boards no likelier than others."""
        boards = sorted({one.piece for row in self.laid.values() for one in row})
        if not boards:
            return []
        chosen = set(self.rng.choice(boards, min(len(boards), int(self.rng.integers(1, 3))), replace=False).tolist())
        there = sorted(unit for unit, row in self.laid.items() if any(one.piece in chosen for one in row))
        count = min(len(there), int(self.rng.integers(1, MOST_TAKEN_UP + 1)))
        return [there[k] for k in sorted(self.rng.choice(len(there), count, replace=False).tolist())]

    def _laid_anew(self, victims: list[Unit]) -> dict[Unit, list[Candidate]]:
        """What was taken up and some of what is missing, in a new order on boards in a new order."""
        missing = self.missing()
        tried = {missing[k] for k in self.rng.permutation(len(missing))[:MOST_TRIED].tolist()} | set(victims)
        by_worth = {unit: self.worth[unit[0]] * (1 + WORTH_NOISE * self.rng.normal()) for unit in sorted(tried)}
        by_room = {piece: size * (1 + ROOM_NOISE * self.rng.normal()) for piece, size in self.sizes.items()}
        self.layer.order = sorted(by_room, key=lambda piece: (by_room[piece], piece))
        fresh: dict[Unit, list[Candidate]] = {}
        for unit in sorted(by_worth, key=lambda u: (-by_worth[u], u)):
            found = self.layer.lay(unit)
            if found is not None:
                fresh[unit] = found
        return fresh
