"""What is judged of the pieces: facts, rasters, verdicts, standings, each kept until what it rests on changes."""

from __future__ import annotations

import threading
from collections.abc import Callable
from datetime import date
from typing import TYPE_CHECKING

from grainet.grade.counted import as_counted
from grainet.grade.crew import WORTH, Crew
from grainet.grade.verdict import Verdict
from grainet.kept import Kept
from grainet.kit.shop_profile import ShopProfile
from grainet.session.kinds import DESIGNS
from grainet.session.profile import kit_of
from grainet.session.rack import Rack
from grainet.session.shop_air import ShopAir
from grainet.turns import in_turn

if TYPE_CHECKING:
    from grainet.design.part import Part
    from grainet.fit.field import Layers
    from grainet.grade.facts import Facts
    from grainet.grade.ranking import RankedPiece
    from grainet.grade.rules.result import RuleResult
    from grainet.grade.wanted import Wanted

JUDGED = (
    "machines",
    "losses",
    "rule_mm",
    "temperature_c",
    "humidity",
    "rules",
    "species",
    "settles",
    "figure_words",
    "year",
)  # what verdicts rest on
MOST_VERDICTS, MOST_FACTS, MOST_LAYERS = 60_000, 25_000, 24  # kept at once: rasters are large, a verdict is small


