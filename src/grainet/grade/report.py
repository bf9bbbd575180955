"""Grades of a whole job for exchange: every piece for every use, sizes taken from the job's own parts where a role matches."""

from __future__ import annotations

from grainet.build.shape import extents
from grainet.fit.field import Layers
from grainet.fit.sheet import Sheet
from grainet.grade.facts import Facts
from grainet.grade.judge import GRADE_STEP_MM, judge
from grainet.grade.rulebook import Line, lines
from grainet.grade.verdict import Grades, RuleSaid
from grainet.job.job import Job
from grainet.kit.shop_kit import ShopKit
from grainet.kit.uses import UseRule


def grade_job(job: Job) -> Grades:
    """Verdicts of all pieces for all uses under the job's kit and the shipped house rules."""
    kit = ShopKit(cuts=job.kit)
    rules = [_sized(rule, job) for rule in kit.every_use]
    verdicts = []
    for piece in job.pieces:
        layers = Layers(Sheet(piece, job.kit), GRADE_STEP_MM)
        facts = Facts(piece, kit)
        verdicts += [
            judge(piece, rule, kit, layers, facts).changed(rules=tuple(_said(line) for line in lines(facts, rule)))
            for rule in rules
        ]
    return Grades(verdicts=tuple(verdicts))


def _said(line: Line) -> RuleSaid:
    reason = line.reason
    return RuleSaid(
        rule=line.rule, label=line.label, word=line.word, found=reason.found, wanted=reason.wanted, text=reason.text, source=reason.source,
        remedy=reason.remedy,
    )  # fmt: skip


def _sized(rule: UseRule, job: Job) -> UseRule:
    part = next((p for p in job.parts if p.role == rule.use), None)
    if part is None:
        return rule
    x0, y0, x1, y1 = extents(part.ring)
    return rule.changed(
        length_mm=x1 - x0,
        width_mm=y1 - y0,
        thickness_mm=part.thickness_mm,
        leaves=part.leaves,
        source=f"part {part.id} of the job",
    )
