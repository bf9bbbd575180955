"""Grades of a whole job for exchange: every piece for every use, asked with the job's own parts where a role matches."""

from __future__ import annotations

from grainet.design.part import Part
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.field import Layers
from grainet.grade.facts import Facts
from grainet.grade.judge import GRADE_STEP_MM, judge
from grainet.grade.rulebook import lines
from grainet.grade.rules.result import RuleResult
from grainet.grade.verdict import Grades, RuleSaid
from grainet.grade.wanted import part_of_use, sized_as
from grainet.job.job import Job
from grainet.kit.shop_profile import ShopProfile
from grainet.kit.uses import UseRule


def grade_job(job: Job) -> Grades:
    """Verdicts of all pieces for all uses under the job's kit and the shipped house rules."""
    kit = ShopProfile.of_cuts(job.kit)
    asked = [(_sized(rule, part), part) for rule in kit.every_use for part in [part_of_use(job.parts, rule.use)]]
    verdicts = []
    for piece in job.pieces:
        layers = Layers(BoardGeometry(piece, job.kit), GRADE_STEP_MM)
        facts = Facts(piece, kit)
        verdicts += [
            judge(piece, rule, kit, layers, facts, part).changed(rules=tuple(_said(line) for line in lines(facts, rule)))
            for rule, part in asked
        ]
    return Grades(verdicts=tuple(verdicts))


def _said(line: RuleResult) -> RuleSaid:
    reason = line.reason
    return RuleSaid(
        rule=line.rule, label=line.label, word=line.outcome, found=reason.found, wanted=reason.wanted, text=reason.text, source=reason.source,
        remedy=reason.remedy,
    )  # fmt: skip


def _sized(rule: UseRule, part: Part | None) -> UseRule:
    return rule if part is None else sized_as(rule, part).changed(source=f"part {part.id} of the job")