class Judgements:
    """The judgements of one shop; safe to ask from several threads."""

    def __init__(self, rack: Rack, air: ShopAir) -> None:
        self.rack, self.air = rack, air
        self._verdicts: Kept[tuple[str, str, str | None], tuple[object, Verdict]] = Kept(MOST_VERDICTS)
        self._wanted: Kept[tuple[str, str | None], tuple[object, Wanted]] = Kept(400)
        self._layers: Kept[str, tuple[object, Layers]] = Kept(MOST_LAYERS)
        self._facts: Kept[str, tuple[object, Facts]] = Kept(MOST_FACTS)
        self._standings: Kept[tuple[str, str, str | None], tuple[object, RankedPiece]] = Kept(MOST_VERDICTS)
        self._mark: tuple[ShopProfile, tuple[object, ...], object] | None = None
        self.crew = Crew()
        self._sorting = threading.Lock()  # the crew answers one question at a time
        self._turn = threading.RLock()  # one board at a time is judged: two at once would only slow each other, and the window

    @property
    def kit(self) -> ShopProfile:
        """The shop's profile."""
        return kit_of(self.rack.items)

    def close(self) -> None:
        """End the judging programs."""
        self.crew.close()

    def wanted(self, use: str, design_id: str | None = None) -> Wanted:
        """What a use asks for while a build is in hand: the build's own part, else the use by size; one and the same while both stay."""
        from grainet.grade.wanted import wanted_for

        rule, design = self.kit.use(use), next((d for d in self.rack.items.all(DESIGNS) if d.id == design_id), None)
        basis = (rule, design)  # the values themselves: an address may come to belong to another value
        kept = self._wanted.get((use, design_id))
        if kept is None or kept[0] != basis:
            kept = self._wanted.put((use, design_id), (basis, wanted_for(rule, design)))
        return kept[1]

    def verdict(self, piece_id: str, use: str, design_id: str | None = None) -> Verdict:
        """The verdict on a piece for a use, or for the part of that use of a build; anew only when what it rests on has changed."""
        from grainet.grade.judge import judge  # brings in SciPy and OpenCV: not at the start

        piece, kit, wanted = self.rack.piece(piece_id), self.kit, self.wanted(use, design_id)
        basis = (piece, wanted, self._judged_by)
        kept = self._verdicts.get((piece_id, use, design_id))
        if kept is None or kept[0] != basis:
            with self._turn:
                made = judge(
                    as_counted(piece), wanted.rule, kit, lambda: self.layers(piece_id), self.facts(piece_id), wanted.part
                )
            kept = self._verdicts.put((piece_id, use, design_id), (basis, made))
        return kept[1]

    def part_verdict(self, piece_id: str, part: Part) -> Verdict:
        """The verdict on a piece for one part, whatever build it is of; kept while piece, part and house rules stay."""
        from grainet.grade.judge import judge
        from grainet.grade.wanted import sized_as
        from grainet.kit.uses import rule_for_role

        piece, kit = self.rack.piece(piece_id), self.kit
        basis = (piece, part, self._judged_by)
        kept = self._verdicts.get((piece_id, "part", part.id))
        if kept is None or kept[0] != basis:
            with self._turn:
                rule = sized_as(rule_for_role(kit.every_use, part.role), part)
                made = judge(as_counted(piece), rule, kit, lambda: self.layers(piece_id), self.facts(piece_id), part)
            kept = self._verdicts.put((piece_id, "part", part.id), (basis, made))
        return kept[1]

    @property
    def _judged_by(self) -> object:
        """A mark that changes when what judging rests on in the kit changes: not with its colours, names or glues."""
        kit = self.kit
        if self._mark is None or self._mark[0] is not kit:
            told = tuple(getattr(kit, name) for name in JUDGED)
            same = self._mark is not None and self._mark[1] == told
            self._mark = (kit, told, self._mark[2] if same and self._mark else object())
        return self._mark[2]

    def known_verdict(self, piece_id: str, use: str, design_id: str | None = None) -> Verdict | None:
        """The verdict if it is worked out already and still true."""
        kept = self._verdicts.get((piece_id, use, design_id))
        basis = (self.rack.piece(piece_id), self.wanted(use, design_id), self._judged_by)
        return kept[1] if kept is not None and kept[0] == basis else None

    def standings(
        self, use: str, today: date, design_id: str | None = None, go_on: Callable[[int], bool] | None = None
    ) -> dict[str, RankedPiece]:  # fmt: skip
        """Where every piece of the rack stands for a use; a large rack is judged by the crew. ``go_on`` hears how many were judged,
        and ends it early by saying no."""
        from grainet.grade.judging import Asked
        from grainet.grade.ranking import standing_of
        from grainet.grade.ready import prepare

        wanted, pieces = self.wanted(use, design_id), self.rack.pieces()
        basis = {p.id: (p, wanted, self._judged_by, self.air.year, today) for p in pieces}
        kept = {p.id: self._standings.get((p.id, use, design_id)) for p in pieces}
        known = {name: k[1] for name, k in kept.items() if k is not None and k[0] == basis[name]}
        missing = [p for p in pieces if p.id not in known]
        if len(missing) >= WORTH:
            asked = Asked(self.kit, self.air.year, wanted, today)
            with self._sorting:
                found = self.crew.standings(missing, asked, None if go_on is None else lambda n: go_on(len(known) + n))
            for one in found:
                known[one.piece] = self._standings.put((one.piece, use, design_id), (basis[one.piece], one))[1]
        else:
            prepare(missing, self.kit)
        for piece in in_turn(p for p in missing if p.id not in known):
            if go_on is not None and not go_on(len(known)):
                break
            one = standing_of(self.facts(piece.id), wanted.rule, self.verdict(piece.id, use, design_id), today)
            known[piece.id] = self._standings.put((piece.id, use, design_id), (basis[piece.id], one))[1]
        return known

    def facts(self, piece_id: str) -> Facts:
        """What is known of a piece, kept while it, the kit and the air log stay as they are."""
        from grainet.grade.facts import Facts

        piece, kit, year = self.rack.piece(piece_id), self.kit, self.air.year
        basis = (piece, self._judged_by, year)
        kept = self._facts.get(piece_id)
        if kept is None or kept[0] != basis:
            kept = self._facts.put(piece_id, (basis, Facts(piece, kit, year)))
        return kept[1]

    def rule_lines(self, piece_id: str, use: str, design_id: str | None = None) -> list[RuleResult]:
        """Every rule of a use on a piece: what was found, what is wanted, and what would help."""
        from grainet.grade.rulebook import lines

        return lines(self.facts(piece_id), self.wanted(use, design_id).rule)

    def layers(self, piece_id: str) -> Layers | None:
        """The rasters of a measured piece, kept while it and the kit stay as they are."""
        from grainet.fit.board_geometry import BoardGeometry
        from grainet.fit.field import Layers
        from grainet.grade.judge import GRADE_STEP_MM

        piece, kit = self.rack.piece(piece_id), self.kit
        if not piece.outline or not piece.all_thicknesses_mm:
            return None
        basis = (piece, self._judged_by)
        kept = self._layers.get(piece_id)
        if kept is None or kept[0] != basis:
            kept = self._layers.put(piece_id, (basis, Layers(BoardGeometry(as_counted(piece), kit.cuts), GRADE_STEP_MM)))
        return kept[1]

    def rest_crew(self) -> None:
        """Let the judging programs go where they have nothing in hand: the planner needs the memory."""
        if self._sorting.acquire(blocking=False):
            try:
                self.crew.close()
            finally:
                self._sorting.release()
