"""What must be clear before a tool touches the wood: metal, old finish, treatment."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.facts import Facts
from grainet.grade.rules.result import RuleResult, result
from grainet.kit.uses import UseRule
from grainet.wood.coating import consequences
from grainet.wood.look_skim import LOOKS_AT


def sweeps(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Faces of reclaimed wood that nobody has swept for metal."""
    for face in facts.piece.unswept_faces:
        yield result(
            rule, "metal", "Metal", "if", 0.5, wanted="a sweep", text=f"face {face} is swept for metal", source="reclaimed wood",
            remedy="detectors miss small and deep metal; look as well",
        )  # fmt: skip


def looks(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Faces that were skimmed to see the wood and not read since: what was marked before lay under a coat."""
    for one in facts.piece.skims:
        if not one.seen:
            yield result(
                rule, "look", "Skimmed face", "if", 0.5, wanted=LOOKS_AT, text=f"face {one.face} is read again after its skim", source=f"skimmed {one.on}",
                remedy=f"mark what it shows, then seen {one.face}",
            )  # fmt: skip


def coating(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Old finish and treatment: what bars the piece from use, and what must be tested or declared first."""
    coating, source = facts.piece.coating, "old finish and treatment"
    for one in consequences(coating, reclaimed=facts.piece.reclaimed):
        if one.closes == "use":
            text = (
                f"treated ({coating.treatment.replace('_', ' ')}): not for an instrument unless known safe"
                if coating.barred
                else "its old finish was tested and is not clean"
            )
            yield result(
                rule, "coating", "Coating", "wont", 0.0, wanted=one.cleared_by, text=text, source=source, remedy=one.cleared_by
            )
        elif one.closes == "machining":
            what = "is tested" if coating.finish else "is declared"
            text = f"its old finish ({coating.finish}) {what}" if coating.finish else f"its old finish {what}"
            yield result(
                rule, "coating", "Coating", "if", 0.5, wanted=one.cleared_by, text=text, source=source, remedy=one.cleared_by
            )
